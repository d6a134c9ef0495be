using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats.Structures;

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
    public static List<BuildableView> Of(BoundModel model, Func<string, string> nameOf, IEnumerable<BuildableFinding> findings) =>
        [.. findings.Select(f => new BuildableView(
        f.Severity == Core.Structures.Severity.Error
            ? "error" : "warning", f.Message,
            f.MendedIn switch { Core.Structures.MendedIn.Item => "item", Core.Structures.MendedIn.WorkCentre => "workCentre", Core.Structures.MendedIn.Site =>
            "site", _ => "model" },
        f.Code, f.RowId, model.Index.AssemblyOfRow.GetValueOrDefault(f.RowId)?.Id ?? "", model.Index.Rows.ContainsKey(f.RowId) ? nameOf(f.RowId) : ""))];
}

/// <summary>What is used of an item in the whole order, over all levels.</summary>
/// <param name="ToOrder">Gross, rounded up to the item's order multiple.</param>
/// <param name="LeadTimeDays">Empty where nobody says how long it takes to get.</param>
/// <param name="NeededOnDay">In working days from the start of everything; empty in what was generated before that was told.</param>
/// <param name="OrderByDay">The same, before the start where negative; empty where nobody says how long it takes to get.</param>
public sealed record ConsumptionView(string Item, string Description, string Net, string Gross, string ToOrder, string LeadTimeDays, string NeededOnDay,
    string OrderByDay);

/// <summary>What a work centre has to do for the whole order.</summary>
/// <param name="Setup">In minutes.</param>
/// <param name="Run">In minutes.</param>
/// <param name="Days">How many of its working days that fills.</param>
public sealed record WorkCentreLoadView(string WorkCentre, string Label, string Site, int Operations, string Setup, string Run, string Days);

/// <summary>What a quantity of a structure costs, weighs and takes.</summary>
/// <param name="Consumption">What is used of each item that is not made here; null in what was generated before that was told.</param>
/// <param name="Order">The whole lot.</param>
/// <param name="Piece">One of it.</param>
/// <param name="Price">The list price and what is paid; null for a model without prices.</param>
public sealed record CostsView(string Quantity, TotalsView Order, TotalsView Piece, IReadOnlyList<LevelView> Levels, ScheduleView Schedule,
    IReadOnlyList<BuildableView> Findings, IReadOnlyList<ConsumptionView>? Consumption = null, PriceView? Price = null)
{
    /// <summary>What is left of the price of one piece; null where there is no price, and for who may not see it.</summary>
    public MarginView? Margin { get; init; }

    /// <summary>What each work centre has to do; empty in what was generated before that was told.</summary>
    public IReadOnlyList<WorkCentreLoadView> Load { get; init; } = [];

    /// <param name="least">What the product is to bring at the least, in percent of the price.</param>
    /// <param name="nameOf">What a row is called, and the id of its assembly; empty where it is gone.</param>
    internal static CostsView Of(StructureFile file, Audience audience, Exact? least, Func<string, (string Name, string AssemblyId)> nameOf) =>
        Of(audience.Shown(file), nameOf) with
        {
            Margin = file.Price is { } price && Exact.TryParse(price.Each, out var paid) && Exact.TryParse(file.Piece.Cost, out var cost)
                ? MarginView.Of(audience, paid, cost, least) : null,
        };

    private static CostsView Of(StructureFile file, Func<string, (string Name, string AssemblyId)> nameOf) => new(
        file.Quantity, TotalsView.Of(file.Order), TotalsView.Of(file.Piece),
        [.. StructureWriter.Made(file.Structure, 0)
            .Select(m => new LevelView(m.Made.Item, m.Made.Description.In(), m.Level, FileNumber.Show(m.Made.Quantity, 4), TotalsView.Of(m.Made.Own),
            TotalsView.Of(m.Made.Order)))],
        new(FileNumber.Show(file.LeadTimeDays, 2),
            [.. file.Schedule.Select(o =>
                new ScheduledView(o.Item, o.Level, o.Sequence, o.Label.In(), o.WorkCentre.In(), FileNumber.Show(o.Start, 4), FileNumber.Show(o.End, 4),
                o.IsCritical))],
            file.LongestBought is { } longest ? $"{longest.Item}, {FileNumber.Show(longest.Days, 1)} days" : null),
        [.. file.Findings.Select(f => nameOf(f.Row) is var row
            ? new BuildableView(f.Severity, f.Message, f.MendedIn, f.Code, f.Row, row.AssemblyId, row.Name) : null!)],
        [.. file.Consumption.Select(c => new ConsumptionView(c.Item, c.Description.In(), Used(c.Net, c.Unit), Used(c.Gross, c.Unit), Used(c.ToOrder, c.Unit),
            FileNumber.Show(c.LeadTimeDays, 1), FileNumber.Show(c.NeededOnDay, 2), FileNumber.Show(c.OrderByDay, 2)))],
        file.Price is { } price ? PriceView.Of(price) : null)
    {
        Load = [.. file.Load.Select(l => new WorkCentreLoadView(l.WorkCentre, l.Label.In(), l.Site, l.Operations, FileNumber.Show(l.Setup, 1), FileNumber.Show(l.Run, 1),
            FileNumber.Show(l.Days, 2)))],
    };

    private static string Used(string number, string unit) => ModelWording.WithUnit(FileNumber.Show(number, 4), unit);
}
