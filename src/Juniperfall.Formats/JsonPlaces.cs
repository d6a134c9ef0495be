using System.Text.Json;

namespace Juniperfall.Formats;

/// <summary>A place in a text, both counted from 1; columns count UTF-8 bytes as editors count characters of plain text.</summary>
public readonly record struct TextPlace(int Line, int Column);

/// <summary>Where the members of a JSON text stand: by JSON pointer (RFC 6901), and by the id of the object that they belong to.</summary>
public sealed class JsonPlaces
{
    private readonly Dictionary<string, int> _offsets = [];
    private readonly Dictionary<string, string> _pointers = [];
    private readonly List<int> _lines = [0];

    public JsonPlaces(ReadOnlySpan<byte> json)
    {
        for (var i = 0; i < json.Length; i++)
            if (json[i] == '\n')
                _lines.Add(i + 1);
        var reader = new Utf8JsonReader(json, new JsonReaderOptions { MaxDepth = 256 });
        try
        {
            var (open, member) = (new Stack<(string Pointer, int Next)>(), (string?)null);
            while (reader.Read())
            {
                if (reader.TokenType is JsonTokenType.EndObject or JsonTokenType.EndArray)
                {
                    open.Pop();
                    continue;
                }
                if (reader.TokenType == JsonTokenType.PropertyName)
                {
                    member = reader.GetString();
                    continue;
                }
                var pointer = "";
                if (open.TryPop(out var parent))
                {
                    pointer = $"{parent.Pointer}/{(parent.Next >= 0 ? parent.Next.ToString(System.Globalization.CultureInfo.InvariantCulture) : Escaped(member!))}";
                    open.Push((parent.Pointer, parent.Next >= 0 ? parent.Next + 1 : -1));
                }
                _offsets.TryAdd(pointer, (int)reader.TokenStartIndex);
                if (parent is { Next: -1 } && member == "id" && reader.TokenType == JsonTokenType.String)
                    _pointers.TryAdd(reader.GetString()!, parent.Pointer);
                if (reader.TokenType is JsonTokenType.StartObject or JsonTokenType.StartArray)
                    open.Push((pointer, reader.TokenType == JsonTokenType.StartArray ? 0 : -1));
            }
        }
        catch (JsonException)
        {
            // What could be read up to there is known.
        }
    }

    private static string Escaped(string member) => member.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal);

    /// <summary>The place of a field of the object with an id; of what is not there, that of the nearest that is.</summary>
    /// <param name="field">Members and places of arrays with strokes between, as findings name them; a member that is an id of a value names the value.</param>
    public TextPlace Of(string id, string field)
    {
        if (!_pointers.TryGetValue(id, out var pointer))
            return new(1, 1);
        foreach (var step in field.Split('/', StringSplitOptions.RemoveEmptyEntries))
            if (_offsets.ContainsKey($"{pointer}/{Escaped(step)}"))
                pointer = $"{pointer}/{Escaped(step)}";
            else if (_pointers.TryGetValue(step, out var within) && within.StartsWith(pointer, StringComparison.Ordinal))
                pointer = within;
            else
                break;
        return At(_offsets[pointer]);
    }

    private TextPlace At(int offset)
    {
        var line = _lines.BinarySearch(offset);
        line = line >= 0 ? line : ~line - 1;
        return new(line + 1, offset - _lines[line] + 1);
    }
}
