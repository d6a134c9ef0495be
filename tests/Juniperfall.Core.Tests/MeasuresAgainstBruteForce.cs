using System.Collections.Immutable;
using System.Numerics;
using Juniperfall.Core.Measures;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>The measures of the literature and steps between configurations, against all configurations of random models.</summary>
public class MeasuresAgainstBruteForce
{
    private static bool Has(Dictionary<string, BruteForce.Slot> configuration, Feature feature) =>
        configuration.TryGetValue(feature.Path, out var slot) && slot.Applies && slot.Value == feature.Value;

    [Fact]
    public void What_is_in_every_configuration_in_some_or_none_and_what_goes_together()
    {
        var (core, variant, dead, sets, counted) = (0, 0, 0, 0, 0);
        foreach (var c in RandomCase.Of(4242))
        {
            var within = c.With(c.Picks);
            var measures = ModelMeasures.Of(c.Reasoner, new(c.Picks), CancellationToken.None);
            if (within.Count == 0)
            {
                Assert.Empty(measures.Features);
                continue;
            }
            // Where instances can change places, the counter counts these once, and so must be asked by itself.
            var isPlain = measures.Configurations == within.Count;
            foreach (var one in measures.Features)
            {
                var with = within.Where(x => Has(x, one.Feature)).ToList();
                Assert.Equal(with.Count == within.Count ? FeaturePresence.Core
                    : with.Count == 0 ? FeaturePresence.Dead : FeaturePresence.Variant, one.Presence);
                if (isPlain)
                {
                    Assert.Equal(with.Count, one.Configurations);
                    Assert.Equal(Exact.Of(with.Count, within.Count), measures.Commonality(one));
                    counted++;
                }
                if (one.Presence != FeaturePresence.Variant)
                    continue;
                var others = measures.Features.Where(f => f != one).ToList();
                Assert.Equal(others.Where(f => f.Presence == FeaturePresence.Variant && with.All(x => Has(x, f.Feature))).Select(f => f.Feature), one.Implies);
                Assert.Equal(others.Where(f => f.Presence != FeaturePresence.Dead && !with.Any(x => Has(x, f.Feature))).Select(f => f.Feature), one.Excludes);
            }
            string Signature(Feature f) => string.Concat(within.Select(x => Has(x, f) ? '1' : '0'));
            var together = measures.Features.Where(f => f.Presence != FeaturePresence.Dead).Select(f => f.Feature).GroupBy(Signature)
                .Where(g => g.Count() > 1).Select(g => string.Join(' ', g)).Order();
            Assert.Equal(together, measures.AtomicSets.Select(s => string.Join(' ', measures.Features.Select(f => f.Feature).Where(s.Contains))).Order());
            if (isPlain)
                Assert.Equal(Exact.One - Exact.Of(measures.Features.Count(f => within.Count(x => Has(x, f.Feature)) == 1), within.Count), measures.Homogeneity);
            core += measures.Features.Count(f => f.Presence == FeaturePresence.Core);
            variant += measures.Features.Count(f => f.Presence == FeaturePresence.Variant);
            dead += measures.Features.Count(f => f.Presence == FeaturePresence.Dead);
            sets += measures.AtomicSets.Length;
        }
        Assert.True(core > 20 && variant > 100 && dead > 20 && sets > 10 && counted > 100, $"{core} {variant} {dead} {sets} {counted}");
    }

