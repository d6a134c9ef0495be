using System.Collections.Concurrent;
using Juniperfall.Core.Models;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>
/// Compiled revisions by the edit that they stand at. A copy is only a copy: whether it is the latest is asked of the
/// database each time, so that any number of servers agree.
/// </summary>
public sealed class CompiledModels(RevisionStore revisions, LibraryStore library, Scheduler scheduler, Askers askers)
{
    private const int MostKept = 24;
    private readonly ConcurrentDictionary<long, (RevisionMark Mark, long Library, CompiledModel Model, long Used)> _kept = new();
    private readonly ConcurrentDictionary<(long RevisionId, RevisionMark Mark, long Library), Task<CompiledModel?>> _compiling = new();
    private long _clock;

    public async Task<CompiledModel?> Get(long revisionId, CancellationToken cancel)
    {
        if (await revisions.Mark(revisionId, cancel) is not { } mark)
            return null;
        var live = await library.Load(cancel);
        _kept.TryGetValue(revisionId, out var kept);
        var model = kept.Model;
        if (model is null || kept.Mark != mark || (model.Revision.Facts is null && kept.Library != live.Version))
        {
            var key = (revisionId, mark, live.Version);
            // All who ask meanwhile wait for the same; it is finished though the first of them leaves.
            var compiling = _compiling.GetOrAdd(key, _ => Compile(revisionId, live.Facts, kept.Model));
            // Also where everyone who waited has left by then.
            _ = compiling.ContinueWith(done => _compiling.TryRemove(KeyValuePair.Create(key, done)), TaskScheduler.Default);
            if (await compiling.WaitAsync(cancel) is not { } compiled)
                return null;
            model = compiled;
            mark = new(model.Revision.Head, model.Revision.State);
        }
        _kept[revisionId] = (mark, live.Version, model, Interlocked.Increment(ref _clock));
        if (_kept.Count > MostKept)
            _kept.TryRemove(_kept.MinBy(k => k.Value.Used).Key, out _);
        return model;
    }

    private async Task<CompiledModel?> Compile(long revisionId, LibraryFacts facts, CompiledModel? previous) =>
        await revisions.Load(revisionId, CancellationToken.None) is { } revision
            ? await scheduler.Run(askers.Person, Urgency.Answer, CompiledModel.TimeLimit, _ => new CompiledModel(revision, revision.Facts ?? facts, previous, scheduler, askers), CancellationToken.None) : null;
}
