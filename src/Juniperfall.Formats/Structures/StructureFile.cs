using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
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
    /// <summary>The code of the site that it is made for, and what that is called; null for none in particular.</summary>
    public string? Site { get; init; }
    public LocalText SiteLabel { get; init; } = LocalText.Empty;
    public DateOnly? Date { get; init; }

    /// <summary>How many are ordered.</summary>
    public required string Quantity { get; init; }
    public ImmutableArray<GivenPick> Picks { get; init; } = [];

    /// <summary>All answers, those that follow or are suggested included, as people read them.</summary>
    public ImmutableArray<AnswerFile> Answers { get; init; } = [];

    /// <summary>The computed values, as people read them.</summary>
    public ImmutableArray<GivenFigure> Figures { get; init; } = [];

    /// <summary>The rules for advice that are not kept.</summary>
    public ImmutableArray<AdviceFile> Advice { get; init; } = [];

    /// <summary>The concession that it is made under; null where every rule is kept.</summary>
    public ConcessionFile? Concession { get; init; }
    public required MadeItem Structure { get; init; }

    /// <summary>What the whole order comes to.</summary>
    public required CostFile Order { get; init; }

    /// <summary>What one piece of it comes to at this quantity.</summary>
    public required CostFile Piece { get; init; }

    /// <summary>What is used of each item that is not made here, in the whole order over all levels.</summary>
    public ImmutableArray<ConsumptionFile> Consumption { get; init; } = [];

    /// <summary>What each work centre has to do.</summary>
    public ImmutableArray<LoadFile> Load { get; init; } = [];

    /// <summary>The price of it; null where the model has no prices.</summary>
    public PriceFile? Price { get; init; }

    /// <summary>The lead time of the order by critical path, in working days.</summary>
    public required string LeadTimeDays { get; init; }

    /// <summary>All operations in time.</summary>
    public ImmutableArray<ScheduledFile> Schedule { get; init; } = [];

    /// <summary>The bought item that takes longest to get, and its days; null where none says.</summary>
    public LongestBoughtFile? LongestBought { get; init; }

    /// <summary>What is missing for building it, or worth a look.</summary>
    public ImmutableArray<FindingFile> Findings { get; init; } = [];

    /// <summary>The same for who may not see what things cost: the texts of costs are empty, weights, times and prices stay.</summary>
    public StructureFile WithoutCosts() =>
        this with { Structure = Structure.WithoutCosts(), Order = Order.WithoutCosts(), Piece = Piece.WithoutCosts() };

    /// <summary>Whether it tells what things cost.</summary>
    [JsonIgnore]
    public bool TellsCosts => Order.Cost.Length > 0;
}

/// <param name="Name">The path as it is written in picks; of several choices each value has one.</param>
/// <param name="Value">As it is written in picks.</param>
public sealed record GivenPick(string Name, string Value);

/// <param name="State">“picked”, “follows” or “suggested”.</param>
public sealed record AnswerFile(string Section, string Name, string Label, string Value, string State);

/// <summary>A computed value as people read it.</summary>
public sealed record GivenFigure(string Label, string Value);

/// <param name="Row">The id of the rule.</param>
/// <param name="Mark">Its number on the worksheet; empty where it has none.</param>
public sealed record AdviceFile(string Row, string Assembly, string Mark, string Sentence);

/// <summary>A signed permission under which rules are set aside.</summary>
/// <param name="Rules">The rules, as they read for this configuration.</param>
/// <param name="Until">The last day on which something may be generated under it.</param>
/// <param name="Quantity">How many pieces may be generated under it in all.</param>
public sealed record ConcessionFile(long Number, ImmutableArray<AdviceFile> Rules, string Reason, DateOnly Until, long Quantity, string AskedBy,
    string SignedBy, DateOnly SignedOn)
{
    /// <summary>In one sentence, for papers and heads of tables.</summary>
    [JsonIgnore]
    public string Sentence =>
        $"Concession {Number}: {string.Join(", ", Rules.Select(r => r.Mark.Length > 0 ? r.Mark : r.Sentence))} set aside until {Until:yyyy-MM-dd} for at most "
        + $"{Quantity}. {Reason.TrimEnd('.')}. Asked for by {AskedBy}, signed by {SignedBy} on {SignedOn:yyyy-MM-dd}.";
}

/// <summary>An operation in time; start and end in working days from the start of everything.</summary>
/// <param name="Level">Of the item that it makes; zero for the product.</param>
/// <param name="IsCritical">Whether the lead time hangs on it.</param>
public sealed record ScheduledFile(string Item, int Level, int Sequence, LocalText Label, LocalText WorkCentre, string Start, string End, bool IsCritical);

public sealed record LongestBoughtFile(string Item, string Days);

