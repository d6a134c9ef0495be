using System.Collections.Concurrent;
using System.Globalization;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Cases;

/// <summary>The test cases of a revision as it stood at one edit, and what became of each; those that were not asked yet are not there.</summary>
public sealed class CaseRun(long head, long libraryVersion, ModelDocument document)
{
    private readonly ConcurrentDictionary<string, CaseResult> _results = new();
    private readonly ConcurrentDictionary<string, (TestCase Of, CaseOutcome Outcome)> _outcomes = new();

    private readonly TaskCompletionSource _finished = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public long Head { get; } = head;
    public ModelDocument Document { get; } = document;
    public IReadOnlyDictionary<string, CaseResult> Results => _results;

    /// <summary>What came of a case, without what was built from it; null where it was not asked, or asked something else.</summary>
    public CaseOutcome? OutcomeOf(TestCase one) => _outcomes.TryGetValue(one.Id, out var known) && known.Of.Picks.SequenceEqual(one.Picks)
        && known.Of.Site == one.Site && known.Of.Date == one.Date ? known.Outcome : null;

    /// <summary>Ends when every case was asked, or it was given up.</summary>
    public Task Finished => _finished.Task;

    /// <summary>Why it ended before every case was asked; null where nothing went wrong.</summary>
    public string? Trouble { get; internal set; }
    internal CancellationTokenSource GivenUp { get; } = new();
    internal void Finish() => _finished.TrySetResult();
    internal void Add(TestCase one, CaseResult result, CaseOutcome outcome) =>
        (_outcomes[one.Id], _results[one.Id]) = ((one, outcome with { Result = null, Price = null }), result);

    /// <summary>Whether it is of a revision as it stands, with the library as it is.</summary>
    internal bool IsOf(CompiledModel compiled) => Head == compiled.Revision.Head && libraryVersion == compiled.LibraryVersion;

    /// <summary>Whether nothing that a case can read is different there: only cases were edited between the two.</summary>
    internal bool IsOfTheSameModelAs(CompiledModel other) =>
        libraryVersion == other.LibraryVersion && Document.IsSameButForCases(other.Revision.Document);
}

/// <summary>
/// Test cases asked in the background after each edit, as pieces of the scheduler that people go before. What failed last comes first; what an edit
/// cannot have touched is known already. They are only copies: another server makes its own.
/// </summary>
public sealed class CaseRuns(ILogger<CaseRuns> log)
{
    private const int MostKept = 24, AtOnce = 2;
    private static readonly TimeSpan Each = TimeSpan.FromSeconds(20);
    private readonly ConcurrentDictionary<long, CaseRun> _runs = new();

    /// <summary>The run of a revision as it stands, which is started where there is none.</summary>
    public CaseRun Of(CompiledModel compiled)
    {
        var id = compiled.Revision.Id;
        if (_runs.TryGetValue(id, out var known) && known.IsOf(compiled))
            return known;
        if (_runs.Count > MostKept)
            foreach (var (key, old) in _runs)
                if (_runs.TryRemove(KeyValuePair.Create(key, old)))
                    old.GivenUp.Cancel();
        var run = new CaseRun(compiled.Revision.Head, compiled.LibraryVersion, compiled.Revision.Document);
        var before = known?.Document.Cases.ToDictionary(c => c.Id) ?? [];
        if (known is not null && known.IsOfTheSameModelAs(compiled))
            foreach (var one in compiled.Revision.Document.Cases)
                if (before.TryGetValue(one.Id, out var same) && ReferenceEquals(same, one) && known.Results.TryGetValue(one.Id, out var result)
                    && known.OutcomeOf(one) is { } outcome)
                    run.Add(one, result, outcome);
        var kept = _runs.AddOrUpdate(id, run, (_, there) => there.Head > run.Head || (there != known && there.IsOf(compiled)) ? there : run);
        if (kept != run)
            return kept;
        known?.GivenUp.Cancel();
        var open = compiled.Revision.Document.Cases.Where(c => !run.Results.ContainsKey(c.Id))
            .OrderBy(c => known?.Results.GetValueOrDefault(c.Id)?.State switch { CaseState.Failed => 0, null => 1, _ => 2 });
        _ = Task.Run(() => Ask(run, compiled, new(open), known));
        return run;
    }

    private async Task Ask(CaseRun run, CompiledModel compiled, ConcurrentQueue<TestCase> open, CaseRun? known)
    {
        try
        {
            await Task.WhenAll(Enumerable.Range(0, AtOnce).Select(async _ =>
            {
                while (open.TryDequeue(out var one))
                {
                    var (result, outcome) = await Result(compiled, one, known?.OutcomeOf(one), run.GivenUp.Token);
                    run.Add(one, result, outcome);
                }
            }));
        }
        catch (OperationCanceledException)
        {
            run.Trouble = "They were given up for a later edit.";
        }
        catch (TooMuchWaiting)
        {
            run.Trouble = "Too much was waiting to be worked out; they are asked when the page is opened again.";
            _runs.TryRemove(KeyValuePair.Create(compiled.Revision.Id, run));
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogError(e, "The test cases of revision {Revision} failed", compiled.Revision.Id);
            run.Trouble = "Asking them met a fault of its own.";
        }
        finally
        {
            run.Finish();
        }
    }

    private static Task<(CaseResult, CaseOutcome)> Result(CompiledModel compiled, TestCase one, CaseOutcome? before, CancellationToken cancel)
    {
        var question = CaseQuestion.Of(one, compiled.Model, compiled.Text);
        return compiled.Solve(question.At, (reasoner, time) =>
        {
            var outcome = CaseOutcome.After(before, compiled.Model, reasoner, question, time);
            var (facts, isKnown) = (new CaseFacts(compiled.Model, compiled.Text).Of(question, outcome), outcome.Answer.Exact);
            if (one.Expected.Any(e => e.Of == ExpectedOf.Count))
            {
                var count = reasoner.Count(new(question.Picks), time);
                (facts, isKnown) = (facts.Append(new(ExpectedOf.Count, "", count.Number.ToString(CultureInfo.InvariantCulture))), isKnown && count.Exact);
            }
            return (CaseResult.Of(one, question, facts, isKnown), outcome);
        }, cancel, Urgency.Question, Each);
    }
}
