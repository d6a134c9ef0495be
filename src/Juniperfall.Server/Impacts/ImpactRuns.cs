using System.Collections.Concurrent;
using System.Threading.Channels;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Core.Quantities;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>
/// Asks everything that is saved of a product, and of the products that reuse it, again of its draft, in the background after each edit: as pieces of
/// the scheduler that people go before. What the edit before broke or changed comes first. They are only copies: another server makes its own.
/// </summary>
public sealed class ImpactRuns(CompiledModels models, RevisionStore revisions, ImpactStore store, ILogger<ImpactRuns> log)
{
    // One after the other: an analysis that takes minutes does not keep them waiting, and they leave a thread to whoever picks.
    private const int MostKept = 12, AtOnce = 1;

    /// <summary>How much of what is saved of one product is asked, what was changed last first.</summary>
    public const int MostSubjects = 20_000;
    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(1), Each = TimeSpan.FromSeconds(20);
    private readonly ConcurrentDictionary<long, ImpactRun> _runs = new();

    /// <summary>The run of a draft as it stands, which is started where there is none.</summary>
    public async Task<ImpactRun> Of(CompiledModel draft, CancellationToken cancel)
    {
        var (id, saved) = (draft.Revision.Id, await store.Mark(draft.Revision.ProductId, cancel));
        if (_runs.TryGetValue(id, out var known) && known.HoldsFor(draft) && (known.Saved == saved || !known.IsFinished))
            return known;
        if (_runs.Count > MostKept)
            foreach (var (key, old) in _runs)
                if (_runs.TryRemove(KeyValuePair.Create(key, old)))
                    old.GivenUp.Cancel();
        var run = new ImpactRun(draft, saved);
        var kept = _runs.AddOrUpdate(id, run, (_, there) =>
            there.Head > run.Head || (there != known && there.HoldsFor(draft) && there.Saved == saved) ? there : run);
        if (kept == run)
        {
            known?.GivenUp.Cancel();
            _ = Task.Run(() => Ask(run, draft, known));
        }
        return kept;
    }

    private async Task Ask(ImpactRun run, CompiledModel draft, ImpactRun? before)
    {
        var cancel = run.GivenUp.Token;
        try
        {
            await Task.Delay(Quiet, cancel);
            var kept = before?.HoldsFor(draft) == true ? before.Entries : new Dictionary<string, ImpactEntry>();
            HashSet<string> first = [.. (before?.Entries.Values ?? []).Where(e => e.Kind != ImpactKind.Same).Select(e => e.Id)];
            var touched = await AskOf(run, draft, draft.Revision.ProductId, first, kept, cancel);
            foreach (var reuser in (await revisions.ReusersOf(draft.Revision.ProductId, cancel)).DistinctBy(r => r.ProductId))
                await AskReuser(run, draft, reuser, first, kept, cancel);
            if (draft.Revision.Facts is null)
            {
                foreach (var (group, edit) in kept.Count > 0 ? before!.Edits : new Dictionary<string, EditOfGroup>())
                    run.Add(group, edit);
                await new EditSearch(models, revisions, draft).Find(run, [.. touched.Where(t => !run.Edits.ContainsKey(t.Entry.Group))], cancel);
            }
        }
        catch (OperationCanceledException)
        {
            // A later edit has taken its place.
        }
        catch (TooMuchWaiting)
        {
            run.Troubles.Enqueue("Too much was waiting to be worked out; it goes on when the page is opened again.");
            _runs.TryRemove(KeyValuePair.Create(draft.Revision.Id, run));
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogError(e, "What revision {Revision} touches could not be found out", draft.Revision.Id);
            run.Troubles.Enqueue("Finding it out met a fault of its own.");
        }
        finally
        {
            run.IsFinished = true;
        }
    }

    /// <summary>The same of a product that reuses the draft's, as if it took the draft as it is now.</summary>
    private async Task AskReuser(ImpactRun run, CompiledModel draft, ReuserEntry reuser, HashSet<string> first,
        IReadOnlyDictionary<string, ImpactEntry> kept, CancellationToken cancel)
    {
        if (await models.Get(reuser.RevisionId, cancel) is not { } with)
            return;
        var document = with.Revision.Document;
        var supposed = await models.Supposed(with.Revision with
        {
            Document = document with
            {
                Reused = [.. document.Reused.Select(r => r.ProductId == draft.Revision.ProductId ? Reuse.Of(draft.Model, r.Revision, r.Id) : r)],
            },
        }, with.Model.Facts, cancel);
        try
        {
            var faults = supposed.Model.Findings.Count(f => f.Blocks);
            if (faults > with.Model.Findings.Count(f => f.Blocks))
                run.Troubles.Enqueue($"{reuser.Code} could not take this draft: {(faults == 1 ? "one fault" : $"{faults} faults")} would stand in it.");
            else
                await AskOf(run, supposed, reuser.ProductId, first, kept, cancel);
        }
        finally
        {
            supposed.Forget();
        }
    }

