using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Absence, optional attributes, resting picks, clashes and suggestions, each as the semantics say it in so many words.</summary>
public class ReasoningByHand
{
    [Fact]
    public void A_bound_on_what_may_be_left_out_never_forbids_leaving_it_out()
    {
        var model = Sound(Assembly("room", YesNo("door"), Length("width", 600, 3000, 100) with { AppliesWhen = "door" }, Rule("r", "width <= 2 m"),
            Rule("s", "width >= 2.5 m")));
        // The rules leave the width no value, so the door is left out: both rules rest then.
        var answer = Ask(model);
        Assert.True(answer.Valid == true);
        Assert.Equal("no", answer.Available(model, "door"));
        Assert.Equal(Applicability.Never, answer.At("width").Applies);
    }

    [Fact]
    public void A_condition_without_a_value_counts_as_false()
    {
        var model = Sound(Assembly("room", YesNo("door"), Length("width", 600, 900, 100) with { AppliesWhen = "door" },
            YesNo("wide") with { AppliesWhen = "width > 700 mm" }));
        Assert.Equal(Applicability.Never, Ask(model, "door=no").At("wide").Applies);
        Assert.Equal(Applicability.Never, Ask(model, "door=yes", "width=700").At("wide").Applies);
        Assert.Equal(Applicability.Always, Ask(model, "door=yes", "width=800").At("wide").Applies);
        Assert.Equal(Applicability.Maybe, Ask(model, "door=yes").At("wide").Applies);
    }

    [Theory]
    [InlineData("no", "no and lit", "no")]
    [InlineData("no", "yes or lit", "yes")]
    [InlineData("no", "not lit", "none")]
    [InlineData("no", "yes and lit", "none")]
    [InlineData("no", "applies(lit)", "no")]
    [InlineData("yes", "applies(lit)", "yes")]
    public void Logic_over_what_does_not_apply_is_that_of_Kleene(string has, string expression, string expected)
    {
        var model = Sound(Assembly("room", YesNo("has"), YesNo("lit") with { AppliesWhen = "has" }, Computed("it", expression)));
        var computed = (has == "yes" ? Ask(model, "has=yes", "lit=no") : Ask(model, "has=no")).AsSuggested.Computed.Single();
        Assert.Equal(expected, computed.Value is { IsNothing: false } value ? value.IsTrue ? "yes" : "no" : "none");
    }

    [Fact]
    public void Fewer_instances_rest_the_picks_of_the_others_and_never_drop_them()
    {
        var place = new Subassembly
        {
            Id = "p",
            Name = "doors",
            AssemblyId = "leaf",
            InstanceCount = "number",
            Instances = [new() { Id = "a" }, new() { Id = "b" }, new() { Id = "c" }]
        };
        var model = Sound(Assembly("room", Whole("number", 1, 5), place, Rule("r", "sum(doors.width) <= 5")), Assembly("leaf", Whole("width", 1, 3)));
        // There are never more than there are instances for.
        Assert.Equal("1 2 3", Ask(model).Available(model, "number"));
        var three = Ask(model, "number=3", "doors[1].width=3", "doors[2].width=1");
        Assert.Equal((AttributeState.Follows, "1"), (three.At("doors[3].width").State, three.Available(model, "doors[3].width")));
        var two = Ask(model, "number=2", "doors[1].width=2", "doors[3].width=3");
        Assert.True(two.Valid == true);
        Assert.Equal((AttributeState.Resting, AttributeState.Open), (two.At("doors[3].width").State, two.At("doors[2].width").State));
        // Picks on a later one say nothing of how many there are, except by what they leave room for.
        Assert.Equal("1 2", Ask(model, "doors[1].width=3", "doors[3].width=3").Available(model, "number"));
    }

