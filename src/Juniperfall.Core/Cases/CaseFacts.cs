using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Cases;

/// <summary>What came of a question: the answer and, where nothing more is needed, what is built from it.</summary>
/// <param name="Values">A complete configuration with all picks and suggestions that stand.</param>
public sealed record CaseOutcome(Answer Answer, IReadOnlyDictionary<string, Value>? Values, StructureResult? Result, PriceResult? Price)
{
    /// <summary>Of the reasoner that was asked.</summary>
    public string Signature { get; private init; } = "";

    /// <summary>What of the model it reaches.</summary>
    public CaseReach Reach =>
        new(Values, [.. Answer.Clashes.SelectMany(c => c.Causes).Where(c => c.Kind == CauseKind.Rule).Select(c => c.RowId).Distinct()]);

    /// <summary>Asks a reasoner and builds.</summary>
    /// <param name="near">What came out of it at an earlier state of the model; it only saves time.</param>
    /// <param name="withReasons">Whether it is told why picks do not stand together.</param>
    public static CaseOutcome Of(BoundModel model, Reasoner reasoner, CaseQuestion question, CancellationToken cancel,
        IEnumerable<Pick>? near = null, bool withReasons = true)
    {
        var answer = reasoner.Answer(new Question(question.Picks)
        {
            FillIns = question.FillIns,
            WithAvailability = question.AsksForValues,
            WithReasons = withReasons,
            Near = [.. near ?? []],
        }, cancel);
        return Built(model, reasoner, question, answer, cancel);
    }

    /// <summary>The same question asked again: where nothing that decides about configurations is different, only what is built is built anew.</summary>
    /// <param name="before">What came of the same picks, site and day at an earlier state of the model; null where that is not known.</param>
    public static CaseOutcome After(CaseOutcome? before, BoundModel model, Reasoner reasoner, CaseQuestion question, CancellationToken cancel) =>
        before is not null && before.Signature == reasoner.Signature && reasoner.Again(before.Answer, cancel) is { } again
            ? Built(model, reasoner, question, again, cancel)
            : Of(model, reasoner, question, cancel, before?.Values?.Select(v => new Pick(v.Key, v.Value)));

    private static CaseOutcome Built(BoundModel model, Reasoner reasoner, CaseQuestion question, Answer answer, CancellationToken cancel)
    {
        var signature = reasoner.Signature;
        if (answer is not { Valid: true, Exact: true } || reasoner.Complete(answer, cancel) is not { } complete)
            return new(answer, null, null, null) { Signature = signature };
        var values = complete.ToDictionary(p => p.Path, p => p.Value);
        return answer.Missing.IsEmpty
            ? new(answer, values, StructureBuilder.Build(model, values, question.At), Pricing.Of(model, values, question.At)) { Signature = signature }
            : new(answer, values, null, null) { Signature = signature };
    }
}

/// <summary>What a case reaches: the configuration that came out, and the rules that ruled its picks out.</summary>
public sealed record CaseReach(IReadOnlyDictionary<string, Value>? Values, ImmutableArray<string> Rules);

/// <summary>One thing that came out of a question, written as an <see cref="CaseExpectation"/> writes it.</summary>
public sealed record CaseFact(ExpectedOf Of, string At, string Is);

/// <summary>Everything that comes out of a question, as a test case can expect it. The count alone is asked for by itself.</summary>
public sealed class CaseFacts(BoundModel model, PickText text)
{
    public const string Valid = "valid", RuledOut = "ruled out";

    public IEnumerable<CaseFact> Of(CaseQuestion question, CaseOutcome outcome)
    {
        var answer = outcome.Answer;
        if (answer.Valid is { } valid)
            yield return new(ExpectedOf.Verdict, "", valid ? Valid : RuledOut);
        foreach (var rule in answer.Clashes.SelectMany(c => c.Causes).Where(c => c.Kind == CauseKind.Rule).Select(c => c.RowId).Distinct())
            yield return new(ExpectedOf.Rule, rule, "yes");
        if (answer.Valid != true)
            yield break;
        foreach (var fact in Values(question, outcome))
            yield return fact;
        if (outcome.Result?.Structure is { } structure)
            foreach (var fact in Lines(structure).Concat(Totals(question, structure, outcome.Price)))
                yield return fact;
    }

    private IEnumerable<CaseFact> Values(CaseQuestion question, CaseOutcome outcome)
    {
        var answer = outcome.Answer;
        foreach (var attribute in answer.Attributes)
            if (attribute.Value is { } value && outcome.Values?.ContainsKey(attribute.Path) == true)
                yield return new(ExpectedOf.Value, attribute.Path, CaseQuestion.Written(attribute.Row, value, text));
        foreach (var computed in answer.AsSuggested.Computed)
            if (Written(computed) is { } written)
                yield return new(ExpectedOf.Value, computed.Path, written);
        if (answer.Exact && question.AsksForValues)
            foreach (var attribute in answer.Attributes)
                if (attribute.State != AttributeState.Absent && attribute.Row.Kind != AttributeKind.Text)
                    yield return new(ExpectedOf.Available, attribute.Path, Written(attribute.Row, attribute.Alternatives ?? attribute.Available));
    }

    private string? Written(ComputedAnswer computed)
    {
        if (computed.Number is { IsFinal: true, Low: { } number })
            return (computed.Row.Unit.Length > 0 ? Unit.Parse(computed.Row.Unit) : Unit.One).FromBase(number).ToString();
        return computed.Value is { HasValue: true } value ? value.ToString() : null;
    }

    private string Written(AttributeRow row, Available available)
    {
        string One(Value value) => CaseQuestion.Written(row, value, text);
        IEnumerable<string> values = available is { Lowest: { } low, Highest: { } high }
            ? [low == high ? One(Value.Of(low)) : $"{One(Value.Of(low))} .. {One(Value.Of(high))}"] : available.Values.Select(One);
        return string.Join(" | ", values.Concat(available.None ? [One(Value.Nothing)] : []));
    }

    private static IEnumerable<CaseFact> Lines(Structure structure)
    {
        foreach (var line in structure.Bom)
        {
            var at = line.Prefix + line.RowId;
            yield return new(ExpectedOf.Item, at, line.Item);
            yield return new(ExpectedOf.Quantity, at, line.Net.ToString());
            foreach (var below in line.Below is null ? [] : Lines(line.Below))
                yield return below;
        }
        foreach (var operation in structure.Routing)
        {
            var at = operation.Prefix + operation.RowId;
            yield return new(ExpectedOf.Setup, at, (operation.Setup / 60).ToString());
            yield return new(ExpectedOf.Run, at, (operation.RunOf(Exact.One) / 60).ToString());
        }
    }

    private IEnumerable<CaseFact> Totals(CaseQuestion question, Structure structure, PriceResult? price)
    {
        if (price?.Sheet is { } sheet)
            yield return new(ExpectedOf.Price, "", sheet.Price.ToString());
        var totals = new RollUp(model.Facts).Of(structure, question.Quantity);
        yield return new(ExpectedOf.Cost, "", totals.Cost.ToString());
        yield return new(ExpectedOf.Weight, "", totals.Weight.ToString());
        yield return new(ExpectedOf.Work, "", (totals.Work / 60).ToString());
        yield return new(ExpectedOf.LeadTime, "", LeadTime.Of(structure, model.Facts, question.Quantity).Days.ToString());
    }
}
