using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;

namespace Juniperfall.Server.Structures;

/// <summary>One made item of a structure: what it adds by itself and with everything below, for the whole lot.</summary>
/// <param name="Lot">How many of it are made in all.</param>
public sealed record LevelView(string Item, string Description, int Depth, string Lot, TotalsView Own, TotalsView All);

/// <summary>An operation in time; days of work from the start of everything.</summary>
public sealed record ScheduledView(string Item, int Depth, int Sequence, string Name, string WorkCentre, string Start, string End, bool IsCritical);

/// <param name="LongestBought">The bought item that takes longest to get, and its days; null where none says.</param>
public sealed record ScheduleView(string Days, IReadOnlyList<ScheduledView> Operations, string? LongestBought);

/// <summary>Something that is missing for building, and where it is mended.</summary>
/// <param name="Severity">“error” stands against generating; “warning” does not.</param>
/// <param name="MendedIn">“model”, “item”, “workCentre” or “site”.</param>
public sealed record BuildableView(string Severity, string Sentence, string MendedIn, string Code, string RowId, string AssemblyId, string RowName)
{
    public static List<BuildableView> Of(BoundModel model, Func<string, string> nameOf, IEnumerable<BuildableFinding> findings) => [.. findings.Select(f => new BuildableView(
        f.Severity == Core.Structures.Severity.Error ? "error" : "warning", f.Message, f.MendedIn switch { Core.Structures.MendedIn.Item => "item", Core.Structures.MendedIn.WorkCentre => "workCentre", Core.Structures.MendedIn.Site => "site", _ => "model" },
        f.Code, f.RowId, model.Index.AssemblyOfRow.GetValueOrDefault(f.RowId)?.Id ?? "", model.Index.Rows.ContainsKey(f.RowId) ? nameOf(f.RowId) : ""))];
}

/// <summary>What is used of an item in the whole order, over all levels.</summary>
/// <param name="ToOrder">Gross, rounded up to the item's order multiple.</param>
public sealed record ConsumptionView(string Item, string Description, string Net, string Gross, string ToOrder);

/// <summary>What a quantity of a structure costs, weighs and takes.</summary>
/// <param name="Consumption">What is used of each item that is not made here; null in what was generated before that was told.</param>
/// <param name="Order">The whole lot.</param>
/// <param name="Piece">One of it.</param>
/// <param name="Price">The list price and what is paid; null for a model without prices.</param>
public sealed record CostsView(string Quantity, TotalsView Order, TotalsView Piece, IReadOnlyList<LevelView> Levels, ScheduleView Schedule, IReadOnlyList<BuildableView> Findings, IReadOnlyList<ConsumptionView>? Consumption = null, PriceView? Price = null)
{
    public static CostsView Of(BoundModel model, Func<string, string> nameOf, Structure structure, Effectivity at, Exact quantity)
    {
        var order = new RollUp(model.Facts).Ordered(structure, quantity);
        var schedule = LeadTime.Of(structure, model.Facts, quantity);
        return new(quantity.ToString(), TotalsView.Of(order.All), TotalsView.Of(order.EachOf(order.All)),
            [.. order.Levels().Select(l => new LevelView(l.Structure.Item, l.Structure.Description.In(), l.Depth, l.Quantity.ToDisplay(4), TotalsView.Of(l.Own), TotalsView.Of(l.All)))],
            new(schedule.Days.ToDisplay(2), [.. schedule.Operations.Select(o => new ScheduledView(o.Item, o.Depth, o.Operation.Sequence, o.Operation.Label.Or(o.Operation.Name),
                    model.Facts.WorkCentres.GetValueOrDefault(o.Operation.WorkCentre)?.Label.Or(o.Operation.WorkCentre) ?? o.Operation.WorkCentre, o.Start.ToDisplay(4), o.End.ToDisplay(4), o.IsCritical))],
                schedule.LongestBought is { } longest ? $"{longest.Item}, {longest.Days.ToDisplay(1)} days" : null),
            BuildableView.Of(model, nameOf, BuildableCheck.Of(model, structure, at)),
            [.. order.Consumption(model.Facts).Select(c => new ConsumptionView(c.Item, c.Description.In(), Wording.WithUnit(c.Net.ToDisplay(4), c.Unit), Wording.WithUnit(c.Gross.ToDisplay(4), c.Unit), Wording.WithUnit(c.ToOrder.ToDisplay(4), c.Unit)))]);
    }
}
