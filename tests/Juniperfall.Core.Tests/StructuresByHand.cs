using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Bills and routings worked out by hand: phantoms, levels, rounding, scrap, reasons, and what stands against a structure.</summary>
public class StructuresByHand
{
    private static StructureResult Build(BoundModel model, string[] picks, Effectivity at = default)
    {
        var reasoner = new Reasoner(model, at);
        var answer = reasoner.Answer(new(Picks(model, picks)), CancellationToken.None);
        Assert.True(answer.Valid == true);
        var values = reasoner.Complete(answer, CancellationToken.None)!.Value.ToDictionary(p => p.Path, p => p.Value);
        return StructureBuilder.Build(model, values, at);
    }

    private static PartLine Part(string id, string item, string quantity) => new() { Id = id, Item = item, Quantity = quantity };
    private static OperationLine Operation(string id, int sequence, string run) =>
        new() { Id = id, Name = id, Sequence = sequence, WorkCentre = "BENCH", Setup = "5 min", Run = run };

    private static Subassembly Place(string id, string assembly, SubassemblyKind make, string quantity = "", string item = "") =>
        new() { Id = id, Name = id, AssemblyId = assembly, Make = make, Quantity = quantity, Item = item, Instances = [new() { Id = "1" }] };

    private static IEnumerable<string> Lines(Structure structure) => structure.Bom.Select(l => $"{l.Position} {l.Item} {l.Net} {l.Gross}");

    [Fact]
    public void Lines_of_phantoms_move_up_through_all_levels_multiplied_and_those_per_order_do_not()
    {
        var model = Sound(
            Assembly("room", Place("walls", "wall", SubassemblyKind.Phantom, "4"), Part("door", "DOOR", "1")),
            Assembly("wall", Part("panel", "PANEL", "2 m2"), Place("joints", "joint", SubassemblyKind.Phantom, "3"),
                Part("crate", "BOLT", "1") with { PerOrder = true }, Operation("raise", 20, "10 min")),
            Assembly("joint", Part("bolt", "BOLT", "2"), Operation("drill", 10, "1 min")));
        var room = Build(model, []).Structure!;
        Assert.Equal(["10 PANEL 8 8", "20 BOLT 24 24", "30 BOLT 1 1", "40 DOOR 1 1"], Lines(room));
        // Run times are multiplied too, set-up is not; operations go by their numbers.
        Assert.Equal(["drill 300 720", "raise 300 2400"], room.Routing.Select(o => $"{o.Name} {o.Setup} {o.Run}"));
    }

    [Fact]
    public void Of_several_instances_those_that_are_there_are_built_each_by_its_own_picks()
    {
        var doors = Place("doors", "leaf", SubassemblyKind.OwnItem, "", "DOOR") with
        {
            InstanceCount = "number",
            Instances = [new() { Id = "1" }, new() { Id = "2" }, new() { Id = "3" }]
        };
        var model = Sound(
            Assembly("room", Whole("number", 1, 3), doors, Choice("extras") with { Kind = AttributeKind.Several },
                Part("bolt", "BOLT", "count(extras)") with { AppliesWhen = "extras has '80'" }),
            Assembly("leaf", Whole("bolts", 1, 9), Part("bolt2", "BOLT", "bolts")));
        var room = Build(model, ["number=2", "doors[1].bolts=4", "doors[2].bolts=6", "doors[3].bolts=9", "extras.80=yes", "extras.120=yes",
            "extras.100=no"]).Structure!;
        Assert.Equal(["10 DOOR 1 1", "20 DOOR 1 1", "30 BOLT 2 2"], Lines(room));
        Assert.Equal(["10 BOLT 4 4", "10 BOLT 6 6"], room.Bom.Where(l => l.Below is not null).SelectMany(l => Lines(l.Below!)));
    }

