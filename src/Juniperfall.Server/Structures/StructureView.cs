using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Structures;

/// <summary>A name in a condition or formula, with the value that it has here.</summary>
public sealed record BecauseView(string Path, string Label, string Value);

/// <summary>Sums over all levels. Costs in EUR, weight in kg, work in minutes, as exact decimals cut to what is shown.</summary>
public sealed record TotalsView(string Material, string Labour, string Machine, string Cost, string Weight, string Work, string Scrap = "0", string Overhead = "0")
{
    public static TotalsView Of(Totals totals) => new(totals.Material.ToDisplay(2), totals.Labour.ToDisplay(2), totals.Machine.ToDisplay(2), totals.Cost.ToDisplay(2),
        totals.Weight.ToDisplay(2), (totals.Work / 60).ToDisplay(1), totals.Scrap.ToDisplay(2), totals.Overhead.ToDisplay(2));
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
}

/// <summary>Writes structures in the words of their model.</summary>
/// <param name="withSteps">Whether formulas are worked out step by step, which takes its time.</param>
internal sealed class StructureWords(CompiledModel compiled, IReadOnlyDictionary<string, Value> values, Effectivity at, bool withSteps = false)
{
    public static List<WorkingStepView> Steps(BoundModel model, Evaluator evaluator, Occurrence at, string stored) => [.. Working.Of(model, evaluator, at, stored).Select(s => new WorkingStepView(s.Text, s.Result))];

    /// <summary>The formula in a field of a row, in stored form; empty where it has none.</summary>
    public static string FormulaOf(Row row, string field) => (row, field) switch
    {
        (_, "appliesWhen") => row.AppliesWhen,
        (PriceLine line, "amount") => line.Amount,
        (PartLine part, "surcharge") => part.Surcharge,
        (OperationLine operation, "surcharge") => operation.Surcharge,
        (PartLine part, "quantity") => part.Quantity,
        (Subassembly place, "quantity") => place.Quantity,
        (Subassembly place, "instanceCount") => place.InstanceCount,
        (OperationLine operation, "setup") => operation.Setup,
        (OperationLine operation, "run") => operation.Run,
        (OperationLine operation, "queue") => operation.Queue,
        (ComputedAttribute computed, "expression") => computed.Expression,
        _ => "",
    };

    private List<WorkingStepView>? StepsOf(Row row, string field, string prefix) =>
        withSteps ? Steps(_model, _evaluator, compiled.Occurrences.First(o => o.Prefix == prefix), FormulaOf(row, field)) : null;

    private readonly BoundModel _model = compiled.Model;
    private readonly Evaluator _evaluator = new(compiled.Model, values, at);
    /// <param name="quantity">How many are ordered.</param>
    public StructureView Of(Structure structure, Exact quantity) => Of(new RollUp(compiled.Model.Facts).Ordered(structure, quantity));

    private StructureView Of(OrderedStructure made) => new()
    {
        Item = made.Structure.Item,
        Description = made.Structure.Description.In(),
        Site = made.Structure.Site,
        Quantity = made.Quantity.ToDisplay(4),
        Totals = TotalsView.Of(made.EachOf(made.All)),
        Bom = [.. made.Lines.Select(l => Of(l, made.EachOf(l.Totals)))],
        Routing = [.. made.Operations.Select(o => Of(o, made.EachOf(o.Totals)))],
    };

