using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Entry;

/// <summary>What all kinds of lines are read with: names, conditions, findings, and the steps that make rows.</summary>
internal sealed class EntryReader(string line, EntryPlace place)
{
    private readonly ImmutableArray<EntryFinding>.Builder _findings = ImmutableArray.CreateBuilder<EntryFinding>();
    private readonly ImmutableArray<EntryPart>.Builder _parts = ImmutableArray.CreateBuilder<EntryPart>();
    private readonly ImmutableArray<EditStep>.Builder _steps = ImmutableArray.CreateBuilder<EditStep>();

    public EntryPlace Place => place;

    public EntryReading Reading(EntryKind? kind, string? rowId) => _findings.Count > 0 || rowId is null
        ? new(kind, _findings.ToImmutable(), _parts.ToImmutable(), [], null)
        : new(kind, [], _parts.ToImmutable(), _steps.ToImmutable(), rowId);

    // ---- Findings -----------------------------------------------------------------------------------------------

    public void Fault(Span at, string message, params ReadOnlySpan<EntryFix> fixes) => _findings.Add(new(at, message, [.. fixes]));

    /// <summary>Something is missing behind what was typed so far.</summary>
    public void Missing(LineText behind, string message, params ReadOnlySpan<EntryFix> fixes) => Fault(new(behind.Span.End, 0), message, fixes);

    /// <summary>The line with another text in place of a stretch.</summary>
    public EntryFix Instead(Span of, string text, string? label = null) => new(label ?? text.Trim(), line[..of.Start] + text + line[of.End..]);

    /// <summary>Tells of what is left over and not understood.</summary>
    public void Nothing(LineText rest, string message, params ReadOnlySpan<EntryFix> fixes)
    {
        if (!rest.IsEmpty)
            Fault(rest.Span, message, fixes);
    }

    public void Part(EntryPartKind kind, Span span) => _parts.Add(new(kind, span));

    // ---- Names and expressions ----------------------------------------------------------------------------------

    private const string NotInNames = "'\"()[]<>=:,;×*+|";

    /// <summary>The name that a stretch is, of one word or several, quoted or not; null where it is none, which is told.</summary>
    /// <param name="example">A line as it should read.</param>
    public string? Name(LineText text, string example, bool isNew = true)
    {
        Part(EntryPartKind.Name, text.Span);
        var name = string.Join(' ', text.Text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (name is ['\'', .. var inner, '\''])
            name = inner.Replace("''", "'", StringComparison.Ordinal).Trim();
        else if (name.IndexOfAny(NotInNames.ToCharArray()) is >= 0 and var at)
        {
            var (place, end) = (text.Text.IndexOf(name[at]), at + 1);
            while (end < name.Length && NotInNames.Contains(name[end]))
                end++;
            Fault(new(text.Span.Start + place, text.Span.Length - place), $"“{name[at..end]}” cannot stand in a name here. It is written like this: {example}");
            return null;
        }
        if (name.Length == 0)
        {
            Missing(text, $"It needs a name: {example}");
            return null;
        }
        if (isNew && IsTaken(name))
            Fault(text.Span, $"There is “{name}” here already.", Instead(text.Span, Printer.Name(FreeName(name)), $"call it {FreeName(name)}"));
        return name;
    }

    private bool IsTaken(string name) => place.Index.Named(place.Assembly, name) is not null
        || NamesHere.Contains(Names.Fold(name));

    /// <summary>Names that this line gives itself.</summary>
    public HashSet<string> NamesHere { get; } = [];

    /// <summary>A name that nothing in the assembly has.</summary>
    public string FreeName(string wanted)
    {
        var name = wanted;
        for (var n = 2; IsTaken(name); n++)
            name = $"{wanted}_{n}";
        return name;
    }

    public static JsonObject Label(string name) => new() { ["en"] = Capital(name.Replace('_', ' ')) };

    private static string Capital(string words) => words.Length == 0 ? "" : char.ToUpperInvariant(words[0]) + words[1..];

    /// <summary>An expression as it was typed; where there is none, or a bracket is open, that is told.</summary>
    public string Expression(LineText text, string missing)
    {
        Part(EntryPartKind.Expression, text.Span);
        if (text.IsEmpty)
            Missing(text, missing);
        else if (text.Unclosed() is { } open)
            Fault(new(open, 1), line[open] is '\'' or '"' ? "This quote is not closed." : line[open] is ')' or ']' ? "Nothing is open that this closes."
                : "This bracket is not closed.",
                line[open] is '(' or '\'' or '['
                    ? [Instead(new(text.Span.End, 0), line[open] switch { '(' => ")", '[' => "]", _ => "'" }, "close it at the end")] : []);
        return text.Text;
    }

    /// <summary>Splits off the condition at the end of a line; empty where it has none.</summary>
    public (LineText Body, string AppliesWhen) When(LineText rest) => rest.SplitAt("when") is var (before, _, after)
        ? (before, Expression(after, "When? Behind “when” a condition is missing: … when window")) : (rest, "");

    // ---- Rows ---------------------------------------------------------------------------------------------------

    /// <summary>Adds a row to the topic.</summary>
    /// <param name="afterId">Behind which row; left out: where the line is to be.</param>
    /// <returns>Its id.</returns>
    public string Row(string kind, JsonObject fields, string? afterId = null)
    {
        var id = place.NewId();
        var row = new JsonObject { ["id"] = id, ["kind"] = kind };
        foreach (var (name, value) in fields.ToList())
        {
            fields.Remove(name);
            row[name] = value;
        }
        _steps.Add(new AddRow(place.TopicId, "rows", afterId ?? place.AfterId, row));
        return id;
    }

    /// <summary>Adds a thing that the row needs to the model itself, behind the last of its kind.</summary>
    public string Beside(string collection, string? afterId, JsonObject thing)
    {
        thing["id"] = place.NewId();
        _steps.Add(new AddRow(place.Index.Document.Id, collection, afterId, thing));
        return (string)thing["id"]!;
    }
}
