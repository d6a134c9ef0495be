using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Wording;

/// <summary>Reads picks as people write them, <c>door.width = 900 mm</c>, and writes values back.</summary>
public sealed class PickText
{
    private readonly BoundModel _model;
    private readonly Lazy<AskedAttributes> _asked;

    public PickText(BoundModel model)
    {
        _model = model;
        // Whoever only writes values needs no list of what is asked.
        _asked = new(() => AskedIn(model));
    }

    /// <summary>What is asked by its name, in the form that names are compared in, and by its path.</summary>
    private sealed record AskedAttributes(Dictionary<string, (string Path, AttributeRow Row)> ByName,
        Dictionary<string, (string Name, AttributeRow Row)> ByPath);

    private static AskedAttributes AskedIn(BoundModel model)
    {
        var asked = new AskedAttributes([], []);
        void Add(string path, string name, AttributeRow row)
        {
            asked.ByPath.TryAdd(path, (name, row));
            asked.ByName.TryAdd(Names.Fold(name), (path, row));
        }

        foreach (var occurrence in Occurrence.All(model))
            foreach (var row in occurrence.Assembly.Rows.OfType<AttributeRow>().Where(model.IsSound))
                if (!row.Input || occurrence.Place is not { } place || place.Inputs.All(i => i.AttributeId != row.Id))
                {
                    var (path, name) = (occurrence.Prefix + row.Id, occurrence.DisplayPath(model.Index, row.Id));
                    if (row.Kind != AttributeKind.Several)
                        Add(path, name, row);
                    else
                        foreach (var value in model.Index.Lists[row.ListId!].Values)
                            Add(RowPath.OfMember(path, value.Id), $"{name}.{value.Code}", row);
                }
        return asked;
    }

    /// <summary>The attribute asked at a path; null where none is. Of several choices each value has a path.</summary>
    public AttributeRow? At(string path) => _asked.Value.ByPath.GetValueOrDefault(path).Row;

    /// <summary>What is asked at a path as people write it; the path itself where nothing is.</summary>
    public string NameOf(string path) => _asked.Value.ByPath.TryGetValue(path, out var found) ? found.Name : path;

    /// <summary>The pick at a path, or the sentence that says what is wrong with it.</summary>
    public (Pick? Pick, string? Error) ReadAt(string path, string text)
    {
        if (At(path) is not { } row)
            return (null, "This is no longer asked.");
        var (value, error) = ReadValue(row, text);
        return value is { } v ? (new Pick(path, v), null) : (null, error);
    }

    /// <summary>What stands against a pick at a site and day: its value is not in effect there, or is gone from its list. Null where nothing does.</summary>
    public string? Objection(Pick pick, Effectivity at)
    {
        if (pick.Value.Kind != ValueKind.Choice || At(pick.Path) is not { } row)
            return null;
        if (_model.Index.Lists[row.ListId!].Values.FirstOrDefault(v => v.Id == pick.Value.Text) is not { } value)
            return $"The value that was picked for “{row.Name}” is no longer in its list.";
        if (!at.IncludesSite(value))
            return $"“{value.Label.Or(value.Code)}” is to be had only at "
                + $"{string.Join(", ", value.Sites.Select(s => _model.Facts.Sites.GetValueOrDefault(s)?.Label.Or(s) ?? s))}.";
        if (value.PausedBecause is { } why)
            return $"“{value.Label.Or(value.Code)}” is not to be had: {why}";
        if (at.IncludesDate(value))
            return null;
        var period = string.Join(" ",
            new[] { value.From is { } from ? $"from {from:yyyy-MM-dd}" : "", value.To is { } to ? $"until {to:yyyy-MM-dd}" : "" }.Where(p => p.Length > 0));
        return $"“{value.Label.Or(value.Code)}” is to be had only {period}.";
    }

    /// <summary>The pick, or the sentence that says what is wrong with it.</summary>
    public (Pick? Pick, string? Error) Read(string name, string text)
    {
        if (!_asked.Value.ByName.TryGetValue(Names.Fold(name.Trim()), out var found))
        {
            var near = Spelling.Nearest(name.Trim(), _asked.Value.ByName.Keys.Select(k => k.ToLowerInvariant()));
            return (null, $"There is no attribute “{name.Trim()}”.{(near is null ? "" : $" Did you mean “{near}”?")}");
        }
        var (value, error) = ReadValue(found.Row, text);
        return value is { } v ? (new Pick(found.Path, v), null) : (null, error);
    }

    /// <summary>Of picks that were read one after the other, the sentence that says which is of an attribute that is picked already; null where none
    /// is.</summary>
    public string? Repetition(IReadOnlyList<Pick> picks) => Question.Repeated(picks) is { } again
        ? $"Pick {again + 1} is of “{NameOf(picks[again].Path)}”, which is picked already. Leave one of the two out." : null;

    /// <summary>The pick of a value by its bare code, whatever that is: a value called “none” is meant before the answer “none of them”.</summary>
    public (Pick? Pick, string? Error) ReadCode(string name, string code) =>
        _asked.Value.ByName.TryGetValue(Names.Fold(name.Trim()), out var found)
            && ByCode(found.Row, code) is { } value ? (new Pick(found.Path, value), null) : Read(name, code);

