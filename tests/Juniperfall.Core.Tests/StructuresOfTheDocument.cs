using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>docs/structures.md, statement by statement; the number in front of a test's name is that of the statement.</summary>
public class StructuresOfTheDocument
{
    private static readonly LibraryFacts Library = Facts with
    {
        Items = Facts.Items.SetItem("BOLT",
            Facts.Items["BOLT"] with { OrderMultiple = "50", Costs = ImmutableSortedDictionary<string, string>.Empty.Add("ELL", "1") }),
        WorkCentres = Facts.WorkCentres.Add("SLOW", new() { Code = "SLOW", HoursPerDay = "6" }).Add("PLAIN", new() { Code = "PLAIN", HoursPerDay = "" }),
    };

    private static BoundModel Model(bool sumLines, params AssemblyDefinition[] assemblies)
    {
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "CR",
            Root = assemblies[0].Id,
            SumLines = sumLines,
            Lists = [Cores],
            Assemblies = [.. assemblies]
        }, Library);
        Assert.True(model.Findings.All(f => !f.Blocks), string.Join(" ", model.Findings.Select(f => f.Diagnostic.Message)));
        return model;
    }

    private static StructureResult Build(BoundModel model, string? site = null, params string[] picks) =>
        StructureBuilder.Build(model, SmallModels.Picks(model, picks).ToDictionary(p => p.Path, p => p.Value), new(site, null));

    private static ImmutableArray<BomLine> Lines(params AssemblyDefinition[] assemblies) => Build(Model(false, assemblies)).Structure!.Bom;

    private static PartLine Part(string id, string item, string quantity) => new() { Id = id, Item = item, Quantity = quantity };

    private static OperationLine Operation(string id, string run, string centre = "BENCH") =>
        new() { Id = id, Name = id, Sequence = 10, WorkCentre = centre, Run = run };

    private static Subassembly Phantom(string quantity, int instances = 1) =>
        new()
        {
            Id = "walls",
            Name = "walls",
            AssemblyId = "wall",
            Make = SubassemblyKind.Phantom,
            Quantity = quantity,
            Instances = [.. Enumerable.Range(1, instances).Select(i => new Instance { Id = $"{i}" })]
        };

    private static Subassembly Own(string id = "doors") =>
        new() { Id = id, Name = id, AssemblyId = "door", Item = "DOOR", Quantity = "1", Instances = [new() { Id = "1" }] };

    [Fact]
    public void S01_S02_S03_Rounding_is_once_for_all_phantoms_scrap_is_rounded_again_and_per_order_is_once()
    {
        var lines = Lines(Assembly("room", Phantom("3")),
            Assembly("wall", Part("a", "SEAL", "0.4 m") with { Step = "0.5" }, Part("b", "SEAL", "0.4 m") with { Step = "0.5", Scrap = "10" },
            Part("c", "SEAL", "2 m") with { PerOrder = true }));
        Assert.Equal([("1.5", "1.5"), ("1.5", "2"), ("2", "2")], lines.Select(l => (l.Net.ToString(), l.Gross.ToString())));
        Assert.Equal(["7.5", "10", "2"],
            new RollUp(Library).Ordered(Build(
            Model(false, Assembly("room", Phantom("3")),
            Assembly("wall", Part("a", "SEAL", "0.4 m") with { Step = "0.5" }, Part("b", "SEAL", "0.4 m") with { Step = "0.5", Scrap = "10" },
            Part("c", "SEAL", "2 m") with { PerOrder = true }))).Structure!, 5).Lines.Select(l => l.Gross.ToString()));
    }

    [Fact]
    public void S04_S05_Nothing_drops_a_line_less_is_a_fault_and_multiples_are_of_the_order()
    {
        Assert.Equal("BOLT", Assert.Single(Lines(Assembly("room", Part("a", "SEAL", "0 m"), Part("b", "BOLT", "7")))).Item);
        Assert.Contains("cannot be negative", Assert.Single(Build(Model(false, Assembly("room", Part("a", "BOLT", "-1")))).Faults).Message);
        var order = new RollUp(Library).Ordered(Build(Model(false, Assembly("room", Part("b", "BOLT", "7")))).Structure!, 8);
        Assert.Equal(("56", "100"), (order.Lines[0].Gross.ToString(), order.Consumption(Library)[0].ToOrder.ToString()));
    }

    [Fact]
    public void S06_Positions_are_kept_where_they_are_free()
    {
        Assert.Equal([10, 25, 30, 40],
            Lines(Assembly("room", Part("a", "BOLT", "1"), Part("b", "BOLT", "1") with { Position = 25 }, Part("c", "BOLT", "1"), Part("d", "BOLT", "1")))
            .Select(l => l.Position));
        Assert.Equal([15, 20], Lines(Assembly("room", Phantom("1", 2)), Assembly("wall", Part("a", "BOLT", "1") with { Position = 15 }))
            .Select(l => l.Position));
    }

    [Fact]
    public void S07_Equal_lines_are_summed_where_that_is_set()
    {
        AssemblyDefinition[] assemblies =
            [Assembly("room", Part("a", "BOLT", "1"), Part("b", "SEAL", "1 m"), Part("c", "BOLT", "4"),
            Part("d", "BOLT", "2") with { Issue = IssueMethod.Backflush }, Own(), Own("more")), Assembly("door", Part("p", "BOLT", "1"))];
        Assert.Equal([("BOLT", "5"), ("SEAL", "1"), ("BOLT", "2"), ("DOOR", "1"), ("DOOR", "1")],
            Build(Model(true, assemblies)).Structure!.Bom.Select(l => (l.Item, l.Net.ToString())));
        Assert.Equal(6, Build(Model(false, assemblies)).Structure!.Bom.Length);
    }

    [Fact]
    public void S08_A_line_answers_its_question_also_with_nothing()
    {
        var model = Model(false, Assembly("room", Whole("n", 0, 3), Part("a", "BOLT", "n") with { OneOf = "which", AppliesWhen = "n < 2" },
            Part("b", "SEAL", "1 m") with { OneOf = "which", AppliesWhen = "n >= 2 and n < 3" }));
        Assert.Empty(Build(model, null, "n=0").Structure!.Bom);
        Assert.Equal("SEAL", Assert.Single(Build(model, null, "n=2").Structure!.Bom).Item);
        Assert.Contains("No line answers", Assert.Single(Build(model, null, "n=3").Faults).Message);
    }

    [Fact]
    public void S09_S10_Runs_are_multiplied_by_phantoms_batches_by_pieces_and_set_up_by_lots()
    {
        var model = Model(false, Assembly("room", Phantom("5")),
            Assembly("wall", Operation("foam", "10 min") with { Batch = "4", Setup = "7 min" }, Operation("lift", "2 min")));
        var room = Build(model).Structure!;
        Assert.Equal((5, null), ((int)room.Routing[0].Pieces.Numerator, room.Routing[1].Batch));
        Assert.Equal("600", room.Routing[1].Run.ToString());
        var six = new RollUp(Library).Ordered(room, 6).Operations;
        Assert.Equal(((Exact)(7 * 60), (Exact)(8 * 600), (Exact)(6 * 600)), (six[0].Setup, six[0].Run, six[1].Run));
        var doors = Build(Model(false, Assembly("room", Own() with { Instances = [new() { Id = "1" }, new() { Id = "2" }] }),
            Assembly("door", Operation("hang", "1 min") with { Setup = "5 min" }))).Structure!;
        Assert.Equal((Exact)(2 * 5 * 60), new RollUp(Library).Ordered(doors, 3).Lines.Single().Below!.Operations[0].Setup);
    }

    [Theory]
    [InlineData("SLOW", "2")]
    [InlineData("PLAIN", "1.5")]
    public void S11_Queue_times_pass_in_the_hours_of_their_centre(string centre, string days) =>
        Assert.Equal(days, LeadTime.Of(Build(Model(false, Assembly("room", Operation("wait", "0 min", centre) with { Queue = "12 h" }))).Structure!, Library,
            1).Days.ToString());

    [Fact]
    public void S12_Lines_add_up_to_the_piece_at_the_quantity_ordered_set_up_below_included()
    {
        var structure = Build(Model(false, Assembly("room", Own()),
            Assembly("door", Part("p", "BOLT", "4"), Operation("hang", "6 min") with { Setup = "60 min" }))).Structure!;
        var (one, ten) = (new RollUp(Library).Ordered(structure, 1), new RollUp(Library).Ordered(structure, 10));
        Assert.Equal(one.All.Cost, one.EachOf(one.Lines[0].Totals).Cost);
        Assert.Equal(ten.EachOf(ten.All).Cost, ten.EachOf(ten.Lines[0].Totals).Cost);
        Assert.True(ten.EachOf(ten.Lines[0].Totals).Cost < one.Lines[0].Totals.Cost);
    }

    [Fact]
    public void S13_Cents_come_last()
    {
        var model = Model(false, Assembly("room", Own() with { Quantity = "2" }), Assembly("door", new PriceLine { Id = "e", Amount = "10.005 EUR" }));
        Assert.Equal("20.01", Pricing.Of(model, new Dictionary<string, Value>()).Sheet!.Price.ToString());
        Assert.Equal("10.01", Pricing.Of(Model(false, Assembly("door", new PriceLine { Id = "e", Amount = "10.005 EUR" })),
            new Dictionary<string, Value>()).Sheet!.Price.ToString());
    }

    [Fact]
    public void S14_Weight_and_material_are_net_and_scrap_is_the_rest()
    {
        var totals = RollUp.Of(Build(Model(false, Assembly("room", Part("a", "PANEL", "10 m2") with { Scrap = "20" }))).Structure!, Library);
        Assert.Equal(("200", "40", "110"), (totals.Material.ToString(), totals.Scrap.ToString(), totals.Weight.ToString()));
    }

    [Theory]
    [InlineData(null)]
    [InlineData("HAL")]
    public void S15_What_is_made_elsewhere_has_the_costs_of_there_with_and_without_a_site(string? site)
    {
        var model = Model(false, Assembly("room", Own() with { MadeAt = "ELL" }, Part("a", "BOLT", "1")), Assembly("door", Part("p", "BOLT", "1")));
        var structure = Build(model, site).Structure!;
        Assert.Equal("ELL", structure.Bom.Single(l => l.Below is not null).Below!.Site);
        Assert.Equal(["1", "0.25"], new RollUp(Library).Ordered(structure, 1).Lines.Select(l => l.Totals.Material.ToString()));
    }

    [Fact]
    public void S16_Rows_hold_for_the_site_of_the_order()
    {
        var model = Model(false, Assembly("room", Own() with { MadeAt = "ELL" }),
            Assembly("door", Part("p", "BOLT", "1") with { Sites = ["HAL"] }, Part("q", "SEAL", "1 m") with { Sites = ["ELL"] }));
        Assert.Equal(["BOLT"], Build(model, "HAL").Structure!.Bom[0].Below!.Bom.Select(l => l.Item));
        Assert.Equal(["SEAL"], Build(model, "ELL").Structure!.Bom[0].Below!.Bom.Select(l => l.Item));
    }

    [Theory]
    [InlineData("sum(doors.width)", "0")]
    [InlineData("count(doors)", "0")]
    [InlineData("if all(doors.width > 1) then 1 else 2", "1")]
    [InlineData("if any(doors.width > 1) then 1 else 2", "2")]
    [InlineData("min(doors.width)", "nothing")]
    [InlineData("max(doors.width)", "nothing")]
    public void S17_Over_nothing_totals_are_as_said(string expression, string expected)
    {
        var model = Model(false, Assembly("room", Whole("n", 0, 2), Own() with { InstanceCount = "n", Instances = [new() { Id = "1" }, new() { Id = "2" }] },
            Computed("c", expression)), Assembly("door", Whole("width", 0, 3)));
        Assert.Equal(expected, new Evaluator(model, SmallModels.Picks(model, "n=0").ToDictionary(p => p.Path, p => p.Value))["c"].ToString());
    }

    [Fact]
    public void S18_What_cannot_be_computed_is_a_fault_only_where_the_whole_cannot()
    {
        var model = Model(false, Assembly("room", Whole("x", 0, 3), Part("a", "BOLT", "1") with { AppliesWhen = "x > 0 and 1 / x > 0.4" },
            Part("b", "SEAL", "6 m / x") with { AppliesWhen = "x < 2" }));
        Assert.Contains("cannot be computed", Assert.Single(Build(model, null, "x=0").Faults).Message);
        Assert.Equal(["BOLT", "SEAL"], Build(model, null, "x=1").Structure!.Bom.Select(l => l.Item));
        Assert.Equal(["BOLT"], Build(model, null, "x=2").Structure!.Bom.Select(l => l.Item));
    }
}
