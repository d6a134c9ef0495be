using Juniperfall.Core.Cases;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Wording;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>What a change would do to one product: to its draft or, where there is none, to the next one.</summary>
/// <param name="Faults">Those that would stand in it and do not now.</param>
/// <param name="Failing">The test cases that pass now and would not, each with its first difference; at most so many as are told.</param>
/// <param name="Asked">How many saved configurations and structures were asked, what was changed last first.</param>
/// <param name="Entries">Those of them that would not come out the same.</param>
public sealed record TouchedProductView(string Code, string Label, long RevisionId, int Number, string State, IReadOnlyList<string> Faults, int Cases,
    int FailingCases, IReadOnlyList<string> Failing, int Asked, IReadOnlyList<ImpactEntry> Entries);

/// <summary>Faults, test cases and saved configurations of a product as it is and as it would be, held against one another.</summary>
internal static class TouchedProduct
{
    private const int MostAsked = 60, MostTold = 12;

    public static async Task<TouchedProductView> Of(StoredRevision revision, CompiledModel now, CompiledModel then, CompiledModels models,
        ImpactStore store, bool seesCosts, CancellationToken cancel)
    {
        var faults = then.Model.Findings.Where(f => f.Blocks).Select(f => $"{then.NameOf(f.RowId)}: {f.Diagnostic.Message}")
            .Except(now.Model.Findings.Where(f => f.Blocks).Select(f => $"{now.NameOf(f.RowId)}: {f.Diagnostic.Message}")).ToList();
        var failing = new List<string>();
        foreach (var one in faults.Count > 0 ? [] : revision.Document.Cases)
            if (await FailsThen(one, now, then, seesCosts, cancel) is { } difference)
                failing.Add(difference);
        var (entries, asked) = (new List<ImpactEntry>(), 0);
        await using var resting = new Resting(models, now);
        await using var restingThen = new Resting(models, then);
        if (faults.Count == 0)
            await foreach (var subject in store.Subjects(revision.ProductId, MostAsked, cancel))
            {
                asked++;
                var was = await ImpactRuns.OutcomeOf(await resting.Without(subject.SetAside, cancel), subject, subject.Outcome, cancel);
                var comes = await ImpactRuns.OutcomeOf(await restingThen.Without(subject.SetAside, cancel), subject, was, cancel);
                var wrong = ReadPicks.Of(then, subject.Configuration).Faults;
                var impact = ConfigurationImpact.Of(was, comes, wrong.Count > 0);
                if (impact.Kind is not (ImpactKind.Same or ImpactKind.StaysBroken))
                    entries.Add(new ImpactWords(now, then).Of(subject, impact, comes, wrong));
            }
        return new(revision.Document.Code, revision.Document.Label.Or(revision.Document.Code), revision.Id, revision.Number, revision.State,
            [.. faults.Take(MostTold)], revision.Document.Cases.Length, failing.Count, [.. failing.Take(MostTold)], asked,
            [.. entries.OrderBy(e => e.Kind).Select(e => seesCosts ? e : e with { Changes = [.. e.Changes.Where(c => c.Of != ExpectedOf.Cost)] })]);
    }

    /// <summary>What a case that passes now would say then; null where it passes, or does not pass now either.</summary>
    private static async Task<string?> FailsThen(TestCase one, CompiledModel now, CompiledModel then, bool seesCosts, CancellationToken cancel)
    {
        // Values that are left and counts are not asked for here.
        var asked = one with { Expected = [.. one.Expected.Where(e => e.Of is not (ExpectedOf.Available or ExpectedOf.Count))] };
        var (passes, known) = await ResultOf(asked, now, null, cancel);
        if (passes.State != CaseState.Passed)
            return null;
        var (result, _) = await ResultOf(asked, then, known, cancel);
        var told = result.Differences.FirstOrDefault(d => seesCosts || asked.Expected[d.Expectation].Of != ExpectedOf.Cost);
        return result.State is CaseState.Passed or CaseState.Unknown ? null
            : $"{one.Name}: {(told is null ? "" : new CaseWords(then.Model, then.Text, then.Words).Sentence(asked, told))}";
    }

    private static Task<(CaseResult Result, CaseOutcome Outcome)> ResultOf(TestCase one, CompiledModel model, CaseOutcome? before, CancellationToken cancel)
    {
        var question = CaseQuestion.Of(one, model.Model, model.Text);
        return model.Solve(question.At, (reasoner, time) =>
        {
            var outcome = CaseOutcome.After(before, model.Model, reasoner, question, time);
            return (CaseResult.Of(one, question, new CaseFacts(model.Model, model.Text).Of(question, outcome), outcome.Answer.Exact), outcome);
        }, cancel);
    }
}