    /// <summary>The answer “none of them”, or the sentence that says why it cannot be given.</summary>
    public (Pick? Pick, string? Error) ReadNone(string name)
    {
        var (pick, error) = Read(name, None);
        return pick is not { Value.IsNothing: false } ? (pick, error) : (null, $"“{name.Trim()}” must be answered; it cannot be none.");
    }

    private const string None = "none";

    private Value? ByCode(AttributeRow row, string code) =>
        row.Kind == AttributeKind.Choice && ModelIndex.ValueByCode(_model.Index.Lists[row.ListId!], code) is { } value ? Value.Choice(value.Id) : null;

    private static bool IsNone(string code) => code.Equals(None, StringComparison.OrdinalIgnoreCase);

    /// <summary>
    /// A value of an attribute from its code, its number in the attribute's unit, a number with a unit, yes/no, none or a text. A value
    /// that is called “none” stands in quotes where it could be the answer “none of them”, as in expressions.
    /// </summary>
    public (Value? Value, string? Error) ReadValue(AttributeRow row, string text)
    {
        text = text.Trim();
        if (IsNone(text) && row.Kind != AttributeKind.Text && !(row.Required && ByCode(row, text) is not null))
            return row.Required || row.Kind == AttributeKind.Several ? (null, $"“{row.Name}” must be answered; it cannot be none.") : (Value.Nothing, null);
        switch (row.Kind)
        {
            case AttributeKind.Text:
                return text.Length <= 2000 ? (Value.OfText(text), null) : (null, "A text has at most 2000 characters.");
            case AttributeKind.YesNo or AttributeKind.Several:
                return text.ToLowerInvariant() switch
                {
                    "yes" or "true" => (Value.Of(true), null),
                    "no" or "false" => (Value.Of(false), null),
                    _ => (null, $"“{row.Name}” is answered by yes or no, not “{text}”."),
                };
            case AttributeKind.Choice:
                var list = _model.Index.Lists[row.ListId!];
                if ((ByCode(row, text) ?? (Unquoted(text) is { } bare ? ByCode(row, bare) : null)) is { } value)
                    return (value, null);
                var near = Spelling.Nearest(text, list.Values.Select(v => v.Code));
                return (null, $"“{row.Name}” has no value “{text}”.{(near is null ? "" : $" Did you mean “{near}”?")}");
            default:
                return Number(row, text);
        }
    }

    /// <summary>What stands in quotes; null where the text is not one quoted code.</summary>
    private static string? Unquoted(string text) =>
        Lexer.Read(text, []) is [{ Kind: TokenKind.QuotedName or TokenKind.Text } quoted, { Kind: TokenKind.End }] && text.Length >= 2
            && text[^1] == text[0] ? quoted.Text : null;

    private static (Value?, string?) Number(AttributeRow row, string text)
    {
        var unit = row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        if (!Exact.TryParse(text, out var number))
        {
            if (text.Count(c => c == ',') == 1 && Exact.TryParse(text.Replace(',', '.'), out _))
                return (null, $"Decimals are written with a point: {text.Replace(',', '.')}, not {text}.");
            var parsed = Parser.Parse(text);
            if (!parsed.Diagnostics.IsEmpty)
                return (null, parsed.Diagnostics[0].Message);
            if (parsed.Root is not NumberSyntax { Unit: var written } literal)
                return (null, $"“{text}” is not a number.");
            if (written.Dimension != unit.Dimension && written != Unit.One)
                return (null, $"“{row.Name}” is {unit.Dimension.Describe()}; “{text}” is {written.Dimension.Describe()}.");
            number = written == Unit.One ? literal.Number : unit.FromBase(written.ToBase(literal.Number));
        }
        var (min, max, step) = (Exact.Parse(row.Min!), Exact.Parse(row.Max!), Exact.Parse(row.Step ?? "1"));
        var suffix = unit.Code.Length == 0 ? "" : " " + unit.Code;
        if (number < min || number > max)
            return (null, $"“{row.Name}” lies between {min}{suffix} and {max}{suffix}; {number.ToDisplay(6)}{suffix} does not.");
        return (number / step).IsWhole ? (Value.Of(unit.ToBase(number)), null)
            : (null, $"“{row.Name}” goes in steps of {step}{suffix}: {((number / step).Floor() * step).ToDisplay(6)} or "
                + $"{((number / step).Ceiling() * step).ToDisplay(6)}, not {number.ToDisplay(6)}.");
    }

    /// <summary>The bare code of a choice's value.</summary>
    public string Code(Value value) => _model.Index.Values.TryGetValue(value.Text!, out var found) ? found.Value.Code : "?";

    /// <summary>A value in the attribute's own terms, without its unit: what <see cref="ReadValue"/> reads back.</summary>
    public string Write(AttributeRow row, Value value) => value.Kind switch
    {
        ValueKind.Nothing => None,
        ValueKind.YesNo => value.IsTrue ? "yes" : "no",
        ValueKind.Choice => Code(value) is var code && IsNone(code) ? Printer.Name(code) : code,
        ValueKind.Number => (row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One).FromBase(value.Number).ToString(),
        _ => value.Text ?? "",
    };
}
