using System.Collections.Immutable;
using Juniperfall.Core;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>
/// Finds the edit of a draft that does something to what is saved: by bisection over its history, asking the model as it stood between two edits.
/// </summary>
internal sealed class EditSearch(CompiledModels models, RevisionStore revisions, CompiledModel draft)
{
    private const int MostGroups = 12, MostEdits = 2_000;
    private readonly SortedDictionary<long, ModelDocument> _documents = new() { [draft.Revision.Head] = draft.Revision.Document };

    /// <summary>By sequence, the latest first.</summary>
    private ImmutableArray<StoredEdit> _edits = [];

    public async Task Find(ImpactRun run, IReadOnlyList<TouchedGroup> touched, CancellationToken cancel)
    {
        if (touched.Count == 0)
            return;
        _edits = [.. await revisions.History(draft.Revision.Id, draft.Revision.Head + 1, MostEdits, cancel)];
        var words = new HistoryWords(draft);
        foreach (var group in touched.Take(MostGroups))
            if (await First(group, cancel) is (true, var edit))
                run.Add(group.Entry.Group, new(edit is null ? null : words.Of(edit), group.Subject.Configuration.Name));
    }

    /// <summary>The first edit after which it is as it is now; none where it was so before all of them. Not found where the history is too long.</summary>
    private async Task<(bool Found, StoredEdit? Edit)> First(TouchedGroup group, CancellationToken cancel)
    {
        // After the edit at “touched” it is as it is now, after the one at “not” it is not yet; the edits are in order, the latest first.
        var (touched, not) = (0, _edits.Length);
        if (await IsTouchedBefore(group, not, cancel) is not false and var all)
            return (all == true && _edits.Length < MostEdits, null);
        while (not - touched > 1)
        {
            var middle = (touched + not) / 2;
            if (await IsTouchedBefore(group, middle, cancel) is not { } isTouched)
                return (false, null);
            (touched, not) = isTouched ? (middle, not) : (touched, middle);
        }
        return (true, _edits[touched]);
    }

    /// <summary>Whether it is as it is now where the latest edits, so many of them, are taken back; null where that cannot be told.</summary>
    private async Task<bool?> IsTouchedBefore(TouchedGroup group, int latest, CancellationToken cancel)
    {
        if (DocumentWithout(latest) is not { } document)
            return null;
        if (group.Subject.SetAside.Length > 0)
            document = document.WithRulesAtRest(group.Subject.SetAside.ToHashSet());
        var supposed = await models.Supposed(draft.Revision with { Document = document }, draft.Model.Facts, cancel);
        try
        {
            var after = await ImpactRuns.OutcomeOf(supposed, group.Subject, group.Before, cancel);
            var impact = ConfigurationImpact.Of(group.Before, after, ReadPicks.Of(supposed, group.Subject.Configuration).Faults.Count > 0);
            return impact.Kind == ImpactKind.Unknown ? null : impact.Kind == group.Impact.Kind
                && (impact.Kind != ImpactKind.Changes || impact.Changes.SequenceEqual(group.Impact.Changes));
        }
        finally
        {
            supposed.Forget();
        }
    }

    private ModelDocument? DocumentWithout(int latest)
    {
        var wanted = latest == 0 ? draft.Revision.Head : _edits[latest - 1].Sequence - 1;
        var (at, document) = _documents.First(d => d.Key >= wanted);
        if (at == wanted)
            return document;
        foreach (var steps in _edits.Where(e => e.Sequence > wanted && e.Sequence <= at).SelectMany(e => e.Inverse).Chunk(Limits.MostSteps))
        {
            var result = ModelEditor.Apply(document, new("", [.. steps]), draft.Model.Facts);
            if (result.Refusal is not null)
                return null;
            document = result.Document;
        }
        return _documents[wanted] = document;
    }
}
