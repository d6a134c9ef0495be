using System.Collections.Immutable;
using System.Text;
using System.Text.Json.Nodes;
using Juniperfall.Core.Health;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Released revisions of other products as fillings: what they are given, that they stay as they were released, and who may change them.</summary>
public class ReusedModels
{
    /// <summary>The cores that door sets are made for: other ids, another order, one less and one more.</summary>
    private static readonly ValueList Leaves = new()
    {
        Id = "leaves",
        Name = "leaves",
        Properties = [new() { Id = "leaf_item", Name = "item", Type = PropertyType.Text }],
        Values = [.. new[] { "100", "80", "60" }.Select(c =>
            new ListValue { Id = "l" + c, Code = c, Label = LocalText.English(c + " mm"),
            Properties = ImmutableSortedDictionary<string, string>.Empty.Add("leaf_item", "DOOR") })],
    };

    private static AttributeRow Leaf => Choice("leaf") with { ListId = "leaves", Input = true, Label = LocalText.English("Leaf") };

    private static BoundModel Door(LibraryFacts facts, params Row[] rows) =>
        new(new() { Id = "ds", Code = "DS", Root = "door", Lists = [Leaves], Assemblies = [Assembly("door", rows)] }, facts);

    private static Subassembly Place(string filledBy, params (string Input, string Given)[] inputs) => new()
    {
        Id = "doors",
        Name = "door",
        AssemblyId = filledBy,
        Make = SubassemblyKind.Phantom,
        Inputs = [.. inputs.Select((x, i) => new InputBinding { Id = $"in{i}", AttributeId = x.Input, Expression = x.Given })],
    };

    private static ModelDocument Room(ReusedModel reused, params Row[] rows) =>
        new() { Id = "m", Code = "CR", Root = "room", Lists = [Cores], Assemblies = [Assembly("room", rows)], Reused = [reused] };

    private static readonly BoundModel Plain =
        Door(Facts, Leaf, Length("width", 600, 1200, 100), Computed("area", "width * 2 m"),
        new StatementRule { Id = "narrow", Number = 7, Expression = "leaf <> '60' or width < 1 m" });

    [Fact]
    public void A_choice_of_another_list_is_given_by_its_codes_and_what_has_none_there_is_ruled_out_with_the_reason()
    {
        var model = new BoundModel(Room(Reuse.Of(Plain, 2, "e"), Choice("core"), Place("e", ("e.leaf", "core"))), Facts);
        var finding = Assert.Single(model.Findings);
        Assert.Equal(("“leaves” has no “120”, so that cannot be had together with door.", false), (finding.Diagnostic.Message, finding.Blocks));
        var answer = Ask(model);
        Assert.Equal("80 100", answer.Available(model, "core"));
        var reason = new Reasoner(model).WhyNot(new([]), "core", Value.Choice("c120"), CancellationToken.None).Reason!;
        Assert.Equal("“Leaf” of door is one of 100 mm, 80 mm, 60 mm", new ModelWording(model).Clause(Assert.Single(reason.Causes)));
        // Where the door need not be there, the core can be had without it.
        var optional = new BoundModel(
            Room(Reuse.Of(Plain, 2, "e"), Choice("core"), YesNo("with_door"), Place("e", ("e.leaf", "core")) with { AppliesWhen = "with_door" }), Facts);
        Assert.Equal("80 100 120", Ask(optional).Available(optional, "core"));
        Assert.Equal("no", Ask(optional, "core=120").Available(optional, "with_door"));
    }

    [Fact]
    public void A_counterpart_that_does_not_hold_on_the_day_is_none()
    {
        var later = Plain.Document with
        {
            Lists =
            [Leaves with { Values = [.. Leaves.Values.Select(v => v.Code == "80" ? v with { From = new(2027, 7, 1) } : v)] }]
        };
        var model = new BoundModel(Room(Reuse.Of(new(later, Facts), 2, "e"), Choice("core"), Place("e", ("e.leaf", "core"))), Facts);
        string On(int month) => new Reasoner(model, new(null, new DateOnly(2027, month, 1))).Answer(new([]), CancellationToken.None).Available(model, "core");
        Assert.Equal(("100", "80 100"), (On(6), On(7)));
    }

