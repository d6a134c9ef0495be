using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;

namespace Juniperfall.Core.Models.Differences;

/// <summary>One field of an item that is not as it was.</summary>
/// <param name="Field">As in files; of what is told by site, unit or language with a slash, such as <c>costs/HAL</c>.</param>
public sealed record ItemFieldChange(string Field, string Before, string After);

/// <summary>An item that is there in one of two states of the library alone, or is not as it was.</summary>
public sealed record ItemDifference(DifferenceKind Kind, string Number, ImmutableArray<ItemFieldChange> Fields);

/// <summary>Two states of the item register.</summary>
public static class LibraryDifference
{
    /// <summary>Every item that is different, by number.</summary>
    public static IEnumerable<ItemDifference> Of(LibraryFacts before, LibraryFacts after)
    {
        foreach (var number in before.Items.Keys.Union(after.Items.Keys).Order(StringComparer.Ordinal))
        {
            var (then, now) = (before.Items.GetValueOrDefault(number), after.Items.GetValueOrDefault(number));
            if (then is null || now is null)
                yield return new(then is null ? DifferenceKind.Added : DifferenceKind.Removed, number, []);
            else if (Of(then, now) is { IsEmpty: false } fields)
                yield return new(DifferenceKind.Changed, number, fields);
        }
    }

    /// <summary>What of one item is different.</summary>
    public static ImmutableArray<ItemFieldChange> Of(ItemFact before, ItemFact after)
    {
        var (then, now) = (Fields(before), Fields(after));
        return [.. then.Keys.Union(now.Keys).Where(k => then.GetValueOrDefault(k, "") != now.GetValueOrDefault(k, "")).Order(StringComparer.Ordinal)
            .Select(k => new ItemFieldChange(k, then.GetValueOrDefault(k, ""), now.GetValueOrDefault(k, "")))];
    }

    private static Dictionary<string, string> Fields(ItemFact item)
    {
        var fields = new Dictionary<string, string>();
        void Add(string name, JsonNode? node)
        {
            switch (node)
            {
                case JsonObject members:
                    foreach (var (key, value) in members)
                        Add(name.Length == 0 ? key : $"{name}/{key}", value);
                    break;
                case JsonArray several:
                    fields[name] = string.Join(", ", several.Select(s => s?.ToJsonString() ?? ""));
                    break;
                case not null:
                    fields[name] = node.ToString();
                    break;
            }
        }
        Add("", JsonSerializer.SerializeToNode(item, DocumentJson.Options));
        return fields;
    }
}
