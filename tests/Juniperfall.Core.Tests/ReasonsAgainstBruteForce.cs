using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>Reasons, clashes and ways out, held against all configurations of random small models.</summary>
public class ReasonsAgainstBruteForce
{
    private static void NothingCanBeLeftOut(int seed, Reason reason, Func<IEnumerable<Pick>, IEnumerable<Cause>, bool> possible)
    {
        foreach (var pick in reason.Picks)
            Assert.True(possible(reason.Picks.Remove(pick), reason.Causes), $"seed {seed}: {pick} can be left out");
        foreach (var cause in reason.Causes)
            Assert.True(possible(reason.Picks, reason.Causes.Remove(cause)), $"seed {seed}: {cause} can be left out");
    }

    [Fact]
    public void Reasons_suffice_and_no_member_can_be_left_out()
    {
        var checkedReasons = 0;
        foreach (var c in RandomCase.Of(3))
        {
            if (c.All.Count == 0)
                continue;
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            var attribute = answer.Attributes[c.Seed % answer.Attributes.Length];
            var out_ = c.Brute.ValuesOf(attribute.Row).FirstOrDefault(v => !attribute.Available.Has(v));
            if (out_.IsNothing)
                continue;
            var reason = c.Reasoner.WhyNot(new(c.Picks), attribute.Path, out_, CancellationToken.None).Reason;
            if (attribute.State is AttributeState.Picked or AttributeState.Resting)
                continue;   // asked of the other picks; covered by the alternatives
            Assert.NotNull(reason);
            bool Possible(IEnumerable<Pick> picks, IEnumerable<Cause> causes) => c.Brute.Configurations(causes.ToHashSet())
                .Any(x => x[attribute.Path].Applies && x[attribute.Path].Value == out_ && picks.All(p => RandomCase.Contains(x, p)));
            Assert.False(Possible(reason.Picks, reason.Causes), $"seed {c.Seed}: the reason does not suffice");
            NothingCanBeLeftOut(c.Seed, reason, Possible);
            checkedReasons++;
        }
        Assert.True(checkedReasons > RandomCase.Rounds / 10, $"only {checkedReasons} reasons were checked");
    }

    [Fact]
    public void Reasons_of_what_follows_leave_no_other_value_and_no_member_can_be_left_out()
    {
        var met = 0;
        foreach (var c in RandomCase.Of(9))
        {
            if (c.All.Count == 0)
                continue;
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            foreach (var attribute in answer.Attributes.Where(a => a.State == AttributeState.Follows).Take(2))
            {
                var value = attribute.Value!.Value;
                var reason = c.Reasoner.WhyFollows(new(c.Picks), attribute.Path, value, CancellationToken.None).Reason!;
                bool OtherIsPossible(IEnumerable<Pick> picks, IEnumerable<Cause> causes) => c.Brute.Configurations(causes.ToHashSet())
                    .Any(x => x[attribute.Path].Applies && x[attribute.Path].Value != value && picks.All(p => RandomCase.Contains(x, p)));
                Assert.False(OtherIsPossible(reason.Picks, reason.Causes), $"seed {c.Seed}: another value of {attribute.Path} is possible");
                NothingCanBeLeftOut(c.Seed, reason, OtherIsPossible);
                met++;
            }
        }
        Assert.True(met > RandomCase.Rounds / 10, $"only {met} reasons were met");
    }

    [Fact]
    public void Ways_to_a_wanted_value_lead_to_it_and_none_are_needed_where_it_can_be_had()
    {
        var (met, needless) = (0, 0);
        foreach (var c in RandomCase.Of(10))
        {
            if (c.All.Count == 0)
                continue;
            var attribute = c.Reasoner.Answer(new([]), CancellationToken.None).Attributes[c.Seed % c.Brute.Paths.Count];
            var values = c.Brute.ValuesOf(attribute.Row).ToList();
            var wanted = new Pick(attribute.Path, values[c.Seed % values.Count]);
            List<Dictionary<string, BruteForce.Slot>> Having(IEnumerable<Pick> picks) =>
                [.. c.With(picks.Where(p => p.Path != wanted.Path)).Where(x => x[wanted.Path].Applies && x[wanted.Path].Value == wanted.Value)];
            var ways = c.Reasoner.WaysOut(new(c.Picks), wanted, CancellationToken.None);
            Assert.True(ways.Finished);
            if (Having(c.Picks).Count > 0 || Having([]).Count == 0)
            {
                Assert.Empty(ways.Found);
                needless++;
                continue;
            }
            Assert.NotEmpty(ways.Found);
            foreach (var way in ways.Found)
            {
                var changed = c.Picks.Select(p => way.Changes.FirstOrDefault(x => x.From == p) is { } change ? change.To is { } to
                    ? p with { Value = to } : (Pick?)null : p).OfType<Pick>();
                Assert.NotEmpty(Having(changed));
                // No change of it could be spared.
                foreach (var change in way.Changes)
                    Assert.Empty(Having(c.Picks.Where(p => way.Changes.All(x => x.From != p) || p == change.From)));
                met++;
            }
        }
        Assert.True(met > 5 && needless > 5, $"{met} ways were met, and {needless} times none was needed");
    }

