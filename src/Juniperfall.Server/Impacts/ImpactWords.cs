using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>What a draft makes of something saved, as people read it.</summary>
internal sealed class ImpactWords(CompiledModel from, CompiledModel target)
{
    private const int MostChanges = 40;
    private readonly CaseWords _then = new(from.Model, from.Text, from.Words), _now = new(target.Model, target.Text, target.Words);

    public ImpactEntry Of(ImpactSubject subject, ConfigurationImpact impact, SavedOutcome after, IReadOnlyList<PickFault> faults)
    {
        var stored = subject.Configuration;
        var changes = impact.Changes.Take(MostChanges).Select(Of).ToList();
        var (because, rows) = Reason(impact, after, faults);
        return new(subject.Id, stored.Version, subject.IsStructure, stored.Name, target.Revision.Document.Code, stored.RevisionId,
            subject.RevisionNumber, stored.ChangedBy, stored.ChangedAt, impact.Kind, because, rows, changes,
            impact.Changes.Length, subject.SetAside.Length > 0, Group(impact, rows, because));
    }

    private ImpactChange Of(FactChange change)
    {
        var row = RowPath.RowId(change.At);
        // What is gone is called as it was.
        var words = change.At.Length == 0 || target.Model.Index.Rows.ContainsKey(row) ? _now : _then;
        var by = Exact.TryParse(change.Before, out var before) && Exact.TryParse(change.After, out var after) ? (after - before).ToDisplay(3) : null;
        return new(change.Of, row, words.Subject(change.Of, change.At), _then.Shown(change.Of, change.At, change.Before),
            _now.Shown(change.Of, change.At, change.After), by);
    }

    private (string Sentence, IReadOnlyList<RowLink> Rows) Reason(ConfigurationImpact impact, SavedOutcome after, IReadOnlyList<PickFault> faults)
    {
        if (impact.Kind == ImpactKind.AsksMore)
            return ($"Needed now: {string.Join(", ", after.Missing.Select(target.LabelOf))}.", []);
        if (impact.Kind != ImpactKind.Breaks)
            return ("", []);
        if (faults is [var fault, ..])
            return ($"{target.LabelOf(fault.Path)}: {fault.Sentence}", []);
        // Of what came out before it is seen at once what it breaks; only where that is nothing was a reason looked for.
        var (picks, causes) = !after.Broken.IsEmpty ? ([], after.Broken) : after.Clash is { } clash ? (clash.Picks, clash.Causes) : ([], []);
        if (causes.IsEmpty && picks.IsEmpty)
            return ("", []);
        var reason = new AnswerWords(target).Reason(picks, causes);
        return (reason.Sentence, [.. reason.Causes.Where(c => c.Kind == CauseKind.Rule)
            .Select(c => new RowLink(c.RowId, c.AssemblyId, target.NameOf(c.RowId)))]);
    }

    /// <summary>Alike is what breaks for the same rules, or of which the same rows come out otherwise; where only totals do, which of them.</summary>
    private static string Group(ConfigurationImpact impact, IReadOnlyList<RowLink> rows, string because) => impact.Kind switch
    {
        ImpactKind.Breaks => $"breaks {(rows.Count > 0 ? string.Join(' ', rows.Select(r => r.RowId).Order()) : because)}",
        ImpactKind.Changes => $"changes {string.Join(' ', Keys(impact).Distinct().Order())}",
        var kind => $"{kind} {because}",
    };

    private static IEnumerable<string> Keys(ConfigurationImpact impact)
    {
        var lines = impact.Changes.Where(c => c.At.Length > 0 && c.Of is not (ExpectedOf.Run or ExpectedOf.Setup)).Select(c => RowPath.RowId(c.At)).ToList();
        return lines.Count > 0 ? lines : impact.Changes.Select(c => c.At.Length > 0 ? RowPath.RowId(c.At) : c.Of.ToString());
    }
}
