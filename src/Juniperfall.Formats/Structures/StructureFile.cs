using System.Collections.Immutable;
using System.Text.Json;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;

namespace Juniperfall.Formats.Structures;

/// <summary>
/// The open file format of a generated structure. Numbers are decimal texts (of thirds and the like twelve decimals), times are
/// minutes, costs EUR, weights kg.
/// </summary>
public sealed record StructureFile
{
    public const string CurrentFormat = "juniperfall-structure/1";

    public string Format { get; init; } = CurrentFormat;

    /// <summary>The code of the product.</summary>
    public required string Product { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;

    /// <summary>The name of the configuration; empty where it has none.</summary>
    public string Configuration { get; init; } = "";

    /// <summary>The revision of its model; null where that is a file.</summary>
    public int? Revision { get; init; }
    public string? Site { get; init; }
    public DateOnly? Date { get; init; }

    /// <summary>How many are ordered.</summary>
    public required string Quantity { get; init; }
    public ImmutableArray<GivenPick> Picks { get; init; } = [];

    /// <summary>All answers, those that follow or are suggested included, as people read them.</summary>
    public ImmutableArray<AnswerFile> Answers { get; init; } = [];
    public required MadeItem Structure { get; init; }

    /// <summary>What the whole order comes to.</summary>
    public required CostFile Order { get; init; }

    /// <summary>What one piece of it comes to at this quantity.</summary>
    public required CostFile Piece { get; init; }

    /// <summary>What is used of each item that is not made here, in the whole order over all levels.</summary>
    public ImmutableArray<ConsumptionFile> Consumption { get; init; } = [];

    /// <summary>The price of it; null where the model has no prices.</summary>
    public PriceFile? Price { get; init; }

    /// <summary>The lead time of the order by critical path, in working days.</summary>
    public required string LeadTimeDays { get; init; }

    /// <summary>What is missing for building it, or worth a look.</summary>
    public ImmutableArray<FindingFile> Findings { get; init; } = [];
}

/// <param name="Name">The path as it is written in picks; of several choices each value has one.</param>
/// <param name="Value">As it is written in picks.</param>
public sealed record GivenPick(string Name, string Value);

/// <param name="State">“picked”, “follows” or “suggested”.</param>
public sealed record AnswerFile(string Section, string Name, string Label, string Value, string State);

/// <param name="Unit">UCUM code; empty for pieces.</param>
/// <param name="ToOrder">Gross, rounded up to the item's order multiple.</param>
public sealed record ConsumptionFile(string Item, LocalText Description, string Unit, string Net, string Gross, string ToOrder);

public sealed record CostFile(string Material, string Scrap, string Labour, string Machine, string Overhead, string Cost, string Weight, string Work)
{
    public static CostFile Of(Totals totals) => new(StructureFiles.Text(totals.Material), StructureFiles.Text(totals.Scrap), StructureFiles.Text(totals.Labour), StructureFiles.Text(totals.Machine),
        StructureFiles.Text(totals.Overhead), StructureFiles.Text(totals.Cost), StructureFiles.Text(totals.Weight), StructureFiles.Text(totals.Work / 60));
}

/// <param name="List">The list price of one piece, in EUR.</param>
/// <param name="CustomerClass">The code of the class whose discount holds; null for list price.</param>
/// <param name="Discount">In percent.</param>
/// <param name="Each">What is paid for one piece, in whole cents.</param>
/// <param name="Order">What is paid for the whole quantity.</param>
/// <param name="Steps">How the list price came about.</param>
public sealed record PriceFile(string List, string? CustomerClass, string Discount, string Each, string Order, ImmutableArray<PriceStepFile> Steps)
{
    public static PriceFile? Of(BoundModel model, PriceResult price, CustomerClassFact? customers, Exact quantity) => price.Sheet is not { } sheet ? null
        : Pricing.OfferFor(sheet.Price, customers, model.Document.Code, quantity) is var offer
        ? new(StructureFiles.Text(offer.List), customers?.Code, StructureFiles.Text(offer.Discount), StructureFiles.Text(offer.Each), StructureFiles.Text(offer.Order), StepsOf(sheet, new(model))) : null;

