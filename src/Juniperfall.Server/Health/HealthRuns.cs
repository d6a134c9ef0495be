using System.Collections.Concurrent;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models;
using Juniperfall.Server.Revisions;

namespace Juniperfall.Server.Health;

/// <summary>An analysis that is under way or done, of a revision as it stood at one edit.</summary>
public sealed class HealthRun(long head, Effectivity at) : IProgress<HealthProgress>
{
    public long Head { get; } = head;
    public Effectivity At { get; } = at;
    public HealthProgress Progress { get; private set; } = new(0, 0);

    /// <summary>Null while it is under way.</summary>
    public HealthReport? Report { get; internal set; }
    internal CancellationTokenSource Limit { get; } = new(TimeLimit);

    private static readonly TimeSpan TimeLimit = TimeSpan.FromMinutes(3);

    void IProgress<HealthProgress>.Report(HealthProgress value) => Progress = value;
}

/// <summary>
/// Analyses in the background, one after the other, so that the other processors are there for people. It starts once a model
/// has been left alone for a moment, and a new edit ends the analysis of the one before. They are only copies: another server makes
/// its own.
/// </summary>
public sealed class HealthRuns(ILogger<HealthRuns> log)
{
    private const int MostKept = 24;
    private readonly ConcurrentDictionary<(long RevisionId, Effectivity At), HealthRun> _runs = new();
    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(2.5);
    private readonly SemaphoreSlim _one = new(1);

    /// <summary>Takes its turn with the analyses: for what nobody waits for either.</summary>
    public async Task<T> InTurn<T>(Func<T> work, CancellationToken cancel)
    {
        await _one.WaitAsync(cancel);
        try
        {
            return await Task.Run(work, cancel);
        }
        finally
        {
            _one.Release();
        }
    }

    /// <summary>The analysis of a revision as it stands, which is started where there is none.</summary>
    public HealthRun Of(CompiledModel compiled, Effectivity at)
    {
        var key = (compiled.Revision.Id, at);
        if (_runs.TryGetValue(key, out var known) && known.Head == compiled.Revision.Head)
            return known;
        if (_runs.Count > MostKept)
            _runs.Clear();
        var run = new HealthRun(compiled.Revision.Head, at);
        var kept = _runs.AddOrUpdate(key, run, (_, before) => before.Head >= run.Head ? before : run);
        if (kept == run)
        {
            known?.Limit.Cancel();
            new Thread(() => Analyse(run, compiled)) { IsBackground = true, Priority = ThreadPriority.BelowNormal, Name = "health" }.Start();
        }
        return kept;
    }

    private void Analyse(HealthRun run, CompiledModel compiled)
    {
        try
        {
            run.Limit.Token.WaitHandle.WaitOne(Quiet);
            _one.Wait(run.Limit.Token);
            try
            {
                run.Report = HealthCheck.Run(compiled.Reasoner(run.At), run, run.Limit.Token);
            }
            finally
            {
                _one.Release();
            }
        }
        catch (OperationCanceledException)
        {
            run.Report = new([], ["It was given up for a later edit."]);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogError(e, "The analysis of revision {Revision} failed", compiled.Revision.Id);
            run.Report = new([], ["The analysis met a fault of its own."]);
        }
    }
}
