using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Impacts;

namespace Juniperfall.Server.Exchanges;

/// <param name="With">The number of the item that takes its place.</param>
/// <param name="From">The first day on which that is used; null for always.</param>
public sealed record ExchangeRequest(string With, DateOnly? From = null);

/// <param name="Head">The edit that was looked at; where there are later ones, it is left.</param>
public sealed record ExchangedRevision(long RevisionId, long Head);

/// <param name="Id">Given by the page, so that a request sent twice exchanges once.</param>
/// <param name="Revisions">The revisions to exchange it in, as they were looked at; of a released one the next draft is opened.</param>
public sealed record ExchangeIn(string Id, string With, IReadOnlyList<ExchangedRevision> Revisions, DateOnly? From = null);

/// <summary>A place where an item is exchanged.</summary>
/// <param name="AssemblyId">Of the row; empty for a value of a list.</param>
/// <param name="From">The first day of the new row beside it; null where the place itself is changed.</param>
public sealed record ExchangedPlaceView(string RowId, string AssemblyId, string Name, string Field, string Before, string After, DateOnly? From);

/// <summary>A place that names the item and is left as it is.</summary>
/// <param name="Why">In a sentence.</param>
public sealed record LeftPlaceView(string RowId, string AssemblyId, string Name, string Why);

/// <summary>What would be missing at a site, and is not now.</summary>
/// <param name="Missing">How much stands against building there then.</param>
/// <param name="More">What of it does not now, in sentences.</param>
public sealed record BuildableAtView(string Site, string Label, int Missing, IReadOnlyList<string> More);

/// <summary>What an exchange does to one product.</summary>
/// <param name="Head">The edit that its revision stands at.</param>
/// <param name="Touched">Its faults, test cases and saved configurations, as they would be.</param>
public sealed record ExchangeProductView(long Head, IReadOnlyList<ExchangedPlaceView> Places, IReadOnlyList<LeftPlaceView> Left, TouchedProductView Touched,
    IReadOnlyList<BuildableAtView> Sites);

/// <param name="Finished">False where time ran out before every product was asked.</param>
public sealed record ExchangeView(IReadOnlyList<ExchangeProductView> Products, bool Finished);

/// <summary>What became of an exchange in one product.</summary>
/// <param name="RevisionId">The draft that it was made in; of what was left, the revision that was asked for.</param>
/// <param name="Places">In how many places.</param>
/// <param name="Why">Why it was left; empty where it was made.</param>
public sealed record ExchangeMade(long RevisionId, string ProductCode, int Places, string Why);

internal static class ExchangeWords
{
    public static string Why(LeftBecause because, string from, string to) => because switch
    {
        LeftBecause.NoConversion => $"{to} is kept in another unit than {from}, and neither has a conversion that leads there. Give one of them one.",
        LeftBecause.HasNoDays => "Only lines have days: this would be exchanged for always. Exchange it without a day, or by hand.",
        LeftBecause.IsMadeHere => $"{from} is made here, with a structure of its own below it. Change what the place makes by hand.",
        _ => $"The line belongs to the structure of {to}, which would contain itself.",
    };
}
