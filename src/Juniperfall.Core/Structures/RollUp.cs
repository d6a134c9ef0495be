using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures;

/// <summary>What a lot comes to, all levels below included. Costs in EUR, weight in kg, work in seconds. Exact.</summary>
/// <param name="Material">Net quantities × standard cost of the items that are not made here.</param>
/// <param name="Scrap">What gross quantities cost beyond the net ones.</param>
/// <param name="Labour">Set-up and run times × labour rate × crew.</param>
/// <param name="Machine">Set-up and run times × machine rate.</param>
/// <param name="Overhead">The sites' shares on material and the work centres' on labour and machine cost.</param>
/// <param name="Weight">Net quantities × weight.</param>
/// <param name="Work">Set-up and run times.</param>
public sealed record Totals(Exact Material, Exact Scrap, Exact Labour, Exact Machine, Exact Overhead, Exact Weight, Exact Work)
{
    public static readonly Totals Zero = new(Exact.Zero, Exact.Zero, Exact.Zero, Exact.Zero, Exact.Zero, Exact.Zero, Exact.Zero);

    public Exact Cost => Material + Scrap + Labour + Machine + Overhead;

    public static Totals operator +(Totals a, Totals b) =>
        new(a.Material + b.Material, a.Scrap + b.Scrap, a.Labour + b.Labour, a.Machine + b.Machine, a.Overhead + b.Overhead, a.Weight + b.Weight, a.Work + b.Work);

    public static Totals operator /(Totals a, Exact by) =>
        new(a.Material / by, a.Scrap / by, a.Labour / by, a.Machine / by, a.Overhead / by, a.Weight / by, a.Work / by);
}

/// <summary>
/// Adds structures up for a lot. Set-up counts once for the lot of each made item (each instance of a subassembly is a lot of
/// its own), and so does what is issued per order. Items and work centres that the library does not know count as nothing.
/// </summary>
public sealed class RollUp(LibraryFacts facts)
{
    private static readonly Exact SecondsPerHour = Exact.Parse("3600");

    /// <summary>One level of a structure: what it adds by itself, and with everything below.</summary>
    /// <param name="Lot">How many of it are made in all.</param>
    public sealed record Level(Structure Structure, int Depth, Exact Lot, Totals Own, Totals All);

    /// <summary>A structure at a lot of one.</summary>
    public static Totals Of(Structure structure, LibraryFacts facts) => new RollUp(facts).Of(structure, Exact.One);

    /// <param name="lot">How many are made, above zero.</param>
    /// <param name="lots">In how many lots they are made.</param>
    public Totals Of(Structure structure, Exact lot, int lots = 1)
    {
        var totals = Totals.Zero;
        foreach (var line in structure.Bom)
            totals += Of(line, structure.Site, lot, lots);
        foreach (var operation in structure.Routing)
            totals += Of(operation, lot, lots);
        return totals;
    }

    /// <summary>The levels from the top down, each made item on its own line.</summary>
    public IReadOnlyList<Level> Levels(Structure structure, Exact lot)
    {
        var levels = new List<Level>();
        Add(structure, 0, lot, 1);
        return levels;

        Totals Add(Structure at, int depth, Exact size, int lots)
        {
            var place = levels.Count;
            levels.Add(null!);
            var own = Totals.Zero;
            foreach (var line in at.Bom.Where(l => l.Below is null))
                own += Of(line, at.Site, size, lots);
            foreach (var operation in at.Routing)
                own += Of(operation, size, lots);
            var all = own;
            foreach (var line in at.Bom)
                if (line.Below is { } below)
                    all += Add(below, depth + 1, size * line.Gross, lots * line.Lots);
            levels[place] = new(at, depth, size, own, all);
            return all;
        }
    }

    /// <summary>One line: its item's cost and weight, or what the structure below comes to.</summary>
    /// <param name="site">Where the parent is made, whose costs and overhead hold; null: standard cost, no overhead on material.</param>
    public Totals Of(BomLine line, string? site, Exact lot, int lots = 1)
    {
        var times = line.PerOrder ? lots : lot;
        if (line.Below is { } below)
            return Of(below, times * line.Gross, lots * line.Lots);
        if (!facts.Items.TryGetValue(line.Item, out var item))
            return Totals.Zero;
        var cost = item.CostAt(site);
        var overhead = facts.SiteAt(site) is { } at ? Exact.Parse(at.MaterialOverhead) / 100 : Exact.Zero;
        return Totals.Zero with
        {
            Material = times * line.Net * cost,
            Scrap = times * (line.Gross - line.Net) * cost,
            Overhead = times * line.Gross * cost * overhead,
            Weight = times * line.Net * Exact.Parse(item.Weight),
        };
    }

    /// <param name="lots">In how many lots the pieces are made: each is set up for.</param>
    public Totals Of(RoutingOperation operation, Exact lot, int lots = 1)
    {
        var work = operation.Setup * lots + operation.RunOf(lot / lots) * lots;
        if (!facts.WorkCentres.TryGetValue(operation.WorkCentre, out var centre))
            return Totals.Zero with { Work = work };
        var hours = work / SecondsPerHour;
        var (labour, machine) = (hours * Exact.Parse(centre.LabourRate) * (operation.Crew > 0 ? operation.Crew : centre.Crew), hours * Exact.Parse(centre.MachineRate));
        return Totals.Zero with { Work = work, Labour = labour, Machine = machine, Overhead = (labour + machine) * Exact.Parse(centre.Overhead) / 100 };
    }
}
