using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>An answer without availability says the same as one with it, whatever configuration it is told to be near.</summary>
public class OutcomesAlone
{
    [Fact]
    public void What_comes_out_is_the_same_without_what_can_be_had()
    {
        var (clashing, complete, open, following) = (0, 0, 0, 0);
        foreach (var c in RandomCase.Of(77))
        {
            var random = new Random(c.Seed);
            ImmutableArray<Pick> OfAny(Func<string, bool> isTaken) => c.All.Count == 0 ? []
                : [.. c.All[random.Next(c.All.Count)].Where(s => s.Value.Applies && isTaken(s.Key)).Select(s => new Pick(s.Key, s.Value.Value))];
            var fillIns = random.Next(2) == 0 ? [] : OfAny(path => c.Picks.All(p => p.Path != path) && random.Next(2) == 0);
            var near = OfAny(_ => true);
            var question = new Question(c.Picks) { FillIns = fillIns };
            var full = new Reasoner(c.Model).Answer(question, CancellationToken.None);
            foreach (var hint in new[] { [], near })
            {
                var alone = c.Reasoner.Answer(question with { WithAvailability = false, Near = hint }, CancellationToken.None);
                Assert.True(alone.Exact);
                Assert.Equal(full.Valid, alone.Valid);
                Assert.Equal(full.Clashes.Select(x => string.Join(' ', x.Picks)), alone.Clashes.Select(x => string.Join(' ', x.Picks)));
                clashing += alone.Clashes.Length;
                if (alone.Valid != true)
                    continue;
                Assert.Equal(full.Missing.AsEnumerable(), alone.Missing);
                // What follows stands for itself only where it is not suggested alike.
                Assert.Subset(full.Standing.ToHashSet(), alone.Standing.ToHashSet());
                if (alone.Only is { } only)
                {
                    var values = only.ToDictionary(p => p.Path, p => p.Value);
                    Assert.Contains(c.All, x => x.All(s =>
                        s.Value.Applies ? values.TryGetValue(s.Key, out var v) && v == s.Value.Value : !values.ContainsKey(s.Key)));
                    Assert.All(full.Standing.Where(p => values.ContainsKey(p.Path)), p => Assert.Equal(p.Value, values[p.Path]));
                    complete++;
                }
                foreach (var (all, one) in full.Attributes.Zip(alone.Attributes))
                {
                    // Where everything that applies is settled, or something is missing, what does not apply has no value.
                    var applies = alone.Only is { } said ? said.Any(p => p.Path == one.Path) : alone.Missing.IsEmpty || one.Value is not null;
                    if (applies || one.State == AttributeState.Picked)
                        Assert.Equal((all.Path, all.Value), (one.Path, one.Value));
                    if (applies && all.State == AttributeState.Open)
                        open++;
                    if (one.State == AttributeState.Follows)
                        following++;
                }
                if (alone.Only is not null)
                    foreach (var (all, one) in full.AsSuggested.Computed.Zip(alone.AsSuggested.Computed))
                        Assert.Equal((all.Number?.Low, all.Number?.High, all.Value), (one.Number?.Low, one.Number?.High, one.Value));
            }
        }
        Assert.True(clashing > 10 && complete > 10 && open > 30 && following > 10,
            $"{clashing} clashing, {complete} complete, {open} open, {following} following");
    }
}
