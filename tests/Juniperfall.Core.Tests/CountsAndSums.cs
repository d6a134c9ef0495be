using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Models of yes/no in counted groups and of numbers with sums, products, quotients and roundings, where all combinations can still be gone
/// through: long sessions on one reasoner, whose known configurations are mended again and again.
/// </summary>
public class CountsAndSums
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 150 : 15;

    private sealed class Case
    {
        private const int YesNo = 8, Numbers = 4, Least = -1, Most = 5;
        private readonly Random _random;
        private readonly List<Func<int[], bool>> _tests = [];
        private readonly List<Row> _rows = [];

        public Case(int seed)
        {
            _random = new(seed);
            for (var i = 0; i < YesNo; i++)
                _rows.Add(new AttributeRow { Id = Id(i), Name = Id(i), Kind = AttributeKind.YesNo, Required = true });
            for (var i = YesNo; i < Count; i++)
                _rows.Add(new AttributeRow { Id = Id(i), Name = Id(i), Kind = AttributeKind.Whole, Min = $"{Least}", Max = $"{Most}", Required = true });
            for (var i = _random.Next(3, 8); i > 0; i--)
            {
                var (text, holds) = Rule();
                _rows.Add(new StatementRule { Id = "r" + i, Number = i, Expression = text });
                _tests.Add(holds);
            }
            Model = new(new()
            {
                Id = "m",
                Code = "CR",
                Root = "root",
                Assemblies = [new() { Id = "root", Name = "room", Topics = [new() { Id = "t", Rows = [.. _rows] }] }]
            }, LibraryFacts.Empty);
            Assert.True(Model.Findings.Count == 0, string.Join(" ", Model.Findings.Select(f => f.Diagnostic.Message)));
            All = [.. Combinations(new int[Count], 0).Where(c => _tests.TrueForAll(t => t(c)))];
        }

        public BoundModel Model { get; }
        public int[][] All { get; }
        public static int Count => YesNo + Numbers;
        public static string Id(int i) => (i < YesNo ? "b" : "n") + i;
        public static int SizeOf(int i) => i < YesNo ? 2 : Most - Least + 1;
        public static Value ValueOf(int i, int value) => i < YesNo ? Value.Of(value == 1) : Value.Of((Exact)(value + Least));

        private static IEnumerable<int[]> Combinations(int[] chosen, int at)
        {
            if (at == Count)
            {
                yield return [.. chosen];
                yield break;
            }
            for (chosen[at] = 0; chosen[at] < SizeOf(at); chosen[at]++)
                foreach (var one in Combinations(chosen, at + 1))
                    yield return one;
        }

        private (string Text, Func<int[], bool> Holds) Rule() => _random.Next(6) switch
        {
            0 or 1 => Group(),
            2 => (Group(), Literal()) is var ((group, counts), (literal, says)) ? ($"{literal} or {group}", c => says(c) || counts(c)) : default,
            3 => (Relation(), Literal()) is var ((relation, relates), (literal, says))
                ? ($"if {literal} then {relation}", c => !says(c) || relates(c)) : default,
            _ => Relation(),
        };

        private (string Text, Func<int[], bool> Holds) Literal() => _random.Next(YesNo) is var at
            && _random.Next(2) == 0 ? (Id(at), c => c[at] == 1) : ($"not {Id(at)}", c => c[at] == 0);

        private (string Text, Func<int[], bool> Holds) Group()
        {
            int[] members = [.. Enumerable.Range(0, YesNo).OrderBy(_ => _random.Next()).Take(_random.Next(5, YesNo + 1))];
            var count = _random.Next(1, 4);
            var (kind, test) = _random.Next(3) switch
            {
                0 => ("exactly", (Func<int, bool>)(n => n == count)),
                1 => ("at most", n => n <= count),
                _ => ("at least", n => n >= count),
            };
            return ($"{kind} {count} of ({string.Join(", ", members.Select(Id))})", c => test(members.Count(m => c[m] == 1)));
        }

        private (string Text, Func<int[], bool> Holds) Relation()
        {
            int[] at = [.. Enumerable.Range(YesNo, Numbers).OrderBy(_ => _random.Next())];
            var (a, b, d) = (at[0], at[1], at[2]);
            var (x, y, z) = (Id(a), Id(b), Id(d));
            var k = _random.Next(2, 5);
            static long N(int[] c, int i) => c[i] + Least;
            return _random.Next(7) switch
            {
                0 => ($"{x} * {y} <= {k}", c => N(c, a) * N(c, b) <= k),
                1 => ($"{z} = ceil({x} * {y} / {k})", c => N(c, d) == (long)Math.Ceiling((decimal)(N(c, a) * N(c, b)) / k)),
                2 => ($"2 * {x} + {y} - {z} = {k}", c => 2 * N(c, a) + N(c, b) - N(c, d) == k),
                // By zero nothing can be divided, and then the rule does not hold.
                3 => ($"{x} / {y} >= 1", c => N(c, b) != 0 && (decimal)N(c, a) / N(c, b) >= 1),
                4 => ($"abs({x} - {y}) <> {z}", c => Math.Abs(N(c, a) - N(c, b)) != N(c, d)),
                5 => ($"max({x}, {y}) + 0.1 > {z} + 0.1 * {k}", c => Math.Max(N(c, a), N(c, b)) + 0.1m > N(c, d) + 0.1m * k),
                _ => ($"floor({x} / {k}) = floor({y} / 2)", c => Math.Floor((decimal)N(c, a) / k) == Math.Floor((decimal)N(c, b) / 2)),
            };
        }
    }

    [Fact]
    public void In_long_sessions_every_answer_is_that_of_all_combinations_gone_through()
    {
        var (clashes, ruledOut) = (0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var c = new Case(seed);
            var (reasoner, random) = (new Reasoner(c.Model), new Random(seed));
            if (c.All.Length == 0)
            {
                Assert.Equal(false, reasoner.Answer(new([]), CancellationToken.None).Valid);
                continue;
            }
            var picks = new List<(int At, int Value)>();
            for (var step = 0; step < 10; step++)
            {
                var at = random.Next(Case.Count);
                picks.RemoveAll(p => p.At == at);
                if (random.Next(5) > 0)
                    picks.Add((at, random.Next(Case.SizeOf(at))));
                List<(int At, int Value)> standing = [];
                var left = c.All;
                foreach (var pick in picks)
                    if (left.Where(x => x[pick.At] == pick.Value).ToArray() is { Length: > 0 } kept)
                        (left, standing) = (kept, [.. standing, pick]);
                var answer = reasoner.Answer(new([.. picks.Select(p => new Pick(Case.Id(p.At), Case.ValueOf(p.At, p.Value)))]), CancellationToken.None);
                Assert.Equal(standing.Count == picks.Count, answer.Valid);
                Assert.True(answer.Exact);
                clashes += answer.Clashes.Length;
                for (var i = 0; i < Case.Count; i++)
                    for (var v = 0; v < Case.SizeOf(i); v++)
                    {
                        var canBeHad = left.Any(x => x[i] == v);
                        ruledOut += canBeHad ? 0 : 1;
                        Assert.True(canBeHad == answer.Attributes[i].Available.Has(Case.ValueOf(i, v)),
                            $"seed {seed}, step {step}: {Case.Id(i)} = {Case.ValueOf(i, v)}");
                        if (standing.Exists(p => p.At == i))
                            Assert.True(c.All.Any(x => x[i] == v
                                && standing.TrueForAll(p => p.At == i || x[p.At] == p.Value)) == answer.Attributes[i].Alternatives!.Has(Case.ValueOf(i, v)),
                                $"seed {seed}, step {step}: {Case.Id(i)} to {Case.ValueOf(i, v)}");
                    }
            }
        }
        Assert.True(clashes > Rounds / 3 && ruledOut > Rounds * 20, $"{clashes} clashes, {ruledOut} ruled out");
    }
}
