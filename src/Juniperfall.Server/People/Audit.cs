using Juniperfall.Server.Answers;
using Juniperfall.Storage;

namespace Juniperfall.Server.People;

/// <summary>An event of the audit, as an administrator reads it.</summary>
public sealed record AuditView(long Id, DateTime At, AuditKind Kind, string Person, string Subject, string Detail, string Address);

/// <summary>The audit: who did what to accounts and releases, from where.</summary>
public static class Audit
{
    private const int MostListed = 200;

    public static void MapAudit(this IEndpointRouteBuilder api) =>
        api.MapGet("/audit", Read).Needs(Right.Administer).WithName("audit")
            .WithSummary("Security events and releases, the latest first").Produces<List<AuditView>>();

    private static async Task<IResult> Read(long? before, string? name, AuditStore audit, CancellationToken cancel) =>
        TypedResults.Ok((await audit.Before(before ?? long.MaxValue, (name ?? "").Trim(), MostListed, cancel))
            .Select(e => new AuditView(e.Id, e.At, e.Event.Kind, e.Event.Person, e.Event.Subject, e.Event.Detail, e.Event.Address)).ToList());

    /// <summary>Where the request came from.</summary>
    public static string AddressOf(this HttpContext context) => context.Connection.RemoteIpAddress?.ToString() ?? "";

    public static AuditEvent Happened(this HttpContext context, AuditKind kind, string person, string subject, string detail) =>
        new(kind, person, subject, detail, context.AddressOf());

    /// <summary>What whoever is signed in did.</summary>
    public static AuditEvent Happened(this HttpContext context, AuditKind kind, string subject, string detail = "") =>
        context.Happened(kind, context.User.Identity?.Name ?? "", subject, detail);
}
