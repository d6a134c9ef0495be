using System.Collections.Immutable;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;

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
        new(a.Material + b.Material, a.Scrap + b.Scrap, a.Labour + b.Labour, a.Machine + b.Machine, a.Overhead + b.Overhead, a.Weight + b.Weight,
            a.Work + b.Work);

    public static Totals operator /(Totals a, Exact by) =>
        new(a.Material / by, a.Scrap / by, a.Labour / by, a.Machine / by, a.Overhead / by, a.Weight / by, a.Work / by);
}

/// <summary>
/// Adds structures up for a lot. Set-up counts once for the lot of each made item (each instance of a subassembly is a lot of
/// its own), and so does what is issued per order. Items and work centres that the library does not know count as nothing.
/// </summary>
public sealed class RollUp(LibraryFacts facts)
{
    /// <summary>A structure at a lot of one.</summary>
    public static Totals Of(Structure structure, LibraryFacts facts) => new RollUp(facts).Of(structure, Exact.One);

    /// <param name="lot">How many are made, above zero.</param>
    public Totals Of(Structure structure, Exact lot) => Ordered(structure, lot).All;

    /// <summary>Every line and operation of a structure for so many of it.</summary>
    /// <param name="quantity">How many are ordered, above zero; they are one lot.</param>
    public OrderedStructure Ordered(Structure structure, Exact quantity) => Ordered(structure, 0, quantity, 1);

    private OrderedStructure Ordered(Structure structure, int depth, Exact size, int lots)
    {
        var lines = ImmutableArray.CreateBuilder<OrderedLine>(structure.Bom.Length);
        foreach (var line in structure.Bom)
        {
            var times = line.PerOrder ? lots : size;
            var below = line.Below is null ? null : Ordered(line.Below, depth + 1, times * line.Gross, lots * line.Lots);
            lines.Add(new(line, times * line.Net, times * line.Gross, below?.All ?? OfItem(line, structure.Site, times), below));
        }
        var operations = structure.Routing.Select(o => new OrderedOperation(o, o.Setup * lots, o.RunOf(size / lots) * lots, Of(o, size, lots)))
            .ToImmutableArray();
        var own = lines.Where(l => l.Below is null).Select(l => l.Totals).Concat(operations.Select(o => o.Totals)).Aggregate(Totals.Zero, (sum, t) => sum + t);
        var all = lines.Where(l => l.Below is not null).Aggregate(own, (sum, l) => sum + l.Totals);
        return new(structure, depth, size, lots, lines.MoveToImmutable(), operations, own, all);
    }

    /// <summary>What so many of a line's item cost and weigh.</summary>
    /// <param name="site">Where the parent is made, whose costs and overhead hold; null: standard cost, no overhead on material.</param>
    private Totals OfItem(BomLine line, string? site, Exact times)
    {
        if (!facts.Items.TryGetValue(line.Item, out var item))
            return Totals.Zero;
        var rates = MaterialRates.Of(item, site, facts);
        return Totals.Zero with
        {
            Material = times * line.Net * rates.Cost,
            Scrap = times * (line.Gross - line.Net) * rates.Cost,
            Overhead = times * line.Gross * rates.Overhead,
            Weight = times * line.Net * rates.Weight,
        };
    }

    /// <param name="lots">In how many lots the pieces are made: each is set up for.</param>
    private Totals Of(RoutingOperation operation, Exact lot, int lots)
    {
        var work = operation.Setup * lots + operation.RunOf(lot / lots) * lots;
        var rates = WorkRates.Of(facts.WorkCentres.GetValueOrDefault(operation.WorkCentre), operation.Crew);
        return Totals.Zero with { Work = work, Labour = work * rates.Labour, Machine = work * rates.Machine, Overhead = work * rates.Overhead };
    }
}
