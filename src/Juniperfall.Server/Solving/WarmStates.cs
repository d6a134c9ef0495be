using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>
/// Keeps in the database what is found out of revisions that are not edited any more, and hands it to servers that know nothing yet: so a
/// fresh process answers its first question like its hundredth.
/// </summary>
public sealed class WarmStates(WarmStateStore store, RevisionStore revisions, Scheduler scheduler, TimeProvider clock)
{
    /// <summary>The build of the reasoning: another one may find out otherwise, and makes its own.</summary>
    private static readonly Guid Program = typeof(Reasoner).Module.ModuleVersionId;

    /// <summary>For how many sites, beside none in particular, it is made.</summary>
    private const int MostSites = 6;

    /// <summary>What is kept of a revision, by site and day that stand for all that make no more difference.</summary>
    public Task<IReadOnlyDictionary<Effectivity, byte[]>> Load(long revisionId, CancellationToken cancel) => store.Load(revisionId, Program, cancel);

    /// <summary>The released revisions of which nothing is kept yet.</summary>
    public Task<IReadOnlyList<RevisionAt>> Missing(int most, CancellationToken cancel) => store.Missing(Program, most, cancel);

    /// <summary>Finds out what is not kept yet of a revision that is at hand, and keeps it. Others who ask meanwhile come first.</summary>
    public async Task Make(CompiledModel compiled, CancellationToken cancel)
    {
        if (compiled.Revision.Facts is not null)
            await Make(compiled.Revision.Id, compiled.Model, compiled.Alike, cancel,
                at => compiled.Solve(at, (reasoner, time) => reasoner.ToWarmState(time), cancel, Urgency.Analysis));
    }

    /// <summary>The same of one that nobody asks for now: nothing that people use has to go from the caches for it.</summary>
    public async Task Make(long revisionId, CancellationToken cancel)
    {
        if (await revisions.Load(revisionId, cancel) is not { Facts: { } facts } revision)
            return;
        var model = await scheduler.Run("", Urgency.Analysis, CompiledModel.TimeLimit, time => new BoundModel(revision.Document, facts, time), cancel);
        var effectivities = new Effectivities(revision.Document, facts.CostsDependOnSite);
        await Make(revisionId, model, effectivities.Representative, cancel,
            at => scheduler.Run("", Urgency.Analysis, CompiledModel.TimeLimit, time => new Reasoner(model, at, null, time).ToWarmState(time), cancel));
    }

    private async Task Make(long revisionId, BoundModel model, Func<Effectivity, Effectivity> alike, CancellationToken cancel,
        Func<Effectivity, Task<WarmState?>> find)
    {
        var today = DateOnly.FromDateTime(clock.GetUtcNow().UtcDateTime);
        var places = model.Facts.Sites.Keys.Take(MostSites).Select(site => new Effectivity(site, today)).Prepend(new(null, today)).Prepend(Effectivity.Any);
        var kept = await Load(revisionId, cancel);
        foreach (var at in places.Select(alike).Distinct().Where(at => !kept.ContainsKey(at)))
            if (await find(at) is { } state)
                await store.Save(revisionId, Program, at, WarmStateFile.Write(state), cancel);
    }
}
