using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;

namespace Juniperfall.Formats.Structures;

/// <summary>A name in a condition or formula, with the value that it has here, both as people read them.</summary>
public sealed record NamedValue(string Path, string Label, string Value);

/// <summary>Where a line, an operation or a step of a price stands in its model, and how its number came about.</summary>
public sealed record ExplanationFile
{
    /// <summary>The id of the row, that of its assembly, and the prefix of the place where the assembly stands.</summary>
    public required string Row { get; init; }
    public required string Assembly { get; init; }
    public string Place { get; init; } = "";

    /// <summary>The names in the condition.</summary>
    public ImmutableArray<NamedValue> Because { get; init; } = [];

    /// <summary>The formula of its quantity, run time or amount.</summary>
    public string Formula { get; init; } = "";
    public ImmutableArray<NamedValue> FormulaBecause { get; init; } = [];

    /// <summary>The formula worked out step by step; null where that was not asked for.</summary>
    public ImmutableArray<WorkingStep>? Steps { get; init; }
}

/// <summary>Explains the numbers of one structure.</summary>
/// <param name="values">Path → value of everything that applies.</param>
/// <param name="withSteps">Whether formulas are worked out step by step, which takes its time.</param>
public sealed class StructureExplainer(BoundModel model, ModelWording words, IReadOnlyDictionary<string, Value> values, Effectivity at, bool withSteps)
{
    private readonly Evaluator _evaluator = new(model, values, at);

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

    /// <param name="because">What its condition reads.</param>
    /// <param name="field">The field whose formula is explained.</param>
    public ExplanationFile Of(Row row, string prefix, IEnumerable<(string Path, Value Value)> because, string field) => new()
    {
        Row = row.Id,
        Assembly = model.Index.AssemblyOfRow[row.Id].Id,
        Place = prefix,
        Because = Named(because),
        Formula = StoredText.Show(FormulaOf(row, field), model.Index),
        FormulaBecause = Named(ReadBy(row, field, prefix)),
        Steps = withSteps ? [.. Working.Of(model, _evaluator, words.Places[prefix], FormulaOf(row, field))] : null,
    };

    /// <summary>Of a step of a price: what its amount and its condition read, as far as that is there.</summary>
    public ExplanationFile OfPrice(Row row, Occurrence place)
    {
        var field = PriceFields.Of(row) ?? "quantity";
        return Of(row, place.Prefix, ReadBy(row, field, place.Prefix).Concat(ReadBy(row, "appliesWhen", place.Prefix)).Distinct()
            .Where(read => !read.Value.IsNothing), field);
    }

    private IEnumerable<(string Path, Value Value)> ReadBy(Row row, string field, string prefix) => model.Expression(row.Id, field) is not { } expression ? []
        : expression.All().OfType<BoundAttribute>().Select(a => prefix + a.Path).Distinct().Select(path => (path, _evaluator[path]));

    private ImmutableArray<NamedValue> Named(IEnumerable<(string Path, Value Value)> read) =>
        [.. read.Select(r => new NamedValue(r.Path, words.LabelAt(r.Path), words.ValueAt(r.Path, r.Value)))];
}