    private static ImmutableArray<PriceStepFile> StepsOf(PriceSheet sheet, Wording words) => [.. sheet.Steps.Select(s => new PriceStepFile(s.Effect,
        s.Row is null ? "whole cents" : s.Below is { } at ? words.PlaceOf(sheet.At, (Subassembly)s.Row, at.At) : words.NameOf(s.Row), StructureFiles.Text(s.Number), StructureFiles.Text(s.After), StructureFiles.Text(s.Count),
        s.Below is { } below ? StepsOf(below, words) : []))];
}

/// <param name="Number">EUR; of a factor the factor.</param>
/// <param name="After">The price after the step, in EUR.</param>
/// <param name="Count">How many pieces of a subassembly were added.</param>
/// <param name="Steps">How the price of one piece of the subassembly came about.</param>
public sealed record PriceStepFile(PriceEffect Effect, string Name, string Number, string After, string Count, ImmutableArray<PriceStepFile> Steps);

/// <param name="Severity">“error” or “warning”.</param>
public sealed record FindingFile(string Severity, string Message);

/// <summary>An item that is made, with its bill and its routing.</summary>
public sealed record MadeItem
{
    /// <summary>Which one it is in this structure, the same whatever else changes: the item, and below the product the place that it fills, such as DOOR/doors[1].</summary>
    public string Id { get; init; } = "";
    public required string Item { get; init; }
    public LocalText Description { get; init; } = LocalText.Empty;

    /// <summary>The code of the site where it is made; null for none in particular.</summary>
    public string? Site { get; init; }

    /// <summary>How many of it are made in the whole order.</summary>
    public string Quantity { get; init; } = "";

    /// <summary>In how many lots they are made; each is set up for.</summary>
    public int Lots { get; init; } = 1;
    public ImmutableArray<LineFile> Lines { get; init; } = [];
    public ImmutableArray<OperationFile> Operations { get; init; } = [];
}

public sealed record LineFile
{
    public required int Position { get; init; }
    public required string Item { get; init; }
    public LocalText Description { get; init; } = LocalText.Empty;

    /// <summary>UCUM code; empty for pieces.</summary>
    public string Unit { get; init; } = "";

    /// <summary>Per piece of the made item, or per order.</summary>
    public required string Net { get; init; }
    public required string Gross { get; init; }

    /// <summary>For the whole order, all levels above included.</summary>
    public string OrderNet { get; init; } = "";
    public string OrderGross { get; init; } = "";
    public bool PerOrder { get; init; }
    public string Issue { get; init; } = "hand";
    public string Store { get; init; } = "";

    /// <summary>The sequence of the operation that consumes it; null for the first one.</summary>
    public int? Operation { get; init; }
    public ImmutableArray<FigureFile> Figures { get; init; } = [];
    public ImmutableArray<string> Substitutes { get; init; } = [];
    public DateOnly? From { get; init; }
    public DateOnly? To { get; init; }

    /// <summary>Which instances of a subassembly it stands for, from 1; empty where there is only one.</summary>
    public ImmutableArray<int> Instances { get; init; } = [];

    /// <summary>The condition under which it is there; empty for a standard part.</summary>
    public string Condition { get; init; } = "";

    /// <summary>Its share in one piece of the made item at the quantity ordered, everything below included: lines and operations add up to the piece.</summary>
    public required string Cost { get; init; }
    public required string Weight { get; init; }

    /// <summary>In the whole order.</summary>
    public string OrderCost { get; init; } = "";
    public string OrderWeight { get; init; } = "";
    public MadeItem? Structure { get; init; }
}

public sealed record FigureFile(string Name, string Number, string Unit);

public sealed record OperationFile
{
    public required int Sequence { get; init; }
    public required string Name { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public required string WorkCentre { get; init; }
    public required string Setup { get; init; }
    public required string Run { get; init; }

    /// <summary>How many pieces one run takes; null where each takes its own.</summary>
    public string? Batch { get; init; }

    /// <summary>How many pieces are worked on for one of the made item, where runs go by batches.</summary>
    public string Pieces { get; init; } = "1";
    public required string Queue { get; init; }

    /// <summary>Set-up and run times of all lots of the whole order.</summary>
    public string OrderSetup { get; init; } = "";
    public string OrderRun { get; init; } = "";

    /// <summary>Its share in one piece of the made item at the quantity ordered, and in the whole order.</summary>
    public string Cost { get; init; } = "";
    public string OrderCost { get; init; } = "";
    public int Crew { get; init; }
    public string Parallel { get; init; } = "";
    public LocalText Instructions { get; init; } = LocalText.Empty;
    public string Condition { get; init; } = "";
}

/// <summary>Structures as files.</summary>
public static class StructureFiles
{
    private static readonly JsonSerializerOptions Options = new(DocumentJson.Options) { WriteIndented = true };

