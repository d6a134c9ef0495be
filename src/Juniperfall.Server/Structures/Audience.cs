using System.Security.Claims;
using Juniperfall.Core.Models.Library;
using Juniperfall.Formats.Structures;
using Juniperfall.Server.People;
using Juniperfall.Storage;

namespace Juniperfall.Server.Structures;

/// <summary>Whom prices and costs are written for.</summary>
/// <param name="Customers">Whose discount is taken; null for list price.</param>
/// <param name="SeesCosts">Whether whoever asks may see costs and margins.</param>
internal sealed record Audience(CustomerClassFact? Customers, bool SeesCosts)
{
    /// <summary>Why the class that was asked for has no prices; list prices stand in for them.</summary>
    public string? Fault { get; init; }

    /// <summary>Of a request. A class that is gone by now is told; it stands in the way of nothing else.</summary>
    /// <param name="customerClass">The code of a class; null for list price.</param>
    public static async Task<Audience> Of(ClaimsPrincipal user, string? customerClass, LibraryStore library, CancellationToken cancel)
    {
        var (customers, unknown) = await Structures.Customers.Find(customerClass, library, cancel);
        return Of(user, customers) with { Fault = unknown is null ? null : Structures.Customers.Unknown(customerClass!) };
    }

    public static Audience Of(ClaimsPrincipal user, CustomerClassFact? customers = null) => new(customers, user.Has(Right.SeeCosts));

    /// <summary>A structure as it may be shown or handed out to it.</summary>
    public StructureFile Shown(StructureFile file) => SeesCosts ? file : file.WithoutCosts();

    /// <summary>The same of one made item.</summary>
    public MadeItem Shown(MadeItem made) => SeesCosts ? made : made.WithoutCosts();
}
