using System.Collections.Concurrent;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Health;

/// <summary>An analysis that is under way or done, of a revision as it stood at one edit.</summary>
public sealed class HealthRun(long head, Effectivity at, Scheduler scheduler) : IProgress<HealthProgress>
{
    public long Head { get; } = head;
    public Effectivity At { get; } = at;
    public HealthProgress Progress { get; private set; } = new(0, 0);

    /// <summary>Null while it is under way.</summary>
    public HealthReport? Report { get; internal set; }
    internal CancellationTokenSource GivenUp { get; } = new();

    void IProgress<HealthProgress>.Report(HealthProgress value)
    {
        Progress = value;
        scheduler.StandAside();
    }
}

/// <summary>
/// Analyses in the background, each as a piece of the scheduler that nobody waits for. It starts once a model has been left alone for a
/// moment, and a new edit ends the analysis of the one before. They are only copies: another server makes its own.
/// </summary>
public sealed class HealthRuns(Scheduler scheduler, ILogger<HealthRuns> log)
{
    private const int MostKept = 24;
    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(2.5), TimeLimit = TimeSpan.FromMinutes(3);
    private readonly ConcurrentDictionary<(long RevisionId, Effectivity At), HealthRun> _runs = new();

    /// <summary>The analysis of a revision as it stands, which is started where there is none.</summary>
    public HealthRun Of(CompiledModel compiled, Effectivity at)
    {
        var key = (compiled.Revision.Id, compiled.Alike(at));
        if (_runs.TryGetValue(key, out var known) && known.Head == compiled.Revision.Head)
            return known;
        if (_runs.Count > MostKept)
            GiveUp();
        var run = new HealthRun(compiled.Revision.Head, key.Item2, scheduler);
        var kept = _runs.AddOrUpdate(key, run, (_, before) => before.Head >= run.Head ? before : run);
        if (kept == run)
        {
            known?.GivenUp.Cancel();
            _ = Analyse(run, compiled);
        }
        return kept;
    }

    private void GiveUp()
    {
        foreach (var (key, run) in _runs)
            if (_runs.TryRemove(KeyValuePair.Create(key, run)))
                run.GivenUp.Cancel();
    }

    private async Task Analyse(HealthRun run, CompiledModel compiled)
    {
        try
        {
            await Task.Delay(Quiet, run.GivenUp.Token);
            run.Report = await compiled.Solve(run.At, (reasoner, time) => HealthCheck.Run(reasoner, run, time), run.GivenUp.Token, Urgency.Analysis, TimeLimit);
        }
        catch (OperationCanceledException)
        {
            run.Report = new([], ["It was given up for a later edit."]);
        }
        catch (TooMuchWaiting)
        {
            run.Report = new([], ["Too much was waiting to be worked out; it is done when it is asked for again."]);
            _runs.TryRemove(KeyValuePair.Create((compiled.Revision.Id, run.At), run));
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogError(e, "The analysis of revision {Revision} failed", compiled.Revision.Id);
            run.Report = new([], ["The analysis met a fault of its own."]);
        }
    }
}
