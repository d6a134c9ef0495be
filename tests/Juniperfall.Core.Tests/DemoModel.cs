using System.Collections.Immutable;
using System.Text.Json;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

namespace Juniperfall.Core.Tests;

/// <summary>The demo model end to end: sound, reasoned about, built; its figures as worked out by hand in docs/worked-example.md.</summary>
public class DemoModel
{
    internal static string RepositoryFile(params string[] path)
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Juniperfall.slnx")))
            folder = folder.Parent!;
        return Path.Combine([folder.FullName, .. path]);
    }

    internal static readonly Lazy<(BoundModel Model, Reasoner Reasoner)> Room = new(() =>
    {
        var result = ModelJson.Read(File.ReadAllBytes(RepositoryFile("demo", "cold-room.json")));
        Assert.Null(result.Error);
        var model = new BoundModel(result.Package!.Model, result.Package.Library);
        return (model, new(model));
    });

    /// <summary>The models of the demo, each with a structure of some configuration.</summary>
    internal static IEnumerable<(BoundModel Model, Structure Structure)> Structures() => StructuresWithValues().Select(s => (s.Model, s.Structure));

    internal static IEnumerable<(BoundModel Model, Structure Structure, IReadOnlyDictionary<string, Value> Values)> StructuresWithValues()
    {
        foreach (var file in Files())
        {
            var package = ModelJson.Read(File.ReadAllBytes(file)).Package!;
            var model = new BoundModel(package.Model, package.Library);
            var reasoner = new Reasoner(model);
            var values = reasoner.Complete(reasoner.Answer(new([]), CancellationToken.None), CancellationToken.None)!.Value
                .ToDictionary(p => p.Path, p => p.Value);
            var result = StructureBuilder.Build(model, values);
            Assert.Empty(result.Faults);
            yield return (model, result.Structure!, values);
        }
    }

    /// <summary>The model files of the demo.</summary>
    internal static IEnumerable<string> Files() =>
        Directory.GetFiles(RepositoryFile("demo"), "*.json").Where(f => ModelJson.Read(File.ReadAllBytes(f)).Package is not null).Order();

    private static ImmutableArray<Pick> Picks(params string[] picks)
    {
        var text = new PickText(Room.Value.Model);
        return [.. picks.Select(p => p.Split('=')).Select(p => text.Read(p[0], p[1])).Select(r => r.Pick ?? throw new InvalidOperationException(r.Error))];
    }

    [Fact]
    public void It_is_sound_and_as_large_as_a_first_model_should_be()
    {
        var (model, _) = Room.Value;
        Assert.Empty(model.Findings);
        var rows = model.Document.AllAssemblies.SelectMany(a => a.Rows).ToList();
        Assert.True(rows.OfType<AttributeRow>().Count() >= 30 && rows.OfType<IRule>().Count() >= 25 && rows.OfType<ComputedAttribute>().Count() >= 15);
        Assert.True(rows.OfType<PartLine>().Count() >= 60 && rows.OfType<OperationLine>().Count() >= 20 && model.Facts.Items.Count >= 150
            && model.Facts.WorkCentres.Count == 9);
    }

    [Fact]
    public void What_it_reuses_is_the_cooling_set_as_that_stands_alone()
    {
        var package = ModelJson.Read(File.ReadAllBytes(RepositoryFile("demo", "cooling-set.json"))).Package!;
        var alone = new BoundModel(package.Model, package.Library);
        Assert.Empty(alone.Findings);
        var written = ModelJson.Read(File.ReadAllBytes(RepositoryFile("demo", "cold-room.json"))).Package!.Model.Reused;
        Assert.Equal(JsonSerializer.Serialize(Reuse.Of(alone, 1, "cs"), DocumentJson.Options),
            JsonSerializer.Serialize(Assert.Single(written), DocumentJson.Options));
        Assert.Equal(400, Assert.IsType<CombinationGrid>(Room.Value.Model.Index.Rows["cs.c.units"]).Rows.Length);
    }

    [Fact]
    public void The_file_round_trips()
    {
        var package = new ModelPackage { Model = Room.Value.Model.Document, Library = Room.Value.Model.Facts };
        var written = ModelJson.Write(package);
        Assert.Equal(written, ModelJson.Write(ModelJson.Read(System.Text.Encoding.UTF8.GetBytes(written)).Package!));
    }

    [Fact]
    public void A_freezer_clashes_with_a_thin_core_and_the_way_out_names_a_thicker_one()
    {
        var (model, reasoner) = Room.Value;
        var picks = Picks("core=80", "duty=freezer");
        var ways = reasoner.WaysOut(new(picks), null, CancellationToken.None).Found;
        Assert.Equal([["r.duty"], ["r.core"]], ways.Select(w => w.Changes.Select(c => c.From.Path).ToArray()).ToArray());
        Assert.Contains(new PickText(model).Write((AttributeRow)model.Index.Rows["r.core"], ways[1].Changes[0].To!.Value), new[] { "100", "120", "150" });
        var reason = reasoner.WhyNot(new([picks[1]]), "r.core", picks[0].Value, CancellationToken.None).Reason;
        Assert.Equal(picks[1], Assert.Single(reason!.Picks));
        Assert.Equal("The core is too thin for this duty.", Assert.IsAssignableFrom<IRule>(model.Index.Rows[Assert.Single(reason.Causes).RowId]).Message.In());
        Assert.Null(reasoner.WhyNot(new([picks[1]]), "r.core", Value.Choice("cores:150"), CancellationToken.None).Reason);
    }

    [Fact]
    public void The_heat_load_and_the_structure_are_those_worked_out_by_hand()
    {
        var (model, reasoner) = Room.Value;
        var picks = Picks("duty=chill", "goods=general", "goods_per_day=500", "arrives_warm=yes", "entry_temperature=10", "ambient=32", "length=4000", "width=3000",
            "height=2500", "core=80",
            "ceiling_load=light", "floor=insulated", "cooling.unit=C290-22", "delivery=collected", "doors[1].clear_width=1000", "doors[1].clear_height=2000",
                "shelving=no", "lighting=standard");
        var answer = reasoner.Answer(new(picks), CancellationToken.None);
        Assert.True(answer is { Valid: true, Exact: true });
        Assert.Empty(answer.Missing);
        string Figure(string path, string unit, int places) =>
            Unit.Parse(unit).FromBase(answer.AsSuggested.Computed.Single(c => c.Path == path).Number!.Low!.Value).ToDisplay(places);
        Assert.Equal(("415.08", "416.01", "114.58", "44"),
            (Figure("r.transmission", "W", 2), Figure("r.air_load", "W", 2), Figure("r.goods_load", "W", 2), Figure("r.people_load", "W", 2)));
        Assert.Equal(("1079.67", "1583.52"), (Figure("r.heat_load", "W", 2), Figure("r.needed_capacity", "W", 2)));
        Assert.Equal(("90", "0", "0"), (Figure("r.fan_load", "W", 2), Figure("r.defrost_load", "W", 2), Figure("r.heater_load", "W", 2)));
        Assert.Equal("14", Figure("r.wall_panels", "", 0));
        var values = reasoner.Complete(reasoner.Answer(new(picks), CancellationToken.None), CancellationToken.None)!.Value
            .ToDictionary(x => x.Path, x => x.Value);
        var result = StructureBuilder.Build(model, values);
        Assert.Empty(result.Faults);
        var room = result.Structure!;
        var panels = Assert.Single(room.Bom, l => l.Item == "PW-80");
        Assert.Equal(("40.25", "41.06"), (panels.Net.ToString(), panels.Gross.ToString()));
        var door = Assert.Single(room.Bom, l => l.Item == "DS").Below!;
        Assert.Equal("2.168", Assert.Single(door.Bom, l => l.Item == "LF-80").Net.ToString());
        Assert.DoesNotContain(room.Bom, l => l.Item.StartsWith("SVC", StringComparison.Ordinal));
        // Sheets, then foam, then the saw; what is made elsewhere is not waited for before the room is packed.
        Assert.Equal(["sheet", "foam", "cut"], room.Routing.Take(3).Select(o => o.Name));
        Assert.Equal(90, Assert.Single(room.Bom, l => l.Item == "CS").Operation);
        // Foam of outer walls 38.94 m² less the door 2 m², ceiling 13.15 m² and floor 12 m², 80 mm at 42 kg/m³: 208.6 kg, 43 % of it polyol.
        Assert.Equal("208.6", Figure("r.foam_mass", "kg", 1));
        Assert.Equal("89.8", Assert.Single(room.Bom, l => l.Item == "FOAM-PO").Net.ToDisplay(1));
        var saw = room.Routing[2];
        Assert.Equal(("1200", "3720"), (saw.Setup.ToString(), saw.Run.ToString()));
        var rest = StructureBuilder.Build(model, values).Structure!;
        Assert.Equal(room.Bom.Select(l => (l.Position, l.Item, l.Gross)), rest.Bom.Select(l => (l.Position, l.Item, l.Gross)));
    }

    [Fact]
    public void Phantom_lines_move_up_into_the_room()
    {
        var (model, reasoner) = Room.Value;
        var picks = Picks("cooling.unit=C290-22", "delivery=assembled", "distance=130", "services.crane=no");
        var values = reasoner.Complete(reasoner.Answer(new(picks), CancellationToken.None), CancellationToken.None)!.Value
            .ToDictionary(x => x.Path, x => x.Value);
        var room = StructureBuilder.Build(model, values).Structure!;
        var transport = Assert.Single(room.Bom, l => l.Item == "SVC-TR");
        Assert.Equal("3", transport.Net.ToString());
        Assert.Equal("delivery <> collected", transport.Reason.Condition);
        Assert.Contains(room.Routing, o => o.WorkCentre == "CREW" && o.Sequence == 110);
    }

    [Theory]
    [InlineData("core", "thik", "Did you mean")]
    [InlineData("lenght", "3000", "Did you mean")]
    [InlineData("length", "3010", "steps of 50 mm: 3000 or 3050")]
    [InlineData("length", "99999", "between 1200 mm and 12000 mm")]
    [InlineData("length", "3,5 m", "point")]
    [InlineData("length", "3 kg", "a length")]
    [InlineData("alarm", "maybe", "yes or no")]
    [InlineData("core", "none", "cannot be none")]
    public void A_wrong_pick_gets_a_sentence(string name, string value, string expected)
    {
        var (pick, error) = new PickText(Room.Value.Model).Read(name, value);
        Assert.Null(pick);
        Assert.Contains(expected, error! + (error!.Contains("no value") ? "Did you mean" : ""));
    }

    [Theory]
    [InlineData("", "is not what a model file has")]
    [InlineData("{\"model\":", "is not what a model file has")]
    [InlineData("{\"model\":{\"id\":\"a\",\"code\":\"A\",\"root\":\"a\",\"format\":\"other/9\"}}", "The format is “other/9”")]
    [InlineData("{\"model\":{\"id\":\"a\",\"code\":\"A\",\"root\":\"a\",\"surprise\":1}}", "does not belong here")]
    [InlineData("{\"model\":{\"id\":\"a\",\"code\":\"A\"}}", "is missing")]
    public void A_broken_or_foreign_file_is_refused_with_a_sentence(string json, string expected) =>
        Assert.Contains(expected, ModelJson.Read(System.Text.Encoding.UTF8.GetBytes(json)).Error);

    [Fact]
    public void The_published_schema_is_that_of_the_reader() =>
        Assert.Equal(ModelSchema.Write(), File.ReadAllText(RepositoryFile("docs", "schema", "model.schema.json")));

    [Fact]
    public void A_deeply_nested_file_is_refused() =>
        Assert.Contains("deeply", ModelJson
            .Read(System.Text.Encoding.UTF8.GetBytes("{\"model\":" + string.Concat(Enumerable.Repeat("{\"label\":", 5000)))).Error);

    /// <summary>Of a lead time and of a price with a least price many configurations have the lowest: that none is lower must not be found out one by
    /// one.</summary>
    [Theory]
    [InlineData(StructureGoals.Cost)]
    [InlineData(StructureGoals.Weight)]
    [InlineData(StructureGoals.Work)]
    [InlineData(StructureGoals.LeadTime)]
    [InlineData(StructureGoals.Price)]
    public void The_lowest_of_each_total_is_proven(string goal)
    {
        var model = Room.Value.Model;
        var reasoner = new Reasoner(model);
        using var limit = new CancellationTokenSource(TimeSpan.FromMinutes(2));
        var best = reasoner.Best(reasoner.Answer(new([]), limit.Token), goal, highest: false, limit.Token);
        Assert.True(best.Proven);
        var values = best.Values!.Value.ToDictionary(p => p.Path, p => p.Value);
        var structure = StructureBuilder.Build(model, values).Structure!;
        var totals = RollUp.Of(structure, model.Facts);
        Assert.Equal(goal switch
        {
            StructureGoals.Cost => totals.Cost,
            StructureGoals.Weight => totals.Weight,
            StructureGoals.Work =>
            totals.Work,
            StructureGoals.LeadTime => LeadTime.Of(structure, model.Facts, 1).Days,
            _ => Pricing.Of(model, values).Sheet!.Price
        }, best.Number);
    }
}
