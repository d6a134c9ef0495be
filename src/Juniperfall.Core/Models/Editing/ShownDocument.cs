using System.Text.Json.Nodes;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Editing;

/// <summary>
/// A document with every expression written in the present names, as editors show it. What an edit left alone, and whose names it left
/// alone, is shown as the same objects.
/// </summary>
public sealed class ShownDocument
{
    /// <summary>How a part was shown, and the names that stood in it.</summary>
    private sealed record Part(object Shown, List<(string Id, string? Name)> Names);

    private readonly Dictionary<object, Part> _shown = new(ReferenceEqualityComparer.Instance);
    private readonly ModelIndex _index;

    /// <param name="earlier">An earlier state of the same, where there is one.</param>
    public ShownDocument(ModelIndex index, ShownDocument? earlier = null)
    {
        _index = index;
        // Test cases are asked for by themselves: not everyone may read all that they expect.
        Document = (ModelDocument)Show(index.Document with { Cases = [] }, earlier);
    }

    public ModelDocument Document { get; }

    private object Show(object part, ShownDocument? earlier)
    {
        var known = earlier?._shown.GetValueOrDefault(part);
        var own = known is not null && known.Names.TrueForAll(n => _index.NameOf(n.Id) == n.Name) ? known : ShowAlone(part);
        var shown = own.Shown;
        foreach (var branch in DocumentTree.BranchesOf(part))
        {
            var below = branch.Parts(part).Select(p => Show(p, earlier)).ToList();
            if (!below.SequenceEqual(branch.Parts(shown), ReferenceEqualityComparer.Instance))
                shown = branch.With(shown, below);
        }
        _shown[part] = own with { Shown = shown };
        return shown;
    }

    /// <summary>A part of which those below are not shown yet; what holds no expression is shown as it is.</summary>
    private Part ShowAlone(object part)
    {
        var (alone, names) = (DocumentTree.Alone(part), new List<(string, string?)>());
        Show(alone, names);
        return new(names.Count == 0 ? part : DocumentTree.Again(alone, part.GetType(), branch => branch.Parts(part)), names);
    }

    private void Show(JsonNode node, List<(string Id, string? Name)> names)
    {
        switch (node)
        {
            case JsonObject thing:
                foreach (var (name, member) in thing.ToList())
                    if (member is JsonValue value)
                    {
                        if (Shown(value, names) is { } text)
                            thing[name] = text;
                    }
                    else if (member is not null)
                        Show(member, names);
                break;
            case JsonArray array:
                for (var i = 0; i < array.Count; i++)
                    if (array[i] is JsonValue value)
                    {
                        if (Shown(value, names) is { } text)
                            array[i] = text;
                    }
                    else if (array[i] is { } member)
                        Show(member, names);
                break;
        }
    }

    private string? Shown(JsonValue value, List<(string Id, string? Name)> names)
    {
        if (!value.TryGetValue<string>(out var text) || !text.Contains(Lexer.ReferenceOpen))
            return null;
        names.AddRange(StoredText.References(text).Select(id => (id, _index.NameOf(id))));
        return StoredText.Show(text, _index);
    }
}