    [Fact]
    public void The_cheapest_and_the_lightest_are_so_over_all_structures_that_can_be_built()
    {
        var doors = Place("doors", "leaf", SubassemblyKind.OwnItem, "", "DOOR") with
        {
            InstanceCount = "number",
            Instances = [new() { Id = "1" }, new() { Id = "2" }]
        };
        var model = Sound(
            Assembly("room", Whole("number", 1, 2), Choice("core"), YesNo("lined"), doors,
                Place("walls", "wall", SubassemblyKind.Phantom, "if lined then 3 else 2"),
                Part("bolt3", "BOLT", "number * 3") with { Step = "4", Scrap = "10" },
                    Part("panels", "PANEL", "if core = '80' then 5 m2 else 2.3 m2") with { Step = "0.5" }, Rule("r", "core = '80' or lined")),
            Assembly("leaf", Whole("bolts", 2, 4), Part("b", "BOLT", "9 - bolts"), Operation("hang", 10, "bolts * 4 min")),
            Assembly("wall", Part("p", "PANEL", "1 m2") with { PerOrder = true }, Part("q", "BOLT", "1"), Operation("raise", 20, "3 min")));
        var reasoner = new Reasoner(model);
        var all = new List<(Structure Structure, int Number)>();
        foreach (var number in new[] { 1, 2 })
            foreach (var core in new[] { "80", "100", "120" })
                foreach (var lined in new[] { "yes", "no" })
                    foreach (var (a, b) in from x in Enumerable.Range(2, 3) from y in Enumerable.Range(2, 3) where number == 2 || y == 2 select (x, y))
                        if (core == "80" || lined == "yes")
                        {
                            string[] picks = [$"number={number}", $"core={core}", $"lined={lined}", $"doors[1].bolts={a}",
                                .. number == 2 ? new[] { $"doors[2].bolts={b}" } : []];
                            all.Add((Build(model, picks).Structure!, number));
                        }
        foreach (var (path, of) in new (string, Func<Structure, Exact>)[]
            { (StructureGoals.Cost, s => RollUp.Of(s, Facts).Cost), (StructureGoals.Weight, s => RollUp.Of(s, Facts).Weight),
                (StructureGoals.Work, s => RollUp.Of(s, Facts).Work), (StructureGoals.LeadTime, s => LeadTime.Of(s, Facts, 1).Days) })
            foreach (var highest in new[] { false, true })
                foreach (var picked in new[] { "", "number=2" })
                {
                    var answer = reasoner.Answer(new(picked.Length == 0 ? [] : Picks(model, picked)), CancellationToken.None);
                    var told = new List<Exact>();
                    var best = reasoner.Best(answer, path, highest, CancellationToken.None, new Told(o => told.Add(o.Number!.Value)));
                    var numbers = all.Where(x => picked.Length == 0 || x.Number == 2).Select(x => of(x.Structure)).ToList();
                    Assert.True(best.Proven);
                    Assert.Equal(highest ? numbers.Max() : numbers.Min(), best.Number);
                    var built = StructureBuilder.Build(model, best.Values!.Value.ToDictionary(p => p.Path, p => p.Value)).Structure!;
                    Assert.Equal(best.Number, of(built));
                    // Each one that is told of on the way is better than the one before, or proves more of it.
                    Assert.Equal(told, highest ? told.Order() : told.OrderDescending());
                }
    }

    private sealed class Told(Action<Optimum> tell) : IProgress<Optimum>
    {
        public void Report(Optimum value) => tell(value);
    }

    [Fact]
    public void An_item_of_its_own_has_its_own_bill_and_routing_per_piece()
    {
        var model = Sound(
            Assembly("room", Place("doors", "leaf", SubassemblyKind.OwnItem, "2", "DOOR"), Part("panel", "PANEL", "1 m2")),
            Assembly("leaf", Part("bolt", "BOLT", "8"), Operation("hang", 10, "6 min")));
        var room = Build(model, []).Structure!;
        Assert.Equal(["10 DOOR 2 2", "20 PANEL 1 1"], Lines(room));
        Assert.Empty(room.Routing);
        var leaf = room.Bom[0].Below!;
        Assert.Equal(["10 BOLT 8 8"], Lines(leaf));
        Assert.Equal(((Exact)360, "Door leaf"), (Assert.Single(leaf.Routing).Run, leaf.Description.In()));
        // 2 × 8 bolts of 0.25 EUR and a panel of 20 EUR; 5 + 2 × 6 min at 2 × 36 + 12 EUR an hour: one lot is set up for once.
        var totals = RollUp.Of(room, model.Facts);
        Assert.Equal(("24", "11.32"), (totals.Material.ToString(), totals.Weight.ToString()));
        Assert.Equal(Exact.Of(17 * 84, 60), totals.Labour + totals.Machine);
    }

