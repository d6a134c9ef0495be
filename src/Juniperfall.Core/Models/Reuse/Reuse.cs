using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;

namespace Juniperfall.Core.Models.Reuse;

/// <summary>Takes a released revision out of its own document, so that it can stand inside another one.</summary>
public static class Reuse
{
    /// <summary>Between the id of an entry and the ids of what is in it.</summary>
    public const char Separator = '.';

    /// <summary>
    /// The content of a revision as an entry of another document: rows drawn from the register are written out as they were at
    /// its release, the items that its expressions read are kept, and what it reuses in turn becomes part of it.
    /// </summary>
    /// <param name="released">The revision with the facts of its release.</param>
    /// <param name="revision">Its number.</param>
    /// <param name="entryId">The id of the entry.</param>
    public static ReusedModel Of(BoundModel released, int revision, string entryId)
    {
        var document = released.Document;
        var written = (document with
        {
            Assemblies = [.. document.AllAssemblies
                .Select(a => a.WithRows(r => r is CombinationGrid { DrawnFrom.Length: > 0 } grid ? WrittenOut(grid, released) : r))],
            Lists = [.. document.AllLists],
            Reused = [],
        }).ToJson();
        var ids = new HashSet<string>();
        CollectIds(written, ids);
        // What it reuses is named by the entry; inside another one, by the assembly that stands at its head.
        var heads = document.Reused.ToDictionary(r => r.Id, r => r.Root);
        Rename(written, id => ids.Contains(id) ? $"{entryId}{Separator}{id}" : heads.TryGetValue(id, out var head) ? $"{entryId}{Separator}{head}" : id);
        var renamed = written.Deserialize<ModelDocument>(DocumentJson.Options)!;
        return new()
        {
            Id = entryId,
            ProductId = document.Id,
            Code = document.Code,
            Label = document.Label,
            Revision = revision,
            Root = renamed.Root,
            Assemblies = renamed.Assemblies,
            Lists = renamed.Lists,
            Items = ItemsRead(released),
            Contains = [.. document.Reused.SelectMany(r => r.Contains.Append(r.ProductId)).Distinct().Order()],
        };
    }

    private static CombinationGrid WrittenOut(CombinationGrid grid, BoundModel model)
    {
        // What an item says in the column of a choice is a code, also where it reads like a number or an expression.
        var keys = model.Grid(grid.Id)!.Keys;
        bool[] ofChoice = [.. grid.Columns
            .Select((c, i) => c.Reference.Length > 0 && keys[grid.Columns.Take(i).Count(before => before.Reference.Length > 0)].Type.Kind == TypeKind.Choice)];
        string Written(string cell, int column) => ofChoice[column]
            && cell.Trim() is not ("" or "*") ? string.Join(" | ", cell.Split('|').Select(code => Printer.Name(DrawnRows.Unquoted(code)))) : cell;
        return grid with
        {
            DrawnFrom = "",
            Columns = [.. grid.Columns.Select(c => c with { ItemProperty = "" })],
            Rows = [.. DrawnRows.Of(grid, model.Facts)
                .Select((r, i) => i < grid.Rows.Length ? r : r with { Id = $"{grid.Id}{Separator}{r.Id}", Cells = [.. r.Cells.Select(Written)] })],
        };
    }

    private static ImmutableSortedDictionary<string, ItemFact> ItemsRead(BoundModel model)
    {
        var read = model.Document.Reused.SelectMany(r => r.Items).ToDictionary();
        foreach (var (rowId, expression) in model.ExpressionsOfRows)
            foreach (var of in expression.All().OfType<BoundItemProperty>())
                foreach (var number in ItemTexts.Of(model.Index, of.Item))
                    if (model.Index.FactsOf(model.Index.AssemblyOfRow[rowId]).Items.TryGetValue(number, out var item))
                        read[number] = item;
        return read.ToImmutableSortedDictionary();
    }

    private static void CollectIds(JsonNode? node, HashSet<string> ids)
    {
        foreach (var (thing, name, _) in Members(node))
            if (name == "id" && thing[name]!.GetValue<string>() is { } id)
                ids.Add(id);
    }

    /// <summary>Gives everything with an id another one, and whatever names it with it.</summary>
    private static void Rename(JsonNode? node, Func<string, string> renamed)
    {
        foreach (var (thing, name, member) in Members(node).ToList())
            if (name == "properties" && member is JsonObject properties)
                // The properties of a value are keyed by the ids of their columns.
                thing[name] = new JsonObject(properties.ToList().Select(p => KeyValuePair.Create(renamed(p.Key), p.Value?.DeepClone())));
            else if (member is JsonValue value && value.TryGetValue<string>(out var text) && Named(thing, name, text, renamed) is var now && now != text)
                thing[name] = now;
            else if (member is JsonArray array)
                for (var i = 0; i < array.Count; i++)
                    if (array[i] is JsonValue element && element.TryGetValue<string>(out var cell))
                        array[i] = StoredText.Renamed(cell, renamed);
    }

    private static string Named(JsonObject thing, string field, string text, Func<string, string> renamed) => field switch
    {
        "id" => renamed(text),
        // A number, yes or no, or a text stays what it is.
        "suggestion" => (string?)thing["attributeKind"] is "choice" or "several" ? string.Join(' ', text.Split(' ').Select(renamed)) : text,
        _ when Uses.ReferringFields.Contains(field) => renamed(text),
        _ => StoredText.Renamed(text, renamed),
    };

    /// <summary>Every member of every object below a node, but for instances, whose ids hold within their subassembly only.</summary>
    private static IEnumerable<(JsonObject Thing, string Name, JsonNode? Member)> Members(JsonNode? node)
    {
        switch (node)
        {
            case JsonObject thing:
                foreach (var (name, member) in thing.ToList())
                {
                    yield return (thing, name, member);
                    if (name != ModelEditor.Instances)
                        foreach (var inner in Members(member))
                            yield return inner;
                }
                break;
            case JsonArray array:
                foreach (var inner in array.SelectMany(Members))
                    yield return inner;
                break;
        }
    }
}
