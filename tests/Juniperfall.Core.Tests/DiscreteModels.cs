using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Models of choices and yes/no with rules and grids, larger than those of every feature, where all combinations can still be
/// gone through: long sessions of picks on one reasoner, which has learned from all questions before.
/// </summary>
public class DiscreteModels
{
    private const int Values = 4;
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 200 : 25;

    private sealed class Case
    {
        private readonly Random _random;
        private readonly List<Func<int[], bool>> _tests = [];
        private readonly List<Row> _rows = [];
        private readonly int _choices, _yesNo;

        public Case(int seed)
        {
            _random = new(seed);
            (_choices, _yesNo) = (_random.Next(4, 7), _random.Next(1, 4));
            for (var i = 0; i < _choices; i++)
                _rows.Add(new AttributeRow { Id = Id(i), Name = Id(i), Kind = AttributeKind.Choice, ListId = "list", Required = true });
            for (var i = _choices; i < _choices + _yesNo; i++)
                _rows.Add(new AttributeRow { Id = Id(i), Name = Id(i), Kind = AttributeKind.YesNo, Required = true });
            for (var i = _random.Next(3, 9); i > 0; i--)
                Rule(i);
            for (var i = _random.Next(0, 3); i > 0; i--)
                Grid(i);
            var list = new ValueList
            {
                Id = "list",
                Name = "list",
                Values = [.. Enumerable.Range(0, Values).Select(v => new ListValue { Id = "v" + v, Code = "w" + v })]
            };
            Model = new(new()
            {
                Id = "m",
                Code = "CR",
                Root = "root",
                Lists = [list],
                Assemblies = [new() { Id = "root", Name = "room", Topics = [new() { Id = "t", Rows = [.. _rows] }] }]
            }, RandomModels.Facts);
            Assert.True(Model.Findings.Count == 0, string.Join(" ", Model.Findings.Select(f => f.Diagnostic.Message)));
            All = [.. Combinations(new int[_choices + _yesNo], 0).Where(c => _tests.TrueForAll(t => t(c)))];
        }

        public BoundModel Model { get; }
        public int[][] All { get; }
        public int Count => _choices + _yesNo;

        public static string Id(int i) => "a" + i;
        public bool IsChoice(int i) => i < _choices;
        public Value ValueOf(int i, int value) => IsChoice(i) ? Value.Choice("v" + value) : Value.Of(value == 1);
        public int SizeOf(int i) => IsChoice(i) ? Values : 2;

        private IEnumerable<int[]> Combinations(int[] chosen, int at)
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

        private (string Text, Func<int[], bool> Holds) Condition(int depth)
        {
            if (depth > 0)
            {
                var (a, x) = Condition(depth - 1);
                var (b, y) = Condition(depth - 1);
                var (d, z) = Condition(0);
                switch (_random.Next(7))
                {
                    case 0: return ($"({a} and {b})", c => x(c) && y(c));
                    case 1: return ($"({a} or {b})", c => x(c) || y(c));
                    case 2: return ($"not ({a})", c => !x(c));
                    case 3: return ($"(if {a} then {b})", c => !x(c) || y(c));
                    case 4: return ($"(({a}) = ({b}))", c => x(c) == y(c));
                    case 5: return ($"at most 1 of ({a}, {b}, {d})", c => (x(c) ? 1 : 0) + (y(c) ? 1 : 0) + (z(c) ? 1 : 0) <= 1);
                    default: return ($"exactly one of ({a}, {b}, {d})", c => (x(c) ? 1 : 0) + (y(c) ? 1 : 0) + (z(c) ? 1 : 0) == 1);
                }
            }
            var at = _random.Next(Count);
            if (!IsChoice(at))
                return (Id(at), c => c[at] == 1);
            var (first, second) = (_random.Next(Values), _random.Next(Values));
            return _random.Next(3) switch
            {
                0 => ($"{Id(at)} <> w{first}", c => c[at] != first),
                1 => ($"{Id(at)} in (w{first}, w{second})", c => c[at] == first || c[at] == second),
                _ => ($"{Id(at)} = w{first}", c => c[at] == first),
            };
        }

        private void Rule(int number)
        {
            var (text, holds) = Condition(_random.Next(1, 4));
            _rows.Add(new StatementRule { Id = "r" + number, Number = number, Expression = text });
            _tests.Add(holds);
        }