    [Fact]
    public void Several_choices_keep_to_their_bounds_and_take_what_is_suggested()
    {
        var extras = Choice("extras") with { Kind = AttributeKind.Several, Min = "1", Max = "2", Suggestion = "c120" };
        var model = Sound(Assembly("room", extras, Rule("r", "sum(extras.thickness) <= 200 mm"), Computed("thick", "max(extras.thickness)"),
            Computed("any80", "extras has '80'")));
        var open = Ask(model);
        Assert.Equal((AttributeState.Suggested, true), (open.At("extras.120").State, open.At("extras.120").Value!.Value.IsTrue));
        Assert.Equal([false, false], new[] { "extras.80", "extras.100" }.Select(p => open.At(p).Value!.Value.IsTrue));
        Assert.Empty(open.Missing);
        // 120 and 100 are too thick together; what is not suggested is left out only as a whole.
        Assert.Equal("no", Ask(model, "extras.120=yes").Available(model, "extras.100"));
        var without = Ask(model, "extras.120=no");
        Assert.Equal(["extras#c80", "extras#c100"], without.Missing.AsEnumerable());
        Assert.Equal(AttributeState.Follows, Ask(model, "extras.120=no", "extras.80=no").At("extras.100").State);
        var reason = new Reasoner(model)
            .WhyNot(new(Picks(model, "extras.80=no", "extras.100=no")), "extras#c120", Value.Of(false), CancellationToken.None).Reason!;
        Assert.Equal((2, new Cause(CauseKind.Bound, "extras", "min", "")), (reason.Picks.Length, Assert.Single(reason.Causes)));
    }

    [Fact]
    public void Over_nothing_the_sum_and_the_count_are_zero_all_is_true_and_the_least_is_no_number()
    {
        var below = Assembly("leaf", Whole("width", 1, 3));
        var place = new Subassembly
        {
            Id = "p",
            Name = "door",
            AssemblyId = "leaf",
            Make = SubassemblyKind.Phantom,
            AppliesWhen = "has",
            Instances = [new() { Id = "1" }]
        };
        var model = Sound(Assembly("room", YesNo("has"), place, Computed("total", "sum(door.width)"), Computed("number", "count(door)"),
            Computed("wide", "if all(door.width > 2) then 1 else 0"),
            Computed("some", "if any(door.width > 0) then 1 else 0"), Computed("least", "min(door.width)")), below);
        string Of(Answer answer, string name) => answer.AsSuggested.Computed.Single(c => c.DisplayPath == name).Number is { IsFinal: true } n
            ? n.Low!.Value.ToString() : "no value";
        var without = Ask(model, "has=no");
        Assert.Equal(["0", "0", "1", "0", "no value"], new[] { "total", "number", "wide", "some", "least" }.Select(n => Of(without, n)));
        var with = Ask(model, "has=yes", "door.width=2");
        Assert.Equal(["2", "1", "0", "1", "2"], new[] { "total", "number", "wide", "some", "least" }.Select(n => Of(with, n)));
    }

    [Fact]
    public void None_is_a_value_of_an_optional_attribute_and_is_reasoned_about()
    {
        var model = Sound(Assembly("room", Choice("core") with { Required = false }, YesNo("bare"), Rule("r", "(core = none) = bare")));
        Assert.Equal("80 100 120 none", Ask(model).Available(model, "core"));
        Assert.Equal("none", Ask(model, "bare=yes").Available(model, "core"));
        Assert.Equal(AttributeState.Follows, Ask(model, "bare=yes").At("core").State);
        Assert.Equal("80 100 120", Ask(model, "bare=no").Available(model, "core"));
        Assert.Equal("yes", Ask(model, "core=none").Available(model, "bare"));
    }

    [Fact]
    public void A_pick_on_what_no_longer_applies_rests_and_comes_back()
    {
        var model = Sound(Assembly("room", YesNo("shelving"), Whole("bays", 1, 9) with { AppliesWhen = "shelving" },
            Computed("load", "if applies(bays) then bays * 40 else 0")));
        var resting = Ask(model, "bays=4", "shelving=no");
        Assert.True(resting.Valid == true);
        Assert.Equal((AttributeState.Resting, Value.Of((Exact)4)), (resting.At("bays").State, resting.At("bays").Value));
        Assert.Equal(Exact.Zero, resting.AsSuggested.Computed.Single().Number!.High);
        Assert.DoesNotContain(new Reasoner(model).Complete(resting, CancellationToken.None)!.Value, p => p.Path == "bays");
        var back = Ask(model, "bays=4", "shelving=yes");
        Assert.Equal(AttributeState.Picked, back.At("bays").State);
        Assert.Equal((Exact)160, back.AsSuggested.Computed.Single().Number!.Low);
    }

