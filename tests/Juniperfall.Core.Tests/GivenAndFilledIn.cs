using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>What is given stays where it is while the best is looked for; what is filled in yields to every pick. On random models, against brute force.</summary>
public class GivenAndFilledIn
{
    /// <summary>Random models of which every second attribute is given.</summary>
    private static IEnumerable<RandomCase> Cases(int salt) =>
        RandomCase.Of(salt, (random, row) => row is AttributeRow a && random.Next(2) == 0 ? a with { AskedAs = AskedAs.Given } : row).Where(c => c.All.Count > 0);

    private static AskedAs AskedAsAt(BoundModel model, string path) => ((AttributeRow)model.Index.Rows[RowPath.RowId(path)]).AskedAs;

    [Fact]
    public void Completion_for_the_best_never_moves_what_is_given_or_held()
    {
        var (stood, moved) = (0, 0);
        foreach (var c in Cases(61))
        {
            var (seed, model, reasoner, all, picks) = (c.Seed, c.Model, c.Reasoner, c.All, c.Standing());
            var answer = reasoner.Answer(new([.. picks]), CancellationToken.None);
            Assert.True(answer.Valid);
            var random = new Random(seed);
            var held = answer.Attributes.Where(a => a.State == AttributeState.Suggested && random.Next(4) == 0).Select(a => a.Path).ToHashSet();
            var kept = answer.Attributes.Where(a => a.State == AttributeState.Suggested
                && (AskedAsAt(model, a.Path) == AskedAs.Given || held.Contains(a.Path))).Select(a => new Pick(a.Path, a.Value!.Value)).ToList();
            var within = c.With(picks.Concat(kept));
            foreach (var path in reasoner.Goals.Where(g => g[0] != '#' && all[0].ContainsKey(g)).Take(2))
            {
                var numbers = within.Where(x => x[path].Applies && x[path].Value.Kind == ValueKind.Number).Select(x => x[path].Value.Number).ToList();
                foreach (var highest in new[] { false, true })
                {
                    var best = reasoner.Best(answer, path, highest, CancellationToken.None, held: held);
                    Assert.True(best.Proven);
                    Assert.Equal(numbers.Count == 0 ? null : highest ? numbers.Max() : numbers.Min(), best.Number);
                    var values = (best.Values ?? []).ToDictionary(p => p.Path, p => p.Value);
                    foreach (var pick in kept.Where(k => values.ContainsKey(k.Path)))
                        Assert.Equal(pick.Value, values[pick.Path]);
                    stood += kept.Count;
                    moved += values.Count(v => answer.Attributes.Any(a => a.Path == v.Key && a.State == AttributeState.Suggested && a.Value != v.Value));
                }
            }
        }
        Assert.True(stood > RandomCase.Rounds && moved > 20, $"{stood} stood, {moved} moved");
    }

    [Fact]
    public void What_is_filled_in_is_suggested_yields_to_picks_and_is_gone_when_dropped()
    {
        var (stood, yielded) = (0, 0);
        foreach (var c in Cases(62))
        {
            var (seed, reasoner, picks) = (c.Seed, c.Reasoner, c.Standing().ToImmutableArray());
            var random = new Random(seed);
            var within = c.With(picks);
            var chosen = within[random.Next(within.Count)];
            ImmutableArray<Pick> fillIns = [.. chosen.Where(s => s.Value.Applies && picks.All(p => p.Path != s.Key)).Select(s => new Pick(s.Key, s.Value.Value))];
            var plain = reasoner.Answer(new(picks), CancellationToken.None);
            var filled = reasoner.Answer(new(picks) { FillIns = fillIns }, CancellationToken.None);
            Assert.Equal(plain.Valid, filled.Valid);
            foreach (var (before, after) in plain.Attributes.Zip(filled.Attributes))
            {
                // Nothing becomes unavailable by it, and nothing is pinned.
                Assert.Equal(before.Available.Values.AsEnumerable(), after.Available.Values.AsEnumerable());
                Assert.NotEqual(AttributeState.Clash, after.State);
                if (fillIns.FirstOrDefault(f => f.Path == after.Path) is { Path: not null } fillIn && chosen[after.Path].Applies)
                {
                    Assert.Equal(fillIn.Value, after.Value);
                    Assert.True(after.State is AttributeState.Suggested or AttributeState.Follows, $"seed {seed}: {after.Path} {after.State}");
                    stood++;
                }
            }
            // Any pick that can be had is kept beside it, and as much of the rest as stands with it.
            var other = within[random.Next(within.Count)];
            foreach (var slot in other.Where(s => s.Value.Applies && picks.All(p => p.Path != s.Key)).OrderBy(_ => random.Next()).Take(2))
            {
                var pick = new Pick(slot.Key, slot.Value.Value);
                var answer = reasoner.Answer(new([.. picks, pick]) { FillIns = [.. fillIns.Where(f => f.Path != pick.Path)] }, CancellationToken.None);
                Assert.True(answer.Valid);
                var complete = reasoner.Complete(answer, CancellationToken.None)!.Value;
                // It stands, or what was filled in keeps its attribute from applying; it is never another value.
                Assert.DoesNotContain(complete, p => p.Path == pick.Path && p.Value != pick.Value);
                yielded += fillIns.Count(f => f.Path != pick.Path && answer.Attributes.Any(a => a.Path == f.Path && a.Value != f.Value)) > 0 ? 1 : 0;
            }
            // Dropped, everything is as it was.
            Assert.Equal(plain.Attributes.Select(a => (a.Path, a.State, a.Value)),
                reasoner.Answer(new(picks), CancellationToken.None).Attributes.Select(a => (a.Path, a.State, a.Value)));
        }
        Assert.True(stood > RandomCase.Rounds && yielded > 5, $"{stood} stood, {yielded} times something yielded");
    }
}
