using System.IO.Compression;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Random changes to JSON texts: of what stands in them, of how they are built, and of their bytes (Miller and others, “An empirical study of
/// the reliability of UNIX utilities”, 1990). The same seed makes the same text.
/// </summary>
internal sealed class Mutations(int seed)
{
    private readonly Random _random = new(seed);

    /// <summary>Values that programs stumble over.</summary>
    private static readonly string[] Texts =
    [
        "", " ", "null", "none", "\0", "a\0b", "\u202e", "٣", "ﬁ", "𝔸", "½", "../..", "%00", "*", "|", "1|", "..", "1..", "..1", "1..0", "'", "''", "\"", "⟦",
            "⟦x⟧", "⟧",
        "0", "-1", "1e9", "1.5", "1/0", "1/3", "999999999999999999999999", "-0", "NaN", "0x10", "1,5", "99999999", "2147483648",
        "yes", "no", "mm", "kg", "EUR", "Cel", "2024-02-30", "9999-12-31", "0001-01-01",
        "(", "((((", ")", "1 +", "not", "if", "if yes then 1", "length * length", "length / 0", "sum(", "sqrt(0 - 1)", "1 mm + 1 kg", "length ^ 9",
            "exactly 1 of ()", "x.y.z", "a[1]", "core.nothing",
        "<script>", "'; drop table revision; --", "${1}", "{{", "\r\n", "\t",
    ];

    private string Text() => _random.Next(12) switch
    {
        0 => new string((char)_random.Next(1, 0xd7ff), _random.Next(1, 400)),
        1 => new string('9', _random.Next(1, 400)),
        2 => string.Concat(Enumerable.Repeat(Texts[_random.Next(Texts.Length)], _random.Next(1, 60))),
        _ => Texts[_random.Next(Texts.Length)],
    };

    private JsonNode? Value(int depth = 0) => _random.Next(depth > 3 ? 7 : 10) switch
    {
        0 => null,
        1 => JsonValue.Create(_random.Next(2) == 0),
        2 => JsonValue.Create(_random.Next(-2, 3)),
        3 => JsonValue.Create(_random.Next() * (_random.NextDouble() - 0.5) * 1e12),
        4 => JsonValue.Create(int.MaxValue),
        7 => new JsonArray(),
        8 => new JsonArray(Value(depth + 1), Value(depth + 1)),
        9 => new JsonObject { [Text()] = Value(depth + 1) },
        _ => JsonValue.Create(Text()),
    };

    /// <summary>A text with some random changes in it.</summary>
    public byte[] Of(JsonNode original)
    {
        var root = original.DeepClone();
        for (var changes = _random.Next(1, 5); changes > 0; changes--)
            Change(root);
        var bytes = Encoding.UTF8.GetBytes(root.ToJsonString());
        return _random.Next(10) == 0 ? OfBytes(bytes) : bytes;
    }

    /// <summary>Bytes changed, cut off, or said twice.</summary>
    public byte[] OfBytes(byte[] bytes)
    {
        if (bytes.Length == 0)
            return bytes;
        var changed = bytes.ToArray();
        for (var changes = _random.Next(1, 8); changes > 0; changes--)
            changed[_random.Next(changed.Length)] = (byte)_random.Next(256);
        return _random.Next(4) switch { 0 => changed[.._random.Next(changed.Length)], 1 => [.. changed, .. changed], _ => changed };
    }

    /// <summary>A text of lines with some random changes in it: of words, of signs, of how far lines are indented, and of which lines there are.</summary>
    public string OfLines(string text)
    {
        var lines = text.Split('\n').ToList();
        for (var changes = _random.Next(1, 6); changes > 0; changes--)
        {
            var at = _random.Next(lines.Count);
            var words = lines[at].Split(' ');
            switch (_random.Next(9))
            {
                case 0: lines.Insert(at, lines[_random.Next(lines.Count)]); break;
                case 1 when lines.Count > 1: lines.RemoveAt(at); break;
                case 2: lines[at] = new string(' ', _random.Next(40)) + lines[at].TrimStart(); break;
                case 3: lines[at] = "\t" + lines[at]; break;
                case 4: lines[at] = lines[at][.._random.Next(lines[at].Length + 1)]; break;
                case 5: lines[at] += Text(); break;
                case 6: (lines[at], lines[^1]) = (lines[^1], lines[at]); break;
                default:
                    var word = _random.Next(words.Length);
                    words[word] = _random.Next(2) == 0 ? Text() : lines[_random.Next(lines.Count)].Trim();
                    lines[at] = string.Join(' ', words);
                    break;
            }
        }
        return string.Join('\n', lines);
    }

    /// <summary>A zipped workbook with random changes in the texts of its parts; where the zip itself is to be changed, there are bytes.</summary>
    public byte[] OfWorkbook(byte[] workbook)
    {
        using var changed = new MemoryStream();
        using (var from = new ZipArchive(new MemoryStream(workbook)))
        using (var to = new ZipArchive(changed, ZipArchiveMode.Create, leaveOpen: true))
        {
            var chosen = _random.Next(from.Entries.Count);
            for (var i = 0; i < from.Entries.Count; i++)
            {
                if (i == chosen && _random.Next(8) == 0)
                    continue;
                using var reader = new StreamReader(from.Entries[i].Open());
                using var writer = new StreamWriter(to.CreateEntry(_random.Next(60) == 0 ? "x" + Text() : from.Entries[i].FullName).Open());
                var text = reader.ReadToEnd();
                // What stands between two signs is a line, so that elements come, go and move as wholes.
                writer.Write(i == chosen || _random.Next(5) == 0 ? OfLines(text.Replace("><", ">\n<", StringComparison.Ordinal)) : text);
            }
        }
        return changed.ToArray();
    }

    private void Change(JsonNode root)
    {
        var places = new List<JsonNode>();
        Collect(root, places);
        // Deep places are many; half of the changes go to any place, half to one of the first.
        var node = places[_random.Next(2) == 0 ? _random.Next(places.Count) : _random.Next(Math.Min(places.Count, 60))];
        switch (node)
        {
            case JsonObject { Count: > 0 } thing:
                var name = thing.ElementAt(_random.Next(thing.Count)).Key;
                switch (_random.Next(6))
                {
                    case 0: thing.Remove(name); break;
                    case 1: thing[Text()] = Value(); break;
                    case 2: thing[name] = places[_random.Next(places.Count)].DeepClone(); break;
                    default: thing[name] = thing[name] is JsonValue was && _random.Next(3) > 0 ? Like(was) : Value(); break;
                }
                break;
            case JsonArray { Count: > 0 } array:
                var at = _random.Next(array.Count);
                switch (_random.Next(6))
                {
                    case 0: array.RemoveAt(at); break;
                    case 1: array.Insert(at, array[at]?.DeepClone()); break;
                    case 2: array[at] = array[_random.Next(array.Count)]?.DeepClone(); break;
                    case 3: array.Clear(); break;
                    case 4: array[at] = places[_random.Next(places.Count)].DeepClone(); break;
                    default: array[at] = Value(); break;
                }
                break;
        }
    }

    /// <summary>A value of the same kind, changed a little where it is a text.</summary>
    private JsonNode? Like(JsonValue was)
    {
        if (was.GetValueKind() != JsonValueKind.String)
            return was.GetValueKind() == JsonValueKind.Number ? JsonValue.Create(_random.Next(-1, 2_000_000)) : Value();
        var text = was.GetValue<string>();
        var at = _random.Next(text.Length + 1);
        return JsonValue.Create(_random.Next(5) switch
        {
            0 => Text(),
            1 => text[..at],
            2 => text[..at] + Texts[_random.Next(Texts.Length)] + text[at..],
            3 => text + " " + text,
            _ => text.Length == 0 ? "x" : text.Remove(Math.Min(at, text.Length - 1), 1),
        });
    }

    private static void Collect(JsonNode? node, List<JsonNode> places)
    {
        if (node is null or JsonValue)
            return;
        places.Add(node);
        foreach (var member in node is JsonObject thing ? thing.Select(m => m.Value) : node.AsArray())
            Collect(member, places);
    }
}
