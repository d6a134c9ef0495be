using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Cases;

/// <param name="Code">The value as a pick writes it: the code of a value in place of its id.</param>
/// <param name="Fault">Why it cannot be picked any more; null where it can.</param>
public sealed record CasePickView(string Path, string Label, string Value, string Code, string ValueLabel, string? Fault);

/// <summary>One thing that is expected.</summary>
/// <param name="Index">Its place in the case, by which it is changed.</param>
/// <param name="Is">What is expected, as it is stored.</param>
/// <param name="Shown">The same as people read it.</param>
/// <param name="Actual">What came out instead, as it would be stored; null where it is met, or not known yet.</param>
/// <param name="Fault">Why it cannot be asked any more; null where it can.</param>
public sealed record CaseExpectationView(int Index, ExpectedOf Of, string At, string Subject, string Is, string Shown, string? Within, string? Because,
    string? Actual, string? ActualShown, string? Fault);

/// <param name="State">passed, failed, faulty, unknown; null while it is not asked yet.</param>
/// <param name="First">The first difference in a sentence; empty where it passed.</param>
public sealed record CaseView(string Id, string Name, string? Note, string? Site, DateOnly? Date, string Quantity, CaseState? State, string First,
    IReadOnlyList<CasePickView> Picks, IReadOnlyList<CaseExpectationView> Expected);

/// <summary>The test cases of a revision as it stands.</summary>
/// <param name="Head">The edit that they were held against.</param>
/// <param name="Running">Whether some are still being asked.</param>
/// <param name="All">How many cases there are; the cases themselves are left out where only counts are asked for.</param>
/// <param name="Contradictions">Pairs of cases of which one always fails, in sentences.</param>
public sealed record CasesView(long Head, bool Running, string? Trouble, int All, int Passed, int Failed, int Open, IReadOnlyList<CaseView> Cases,
    IReadOnlyList<string> Contradictions);

/// <summary>One thing that comes out of a question, as a case could expect it.</summary>
/// <param name="IsUsual">Whether it is expected unless one says otherwise.</param>
public sealed record CaseFactView(ExpectedOf Of, string At, string Subject, string Is, string Shown, bool IsUsual);

/// <summary>What a case of these picks could expect.</summary>
/// <param name="Picks">The picks, as a case stores them.</param>
public sealed record CaseFactsView(IReadOnlyList<CasePick> Picks, IReadOnlyList<CaseFactView> Facts);

/// <summary>Something of the model that cases can reach.</summary>
/// <param name="Part">The value, or the row of a grid, as people read it; empty where it is the row as a whole.</param>
public sealed record CoveredView(CoveredKind Kind, string RowId, string? AssemblyId, string Name, string Part);

/// <summary>How much of one kind is reached, and what is not.</summary>
public sealed record CoverageOfKindView(CoveredKind Kind, int Reached, int All, IReadOnlyList<CoveredView> Missing);

/// <summary>A case that would reach something that none reaches yet.</summary>
/// <param name="Case">It, as it can be added to the model.</param>
public sealed record ProposedCaseView(TestCase Case, string Name, IReadOnlyList<CasePickView> Picks, IReadOnlyList<CoveredView> Reaches);

/// <param name="Pending">Whether cases are still being asked: what they reach is not all known, and nothing is proposed yet.</param>
/// <param name="Finished">False where time ran out: there may be more to propose.</param>
public sealed record CoverageView(IReadOnlyList<CoverageOfKindView> Kinds, IReadOnlyList<ProposedCaseView> Proposals, bool Pending, bool Finished);

/// <summary>Test cases and what comes of them, as pages show them.</summary>
internal sealed class CaseViewWords(CompiledModel compiled, bool seesCosts)
{
    private readonly CaseWords _words = new(compiled.Model, compiled.Text, compiled.Words);

    public CasesView Of(CaseRun run)
    {
        var (cases, results) = (compiled.Revision.Document.Cases, ResultsOf(run));
        return CountsOf(run) with
        {
            Cases = [.. cases.Select(c => Of(c, results.GetValueOrDefault(c.Id)))],
            Contradictions = [.. CaseResult.Contradictions(cases).Take(MostContradictions).Select(c =>
                $"“{NameOf(cases[c.First])}” and “{NameOf(cases[c.Second])}” ask the same and expect different things: {_words.Subject(c.Of, c.At)}.")],
        };
    }

    /// <summary>How many pass and fail, without the cases themselves.</summary>
    public CasesView CountsOf(CaseRun run)
    {
        var (cases, results) = (compiled.Revision.Document.Cases, ResultsOf(run));
        var states = cases.Select(c => results.GetValueOrDefault(c.Id)?.State).ToList();
        var open = states.Count(s => s is null);
        return new(compiled.Revision.Head, open > 0 && run.Trouble is null, run.Trouble, cases.Length, states.Count(s => s == CaseState.Passed),
            states.Count(s => s is CaseState.Failed or CaseState.Faulty), open, [], []);
    }

