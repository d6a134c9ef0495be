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
    /// <summary>The first reason why the picks do not stand together; it is not kept.</summary>
    public ClashAnswer? Clash { get; init; }

    /// <summary>What is needed and has no answer.</summary>
    public ImmutableArray<string> Missing { get; init; } = [];

    /// <summary>Asks a reasoner for it.</summary>
    /// <param name="near">What came out of it at another state of the model; it only saves time.</param>
    public static SavedOutcome Of(BoundModel model, PickText text, Reasoner reasoner, CaseQuestion question, CancellationToken cancel,
        IEnumerable<Pick>? near = null)
    {
        var outcome = CaseOutcome.Of(model, reasoner, question with { AsksForValues = false }, cancel, near);
        var answer = outcome.Answer;
        if (!answer.Exact)
            return new(null, false, [], null);
        var facts = answer.Valid != true ? [] : new CaseFacts(model, text).Of(question, outcome).Where(f => f.Of != ExpectedOf.Verdict).ToImmutableArray();
        return new(answer.Valid, answer is { Valid: true, Missing.IsEmpty: true }, facts,
            outcome.Values is { } values ? [.. values.Select(v => new Pick(v.Key, v.Value))] : null)
        {
            Clash = answer.Clashes.FirstOrDefault(),
            Missing = answer.Missing,
        };
    }
}
