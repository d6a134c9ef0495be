using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>List prices worked out by hand, their reach against all configurations, and what is wrong with a price.</summary>
public class Prices
{
    private static readonly ValueList Extras = new()
    {
        Id = "extras",
        Name = "extras",
        Properties = [new() { Id = "more", Name = "more", Unit = "EUR" }, new() { Id = "bare", Name = "bare" }],
        Values = [.. new[] { ("alarm", "12.50"), ("lamp", "7.25"), ("rail", "") }.Select(v => new ListValue
        {
            Id = v.Item1,
            Code = v.Item1,
            Properties = v.Item2.Length == 0
                ? ImmutableSortedDictionary<string, string>.Empty : ImmutableSortedDictionary<string, string>.Empty.Add("more", v.Item2),
        })],
    };

    private static BoundModel Of(params AssemblyDefinition[] assemblies) =>
        new(new() { Id = "m", Code = "CR", Root = assemblies[0].Id, Lists = [Cores, Extras], Assemblies = [.. assemblies] }, Facts);

    private static BoundModel Sound(params AssemblyDefinition[] assemblies)
    {
        var model = Of(assemblies);
        Assert.True(model.Findings.All(f => !f.Blocks), string.Join(" ", model.Findings.Select(f => $"{f.RowId}.{f.Field}: {f.Diagnostic.Message}")));
        return model;
    }

    private static PriceLine Line(string id, PriceEffect effect, string amount, string when = "") =>
        new() { Id = id, Effect = effect, Amount = amount, AppliesWhen = when };
    private static PriceLine Adds(string id, string amount, string when = "") => Line(id, PriceEffect.Adds, amount, when);

    private static PriceResult Price(BoundModel model, params string[] picks)
    {
        var reasoner = new Reasoner(model);
        return Pricing.Of(model, reasoner.Complete(reasoner.Answer(new(Picks(model, picks)), CancellationToken.None), CancellationToken.None)!.Value
            .ToDictionary(p => p.Path, p => p.Value));
    }

    private static string Steps(PriceSheet sheet) => string.Join("; ", sheet.Steps.Select(s => $"{s.Row?.Id ?? "cents"} {s.Number} → {s.After}"));

    [Fact]
    public void Amounts_come_first_then_factors_least_prices_and_roundings_wherever_they_stand()
    {
        var model = Sound(Assembly("curtain",
            Line("step", PriceEffect.Rounds, "5 EUR") with { Rounding = PriceRounding.Up }, Line("least", PriceEffect.AtLeast, "95 EUR"),
                Line("fast", PriceEffect.Times, "1.1", "express"),
            Length("width", 600, 3000, 10), YesNo("express"), Adds("area", "width * 2 m * 32 EUR/m2"), Adds("narrow", "-3 EUR", "width < 1 m")));
        Assert.Equal("area 76.8 → 76.8; least 95 → 95; step 5 → 95", Steps(Price(model, "width=1200", "express=no").Sheet!));
        Assert.Equal("area 128 → 128; fast 1.1 → 140.8; least 95 → 140.8; step 5 → 145", Steps(Price(model, "width=2000", "express=yes").Sheet!));
        Assert.Equal("area 38.4 → 38.4; narrow -3 → 35.4; least 95 → 95; step 5 → 95", Steps(Price(model, "width=600", "express=no").Sheet!));
    }

