using System.Collections.Immutable;
using System.IO.Compression;
using System.Text.Json;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Formats;

/// <summary>What was found out of a model, as packed JSON. It is written and read by the same program, and read only from the database.</summary>
public static class WarmStateFile
{
    private sealed record VariableFile(string Path, List<string> Values, List<string> Available, bool None, bool Absent, string? Lowest, string? Highest,
        bool Listed);

    private sealed record DiagramFile(int[] Variables, int[] Slots, int[] First, int[] Children, bool[] IsAll);

    private sealed record StateFile(List<VariableFile> Variables, List<int[]> Configurations, List<DiagramFile> Diagrams);

    public static byte[] Write(WarmState state)
    {
        var file = new StateFile([.. state.Variables.Select(v => new VariableFile(v.Path, [.. v.Values.Select(Text)], [.. v.Available.Values.Select(Text)],
            v.Available.None, v.Available.MayBeAbsent, v.Available.Lowest?.ToString(), v.Available.Highest?.ToString(), v.Available.Listed))],
            [.. state.Configurations.Select(c => c.ToArray())],
            [.. state.Diagrams.Select(d => new DiagramFile([.. d.Variables], [.. d.Slots], [.. d.First], [.. d.Children], [.. d.IsAll]))]);
        using var bytes = new MemoryStream();
        using (var packed = new GZipStream(bytes, CompressionLevel.Optimal))
            JsonSerializer.Serialize(packed, file);
        return bytes.ToArray();
    }

    /// <summary>Null where it is none.</summary>
    public static WarmState? Read(byte[] packed)
    {
        try
        {
            using var bytes = new GZipStream(new MemoryStream(packed), CompressionMode.Decompress);
            return JsonSerializer.Deserialize<StateFile>(bytes) is { Variables: { } variables, Configurations: { } configurations, Diagrams: { } diagrams }
                && !variables.Contains(null!) && !configurations.Contains(null!) && !diagrams.Contains(null!)
                ? new([.. variables.Select(Variable)], [.. configurations.Select(c => c.ToImmutableArray())],
                    [.. diagrams.Select(d => new WarmDiagram([.. d.Variables], [.. d.Slots], [.. d.First], [.. d.Children], [.. d.IsAll]))]) : null;
        }
        catch (Exception e) when (e is JsonException or IOException or InvalidDataException or FormatException or NotSupportedException or ArgumentException or OverflowException)
        {
            return null;
        }
    }

    private static WarmVariable Variable(VariableFile file) => new(file.Path, [.. file.Values.Select(ToValue)],
        new([.. file.Available.Select(ToValue)], file.None, Number(file.Lowest), Number(file.Highest), file.Listed) { MayBeAbsent = file.Absent });

    private static Exact? Number(string? text) => text is null ? null : Exact.Parse(text);

    // The first letter says what it is.
    private static string Text(Value value) => value.Kind switch
    {
        ValueKind.YesNo => value.IsTrue ? "yes" : "no",
        ValueKind.Number => $"#{value.Number}",
        _ => $"={value.Text}",
    };

    private static Value ToValue(string text) => text switch
    {
        "yes" => Value.Of(true),
        "no" => Value.Of(false),
        ['#', .. var number] => Value.Of(Exact.Parse(number)),
        ['=', .. var id] => Value.Choice(id),
        _ => throw new FormatException(text),
    };
}