    [Theory]
    [InlineData("2.3 m2", "", "", "2.3", "2.3")]
    [InlineData("2.3 m2", "0.5", "", "2.5", "2.5")]
    [InlineData("2.3 m2", "0.5", "10", "2.5", "3")]
    [InlineData("23000 cm2", "", "4", "2.3", "2.392")]
    [InlineData("1 m2 / 3", "0.01", "0", "0.34", "0.34")]
    [InlineData("2.5 m2", "0.5", "20", "2.5", "3")]
    public void Quantities_are_rounded_up_to_the_step_before_and_after_scrap(string quantity, string step, string scrap, string net, string gross)
    {
        var model = Sound(Assembly("room", Part("panel", "PANEL", quantity) with { Step = step, Scrap = scrap }));
        Assert.Equal([$"10 PANEL {net} {gross}"], Lines(Build(model, []).Structure!));
    }

    [Fact]
    public void A_line_of_zero_is_dropped_and_positions_close_up()
    {
        var model = Sound(Assembly("room", Whole("n", 0, 3), Part("a", "BOLT", "n"), Part("b", "DOOR", "1"),
            Part("c", "BOLT", "2") with { AppliesWhen = "n > 1" }));
        Assert.Equal(["10 DOOR 1 1"], Lines(Build(model, ["n=0"]).Structure!));
        Assert.Equal(["10 BOLT 2 2", "20 DOOR 1 1", "30 BOLT 2 2"], Lines(Build(model, ["n=2"]).Structure!));
    }

    [Fact]
    public void An_item_can_come_from_a_value()
    {
        var model = Sound(Assembly("room", Choice("core"), new PartLine { Id = "p", ItemFrom = "core.item", Quantity = "if core = '80' then 2 else 1" }));
        Assert.Equal(["10 BOLT 2 2"], Lines(Build(model, ["core=80"]).Structure!));
        // The seal is kept in metres, and the quantity has no unit.
        Assert.Contains("The quantity is a plain number, but SEAL is kept in m and has no conversion from that.",
            Assert.Single(Build(model, ["core=100"]).Faults).Message);
    }

    [Fact]
    public void Each_line_says_by_which_conditions_it_is_there_its_own_and_those_above()
    {
        var model = Sound(
            Assembly("room", YesNo("delivered"), Place("services", "service", SubassemblyKind.Phantom) with { AppliesWhen = "delivered" },
                Part("always", "DOOR", "1")),
            Assembly("service", Whole("hours", 1, 9), Part("crane", "BOLT", "1") with { AppliesWhen = "hours > 4" }));
        var room = Build(model, ["delivered=yes", "services.hours=6"]).Structure!;
        Assert.True(room.Bom.Single(l => l.Item == "DOOR").Reason.IsStandard);
        var reason = room.Bom.Single(l => l.Item == "BOLT").Reason;
        Assert.Equal("delivered and hours > 4", reason.Condition);
        Assert.Equal([Value.Of((Exact)6), Value.Of(true)], reason.Because.Select(b => b.Value));
        Assert.Single(Build(model, ["delivered=yes", "services.hours=4"]).Structure!.Bom);
        Assert.Single(Build(model, ["delivered=no"]).Structure!.Bom);
    }

    [Fact]
    public void What_cannot_be_built_is_told_line_by_line_and_nothing_is_built()
    {
        var model = Sound(Assembly("room", Whole("n", 0, 3), Operation("late", 10, "1 min") with { AppliesWhen = "n > 2" },
            Part("less", "BOLT", "n - 2"), Part("consumed", "DOOR", "1") with { OperationId = "late" }, Part("divided", "BOLT", "6 / n"),
            Place("halves", "leaf", SubassemblyKind.Phantom, "n / 2"), Operation("back", 20, "1 min * (n - 1.5)")), Assembly("leaf", Part("x", "BOLT", "1")));
        string[] Faults(string n) => [.. Build(model, [n]).Faults.Select(f => $"{f.RowId}: {f.Message}")];
        var at1 = Build(model, ["n=1"]);
        Assert.Null(at1.Structure);
        Assert.Equal(["less: The quantity of BOLT comes to -1; it cannot be negative.",
            "consumed: DOOR is consumed at operation 10 “late”, which does not apply in this configuration.",
            "halves: The number of “halves” comes to 0.5; it must be a whole number.",
            "back: The run time of “back” comes to -30 s; it cannot be negative."], Faults("n=1"));
        Assert.Contains(Faults("n=0"), f =>
            f == "divided: The quantity of BOLT cannot be computed in this configuration: it divides by zero, takes the root of a negative number, or "
                + "becomes too large.");
        Assert.Equal(["halves: The number of “halves” comes to 1.5; it must be a whole number."], Faults("n=3"));
    }

