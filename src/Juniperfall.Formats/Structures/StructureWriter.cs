using System.Collections.Immutable;
using System.Text.Json;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;

namespace Juniperfall.Formats.Structures;

/// <summary>Writes structures as files: everything that is shown, printed or handed over of a structure is made from its file.</summary>
/// <param name="model">The model that the structure was built from.</param>
/// <param name="words">The model's.</param>
/// <param name="explainer">Null: without explanations.</param>
public sealed class StructureWriter(BoundModel model, ModelWording words, StructureExplainer? explainer = null)
{
    private static readonly JsonSerializerOptions Indented = new(DocumentJson.Options) { WriteIndented = true };

    /// <summary>A decimal text; what does not end is rounded at twelve decimals.</summary>
    public static string Text(Exact number) => number.ToString() is var text && text.Contains('/', StringComparison.Ordinal) ? number.ToDisplay(12) : text;

    public static string Json(StructureFile file) => JsonSerializer.Serialize(file, Indented) + "\n";

    /// <summary>The made items of a structure, each with its level, counted from 1.</summary>
    public static IEnumerable<(MadeItem Made, int Level)> Made(MadeItem structure, int level = 1)
    {
        yield return (structure, level);
        foreach (var line in structure.Lines)
            if (line.Structure is { } below)
                foreach (var inner in Made(below, level + 1))
                    yield return inner;
    }

    /// <param name="at">The site and day that it is for.</param>
    /// <param name="quantity">How many are ordered, above zero.</param>
    /// <param name="picks">What was picked.</param>
    /// <param name="answers">All answers.</param>
    public StructureFile Of(Structure structure, Effectivity at, Exact quantity, IEnumerable<Pick> picks, IEnumerable<GivenAnswer> answers)
    {
        var text = new PickText(model);
        var order = new RollUp(model.Facts).Ordered(structure, quantity);
        var schedule = LeadTime.Of(structure, model.Facts, quantity);
        return new()
        {
            Product = model.Document.Code,
            Label = model.Document.Label,
            Site = at.Site,
            SiteLabel = at.Site is { } site ? model.Facts.Sites.GetValueOrDefault(site)?.Label ?? LocalText.Empty : LocalText.Empty,
            Date = at.Date,
            Quantity = Text(quantity),
            Picks = [.. picks.Where(p => text.At(p.Path) is not null).Select(p => new GivenPick(text.NameOf(p.Path), text.Write(text.At(p.Path)!, p.Value)))],
            Answers = [.. answers.Select(a => new AnswerFile(a.Section, a.Name, a.Label, a.Value, JsonNamingPolicy.CamelCase.ConvertName(a.State.ToString())))],
            Structure = Of(order, structure.Item),
            Order = CostFile.Of(order.All),
            Piece = CostFile.Of(order.EachOf(order.All)),
            Consumption = [.. order.Consumption(model.Facts).Select(c => Of(c, schedule))],
            Load = [.. order.Load(model.Facts).Select(l => new LoadFile(l.WorkCentre, WorkCentre(l.WorkCentre),
                model.Facts.WorkCentres.GetValueOrDefault(l.WorkCentre)?.Site ?? "", l.Operations, Text(l.Setup / 60), Text(l.Run / 60), Text(l.Days)))],
            LeadTimeDays = Text(schedule.Days),
            Schedule = [.. schedule.Operations.Select(o => new ScheduledFile(o.Item, o.Depth, o.Operation.Sequence, LabelOf(o.Operation),
                WorkCentre(o.Operation.WorkCentre), Text(o.Start), Text(o.End), o.IsCritical))],
            LongestBought = schedule.LongestBought is { } longest ? new(longest.Item, Text(longest.Days)) : null,
            Findings = [.. BuildableCheck.Of(model, structure, at).Select(Finding)],
        };
    }

    /// <summary>An ordered structure by itself.</summary>
    public MadeItem Of(OrderedStructure made) => Of(made, made.Structure.Item);

    private ConsumptionFile Of(Consumption used, Schedule schedule)
    {
        var needed = schedule.Needs.FirstOrDefault(n => n.Item == used.Item && n.Unit == used.Unit)?.At ?? Exact.Zero;
        Exact? takes = Exact.TryParse(model.Facts.Items.GetValueOrDefault(used.Item)?.LeadTimeDays, out var days) ? days : null;
        return new(used.Item, used.Description, used.Unit, Text(used.Net), Text(used.Gross), Text(used.ToOrder))
        {
            LeadTimeDays = takes is { } wait ? Text(wait) : "",
            NeededOnDay = Text(needed),
            OrderByDay = takes is { } before ? Text(needed - before) : "",
        };
    }