    [Fact]
    public void A_number_is_given_within_the_bounds_of_the_input_and_rules_are_quoted_with_their_product()
    {
        var door = Door(Facts, Length("width", 600, 1200, 100) with { Input = true, Label = LocalText.English("Width") }, Whole("hinges", 2, 4),
            new StatementRule { Id = "heavy", Number = 7, Expression = "hinges = 4 or width < 1 m" });
        var model = new BoundModel(Room(Reuse.Of(door, 2, "e"), Length("opening", 500, 2000, 50), Place("e", ("e.width", "opening - 50 mm"))), Facts);
        Assert.Empty(model.Findings);
        var opening = Ask(model).At("opening").Available;
        // Steps are for asking only: 625 mm would do, too.
        Assert.Equal(("0.65", "1.25"), (opening.Values[0].Number.ToString(), opening.Values[^1].Number.ToString()));
        Assert.Equal("“Width” of door is at least 600 mm and at most 1200 mm",
            new ModelWording(model).Clause(Assert
            .Single(new Reasoner(model).WhyNot(new([]), "opening", Value.Of(Exact.Of(5, 10)), CancellationToken.None).Reason!.Causes)));
        var why = new Reasoner(model).WhyNot(new(Picks(model, "opening=1200")), "doors:1/e.hinges", Value.Of((Exact)3), CancellationToken.None).Reason!;
        Assert.Equal("DS §7", model.Index.MarkOf(model.Index.Rows[Assert.Single(why.Causes).RowId]));
    }

    [Fact]
    public void What_was_read_of_the_register_stays_as_it_was_at_the_release()
    {
        var grid = new CombinationGrid
        {
            Id = "stock",
            Name = "stock",
            DrawnFrom = "family = leaf",
            Columns = [new() { Id = "k", Name = "leaf", Reference = "leaf", ItemProperty = "core" }]
        };
        LibraryFacts Register(string weight, string cores) => Facts with
        {
            Items = Facts.Items.SetItem("DOOR",
                Facts.Items["DOOR"] with
                {
                    Weight = weight,
                    Properties = ImmutableSortedDictionary<string, string>.Empty.Add("family", "leaf").Add("core", cores)
                }),
        };
        var released = Door(Register("30", "80|100"), Leaf with { Input = false }, grid, Computed("heavy", "leaf.item.weight"),
            new PartLine { Id = "part", ItemFrom = "leaf.item" });
        Assert.Empty(released.Findings);
        var entry = Reuse.Of(released, 1, "e");
        var model = new BoundModel(Room(entry, Choice("core"), Computed("weight", "door.heavy"), Place("e")), Register("44", "60"));
        Assert.Empty(model.Findings);
        var answer = Ask(model);
        Assert.Equal("100 80", answer.Available(model, "door.leaf"));
        Assert.Equal("30", answer.AsSuggested.Computed.Single(c => c.Path == "weight").Number!.Low!.Value.ToString());
        var values = new Reasoner(model).Complete(answer, CancellationToken.None)!.Value.ToDictionary(p => p.Path, p => p.Value);
        Assert.Equal("30", new Evaluator(model, values)["weight"].Number.ToString());
        // What is bought is what is bought now.
        Assert.Equal("44", new RollUp(model.Facts).Of(StructureBuilder.Build(model, values).Structure!, Exact.One).Weight.ToString());
    }