    /// <summary>A decimal text; what does not end is rounded at twelve decimals.</summary>
    public static string Text(Exact number) => number.ToString() is var text && text.Contains('/', StringComparison.Ordinal) ? number.ToDisplay(12) : text;

    /// <param name="model">The model that the structure was built from.</param>
    /// <param name="at">The site and day that it is for.</param>
    /// <param name="quantity">How many are ordered, above zero.</param>
    /// <param name="picks">What was picked.</param>
    /// <param name="answers">All answers.</param>
    public static StructureFile Of(BoundModel model, Structure structure, Effectivity at, Exact quantity, IEnumerable<Pick> picks, IEnumerable<GivenAnswer> answers)
    {
        var text = new PickText(model);
        var order = new RollUp(model.Facts).Ordered(structure, quantity);
        return new()
        {
            Product = model.Document.Code,
            Label = model.Document.Label,
            Site = at.Site,
            Date = at.Date,
            Quantity = Text(quantity),
            Picks = [.. picks.Where(p => text.At(p.Path) is not null).Select(p => new GivenPick(text.NameOf(p.Path), text.Write(text.At(p.Path)!, p.Value)))],
            Answers = [.. answers.Select(a => new AnswerFile(a.Section, a.Name, a.Label, a.Value, JsonNamingPolicy.CamelCase.ConvertName(a.State.ToString())))],
            Structure = Of(order, model, structure.Item),
            Order = CostFile.Of(order.All),
            Piece = CostFile.Of(order.EachOf(order.All)),
            Consumption = [.. order.Consumption(model.Facts).Select(c => new ConsumptionFile(c.Item, c.Description, c.Unit, Text(c.Net), Text(c.Gross), Text(c.ToOrder)))],
            LeadTimeDays = Text(LeadTime.Of(structure, model.Facts, quantity).Days),
            Findings = [.. BuildableCheck.Of(model, structure, at).Select(f => new FindingFile(f.Severity == Severity.Error ? "error" : "warning", f.Message))],
        };
    }

    private static MadeItem Of(OrderedStructure made, BoundModel model, string id) => new()
    {
        Id = id,
        Item = made.Structure.Item,
        Description = made.Structure.Description,
        Site = made.Structure.Site,
        Quantity = Text(made.Quantity),
        Lots = made.Lots,
        Lines = [.. made.Lines.Select(l => Of(l, made.EachOf(l.Totals), model))],
        Operations = [.. made.Operations.Select(o => Of(o, made.EachOf(o.Totals), model.Facts))],
    };

    /// <summary>The place that a made item fills, as people write it, with its first instance where there can be several.</summary>
    private static string PlaceOf(BomLine line, BoundModel model) =>
        (Occurrence.All(model).First(o => o.Prefix == line.Prefix).DisplayPath(model.Index, line.RowId)) + (line.Instances is [var first, ..] ? $"[{first}]" : "");

    private static LineFile Of(OrderedLine ordered, Totals each, BoundModel model) => ordered.Line is var line ? new()
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
        Structure = ordered.Below is { } below ? Of(below, model, $"{line.Item}/{PlaceOf(line, model)}") : null,
    } : null!;

    private static OperationFile Of(OrderedOperation ordered, Totals each, LibraryFacts facts) => ordered.Operation is var o ? new()
    {
        Sequence = o.Sequence,
        Name = o.Name,
        Label = o.Label,
        WorkCentre = o.WorkCentre,
        Setup = Text(o.Setup / 60),
        Run = Text(o.Run / 60),
        Batch = o.Batch is { } batch ? Text(batch) : null,
        Pieces = Text(o.Pieces),
        Queue = Text(o.Queue / 60),
        OrderSetup = Text(ordered.Setup / 60),
        OrderRun = Text(ordered.Run / 60),
        Cost = Text(each.Cost),
        OrderCost = Text(ordered.Totals.Cost),
        Crew = o.Crew > 0 ? o.Crew : facts.WorkCentres.GetValueOrDefault(o.WorkCentre)?.Crew ?? 1,
        Parallel = o.Parallel,
        Instructions = o.Instructions,
        Condition = o.Reason.Condition,
    } : null!;

    public static string Json(StructureFile file) => JsonSerializer.Serialize(file, Options) + "\n";

    /// <summary>The made items of a structure, each with its level, counted from 1.</summary>
    public static IEnumerable<(MadeItem Made, int Level)> Made(MadeItem structure, int level = 1)
    {
        yield return (structure, level);
        foreach (var line in structure.Lines)
            if (line.Structure is { } below)
                foreach (var inner in Made(below, level + 1))
                    yield return inner;
    }
}
