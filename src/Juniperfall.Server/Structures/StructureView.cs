using Juniperfall.Core.Quantities;
using Juniperfall.Formats.Structures;

namespace Juniperfall.Server.Structures;

/// <summary>A name in a condition or formula, with the value that it has here.</summary>
public sealed record BecauseView(string Path, string Label, string Value)
{
    public static List<BecauseView> Of(IEnumerable<NamedValue> named) => [.. named.Select(n => new BecauseView(n.Path, n.Label, n.Value))];
}

/// <summary>Numbers of files as they are shown.</summary>
internal static class FileNumber
{
    /// <summary>Cut to some decimals; empty where there is none.</summary>
    public static string Show(string text, int decimals) => Exact.TryParse(text, out var number) ? number.ToDisplay(decimals) : text;
}

/// <summary>Sums over all levels. Costs in EUR, weight in kg, work in minutes, as exact decimals cut to what is shown.</summary>
public sealed record TotalsView(string Material, string Labour, string Machine, string Cost, string Weight, string Work, string Scrap = "0",
    string Overhead = "0")
{
    public static TotalsView Of(CostFile? costs) => costs is null
        ? new("", "", "", "", "", "", "", "")
        : new(FileNumber.Show(costs.Material, 2), FileNumber.Show(costs.Labour, 2), FileNumber.Show(costs.Machine, 2), FileNumber.Show(costs.Cost, 2),
        FileNumber.Show(costs.Weight, 2), FileNumber.Show(costs.Work, 1), FileNumber.Show(costs.Scrap, 2), FileNumber.Show(costs.Overhead, 2));
}

/// <summary>A BOM line with the reason why it is there and where its quantity comes from.</summary>
public sealed record BomLineView
{
    public required int Position { get; init; }
    public required string Item { get; init; }
    public required string Description { get; init; }
    public required string Net { get; init; }
    public required string Gross { get; init; }
    public required string Unit { get; init; }

    /// <summary>The unit as people write it; pcs for pieces.</summary>
    public required string UnitLabel { get; init; }
    public required bool PerOrder { get; init; }
    public required string Issue { get; init; }
    public required string Store { get; init; }
    public required int? Operation { get; init; }
    public required string Condition { get; init; }
    public required IReadOnlyList<BecauseView> Because { get; init; }
    public required string Quantity { get; init; }
    public required string Scrap { get; init; }
    public required string Step { get; init; }
    public required IReadOnlyList<BecauseView> QuantityBecause { get; init; }

    /// <summary>Its share in one piece of the made item at the quantity ordered.</summary>
    public required string Cost { get; init; }
    public required string Weight { get; init; }

    /// <summary>For the whole order; empty in what was generated before that was told.</summary>
    public string OrderNet { get; init; } = "";
    public string OrderGross { get; init; } = "";
    public string OrderCost { get; init; } = "";
    public string OrderWeight { get; init; } = "";
    public required string RowId { get; init; }
    public required string AssemblyId { get; init; }
    public required string Prefix { get; init; }
    public required StructureView? Below { get; init; }
    public IReadOnlyList<LineFigureView> Figures { get; init; } = [];
    public IReadOnlyList<string> Substitutes { get; init; } = [];

    /// <summary>Which instances of a subassembly it stands for; empty where there can only be one.</summary>
    public IReadOnlyList<int> Instances { get; init; } = [];

    /// <summary>The quantity worked out step by step; null where that is asked for by itself.</summary>
    public IReadOnlyList<WorkingStepView>? Steps { get; init; }
}

/// <summary>A cut size or other number of a line, with its unit.</summary>
public sealed record LineFigureView(string Name, string Text);

/// <summary>An operation of a routing. Times are minutes.</summary>
public sealed record OperationView
{
    public required int Sequence { get; init; }
    public required string Name { get; init; }
    public required string WorkCentre { get; init; }
    public required string WorkCentreLabel { get; init; }
    public required string Setup { get; init; }
    public required string Run { get; init; }
    public required string Queue { get; init; }
    public required string Instructions { get; init; }
    public required string Condition { get; init; }
    public required IReadOnlyList<BecauseView> Because { get; init; }
    public string Crew { get; init; } = "";
    public string Parallel { get; init; } = "";

    /// <summary>How many pieces one run takes; empty where each takes its own.</summary>
    public string Batch { get; init; } = "";
    public IReadOnlyList<WorkingStepView>? RunSteps { get; init; }
    public required string RunFormula { get; init; }
    public required IReadOnlyList<BecauseView> RunBecause { get; init; }

    /// <summary>Set-up and run times of all lots of the whole order; empty in what was generated before that was told.</summary>
    public string OrderSetup { get; init; } = "";
    public string OrderRun { get; init; } = "";