    [Fact]
    public void A_product_that_reuses_another_one_can_be_reused_itself()
    {
        var inner = Reuse.Of(Plain, 2, "e");
        var middle = new BoundModel(new()
        {
            Id = "wall",
            Code = "WL",
            Root = "panel",
            Lists = [Cores],
            Assemblies = [Assembly("panel", Choice("core") with { Input = true },
            Place("e", ("e.leaf", "core")) with { Instances = [new() { Id = "1" }, new() { Id = "2" }] })],
            Reused = [inner]
        }, Facts);
        var outer = Reuse.Of(middle, 5, "w");
        Assert.Equal("ds", Assert.Single(outer.Contains));
        var model = new BoundModel(Room(outer, Choice("core"),
            new Subassembly
            {
                Id = "wall",
                Name = "wall",
                AssemblyId = "w",
                Make = SubassemblyKind.Phantom,
                Inputs = [new() { Id = "in", AttributeId = "w.core", Expression = "core" }]
            },
            new StatementRule { Id = "sum", Expression = "sum(wall.door.area) >= 4 m2" }), Facts);
        Assert.DoesNotContain(model.Findings, f => f.Blocks);
        var answer = Ask(model, "core=80");
        Assert.Contains("wall:1/w.doors:2/w.e.width", answer.Attributes.Select(a => a.Path));
        Assert.Equal("wall.door[2].width", answer.Attributes.Single(a => a.Path == "wall:1/w.doors:2/w.e.width").DisplayPath);
        Assert.Equal("1000 1100 1200", Ask(model, "core=80", "wall.door[1].width=1000").Available(model, "wall.door[2].width"));
        Assert.Equal("80 100", Ask(model).Available(model, "core"));
    }

    [Fact]
    public void Health_looks_at_what_is_the_models_own()
    {
        var door = Door(Facts, Leaf, Length("width", 600, 1200, 100), YesNo("unused"), new StatementRule { Id = "idle", Expression = "width > 1 mm" });
        var model = new BoundModel(Room(Reuse.Of(door, 1, "e"), Choice("core"), Place("e", ("e.leaf", "'80'")), YesNo("own")), Facts);
        var report = HealthCheck.Run(new Reasoner(model), null, CancellationToken.None);
        Assert.Empty(report.Unfinished);
        Assert.All(report.Findings, f => Assert.DoesNotContain("e.", f.RowId, StringComparison.Ordinal));
        Assert.Contains(report.Findings, f => f.RowId == "own" && f.Kind == HealthKind.Unused);
    }

    // ---- Editing ------------------------------------------------------------------------------------------------

    private static EditResult Edit(ModelDocument document, params EditStep[] steps) => ModelEditor.Apply(document, new("e", [.. steps]), Facts);

    [Fact]
    public void It_is_taken_in_filled_in_moved_to_another_revision_and_let_go_each_step_back_again()
    {
        ModelDocument empty = new() { Id = "m", Code = "CR", Root = "room", Lists = [Cores], Assemblies = [Assembly("room", Choice("core"), Place("none"))] };
        var taken = Edit(empty, new ReuseRevision("e", "ds", 2, null, Reuse.Of(Plain, 2, "e")), new SetField("doors", "assemblyId", "e", "none"),
            new AddRow("doors", "inputs", null, JsonNode.Parse("""{"id":"in","attributeId":"e.leaf","expression":"core"}""")!.AsObject()));
        Assert.Null(taken.Refusal);
        // The name of the room's own list is bound, though it stands for values of another one.
        Assert.Equal("⟦core⟧", taken.Document.Assemblies[0].Rows.OfType<Subassembly>().Single().Inputs[0].Expression);
        Assert.DoesNotContain(new BoundModel(taken.Document, Facts).Findings, f => f.Blocks);
        Assert.Equal(ModelJson.Write(new() { Model = empty }), ModelJson.Write(new() { Model = Edit(taken.Document, [.. taken.Inverse]).Document }));

        var later = Door(Facts, Leaf with { Input = false }, Length("width", 600, 1500, 100));
        var moved = Edit(taken.Document, new ReuseRevision("e", "ds", 3, 2, Reuse.Of(later, 3, "e")));
        Assert.Equal(1500, int.Parse(moved.Document.Reused[0].Assemblies[0].Rows.OfType<AttributeRow>().Single(r => r.Name == "width").Max!));
        var gone = Assert.Single(new BoundModel(moved.Document, Facts).Findings, f => f.Blocks);
        Assert.Equal((Fault.InputGone, "doors", "inputs/0/expression"), (gone.Diagnostic.Fault, gone.RowId, gone.Field));
        Assert.Equal(2, Edit(moved.Document, [.. moved.Inverse]).Document.Reused[0].Revision);
        Assert.Equal(EditFault.InUse, Edit(taken.Document, new ReuseRevision("e", "ds", null, 2)).Refusal!.Fault);
        var freed = Edit(taken.Document, new RemoveRow("in"), new SetField("doors", "assemblyId", "none", "e"), new ReuseRevision("e", "ds", null, 2));
        Assert.Empty(freed.Document.Reused);
        Assert.Equal(2, Edit(freed.Document, [.. freed.Inverse]).Document.Reused[0].Revision);
    }