/// <param name="Unit">UCUM code; empty for pieces.</param>
/// <param name="ToOrder">Gross, rounded up to the item's order multiple.</param>
public sealed record ConsumptionFile(string Item, LocalText Description, string Unit, string Net, string Gross, string ToOrder)
{
    /// <summary>How long it takes to get, in days; empty where nobody says.</summary>
    public string LeadTimeDays { get; init; } = "";

    /// <summary>When it is needed first, in working days from the start of everything; empty in files that were written before that was told.</summary>
    public string NeededOnDay { get; init; } = "";

    /// <summary>When it has to be ordered at the latest, in working days from the start, before it where negative; empty where nobody says.</summary>
    public string OrderByDay { get; init; } = "";
}

/// <summary>What a work centre has to do for the whole order, over all levels. Times are minutes.</summary>
/// <param name="Operations">How many operations of the routings are done there.</param>
/// <param name="Days">How many of its working days that fills.</param>
public sealed record LoadFile(string WorkCentre, LocalText Label, string Site, int Operations, string Setup, string Run, string Days);

/// <summary>EUR, kg and minutes; what costs is empty for who may not see it.</summary>
public sealed record CostFile(string Material, string Scrap, string Labour, string Machine, string Overhead, string Cost, string Weight, string Work)
{
    internal CostFile WithoutCosts() => this with { Material = "", Scrap = "", Labour = "", Machine = "", Overhead = "", Cost = "" };

    public static CostFile Of(Totals totals) =>
        new(StructureWriter.Text(totals.Material), StructureWriter.Text(totals.Scrap), StructureWriter.Text(totals.Labour),
        StructureWriter.Text(totals.Machine),
        StructureWriter.Text(totals.Overhead), StructureWriter.Text(totals.Cost), StructureWriter.Text(totals.Weight), StructureWriter.Text(totals.Work / 60));
}

/// <param name="Severity">“error” or “warning”.</param>
public sealed record FindingFile(string Severity, string Message)
{
    /// <summary>Where it is mended: “model”, “item”, “workCentre” or “site”; empty in files that were written before that was told.</summary>
    public string MendedIn { get; init; } = "";

    /// <summary>Of the item, work centre or site.</summary>
    public string Code { get; init; } = "";

    /// <summary>The id of the row of the model; empty where it is none in particular.</summary>
    public string Row { get; init; } = "";
}

/// <summary>An item that is made, with its bill and its routing.</summary>
public sealed record MadeItem
{
    /// <summary>Which one it is in this structure, the same whatever else changes: the item, and below the product the place that it fills, such as
    /// DOOR/doors[1].</summary>
    public string Id { get; init; } = "";
    public required string Item { get; init; }
    public LocalText Description { get; init; } = LocalText.Empty;

    /// <summary>The code of the site where it is made; null for none in particular.</summary>
    public string? Site { get; init; }

    /// <summary>How many of it are made in the whole order.</summary>
    public string Quantity { get; init; } = "";

    /// <summary>In how many lots they are made; each is set up for.</summary>
    public int Lots { get; init; } = 1;

    /// <summary>What all of them come to, everything below included; null, as the two next, in files that were written before that was told.</summary>
    public CostFile? Order { get; init; }

    /// <summary>What one of them comes to.</summary>
    public CostFile? Piece { get; init; }

    /// <summary>What its own lines and operations add to all of them.</summary>
    public CostFile? Own { get; init; }
    public ImmutableArray<LineFile> Lines { get; init; } = [];
    public ImmutableArray<OperationFile> Operations { get; init; } = [];

    /// <summary>The same for who may not see what things cost.</summary>
    public MadeItem WithoutCosts() => this with
    {
        Order = Order?.WithoutCosts(),
        Piece = Piece?.WithoutCosts(),
        Own = Own?.WithoutCosts(),
        Lines = [.. Lines.Select(l => l with { Cost = "", OrderCost = "", Structure = l.Structure?.WithoutCosts() })],
        Operations = [.. Operations.Select(o => o with { Cost = "", OrderCost = "" })],
    };
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

    /// <summary>In percent, as the row says it; empty for none.</summary>
    public string Scrap { get; init; } = "";

    /// <summary>What the quantity is rounded up to a multiple of; empty for none.</summary>
    public string Step { get; init; } = "";
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

    /// <summary>Where it comes from; null in files that were written before that was told.</summary>
    public ExplanationFile? Explanation { get; init; }
    public MadeItem? Structure { get; init; }
}

public sealed record FigureFile(string Name, string Number, string Unit);

public sealed record OperationFile
{
    public required int Sequence { get; init; }
    public required string Name { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public required string WorkCentre { get; init; }
    public LocalText WorkCentreLabel { get; init; } = LocalText.Empty;
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

    /// <summary>Where it and its run time come from; null in files that were written before that was told.</summary>
    public ExplanationFile? Explanation { get; init; }
}
