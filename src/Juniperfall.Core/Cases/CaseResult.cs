using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Cases;

/// <summary>What became of a test case.</summary>
public enum CaseState
{
    /// <summary>Everything came out as expected.</summary>
    Passed,

    /// <summary>Something came out otherwise.</summary>
    Failed,

    /// <summary>Something that it names is gone, or is none of its values any more.</summary>
    Faulty,

    /// <summary>Time ran out before it was known.</summary>
    Unknown,
}

/// <summary>An expectation that something else came out for.</summary>
/// <param name="Expectation">Its place in the case, counted from 0.</param>
/// <param name="Actual">What came out; empty where nothing did.</param>
public sealed record CaseDifference(int Expectation, string Actual);

/// <summary>A test case held against what came out of it.</summary>
public sealed record CaseResult(CaseState State, ImmutableArray<CaseDifference> Differences, ImmutableArray<CaseFault> Faults)
{
    /// <param name="facts">Everything that came out; with the count where that is expected.</param>
    /// <param name="isKnown">Whether everything was found out in time.</param>
    public static CaseResult Of(TestCase one, CaseQuestion question, IEnumerable<CaseFact> facts, bool isKnown)
    {
        var actual = new Dictionary<(ExpectedOf, string), string>();
        foreach (var fact in facts)
            actual.TryAdd((fact.Of, fact.At), fact.Is);
        var differences = ImmutableArray.CreateBuilder<CaseDifference>();
        for (var i = 0; i < one.Expected.Length; i++)
        {
            var expected = one.Expected[i];
            var came = actual.GetValueOrDefault((expected.Of, expected.At), expected.Of == ExpectedOf.Rule ? "no" : "");
            if (!IsMet(expected, came))
                differences.Add(new(i, came));
        }
        var state = !question.Faults.IsEmpty ? CaseState.Faulty : !isKnown ? CaseState.Unknown : differences.Count > 0 ? CaseState.Failed : CaseState.Passed;
        return new(state, differences.ToImmutable(), question.Faults);
    }

    private static bool IsMet(CaseExpectation expected, string actual)
    {
        if (expected.Is == actual)
            return true;
        return Exact.TryParse(expected.Is, out var wanted) && Exact.TryParse(actual, out var came)
            && (wanted - came).Abs() <= (Exact.TryParse(expected.Within, out var within) ? within : Exact.Zero);
    }

    /// <summary>Whether what came out is expected unless one says otherwise: the verdict with its rules, lines and totals; not each value and time.</summary>
    public static bool IsUsuallyExpected(ExpectedOf of) =>
        of is not (ExpectedOf.Value or ExpectedOf.Available or ExpectedOf.Setup or ExpectedOf.Run or ExpectedOf.Work or ExpectedOf.Count);

    /// <summary>Pairs of cases, by their place, that ask the same and expect different things of it: one of them always fails.</summary>
    public static IEnumerable<(int First, int Second, ExpectedOf Of, string At)> Contradictions(IReadOnlyList<TestCase> cases)
    {
        var alike = cases.Select((c, i) => (Case: c, Place: i)).GroupBy(c => string.Join('\n',
            c.Case.Picks.Select(p => $"{p.At}={p.Is}").Order().Append($"{c.Case.Site} {c.Case.Date:O}")));
        foreach (var group in alike)
        {
            var seen = new Dictionary<(ExpectedOf, string, string), (int Place, CaseExpectation Expected)>();
            foreach (var (one, place) in group)
                foreach (var expected in one.Expected)
                    // What is of the whole order hangs on the quantity.
                    if (!seen.TryAdd((expected.Of, expected.At, one.Quantity), (place, expected))
                        && seen[(expected.Of, expected.At, one.Quantity)] is var before && !Overlap(before.Expected, expected))
                        yield return (before.Place, place, expected.Of, expected.At);
        }
    }

    private static bool Overlap(CaseExpectation one, CaseExpectation other)
    {
        if (one.Is == other.Is)
            return true;
        if (!Exact.TryParse(one.Is, out var a) || !Exact.TryParse(other.Is, out var b))
            return false;
        static Exact Off(CaseExpectation of) => Exact.TryParse(of.Within, out var off) ? off : Exact.Zero;
        return (a - b).Abs() <= Off(one) + Off(other);
    }
}
