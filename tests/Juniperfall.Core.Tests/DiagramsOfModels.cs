using System.Numerics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Diagrams;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Tests;

/// <summary>Decision diagrams answer as search does, whatever they are made of, and are given up where they would become large.</summary>
public class DiagramsOfModels
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 600 : 60;

    private static string Shown(AttributeAnswer a) => $"{a.Path} {a.State} {a.Applies} {a.Value} {Shown(a.Available)} {(a.Alternatives is { } other ? Shown(other) : "")}";

    private static string Shown(Available available) =>
        $"{string.Join(",", available.Values)} {available.None} {available.MayBeAbsent} {available.Lowest} {available.Highest}";

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Answers_and_counts_are_the_same_with_and_without_them(bool besideNumber)
    {
        var whole = 0;
        for (var seed = 0; seed < Rounds; seed++)
        {
            var document = WithAndWithoutNumbers.Model(seed, withNumber: false);
            if (besideNumber)
                document = WithSum(document);
            var model = new BoundModel(document, RandomModels.Facts);
            Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => f.Diagnostic.Message)));
            var (with, without) = (new Reasoner(model), new Reasoner(model));
            with.MakeDiagrams(default);
            whole += with.Prepared.Diagrams is { IsWhole: true } ? 1 : 0;
            Assert.False(with.Prepared.Diagrams is { IsWhole: true } && besideNumber);
            var random = new Random(seed);
            var picks = new List<Pick>();
            for (var step = 0; step < 10; step++)
            {
                var (mine, theirs) = (with.Answer(new([.. picks]), default), without.Answer(new([.. picks]), default));
                Assert.Equal((theirs.Valid, theirs.Exact), (mine.Valid, mine.Exact));
                Assert.Equal(theirs.Attributes.Select(Shown), mine.Attributes.Select(Shown));
                Assert.Equal(theirs.Clashes.Select(c => string.Join(" ", c.Picks)), mine.Clashes.Select(c => string.Join(" ", c.Picks)));
                if (step % 3 == 0)
                    Assert.Equal(without.Count(new(theirs.StandingPicks), default), with.Count(new(theirs.StandingPicks), default));
                if (mine.Attributes.IsEmpty)
                    break;
                WithAndWithoutNumbers.Change(picks, mine, random);
            }
        }
        Assert.Equal(besideNumber, whole == 0);
    }

    /// <summary>A part of its own that is too large for a diagram: a sum of numbers with very many combinations.</summary>
    private static ModelDocument WithSum(ModelDocument document) => document with
    {
        Assemblies = [.. document.Assemblies.Select((a, i) => i > 0 ? a : a with
        {
            Topics = [.. a.Topics, new() { Id = "sums", Rows = [.. Enumerable.Range(0, 3).Select(n => SmallModels.Whole($"n{n}", 0, 59)),
                SmallModels.Rule("sum", "n0 * n1 + n2 = 1234")] }],
        })],
    };

    [Fact]
    public void Clauses_of_variables_with_many_values_keep_what_all_combinations_keep()
    {
        for (var seed = 0; seed < Rounds * 3; seed++)
        {
            var random = new Random(seed);
            int[] sizes = [.. Enumerable.Range(0, random.Next(2, 7)).Select(_ => random.Next(1, 5))];
            var first = sizes.Select((_, i) => sizes.Take(i).Sum()).ToArray();
            var all = Array.ConvertAll(sizes, s => (1UL << s) - 1);
            List<SlotClause> clauses = [.. Enumerable.Range(0, random.Next(0, 12)).Select(_ => new SlotClause([.. Enumerable.Range(0, sizes.Length)
                .Where(_ => random.Next(2) == 0).Select(v => (v, (ulong)random.NextInt64((long)all[v]) & all[v])).Where(l => l.Item2 != 0)]))];
            var kept = Combinations(sizes).Where(c => clauses.TrueForAll(k => k.Literals.Any(l => (l.Values >> c[l.Variable] & 1) != 0))).ToList();
            var diagram = DiagramCompiler.Of([.. Enumerable.Range(0, sizes.Length)], all, clauses, v => first[v], default);
            if (kept.Count == 0)
            {
                Assert.Null(diagram);
                continue;
            }
            Assert.Equal(kept.Count, diagram!.Count(BitSet.Full(sizes.Sum())));
            // Some picks, which may contradict one another.
            var costs = new byte[sizes.Sum()];
            var picks = Enumerable.Range(0, sizes.Length).Where(_ => random.Next(3) == 0).ToDictionary(v => v, v => random.Next(sizes[v]));
            foreach (var (variable, value) in picks)
                for (var other = 0; other < sizes[variable]; other++)
                    costs[first[variable] + other] = (byte)(other == value ? 0 : 1);
            var inside = diagram.Inside(costs);
            var given = diagram.Given(inside);
            for (var leaf = 0; leaf < given.Length; leaf++)
            {
                var variable = Array.FindLastIndex(first, f => f <= diagram.Slots[leaf]);
                var having = kept.Where(c => first[variable] + c[variable] == diagram.Slots[leaf]).ToList();
                Assert.Equal(having.Count == 0 ? DecisionDiagram.Many : Math.Min(having.Min(Given), DecisionDiagram.Many), given[leaf]);
            }
            var cheapest = diagram.Cheapest(inside).Order().Select((slot, v) => slot - first[v]).ToArray();
            Assert.Contains(cheapest, kept);
            Assert.Equal(kept.Min(Given), Given(cheapest));

            int Given(int[] c) => picks.Count(p => c[p.Key] != p.Value);
        }
    }

    private static IEnumerable<int[]> Combinations(int[] sizes) => sizes.Aggregate((IEnumerable<int[]>)[[]],
        (before, size) => before.SelectMany(b => Enumerable.Range(0, size).Select(v => (int[])[.. b, v])));

    [Fact]
    public void A_chain_of_thousands_is_counted_at_once_and_what_hangs_together_too_much_is_given_up()
    {
        // Each needs the one before it: as many configurations as there are places to stop, and one.
        var chain = Enumerable.Range(1, 1_999).Select(i => new SlotClause([(i, 1UL), (i - 1, 2UL)])).ToList();
        int[] variables = [.. Enumerable.Range(0, 2_000)];
        var diagram = DiagramCompiler.Of(variables, [.. variables.Select(_ => 3UL)], chain, v => 2 * v, default)!;
        Assert.Equal(2_001, diagram.Count(BitSet.Full(4_000)));
        var random = new Random(7);
        var tangle = Enumerable.Range(0, 3_000)
            .Select(_ => new SlotClause([.. variables.Take(600).OrderBy(_ => random.Next()).Take(3).Select(v => (v, (ulong)random.Next(1, 3)))])).ToList();
        Assert.Null(DiagramCompiler.Of([.. variables.Take(600)], [.. variables.Take(600).Select(_ => 3UL)], tangle, v => 2 * v, default));
    }

    [Fact]
    public void Counts_of_many_members_are_clauses_and_counted_exactly()
    {
        string[] names = [.. Enumerable.Range(0, 30).Select(i => $"f{i}")];
        var model = SmallModels.Sound(SmallModels.Assembly("room", [.. names.Select(SmallModels.YesNo),
            SmallModels.Rule("§1", $"exactly one of ({string.Join(", ", names.Take(20))})"),
            SmallModels.Rule("§2", $"at most 2 of ({string.Join(", ", names.Skip(20))})")]));
        var reasoner = new Reasoner(model);
        reasoner.MakeDiagrams(default);
        Assert.True(reasoner.Prepared.Diagrams!.IsWhole);
        Assert.Equal(new(new BigInteger(20 * (1 + 10 + 45)), true), reasoner.Count(new([]), default));
        Assert.Equal(new(20, true), reasoner.Count(new(SmallModels.Picks(model, "f20=yes", "f21=no", "f22=yes")), default));
    }
}