    /// <summary>A run of a later edit can be of cases that expect something else.</summary>
    private IReadOnlyDictionary<string, CaseResult> ResultsOf(CaseRun run) =>
        run.Head == compiled.Revision.Head ? run.Results : new Dictionary<string, CaseResult>();

    private const int MostContradictions = 50;

    private static string NameOf(TestCase one) => one.Name.Length > 0 ? one.Name : one.Id;

    private bool MaySee(ExpectedOf of) => seesCosts || of != ExpectedOf.Cost;

    private CaseView Of(TestCase one, CaseResult? result)
    {
        var faults = result?.Faults ?? CaseQuestion.Of(one, compiled.Model, compiled.Text).Faults;
        var actual = result?.Differences.ToDictionary(d => d.Expectation, d => d.Actual) ?? [];
        var told = result?.Differences.FirstOrDefault(d => MaySee(one.Expected[d.Expectation].Of));
        var first = result is null ? "" : result.State != CaseState.Failed ? _words.First(one, result) : told is null ? "" : _words.Sentence(one, told);
        return new(one.Id, NameOf(one), one.Note, one.Site, one.Date, one.Quantity, result?.State, first,
            [.. one.Picks.Select((p, i) => Of(p, faults.FirstOrDefault(f => f.Pick == i)?.Sentence))],
            [.. one.Expected.Select((e, i) => (Expected: e, Index: i)).Where(e => MaySee(e.Expected.Of)).Select(e => Of(e.Expected, e.Index,
                actual.GetValueOrDefault(e.Index), faults.FirstOrDefault(f => f.Expectation == e.Index)?.Sentence))]);
    }

    public CasePickView Of(CasePick pick, string? fault) =>
        new(pick.At, compiled.LabelOf(pick.At), pick.Is,
            compiled.Model.Index.Values.TryGetValue(pick.Is, out var value) ? value.Value.Code : pick.Is,
            _words.Shown(ExpectedOf.Value, pick.At, pick.Is), fault);

    private CaseExpectationView Of(CaseExpectation e, int index, string? actual, string? fault) =>
        new(index, e.Of, e.At, _words.Subject(e.Of, e.At), e.Is, _words.Shown(e.Of, e.At, e.Is), e.Within, e.Because, actual,
            actual is null ? null : _words.Shown(e.Of, e.At, actual), fault);

    public CaseFactView Of(CaseFact fact) =>
        new(fact.Of, fact.At, _words.Subject(fact.Of, fact.At), fact.Is, _words.Shown(fact.Of, fact.At, fact.Is), CaseResult.IsUsuallyExpected(fact.Of));

    public CoverageView Of(IReadOnlyList<Covered> all, IReadOnlyList<(ProposedCase Proposed, TestCase Case)> proposals, bool pending, bool finished) =>
        new([.. all.GroupBy(c => c.Kind).OrderBy(g => g.Key).Select(g => new CoverageOfKindView(g.Key, g.Count(c => c.Cases > 0), g.Count(),
            [.. g.Where(c => c.Cases == 0).Take(MostMissing).Select(Of)]))],
            [.. proposals.Select(p => new ProposedCaseView(p.Case, p.Case.Name, [.. p.Case.Picks.Select(x => Of(x, null))],
                [.. p.Proposed.Reaches.Select(Of)]))], pending, finished);

    private const int MostMissing = 200;

    private CoveredView Of(Covered covered) => new(covered.Kind, covered.RowId, compiled.Model.Index.AssemblyOfRow.GetValueOrDefault(covered.RowId)?.Id,
        compiled.NameOf(covered.RowId), PartOf(covered));

    private string PartOf(Covered covered) => compiled.Model.Index.Values.TryGetValue(covered.Part, out var value) ? compiled.Words.LabelOf(value.Value)
        : covered.Part.StartsWith("rows/", StringComparison.Ordinal) && int.TryParse(covered.Part.AsSpan(5), out var row)
            ? $"row {(row + 1).ToString(System.Globalization.CultureInfo.InvariantCulture)}" : covered.Part;

    /// <summary>What a proposed case is called: what it picks, or the rule that it is for.</summary>
    public string NameOf(ProposedCase proposed)
    {
        if (proposed.Reaches is [{ Kind: CoveredKind.Rule } rule])
            return $"Ruled out: {compiled.NameOf(rule.RowId)}";
        var words = proposed.Picks.Take(3).Select(p => $"{compiled.LabelOf(p.Path)} {compiled.ValueAt(p.Path, p.Value)}").ToList();
        return words.Count == 0 ? "As suggested" : string.Join(", ", words) + (proposed.Picks.Length > words.Count ? " …" : "");
    }
}
