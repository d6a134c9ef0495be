using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures.Formulas;

/// <summary>What a second of work at a work centre comes to. One that the library does not know costs nothing and works eight hours a day.</summary>
/// <param name="Labour">In EUR, of the whole crew.</param>
/// <param name="Machine">In EUR.</param>
/// <param name="Overhead">In EUR.</param>
/// <param name="Days">In its working days.</param>
internal readonly record struct WorkRates(Exact Labour, Exact Machine, Exact Overhead, Exact Days)
{
    private static readonly Exact SecondsPerHour = 3600;
    private static readonly Exact HoursPerDay = 8;

    public Exact Cost => Labour + Machine + Overhead;

    /// <param name="crew">How many work at it; zero for as many as the work centre has.</param>
    public static WorkRates Of(WorkCentreFact? centre, int crew)
    {
        if (centre is null)
            return new(Exact.Zero, Exact.Zero, Exact.Zero, 1 / (SecondsPerHour * HoursPerDay));
        var (labour, machine) = (Exact.Parse(centre.LabourRate) * (crew > 0 ? crew : centre.Crew) / SecondsPerHour,
            Exact.Parse(centre.MachineRate) / SecondsPerHour);
        var hours = Exact.TryParse(centre.HoursPerDay, out var perDay) && perDay.Sign > 0 ? perDay : HoursPerDay;
        return new(labour, machine, (labour + machine) * Exact.Parse(centre.Overhead) / 100, 1 / (SecondsPerHour * hours));
    }
}

/// <summary>What one of an item, in its own unit, comes to at a site.</summary>
/// <param name="Cost">In EUR.</param>
/// <param name="Overhead">In EUR: the site's share on material.</param>
/// <param name="Weight">In kg.</param>
internal readonly record struct MaterialRates(Exact Cost, Exact Overhead, Exact Weight)
{
    /// <param name="site">Where the parent is made, whose costs and overhead hold; null: standard cost, no overhead.</param>
    public static MaterialRates Of(ItemFact item, string? site, LibraryFacts facts)
    {
        var cost = item.CostAt(site);
        return new(cost, facts.SiteAt(site) is { } at ? cost * Exact.Parse(at.MaterialOverhead) / 100 : Exact.Zero, Exact.Parse(item.Weight));
    }
}

/// <summary>Where things are made.</summary>
internal static class SiteOfPlace
{
    /// <summary>Where a place is made: at the site that it names, otherwise where its parent is.</summary>
    public static string? Of(Subassembly place, string? parentSite) =>
        place.MadeAt.Length == 0 || place.Make == SubassemblyKind.Phantom ? parentSite : place.MadeAt;
}
