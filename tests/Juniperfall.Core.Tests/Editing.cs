using System.Text.Json.Nodes;
using Juniperfall.Core.Models;
using Juniperfall.Formats;

namespace Juniperfall.Core.Tests;

/// <summary>Edits, their inverses, and what they refuse.</summary>
public class Editing
{
    private static readonly LibraryFacts Facts = DemoModel.Room.Value.Model.Facts;
    private static readonly ModelDocument Bound = ModelEditor.BindNames(DemoModel.Room.Value.Model.Document, Facts).Document!;

    private static string Text(ModelDocument document) => ModelJson.Write(new() { Model = document });
    private static EditResult Apply(ModelDocument document, params EditStep[] steps) => ModelEditor.Apply(document, new("e", [.. steps]), Facts);

    [Fact]
    public void Binding_names_keeps_the_model_sound_and_is_done_once()
    {
        Assert.Empty(new BoundModel(Bound, Facts).Findings);
        Assert.Contains("⟦r.door⟧.⟦d.clear_width⟧ + 400 mm", Text(Bound));
        Assert.Equal(Text(Bound), Text(ModelEditor.BindNames(Bound, Facts).Document!));
    }

    [Fact]
    public void A_rename_reaches_every_use()
    {
        var renamed = Apply(Bound, new SetField("r.core", "name", "panel core", "core")).Document;
        var model = new BoundModel(renamed, Facts);
        Assert.Empty(model.Findings);
        Assert.Equal("'panel core'.thickness >= duty.least_core", Language.StoredText.Show(((StatementRule)model.Index.Rows["rule4"]).Expression, model.Index));
    }

    [Fact]
    public void An_expression_is_bound_as_it_is_stored_and_a_faulty_one_stays_as_typed()
    {
        var before = ((StatementRule)new ModelIndex(Bound).Rows["rule4"]).Expression;
        var good = Apply(Bound, new SetField("rule4", "expression", "Core.Thickness  > 90 mm", before)).Document;
        Assert.Equal("⟦r.core⟧.⟦cores.thickness⟧  > 90 mm", ((StatementRule)new ModelIndex(good).Rows["rule4"]).Expression);
        var faulty = Apply(good, new SetField("rule4", "expression", "core.thicknes >", "core.thickness  > 90 mm")).Document;
        Assert.Equal("core.thicknes >", ((StatementRule)new ModelIndex(faulty).Rows["rule4"]).Expression);
        Assert.Equal(["rule4"], new BoundModel(faulty, Facts).Findings.Select(f => f.RowId).Distinct());
    }

    [Fact]
    public void Every_edit_of_a_random_series_is_taken_back_by_its_inverse()
    {
        var random = new Random(11);
        var (document, history) = (Bound, new List<(string Before, EditResult Result)>());
        for (var i = 0; i < 150; i++)
        {
            var topics = document.Assemblies.SelectMany(a => a.Topics).ToList();
            var topic = topics[random.Next(topics.Count)];
            var rows = topics.SelectMany(t => t.Rows).ToList();
            var row = rows[random.Next(rows.Count)];
            var neighbour = topic.Rows.Length == 0 || random.Next(4) == 0 ? null : topic.Rows[random.Next(topic.Rows.Length)].Id;
            EditStep step = random.Next(4) switch
            {
                0 => new SetField(row.Id, "note", $"note {i}", row.Note),
                1 => new AddRow(topic.Id, "rows", neighbour, new JsonObject { ["kind"] = "computed", ["id"] = $"new{i}", ["name"] = $"figure {i}", ["expression"] = random.Next(2) == 0 ? "1 + 1" : "1 +" }),
                2 when neighbour != row.Id => new MoveRow(row.Id, topics.Single(t => t.Rows.Contains(row)).Id, "rows", topics.Single(t => t.Rows.Contains(row)).Rows.First(r => r.Id != row.Id).Id),
                _ => new RemoveRow(row.Id),
            };
            var result = Apply(document, step);
            if (result.Refusal is { } refusal)
            {
                Assert.Equal(EditFault.InUse, refusal.Fault);
                Assert.NotEmpty(refusal.Places);
                Assert.Same(document, result.Document);
                continue;
            }
            history.Add((Text(document), result));
            document = result.Document;
        }
        Assert.True(history.Count > 60);
        foreach (var (before, result) in Enumerable.Reverse(history))
        {
            document = Apply(document, [.. result.Inverse]).Document;
            Assert.Equal(before, Text(document));
        }
    }

    [Fact]
    public void A_field_that_has_changed_since_is_not_overwritten_and_nothing_of_the_edit_is_done()
    {
        var other = Apply(Bound, new SetField("r.length", "max", "9000", "12000")).Document;
        var result = Apply(other, new SetField("r.length", "min", "1500", "1200"), new SetField("r.length", "max", "10000", "12000"));
        Assert.Equal((EditFault.Changed, "r.length", "max", "9000"), (result.Refusal!.Fault, result.Refusal.RowId, result.Refusal.Field, result.Refusal.Current!.GetValue<string>()));
        Assert.Same(other, result.Document);
    }

    [Fact]
    public void What_is_in_use_is_not_deleted_and_says_where()
    {
        var places = Apply(Bound, new RemoveRow("r.core")).Refusal!.Places;
        Assert.Contains(("rule4", "expression"), places);
        Assert.Contains(("g.core", "reference"), places);
        Assert.Equal(EditFault.InUse, Apply(Bound, new RemoveRow("duty")).Refusal!.Fault);
        Assert.Equal(EditFault.InUse, Apply(Bound, new RemoveRow("duty:freezer")).Refusal is { } r ? r.Fault : EditFault.InUse);
        Assert.Equal(EditFault.InUse, Apply(Bound, new RemoveRow("d.hang")).Refusal!.Fault);
    }

    [Theory]
    [InlineData("r.core", "id", "\"x\"")]
    [InlineData("r.core", "kind", "\"computed\"")]
    [InlineData("r.core", "required", "\"perhaps\"")]
    [InlineData("r.core", "surprise", "1")]
    [InlineData("r.core", "note", "\"a\\u0000b\"")]
    [InlineData("r.spans", "rows/99/cells/0", "\"*\"")]
    [InlineData("r.door", "make", "\"sideways\"")]
    public void What_does_not_fit_is_refused(string row, string field, string value)
    {
        var index = new ModelIndex(Bound).Rows[row];
        JsonNode? before = field switch { "required" => true, "make" => "ownItem", "id" => row, "kind" => "attribute", _ => null };
        var result = Apply(Bound, new SetField(index.Id, field, JsonNode.Parse(value), before));
        Assert.Equal(EditFault.Malformed, result.Refusal!.Fault);
    }

    [Fact]
    public void What_is_gone_and_what_is_there_already_is_said() => Assert.Equal([EditFault.Gone, EditFault.Malformed], new[]
    {
        Apply(Bound, new SetField("nowhere", "note", "x", null)).Refusal!.Fault,
        Apply(Bound, new AddRow("t.duty", "rows", null, new JsonObject { ["kind"] = "computed", ["id"] = "r.core", ["name"] = "x" })).Refusal!.Fault,
    });
}