        private void Grid(int number)
        {
            int[] keys = [.. Enumerable.Range(0, Count).OrderBy(_ => _random.Next()).Take(3)];
            int[][] rows = [.. Enumerable.Range(0, _random.Next(4, 20))
                .Select(_ => keys.Select(k => _random.Next(5) == 0 ? -1 : _random.Next(SizeOf(k))).ToArray())];
            _rows.Add(new CombinationGrid
            {
                Id = "g" + number,
                Name = "g" + number,
                Columns = [.. keys.Select((k, i) => new GridColumn { Id = $"g{number}c{i}", Name = "k" + i, Reference = Id(k) })],
                Rows = [.. rows.Select((r, i) =>
                    new GridRow { Id = $"g{number}r{i}", Cells = [.. r.Select((v, c) => v < 0 ? "*" : IsChoice(keys[c]) ? "w" + v : v == 1 ? "yes" : "no")] })],
            });
            _tests.Add(c => rows.Any(r => keys.Select((k, i) => r[i] < 0 || r[i] == c[k]).All(m => m)));
        }
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void In_long_sessions_every_answer_is_that_of_all_combinations_gone_through(bool byDiagrams)
    {
        var (clashes, follows, reasons) = (0, 0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var c = new Case(seed);
            var reasoner = new Reasoner(c.Model);
            var random = new Random(seed);
            if (c.All.Length == 0)
            {
                Assert.Equal(false, reasoner.Answer(new([]), CancellationToken.None).Valid);
                continue;
            }
            if (byDiagrams)
            {
                reasoner.MakeDiagrams(CancellationToken.None);
                Assert.True(reasoner.Prepared.Diagrams!.IsWhole);
                Assert.Equal(new(c.All.Length, true), reasoner.Count(new([]), CancellationToken.None));
            }
            var picks = new List<(int At, int Value)>();
            for (var step = 0; step < 12; step++)
            {
                // Picks are made, changed and let go of; not every one can be had.
                var at = random.Next(c.Count);
                picks.RemoveAll(p => p.At == at);
                if (random.Next(5) > 0)
                    picks.Add((at, random.Next(c.SizeOf(at))));
                List<(int At, int Value)> standing = [];
                int[][] left = c.All;
                foreach (var pick in picks)
                    if (left.Where(x => x[pick.At] == pick.Value).ToArray() is { Length: > 0 } kept)
                        (left, standing) = (kept, [.. standing, pick]);
                var question = new Question([.. picks.Select(p => new Pick(Case.Id(p.At), c.ValueOf(p.At, p.Value)))]);
                var answer = reasoner.Answer(question, CancellationToken.None);
                Assert.True(answer.Attributes.Length == c.Count, $"seed {seed}, step {step}: no configuration at all");
                Assert.Equal(standing.Count == picks.Count, answer.Valid);
                clashes += answer.Clashes.Length;
                for (var i = 0; i < c.Count; i++)
                {
                    var attribute = answer.Attributes[i];
                    for (var v = 0; v < c.SizeOf(i); v++)
                    {
                        Assert.True(left.Any(x => x[i] == v) == attribute.Available.Has(c.ValueOf(i, v)), $"seed {seed}, step {step}: {Case.Id(i)} = {v}");
                        if (standing.Any(p => p.At == i))
                            Assert.True(c.All.Any(x => x[i] == v
                                && standing.TrueForAll(p => p.At == i || x[p.At] == p.Value)) == attribute.Alternatives!.Has(c.ValueOf(i, v)),
                                $"seed {seed}, step {step}: alternative {Case.Id(i)} = {v}");
                    }
                    follows += attribute.State == AttributeState.Follows ? 1 : 0;
                    // A reason does not name picks that it could do without.
                    if (attribute.State != AttributeState.Follows || reasons > step * seed)
                        continue;
                    var reason = reasoner.WhyFollows(question, attribute.Path, attribute.Value!.Value, CancellationToken.None).Reason!;
                    var member = Enumerable.Range(0, c.SizeOf(i)).First(v => c.ValueOf(i, v).Equals(attribute.Value));
                    bool Suffices(ImmutableArray<Pick> of) =>
                        c.All.All(x => x[i] == member
                        || of.Any(p => !c.ValueOf(int.Parse(p.Path[1..], System.Globalization.CultureInfo.InvariantCulture),
                        x[int.Parse(p.Path[1..], System.Globalization.CultureInfo.InvariantCulture)]).Equals(p.Value)));
                    Assert.True(Suffices(reason.Picks), $"seed {seed}: the picks do not suffice");
                    reasons++;
                }
            }
        }
        Assert.True(clashes > Rounds / 2 && follows > Rounds && reasons > Rounds, $"{clashes} clashes, {follows} followed, {reasons} reasons");
    }
}
