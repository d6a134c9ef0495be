using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Answering;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Lines and operations with all that they can carry, lots, lead times, workings, and what is missing for building; worked out by hand.</summary>
public class StructuresInFull
{
    private static BoundModel With(LibraryFacts facts, params AssemblyDefinition[] assemblies)
    {
        var model = new BoundModel(new() { Id = "m", Code = "CR", Root = assemblies[0].Id, Lists = [Cores], Assemblies = [.. assemblies] }, facts);
        Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => $"{f.RowId}.{f.Field}: {f.Diagnostic.Message}")));
        return model;
    }

    private static Dictionary<string, Value> Values(BoundModel model, params string[] picks)
    {
        var reasoner = new Reasoner(model);
        return reasoner.Complete(reasoner.Answer(new(Picks(model, picks)), CancellationToken.None), CancellationToken.None)!.Value
            .ToDictionary(p => p.Path, p => p.Value);
    }

    private static StructureResult Build(BoundModel model, params string[] picks) => StructureBuilder.Build(model, Values(model, picks));
    private static PartLine Part(string id, string item, string quantity) => new() { Id = id, Item = item, Quantity = quantity };
    private static OperationLine Operation(string id, int sequence, string run) =>
        new() { Id = id, Name = id, Sequence = sequence, WorkCentre = "BENCH", Setup = "5 min", Run = run };
    private static Subassembly Doors(string item = "DOOR") =>
        new()
        {
            Id = "doors",
            Name = "doors",
            AssemblyId = "leaf",
            Item = item,
            InstanceCount = "number",
            Instances = [new() { Id = "1" }, new() { Id = "2" }, new() { Id = "3" }]
        };

    // ---- Lines --------------------------------------------------------------------------------------------------

    [Fact]
    public void Equal_instances_are_one_structure_with_a_quantity_and_different_ones_are_two()
    {
        var model = Sound(Assembly("room", Whole("number", 1, 3), Doors()),
            Assembly("leaf", Whole("bolts", 1, 9), Part("b", "BOLT", "bolts"), Operation("hang", 10, "bolts * 1 min")));
        var room = Build(model, "number=3", "doors[1].bolts=4", "doors[2].bolts=6", "doors[3].bolts=4").Structure!;
        Assert.Equal(["10 DOOR 2 (1, 3)", "20 DOOR 1 (2)"], room.Bom.Select(l => $"{l.Position} {l.Item} {l.Net} ({string.Join(", ", l.Instances)})"));
        // Each instance is a lot of its own: set up three times, 4 + 6 + 4 min.
        Assert.Equal((Exact)(60 * (15 + 14)), RollUp.Of(room, Facts).Work);
    }

    [Fact]
    public void A_line_carries_its_cut_sizes_substitutes_position_and_days()
    {
        var facts = Facts with
        {
            Items = Facts.Items.SetItem("SEAL", Facts.Items["SEAL"] with { Substitutes = [new("BOLT", "CR"), new("DOOR", "XX"), new("PANEL")] }),
        };
        var model = With(facts, Assembly("room", Length("width", 600, 1200, 1),
            Part("p", "SEAL", "2 * width") with
            {
                Position = 35,
                Substitutes = "PANEL, OLD",
                From = new(2027, 1, 1),
                Figures = [new() { Id = "f1", Name = "cut", Expression = "width - 2 * 6 mm", Unit = "mm" },
                    new() { Id = "f2", Name = "area", Expression = "width * 2 m", Unit = "m2", Decimals = 2 }],
            },
            Part("q", "BOLT", "1"), Part("r", "BOLT", "2") with { Position = 40 }));
        var room = Build(model, "width=900").Structure!;
        Assert.Equal(["35 SEAL", "50 BOLT", "40 BOLT"], room.Bom.Select(l => $"{l.Position} {l.Item}"));
        Assert.Equal(["cut 888 mm", "area 1.8 m2"], room.Bom[0].Figures.Select(f => $"{f.Name} {f.Text} {f.Unit}"));
        // Those of the line come before those of the register, and only those for this product.
        Assert.Equal("PANEL OLD BOLT", string.Join(' ', room.Bom[0].Substitutes));
        Assert.Equal(new DateOnly(2027, 1, 1), room.Bom[0].From);
    }

    [Fact]
    public void Exactly_one_of_the_lines_that_answer_a_question_has_to_stand()
    {
        PartLine Hinge(string id, string item, string when) => Part(id, item, "2") with { OneOf = "Which hinge?", AppliesWhen = when };
        var model = Sound(Assembly("room", Whole("n", 0, 3), Hinge("light", "BOLT", "n < 2"), Hinge("heavy", "DOOR", "n > 0 and n < 3"),
            Operation("hang", 10, "1 min")));
        Assert.Equal(["BOLT"], Build(model, "n=0").Structure!.Bom.Select(l => l.Item));
        Assert.Equal("heavy: “Which hinge?” is answered by 2 lines at once: BOLT, DOOR. Exactly one has to stand.",
            Assert.Single(Build(model, "n=1").Faults.Select(f => $"{f.RowId}: {f.Message}")));
        Assert.Equal(["DOOR"], Build(model, "n=2").Structure!.Bom.Select(l => l.Item));
        Assert.StartsWith("No line answers “Which hinge?”", Assert.Single(Build(model, "n=3").Faults).Message);
        Assert.Equal("oneOf", Assert.Single(Of(Assembly("room", Hinge("only", "BOLT", ""))).Findings).Field);
    }

    [Fact]
    public void Lines_of_the_same_are_summed_where_the_product_says_so()
    {
        var room = Assembly("room", Part("a", "BOLT", "2"), Part("b", "BOLT", "3") with { Scrap = "100" }, Part("c", "BOLT", "1") with { Store = "Cage" },
            Part("d", "BOLT", "4") with { PerOrder = true });
        var plain = Sound(room);
        var summed = new BoundModel(plain.Document with { SumLines = true }, Facts);
        Assert.Equal(["2 2", "3 6", "1 1", "4 4"], Build(plain).Structure!.Bom.Select(l => $"{l.Net} {l.Gross}"));
        Assert.Equal(["5 8", "1 1", "4 4"], Build(summed).Structure!.Bom.Select(l => $"{l.Net} {l.Gross}"));
        Assert.Equal(("b", ""), Assert.Single(Build(summed).Structure!.Bom[0].Also));
    }

    [Fact]
    public void A_quantity_is_turned_into_the_items_unit_by_its_conversion()
    {
        var facts = Facts with
        {
            Items = Facts.Items
            .Add("BAR", new() { Number = "BAR", Cost = "12", Conversions = ImmutableSortedDictionary<string, string>.Empty.Add("m", "6").Add("kg", "15") })
        };
        var model = With(facts, Assembly("room", Part("a", "BAR", "7.5 m"), Part("b", "BAR", "3") with { Step = "1" },
            Part("c", "BAR", "30 kg") with { Step = "1" }));
        Assert.Equal(["1.25", "3", "2"], Build(model).Structure!.Bom.Select(l => l.Net.ToString()));
        Assert.Equal("quantity", Assert
            .Single(new BoundModel(model.Document with { Assemblies = [Assembly("room", Part("a", "BAR", "2 m2"))] }, facts).Findings).Field);
    }

    // ---- Operations ---------------------------------------------------------------------------------------------

    [Fact]
    public void Instructions_are_filled_in_and_follow_a_rename()
    {
        var document = Of(Assembly("room", Length("width", 600, 1200, 1), Choice("core"),
            Operation("cut", 10, "1 min") with
            {
                Instructions =
                new(LocalText.English("Cut to {width - 10 mm} from {core}, {{as marked}}.").Texts.Add("de", "Auf {width} sägen"))
            })).Document;
        var model = new BoundModel(ModelEditor.BindNames(document, Facts).Document!, Facts);
        Assert.Empty(model.Findings);
        var filled = Build(model, "width=900", "core=100").Structure!.Routing[0].Instructions;
        Assert.Equal(("Cut to 0.89 m from 100, {as marked}.", "Auf 900 mm sägen"), (filled.In(), filled.In("de")));
        var renamed = ModelEditor.Apply(model.Document, new("e", [new SetField("width", "name", "clear_width", "width")]), Facts).Document!;
        Assert.Contains("{clear_width}", ((OperationLine)new ShownDocument(new(renamed)).Document.Assemblies[0].Rows.Last()).Instructions.In("de"),
            StringComparison.Ordinal);
        Assert.Equal("instructions/en/0",
            Assert.Single(Of(Assembly("room", Operation("cut", 10, "1 min") with { Instructions = LocalText.English("Cut to {widht}") })).Findings).Field);
    }

    [Fact]
    public void Runs_go_by_the_piece_or_by_the_batch_and_the_crew_may_be_its_own()
    {
        var model = Sound(Assembly("room", Whole("n", 1, 9),
            Operation("press", 10, "30 min") with { Batch = "4" }, Operation("lift", 20, "6 min") with { Crew = 3 },
            new Subassembly
            {
                Id = "walls",
                Name = "walls",
                AssemblyId = "wall",
                Make = SubassemblyKind.Phantom,
                Quantity = "n",
                Instances = [new() { Id = "1" }]
            }),
            Assembly("wall", Operation("foam", 30, "10 min") with { Batch = "4" }));
        var room = Build(model, "n=5").Structure!;
        // A lot of 6: press 2 batches, lift 6 times, foam 30 pieces in 8 batches; each set up once.
        Assert.Equal([2 * 30, 36, 80], room.Routing.Select(o => (int)(o.RunOf(6) / 60).Numerator));
        var six = new RollUp(Facts).Of(room, 6);
        Assert.Equal((Exact)(60 * (15 + 60 + 36 + 80)), six.Work);
        Assert.Equal(Exact.Of((5 + 60 + 5 + 80) * 2 * 36 + (5 + 36) * 3 * 36, 60), six.Labour);
        Assert.Contains("batch", Assert
            .Single(Build(Sound(Assembly("room", Whole("n", 0, 3), Operation("press", 10, "1 min") with { Batch = "n" })), "n=0").Faults).Message,
            StringComparison.Ordinal);
    }

    [Fact]
    public void A_work_centre_can_come_from_a_value()
    {
        var model = Sound(Assembly("room", YesNo("hard"),
            Operation("cut", 10, "1 min") with { WorkCentre = "", WorkCentreFrom = "if hard then \"BENCH\" else \"SAW\"" }));
        Assert.Equal("BENCH", Build(model, "hard=yes").Structure!.Routing[0].WorkCentre);
        Assert.Equal("There is no work centre “SAW”.", Assert.Single(Build(model, "hard=no").Faults).Message);
    }

    // ---- Cost and time ------------------------------------------------------------------------------------------

    [Fact]
    public void Cost_is_rolled_up_level_by_level_at_a_lot_with_scrap_overhead_and_the_sites_own_costs()
    {
        var facts = Facts with
        {
            Items = Facts.Items.SetItem("BOLT", Facts.Items["BOLT"] with { Costs = ImmutableSortedDictionary<string, string>.Empty.Add("HAL", "0.5") }),
            WorkCentres = Facts.WorkCentres.SetItem("BENCH", Facts.WorkCentres["BENCH"] with { Overhead = "50" }),
            Sites = Facts.Sites.SetItem("HAL", Facts.Sites["HAL"] with { MaterialOverhead = "10" }),
        };
        var model = With(facts,
            Assembly("room", new Subassembly
            {
                Id = "door",
                Name = "door",
                AssemblyId = "leaf",
                Item = "DOOR",
                Quantity = "2",
                Instances = [new() { Id = "1" }]
            },
                Part("panel", "PANEL", "3 m2") with { Scrap = "10" }, Part("crate", "BOLT", "4") with { PerOrder = true }),
            Assembly("leaf", Part("bolt", "BOLT", "8"), Operation("hang", 10, "6 min")));
        Structure At(string site) => StructureBuilder.Build(model, Values(model), new(site, null)).Structure!;
        var levels = new RollUp(facts).Ordered(At("hal"), 5).Levels().ToList();
        Assert.Equal([("CR", 0, "5"), ("DOOR", 1, "10")], levels.Select(l => (l.Structure.Item, l.Depth, l.Quantity.ToString())));
        // The room by itself: 15 m2 and 4 bolts for the order; scrap 1.5 m2; 10 % on all of it.
        Assert.Equal(("302", "30", "33.2"), (levels[0].Own.Material.ToString(), levels[0].Own.Scrap.ToString(), levels[0].Own.Overhead.ToString()));
        // Ten leaves: 80 bolts; 5 + 60 min at 72 and 12 EUR an hour, half of that again, and 10 % on the bolts.
        Assert.Equal(("40", "78", "13"), (levels[1].All.Material.ToString(), levels[1].All.Labour.ToString(), levels[1].All.Machine.ToString()));
        Assert.Equal("49.5", levels[1].All.Overhead.ToString());
        Assert.Equal(levels[0].Own.Cost + levels[1].All.Cost, levels[0].All.Cost);
        // Elsewhere the standard cost holds; a leaf that is made at Haldwyn has its costs there in any case.
        Assert.Equal("20", new RollUp(facts).Ordered(At("ELL"), 5).Levels().ElementAt(1).All.Material.ToString());
        var place = (Subassembly)model.Index.Rows["door"];
        model = With(facts, Assembly("room", place with { MadeAt = "HAL" }), model.Index.Assemblies["leaf"]);
        var elsewhere = new RollUp(facts).Of(At("ELL"), 5);
        Assert.Equal(("40", "49.5"), (elsewhere.Material.ToString(), elsewhere.Overhead.ToString()));
    }

    [Fact]
    public void The_lead_time_is_the_longest_way_through_all_levels()
    {
        var facts = Facts with { Items = Facts.Items.SetItem("BOLT", Facts.Items["BOLT"] with { LeadTimeDays = "12" }) };
        OperationLine At(string id, int sequence, string run, string parallel = "") =>
            new() { Id = id, Name = id, Sequence = sequence, WorkCentre = "BENCH", Run = run, Parallel = parallel };
        var model = With(facts,
            Assembly("room", new Subassembly { Id = "door", Name = "door", AssemblyId = "leaf", Item = "DOOR", Instances = [new() { Id = "1" }] },
                At("saw", 10, "8 h"), At("paint", 20, "4 h", "both"), At("wire", 30, "12 h", "both"), At("fit", 40, "8 h"), Part("b", "BOLT", "1")),
            Assembly("leaf", At("weld", 10, "20 h")));
        // Without an operation of its own, the door is needed at the first one: 20 + 8 + 12 + 8 h at 8 h a day.
        var schedule = LeadTime.Of(Build(model).Structure!, facts, 1);
        Assert.Equal("6", schedule.Days.ToString());
        Assert.Equal(["weld 0–2.5 critical", "saw 2.5–3.5 critical", "paint 3.5–4 ", "wire 3.5–5 critical", "fit 5–6 critical"],
            schedule.Operations.Select(o => $"{o.Operation.Name} {o.Start}–{o.End} {(o.IsCritical ? "critical" : "")}"));
        Assert.Equal(("BOLT", (Exact)12), schedule.LongestBought!.Value);
        Assert.Equal("12", LeadTime.Of(Build(model).Structure!, facts, 2).Days.ToString());
        // The bolts go in at the first operation.
        Assert.Equal(new MaterialNeed("BOLT", "", Exact.Parse("2.5")), Assert.Single(schedule.Needs));
        Assert.Equal(["BENCH 5 52 h 6.5"], new RollUp(facts).Ordered(Build(model).Structure!, 1).Load(facts)
            .Select(l => $"{l.WorkCentre} {l.Operations} {(l.Setup + l.Run) / 3600} h {l.Days}"));
        // Consumed at wiring, it is made while sawing goes on, and painting does not wait for it.
        var place = (Subassembly)model.Index.Rows["door"] with { OperationId = "wire" };
        model = With(facts, Assembly("room", [place, .. model.Index.Root!.Rows.Where(r => r.Id != "door")]), model.Index.Assemblies["leaf"]);
        Assert.Equal(["weld 0–2.5 critical", "saw 0–1 ", "paint 1–1.5 ", "wire 2.5–4 critical", "fit 4–5 critical"],
            LeadTime.Of(Build(model).Structure!, facts, 1).Operations
                .Select(o => $"{o.Operation.Name} {o.Start}–{o.End} {(o.IsCritical ? "critical" : "")}"));
    }

    // ---- Why and why not ----------------------------------------------------------------------------------------

    [Fact]
    public void A_formula_is_worked_out_step_by_step()
    {
        var model = new BoundModel(ModelEditor
            .BindNames(Of(Assembly("room", Length("width", 600, 4800, 1), Choice("core"), Computed("rest", "width - 2 * 100 mm"),
            Part("p", "BOLT", "if core = '80' then 1 else ceil(rest / 600 mm) * 2"))).Document, Facts).Document!, Facts);
        var evaluator = new Evaluator(model, Values(model, "width=4000", "core=100"));
        Assert.Equal(["core = '80' → no", "rest → 3.8 m", "rest / 600 mm → 6.3333", "ceil(rest / 600 mm) → 7", "ceil(rest / 600 mm) * 2 → 14",
            "if core = '80' then 1 else ceil(rest / 600 mm) * 2 → 14"],
            Working.Of(model, evaluator, Occurrence.All(model).First(), ((PartLine)model.Index.Rows["p"]).Quantity).Where(s => s.Text != "core")
                .Select(s => $"{s.Text} → {s.Result}"));
    }

    [Fact]
    public void A_line_that_is_not_there_says_why_not()
    {
        var model = Sound(
            Assembly("room", Whole("number", 1, 3), YesNo("lit"), Doors(), Part("lamp", "BOLT", "1") with { AppliesWhen = "lit" },
                Part("zero", "BOLT", "number - 2") with { From = new(2026, 1, 1) },
                new Subassembly { Id = "roof", Name = "roof", AssemblyId = "top", AppliesWhen = "lit", Instances = [new() { Id = "1" }] }),
            Assembly("leaf", Part("b", "BOLT", "1")), Assembly("top", Part("t", "PANEL", "1 m2")));
        var evaluator = new Evaluator(model, Values(model, "number=2", "lit=no"));
        Assert.Equal(["lamp ConditionFalse by lamp: lit", "zero ZeroQuantity by zero: number - 2", "roof ConditionFalse by roof: lit",
            "b InstanceAbsent by doors: number", "t PlaceAbsent by roof: lit"],
            AbsentLines.Of(model, evaluator, default).Select(a => $"{a.Row.Id} {a.Absence} by {a.Cause.Id}: {a.Condition}"));
        var earlier = new Effectivity(null, new(2025, 6, 1));
        Assert.Equal(Absence.NotInEffect,
            AbsentLines.Why(model, new(model, Values(model, "number=3", "lit=no"), earlier), earlier, Occurrence.All(model).First(),
            model.Index.Rows["zero"])!.Absence);
    }

    // ---- Can it be built? ---------------------------------------------------------------------------------------

    [Fact]
    public void What_is_missing_at_a_site_is_told_with_where_it_is_mended()
    {
        var facts = Facts with
        {
            Items = Facts.Items.SetItem("SEAL", Facts.Items["SEAL"] with { Stores = ImmutableSortedDictionary<string, string>.Empty.Add("HAL", "") })
                .SetItem("OLD", Facts.Items["OLD"] with { Cost = "1" }),
            Sites = Facts.Sites.SetItem("HAL", new() { Code = "HAL", Label = LocalText.English("Haldwyn"), Stores = ["Raw"] }),
        };
        var model = With(facts,
            Assembly("room", Choice("core"), Part("a", "BOLT", "1"), Part("b", "SEAL", "1 m"), Part("c", "PANEL", "1 m2") with { Substitutes = "OLD" },
                Part("d", "BOLT", "1") with { Store = "Cage" },
                new PartLine { Id = "e", ItemFrom = "core.item", Quantity = "1" },
                    Part("never", "DOOR", "1") with { AppliesWhen = "core = '80' and core = '100'" },
                new Subassembly { Id = "door", Name = "door", AssemblyId = "leaf", Item = "DOOR", Instances = [new() { Id = "1" }] },
                    Operation("hang", 10, "1 min")),
            Assembly("leaf", Part("l", "BOLT", "1")));
        string[] At(string? site) => [.. BuildableCheck.Of(model, new(site, null), (_, row) => row.Id != "never")
            .Select(f => $"{f.Severity} {f.RowId} {f.MendedIn}: {f.Message}")];
        Assert.Equal(["Error b Item: SEAL has no default store at Haldwyn.", "Error c Item: PANEL is not kept at Haldwyn.",
            "Error d Model: There is no store “Cage” at Haldwyn.",
            "Error e Item: SEAL has no default store at Haldwyn.", "Error e Item: SEAL is kept in m and has no conversion from a plain number.",
                "Error door Model: “leaf” is made, but has no operation.",
            "Warning b Item: SEAL has no cost at Haldwyn.", "Warning c Item: The substitute OLD is no longer active.",
                "Warning e Item: SEAL has no cost at Haldwyn.", "Warning door Item: DOOR is not kept at Haldwyn."], At("hal"));
        Assert.DoesNotContain(At(null), f => f.Contains("kept at", StringComparison.Ordinal) || f.Contains("store", StringComparison.Ordinal));
        Assert.Contains(At("ELL"), f => f.StartsWith("Warning hang WorkCentre: BENCH stands at Haldwyn", StringComparison.Ordinal));
        var built = Build(model, "core=80").Structure!;
        Assert.Equal(["Error door: DOOR is made, but has no operation in this configuration."],
            BuildableCheck.Of(model, built, default).Where(f => f.Severity == Severity.Error).Select(f => $"{f.Severity} {f.RowId}: {f.Message}"));
    }

    [Fact]
    public void Days_on_which_no_line_answers_are_found()
    {
        PartLine Held(string id, DateOnly? from, DateOnly? to) => Part(id, "BOLT", "1") with { OneOf = "Which bolt?", From = from, To = to };
        var model = Sound(Assembly("room", Held("new", new(2027, 3, 1), null), Held("old", null, new(2027, 1, 31)), Operation("fit", 10, "1 min")));
        Assert.Equal("From 2027-02-01 to 2027-02-28 no line answers “Which bolt?”.",
            Assert.Single(BuildableCheck.Of(model, default, (_, _) => true), f => f.Severity == Severity.Error).Message);
        Assert.DoesNotContain(BuildableCheck
            .Of(Sound(Assembly("room", Held("new", new(2027, 2, 1), null), Held("old", null, new(2027, 1, 31)), Operation("fit", 10, "1 min"))), default,
            (_, _) => true), f => f.Severity == Severity.Error);
    }

    [Fact]
    public void The_reach_of_the_lead_time_is_that_of_all_routings_whatever_runs_side_by_side()
    {
        var different = 0;
        for (var seed = 1; seed <= 25; seed++)
        {
            var random = new Random(seed);
            string One(params string[] of) => of[random.Next(of.Length)];
            OperationLine Any(string id) => Operation(id, random.Next(1, 4) * 10, One("2 h", "n * 3 h", "5 h")) with
            {
                Parallel = One("", "A", "a", "B"),
                AppliesWhen = One("", "a", "b", "not a", "a or n > 1"),
                Setup = One("", "30 min"),
                Queue = One("", "4 h"),
                Batch = One("", "", "2"),
            };
            OperationLine[] operations = [Any("o1"), Any("o2"), Any("o3"), Any("o4")];
            // What a consuming operation lacks is a fault of the structure; one that is always there never is.
            string?[] consumers = [null, .. operations.Where(o => o.AppliesWhen.Length == 0).Select(o => o.Id)];
            var model = Sound(
                Assembly("room", [YesNo("a"), YesNo("b"), Whole("n", 1, 2), .. operations,
                    new Subassembly
                    {
                        Id = "kit",
                        Name = "kit",
                        AssemblyId = "loose",
                        Make = SubassemblyKind.Phantom,
                        AppliesWhen = One("", "b"),
                        Quantity = One("", "n")
                    },
                    Doors() with
                    {
                        InstanceCount = "n",
                        Instances = [new() { Id = "1" }, new() { Id = "2" }],
                        OperationId = consumers[random.Next(consumers.Length)],
                    }]),
                Assembly("loose", Whole("n", 1, 2) with { Id = "kn" }, YesNo("a") with { Id = "ka" }, YesNo("b") with { Id = "kb" }, Any("k1"), Any("k2")),
                Assembly("leaf", Whole("n", 1, 2) with { Id = "dn" }, YesNo("a") with { Id = "da" }, YesNo("b") with { Id = "db" }, Rule("same", "a = b"),
                    Any("d1"), Any("d2")));
            var reasoner = new Reasoner(model);
            var question = new Question(Picks(model, "kit.n=1", "doors[1].a=yes"));
            var days = reasoner.Explore(question, CancellationToken.None)
                .Select(c => LeadTime.Of(StructureBuilder.Build(model, c.ToDictionary(p => p.Path, p => p.Value)).Structure!, Facts, 1).Days).ToList();
            var tight = reasoner.Tight(reasoner.Answer(question, CancellationToken.None), StructureGoals.LeadTime, null, CancellationToken.None)!;
            Assert.Equal((days.Min(), days.Max()), (tight.Low!.Value, tight.High!.Value));
            different += days.Distinct().Count();
        }
        Assert.True(different > 100, $"only {different} lead times");
    }
}
