using System.Collections.Immutable;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Structures;

/// <summary>A line of a structure for all that is ordered. Quantities are in the line's unit, exact.</summary>
/// <param name="Net">For the whole order.</param>
/// <param name="Gross">For the whole order.</param>
/// <param name="Totals">What it comes to in the whole order, with everything below.</param>
/// <param name="Below">What is made below it.</param>
public sealed record OrderedLine(BomLine Line, Exact Net, Exact Gross, Totals Totals, OrderedStructure? Below);

/// <summary>An operation for all that is ordered. Times are in seconds, exact.</summary>
/// <param name="Setup">For all lots.</param>
/// <param name="Run">For all lots.</param>
public sealed record OrderedOperation(RoutingOperation Operation, Exact Setup, Exact Run, Totals Totals);

/// <summary>What is used of an item in the whole order, over all levels.</summary>
/// <param name="Unit">UCUM code; empty for pieces.</param>
/// <param name="ToOrder">The gross quantity rounded up to the item's order multiple.</param>
public sealed record Consumption(string Item, LocalText Description, string Unit, Exact Net, Exact Gross, Exact ToOrder);

/// <summary>What a work centre has to do for the whole order, over all levels. Times are in seconds, exact.</summary>
/// <param name="Operations">How many operations of the routings are done there.</param>
/// <param name="Setup">For all lots.</param>
/// <param name="Run">For all lots.</param>
/// <param name="Days">How many of its working days that fills.</param>
public sealed record WorkCentreLoad(string WorkCentre, int Operations, Exact Setup, Exact Run, Exact Days);

/// <summary>A made item for all that is ordered: each of its lines and operations adds up to <see cref="All"/>.</summary>
/// <param name="Depth">The level; 0 for the product.</param>
/// <param name="Quantity">How many of it are made in all.</param>
/// <param name="Lots">In how many lots they are made; each is set up for.</param>
/// <param name="Own">What it adds by itself in the whole order.</param>
/// <param name="All">The same with everything below.</param>
public sealed record OrderedStructure(Structure Structure, int Depth, Exact Quantity, int Lots, ImmutableArray<OrderedLine> Lines,
    ImmutableArray<OrderedOperation> Operations, Totals Own, Totals All)
{
    /// <summary>An amount of the whole order for one piece of this item.</summary>
    public Exact EachOf(Exact inAll) => Quantity.IsZero ? Exact.Zero : inAll / Quantity;

    /// <summary>Totals of the whole order for one piece of this item.</summary>
    public Totals EachOf(Totals inAll) => Quantity.IsZero ? Totals.Zero : inAll / Quantity;

    /// <summary>This made item and all below, from the top down.</summary>
    public IEnumerable<OrderedStructure> Levels() => Lines.Where(l => l.Below is not null).SelectMany(l => l.Below!.Levels()).Prepend(this);

    /// <summary>What each work centre has to do, the one that is filled longest first.</summary>
    public ImmutableArray<WorkCentreLoad> Load(LibraryFacts facts) =>
        [.. Levels().SelectMany(m => m.Operations).GroupBy(o => o.Operation.WorkCentre).Select(g =>
        {
            var (setup, run) = (g.Aggregate(Exact.Zero, (sum, o) => sum + o.Setup), g.Aggregate(Exact.Zero, (sum, o) => sum + o.Run));
            return new WorkCentreLoad(g.Key, g.Count(), setup, run, (setup + run) * WorkRates.Of(facts.WorkCentres.GetValueOrDefault(g.Key), 0).Days);
        }).OrderByDescending(l => l.Days).ThenBy(l => l.WorkCentre, StringComparer.Ordinal)];

    /// <summary>What is used of each item that is not made here, by item number.</summary>
    public ImmutableArray<Consumption> Consumption(LibraryFacts facts) =>
        [.. Levels().SelectMany(m => m.Lines).Where(l => l.Below is null).GroupBy(l => (l.Line.Item, l.Line.Unit))
            .OrderBy(g => g.Key.Item, StringComparer.Ordinal).Select(g =>
        {
            var gross = g.Aggregate(Exact.Zero, (sum, l) => sum + l.Gross);
            var multiple = Exact.TryParse(facts.Items.GetValueOrDefault(g.Key.Item)?.OrderMultiple, out var each) && each.Sign > 0 ? each : (Exact?)null;
            return new Consumption(g.Key.Item, g.First().Line.Description, g.Key.Unit, g.Aggregate(Exact.Zero, (sum, l) => sum + l.Net), gross,
                multiple is { } m ? (gross / m).Ceiling() * m : gross);
        })];
}