    [Fact]
    public void What_belongs_to_another_product_is_refused_with_a_sentence()
    {
        var room = Room(Reuse.Of(Plain, 2, "e"), Choice("core"), Place("e", ("e.leaf", "core")));
        foreach (EditStep step in new EditStep[] { new SetField("e.width", "max", "1500", "1200"), new RemoveRow("e.narrow"),
            new AddRow("e.tdoor", "rows", null, new JsonObject { ["id"] = "x" }), new MoveRow("core", "e.tdoor", "rows", null),
            new SetField("e", "revision", 3, 2) })
            Assert.Equal("This belongs to revision 2 of DS; it is edited there, and then the new revision is taken here.", Edit(room, step).Refusal!.Message);
        Assert.Equal("A model that is reused is taken in by its revision.", Edit(room, new SetField("m", "reused/0/revision", 3, 2)).Refusal!.Message);
        Assert.Equal(EditFault.Malformed, Edit(room, new AddRow("m", "reused", null, new JsonObject { ["id"] = "x" })).Refusal!.Fault);
        Assert.Equal("Someone has taken revision 2 since you saw it.",
            Edit(room, new ReuseRevision("e", "ds", 3, 1, Reuse.Of(Plain, 3, "e"))).Refusal!.Message);
        Assert.Equal("There is no released revision 9 of that product.", Edit(room, new ReuseRevision("x", "ds", 9, null)).Refusal!.Message);
        var self = new BoundModel(room with { Id = "cr2", Code = "CR2" }, Facts);
        Assert.Equal("CR2 contains this product, so it cannot be part of it.",
            Edit(Plain.Document, new ReuseRevision("x", "cr2", 1, null, Reuse.Of(self, 1, "x"))).Refusal!.Message);
        Assert.Equal("DS is this product, so it cannot be part of it.",
            Edit(Plain.Document, new ReuseRevision("x", "ds", 2, null, Reuse.Of(Plain, 2, "x"))).Refusal!.Message);
    }

    [Fact]
    public void It_goes_out_and_comes_in_with_the_file()
    {
        var written = ModelJson.Write(new() { Model = Room(Reuse.Of(Plain, 2, "e"), Choice("core"), Place("e", ("e.leaf", "core"))), Library = Facts });
        var read = ModelJson.Read(Encoding.UTF8.GetBytes(written));
        Assert.Null(read.Error);
        Assert.Equal(written, ModelJson.Write(read.Package!));
        Assert.Equal("The id “e.width” stands on more than one row; ids must be unique.",
            ModelJson.Read(Encoding.UTF8.GetBytes(written.Replace("\"id\": \"core\"", "\"id\": \"e.width\"", StringComparison.Ordinal))).Error);
    }
}
