using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Formats;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>What models read of the item register: properties in expressions, rows that grids draw, items named by a grid.</summary>
public class ItemsInModels
{
    private static ItemFact Fan(string number, string weight, string cost, params string[] properties) => new()
    {
        Number = number,
        Weight = weight,
        Cost = cost,
        Properties = properties.Select(p => p.Split('=')).ToImmutableSortedDictionary(p => p[0], p => p[1]),
    };

    private static readonly LibraryFacts Register = Facts with
    {
        Items = Facts.Items
            .Add("FAN-1", Fan("FAN-1", "4", "90", "family=fan", "flow=800 m3/h", "core=80", "quiet=yes", "guard=GRD-1"))
            .Add("FAN-2", Fan("FAN-2", "6", "120", "family=fan", "flow=1400 m3/h", "core=80|100", "quiet=no", "guard=GRD-2"))
            .Add("FAN-3", Fan("FAN-3", "9", "210", "Family=Fan", "flow=2600 m3/h", "core=120", "quiet=yes", "guard=GRD-2"))
            .Add("FAN-4", Fan("FAN-4", "9", "1", "family=fan", "flow=9000 m3/h", "core=120", "guard=GRD-1") with { Active = false })
            .Add("GRD-1", Fan("GRD-1", "0.5", "11", "mesh=8 mm", "use=it begins <here>"))
            .Add("GRD-2", Fan("GRD-2", "0.7", "14", "mesh=12 mm", "use=wall and ceiling")),
    };

    private static readonly ValueList Fans = new()
    {
        Id = "fans",
        Name = "fans",
        Properties = [new() { Id = "fan_item", Name = "item", Type = PropertyType.Text }],
        Values = [.. new[] { "FAN-1", "FAN-2", "FAN-3", "" }.Select((f, i) =>
            new ListValue { Id = $"f{i}", Code = $"f{i}", Properties = ImmutableSortedDictionary<string, string>.Empty.Add("fan_item", f) })],
    };

    private static BoundModel Of(LibraryFacts facts, params Row[] rows) =>
        new(new() { Id = "m", Code = "CR", Root = "room", Lists = [Cores, Fans], Assemblies = [Assembly("room", rows)] }, facts);

