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
    public static IEnumerable<ItemDifference> Of(LibraryFacts before, LibraryFacts after) =>
        before.Items.Keys.Union(after.Items.Keys).Order(StringComparer.Ordinal)
            .Select(number => Of(before.Items.GetValueOrDefault(number), after.Items.GetValueOrDefault(number))).OfType<ItemDifference>();

    /// <summary>What of one item is different; null where nothing is.</summary>
    public static ItemDifference? Of(ItemFact? before, ItemFact? after)
    {
        if (before is null || after is null)
            return (after ?? before) is { } one ? new(before is null ? DifferenceKind.Added : DifferenceKind.Removed, one.Number, []) : null;
        var (then, now) = (Fields(before), Fields(after));
        ImmutableArray<ItemFieldChange> fields = [.. then.Keys.Union(now.Keys).Where(k => then.GetValueOrDefault(k, "") != now.GetValueOrDefault(k, ""))
            .Order(StringComparer.Ordinal).Select(k => new ItemFieldChange(k, then.GetValueOrDefault(k, ""), now.GetValueOrDefault(k, "")))];
        return fields.IsEmpty ? null : new(DifferenceKind.Changed, after.Number, fields);
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
