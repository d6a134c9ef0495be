using System.Diagnostics;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Bench;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>
/// Opens the revisions that were changed last and tries some of their values right after the start, so that the code is
/// compiled and the models are at hand before the first person picks something. What it finds is what anyone would.
/// </summary>
public sealed class WarmUp(WarmUpJournal journal, CompiledModels models, WarmStates states, ILogger<WarmUp> log) : BackgroundService
{
    private const int MostRevisions = 3, MostReleased = 50;
    private static readonly TimeSpan Budget = TimeSpan.FromSeconds(8);

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        await Task.Yield();   // the start does not wait for it
        var watch = Stopwatch.StartNew();
        try
        {
            foreach (var revision in await journal.LastChanged(MostRevisions, stop))
                if (!await journal.Try(revision, () => WarmUpOne(revision, () => watch.Elapsed < Budget, stop), stop))
                    log.LogWarning("Revision {Revision} is not worked out ahead: a server ended at it before, or another one is at it", revision.RevisionId);
            // What people open first need not be what was changed last.
            foreach (var revision in await states.Missing(MostReleased, stop))
                await journal.Try(revision, () => KeepOne(revision, stop), stop);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // Nobody waits for it, and an exception here would end the server.
            log.LogInformation("Not warmed up: {Reason}", e.Message);
        }
    }

    /// <summary>Works a revision out that was just released; nobody waits for it.</summary>
    public async Task AfterRelease(CompiledModel released)
    {
        var watch = Stopwatch.StartNew();
        try
        {
            await TryValues(released, () => watch.Elapsed < Budget, CancellationToken.None);
            await states.Make(released, CancellationToken.None);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            log.LogInformation("Revision {Revision} was not worked out after its release: {Reason}", released.Revision.Id, e.Message);
        }
    }

    private async Task WarmUpOne(RevisionAt revision, Func<bool> goesOn, CancellationToken stop)
    {
        try
        {
            if (goesOn() && await models.Get(revision.RevisionId, stop) is { } compiled)
            {
                await TryValues(compiled, goesOn, stop);
                if (goesOn())
                    await states.Make(compiled, stop);
            }
        }
        catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
        {
            log.LogWarning(e, "Revision {Revision} cannot be worked out", revision.RevisionId);
        }
    }

    private async Task KeepOne(RevisionAt revision, CancellationToken stop)
    {
        try
        {
            await states.Make(revision.RevisionId, stop);
        }
        catch (Exception e) when (e is not (OutOfMemoryException or OperationCanceledException))
        {
            log.LogWarning(e, "Revision {Revision} cannot be worked out", revision.RevisionId);
        }
    }

    private static async Task TryValues(CompiledModel compiled, Func<bool> goesOn, CancellationToken stop)
    {
        var words = new AnswerWords(compiled);
        var asked = await compiled.Ask([], Effectivity.Any, stop);
        var picks = new List<Pick>();
        foreach (var attribute in asked.Answer.Attributes
            .Where(a => a.Row.Kind is AttributeKind.Choice or AttributeKind.YesNo && a.Available.Values.Length > 1))
        {
            if (!goesOn())
                return;
            picks.Add(new(attribute.Path, attribute.Available.Values[^1]));
            asked = await compiled.Ask([.. picks], Effectivity.Any, stop);
            words.Of(asked, [], new(null, SeesCosts: true));
            if (asked.Answer.Valid != true)
                picks.RemoveAt(picks.Count - 1);
        }
    }
}
