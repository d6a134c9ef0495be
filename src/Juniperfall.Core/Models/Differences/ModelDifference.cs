using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Differences;

/// <summary>What happened to a part of a model between two states of it.</summary>
public enum DifferenceKind { Added, Removed, Changed, Moved }

/// <summary>A field that holds something else.</summary>
/// <param name="Field">Its member, as in the file; deeper ones with slashes (<c>properties/p1</c>, <c>cells/0</c>).</param>
/// <param name="Before">What it held, expressions in stored form; null where it was not there.</param>
/// <param name="After">What it holds; null where it is not there any more.</param>
public sealed record FieldDifference(string Field, string? Before, string? After);

/// <summary>One part that is not as it was: an assembly, a topic, a row, a row of a grid, a list, a value, a reused model, a test case.</summary>
/// <param name="Id">The part.</param>
/// <param name="Worksheet">The assembly or value list that it stands in, or is; empty for the model itself and its test cases.</param>
/// <param name="Row">The row that a row of a grid belongs to; otherwise the part itself.</param>
/// <param name="Fields">What of it is different; empty where it was added, removed, or only moved.</param>
public sealed record PartDifference(DifferenceKind Kind, string Id, string Worksheet, string Row, ImmutableArray<FieldDifference> Fields);

/// <summary>
/// The net difference of two states of one model, part by part: what was changed and changed back is not in it. Parts are told apart by their lasting ids.
/// What was moved is as little as can be: parts in a longest run that kept its order stay where they are (Hunt and Szymanski, 1977).
/// </summary>
public static class ModelDifference
{
    private sealed record Place(object Part, Key? Parent, string Member, int Position, string Worksheet, string Row);

    public static ImmutableArray<PartDifference> Of(ModelDocument before, ModelDocument after)
    {
        var (then, now) = (PlacesOf(before), PlacesOf(after));
        var found = ImmutableArray.CreateBuilder<PartDifference>();
        var moved = Moved(then, now);
        foreach (var (id, place) in now)
        {
            if (!then.TryGetValue(id, out var earlier))
            {
                // What was added with the part that it stands in is told with it.
                if (place.Parent is not { } parent || then.ContainsKey(parent))
                    found.Add(new(DifferenceKind.Added, id.Id, place.Worksheet, place.Row, []));
                continue;
            }
            if (!ReferenceEquals(earlier.Part, place.Part) && Fields(earlier.Part, place.Part) is { IsEmpty: false } fields)
                found.Add(new(DifferenceKind.Changed, id.Id, place.Worksheet, place.Row, fields));
            if (moved.Contains(id))
                found.Add(new(DifferenceKind.Moved, id.Id, place.Worksheet, place.Row, []));
        }
        foreach (var (id, place) in then)
            if (!now.ContainsKey(id) && (place.Parent is not { } parent || now.ContainsKey(parent)))
                found.Add(new(DifferenceKind.Removed, id.Id, place.Worksheet, place.Row, []));
        return found.ToImmutable();
    }

    /// <summary>An id holds among parts of its kind: a topic may be called as a row is.</summary>
    private readonly record struct Key(string Kind, string Id);

    private static Dictionary<Key, Place> PlacesOf(ModelDocument document)
    {
        var places = new Dictionary<Key, Place>();
        Add(document, null, "", 0, "", "");
        return places;

        void Add(object part, Key? parent, string member, int position, string worksheet, string row)
        {
            var id = DocumentTree.IdOf(part);
            if (part is AssemblyDefinition or ValueList)
                worksheet = id;
            if (part is not GridRow)
                row = id;
            var kind = part is Row ? "row" : part.GetType().Name;
            var key = new Key(kind, id);
            if (!places.TryAdd(key, new(part, parent, member, position, worksheet, row)))
                return;
            foreach (var branch in DocumentTree.BranchesOf(part))
                // What is reused is told by its revision; its parts are its own product's.
                if (part is not ReusedModel)
                    foreach (var (below, at) in branch.Parts(part).Select((p, i) => (p, i)))
                        Add(below, key, branch.Member, at, worksheet, row);
        }
    }

    /// <summary>Parts that stand in another part than before, or in another order among those that stayed.</summary>
    private static HashSet<Key> Moved(Dictionary<Key, Place> then, Dictionary<Key, Place> now)
    {
        var moved = new HashSet<Key>();
        foreach (var siblings in now.Where(n => then.ContainsKey(n.Key)).GroupBy(n => (n.Value.Parent, n.Value.Member)))
        {
            var stayed = new List<(Key Id, int Then)>();
            foreach (var (id, place) in siblings.OrderBy(s => s.Value.Position))
                if (then[id] is var earlier && earlier.Parent == place.Parent && earlier.Member == place.Member)
                    stayed.Add((id, earlier.Position));
                else
                    moved.Add(id);
            moved.UnionWith(OutOfOrder(stayed));
        }
        return moved;
    }

    /// <summary>Those that are not in a longest run of increasing positions (patience sorting, Schensted 1961).</summary>
    private static IEnumerable<Key> OutOfOrder(List<(Key Id, int Then)> stayed)
    {
        var (tails, before) = (new List<int>(), new int[stayed.Count]);
        for (var i = 0; i < stayed.Count; i++)
        {
            var (low, high) = (0, tails.Count);
            while (low < high)
                if ((low + high) / 2 is var middle && stayed[tails[middle]].Then < stayed[i].Then)
                    low = middle + 1;
                else
                    high = middle;
            before[i] = low == 0 ? -1 : tails[low - 1];
            if (low == tails.Count)
                tails.Add(i);
            else
                tails[low] = i;
        }
        var inOrder = new HashSet<int>();
        for (var i = tails.Count == 0 ? -1 : tails[^1]; i >= 0; i = before[i])
            inOrder.Add(i);
        return stayed.Where((_, i) => !inOrder.Contains(i)).Select(s => s.Id);
    }

    private static ImmutableArray<FieldDifference> Fields(object before, object after)
    {
        var (then, now) = (new SortedDictionary<string, string>(StringComparer.Ordinal), new SortedDictionary<string, string>(StringComparer.Ordinal));
        Collect(DocumentTree.Alone(WithoutWhatItHolds(before)), "", then);
        Collect(DocumentTree.Alone(WithoutWhatItHolds(after)), "", now);
        return [.. then.Keys.Union(now.Keys).Order(StringComparer.Ordinal)
            .Where(f => then.GetValueOrDefault(f) != now.GetValueOrDefault(f))
            .Select(f => new FieldDifference(f, then.GetValueOrDefault(f), now.GetValueOrDefault(f)))];
    }

    /// <summary>Of what is reused the revision says it all.</summary>
    private static object WithoutWhatItHolds(object part) => part is ReusedModel reused ? reused with { Assemblies = [], Lists = [] } : part;

    /// <summary>Every text, number and truth below a node, by its path; what is empty is as if it were not there.</summary>
    private static void Collect(JsonNode? node, string path, SortedDictionary<string, string> into)
    {
        switch (node)
        {
            case JsonObject thing:
                foreach (var (name, member) in thing)
                    Collect(member, path.Length == 0 ? name : $"{path}/{name}", into);
                break;
            case JsonArray array:
                for (var i = 0; i < array.Count; i++)
                    Collect(array[i], $"{path}/{i}", into);
                break;
            case JsonValue value:
                var text = value.TryGetValue<string>(out var written) ? written : value.ToJsonString();
                if (text.Length > 0)
                    into[path] = text;
                break;
        }
    }
}
