using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>
/// Compiled revisions by the edit that they stand at. A copy is only a copy: whether it is the latest is asked of the
/// database each time, so that any number of servers agree.
/// </summary>
public sealed class CompiledModels(RevisionStore revisions, LibraryStore library, WarmStates warm, Scheduler scheduler, Askers askers, CacheBudget budget)
{
    private sealed record Kept(RevisionMark Mark, long Library, CompiledModel Model)
    {
        public CacheBudget.Entry? Entry { get; set; }

        /// <summary>A released revision carries the library that it was released with; what is in it by now makes no difference.</summary>
        public bool CarriesLibrary => Model.Revision.Facts is not null;
    }

    private readonly ConcurrentDictionary<long, Kept> _kept = new();
    private readonly ConcurrentDictionary<(long RevisionId, RevisionMark Mark, long Library), Task<Kept?>> _compiling = new();

    private readonly VariedModels _varied = new(scheduler, askers, budget);

    private static readonly IReadOnlyDictionary<Effectivity, byte[]> NothingKnown = new Dictionary<Effectivity, byte[]>();

    public async Task<CompiledModel?> Get(long revisionId, CancellationToken cancel) =>
        await revisions.Mark(revisionId, cancel) is { } mark
            ? await Compiled(revisionId, mark, () => revisions.Load(revisionId, CancellationToken.None), cancel) : null;

    /// <summary>What of a revision changes without its document, without compiling it.</summary>
    public Task<RevisionMark?> Mark(long revisionId, CancellationToken cancel) => revisions.Mark(revisionId, cancel);

    /// <summary>A revision as an edit has just left it: nothing of it is read again.</summary>
    /// <param name="model">The same with its expressions bound, if that is known.</param>
    public async Task<CompiledModel> After(StoredRevision edited, BoundModel? model, CancellationToken cancel) =>
        (await Compiled(edited.Id, edited.Mark, () => Task.FromResult<StoredRevision?>(edited), cancel, model))!;

    /// <summary>A revision as it would be with another document or library. It is not kept: whoever asks for it says when it is not used any more.</summary>
    public Task<CompiledModel> Supposed(StoredRevision revision, LibraryFacts facts, CancellationToken cancel) =>
        scheduler.Run(askers.Person, Urgency.Question, CompiledModel.TimeLimit,
            time => new CompiledModel(revision, new(revision.Document, facts, time), null, NothingKnown, scheduler, askers, budget), cancel);

    /// <summary>A revision as it is asked for a day: less the rules that are set aside, which are told as advice where they are not kept, and less
    /// the values that are not to be had then. All else holds exactly.</summary>
    /// <param name="rules">The ids of rules of it.</param>
    /// <param name="day">Null: of none in particular, so that everything is to be had.</param>
    public Task<CompiledModel> For(CompiledModel compiled, IReadOnlyCollection<string> rules, DateOnly? day, CancellationToken cancel)
    {
        var paused = day is not { } on ? [] : compiled.Revision.Pauses.Where(p => p.ValueId is not null && p.IsOn(on));
        var variation = new Variation([.. rules], paused.GroupBy(p => p.ValueId!).ToImmutableSortedDictionary(g => g.Key,
            g => $"{g.First().Period}: {g.First().Reason.TrimEnd('.')}.", StringComparer.Ordinal));
        return variation.IsNone ? Task.FromResult(compiled) : _varied.Of(compiled, variation, cancel);
    }

    private async Task<CompiledModel?> Compiled(long revisionId, RevisionMark mark, Func<Task<StoredRevision?>> load, CancellationToken cancel,
        BoundModel? model = null)
    {
        var kept = _kept.GetValueOrDefault(revisionId);
        if (kept is not null && kept.Mark == mark && kept.CarriesLibrary)
            return Used(kept);
        var live = await library.Load(cancel);
        if (kept is not null && kept.Mark == mark && kept.Library == live.Version)
            return Used(kept);
        var key = (revisionId, mark, live.Version);
        // All who ask meanwhile wait for the same; it is finished though the first of them leaves.
        var compiling = _compiling.GetOrAdd(key, _ => Compile(live, kept?.Model, load, model));
        // Also where everyone who waited has left by then.
        _ = compiling.ContinueWith(done => _compiling.TryRemove(KeyValuePair.Create(key, done)), TaskScheduler.Default);
        return (await compiling.WaitAsync(cancel))?.Model;
    }

    private CompiledModel Used(Kept kept)
    {
        if (kept.Entry is { } entry)
            budget.Use(entry);
        return kept.Model;
    }

    private async Task<Kept?> Compile(Storage.Library live, CompiledModel? previous, Func<Task<StoredRevision?>> load, BoundModel? bound)
    {
        if (await load() is not { } revision)
            return null;
        var began = Stopwatch.GetTimestamp();
        var facts = revision.Facts ?? live.Facts;
        // What is still edited is found out as it comes.
        var known = revision.Facts is null ? NothingKnown : await warm.Load(revision.Id, CancellationToken.None);
        var model = await scheduler.Run(askers.Person, Urgency.Answer, CompiledModel.TimeLimit,
            time => new CompiledModel(revision, bound is not null && ReferenceEquals(bound.Facts, facts) ? bound : new(revision.Document, facts, time),
                previous, known, scheduler, askers, budget)
            { LibraryVersion = revision.Facts is null ? live.Version : 0 }, CancellationToken.None);
        var kept = new Kept(revision.Mark, live.Version, model);
        if (!Keep(revision.Id, kept, Stopwatch.GetElapsedTime(began)))
            return kept;
        _ = Measure(kept);
        return kept;
    }

    /// <summary>False where a later one is kept already; this one serves who asked for it, and then goes.</summary>
    private bool Keep(long revisionId, Kept kept, TimeSpan took)
    {
        var isLatest = true;
        _kept.AddOrUpdate(revisionId, kept, (_, before) =>
        {
            isLatest = before.Mark.Head <= kept.Mark.Head && before.Library <= kept.Library;
            if (isLatest)
                Forget(before);
            return isLatest ? kept : before;
        });
        if (!isLatest)
            kept.Model.Forget();
        else
            kept.Entry = budget.Keep("models", kept.Model.EstimatedBytes, took, () =>
            {
                _kept.TryRemove(KeyValuePair.Create(revisionId, kept));
                kept.Model.Forget();
            });
        // A later one may have come in between.
        if (kept.Entry is { } entry && _kept.GetValueOrDefault(revisionId) != kept)
            budget.Forget(entry);
        return isLatest;
    }

    private void Forget(Kept before)
    {
        if (before.Entry is { } entry)
            budget.Forget(entry);
        before.Model.Forget();
    }

    private async Task Measure(Kept kept)
    {
        try
        {
            var bytes = await scheduler.Run("", Urgency.Analysis, CompiledModel.TimeLimit, _ => kept.Model.Bytes(), CancellationToken.None);
            if (kept.Entry is { } entry)
                budget.Resize(entry, bytes);
        }
        catch (Exception e) when (e is TooMuchWaiting or OperationCanceledException or ObjectDisposedException)
        {
            // The estimate stays.
        }
    }
}
