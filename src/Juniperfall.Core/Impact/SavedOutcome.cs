using System.Collections.Immutable;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Impact;

/// <summary>What comes out of a saved configuration at one state of a model, everything that a test case of it could expect.</summary>
/// <param name="Valid">Whether its picks stand together; null where time ran out.</param>
/// <param name="IsComplete">Whether everything that is needed is answered.</param>
/// <param name="Facts">What comes out, as a test case writes it; of picks that do not stand together nothing.</param>
/// <param name="Values">The complete configuration that comes out; null where there is none.</param>
public sealed record SavedOutcome(bool? Valid, bool IsComplete, ImmutableArray<CaseFact> Facts, ImmutableArray<Pick>? Values)
{
    /// <summary>Where the picks do not stand together: what of the model the values break that came out before; it is not kept.</summary>
    public ImmutableArray<Cause> Broken { get; init; } = [];

    /// <summary>Where nothing is broken by them: the first reason.</summary>
    public ClashAnswer? Clash { get; init; }

    /// <summary>What is needed and has no answer.</summary>
    public ImmutableArray<string> Missing { get; init; } = [];

    /// <summary>Asks a reasoner for it.</summary>
    /// <param name="near">What came out of it at another state of the model.</param>
    public static SavedOutcome Of(BoundModel model, PickText text, Reasoner reasoner, CaseQuestion question, CancellationToken cancel,
        ImmutableArray<Pick>? near = null)
    {
        question = question with { AsksForValues = false };
        var broken = near is { } before ? reasoner.BrokenBy(before) ?? [] : [];
        var outcome = CaseOutcome.Of(model, reasoner, question, cancel, broken.IsEmpty ? near : null, withReasons: broken.IsEmpty);
        var answer = outcome.Answer;
        if (!answer.Exact)
            return new(null, false, [], null);
        var facts = answer.Valid != true ? [] : new CaseFacts(model, text).Of(question, outcome).Where(f => f.Of != ExpectedOf.Verdict).ToImmutableArray();
        return new(answer.Valid, answer is { Valid: true, Missing.IsEmpty: true }, facts,
            outcome.Values is { } values ? [.. values.Select(v => new Pick(v.Key, v.Value))] : null)
        {
            Broken = answer.Valid == false ? broken : [],
            Clash = answer.Clashes.FirstOrDefault(c => c.Finished),
            Missing = answer.Missing,
        };
    }
}