    [Fact]
    public void Of_a_clash_no_pick_can_be_left_out_of_the_whole_model_and_no_rule_of_those_that_are_named()
    {
        var met = 0;
        foreach (var c in RandomCase.Of(13))
        {
            if (c.All.Count == 0)
                continue;
            // More picks than elsewhere, so that several clash.
            var random = new Random(c.Seed);
            var picks = c.Picks.Concat(c.Brute.Paths.Where(p => c.Picks.All(x => x.Path != p))
                .Select(path => new Pick(path, c.Brute.ValuesOf((AttributeRow)c.Model.Index.Rows[RowPath.RowId(path)]).OrderBy(_ => random.Next()).First())))
                .ToImmutableArray();
            foreach (var clash in c.Reasoner.Answer(new(picks), CancellationToken.None).Clashes)
            {
                Assert.Empty(c.With(clash.Picks));
                Assert.All(clash.Picks, pick => Assert.NotEmpty(c.With(clash.Picks.Remove(pick))));
                bool Possible(IEnumerable<Cause> causes) => c.Brute.Configurations(causes.ToHashSet()).Any(x => clash.Picks.All(p => RandomCase.Contains(x, p)));
                Assert.False(Possible(clash.Causes), $"seed {c.Seed}: the rules do not suffice");
                Assert.All(clash.Causes, cause => Assert.True(Possible(clash.Causes.Remove(cause)), $"seed {c.Seed}: {cause} can be left out"));
                met++;
            }
        }
        Assert.True(met > RandomCase.Rounds / 2, $"{met} clashes were met");
    }

    [Fact]
    public void Many_clashes_that_have_nothing_to_do_with_each_other_have_ways_out_and_more_are_said_to_be_more()
    {
        const int many = 30;
        var rows = Enumerable.Range(0, many)
            .SelectMany(n => new Row[] { SmallModels.YesNo($"a{n}"), SmallModels.YesNo($"b{n}"), SmallModels.Rule($"r{n}", $"not a{n} or not b{n}") })
            .ToArray();
        var model = SmallModels.Sound(SmallModels.Assembly("room", rows));
        var picks = SmallModels.Picks(model, [.. Enumerable.Range(0, many).SelectMany(n => new[] { $"a{n}=yes", $"b{n}=yes" })]);
        var ways = new Reasoner(model).WaysOut(new(picks), null, CancellationToken.None);
        Assert.Equal((5, true, true), (ways.Found.Length, ways.Finished, ways.More));
        Assert.All(ways.Found, w => Assert.Equal(many, w.Changes.Length));
        Assert.Equal(Enumerable.Range(0, many).Select(n => $"b{n}"), ways.Found[0].Changes.Select(c => c.From.Path));
    }

    [Fact]
    public void Ways_out_work_are_minimal_and_come_fewest_first_then_latest_first()
    {
        var checkedWays = 0;
        foreach (var c in RandomCase.Of(4))
        {
            var standing = c.Standing();
            if (c.All.Count == 0 || standing.Count == c.Picks.Length)
                continue;
            var found = c.Reasoner.WaysOut(new(c.Picks), null, CancellationToken.None);
            var ways = found.Found;
            var expected = Subsets(c.Picks.Length).Where(s => c.With(Kept(c, s)).Count > 0).ToList();
            expected = [.. expected.Where(s => !expected.Any(o => o.Count < s.Count && o.IsSubsetOf(s)))];
            Assert.Equal(expected.Count > 5, found.More);
            expected = [.. expected.OrderBy(s => s.Count)
                .ThenByDescending(s => s.OrderDescending(),
                Comparer<IEnumerable<int>>.Create((x, y) => x.Zip(y).Select(p => p.First - p.Second).FirstOrDefault(d => d != 0))).Take(5)];
            Assert.Equal(expected.Select(s => string.Join(",", s.Order())),
                ways.Select(w => string.Join(",", w.Changes.Select(x => c.Picks.IndexOf(x.From)).Order())));
            foreach (var way in ways)
            {
                var changed = c.Picks.Select(p => way.Changes.FirstOrDefault(x => x.From == p) is { } change ? change.To is { } to
                    ? p with { Value = to } : (Pick?)null : p).OfType<Pick>();
                Assert.NotEmpty(c.With(changed));
                checkedWays++;
            }
        }
        Assert.True(checkedWays > 5, $"only {checkedWays} ways out were checked");
    }

    private static IEnumerable<Pick> Kept(RandomCase c, HashSet<int> dropped) => c.Picks.Where((_, i) => !dropped.Contains(i));

    private static IEnumerable<HashSet<int>> Subsets(int count) =>
        Enumerable.Range(0, 1 << count).Select(mask => Enumerable.Range(0, count).Where(i => (mask >> i & 1) != 0).ToHashSet());
}