    private BomLineView Of(OrderedLine ordered, Totals totals)
    {
        var line = ordered.Line;
        var row = _model.Index.Rows[line.RowId];
        var field = row switch { PartLine p => p.Quantity, Subassembly s => s.Quantity, _ => "" };
        return new()
        {
            Position = line.Position,
            Item = line.Item,
            Description = line.Description.In(),
            Net = line.Net.ToDisplay(4),
            Gross = line.Gross.ToDisplay(4),
            Unit = line.Unit,
            UnitLabel = line.Unit.Length == 0 ? "pcs" : Core.Quantities.Unit.Readable(line.Unit),
            PerOrder = line.PerOrder,
            Issue = line.Issue == IssueMethod.Hand ? "by hand" : "backflush",
            Store = line.Store,
            Operation = line.Operation,
            Condition = line.Reason.Condition,
            Because = Because(line.Reason.Because),
            Quantity = StoredText.Show(field, _model.Index),
            Scrap = row is PartLine { Scrap: { Length: > 0 } scrap } ? scrap : "0",
            Step = row is PartLine part ? part.Step : "",
            QuantityBecause = Because(line.RowId, "quantity", line.Prefix),
            Cost = totals.Cost.ToDisplay(2),
            Weight = totals.Weight.ToDisplay(2),
            OrderNet = ordered.Net.ToDisplay(4),
            OrderGross = ordered.Gross.ToDisplay(4),
            OrderCost = ordered.Totals.Cost.ToDisplay(2),
            OrderWeight = ordered.Totals.Weight.ToDisplay(2),
            RowId = line.RowId,
            AssemblyId = _model.Index.AssemblyOfRow[line.RowId].Id,
            Prefix = line.Prefix,
            Below = ordered.Below is { } below ? Of(below) : null,
            Figures = [.. line.Figures.Select(f => new LineFigureView(f.Name, Core.Reasoning.Wording.WithUnit(f.Text, f.Unit)))],
            Substitutes = line.Substitutes,
            Instances = line.Instances,
            Steps = StepsOf(row, "quantity", line.Prefix),
        };
    }

    private OperationView Of(OrderedOperation ordered, Totals totals)
    {
        static string Minutes(Exact seconds) => (seconds / 60).ToDisplay(1);
        var operation = ordered.Operation;
        var row = (OperationLine)_model.Index.Rows[operation.RowId];
        return new()
        {
            Sequence = operation.Sequence,
            Name = operation.Label.Or(operation.Name),
            WorkCentre = operation.WorkCentre,
            WorkCentreLabel = _model.Facts.WorkCentres.GetValueOrDefault(operation.WorkCentre)?.Label.Or(operation.WorkCentre) ?? operation.WorkCentre,
            Setup = Minutes(operation.Setup),
            Run = Minutes(operation.Run),
            Queue = Minutes(operation.Queue),
            Instructions = operation.Instructions.In(),
            Condition = operation.Reason.Condition,
            Because = Because(operation.Reason.Because),
            Crew = $"{(operation.Crew > 0 ? operation.Crew : _model.Facts.WorkCentres.GetValueOrDefault(operation.WorkCentre)?.Crew ?? 1)}",
            Parallel = operation.Parallel,
            Batch = operation.Batch is { } batch ? batch.ToDisplay(4) : "",
            RunSteps = StepsOf(row, "run", operation.Prefix),
            RunFormula = StoredText.Show(row.Run, _model.Index),
            RunBecause = Because(row.Id, "run", operation.Prefix),
            OrderSetup = Minutes(ordered.Setup),
            OrderRun = Minutes(ordered.Run),
            Cost = totals.Cost.ToDisplay(2),
            OrderCost = ordered.Totals.Cost.ToDisplay(2),
            RowId = operation.RowId,
            AssemblyId = _model.Index.AssemblyOfRow[operation.RowId].Id,
            Prefix = operation.Prefix,
        };
    }

    /// <summary>The names in a field of a row with their values at one occurrence.</summary>
    private List<BecauseView> Because(string rowId, string field, string prefix) => _model.Expression(rowId, field) is not { } expression ? []
        : Because(expression.All().OfType<BoundAttribute>().Select(a => (prefix + a.Path, _evaluator[prefix + a.Path])).Distinct());

    private List<BecauseView> Because(IEnumerable<(string Path, Value Value)> because) =>
        [.. because.Select(b => new BecauseView(b.Path, compiled.LabelOf(b.Path), compiled.ValueAt(b.Path, b.Value)))];
}