    [Fact]
    public void The_fewest_steps_are_found_over_configurations_that_stand()
    {
        var (ways, none, longest) = (0, 0, 0);
        foreach (var (c, trial) in RandomCase.Of(99).Where(c => c.All.Count is > 1 and <= 120)
            .SelectMany(c => Enumerable.Range(0, 4).Select(i => (c, i))).Take(200))
        {
            var random = new Random((c.Seed * 4) + trial);
            static Dictionary<string, Value> Values(Dictionary<string, BruteForce.Slot> x) =>
                x.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value);
            var all = c.All.Select(Values).ToList();
            var (from, to, changes) = (all[random.Next(all.Count)], all[random.Next(all.Count)], random.Next(1, 3));
            // Breadth first over all that there are.
            var distance = new Dictionary<int, int> { [all.IndexOf(from)] = 0 };
            var open = new Queue<int>(distance.Keys);
            while (open.TryDequeue(out var at))
                for (var i = 0; i < all.Count; i++)
                    if (!distance.ContainsKey(i) && ConfigurationSteps.Differences(all[at], all[i]) <= changes)
                    {
                        distance[i] = distance[at] + 1;
                        open.Enqueue(i);
                    }
            ImmutableArray<Pick> wanted = [.. to.OrderBy(_ => random.Next()).Take(random.Next(1, 4)).Select(v => new Pick(v.Key, v.Value))];
            var reached = distance.Where(d => wanted.All(p => all[d.Key].TryGetValue(p.Path, out var v) && v == p.Value)).Select(d => (int?)d.Value).Min();
            var found = ConfigurationSteps.Between(c.Reasoner, [.. from.Select(v => new Pick(v.Key, v.Value))], wanted, changes, 50, CancellationToken.None);
            Assert.True(found.IsFinished);
            Assert.Equal(reached + 1, found.Configurations?.Length);
            foreach (var (before, after) in found.Configurations is { } way ? way.Zip(way.Skip(1)) : [])
                Assert.InRange(ConfigurationSteps.Differences(before.ToDictionary(p => p.Path, p => p.Value),
                    after.ToDictionary(p => p.Path, p => p.Value)), 1, changes);
            (ways, none, longest) = (ways + (reached is null ? 0 : 1), none + (reached is null ? 1 : 0), Math.Max(longest, reached ?? 0));
        }
        Assert.True(ways > 8 && none > 0 && longest > 1, $"{ways} ways, {none} without one, the longest of {longest}");
    }

    [Fact]
    public void Figures_of_a_model_by_hand()
    {
        var model = Sound(Assembly("room", Choice("core"), YesNo("heated"), YesNo("lit"), Computed("deep", "core.thickness * 2"),
            Rule("r1", "if heated then deep > 170 mm"),
            new Subassembly { Id = "door", Name = "door", AssemblyId = "leaf", Make = SubassemblyKind.Phantom }),
            Assembly("leaf", YesNo("glazed"), Whole("hinges", 2, 4)));
        var measures = ModelMeasures.Of(new(model), new([]), CancellationToken.None);
        // Three cores by heated, lit, glazed and three hinges; heated rules out the thin core.
        Assert.Equal((new BigInteger(5 * 2 * 2 * 3), new BigInteger(3 * 2 * 2 * 2 * 3)), (measures.Configurations!.Value, measures.Unconstrained));
        Assert.Equal(Exact.Of(5, 6), measures.VariabilityFactor);
        // The rule reads heated, and the core through what is computed; lit, glazed and hinges are free.
        Assert.Equal((2, 5), measures.AttributesInRules);
        var door = Assert.Single(measures.Subtrees);
        Assert.Equal((new BigInteger(6), Exact.Of(10, 1)), (door.Configurations!.Value, measures.Orthogonality(door)));
        var thin = measures.Features.Single(f => f.Feature.Value == Value.Choice("c80"));
        Assert.Equal(new Feature("heated", Value.Of(false)), Assert.Single(thin.Implies));
        Assert.Equal(Exact.Of(1, 5), measures.Commonality(thin));
        // With a pick the other answers are dead, and what it leaves alone is core.
        var heated = ModelMeasures.Of(new(model), new([new("heated", Value.Of(true))]), CancellationToken.None);
        Assert.Equal(FeaturePresence.Dead, heated.Features.Single(f => f.Feature.Value == Value.Choice("c80")).Presence);
        Assert.Equal(FeaturePresence.Core, heated.Features.Single(f => f.Feature == new Feature("heated", Value.Of(true))).Presence);
    }

    [Fact]
    public void What_cannot_be_counted_in_time_is_not_said()
    {
        using var over = new CancellationTokenSource();
        over.Cancel();
        var model = Sound(Assembly("room", Choice("core"), YesNo("heated")));
        Assert.False(ModelMeasures.Of(new(model), new([]), over.Token).IsFinished);
        Assert.False(ConfigurationSteps.Between(new(model), [new("core", Value.Choice("c80")), new("heated", Value.Of(true))],
            [new("core", Value.Choice("c100"))], 1, 5, over.Token).IsFinished);
    }
}
