using System.Text.Json;
using System.Text.Json.Nodes;
using Juniperfall.Core.Language;

namespace Juniperfall.Core.Models;

/// <summary>A document with every expression written in the present names, as editors show it.</summary>
public static class ShownDocument
{
    public static ModelDocument Of(ModelIndex index)
    {
        var root = JsonSerializer.SerializeToNode(index.Document, DocumentJson.Options)!;
        Show(root, index);
        return root.Deserialize<ModelDocument>(DocumentJson.Options)!;
    }

    private static void Show(JsonNode node, ModelIndex index)
    {
        switch (node)
        {
            case JsonObject thing:
                foreach (var (name, member) in thing.ToList())
                    if (member is JsonValue value)
                    {
                        if (Shown(value, index) is { } text)
                            thing[name] = text;
                    }
                    else if (member is not null)
                        Show(member, index);
                break;
            case JsonArray array:
                for (var i = 0; i < array.Count; i++)
                    if (array[i] is JsonValue value)
                    {
                        if (Shown(value, index) is { } text)
                            array[i] = text;
                    }
                    else if (array[i] is { } member)
                        Show(member, index);
                break;
        }
    }

    private static string? Shown(JsonValue value, ModelIndex index) =>
        value.TryGetValue<string>(out var text) && text.Contains(Lexer.ReferenceOpen) ? StoredText.Show(text, index) : null;
}