    private static BoundModel Sound(params Row[] rows)
    {
        var model = Of(Register, rows);
        Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => $"{f.RowId}.{f.Field}: {f.Diagnostic.Message}")));
        return model;
    }

    private static CombinationGrid Drawn(string filter, params GridColumn[] columns) =>
        new() { Id = "fitting", Name = "fitting", DrawnFrom = filter, Columns = [.. columns] };
    private static GridColumn Key(string name, string reference, string property) =>
        new() { Id = "k" + name, Name = name, Reference = reference, ItemProperty = property };
    private static GridColumn Figure(string name, string property, string unit = "", PropertyType type = PropertyType.Number) =>
        new() { Id = "g" + name, Name = name, ItemProperty = property, Unit = unit, Type = type };
    private static AttributeRow Fan() => Choice("fan") with { ListId = "fans" };

    [Theory]
    [InlineData("family = fan", "FAN-1 FAN-2 FAN-3")]
    [InlineData("FAMILY = FAN and weight < 7 kg", "FAN-1 FAN-2")]
    [InlineData("family = fan and weight >= 6000 g", "FAN-2 FAN-3")]
    [InlineData("flow > 1000 and quiet <> no", "FAN-3")]
    [InlineData("number begins grd", "GRD-1 GRD-2")]
    [InlineData("cost <= 11 and mesh = '8 mm'", "GRD-1")]
    [InlineData("use = \"wall and ceiling\" and weight < 1 kg", "GRD-2")]
    [InlineData("use = it begins <here>", "GRD-1")]
    public void A_filter_means_the_active_items_that_meet_all_its_conditions(string filter, string items) =>
        Assert.Equal(items, string.Join(' ', DrawnRows.Items(filter, Register).Select(i => i.Number)));

    [Theory]
    [InlineData("fans")]
    [InlineData("family = ")]
    [InlineData("= fan")]
    [InlineData("family = fan and")]
    public void A_filter_that_says_nothing_is_told(string filter)
    {
        Assert.NotNull(ItemFilter.Parse(filter).Fault);
        Assert.Contains(Of(Register, Choice("core"), Drawn(filter, Key("core", "core", "core"))).Findings, f => f is { RowId: "fitting", Field: "drawnFrom" });
    }

    [Fact]
    public void Properties_of_items_are_read_as_what_all_that_can_be_meant_have_in_common()
    {
        var model = Sound(Fan(), Whole("n", 1, 3));
        string? Type(string text) => model.Check(model.Index.Root!, text, null) is { Expression: { } bound } ? bound.Type.Describe() : null;
        Assert.Equal(("a weight", "an amount of money", "yes or no", "a text"),
            (Type("fan.item.weight"), Type("fan.item.cost"), Type("fan.item.quiet"), Type("fan.item.guard")));
        Assert.Equal(("a length", "a weight"), (Type("fan.item.guard.mesh"), Type("'GRD-1'.weight") ?? Type("\"GRD-1\".weight")));
        Assert.Equal(ExpressionType.Number(Unit.Parse("m3/h").Dimension), model.Check(model.Index.Root!, "fan.item.flow", null).Expression!.Type);
        var near = Assert.Single(model.Check(model.Index.Root!, "fan.item.wieght > 3 kg", null).Diagnostics);
        Assert.Equal((Fault.UnknownProperty, "weight"), (near.Fault, near.Suggestion));
        Assert.Contains("There is no item “NOPE”", Assert.Single(model.Check(model.Index.Root!, "\"NOPE\".weight", null).Diagnostics).Message);
    }

    [Fact]
    public void What_is_available_by_items_and_drawn_rows_is_what_all_combinations_have()
    {
        var model = Sound(Fan(), Choice("core"), Whole("n", 1, 3),
            Drawn("family = fan and weight < 7 kg", Key("fan", "fan.item.weight", "weight"), Key("core", "core", "core"), Figure("flow", "flow", "m3/h"),
                Figure("guard", "guard", "", PropertyType.Text)) with
            { AppliesWhen = "n > 1" },
            Rule("r1", "n * fan.item.weight <= 12 kg"), Rule("r2", "if fan.item.quiet then n < 3"), Rule("r3", "if n = 3 then fitting.guard.mesh > 10 mm"),
                Rule("r4", "if n = 2 then fitting.flow > 500 m3/h"));
        var all = new BruteForce(model).Configurations();
        Assert.True(all.Count > 3);
        var answer = Ask(model);
        foreach (var attribute in answer.Attributes)
            Assert.Equal(all.Select(a => a[attribute.Path]).Where(s => s.Applies).Select(s => s.Value.ToString()).Distinct().Order(),
                attribute.Available.Values.Select(v => v.ToString()).Concat(attribute.Available.None ? ["none"] : Array.Empty<string>()).Order());
        Assert.Equal(all.Count.ToString(), new Reasoner(model).Count(new([]), CancellationToken.None).Number.ToString());
    }

    [Fact]
    public void A_part_is_named_by_a_grid_and_its_cost_is_a_goal()
    {
        var model = Sound(Choice("core"), Whole("flow", 100, 3000),
            Drawn("family = fan", Key("core", "core", "core"), Key("flow", "flow * 1 m3/h <= 1000 m3/h", "quiet"),
                Figure("fan", "number", "", PropertyType.Text)),
            new PartLine { Id = "p", ItemFrom = "fitting.fan", Quantity = "2" });
        var reasoner = new Reasoner(model);
        foreach (var (picks, item) in new[] { ("core=80 flow=900", "FAN-1"), ("core=100 flow=1200", "FAN-2"), ("core=120 flow=100", "FAN-3") })
        {
            var answer = reasoner.Answer(new(Picks(model, picks.Split(' '))), CancellationToken.None);
            var built = StructureBuilder.Build(model,
                reasoner.Complete(answer, CancellationToken.None)!.Value.ToDictionary(p => p.Path, p => p.Value)).Structure!;
            Assert.Equal(item, Assert.Single(built.Bom).Item);
        }
        var cheapest = reasoner.Best(reasoner.Answer(new([]), CancellationToken.None), StructureGoals.Cost, false, CancellationToken.None);
        Assert.Equal(((Exact)180, true), (cheapest.Number!.Value, cheapest.Proven));
        // The check of the model looks at every item that the grid can name.
        Assert.Contains(BuildableCheck
            .Of(Of(Register with { Items = Register.Items.SetItem("FAN-2", Register.Items["FAN-2"] with { Cost = "0" }) },
            [.. model.Document.Assemblies[0].Rows]), new("HAL", null), (_, _) => true), f => f.Code == "FAN-2" && f.Message.Contains("cost"));
    }

    [Fact]
    public void Faults_of_drawn_cells_name_their_item_and_property_and_an_exported_model_holds_what_it_draws()
    {
        var broken = Register with
        {
            Items = Register.Items
            .SetItem("FAN-2", Register.Items["FAN-2"] with { Properties = Register.Items["FAN-2"].Properties.SetItem("core", "99") })
        };
        var rows = new Row[] { Choice("core"), Drawn("family = fan", Key("core", "core", "core"), Figure("guard", "guard", "", PropertyType.Text)) };
        var fault = Assert.Single(Of(broken, rows).Findings);
        Assert.Equal(("fitting", "drawnFrom"), (fault.RowId, fault.Field));
        Assert.Contains("Item FAN-2, core", fault.Diagnostic.Message);
        Assert.Equal(["FAN-1", "FAN-2", "FAN-3", "GRD-1", "GRD-2"], ModelPackage.Of(Sound(rows)).Library.Items.Keys.Where(k => k[3] == '-'));
        Assert.Contains(Of(Facts, rows).Findings, f => f.Diagnostic.Fault == Fault.EmptyList);
    }

    [Theory]
    [InlineData("\"cost\": \"90\"", "\"cost\": \"ninety\"", "In the library, item “FAN-1”, cost: “ninety” is not a number.")]
    [InlineData("\"weight\": \"6\"", "\"weight\": \"-6\"", "In the library, item “FAN-2”, weight kg: It cannot be negative.")]
    [InlineData("\"discount\": \"12\"", "\"discount\": \"120\"", "In the library, customer class “T”, discount %: A discount is at most 100 %.")]
    [InlineData("\"labourRate\": \"36\"", "\"labourRate\": \"1/3\"", "In the library, work centre “BENCH”, labour rate: “1/3” is not a number.")]
    [InlineData("\"number\": \"GRD-1\"", "\"number\": \"GRD-9\"", "The item “GRD-9” stands under the name “GRD-1”.")]
    public void A_file_with_a_library_that_cannot_be_is_refused_at_the_place_of_the_fault(string was, string now, string sentence)
    {
        var facts = Register with { CustomerClasses = LibraryFacts.Empty.CustomerClasses.Add("T", new() { Code = "T", Discount = "12" }) };
        var written = ModelJson.Write(
            new() { Model = new() { Id = "m", Code = "M", Root = "a", Assemblies = [new() { Id = "a", Name = "a" }] }, Library = facts });
        Assert.NotNull(ModelJson.Read(System.Text.Encoding.UTF8.GetBytes(written)).Package);
        var spoilt = written.Replace(was, now, StringComparison.Ordinal);
        Assert.NotEqual(written, spoilt);
        Assert.Equal(sentence, ModelJson.Read(System.Text.Encoding.UTF8.GetBytes(spoilt)).Error);
    }

    [Fact]
    public void A_library_in_a_file_may_name_sites_languages_and_units_that_it_does_not_explain()
    {
        var facts = LibraryFacts.Empty with
        {
            Items = LibraryFacts.Empty.Items.Add("A", new()
            {
                Number = "A",
                Description = new(ImmutableSortedDictionary<string, string>.Empty.Add("de-AT", "Teil")),
                Stores = ImmutableSortedDictionary<string, string>.Empty.Add("ELSEWHERE", "Raw"),
                Costs = ImmutableSortedDictionary<string, string>.Empty.Add("ELSEWHERE", "2"),
                Conversions = ImmutableSortedDictionary<string, string>.Empty.Add("furlong", "1"),
                Properties = ImmutableSortedDictionary<string, string>.Empty.Add("", "x"),
            }),
        };
        ReadResult Read(LibraryFacts library) =>
            ModelJson.Read(System.Text.Encoding.UTF8
            .GetBytes(ModelJson.Write(new()
            {
                Model = new() { Id = "m", Code = "M", Root = "a", Assemblies = [new() { Id = "a", Name = "a" }] },
                Library = library
            })));
        Assert.Null(Read(facts).Error);
        // What it says of a site is looked at all the same.
        Assert.Equal("In the library, item “A”, cost ELSEWHERE: “two” is not a number.",
            Read(facts with { Items = facts.Items.SetItem("A", facts.Items["A"] with { Costs = facts.Items["A"].Costs.SetItem("ELSEWHERE", "two") }) }).Error);
    }
}