    /// <summary>Its share in one piece of the made item at the quantity ordered.</summary>
    public required string Cost { get; init; }
    public string OrderCost { get; init; } = "";
    public required string RowId { get; init; }
    public required string AssemblyId { get; init; }
    public required string Prefix { get; init; }
}

/// <summary>The bill of materials and routing of one made item.</summary>
public sealed record StructureView
{
    public required string Item { get; init; }
    public required string Description { get; init; }

    /// <summary>The code of the site where it is made; null for none in particular.</summary>
    public string? Site { get; init; }

    /// <summary>How many of it are made in the whole order.</summary>
    public string Quantity { get; init; } = "1";

    /// <summary>What one piece comes to at the quantity ordered.</summary>
    public required TotalsView Totals { get; init; }
    public required IReadOnlyList<BomLineView> Bom { get; init; }
    public required IReadOnlyList<OperationView> Routing { get; init; }

    public static StructureView Of(MadeItem made) => new()
    {
        Item = made.Item,
        Description = made.Description.In(),
        Site = made.Site,
        Quantity = FileNumber.Show(made.Quantity, 4),
        Totals = TotalsView.Of(made.Piece),
        Bom = [.. made.Lines.Select(Of)],
        Routing = [.. made.Operations.Select(Of)],
    };

    private static BomLineView Of(LineFile line) => new()
    {
        Position = line.Position,
        Item = line.Item,
        Description = line.Description.In(),
        Net = FileNumber.Show(line.Net, 4),
        Gross = FileNumber.Show(line.Gross, 4),
        Unit = line.Unit,
        UnitLabel = line.Unit.Length == 0 ? "pcs" : Core.Quantities.Unit.Readable(line.Unit),
        PerOrder = line.PerOrder,
        Issue = line.Issue == "hand" ? "by hand" : line.Issue,
        Store = line.Store,
        Operation = line.Operation,
        Condition = line.Condition,
        Because = BecauseView.Of(line.Explanation?.Because ?? []),
        Quantity = line.Explanation?.Formula ?? "",
        Scrap = line.Scrap.Length == 0 ? "0" : line.Scrap,
        Step = line.Step,
        QuantityBecause = BecauseView.Of(line.Explanation?.FormulaBecause ?? []),
        Cost = FileNumber.Show(line.Cost, 2),
        Weight = FileNumber.Show(line.Weight, 2),
        OrderNet = FileNumber.Show(line.OrderNet, 4),
        OrderGross = FileNumber.Show(line.OrderGross, 4),
        OrderCost = FileNumber.Show(line.OrderCost, 2),
        OrderWeight = FileNumber.Show(line.OrderWeight, 2),
        RowId = line.Explanation?.Row ?? "",
        AssemblyId = line.Explanation?.Assembly ?? "",
        Prefix = line.Explanation?.Place ?? "",
        Below = line.Structure is { } below ? Of(below) : null,
        Figures = [.. line.Figures.Select(f => new LineFigureView(f.Name, Core.Wording.ModelWording.WithUnit(f.Number, f.Unit)))],
        Substitutes = line.Substitutes,
        Instances = line.Instances,
        Steps = WorkingStepView.Of(line.Explanation),
    };

    private static OperationView Of(OperationFile operation) => new()
    {
        Sequence = operation.Sequence,
        Name = operation.Label.Or(operation.Name),
        WorkCentre = operation.WorkCentre,
        WorkCentreLabel = operation.WorkCentreLabel.Or(operation.WorkCentre),
        Setup = FileNumber.Show(operation.Setup, 1),
        Run = FileNumber.Show(operation.Run, 1),
        Queue = FileNumber.Show(operation.Queue, 1),
        Instructions = operation.Instructions.In(),
        Condition = operation.Condition,
        Because = BecauseView.Of(operation.Explanation?.Because ?? []),
        Crew = $"{operation.Crew}",
        Parallel = operation.Parallel,
        Batch = operation.Batch is { } batch ? FileNumber.Show(batch, 4) : "",
        RunSteps = WorkingStepView.Of(operation.Explanation),
        RunFormula = operation.Explanation?.Formula ?? "",
        RunBecause = BecauseView.Of(operation.Explanation?.FormulaBecause ?? []),
        OrderSetup = FileNumber.Show(operation.OrderSetup, 1),
        OrderRun = FileNumber.Show(operation.OrderRun, 1),
        Cost = FileNumber.Show(operation.Cost, 2),
        OrderCost = FileNumber.Show(operation.OrderCost, 2),
        RowId = operation.Explanation?.Row ?? "",
        AssemblyId = operation.Explanation?.Assembly ?? "",
        Prefix = operation.Explanation?.Place ?? "",
    };
}