    [Fact]
    public void Values_parts_operations_and_subassemblies_add_what_they_cost_extra()
    {
        var model = Sound(
            Assembly("room", Choice("core") with { ListId = "extras", SurchargeColumn = "more" },
                new AttributeRow { Id = "extras_in", Name = "extras_in", Kind = AttributeKind.Several, ListId = "extras", SurchargeColumn = "more" },
                Whole("bolts", 0, 4), Adds("base", "100 EUR"),
                new PartLine { Id = "p", Item = "BOLT", Quantity = "bolts", Surcharge = "bolts * 0.333 EUR + 1 EUR" },
                new OperationLine { Id = "o", Name = "o", WorkCentre = "BENCH", Surcharge = "4 EUR", AppliesWhen = "bolts > 2" },
                Whole("number", 1, 3), new Subassembly
                {
                    Id = "doors",
                    Name = "doors",
                    AssemblyId = "leaf",
                    InstanceCount = "number",
                    Quantity = "2",
                    Instances = [new() { Id = "1" }, new() { Id = "2" }, new() { Id = "3" }]
                }),
            Assembly("leaf", YesNo("window"), Adds("leaf_base", "10 EUR"), Adds("pane", "2.005 EUR", "window"),
                Line("leaf_step", PriceEffect.Rounds, "0.5 EUR")));
        var sheet = Price(model, "core=lamp", "extras_in.alarm=yes", "extras_in.lamp=no", "extras_in.rail=yes", "bolts=3", "number=2", "doors[1].window=yes",
            "doors[2].window=no").Sheet!;
        // A door with a window is 12.005, to the next half 12.00; two pieces of each.
        Assert.Equal("core 7.25 → 7.25; extras_in 12.5 → 19.75; base 100 → 119.75; p 1.999 → 121.749; o 4 → 125.749; doors 24 → 149.749; doors 20 → "
            + "169.749; cents 0.01 → 169.75", Steps(sheet));
        Assert.Equal("leaf_base 10 → 10; pane 2.005 → 12.005; leaf_step 0.5 → 12", Steps(sheet.Steps[5].Below!));
        // A part of which nothing is needed adds nothing; neither does a value without a surcharge, or none chosen.
        Assert.Equal("base 100 → 100; doors 20 → 120",
            Steps(Price(model, "core=rail", "extras_in.alarm=no", "extras_in.lamp=no", "extras_in.rail=yes", "bolts=0", "number=1",
            "doors[1].window=no").Sheet!));
    }

    [Fact]
    public void Reach_and_best_of_a_price_are_those_over_all_configurations()
    {
        var model = Sound(
            Assembly("room", Choice("core") with { ListId = "extras", SurchargeColumn = "more" }, Whole("bolts", 0, 3), Whole("number", 1, 2),
                Rule("r", "if core = alarm then bolts > 0"),
                new PartLine { Id = "p", Item = "BOLT", Quantity = "bolts", Surcharge = "5 EUR - bolts * 1 EUR" }, Adds("base", "40 EUR"),
                    Line("f", PriceEffect.Times, "1 - bolts * 3 %", "bolts > 1"),
                Line("least", PriceEffect.AtLeast, "61.5 EUR", "number = 1"),
                    Line("down", PriceEffect.Rounds, "0.7 EUR") with { Rounding = PriceRounding.Down },
                new Subassembly
                {
                    Id = "doors",
                    Name = "doors",
                    AssemblyId = "leaf",
                    InstanceCount = "number",
                    Instances = [new() { Id = "1" }, new() { Id = "2" }]
                }),
            Assembly("leaf", YesNo("window"), Adds("leaf_base", "10 EUR"), Line("pane", PriceEffect.Times, "1.375", "window")));
        var reasoner = new Reasoner(model);
        foreach (var picked in new[] { "", "number=1", "core=alarm", "bolts=2", "doors[1].window=yes" })
        {
            var question = new Question(picked.Length == 0 ? [] : Picks(model, picked));
            var prices = reasoner.Explore(question, CancellationToken.None)
                .Select(c => Pricing.Of(model, c.ToDictionary(p => p.Path, p => p.Value)).Sheet!.Price).ToList();
            Assert.True(prices.Distinct().Count() > 1);
            var answer = reasoner.Answer(question, CancellationToken.None);
            var tight = reasoner.Tight(answer, StructureGoals.Price, null, CancellationToken.None)!;
            Assert.Equal((prices.Min(), prices.Max(), false, true), (tight.Low!.Value, tight.High!.Value, tight.MayHaveNoValue, tight.Finished));
            var lowest = reasoner.Best(answer, StructureGoals.Price, false, CancellationToken.None);
            Assert.True(lowest.Proven);
            Assert.Equal(prices.Min(), lowest.Number);
            Assert.Equal(lowest.Number, Pricing.Of(model, lowest.Values!.Value.ToDictionary(p => p.Path, p => p.Value)).Sheet!.Price);
            var reach = reasoner.Totals(answer)[StructureGoals.Price].Open;
            Assert.True(reach.Low <= prices.Min() && reach.High >= prices.Max() && reach.High <= 200, $"{reach.Low} .. {reach.High}");
        }
    }

