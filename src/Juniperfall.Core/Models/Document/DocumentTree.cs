using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Juniperfall.Core.Models.Document;

/// <summary>
/// A document as a tree of parts with ids: assemblies, topics, rows, grid rows, lists, values, test cases. Two documents of which one was made from the
/// other by an edit share every part that the edit left alone, as the same object; so what has changed is found without looking into it.
/// </summary>
public static class DocumentTree
{
    /// <summary>A member of a part that holds further parts.</summary>
    /// <param name="Member">Its name as in the file.</param>
    internal sealed record Branch(string Member, Type PartType, Func<object, IReadOnlyList<object>> Parts, Func<object, IEnumerable<object>, object> With);

    private static readonly Dictionary<Type, Branch[]> Branches = new()
    {
        [typeof(ModelDocument)] =
        [
            Of<ModelDocument, AssemblyDefinition>("assemblies", d => d.Assemblies, (d, parts) => d with { Assemblies = parts }),
            Of<ModelDocument, ValueList>("lists", d => d.Lists, (d, parts) => d with { Lists = parts }),
            Of<ModelDocument, ReusedModel>("reused", d => d.Reused, (d, parts) => d with { Reused = parts }),
            Of<ModelDocument, TestCase>("cases", d => d.Cases, (d, parts) => d with { Cases = parts }),
        ],
        [typeof(ReusedModel)] =
        [
            Of<ReusedModel, AssemblyDefinition>("assemblies", d => d.Assemblies, (d, parts) => d with { Assemblies = parts }),
            Of<ReusedModel, ValueList>("lists", d => d.Lists, (d, parts) => d with { Lists = parts }),
        ],
        [typeof(AssemblyDefinition)] = [Of<AssemblyDefinition, Topic>("topics", a => a.Topics, (a, parts) => a with { Topics = parts })],
        [typeof(Topic)] = [Of<Topic, Row>("rows", t => t.Rows, (t, parts) => t with { Rows = parts })],
        [typeof(CombinationGrid)] = [Of<CombinationGrid, GridRow>("rows", g => g.Rows, (g, parts) => g with { Rows = parts })],
        [typeof(ValueList)] = [Of<ValueList, ListValue>("values", l => l.Values, (l, parts) => l with { Values = parts })],
    };

    private static Branch Of<T, TPart>(string member, Func<T, ImmutableArray<TPart>> parts,
        Func<T, ImmutableArray<TPart>, T> with) where T : class where TPart : class =>
        new(member, typeof(TPart), of => parts((T)of), (of, given) => with((T)of, [.. given.Cast<TPart>()]));

    internal static IReadOnlyList<Branch> BranchesOf(Type part) => Branches.TryGetValue(part, out var found) ? found : [];

    internal static IReadOnlyList<Branch> BranchesOf(object part) => BranchesOf(part.GetType());

    private static object WithoutParts(object part) => BranchesOf(part).Aggregate(part, (at, branch) => branch.With(at, []));

    /// <summary>The type that a part is written as: a row says its kind where it is written as a row.</summary>
    private static Type WrittenAs(object part) => part is Row ? typeof(Row) : part.GetType();

    /// <summary>A part without those below it, as JSON.</summary>
    internal static JsonObject Alone(object part, JsonSerializerOptions? options = null) =>
        JsonSerializer.SerializeToNode(WithoutParts(part), WrittenAs(part), options ?? DocumentJson.Options)!.AsObject();

    /// <summary>A part made again from what it is <see cref="Alone"/>, with these parts below it; null leaves what stands there already.</summary>
    /// <exception cref="JsonException">It is none.</exception>
    internal static object Again(JsonObject alone, Type type, Func<Branch, IEnumerable<object>?> partsOf)
    {
        var part = alone.Deserialize(typeof(Row).IsAssignableFrom(type) ? typeof(Row) : type, DocumentJson.Options)!;
        return BranchesOf(part).Aggregate(part, (at, branch) => partsOf(branch) is { } parts ? branch.With(at, parts) : at);
    }

    /// <summary>Every part of a document, the document first.</summary>
    internal static IEnumerable<object> All(object part) => BranchesOf(part).SelectMany(b => b.Parts(part)).SelectMany(All).Prepend(part);

    internal static string IdOf(object part) => part switch
    {
        ModelDocument d => d.Id,
        AssemblyDefinition a => a.Id,
        Topic t => t.Id,
        Row r => r.Id,
        GridRow g => g.Id,
        ValueList l => l.Id,
        ListValue v => v.Id,
        ReusedModel m => m.Id,
        TestCase c => c.Id,
        _ => throw new InvalidOperationException(part.GetType().Name),
    };

    /// <summary>
    /// A document for someone who has an earlier one: in place of each part that they have already stands an object with nothing but
    /// its id as <c>same</c>.
    /// </summary>
    /// <param name="options">How parts are written; as in files where nothing is given.</param>
    public static JsonObject Since(ModelDocument earlier, ModelDocument now, JsonSerializerOptions? options = null)
    {
        var known = new HashSet<object>(All(earlier), ReferenceEqualityComparer.Instance);
        return Write(now);

        JsonObject Write(object part)
        {
            if (known.Contains(part))
                return new() { ["same"] = IdOf(part) };
            var written = Alone(part, options);
            foreach (var branch in BranchesOf(part))
                written[branch.Member] = new JsonArray([.. branch.Parts(part).Select(Write)]);
            return written;
        }
    }
}
