using System.Text.Json.Nodes;
using System.Text.Json;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Editing;

/// <summary>
/// The JSON form of a document while it is edited, with what stood where before. What no step has touched is taken over into the document
/// that is read back, as the same objects.
/// </summary>
internal sealed class EditedDocument
{
    private readonly Dictionary<JsonObject, object> _untouched = new(ReferenceEqualityComparer.Instance);
    private readonly Dictionary<JsonObject, Type> _types = new(ReferenceEqualityComparer.Instance);

    public EditedDocument(ModelDocument document)
    {
        Root = document.ToJson();
        Pair(Root, document);
    }

    public JsonObject Root { get; }

    private void Pair(JsonObject written, object part)
    {
        _untouched[written] = part;
        _types[written] = part.GetType();
        foreach (var branch in DocumentTree.BranchesOf(part))
        {
            var (below, parts) = ((JsonArray)written[branch.Member]!, branch.Parts(part));
            for (var i = 0; i < parts.Count; i++)
                Pair((JsonObject)below[i]!, parts[i]);
        }
    }

    /// <summary>Something at or below a node is, or is about to be, changed.</summary>
    public void Touch(JsonNode? node)
    {
        for (; node is not null; node = node.Parent)
            if (node is JsonObject thing)
                _untouched.Remove(thing);
    }

    /// <exception cref="JsonException">It is no document any more.</exception>
    public ModelDocument Read() => HasPartsInPlace(Root, typeof(ModelDocument))
        ? (ModelDocument)Read(Root, typeof(ModelDocument)) : Root.Deserialize<ModelDocument>(DocumentJson.Options)!;

    /// <summary>What is new among rows is read as a whole: only its kind says which row it is.</summary>
    private Type TypeOf(JsonObject written, Type usual) => _types.GetValueOrDefault(written, usual);

    /// <summary>Whether parts stand where parts belong; reading the whole tells of what does not.</summary>
    private bool HasPartsInPlace(JsonObject written, Type usual) => _untouched.ContainsKey(written) || DocumentTree.BranchesOf(TypeOf(written, usual))
        .All(b => !written.TryGetPropertyValue(b.Member, out var below)
            || (below is JsonArray parts && parts.All(p => p is JsonObject part && HasPartsInPlace(part, b.PartType))));

    private object Read(JsonObject written, Type usual)
    {
        if (_untouched.TryGetValue(written, out var same))
            return same;
        var type = TypeOf(written, usual);
        var branches = DocumentTree.BranchesOf(type);
        var alone = new JsonObject(written.Where(m => branches.All(b => b.Member != m.Key)).Select(m => KeyValuePair.Create(m.Key, m.Value?.DeepClone())));
        return DocumentTree.Again(alone, type, branch =>
            written[branch.Member] is JsonArray parts && branches.Count > 0 ? parts.Select(p => Read((JsonObject)p!, branch.PartType)) : null);
    }
}
