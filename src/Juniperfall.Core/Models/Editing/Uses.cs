using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Editing;

/// <summary>Where a model names things of its own: in stored expressions, where ids stand in brackets, and in fields that hold an id.</summary>
public static class Uses
{
    /// <summary>The fields that hold the id of something else.</summary>
    internal static readonly ImmutableHashSet<string> ReferringFields = RowKinds.ReferringFields.Union(["attributeId", "root"]);

    /// <summary>Every place outside of a thing that names it, or something within it: the row and its field; each once, in the order of the document.</summary>
    /// <param name="id">Of a row, a topic, an assembly, a list, or a part of one.</param>
    public static ImmutableArray<(string RowId, string Field)> Of(ModelDocument document, string id)
    {
        var root = document.ToJson();
        return Find(root) is { } thing ? Of(root, thing) : [];

        JsonObject? Find(JsonNode? node) => node switch
        {
            JsonObject o when IdOf(o) == id && !ReferenceEquals(o, root) => o,
            JsonObject o => o.Where(m => m.Key != "instances").Select(m => Find(m.Value)).FirstOrDefault(f => f is not null),
            JsonArray a => a.Select(Find).FirstOrDefault(f => f is not null),
            _ => null,
        };
    }

    /// <param name="root">The whole document.</param>
    internal static ImmutableArray<(string RowId, string Field)> Of(JsonObject root, JsonObject thing)
    {
        var ids = new HashSet<string>();
        Collect(thing);
        var places = new List<(string, string)>();
        Search(root, "", "");
        return [.. places.Distinct()];

        void Collect(JsonNode? node)
        {
            if (IdOf(node) is { } id)
                ids.Add(id);
            foreach (var member in node switch
            {
                JsonObject o => o.Where(m => m.Key != "instances").Select(m => m.Value),
                JsonArray a => a,
                _ => (IEnumerable<JsonNode?>)[],
            })
                Collect(member);
        }

        void Search(JsonNode? node, string rowId, string field)
        {
            if (node == thing)
                return;
            switch (node)
            {
                case JsonObject part:
                    // What an input is given belongs to its subassembly; by itself it has no name.
                    var own = part.ContainsKey("attributeId") ? null : IdOf(part);
                    foreach (var (name, member) in part)
                        Search(member, own ?? rowId, own is not null || field.Length == 0 ? name : $"{field}/{name}");
                    break;
                case JsonArray array:
                    for (var i = 0; i < array.Count; i++)
                        Search(array[i], rowId, $"{field}/{i}");
                    break;
                case JsonValue value when value.TryGetValue<string>(out var text):
                    if (StoredText.References(text).Any(ids.Contains)
                        || (ReferringFields.Contains(field.Split('/')[^1]) && (ids.Contains(text) || text.Split(' ').Any(ids.Contains))))
                        places.Add((rowId, field));
                    break;
            }
        }
    }

    private static string? IdOf(JsonNode? node) =>
        node is JsonObject thing && thing["id"] is JsonValue value && value.TryGetValue<string>(out var id) ? id : null;
}
