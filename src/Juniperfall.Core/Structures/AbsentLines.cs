using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Structures;

/// <summary>Why a line of the full structure is not on a bill or a routing.</summary>
public enum Absence
{
    /// <summary>The subassembly that it belongs to is not there.</summary>
    PlaceAbsent,

    /// <summary>There are fewer instances.</summary>
    InstanceAbsent,

    /// <summary>It does not hold at the site or on the day.</summary>
    NotInEffect,

    /// <summary>Its condition is false, or has no value.</summary>
    ConditionFalse,

    /// <summary>Its quantity comes to zero.</summary>
    ZeroQuantity,

    /// <summary>It is faulty as it is written.</summary>
    Faulty,
}

/// <summary>A part line, operation line or subassembly that did not make it, and why: the row whose condition it is, that condition, and the values in
/// it.</summary>
/// <param name="Row">The line.</param>
/// <param name="Cause">The row that decides: the line itself, or a subassembly above it.</param>
/// <param name="CauseAt">Where that row stands.</param>
public sealed record AbsentLine(Row Row, Occurrence At, Absence Absence, Row Cause, Occurrence CauseAt, IReadOnlyList<(string Path, Value Value)> Because)
{
    /// <summary>The condition or count that decides, in stored form; empty where none does.</summary>
    public string Condition => Absence switch
    {
        Absence.ConditionFalse or Absence.PlaceAbsent => Cause.AppliesWhen,
        Absence.InstanceAbsent => ((Subassembly)Cause).InstanceCount,
        Absence.ZeroQuantity => Cause switch { PartLine part => part.Quantity, Subassembly place => place.Quantity, _ => "" },
        _ => "",
    };
}

/// <summary>The lines of the full structure that one configuration does not have.</summary>
public static class AbsentLines
{
    /// <summary>Those below a place that is not there are told by the place alone, unless they are asked for.</summary>
    public static IEnumerable<AbsentLine> Of(BoundModel model, Evaluator evaluator, Effectivity at)
    {
        foreach (var occurrence in evaluator.Occurrences)
            foreach (var row in occurrence.Assembly.Rows.Where(r => r is PartLine or OperationLine or Subassembly))
                if (Why(model, evaluator, at, occurrence, row) is { } absent)
                    yield return absent;
    }

    /// <summary>Why a line is not there; null where it is.</summary>
    public static AbsentLine? Why(BoundModel model, Evaluator evaluator, Effectivity at, Occurrence occurrence, Row row)
    {
        if (occurrence is { Parent: { } parent, Place: { } place })
        {
            if (Why(model, evaluator, at, parent, place) is { } above)
                return above with { Row = row, At = occurrence, Absence = above.Absence == Absence.ConditionFalse ? Absence.PlaceAbsent : above.Absence };
            if (!evaluator.IsThere(occurrence))
                return new(row, occurrence, Absence.InstanceAbsent, place, parent, Values(place, "instanceCount", parent));
        }
        if (!model.IsSound(row))
            return new(row, occurrence, Absence.Faulty, row, occurrence, []);
        if (!at.Includes(row))
            return new(row, occurrence, Absence.NotInEffect, row, occurrence, []);
        if (!evaluator.Applies(occurrence, row))
            return new(row, occurrence, Absence.ConditionFalse, row, occurrence, Values(row, "appliesWhen", occurrence));
        return row is PartLine or Subassembly && model.Expression(row.Id, "quantity") is { } quantity && Number(quantity, occurrence) is { IsZero: true }
            ? new(row, occurrence, Absence.ZeroQuantity, row, occurrence, Values(row, "quantity", occurrence)) : null;

        IReadOnlyList<(string, Value)> Values(Row of, string field, Occurrence where) => model.Expression(of.Id, field) is not { } expression ? []
            : [.. expression.All().OfType<BoundAttribute>().Select(a => (where.Prefix + a.Path, evaluator[where.Prefix + a.Path])).Distinct()];

        Exact? Number(Bound expression, Occurrence where) => evaluator.Evaluate(expression, where.Prefix) is { Kind: ValueKind.Number } value
            ? value.Number : null;
    }
}
