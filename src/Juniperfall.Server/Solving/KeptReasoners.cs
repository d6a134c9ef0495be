using System.Collections.Concurrent;
using System.Diagnostics;
using System.Numerics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;

namespace Juniperfall.Server.Solving;

/// <summary>The reasoners of one model: one for all sites and days that make no difference to it, for as long as the budget has room.</summary>
internal sealed class KeptReasoners
{
    private sealed class Kept
    {
        private readonly object _building = new();

        /// <summary>Null until the first who uses it has built it.</summary>
        public Reasoner? Reasoner { get; private set; }
        public CacheBudget.Entry? Entry;
        public int Uses;

        /// <summary>Others who want it meanwhile wait; where the time of the first runs out, the next one builds it in its own.</summary>
        public Reasoner Built(Func<CancellationToken, Reasoner> make, CancellationToken time)
        {
            if (Reasoner is { } built)
                return built;
            lock (_building)
                return Reasoner ??= make(time);
        }
    }

    private readonly ConcurrentDictionary<Effectivity, Kept> _kept = new();
    private readonly ConcurrentDictionary<Effectivity, (Reasoner Reasoner, CacheBudget.Entry? Entry)> _earlier = new();
    private readonly BoundModel _model;
    private readonly long _modelBytes;
    private readonly Scheduler _scheduler;
    private readonly CacheBudget _budget;
    private volatile bool _isForgotten;
    private readonly IReadOnlyDictionary<Effectivity, byte[]> _warm;

    /// <param name="modelBytes">What the model holds, roughly: a first estimate of what a reasoner does.</param>
    /// <param name="previous">Those of the model before its latest edits: much of what they know still holds.</param>
    /// <param name="warm">What other processes have found out of the model, packed.</param>
    public KeptReasoners(BoundModel model, long modelBytes, KeptReasoners? previous, IReadOnlyDictionary<Effectivity, byte[]> warm, Scheduler scheduler,
        CacheBudget budget)
    {
        (_model, _modelBytes, _scheduler, _budget, _warm) = (model, modelBytes, scheduler, budget, warm);
        if (previous is null)
            return;
        foreach (var (at, (earlier, _)) in previous._earlier)
            KeepEarlier(at, earlier);
        foreach (var (at, kept) in previous._kept)
            if (kept.Reasoner is { } reasoner)
                KeepEarlier(at, reasoner);
    }

    private void KeepEarlier(Effectivity at, Reasoner reasoner) =>
        _earlier[at] = (reasoner, _budget.Keep("earlier reasoners", 2 * _modelBytes, TimeSpan.FromMilliseconds(50), () => _earlier.TryRemove(at, out _)));

    /// <summary>Does some work with a reasoner, and remembers what it holds by then. Only by work of the scheduler.</summary>
    /// <param name="alike">Standing for all that make no difference to the model.</param>
    /// <param name="time">Cancels the building of it, when time has run out.</param>
    public T Use<T>(Effectivity alike, Func<Reasoner, T> work, CancellationToken time)
    {
        var began = Stopwatch.GetTimestamp();
        var kept = _kept.GetOrAdd(alike, _ => new());
        try
        {
            return work(kept.Built(building => Make(alike, building), time));
        }
        finally
        {
            Remember(alike, kept, Stopwatch.GetElapsedTime(began));
        }
    }

    private Reasoner Make(Effectivity alike, CancellationToken time)
    {
        if (!_earlier.TryRemove(alike, out var earlier))
            return new(_model, alike, null, time, _warm.TryGetValue(alike, out var packed) ? WarmStateFile.Read(packed) : null);
        if (earlier.Entry is { } entry)
            _budget.Forget(entry);
        return new(_model, alike, earlier.Reasoner, time);
    }

    private void Remember(Effectivity alike, Kept kept, TimeSpan took)
    {
        if (_isForgotten || kept.Reasoner is null)
            return;
        var uses = Interlocked.Increment(ref kept.Uses);
        if (uses == 1)
            kept.Entry = _budget.Keep("reasoners", 2 * _modelBytes, took, () => _kept.TryRemove(KeyValuePair.Create(alike, kept)));
        else if (kept.Entry is { } entry)
            _budget.Use(entry);
        // What it has learnt makes it grow, ever more slowly.
        if (BitOperations.IsPow2(uses))
            _ = InBackground((reasoner, _) => Measure(kept, reasoner), kept);
        // Who asks a few times is likely to go on asking.
        if (uses == UsesBeforeDiagrams)
            _ = InBackground((reasoner, time) => MakeDiagrams(kept, reasoner, time), kept);
    }

    private const int UsesBeforeDiagrams = 3;

    private void MakeDiagrams(Kept kept, Reasoner reasoner, CancellationToken time)
    {
        if (_isForgotten)
            return;
        reasoner.MakeDiagrams(time);
        Measure(kept, reasoner);
    }

    private void Measure(Kept kept, Reasoner reasoner)
    {
        if (kept.Entry is { } entry)
            _budget.Resize(entry, RetainedSize.Of(reasoner, IsOfTheModel));
    }

    private async Task InBackground(Action<Reasoner, CancellationToken> work, Kept kept)
    {
        try
        {
            await _scheduler.Run("", Urgency.Analysis, CompiledModel.TimeLimit, time =>
            {
                work(kept.Reasoner!, time);
                return true;
            }, CancellationToken.None);
        }
        catch (Exception e) when (e is TooMuchWaiting or OperationCanceledException or ObjectDisposedException)
        {
            // All goes on without it.
        }
    }

    private static bool IsOfTheModel(object reached) => reached is BoundModel
        || reached.GetType().Namespace is "Juniperfall.Core.Models" or "Juniperfall.Core.Language";

    /// <summary>Nothing of it is kept any longer; what is under way is finished.</summary>
    public void Forget()
    {
        _isForgotten = true;
        foreach (var (_, kept) in _kept)
            if (kept.Entry is { } entry)
                _budget.Forget(entry);
        foreach (var (_, (_, entry)) in _earlier)
            if (entry is not null)
                _budget.Forget(entry);
    }
}