    private FindingFile Finding(BuildableFinding found) => new(found.Severity == Severity.Error ? "error" : "warning", found.Message)
    {
        MendedIn = JsonNamingPolicy.CamelCase.ConvertName(found.MendedIn.ToString()),
        Code = found.Code,
        Row = found.RowId,
    };

    private static LocalText LabelOf(RoutingOperation operation) => operation.Label.Or("").Length > 0 ? operation.Label : LocalText.English(operation.Name);

    private LocalText WorkCentre(string code) => model.Facts.WorkCentres.GetValueOrDefault(code)?.Label is { } label
        && label.Or("").Length > 0 ? label : LocalText.English(code);

    private MadeItem Of(OrderedStructure made, string id) => new()
    {
        Id = id,
        Item = made.Structure.Item,
        Description = made.Structure.Description,
        Site = made.Structure.Site,
        Quantity = Text(made.Quantity),
        Lots = made.Lots,
        Order = CostFile.Of(made.All),
        Piece = CostFile.Of(made.EachOf(made.All)),
        Own = CostFile.Of(made.Own),
        Lines = [.. made.Lines.Select(l => Of(l, made.EachOf(l.Totals)))],
        Operations = [.. made.Operations.Select(o => Of(o, made.EachOf(o.Totals)))],
    };

    /// <summary>The place that a made item fills, as people write it, with its first instance where there can be several.</summary>
    private string PlaceOf(BomLine line) =>
        words.Places[line.Prefix].DisplayPath(model.Index, line.RowId) + (line.Instances is [var first, ..] ? $"[{first}]" : "");

    private LineFile Of(OrderedLine ordered, Totals each)
    {
        var line = ordered.Line;
        var row = model.Index.Rows[line.RowId];
        return new()
        {
            Position = line.Position,
            Item = line.Item,
            Description = line.Description,
            Unit = line.Unit,
            Net = Text(line.Net),
            Gross = Text(line.Gross),
            OrderNet = Text(ordered.Net),
            OrderGross = Text(ordered.Gross),
            PerOrder = line.PerOrder,
            Scrap = (row as PartLine)?.Scrap ?? "",
            Step = (row as PartLine)?.Step ?? "",
            Issue = line.Issue == IssueMethod.Hand ? "hand" : "backflush",
            Store = line.Store,
            Operation = line.Operation,
            Figures = [.. line.Figures.Select(f => new FigureFile(f.Name, f.Text, f.Unit))],
            Substitutes = line.Substitutes,
            From = line.From,
            To = line.To,
            Instances = line.Instances,
            Condition = line.Reason.Condition,
            Cost = Text(each.Cost),
            Weight = Text(each.Weight),
            OrderCost = Text(ordered.Totals.Cost),
            OrderWeight = Text(ordered.Totals.Weight),
            Explanation = explainer?.Of(row, line.Prefix, line.Reason.Because, "quantity"),
            Structure = ordered.Below is { } below ? Of(below, $"{line.Item}/{PlaceOf(line)}") : null,
        };
    }

    private OperationFile Of(OrderedOperation ordered, Totals each)
    {
        var operation = ordered.Operation;
        return new()
        {
            Sequence = operation.Sequence,
            Name = operation.Name,
            Label = operation.Label,
            WorkCentre = operation.WorkCentre,
            WorkCentreLabel = WorkCentre(operation.WorkCentre),
            Setup = Text(operation.Setup / 60),
            Run = Text(operation.Run / 60),
            Batch = operation.Batch is { } batch ? Text(batch) : null,
            Pieces = Text(operation.Pieces),
            Queue = Text(operation.Queue / 60),
            OrderSetup = Text(ordered.Setup / 60),
            OrderRun = Text(ordered.Run / 60),
            Cost = Text(each.Cost),
            OrderCost = Text(ordered.Totals.Cost),
            Crew = operation.Crew > 0 ? operation.Crew : model.Facts.WorkCentres.GetValueOrDefault(operation.WorkCentre)?.Crew ?? 1,
            Parallel = operation.Parallel,
            Instructions = operation.Instructions,
            Condition = operation.Reason.Condition,
            Explanation = explainer?.Of(model.Index.Rows[operation.RowId], operation.Prefix, operation.Reason.Because, "run"),
        };
    }
}
