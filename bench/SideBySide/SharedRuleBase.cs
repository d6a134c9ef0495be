using System.Globalization;
using System.IO.Compression;
using System.Text.Json;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;

namespace SideBySide;

/// <summary>A rule base that our own generator did not make, with sessions of picks, and with clasp's input where that is there.</summary>
internal sealed class SharedRuleBase
{
    private readonly string? _program;

    /// <param name="folder">Where the files are; each may be packed (<c>.gz</c>).</param>
    public SharedRuleBase(string folder, string name)
    {
        (Name, Package) = (name, ReadPackage(folder, name));
        Model = new(Package.Model, Package.Library);
        var text = new PickText(Model);
        Questions = [.. File.ReadLines(Path.Combine(folder, $"{name}.sessions.jsonl")).Where(l => l.Length > 0).Select(l => PicksOf(l, text))];
        Numbered = [.. Model.Document.AllAssemblies.SelectMany(a => a.Rows).OfType<AttributeRow>().SelectMany(ValuesOf)];
        _program = Bytes(folder, $"{name}.aspif") is { } program ? System.Text.Encoding.UTF8.GetString(program).TrimEnd() : null;
    }

    public string Name { get; }
    public ModelPackage Package { get; }
    public BoundModel Model { get; }
    public IReadOnlyList<IReadOnlyList<Pick>> Questions { get; }

    /// <summary>The values in document order, no before yes, as clasp's input numbers them.</summary>
    public IReadOnlyList<(string Path, Value Value)> Numbered { get; }

    /// <summary>Whether clasp can be asked.</summary>
    public bool HasProgram => _program is not null;

    private static byte[]? Bytes(string folder, string file)
    {
        var path = Path.Combine(folder, file);
        if (File.Exists(path))
            return File.ReadAllBytes(path);
        if (!File.Exists(path + ".gz"))
            return null;
        using var unpacked = new GZipStream(File.OpenRead(path + ".gz"), CompressionMode.Decompress);
        using var bytes = new MemoryStream();
        unpacked.CopyTo(bytes);
        return bytes.ToArray();
    }

    private static ModelPackage ReadPackage(string folder, string name)
    {
        if (Bytes(folder, $"{name}.uvl") is { } features)
            return UvlReader.Read(System.Text.Encoding.UTF8.GetString(features)).Package!;
        var package = ModelJson.Read(Bytes(folder, $"{name}.model.json")!).Package!;
        return package with { Model = ModelEditor.BindNames(package.Model, package.Library).Document! };
    }

    private static IReadOnlyList<Pick> PicksOf(string line, PickText text)
    {
        using var json = JsonDocument.Parse(line);
        return [.. json.RootElement.EnumerateArray().Select(p => text.Read(p.GetProperty("name").GetString()!, Written(p.GetProperty("value"))).Pick!.Value)];
    }

    private static string Written(JsonElement value) =>
        value.ValueKind switch { JsonValueKind.String => value.GetString()!, JsonValueKind.True => "yes", JsonValueKind.False => "no", _ => value.ToString() };

    private IEnumerable<(string Path, Value Value)> ValuesOf(AttributeRow row)
    {
        int Number(string? text) => int.Parse(text!, CultureInfo.InvariantCulture);
        var values = row.Kind switch
        {
            AttributeKind.YesNo => [Value.Of(false), Value.Of(true)],
            AttributeKind.Choice => Model.Index.Lists[row.ListId!].Values.Select(v => Value.Choice(v.Id)),
            _ => Enumerable.Range(Number(row.Min), Number(row.Max) - Number(row.Min) + 1).Select(n => Value.Of(n)),
        };
        return values.Select(v => (row.Id, v));
    }

    /// <summary>The values that clasp finds in some solution with the picks; null where it did not finish. In ms what it says that solving took.</summary>
    public (HashSet<(string Path, Value Value)>? Values, double Ms) AskClasp(IEnumerable<Pick> picks, TimeSpan limit)
    {
        var (atoms, ms) = Clasp.AskProgram(_program!, picks.Select(p => Place(p.Path, p.Value) + 1), limit);
        return (atoms?.Where(a => a <= Numbered.Count).Select(a => Numbered[a - 1]).ToHashSet(), ms);
    }

    private int Place(string path, Value value)
    {
        for (var i = 0; i < Numbered.Count; i++)
            if (Numbered[i].Path == path && Numbered[i].Value == value)
                return i;
        throw new ArgumentException($"“{path}” has no such value.", nameof(path));
    }

    /// <summary>The values of an answer as clasp tells them: of a picked attribute the one it has, not what it could change to.</summary>
    public static HashSet<(string Path, Value Value)> ValuesOf(Answer answer, IReadOnlyList<Pick> picks)
    {
        var picked = picks.ToDictionary(p => p.Path, p => p.Value);
        return [.. answer.Attributes.SelectMany(a => a.Available.Values.Select(v => (a.Path, v)))
            .Where(x => !picked.TryGetValue(x.Path, out var value) || value == x.v)];
    }
}
