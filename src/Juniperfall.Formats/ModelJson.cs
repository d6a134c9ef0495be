using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Formats.Library;

namespace Juniperfall.Formats;

/// <summary>A model with all it needs: what an exported file holds.</summary>
public sealed record ModelPackage
{
    /// <summary>Where its schema is, for editors; nothing depends on it.</summary>
    [JsonPropertyName("$schema"), JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Schema { get; init; }
    public required ModelDocument Model { get; init; }
    public LibraryFacts Library { get; init; } = LibraryFacts.Empty;

    /// <summary>A model with what it can read of the library around it: items that are named or that a text can name, work centres, sites.</summary>
    public static ModelPackage Of(BoundModel model)
    {
        var named = new HashSet<string>();
        Collect(JsonSerializer.SerializeToNode(model.Document, DocumentJson.Options));
        foreach (var (rowId, expression) in model.ExpressionsOfRows)
            foreach (var text in expression.All().Where(e => e.Type.Kind == TypeKind.Text && e is BoundLiteral or BoundItemProperty))
                named.UnionWith(ItemReading.TextsOf(model.Index, text, null, model.Index.FactsOf(model.Index.AssemblyOfRow[rowId])));
        // What a grid draws of the register, and what these rows name in turn.
        foreach (var grid in model.Document.AllAssemblies.SelectMany(a => a.Rows).OfType<CombinationGrid>().Where(g => g.DrawnFrom.Length > 0))
            named.UnionWith(DrawnRows.Of(grid, model.Facts).SelectMany(r => r.Cells.Append(r.Id)));
        return new()
        {
            Model = model.Document,
            Library = model.Facts with { Items = model.Facts.Items.RemoveRange(model.Facts.Items.Keys.Where(k => !named.Contains(k))) },
        };

        void Collect(JsonNode? node)
        {
            switch (node)
            {
                case JsonObject thing:
                    foreach (var (_, member) in thing)
                        Collect(member);
                    break;
                case JsonArray array:
                    foreach (var member in array)
                        Collect(member);
                    break;
                case JsonValue value when value.TryGetValue<string>(out var text):
                    named.Add(text);
                    break;
            }
        }
    }
}

/// <summary>A package, or where and why the text is not one.</summary>
public sealed record ReadResult(ModelPackage? Package, string? Error)
{
    /// <summary>Where the fault stands, counted from 1; null where it is of the whole.</summary>
    public int? Line { get; init; }
    public int? Column { get; init; }
}

/// <summary>The open file format of a model revision: one self-contained JSON document.</summary>
public static class ModelJson
{
    /// <summary>The largest file that is read, in bytes.</summary>
    public const int LargestFile = 64 * 1024 * 1024;

    private static readonly JsonSerializerOptions Options = new(DocumentJson.Options) { WriteIndented = true };

    public static string Write(ModelPackage package) => JsonSerializer.Serialize(package, Options) + "\n";

    public static ReadResult Read(ReadOnlySpan<byte> json)
    {
        if (json.Length > LargestFile)
            return new(null, $"The file is larger than {LargestFile / 1024 / 1024} MB.");
        try
        {
            var package = JsonSerializer.Deserialize<ModelPackage>(json, Options);
            if (package is null)
                return new(null, "The file is empty.");
            if (package.Model.Format != ModelDocument.CurrentFormat)
                return new(null, $"The format is “{package.Model.Format}”; this version reads “{ModelDocument.CurrentFormat}”.");
            if (LibraryTables.FaultOf(package.Library) is { } fault)
                return new(null, fault);
            return RepeatedId(package.Model) is { } id ? new(null, $"The id “{id}” stands on more than one row; ids must be unique.") : new(package, null);
        }
        catch (JsonException e)
        {
            var place = e.LineNumber is { } line ? $"Line {line + 1}{(string.IsNullOrEmpty(e.Path) ? "" : $", at {e.Path}")}: " : "";
            return new(null, place + Sentence(e)) { Line = (int?)e.LineNumber + 1, Column = (int?)e.BytePositionInLine + 1 };
        }
    }

    private static string Sentence(JsonException e) =>
        e.InnerException is null && e.Message.Contains("could not be mapped", StringComparison.Ordinal) ? "this member does not belong here."
        : e.Message.Contains("missing required", StringComparison.Ordinal) ? "a member that is needed is missing."
        : e.Message.Contains("maximum configured depth", StringComparison.Ordinal) ? "this nests too deeply."
        : "this is not what a model file has here.";

    private static string? RepeatedId(ModelDocument model)
    {
        var seen = new HashSet<string>();
        var ids = model.AllAssemblies.SelectMany(a => a.Topics.SelectMany(t => t.Rows.SelectMany(IdsOf).Prepend(t.Id)).Prepend(a.Id)).Concat(model.Reused.Select(r => r.Id))
            .Concat(model.AllLists.SelectMany(l => l.Values.Select(v => v.Id).Concat(l.Properties.Select(p => p.Id)).Prepend(l.Id)));
        return ids.FirstOrDefault(id => !seen.Add(id));
    }

    private static IEnumerable<string> IdsOf(Row row) => (row switch
    {
        CombinationGrid grid => grid.Columns.Select(c => c.Id).Concat(grid.Rows.Select(r => r.Id)),
        Subassembly place => place.Inputs.Select(i => i.Id),
        _ => [],
    }).Prepend(row.Id);
}