    /// <param name="kept">What was found out at the same state of the draft already.</param>
    /// <returns>One of each group that is touched alike, with how many there are.</returns>
    private async Task<IReadOnlyList<TouchedGroup>> AskOf(ImpactRun run, CompiledModel target, string productId, HashSet<string> first,
        IReadOnlyDictionary<string, ImpactEntry> kept, CancellationToken cancel)
    {
        var (groups, bases) = (new ConcurrentDictionary<string, TouchedGroup>(), new Bases(models));
        await using var resting = new Resting(models, target);
        foreach (var isFirst in first.Count > 0 ? new[] { true, false } : [false])
        {
            var waiting = Channel.CreateBounded<ImpactSubject>(64);
            var reading = Task.Run(async () =>
            {
                try
                {
                    await foreach (var subject in store.Subjects(productId, MostSubjects, cancel))
                    {
                        // What stands on a released revision stays what it is.
                        if (target.Revision.Facts is not null && subject.Configuration.RevisionId == target.Revision.Id)
                            continue;
                        if (!isFirst)
                            run.Found();
                        if (first.Contains(subject.Id) == isFirst)
                            await waiting.Writer.WriteAsync(subject, cancel);
                    }
                    waiting.Writer.Complete();
                }
                catch (Exception e)
                {
                    waiting.Writer.Complete(e);
                }
            }, CancellationToken.None);
            await Task.WhenAll(Enumerable.Range(0, AtOnce).Select(async _ =>
            {
                await foreach (var subject in waiting.Reader.ReadAllAsync(cancel))
                    if (kept.GetValueOrDefault(subject.Id) is { } same && same.Version == subject.Configuration.Version
                        && same.IsConceded == subject.SetAside.Length > 0)
                        run.Add(same);
                    else if (await Asked(resting, subject, bases, cancel) is var (entry, touched))
                    {
                        run.Add(entry);
                        if (touched is not null)
                            groups.AddOrUpdate(entry.Group, touched, (_, there) => there with { Count = there.Count + 1 });
                    }
            }));
            await reading;
        }
        return [.. groups.Values.OrderByDescending(g => g.Count)];
    }

    private async Task<(ImpactEntry Entry, TouchedGroup? Touched)?> Asked(Resting resting, ImpactSubject subject, Bases bases, CancellationToken cancel)
    {
        if (await bases.Of(subject.Configuration.RevisionId, cancel) is not { } from)
            return null;
        var target = await resting.Without(subject.SetAside, cancel);
        SavedOutcome? before;
        // What comes out under a concession is not kept: it changes when that is signed, runs out or is withdrawn, and no version tells of it.
        if (subject.SetAside.Length > 0)
            before = await OutcomeOf(from = await models.For(from, subject.SetAside, null, cancel), subject, null, cancel);
        else if ((before = subject.Outcome) is null)
        {
            before = await OutcomeOf(from, subject, null, cancel);
            if (before.Valid is not null)
                await store.Keep(subject.Id, subject.Configuration.Version, before, cancel);
        }
        var after = await OutcomeOf(target, subject, before, cancel);
        var faults = ReadPicks.Of(target, subject.Configuration).Faults;
        var impact = ConfigurationImpact.Of(before, after, faults.Count > 0);
        var entry = await target.InTurn(() => new ImpactWords(from, target).Of(subject, impact, after, faults), cancel, Urgency.Question);
        return (entry, impact.Kind is ImpactKind.Breaks or ImpactKind.AsksMore or ImpactKind.Changes or ImpactKind.Mends
            ? new(subject, before, impact, entry, 1) : null);
    }

    internal static Task<SavedOutcome> OutcomeOf(CompiledModel model, ImpactSubject subject, SavedOutcome? near, CancellationToken cancel)
    {
        var read = ReadPicks.Of(model, subject.Configuration);
        var question = new CaseQuestion([.. read.Picks], read.At, Exact.One, []) { FillIns = [.. read.FillIns.Select(f => f.Pick)] };
        return model.Solve(read.At, (reasoner, time) => SavedOutcome.Of(model.Model, model.Text, reasoner, question, time, near?.Values), cancel,
            Urgency.Question, Each);
    }

    /// <summary>The revisions that things were saved on, each looked up once.</summary>
    private sealed class Bases(CompiledModels models)
    {
        private readonly ConcurrentDictionary<long, Task<CompiledModel?>> _of = new();

        public Task<CompiledModel?> Of(long revisionId, CancellationToken cancel) => _of.GetOrAdd(revisionId, id => models.Get(id, cancel));
    }
}

/// <summary>Saved things that a draft touches alike.</summary>
/// <param name="Subject">One of them.</param>
internal sealed record TouchedGroup(ImpactSubject Subject, SavedOutcome Before, ConfigurationImpact Impact, ImpactEntry Entry, int Count);