    [Fact]
    public void A_site_gives_the_store_where_the_line_has_none_and_leaves_out_what_is_not_there()
    {
        var model = Sound(Assembly("room", Part("a", "BOLT", "1"), Part("b", "BOLT", "2") with { Store = "Cage" },
            Part("c", "DOOR", "1") with { Sites = ["ELL"] }));
        Assert.Equal(["BOLT Raw", "BOLT Cage"], Build(model, [], new("HAL", null)).Structure!.Bom.Select(l => $"{l.Item} {l.Store}"));
        Assert.Equal(["BOLT ", "BOLT Cage", "DOOR "], Build(model, [], new("ELL", null)).Structure!.Bom.Select(l => $"{l.Item} {l.Store}"));
    }

    [Fact]
    public void The_same_configuration_gives_the_same_structure_whatever_the_order_of_its_values()
    {
        var (model, reasoner) = DemoModel.Room.Value;
        var values = reasoner.Complete(reasoner.Answer(new(Picks(model, "cooling.unit=C290-22", "delivery=delivered")), CancellationToken.None),
            CancellationToken.None)!.Value;
        string Write(IEnumerable<Pick> picks) =>
            System.Text.Json.JsonSerializer.Serialize(Flat(StructureBuilder.Build(model, picks.ToDictionary(p => p.Path, p => p.Value)).Structure!, 0));
        Assert.Equal(Write(values), Write(values.Reverse()));
    }

    private static IEnumerable<string> Flat(Structure structure, int level) => structure.Bom
        .SelectMany(l => new[] { $"{level} {l.Position} {l.Item} {l.Net} {l.Gross} {l.Operation} {l.Reason.Condition}" }.Concat(l.Below is { } below
            ? Flat(below, level + 1) : []))
        .Concat(structure.Routing.Select(o => $"{level} {o.Sequence} {o.WorkCentre} {o.Setup} {o.Run}"));

    [Fact]
    public void Merging_phantoms_is_flattening_by_hand()
    {
        // A random tree of phantoms, its lines counted by a walk over the tree and by the builder.
        var random = new Random(5);
        for (var round = 0; round < 40; round++)
        {
            var counts = new Dictionary<int, Exact>();
            var assemblies = new List<AssemblyDefinition>();
            var ids = 0;
            string Grow(int depth, Exact factor)
            {
                var id = $"a{ids++}";
                var at = assemblies.Count;
                assemblies.Add(null!);
                var rows = new List<Row>();
                for (var i = random.Next(1, 4); i > 0; i--)
                    if (depth < 3 && random.Next(2) == 0)
                    {
                        var count = random.Next(0, 4);
                        rows.Add(Place($"p{ids}", Grow(depth + 1, factor * count), SubassemblyKind.Phantom, $"{count}"));
                    }
                    else
                    {
                        var (item, quantity) = (ids++, random.Next(1, 5));
                        rows.Add(Part($"l{item}", "BOLT", $"{quantity}"));
                        counts[item] = factor * quantity;
                    }
                assemblies[at] = Assembly(id, [.. rows]);
                return id;
            }
            Grow(0, 1);
            var built = Build(Sound([.. assemblies]), []).Structure!;
            Assert.Equal(counts.Where(c => !c.Value.IsZero).ToDictionary(c => $"l{c.Key}", c => c.Value), built.Bom.ToDictionary(l => l.RowId, l => l.Net));
            Assert.Equal(Enumerable.Range(1, built.Bom.Length).Select(i => i * 10), built.Bom.Select(l => l.Position));
        }
    }
}
