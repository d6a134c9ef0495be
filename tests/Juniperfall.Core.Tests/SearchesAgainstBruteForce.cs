using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Tests;

/// <summary>Bounds, optima, counts and enumeration, held against all configurations of random small models.</summary>
public class SearchesAgainstBruteForce
{
    [Fact]
    public void Tight_bounds_are_the_least_and_the_greatest_of_all_that_can_still_be_had()
    {
        var (met, open) = (0, 0);
        foreach (var c in RandomCase.Of(7))
        {
            if (c.All.Count == 0)
                continue;
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            var values = c.With(c.Standing()).Select(x => new Evaluator(c.Model, x.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value)))
                .ToList();
            foreach (var computed in answer.Open.Computed.Where(x => x.Number is not null))
            {
                var all = values.Select(e => e[computed.Path]).ToList();
                var numbers = all.Where(v => !v.IsNothing).Select(v => v.Number).ToList();
                var tight = c.Reasoner.Tight(answer, computed.Path, null, CancellationToken.None)!;
                Assert.True(tight.Finished);
                Assert.Equal(all.Any(v => v.IsNothing), tight.MayHaveNoValue);
                Assert.Equal((numbers.Count > 0 ? numbers.Min() : (Exact?)null, numbers.Count > 0 ? numbers.Max() : (Exact?)null), (tight.Low, tight.High));
                // What is shown without asking is never too narrow.
                Assert.True(numbers.Count == 0 || !(computed.Number!.Low > tight.Low || computed.Number.High < tight.High),
                    $"seed {c.Seed}: {computed.DisplayPath}");
                met++;
                open += tight.Low == tight.High ? 0 : 1;
            }
        }
        Assert.True(open > RandomCase.Rounds / 10, $"of {met} numbers only {open} were open");
    }

    [Fact]
    public void The_best_configuration_is_the_best_of_all_with_the_picks_and_is_one_of_them()
    {
        var met = 0;
        foreach (var c in RandomCase.Of(11))
        {
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            if (answer.Valid != true)
                continue;
            var within = c.With(c.Picks);
            foreach (var path in c.Reasoner.Goals.Where(g => g[0] != '#').Order().Take(3))
            {
                Value At(Dictionary<string, BruteForce.Slot> x) => x.TryGetValue(path, out var slot) ? slot.Applies ? slot.Value : Value.Nothing
                    : new Evaluator(c.Model, x.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value))[path];
                var numbers = within.Select(At).Where(v => v.Kind == ValueKind.Number).Select(v => v.Number).ToList();
                foreach (var highest in new[] { false, true })
                {
                    var best = c.Reasoner.Best(answer, path, highest, CancellationToken.None);
                    Assert.True(best.Proven);
                    Assert.Equal(numbers.Count == 0 ? null : highest ? numbers.Max() : numbers.Min(), best.Number);
                    if (best.Values is not { } values)
                        continue;
                    var found = Assert.Single(within, x =>
                        x.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value) is var applying && applying.Count == values.Length
                        && values.All(v => applying.TryGetValue(v.Path, out var value) && value.Equals(v.Value)));
                    Assert.Equal(best.Number, At(found).Number);
                    met++;
                }
            }
        }
        Assert.True(met > RandomCase.Rounds, $"only {met} were met");
    }

    [Fact]
    public void The_count_is_that_of_all_configurations_with_the_picks_where_instances_that_can_change_places_count_once()
    {
        var (met, interchangeable) = (0, 0);
        foreach (var c in RandomCase.Of(13))
        {
            var within = c.With(c.Picks);
            // Which instance is which matters where some expression names one, or where they are picked differently.
            var isSymmetric = c.Model.Document.Assemblies[0].Rows.OfType<Subassembly>().Single().Instances.Length == 2
                && !System.Text.Json.JsonSerializer.Serialize(c.Model.Document, DocumentJson.Options).Replace("applies(door[", "", StringComparison.Ordinal)
                    .Contains("door[", StringComparison.Ordinal)
                && c.Picks.Where(p => p.Path.StartsWith("sub:1/")).Select(p => (p.Path[6..], p.Value)).ToHashSet()
                    .SetEquals(c.Picks.Where(p => p.Path.StartsWith("sub:7/")).Select(p => (p.Path[6..], p.Value)));
            static string Of(Dictionary<string, BruteForce.Slot> x, string prefix) =>
                string.Join(",", x.Where(s => s.Key.StartsWith(prefix, StringComparison.Ordinal)).Select(s => $"{s.Key[prefix.Length..]}={s.Value}").Order());
            var expected = !isSymmetric ? within.Count : within.Select(x => string.Join(";",
                new[] { Of(x, "sub:1/"), Of(x, "sub:7/") }.Order()
                    .Append(string.Join(",", x.Where(s => !s.Key.Contains('/')).Select(s => $"{s.Key}={s.Value}").Order())))).Distinct().Count();
            var count = c.Reasoner.Count(new(c.Picks), CancellationToken.None);
            Assert.True(count.Exact && count.Number == expected, $"seed {c.Seed}: {count.Number} instead of {expected}, symmetric: {isSymmetric}");
            met += expected > 1 ? 1 : 0;
            interchangeable += expected < within.Count ? 1 : 0;
        }
        Assert.True(met > RandomCase.Rounds / 2 && interchangeable > 0, $"{met} models had several configurations, {interchangeable} interchangeable ones");
    }

    [Fact]
    public void Exploring_goes_through_all_configurations_in_their_order_and_a_sample_covers_all_pairs()
    {
        var (met, pairs) = (0, 0);
        foreach (var c in RandomCase.Of(14).Take(RandomCase.Rounds / 2))
        {
            var within = c.With(c.Picks);
            string Key(Func<string, BruteForce.Slot> at) =>
                string.Join(" ", c.Reasoner.AskedPaths.Select(p => at(p) is var slot && !slot.Applies ? "-" : slot.Value.ToString()));
            int Place(string path, BruteForce.Slot slot) => !slot.Applies ? -2 : slot.Value.IsNothing
                ? -1 : c.Brute.ValuesOf((AttributeRow)c.Model.Index.Rows[RowPath.RowId(path)]).ToList().IndexOf(slot.Value);
            var paths = c.Reasoner.AskedPaths.ToList();
            var expected = within.OrderBy(x => paths.Select(p => Place(p, x[p])).ToList(),
                Comparer<List<int>>.Create((x, y) => x.Zip(y).Select(p => p.First - p.Second).FirstOrDefault(d => d != 0))).Take(40)
                .Select(x => Key(p => x[p])).ToList();
            var found = c.Reasoner.Explore(new(c.Picks), CancellationToken.None).Take(40).Select(x => x.ToDictionary(p => p.Path, p => p.Value))
                .Select(x => Key(p => x.TryGetValue(p, out var v) ? new(true, v) : new(false, Value.Nothing))).ToList();
            Assert.Equal(expected, found);
            met += expected.Count > 1 ? 1 : 0;

            var sample = c.Reasoner.CoverPairs(new(c.Picks), CancellationToken.None);
            Assert.True(sample.Finished);
            var configurations = sample.Configurations.Select(x => x.ToDictionary(p => p.Path, p => p.Value)).ToList();
            Assert.All(configurations, x =>
                Assert.Contains(within, y => y.All(s => s.Value.Applies == x.ContainsKey(s.Key) && (!s.Value.Applies || x[s.Key] == s.Value.Value))));
            if (c.Picks.Length > 0 && c.With(c.Picks).Count == 0)
                continue;
            foreach (var a in paths)
                foreach (var b in paths.Where(b => string.CompareOrdinal(a, b) < 0))
                    foreach (var (x, y) in within.Where(z => z[a].Applies && z[b].Applies && !z[a].Value.IsNothing && !z[b].Value.IsNothing
                        && z[a].Value.Kind != ValueKind.Number && z[b].Value.Kind != ValueKind.Number).Select(z => (z[a].Value, z[b].Value)).Distinct())
                    {
                        Assert.True(configurations.Exists(z => z.TryGetValue(a, out var u) && u == x && z.TryGetValue(b, out var v) && v == y),
                            $"seed {c.Seed}: {a}={x} with {b}={y}");
                        pairs++;
                    }
        }
        Assert.True(met > RandomCase.Rounds / 5 && pairs > RandomCase.Rounds, $"{met} were explored, {pairs} pairs met");
    }
}
