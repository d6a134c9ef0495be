using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Editing;

/// <summary>What of the library a model names, told from texts and numbers that only look alike.</summary>
public static class LibraryUses
{
    /// <summary>Whether a model names an item: on a line, as a substitute, as what a place makes, in a list, in a grid, or in an expression.</summary>
    public static bool OfItem(ModelDocument document, string number) =>
        Holds(document, f => f.Form is FieldForm.Item or FieldForm.Items, number) || IsNamed(document, number);

    public static bool OfWorkCentre(ModelDocument document, string code) =>
        Holds(document, f => f.From == ChoiceSource.WorkCentres, code) || IsNamed(document, code);

    /// <summary>Whether a field of some sort holds a number or code, alone or among others.</summary>
    private static bool Holds(ModelDocument document, Func<RowField, bool> sort, string code) => document.AllAssemblies.SelectMany(a => a.Rows)
        .Any(r => RowKinds.Of(r).Fields.Where(sort)
            .Any(f => f.Texts(r).Any(t => t.Text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Contains(code))));

    /// <summary>Whether something holds only at a site, or is made there.</summary>
    public static bool OfSite(ModelDocument document, string code)
    {
        bool Is(string site) => site.Equals(code, StringComparison.OrdinalIgnoreCase);
        return document.AllAssemblies.SelectMany(a => a.Rows).Any(r => r.Sites.Any(Is) || (r is Subassembly place && Is(place.MadeAt)))
            || document.AllLists.SelectMany(l => l.Values).Any(v => v.Sites.Any(Is));
    }

    /// <summary>Whether a part line that holds at a site says that its item is kept in a store there.</summary>
    public static bool OfStore(ModelDocument document, string site, string store) => document.AllAssemblies.SelectMany(a => a.Rows).OfType<PartLine>()
        .Any(p => p.Store.Equals(store, StringComparison.OrdinalIgnoreCase)
            && (p.Sites.IsDefaultOrEmpty || p.Sites.Contains(site, StringComparer.OrdinalIgnoreCase)));

    /// <summary>Whether a code is named by a text: a column of texts of a list, a column of texts of a grid, or a literal in an expression.</summary>
    private static bool IsNamed(ModelDocument document, string code) =>
        document.AllLists.Any(l => l.Properties.Where(p => p.Type == PropertyType.Text)
            .Any(p => l.Values.Any(v => v.Properties.GetValueOrDefault(p.Id) == code)))
        || document.AllAssemblies.SelectMany(a => a.Rows).OfType<CombinationGrid>()
            .Any(g => g.Columns.Select((c, i) => (c, i)).Where(x => x.c is { Reference.Length: 0, Type: PropertyType.Text })
            .Any(x => g.Rows.Any(r => x.i < r.Cells.Length && DrawnRows.Unquoted(r.Cells[x.i]) == code)))
        || document.AllAssemblies.SelectMany(a => a.Rows)
            .Any(r => Texts(JsonSerializer.SerializeToNode(r, DocumentJson.Options)).Any(t => t.Contains($"\"{code}\"", StringComparison.Ordinal)
            && Lexer.Read(t, []).Any(token => token.Kind == TokenKind.Text && token.Text == code)));

    private static IEnumerable<string> Texts(JsonNode? node) => node switch
    {
        JsonObject thing => thing.SelectMany(m => Texts(m.Value)),
        JsonArray array => array.SelectMany(Texts),
        JsonValue value when value.TryGetValue<string>(out var text) => [text],
        _ => [],
    };
}
