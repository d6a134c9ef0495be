using System.Text.Json;
using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Differences;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;

namespace Juniperfall.Core.Tests;

/// <summary>The net difference of two states of a model: on random edits of the demo room, and case by case by hand.</summary>
public class DifferencesOfModels
{
    private static readonly ModelDocument Room =
        ModelEditor.BindNames(DemoModel.Room.Value.Model.Document, DemoModel.Room.Value.Model.Facts).Document!;

    private static ModelDocument Apply(ModelDocument document, params EditStep[] steps)
    {
        var result = ModelEditor.Apply(document, new("e", [.. steps]), DemoModel.Room.Value.Model.Facts);
        Assert.Null(result.Refusal);
        return result.Document;
    }

    private static IEnumerable<string> Told(ModelDocument before, ModelDocument after) =>
        ModelDifference.Of(before, after)
            .Select(d => $"{d.Kind} {d.Worksheet} {d.Id} {string.Join(", ", d.Fields.Select(f => $"{f.Field}: {f.Before} → {f.After}"))}".Trim());

    [Fact]
    public void Nothing_is_told_of_what_is_the_same_or_was_changed_back()
    {
        Assert.Empty(ModelDifference.Of(Room, Room));
        // Also where no part is the same object.
        var copy = JsonSerializer.Deserialize<ModelDocument>(JsonSerializer.Serialize(Room, DocumentJson.Options), DocumentJson.Options)!;
        Assert.Empty(ModelDifference.Of(Room, copy));
        var result = ModelEditor.Apply(Room, new("e", [new SetField("rule2", "upper", "30 m2", "90 m2"), new RemoveRow("part20")]),
            DemoModel.Room.Value.Model.Facts);
        Assert.Null(result.Refusal);
        Assert.Equal(2, ModelDifference.Of(Room, result.Document).Length);
        Assert.Empty(ModelDifference.Of(Room, Apply(result.Document, [.. result.Inverse])));
    }

    [Fact]
    public void A_limit_a_price_a_value_and_a_row_are_told_by_their_fields()
    {
        var changed = Apply(Room, new SetField("rule2", "upper", "30 m2", "90 m2"), new SetField("cores:80", "properties/cores.rate", "124", "148"),
            new RemoveRow("part20"));
        Assert.Equal(["Changed cores cores:80 properties/cores.rate: 148 → 124", "Changed room rule2 upper: 90 m2 → 30 m2", "Removed room part20"],
            Told(Room, changed).Order());
        Assert.Equal(["Added room part20", "Changed cores cores:80 properties/cores.rate: 124 → 148", "Changed room rule2 upper: 30 m2 → 90 m2"],
            Told(changed, Room).Order());
    }

    [Fact]
    public void One_row_that_is_moved_is_told_alone_and_what_is_added_with_a_list_is_told_with_it()
    {
        var topic = Room.Assemblies[0].Topics.First(t => t.Rows.Length > 5);
        var moved = Apply(Room, new MoveRow(topic.Rows[4].Id, topic.Id, "rows", null));
        Assert.Equal([(DifferenceKind.Moved, topic.Rows[4].Id)], ModelDifference.Of(Room, moved).Select(d => (d.Kind, d.Id)));
        var list = JsonNode.Parse("""
            {"id": "tints", "name": "tints", "values": [{"id": "tints:ivory", "code": "ivory"}, {"id": "tints:sand", "code": "sand"}]}
            """)!.AsObject();
        Assert.Equal(["Added tints tints"], Told(Room, Apply(Room, new AddRow(Room.Id, "lists", null, list))));
    }

    [Fact]
    public void Random_edits_are_told_exactly()
    {
        var rows = Room.Assemblies.SelectMany(a => a.Rows).ToList();
        for (var seed = 0; seed < 40; seed++)
        {
            var random = new Random(seed);
            // Notes change nothing that another row reads, so every edit is taken.
            var noted = rows.OrderBy(_ => random.Next()).Take(1 + random.Next(6)).Select(r => r.Id).ToHashSet();
            var topics = Room.Assemblies[0].Topics;
            var (from, to) = (topics[random.Next(topics.Length)], topics[random.Next(topics.Length)]);
            var mover = from.Rows[random.Next(from.Rows.Length)].Id;
            JsonNode? Note(string id) => JsonSerializer.SerializeToNode(rows.First(r => r.Id == id), DocumentJson.Options)!["note"]?.DeepClone();
            var after = Apply(Room, [.. noted.Select(id => new SetField(id, "note", $"Seen {seed}", Note(id))),
                .. from == to ? Array.Empty<EditStep>() : [new MoveRow(mover, to.Id, "rows", null)]]);
            var found = ModelDifference.Of(Room, after);
            Assert.Equal(noted.Order(), found.Where(d => d.Kind == DifferenceKind.Changed).Select(d => d.Id).Order());
            Assert.Equal(from == to ? [] : [mover], found.Where(d => d.Kind == DifferenceKind.Moved).Select(d => d.Id));
            Assert.DoesNotContain(found, d => d.Kind is DifferenceKind.Added or DifferenceKind.Removed);
        }
    }
}
