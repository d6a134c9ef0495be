using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Formats;

namespace Juniperfall.Core.Tests;

/// <summary>The contract of the reasoning, held against the literal evaluator on random small models with random picks.</summary>
public class ReasoningAgainstBruteForce
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 1500 : 120;

    private sealed record Case(int Seed, BoundModel Model, BruteForce Brute, List<Dictionary<string, BruteForce.Slot>> All, Reasoner Reasoner,
        ImmutableArray<Pick> Picks)
    {
        public static bool Contains(Dictionary<string, BruteForce.Slot> configuration, Pick pick) =>
            !configuration[pick.Path].Applies || configuration[pick.Path].Value == pick.Value;

        public List<Dictionary<string, BruteForce.Slot>> With(IEnumerable<Pick> picks) => [.. All.Where(c => picks.All(p => Contains(c, p)))];

        public List<Pick> Standing()
        {
            var standing = new List<Pick>();
            foreach (var pick in Picks)
                if (With(standing.Append(pick)).Count > 0)
                    standing.Add(pick);
            return standing;
        }
    }

    private static IEnumerable<Case> Cases(int salt)
    {
        for (var seed = 0; seed < Rounds; seed++)
        {
            var document = new RandomModels(seed * 7919 + salt).Next();
            var model = new BoundModel(document, RandomModels.Facts);
            Assert.DoesNotContain(model.Findings, f => f.Blocks);
            var brute = new BruteForce(model);
            var random = new Random(seed + salt);
            var picks = brute.Paths.OrderBy(_ => random.Next()).Take(random.Next(0, 5)).Select(path =>
            {
                var row = (AttributeRow)model.Index.Rows[RowPath.RowId(path)];
                var values = brute.ValuesOf(row).ToList();
                if (!row.Required && row.Kind != AttributeKind.Several)
                    values.Add(Value.Nothing);
                return new Pick(path, values[random.Next(values.Count)]);
            }).ToImmutableArray();
            yield return new(seed, model, brute, brute.Configurations(), new Reasoner(model), picks);
        }
    }

    /// <summary>Everything an answer promises, as one text.</summary>
    private static string Promised(Answer answer)
    {
        static string Of(Available? a) => a is null
            ? "-" : $"{(a.Listed ? string.Join(",", a.Values) : "many")}/{a.None}/{a.MayBeAbsent}/{(a.Listed ? a.Values.Length > 0 ? a.Values[0] : null : a.Lowest)}/{(a.Listed ? a.Values.Length > 0 ? a.Values[^1] : null : a.Highest)}";
        return string.Join("\n", answer.Attributes.Select(a => $"{a.Path} {a.State} {a.Applies} {a.Value} {Of(a.Available)} {Of(a.Alternatives)}")
            .Append(answer.Valid.ToString()).Append(string.Join(",", answer.Missing)).Append(string.Join(",", answer.Standing))
                .Append(string.Join(",", answer.Advice.Select(c => c.RowId))));
    }

    [Fact]
    public void What_is_remembered_of_earlier_questions_and_of_earlier_states_of_the_model_changes_no_answer()
    {
        foreach (var c in Cases(6))
        {
            var orders = new[] { c.Picks, [.. c.Picks.Reverse()] };
            foreach (var picks in orders.SelectMany(o => Enumerable.Range(0, o.Length + 1).Select(n => o[..n])))
                Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(picks), CancellationToken.None)),
                    Promised(c.Reasoner.Answer(new(picks), CancellationToken.None)));
            // The model without its last rule, and back again.
            var root = c.Model.Document.Assemblies[0];
            if (root.Rows.OfType<RuleRow>().LastOrDefault() is not { } rule)
                continue;
            var without = new BoundModel(c.Model.Document with
            {
                Assemblies = c.Model.Document.Assemblies
                .Replace(root, root with { Topics = [.. root.Topics.Select(t => t with { Rows = t.Rows.Remove(rule) })] })
            }, RandomModels.Facts);
            var later = new Reasoner(without, previous: c.Reasoner);
            Assert.Equal(Promised(new Reasoner(without).Answer(new(c.Picks), CancellationToken.None)),
                Promised(later.Answer(new(c.Picks), CancellationToken.None)));
            Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(c.Picks), CancellationToken.None)),
                Promised(new Reasoner(c.Model, previous: later).Answer(new(c.Picks), CancellationToken.None)));
        }
    }

    [Fact]
    public void Validity_availability_alternatives_and_states_are_those_of_the_definition()
    {
        var (impossible, clashing) = (0, 0);
        foreach (var c in Cases(1))
        {
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            Assert.True(answer.Exact);
            if (c.All.Count == 0)
            {
                impossible++;
                Assert.Equal(false, answer.Valid);
                continue;
            }
            var standing = c.Standing();
            Assert.Equal(standing.Count == c.Picks.Length, answer.Valid);
            clashing += answer.Valid == true ? 0 : 1;
            var within = c.With(standing);
            foreach (var attribute in answer.Attributes)
            {
                void Same(IEnumerable<Dictionary<string, BruteForce.Slot>> configurations, Available available, string what)
                {
                    var expected = configurations.Where(x => x[attribute.Path].Applies).Select(x => x[attribute.Path].Value).ToHashSet();
                    var actual = available.Values.ToHashSet();
                    if (available.None)
                        actual.Add(Value.Nothing);
                    Assert.True(expected.SetEquals(actual),
                        $"seed {c.Seed}, {what} of {attribute.Path}: expected {string.Join(",", expected)}; got {string.Join(",", actual)}; picks "
                            + $"{string.Join(" ", c.Picks)}");
                }

                Same(within, attribute.Available, "available");
                Assert.Equal(within.All(x => x[attribute.Path].Applies) ? Applicability.Always : within.Any(x => x[attribute.Path].Applies)
                    ? Applicability.Maybe : Applicability.Never, attribute.Applies);
                var pick = standing.Where(p => p.Path == attribute.Path).ToList();
                if (pick.Count > 0)
                    Same(c.With(standing.Except(pick)), attribute.Alternatives!, "alternatives");
                var isPicked = c.Picks.Any(p => p.Path == attribute.Path);
                if (isPicked && pick.Count == 0)
                    Assert.Equal(AttributeState.Clash, attribute.State);
                if (!isPicked)
                {
                    Assert.Equal(attribute.Available.Count == 1, attribute.State == AttributeState.Follows);
                    Assert.Equal(attribute.Available.Count == 0, attribute.State == AttributeState.Absent);
                }
            }
        }
        Assert.True(impossible < Rounds / 3 && clashing > Rounds / 20, $"The models are of little use: {impossible} impossible, {clashing} clashing.");
    }

    [Fact]
    public void Suggestions_are_taken_in_order_while_they_can_be_had_and_advice_and_computed_values_are_right()
    {
        foreach (var c in Cases(2))
        {
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            if (c.All.Count == 0)
                continue;
            var counted = c.Standing();
            counted.AddRange(answer.Attributes.Where(a => a.State == AttributeState.Follows).Select(a => new Pick(a.Path, a.Value!.Value)));
            var unsettled = answer.Attributes.Where(a => a.State is AttributeState.Suggested or AttributeState.Open).ToList();
            // Of several choices the suggested ones come first, then all the others as left out, together or not at all.
            var groups = unsettled.GroupBy(a => RowPath.OfRow(a.Path)).SelectMany(g => g.First().Member is null ? [g.ToList()]
                : g.Where(a => a.Row.SuggestedMembers.Contains(a.Member!.Id)).Select(a => new List<AttributeAnswer> { a })
                    .Append([.. g.Where(a => !a.Row.SuggestedMembers.Contains(a.Member!.Id))]));
            foreach (var group in groups.Where(g => g.Count > 0 && (g[0].Member is not null || g[0].Row.Suggestion is not null)))
            {
                var text = group[0].Row.Suggestion ?? "";
                var value = group[0] switch
                {
                    { Member: { } member } => Value.Of(group[0].Row.SuggestedMembers.Contains(member.Id)),
                    { Row.Kind: AttributeKind.Choice } => Value.Choice(text),
                    { Row.Kind: AttributeKind.YesNo } => Value.Of(text == "yes"),
                    _ => Value.Of(Unit.Parse(group[0].Row.Unit).ToBase(Exact.Parse(text))),
                };
                var canBeHad = c.With(counted).Any(x => group.All(a => x[a.Path].Applies && x[a.Path].Value == value));
                Assert.True(group.All(a => canBeHad == (a.State == AttributeState.Suggested)), $"seed {c.Seed} {group[0].Path}");
                if (canBeHad)
                    counted.AddRange(group.Select(a => new Pick(a.Path, value)));
            }
            Assert.NotEmpty(c.With(answer.Standing));
            var expected = answer.Attributes
                .Where(a => a.State is AttributeState.Open or AttributeState.Clash && (a.Row.Required || a.Member is not null)
                && c.With(answer.Standing).All(x => x[a.Path].Applies));
            Assert.Equal(expected.Select(a => a.Path), answer.Missing);
            if (answer.Valid == true)
                Assert.Contains(c.With(answer.Standing), x =>
                    c.Reasoner.Complete(answer, CancellationToken.None)!.Value.All(p => x[p.Path].Applies && x[p.Path].Value == p.Value));
        }
    }

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
        foreach (var c in Cases(3))
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
                .Any(x => x[attribute.Path].Applies && x[attribute.Path].Value == out_ && picks.All(p => Case.Contains(x, p)));
            Assert.False(Possible(reason.Picks, reason.Causes), $"seed {c.Seed}: the reason does not suffice");
            NothingCanBeLeftOut(c.Seed, reason, Possible);
            checkedReasons++;
        }
        Assert.True(checkedReasons > Rounds / 10, $"only {checkedReasons} reasons were checked");
    }

    [Fact]
    public void Reasons_of_what_follows_leave_no_other_value_and_no_member_can_be_left_out()
    {
        var met = 0;
        foreach (var c in Cases(9))
        {
            if (c.All.Count == 0)
                continue;
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            foreach (var attribute in answer.Attributes.Where(a => a.State == AttributeState.Follows).Take(2))
            {
                var value = attribute.Value!.Value;
                var reason = c.Reasoner.WhyFollows(new(c.Picks), attribute.Path, value, CancellationToken.None).Reason!;
                bool OtherIsPossible(IEnumerable<Pick> picks, IEnumerable<Cause> causes) => c.Brute.Configurations(causes.ToHashSet())
                    .Any(x => x[attribute.Path].Applies && x[attribute.Path].Value != value && picks.All(p => Case.Contains(x, p)));
                Assert.False(OtherIsPossible(reason.Picks, reason.Causes), $"seed {c.Seed}: another value of {attribute.Path} is possible");
                NothingCanBeLeftOut(c.Seed, reason, OtherIsPossible);
                met++;
            }
        }
        Assert.True(met > Rounds / 10, $"only {met} reasons were met");
    }

    [Fact]
    public void Ways_to_a_wanted_value_lead_to_it_and_none_are_needed_where_it_can_be_had()
    {
        var (met, needless) = (0, 0);
        foreach (var c in Cases(10))
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
        foreach (var c in Cases(13))
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
                bool Possible(IEnumerable<Cause> causes) => c.Brute.Configurations(causes.ToHashSet()).Any(x => clash.Picks.All(p => Case.Contains(x, p)));
                Assert.False(Possible(clash.Causes), $"seed {c.Seed}: the rules do not suffice");
                Assert.All(clash.Causes, cause => Assert.True(Possible(clash.Causes.Remove(cause)), $"seed {c.Seed}: {cause} can be left out"));
                met++;
            }
        }
        Assert.True(met > Rounds / 2, $"{met} clashes were met");
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
        foreach (var c in Cases(4))
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

    [Fact]
    public void Tight_bounds_are_the_least_and_the_greatest_of_all_that_can_still_be_had()
    {
        var (met, open) = (0, 0);
        foreach (var c in Cases(7))
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
        Assert.True(open > Rounds / 10, $"of {met} numbers only {open} were open");
    }

    /// <summary>Over all that can still be picked nothing is left out, several choices that nobody touched included; as suggested only what suggestions
    /// leave.</summary>
    [Fact]
    public void Figures_lines_and_totals_hold_every_configuration_with_the_picks_and_as_suggested_every_one_with_the_suggestions()
    {
        var (open, narrowed) = (0, 0);
        foreach (var c in Cases(12))
        {
            if (c.All.Count == 0)
                continue;
            var answer = c.Reasoner.Answer(new(c.Picks), CancellationToken.None);
            Assert.Equal(c.Standing(), answer.StandingPicks);
            foreach (var (outcome, standing) in new[] { (answer.Open, answer.StandingPicks), (answer.AsSuggested, answer.Standing) })
                foreach (var configuration in c.With(standing))
                {
                    var values = configuration.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value);
                    var evaluator = new Evaluator(c.Model, values);
                    foreach (var computed in outcome.Computed)
                        if (evaluator[computed.Path] is { Kind: ValueKind.Number, Number: var number })
                            Assert.True(!(number < computed.Number!.Low) && !(number > computed.Number.High),
                                $"seed {c.Seed}: {computed.DisplayPath} can be {number}");
                        else
                            Assert.True(computed.Number is null or { MayHaveNoValue: true }, $"seed {c.Seed}: {computed.DisplayPath} can have no value");
                    var lines = c.Brute.Lines(configuration).ToDictionary(l => l.At.Prefix + l.Row.Id, l => l.Field);
                    foreach (var line in outcome.Lines)
                        if (!lines.TryGetValue(line.Path, out var field))
                            Assert.NotEqual(LineState.In, line.State);
                        else
                        {
                            Assert.NotEqual(LineState.Out, line.State);
                            Assert.All(line.Numbers, n =>
                                Assert.False(field(n.Key) is { Kind: ValueKind.Number, Number: var number }
                                && (number < n.Value.Low || number > n.Value.High), $"seed {c.Seed}: {line.Path} {n.Key}"));
                        }
                }
            var totals = c.Reasoner.Totals(answer);
            if (totals.TryGetValue(StructureGoals.Price, out var price))
                foreach (var (reach, standing) in new[] { (price.Open, answer.StandingPicks), (price.AsSuggested, answer.Standing) })
                    foreach (var configuration in c.With(standing).Where((_, i) => i % 5 == 0))
                        if (Pricing.Of(c.Model, configuration.Where(s => s.Value.Applies)
                            .ToDictionary(s => s.Key, s => s.Value.Value)).Sheet is { Price: var paid })
                            Assert.True(!(paid < reach.Low) && !(paid > reach.High), $"seed {c.Seed}: {paid} is not within {reach}");
            var possible = c.Reasoner.Lines(new(c.Picks), CancellationToken.None);
            foreach (var (path, possibility) in possible)
            {
                var there = c.With(answer.StandingPicks).Select(x => c.Brute.Lines(x).Any(l => l.At.Prefix + l.Row.Id == path)).Distinct().ToList();
                Assert.True(possibility.MayBeIn == there.Contains(true),
                    $"seed {c.Seed}: {path} {possibility} {string.Join(",", there)} {c.Model.Document.Assemblies[0].Rows.Single(r => r.Id == path)} picks "
                        + $"{string.Join(" ", c.Picks)}");
            }
            open += answer.Open.Lines.Count(l => l.State == LineState.Open);
            narrowed += answer.Open.Lines.Zip(answer.AsSuggested.Lines).Count(l => l.First.State != l.Second.State);
        }
        Assert.True(open > Rounds / 3 && narrowed > Rounds / 20, $"{open} lines were open, {narrowed} of them settled by suggestions");
    }

    [Fact]
    public void The_best_configuration_is_the_best_of_all_with_the_picks_and_is_one_of_them()
    {
        var met = 0;
        foreach (var c in Cases(11))
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
        Assert.True(met > Rounds, $"only {met} were met");
    }

    [Fact]
    public void The_count_is_that_of_all_configurations_with_the_picks_where_instances_that_can_change_places_count_once()
    {
        var (met, interchangeable) = (0, 0);
        foreach (var c in Cases(13))
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
        Assert.True(met > Rounds / 2 && interchangeable > 0, $"{met} models had several configurations, {interchangeable} interchangeable ones");
    }

    [Fact]
    public void Exploring_goes_through_all_configurations_in_their_order_and_a_sample_covers_all_pairs()
    {
        var (met, pairs) = (0, 0);
        foreach (var c in Cases(14).Take(Rounds / 2))
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
        Assert.True(met > Rounds / 5 && pairs > Rounds, $"{met} were explored, {pairs} pairs met");
    }

    [Fact]
    public void A_reasoner_that_starts_from_what_another_process_found_answers_like_one_that_knows_nothing()
    {
        var (taken, left) = (0, 0);
        WarmState? ofAnother = null;
        foreach (var c in Cases(7).Take(Rounds / 2))
        {
            if (c.Reasoner.ToWarmState(CancellationToken.None) is not { } found)
                continue;
            var state = WarmStateFile.Read(WarmStateFile.Write(found))!;
            var warm = new Reasoner(c.Model, warm: state);
            Assert.True(warm.IsWarm, $"seed {c.Seed}");
            taken++;
            foreach (var picks in Enumerable.Range(0, c.Picks.Length + 1).Select(n => c.Picks[..n]))
                Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(picks), CancellationToken.None)),
                    Promised(warm.Answer(new(picks), CancellationToken.None)));
            // What is of another model, or was changed so that a configuration does not hold, is left.
            if (ofAnother is not null && new Reasoner(c.Model, warm: ofAnother) is { IsWarm: false } other)
            {
                Assert.Equal(Promised(new Reasoner(c.Model).Answer(new(c.Picks), CancellationToken.None)),
                    Promised(other.Answer(new(c.Picks), CancellationToken.None)));
                left++;
            }
            ofAnother = state;
            Assert.False(new Reasoner(c.Model,
                warm: state with { Configurations = state.Configurations.Add([.. state.Configurations[0].Select(_ => 9_999)]) }).IsWarm);
        }
        Assert.True(taken > Rounds / 6 && left > Rounds / 12, $"{taken} were taken over, {left} left");
    }

    [Fact]
    public void A_state_whose_bytes_were_changed_is_left_or_means_the_same()
    {
        var c = Cases(7).First(c => c.Reasoner.ToWarmState(CancellationToken.None) is { Configurations.Length: > 3 });
        var (bytes, random, read) = (WarmStateFile.Write(c.Reasoner.ToWarmState(CancellationToken.None)!), new Random(3), 0);
        for (var round = 0; round < 400; round++)
        {
            var changed = (byte[])bytes.Clone();
            changed[random.Next(changed.Length)] ^= (byte)(1 << random.Next(8));
            read += WarmStateFile.Read(random.Next(4) == 0 ? changed[..random.Next(changed.Length)] : changed) is null ? 0 : 1;
        }
        Assert.InRange(read, 0, 399);
    }

    [Fact]
    public void Sessions_of_edits_and_picks_get_the_answers_of_a_reasoner_that_knows_nothing()
    {
        var edits = 0;
        foreach (var c in Cases(12).Take(Rounds / 3))
        {
            var random = new Random(c.Seed);
            var root = c.Model.Document.Assemblies[0];
            var rules = root.Rows.OfType<RuleRow>().ToList();
            var (reasoner, model, without) = (c.Reasoner, c.Model, new HashSet<string>());
            for (var step = 0; step < 6; step++)
            {
                if (random.Next(2) == 0 && rules.Count > 0)
                {
                    // A rule goes, or comes back.
                    var rule = rules[random.Next(rules.Count)].Id;
                    if (!without.Remove(rule))
                        without.Add(rule);
                    var edited = c.Model.Document.Assemblies
                        .Replace(root, root with { Topics = [.. root.Topics.Select(t => t with { Rows = [.. t.Rows.Where(r => !without.Contains(r.Id))] })] });
                    model = new BoundModel(c.Model.Document with { Assemblies = edited }, RandomModels.Facts);
                    reasoner = new Reasoner(model, previous: reasoner);
                    edits++;
                }
                var picks = c.Picks.Where(_ => random.Next(3) > 0).ToImmutableArray();
                var question = new Question(picks);
                Assert.Equal(Promised(new Reasoner(model).Answer(question, CancellationToken.None)),
                    Promised(reasoner.Answer(question, CancellationToken.None)));
                // A question that is stopped leaves nothing behind.
                using var stopped = new CancellationTokenSource();
                stopped.Cancel();
                reasoner.WaysOut(question, null, stopped.Token);
                reasoner.Answer(question, stopped.Token);
                string Ways(Reasoner of) => string.Join(";", of.WaysOut(question, null, CancellationToken.None).Found.Select(w => string.Join(",", w.Changes)));
                Assert.Equal(Ways(new Reasoner(model)), Ways(reasoner));
            }
        }
        Assert.True(edits > Rounds / 3, $"only {edits} edits were made");
    }

    [Fact]
    public void A_question_that_is_stopped_says_so_and_passes_nothing_off_as_exact()
    {
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        var (interrupted, asked) = (0, 0);
        foreach (var c in Cases(8).Take(40).Where(c => c.All.Count > 0))
        {
            var answer = new Reasoner(c.Model).Answer(new(c.Picks), stopped.Token);
            asked++;
            Assert.All(answer.Clashes.Where(x => !x.Finished), x => Assert.Empty(x.Causes));
            if (answer.Exact)
                continue;
            interrupted++;
            Assert.True(answer.Valid is null || answer.Valid == (c.With(c.Picks).Count > 0), $"seed {c.Seed}: {answer.Valid} was not proven");
            Assert.DoesNotContain(answer.Attributes, a => a.State is AttributeState.Follows or AttributeState.Suggested);
        }
        Assert.True(interrupted > asked / 4, $"{interrupted} of {asked} questions needed a search long enough to be stopped");
    }

    [Fact]
    public void Of_a_complete_configuration_the_network_and_the_structure_say_the_same()
    {
        var (lines, faults) = (0, 0);
        foreach (var c in Cases(5))
        {
            if (c.All.Count == 0)
                continue;
            var configuration = c.All[c.Seed % c.All.Count];
            var picks = configuration.Where(x => x.Value.Applies).Select(x => new Pick(x.Key, x.Value.Value)).ToImmutableArray();
            var answer = c.Reasoner.Answer(new(picks), CancellationToken.None);
            Assert.True(answer.Valid == true, $"seed {c.Seed}");
            Assert.All(answer.Attributes, a => Assert.Equal(configuration[a.Path].Applies, a.State == AttributeState.Picked));
            var values = picks.ToDictionary(p => p.Path, p => p.Value);
            var evaluator = new Evaluator(c.Model, values);
            foreach (var computed in answer.AsSuggested.Computed)
            {
                var value = evaluator[computed.Path];
                Assert.True(value.IsNothing ? computed.Number is null : computed.Number is { IsFinal: true } n && n.Low == value.Number,
                    $"seed {c.Seed}: {computed.DisplayPath} is {value}, not {computed.Number}");
            }
            var result = StructureBuilder.Build(c.Model, values);
            foreach (var line in answer.AsSuggested.Lines)
            {
                var there = evaluator.Applies(evaluator.Occurrences.Single(o => o.Prefix == line.Prefix), line.Row);
                Assert.Equal(there ? LineState.In : LineState.Out, line.State);
                if (result.Structure is not { } structure || !there)
                    continue;
                var number = line.Numbers[line.Row is PartLine ? "quantity" : "run"];
                Assert.True(number.IsFinal, $"seed {c.Seed}");
                if (line.Row is OperationLine)
                    Assert.Equal(number.Low, Assert.Single(structure.Routing).Run);
                else if (structure.Bom.SingleOrDefault(l => l.RowId == line.Row.Id) is not { } built)
                    Assert.Equal(0, number.Low!.Value.Sign);
                else
                    Assert.True(built.Net >= number.Low && built.Net < number.Low + Exact.Of(1, 2) && built.Gross >= built.Net
                        && built.Gross < built.Net * Exact.Of(11, 10) + Exact.Of(1, 2));
                lines++;
            }
            faults += result.Faults.Length;
        }
        Assert.True(lines > Rounds / 3 && faults > 0, $"{lines} lines and {faults} faults were met");
    }

    private static IEnumerable<Pick> Kept(Case c, HashSet<int> dropped) => c.Picks.Where((_, i) => !dropped.Contains(i));

    private static IEnumerable<HashSet<int>> Subsets(int count) =>
        Enumerable.Range(0, 1 << count).Select(mask => Enumerable.Range(0, count).Where(i => (mask >> i & 1) != 0).ToHashSet());
}
