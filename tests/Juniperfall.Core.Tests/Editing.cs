using System.Text.Json.Nodes;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
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

    /// <summary>The kind of an attribute had another name in files and edits.</summary>
    [Fact]
    public void Earlier_files_and_edits_are_read_and_written_anew()
    {
        var written = Text(Bound);
        var earlier = written.Replace("\"attributeKind\"", "\"type\"", StringComparison.Ordinal);
        Assert.NotEqual(written, earlier);
        Assert.Equal(written, Text(ModelJson.Read(System.Text.Encoding.UTF8.GetBytes(earlier)).Package!.Model));

        var id = Bound.Assemblies[0].Topics[0].Id;
        var added = Apply(Bound, new AddRow(id, "rows", null,
            new() { ["kind"] = "attribute", ["id"] = "early", ["name"] = "early", ["type"] = "yesNo" }), new SetField("early", "type", "text", "yesNo"));
        Assert.Equal(AttributeKind.Text, Assert.IsType<AttributeRow>(new ModelIndex(added.Document).Rows["early"]).Kind);
        Assert.Equal("attributeKind", Assert.IsType<SetField>(added.Inverse[0]).Field);
        Assert.Equal(Text(Bound), Text(Apply(added.Document, [.. added.Inverse]).Document));
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
                1 => new AddRow(topic.Id, "rows", neighbour,
                    new JsonObject
                    {
                        ["kind"] = "computed",
                        ["id"] = $"new{i}",
                        ["name"] = $"figure {i}",
                        ["expression"] = random.Next(2) == 0 ? "1 + 1" : "1 +"
                    }),
                2 when neighbour != row.Id =>
                    new MoveRow(row.Id, topics.Single(t => t.Rows.Contains(row)).Id, "rows",
                    topics.Single(t => t.Rows.Contains(row)).Rows.First(r => r.Id != row.Id).Id),
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

    private static EditStep RandomStep(Random random, ModelDocument document, int i)
    {
        T One<T>(IEnumerable<T> of) => of.ToList() is var all ? all[random.Next(all.Count)] : default!;
        var topic = One(document.Assemblies.SelectMany(a => a.Topics));
        var row = One(document.Assemblies.SelectMany(a => a.Rows));
        var named = One(document.Assemblies.SelectMany(a => a.Rows).OfType<NamedRow>());
        var grid = One(document.Assemblies.SelectMany(a => a.Rows).OfType<CombinationGrid>().Where(g => g.Rows.Length > 0));
        var (list, line) = (One(document.Lists.Where(l => l.Values.Length > 0)), random.Next(grid.Rows.Length));
        var value = One(list.Values);
        var computed = One(document.Assemblies.SelectMany(a => a.Rows).OfType<ComputedAttribute>());
        return random.Next(12) switch
        {
            0 => new SetField(row.Id, "note", $"note {i}", row.Note),
            1 => new SetField(named.Id, "name", $"name {i}", named.Name),
            2 => new SetField(computed.Id, "expression", $"({computed.Expression}) + {i} * 0", computed.Expression),
            3 => new SetField(grid.Id, $"rows/{line}/cells/0", "*", grid.Rows[line].Cells[0]),
            4 => new SetField(value.Id, "note", $"value {i}", value.Note),
            5 => new AddRow(list.Id, "values", value.Id, new JsonObject { ["id"] = $"{list.Id}:v{i}", ["code"] = $"v{i}" }),
            6 => new AddRow(grid.Id, "rows", null,
                new JsonObject { ["id"] = $"{grid.Id}:n{i}", ["cells"] = new JsonArray([.. grid.Columns.Select(_ => (JsonNode)"*")]) }),
            7 => new AddRow(topic.Id, "rows", null,
                new JsonObject { ["kind"] = "statement", ["id"] = $"n{i}", ["expression"] = $"{named.Name} = {named.Name}" }),
            8 => new MoveRow(row.Id, topic.Id, "rows", null),
            9 => new SetField(document.Id, "label/en", $"Product {i}", document.Label.Or("") is { Length: > 0 } label ? label : null),
            10 => new SetField(topic.Id, "rows/0/note", $"deep {i}", topic.Rows.FirstOrDefault()?.Note),
            _ => new RemoveRow(row.Id),
        };
    }

    private static JsonNode Json(object part) =>
        System.Text.Json.JsonSerializer.SerializeToNode(part, part is Row ? typeof(Row) : part.GetType(), DocumentJson.Options)!;

    /// <summary>What a page does with a document of which it knows an earlier state.</summary>
    private static JsonNode Restored(JsonNode since, Dictionary<string, object> known) => since switch
    {
        JsonObject { Count: 1 } part when part["same"] is { } id => Json(known[id.GetValue<string>()]),
        JsonObject part => new JsonObject(part.Select(m => KeyValuePair.Create(m.Key, m.Value is null ? null : Restored(m.Value, known)))),
        JsonArray parts => new JsonArray([.. parts.Select(p => p is null ? null : Restored(p, known))]),
        _ => since.DeepClone(),
    };

    [Fact]
    public void What_an_edit_leaves_alone_is_taken_over_and_shown_as_it_was()
    {
        var random = new Random(5);
        var (document, shown) = (Bound, new ShownDocument(new(Bound)));
        var (done, smallest) = (0, int.MaxValue);
        for (var i = 0; i < 250; i++)
        {
            var step = RandomStep(random, document, i);
            var result = Apply(document, step);
            if (result.Refusal is not null)
                continue;
            // The same as reading and showing all of it again.
            var whole = System.Text.Json.JsonSerializer.Deserialize<ModelDocument>(Json(result.Document), DocumentJson.Options)!;
            var now = new ShownDocument(new(result.Document), shown);
            Assert.True(JsonNode.DeepEquals(Json(new ShownDocument(new(whole)).Document), Json(now.Document)), $"{i}: {step}");
            // Whoever has the state before gets only what has changed, and can put the rest together.
            var since = DocumentTree.Since(shown.Document, now.Document);
            var known = DocumentTree.All(shown.Document).ToDictionary(DocumentTree.IdOf);
            Assert.True(JsonNode.DeepEquals(Json(now.Document), Restored(since, known)), $"{i}: {step}");
            if (step is SetField { Field: "note" })
                smallest = Math.Min(smallest, since.ToJsonString().Length);
            if (result.Model is { } model)
                Assert.Equal(new BoundModel(whole, Facts).Findings.Select(f => $"{f.RowId} {f.Field} {f.Diagnostic.Message}"),
                    model.Findings.Select(f => $"{f.RowId} {f.Field} {f.Diagnostic.Message}"));
            (document, shown, done) = (result.Document, now, done + 1);
        }
        Assert.True(done > 120, $"{done} edits were done");
        Assert.InRange(smallest, 1, Text(document).Length / 20);
    }

    [Fact]
    public void A_field_that_has_changed_since_is_not_overwritten_and_nothing_of_the_edit_is_done()
    {
        var other = Apply(Bound, new SetField("r.length", "max", "9000", "12000")).Document;
        var result = Apply(other, new SetField("r.length", "min", "1500", "1200"), new SetField("r.length", "max", "10000", "12000"));
        Assert.Equal((EditFault.Changed, "r.length", "max", "9000"),
            (result.Refusal!.Fault, result.Refusal.RowId, result.Refusal.Field, result.Refusal.Current!.GetValue<string>()));
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

    [Fact]
    public void What_stands_there_now_is_told_in_names_and_those_may_be_typed_in_any_case()
    {
        var (row, field, value) = Bound.Assemblies.SelectMany(a => a.Rows).OfType<ComputedAttribute>().Where(s => StoredText.References(s.Expression).Any())
            .Select(s => (s.Id, "expression", s.Expression)).First();
        var refusal = Apply(Bound, new SetField(row, field, "1 = 1", "2 = 2")).Refusal!;
        Assert.Equal(EditFault.Changed, refusal.Fault);
        var shown = refusal.Current!.GetValue<string>();
        Assert.DoesNotContain("⟦", shown);
        Assert.NotEqual(value, shown);
        Assert.Null(Apply(Bound, new SetField(row, field, "1 = 1", shown.ToUpperInvariant())).Refusal);
        Assert.NotNull(Apply(Bound, new SetField(row, field, "1 = 1", shown + " ")).Refusal);
    }
}