    [Fact]
    public void Picks_are_taken_in_their_order_and_the_one_that_cannot_join_is_in_clash()
    {
        var model = Sound(Assembly("room", Whole("a", 0, 3), Whole("b", 0, 3), Whole("c", 0, 3), Rule("ab", "a + b <= 3"), Rule("bc", "b + c >= 4")));
        var answer = Ask(model, "a=2", "b=3", "c=3");
        Assert.Equal(false, answer.Valid);
        Assert.Equal([AttributeState.Picked, AttributeState.Clash, AttributeState.Picked], new[] { "a", "b", "c" }.Select(n => answer.At(n).State));
        // The clash names just what it takes: the pick on c has no part in it.
        var clash = Assert.Single(answer.Clashes);
        Assert.Equal(["a", "b"], clash.Picks.Select(p => p.Path).Order());
        Assert.Equal("ab", Assert.Single(clash.Causes).RowId);
        // Everything else is answered for the picks that stand.
        Assert.Equal("1", answer.Available(model, "b"));
        // In another order another one is in clash.
        Assert.Equal(AttributeState.Clash, Ask(model, "b=3", "c=3", "a=2").At("a").State);
    }

    [Fact]
    public void Ways_out_change_the_least_and_the_latest_first_and_name_values_that_were_tried()
    {
        var model = Sound(Assembly("room", Whole("a", 0, 3), Whole("b", 0, 3), Whole("c", 0, 3), Rule("ab", "a + b <= 3"), Rule("bc", "b + c >= 4")));
        var picks = Picks(model, "a=2", "b=3", "c=3");
        var reasoner = new Reasoner(model);
        var ways = reasoner.WaysOut(new(picks), null, CancellationToken.None).Found;
        Assert.Equal([["b"], ["a"]], ways.Select(w => w.Changes.Select(c => c.From.Path).ToArray()).ToArray());
        foreach (var way in ways)
            Assert.True(reasoner.Answer(new(
                [.. picks.Select(p => way.Changes.FirstOrDefault(c => c.From == p) is { To: { } to } ? p with { Value = to } : p)]),
                CancellationToken.None).Valid == true);
        // Two picks stand in the way of this one, each by itself.
        var wanted = reasoner.WaysOut(new(Picks(model, "a=2", "c=2")), Picks(model, "b=3")[0], CancellationToken.None).Found;
        Assert.Equal([["a"]], wanted.Select(w => w.Changes.Select(c => c.From.Path).ToArray()).ToArray());
    }

    [Fact]
    public void Where_no_pick_can_help_there_is_no_way_out_and_the_cause_is_the_rules()
    {
        var model = Sound(Assembly("room", Whole("a", 0, 3), Rule("low", "a <= 1")));
        var reasoner = new Reasoner(model);
        Assert.Empty(reasoner.WaysOut(new([]), Picks(model, "a=2")[0], CancellationToken.None).Found);
        Assert.Equal("low", Assert.Single(reasoner.WhyNot(new([]), "a", Value.Of((Exact)2), CancellationToken.None).Reason!.Causes).RowId);
    }

    [Fact]
    public void Suggestions_are_taken_in_the_authors_order_and_never_rule_anything_out()
    {
        var model = Sound(Assembly("room", Choice("core") with { Suggestion = "c80" }, YesNo("freezer") with { Suggestion = "yes" },
            Rule("r", "not freezer or core.thickness >= 100 mm")));
        var answer = Ask(model);
        // The core comes first, so that the freezer cannot be had with it any more: its suggestion is not taken.
        Assert.Equal((AttributeState.Suggested, Value.Choice("c80")), (answer.At("core").State, answer.At("core").Value));
        Assert.NotEqual(Value.Of(true), answer.At("freezer").Value);
        Assert.Equal("80 100 120", answer.Available(model, "core"));
        Assert.Equal("yes no", string.Join(" ", answer.Available(model, "freezer").Split(' ').OrderDescending()));
        // A pick against the first suggestion makes room for the second.
        Assert.Equal((AttributeState.Suggested, Value.Of(true)), (Ask(model, "core=100").At("freezer").State, Ask(model, "core=100").At("freezer").Value));
    }

    [Fact]
    public void What_is_still_needed_are_required_attributes_that_apply_and_have_no_value()
    {
        var model = Sound(Assembly("room", YesNo("has"), Whole("a", 1, 2) with { AppliesWhen = "has" }, Whole("b", 1, 2) with { Required = false },
            Whole("c", 1, 2) with { Suggestion = "1" }, Whole("d", 1, 1)));
        Assert.Equal(["has"], Ask(model).Missing.Order());
        Assert.Equal("a", Assert.Single(Ask(model, "has=yes").Missing));
        Assert.Empty(Ask(model, "has=no").Missing);
    }

