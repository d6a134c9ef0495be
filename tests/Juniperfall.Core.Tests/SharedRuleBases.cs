using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using SideBySide;

namespace Juniperfall.Core.Tests;

/// <summary>
/// A rule base of 60 attributes and 240 rules with sums, products, roundings and grids that our own generator did not make
/// (<c>tests/models</c>): values and reasons held against clasp.
/// </summary>
public class SharedRuleBases
{
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(60);
    private static readonly bool IsLong = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1";

    private static SharedRuleBase Mixed { get; } = new(Path.Combine(Architecture.Root, "tests", "models"), "mixed-m1");

    [Fact]
    public void Along_sessions_the_values_are_those_of_clasp()
    {
        var (reasoner, compared) = (new Reasoner(Mixed.Model), 0);
        foreach (var picks in Mixed.Questions.Where((_, i) => IsLong || i % 4 == 0))
        {
            var answer = reasoner.Answer(new([.. picks]), default);
            Assert.True(answer.Exact && answer.Valid == true);
            var theirs = Mixed.AskClasp(picks, Limit).Values;
            Assert.NotNull(theirs);
            var ours = SharedRuleBase.ValuesOf(answer, picks);
            Assert.True(ours.SetEquals(theirs),
                $"{string.Join(" ", ours.Except(theirs))} and not {string.Join(" ", theirs.Except(ours))} beside {string.Join(" ", picks)}");
            compared += theirs.Count;
        }
        Assert.True(compared > 3_000, $"only {compared} values were compared");
    }

    [Fact]
    public void Of_the_picks_of_a_clash_clasp_needs_each()
    {
        var (reasoner, random, needed) = (new Reasoner(Mixed.Model), new Random(5), 0);
        foreach (var picks in Mixed.Questions.Where((q, i) => q.Count is > 2 and < 9 && (IsLong || i % 3 == 0)))
        {
            var open = reasoner.Answer(new([.. picks]), default).Attributes.Where(a => a.State == AttributeState.Open && a.Available.Listed).ToList();
            var ruledOut = Mixed.Numbered.Where(n => open.Exists(a => a.Path == n.Path && !a.Available.Has(n.Value))).ToList();
            if (ruledOut.Count == 0)
                continue;
            var (path, value) = ruledOut[random.Next(ruledOut.Count)];
            var answer = reasoner.Answer(new([.. picks, new Pick(path, value)]), default);
            var clash = Assert.Single(answer.Clashes);
            Assert.True(clash.Finished && answer.Valid == false && clash.Causes.Length > 0);
            Assert.Empty(Mixed.AskClasp(clash.Picks, Limit).Values!);
            foreach (var pick in clash.Picks)
                Assert.NotEmpty(Mixed.AskClasp(clash.Picks.Remove(pick), Limit).Values!);
            needed += clash.Picks.Length;
        }
        Assert.True(needed > 5, $"only {needed} picks were held against clasp");
    }
}
