using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using Juniperfall.Core;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
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
                named.UnionWith(ItemTexts.Of(model.Index, text, null, model.Index.FactsOf(model.Index.AssemblyOfRow[rowId])));
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
    private static readonly JsonSerializerOptions Options = new(DocumentJson.Options) { WriteIndented = true };

    public static string Write(ModelPackage package) => JsonSerializer.Serialize(package, Options) + "\n";

    public static ReadResult Read(ReadOnlySpan<byte> json)
    {
        if (json.Length > Limits.LargestFile)
            return new(null, FileTooLarge);
        try
        {
            if (TextFault(json) is { } badText)
                return badText;
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
        catch (NotSupportedException e) when (KindPlace.Match(e.Message) is { Success: true } place)
        {
            var (line, column) = (int.Parse(place.Groups["line"].ValueSpan, CultureInfo.InvariantCulture) + 1,
                int.Parse(place.Groups["byte"].ValueSpan, CultureInfo.InvariantCulture) + 1);
            return new(null, $"Line {line}, at {place.Groups["path"].Value}: this does not say what kind of row it is.") { Line = line, Column = column };
        }
    }

    public static string FileTooLarge { get; } = $"The file is larger than {Limits.LargestFile / 1024 / 1024} MB.";

    // The serializer tells of a row without a kind in words only.
    private static readonly Regex KindPlace =
        new(@"Path: (?<path>\S+) \| LineNumber: (?<line>\d+) \| BytePositionInLine: (?<byte>\d+)", RegexOptions.CultureInvariant);

    /// <summary>The first text that cannot be kept, at its place.</summary>
    /// <exception cref="JsonException">This is no JSON.</exception>
    private static ReadResult? TextFault(ReadOnlySpan<byte> json)
    {
        var reader = new Utf8JsonReader(json, new JsonReaderOptions { MaxDepth = Options.MaxDepth });
        while (reader.Read())
            if (reader.TokenType is JsonTokenType.String or JsonTokenType.PropertyName && FaultOf(ref reader) is { } fault)
            {
                var before = json[..(int)reader.TokenStartIndex];
                var (line, column) = (before.Count((byte)'\n') + 1, before.Length - before.LastIndexOf((byte)'\n'));
                return new(null, $"Line {line}: {fault}") { Line = line, Column = column };
            }
        return null;
    }

    private static string? FaultOf(ref Utf8JsonReader reader)
    {
        // Short texts without escapes cannot be at fault, and most are.
        if (!reader.ValueIsEscaped && reader.ValueSpan.Length <= Limits.LongestText && !reader.ValueSpan.Contains((byte)0))
            return null;
        try
        {
            return TextChecks.FaultOf(reader.GetString()!);
        }
        catch (InvalidOperationException)
        {
            return TextChecks.FaultOf("\0");   // half a surrogate pair
        }
    }

    private static string Sentence(JsonException e) =>
        e.InnerException is null && e.Message.Contains("could not be mapped", StringComparison.Ordinal) ? "this member does not belong here."
        : e.Message.Contains("missing required", StringComparison.Ordinal) ? "a member that is needed is missing."
        : e.Message.Contains("maximum configured depth", StringComparison.Ordinal) ? "this nests too deeply."
        : e.Message.StartsWith("A null stands", StringComparison.Ordinal) ? "nothing (null) stands where something has to."
        : "this is not what a model file has here.";

    private static string? RepeatedId(ModelDocument model)
    {
        var seen = new HashSet<string>();
        var ids = model.AllAssemblies.SelectMany(a => a.Topics.SelectMany(t => t.Rows.SelectMany(IdsOf).Prepend(t.Id)).Prepend(a.Id))
            .Concat(model.Reused.Select(r => r.Id))
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
