using System.Security.Claims;
using Microsoft.AspNetCore.Authorization;

namespace Juniperfall.Server.People;

/// <summary>What an endpoint asks of whoever calls it.</summary>
public enum Right
{
    /// <summary>See models, configurations, structures and the library, and try things out.</summary>
    Read,
    /// <summary>Change models.</summary>
    Edit,
    /// <summary>Change items, work centres, sites and standard operations.</summary>
    EditLibrary,
    /// <summary>Release revisions.</summary>
    Release,
    /// <summary>Write remarks on revisions, answer and close them.</summary>
    Remark,
    /// <summary>Save configurations.</summary>
    Configure,
    /// <summary>Generate structures.</summary>
    Generate,
    /// <summary>See what things cost, and what is left of a price.</summary>
    SeeCosts,
    /// <summary>Manage people, and read the audit.</summary>
    Administer,
}

/// <summary>The roles and what each may do. The only place where they are named together.</summary>
public static class Rights
{
    public const string Engineer = "engineer", Approver = "approver", OrderDesk = "order desk", Planner = "planner", Administrator = "administrator";

    public static readonly IReadOnlyDictionary<string, Right[]> OfRole = new Dictionary<string, Right[]>
    {
        [Engineer] = [Right.Read, Right.Edit, Right.Remark, Right.EditLibrary, Right.Configure, Right.Generate, Right.SeeCosts],
        [Approver] = [Right.Read, Right.Release, Right.Remark, Right.SeeCosts],
        [OrderDesk] = [Right.Read, Right.Configure, Right.Generate],
        [Planner] = [Right.Read, Right.Remark, Right.Generate, Right.SeeCosts],
        [Administrator] = [Right.Read, Right.EditLibrary, Right.Administer, Right.SeeCosts],
    };

    public static void AddPolicies(AuthorizationOptions options)
    {
        foreach (var right in Enum.GetValues<Right>())
            options.AddPolicy(right.ToString(), p => p.RequireRole(OfRole.Where(r => r.Value.Contains(right)).Select(r => r.Key)));
        // An endpoint that names no right is nobody's.
        options.FallbackPolicy = new AuthorizationPolicyBuilder().RequireAssertion(_ => false).Build();
    }

    public static bool Has(this ClaimsPrincipal user, Right right) => OfRole.Any(r => r.Value.Contains(right) && user.IsInRole(r.Key));

    public static TBuilder Needs<TBuilder>(this TBuilder endpoint, Right right) where TBuilder : IEndpointConventionBuilder =>
        endpoint.RequireAuthorization(right.ToString());
}