    [Fact]
    public void Advice_is_told_and_rules_nothing_out()
    {
        var model = Sound(Assembly("room", YesNo("medical"), YesNo("logging"), Rule("a", "not medical or logging") with { Strength = RuleStrength.Advice }));
        var answer = Ask(model, "medical=yes", "logging=no");
        Assert.True(answer.Valid == true);
        Assert.Equal("a", Assert.Single(answer.Advice).RowId);
        Assert.Empty(Ask(model, "medical=yes", "logging=yes").Advice);
        Assert.Equal("yes no", string.Join(" ", Ask(model, "medical=yes").Available(model, "logging").Split(' ').OrderDescending()));
    }

    [Fact]
    public void A_grid_allows_its_rows_only_and_gives_its_figures()
    {
        var grid = new CombinationGrid
        {
            Id = "g",
            Name = "spans",
            Columns = [new() { Id = "k", Name = "core", Reference = "core" }, new() { Id = "n", Name = "load", Reference = "load" },
                new() { Id = "f", Name = "longest", Unit = "m" }],
            Rows = [new() { Id = "1", Cells = ["80", "1 .. 2", "3"] }, new() { Id = "2", Cells = ["100 | 120", "*", "5"] }],
        };
        var model = Sound(Assembly("room", Choice("core"), Whole("load", 1, 4), grid, Computed("span", "spans.longest")));
        Assert.Equal("1 2", Ask(model, "core=80").Available(model, "load"));
        Assert.Equal("100 120", Ask(model, "load=3").Available(model, "core"));
        Assert.Equal("3", In("m", Ask(model, "core=80").AsSuggested.Computed.Single().Number!.Low!.Value).ToString());
        var open = Ask(model).AsSuggested.Computed.Single().Number!;
        Assert.Equal(((Exact)3, (Exact)5), (open.Low, open.High));
    }

    [Fact]
    public void A_length_between_two_moving_bounds_has_the_exact_steps_that_are_left()
    {
        var model = Sound(Assembly("room", Length("width", 600, 1200, 50) with { Lower = "gap * 2 + 0.3 m", Upper = "1.2 m - gap" },
            Length("gap", 0, 400, 100)));
        var free = Ask(model, "gap=200").At("width").Available;
        Assert.Equal(("700", "1000", 7), (In("mm", free.Lowest!.Value).ToString(), In("mm", free.Highest!.Value).ToString(), free.Values.Length));
        Assert.Equal("0 100 200", Ask(model, "width=700").Available(model, "gap"));
        // 1100 to 800 mm: no width is left, and so no gap of 400 mm.
        Assert.Equal("0 100 200 300", Ask(model).Available(model, "gap"));
    }

    [Fact]
    public void Why_names_the_condition_that_lets_a_value_follow()
    {
        var model = Sound(Assembly("room", YesNo("freezer"), Choice("core"), new RequiresRule { Id = "thick", When = "freezer", Then = "core = '120'" },
            Rule("other", "core.thickness > 50 mm")));
        var why = new Reasoner(model).WhyFollows(new(Picks(model, "freezer=yes")), "core", Value.Choice("c120"), CancellationToken.None).Reason!;
        Assert.Equal(("freezer", "thick"), (Assert.Single(why.Picks).Path, Assert.Single(why.Causes).RowId));
    }

    [Fact]
    public void Division_by_zero_is_no_configuration_and_no_exception()
    {
        var model = Sound(Assembly("room", Whole("a", 0, 2), Computed("q", "6 / a"), Rule("r", "q >= 0")));
        Assert.Equal("1 2", Ask(model).Available(model, "a"));
        Assert.Equal(((Exact)3, (Exact)6), (Ask(model).AsSuggested.Computed.Single().Number!.Low, Ask(model).AsSuggested.Computed.Single().Number!.High));
    }

    [Fact]
    public void A_tie_that_only_exact_numbers_tell_leaves_nothing_also_where_time_ran_out()
    {
        // Three tenths are not more than 0.3, which doubles cannot say before the number is decided.
        var model = SmallModels.Sound(SmallModels.Assembly("room", SmallModels.Whole("x", 0, 3), SmallModels.Rule("r", "x * 0.1 > 0.3")));
        Assert.Equal("r", Assert.Single(Assert.Single(SmallModels.Ask(model).Clashes).Causes).RowId);
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        Assert.False(new Reasoner(model).Answer(new([]), stopped.Token).Valid == true);
    }
}