    /// <summary>Random prices on random models, with absent subassemblies, several instances, divisions by zero and steps that are none.</summary>
    [Fact]
    public void The_reach_of_random_prices_is_that_of_all_configurations()
    {
        var (compared, unpriced) = (0, 0);
        for (var seed = 0; seed < 60; seed++)
        {
            var random = new Random(seed);
            string One(params string[] of) => of[random.Next(of.Length)];
            PriceLine Any(string id, string[] amounts, string[] conditions) => random.Next(6) switch
            {
                0 => Line(id, PriceEffect.Times, One("1.1", "0.35", "2"), One(conditions)),
                1 => Line(id, PriceEffect.AtLeast, One("7.3 EUR", "20 EUR"), One(conditions)),
                2 => Line(id, PriceEffect.Rounds, One("0.7 EUR", "2 EUR", One(amounts)), One(conditions)) with { Rounding = (PriceRounding)random.Next(3) },
                _ => Adds(id, One(amounts), One(conditions)),
            };
            var document = new RandomModels(seed * 613 + 3).Next();
            var (root, door) = (document.Assemblies[0], document.Assemblies.Single(a => a.Id == "door"));
            Row[] above = [.. Enumerable.Range(0, 4)
                .Select(n => Any($"above{n}", ["doors * 3 EUR", "shelves * 1.25 EUR", "core.thickness * 0.1 EUR", "12 EUR / doors", "4 EUR"],
                ["", "", "heated", "core = v80", "doors > 1", "applies(door)", "load > 3"]))];
            Row[] below = [.. Enumerable.Range(0, 2)
                .Select(n => Any($"below{n}", ["width * 2 EUR", "9 EUR / width", "1 EUR", "frame * 0.4 EUR"], ["", "width > 0", "frame < 3"]))];
            var model = new BoundModel(document with
            {
                Assemblies = document.Assemblies.Replace(root, root with { Topics = [.. root.Topics, new() { Id = "priced", Rows = [.. above] }] })
                    .Replace(door, door with { Topics = [.. door.Topics, new() { Id = "pricedDoor", Rows = [.. below] }] }),
            }, RandomModels.Facts);
            Assert.True(model.Findings.All(f => !f.Blocks), string.Join(" ", model.Findings.Select(f => f.Diagnostic.Message)));
            var reasoner = new Reasoner(model);
            var all = reasoner.Explore(new([]), CancellationToken.None).Select(c => Pricing.Of(model, c.ToDictionary(p => p.Path, p => p.Value))).ToList();
            var prices = all.Where(p => p.Sheet is not null).Select(p => p.Sheet!.Price).ToList();
            unpriced += all.Count - prices.Count;
            if (prices.Count == 0)
                continue;
            var answer = reasoner.Answer(new([]), CancellationToken.None);
            using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
            var tight = reasoner.Tight(answer, StructureGoals.Price, null, limit.Token)!;
            Assert.True(tight.Finished, $"seed {seed}");
            Assert.Equal((seed, prices.Min(), prices.Max(), all.Count > prices.Count), (seed, tight.Low!.Value, tight.High!.Value, tight.MayHaveNoValue));
            compared += prices.Distinct().Count();
        }
        Assert.True(compared > 300 && unpriced > 50, $"{compared} prices, {unpriced} configurations without one");
    }

    [Fact]
    public void Extras_that_nobody_has_touched_count_among_what_can_still_be_had_and_not_as_suggested()
    {
        var model = Sound(Assembly("room",
            new AttributeRow { Id = "extras", Name = "extras", Kind = AttributeKind.Several, ListId = "extras", SurchargeColumn = "more" },
            Adds("base", "40 EUR"),
            new PartLine { Id = "p", Item = "BOLT", AppliesWhen = "extras has alarm" }));
        var reasoner = new Reasoner(model);
        var answer = reasoner.Answer(new([]), CancellationToken.None);
        var most = reasoner.Explore(new([]), CancellationToken.None).Max(c => Pricing.Of(model, c.ToDictionary(p => p.Path, p => p.Value)).Sheet!.Price);
        Assert.True(most > 40);
        var (tight, total) = (reasoner.Tight(answer, StructureGoals.Price, null, CancellationToken.None)!, reasoner.Totals(answer)[StructureGoals.Price]);
        Assert.Equal(((Exact?)40, most), (tight.Low, tight.High));
        Assert.True(total.Open.Low <= 40 && total.Open.High >= most);
        Assert.Equal((true, (Exact?)40), (total.AsSuggested.IsFinal, total.AsSuggested.Low));
        Assert.Equal((LineState.Open, LineState.Out), (answer.Open.Lines.Single().State, answer.AsSuggested.Lines.Single().State));
    }

    [Fact]
    public void A_total_is_final_once_everything_is_picked_and_a_model_without_prices_has_none()
    {
        var model = Sound(Assembly("room", Whole("bolts", 1, 9), new PartLine { Id = "p", Item = "BOLT", Quantity = "bolts", Surcharge = "bolts * 0.5 EUR" }));
        var totals = new Reasoner(model).Totals(Ask(model, "bolts=4"));
        Assert.All([StructureGoals.Cost, StructureGoals.Weight, StructureGoals.Work, StructureGoals.Price], goal =>
            Assert.True(totals[goal].Open.IsFinal, goal));
        Assert.Equal((Exact)2, totals[StructureGoals.Price].Open.Low);
        Assert.Equal((Exact)1, totals[StructureGoals.Cost].Open.Low);
        var unpriced = SmallModels.Sound(Assembly("room", Whole("bolts", 1, 9)));
        Assert.DoesNotContain(StructureGoals.Price, new Reasoner(unpriced).Goals);
        Assert.Null(Price(unpriced, "bolts=1").Sheet);
    }

    [Fact]
    public void A_discount_is_taken_from_each_piece_in_whole_cents()
    {
        var dealer = new CustomerClassFact { Code = "D", Discount = "12.5", Discounts = ImmutableSortedDictionary<string, string>.Empty.Add("SC", "3") };
        // 99.99 less 12.5 % is 87.49125.
        Assert.Equal(new(Exact.Parse("99.99"), Exact.Parse("12.5"), Exact.Parse("87.49"), Exact.Parse("262.47")),
            Pricing.OfferFor(Exact.Parse("99.99"), dealer, "CR", 3));
        // 50.50 less 3 % is 48.985, and half a cent goes up.
        Assert.Equal(Exact.Parse("48.99"), Pricing.OfferFor(Exact.Parse("50.50"), dealer, "sc", 1).Each);
        Assert.Equal((Exact.Zero, (Exact)80), (Pricing.OfferFor(8, null, "CR", 10).Discount, Pricing.OfferFor(8, null, "CR", 10).Order));
    }

    [Theory]
    [InlineData("width * 2", Fault.UnitMismatch)]
    [InlineData("12", Fault.UnitMismatch)]
    [InlineData("", Fault.MissingExpression)]
    [InlineData("12 EUR + nothing_there", Fault.UnknownName)]
    public void What_is_no_amount_of_money_is_told_at_its_place(string amount, Fault fault)
    {
        var model = Of(Assembly("room", Length("width", 600, 900, 10), Adds("base", amount)));
        Assert.Equal(("base", "amount", fault), Assert.Single(model.Findings.Select(f => (f.RowId, f.Field, f.Diagnostic.Fault))));
    }

    [Fact]
    public void A_column_that_holds_no_money_is_told_and_what_cannot_be_computed_leaves_no_price()
    {
        Assert.Contains(Of(Assembly("room", Choice("core") with { ListId = "extras", SurchargeColumn = "bare" })).Findings, f =>
            f.Field == "surchargeColumn" && f.Diagnostic.Fault == Fault.UnitMismatch);
        Assert.Contains(Of(Assembly("room", Choice("core") with { ListId = "extras", SurchargeColumn = "thick" })).Findings, f =>
            f.Field == "surchargeColumn" && f.Diagnostic.Fault == Fault.UnknownProperty);
        var model = Sound(Assembly("room", Whole("bolts", 0, 3), Adds("each", "12 EUR / bolts"), Line("step", PriceEffect.Rounds, "(bolts - 2) * 1 EUR")));
        Assert.Equal("each", Assert.Single(Price(model, "bolts=0").Faults, f => f.Message.Contains("divides by zero")).RowId);
        Assert.Equal("step", Assert.Single(Price(model, "bolts=1").Faults).RowId);
        Assert.Equal((Exact)4, Price(model, "bolts=3").Sheet!.Price);
        Assert.Contains("cannot be negative", Assert.Single(Price(Sound(Assembly("room", Whole("n", 0, 3), Adds("minus", "-0.1 EUR"))), "n=1").Faults).Message);
    }
}
