using System.Globalization;

namespace Juniperfall.Formats.Library;

/// <summary>
/// What a cell must be: a text in it, in any case; <c>=text</c> and <c>&lt;&gt;text</c> the whole cell, <c>=</c> an empty one; <c>&lt;5</c>,
/// <c>&gt;=5</c> the number it begins with.
/// </summary>
public sealed record CellFilter(string Sign, string Text)
{
    private static readonly string[] Signs = ["<>", "<=", ">=", "=", "<", ">"];

    /// <summary>Null where nothing is asked.</summary>
    public static CellFilter? Of(string written)
    {
        var text = written.Trim();
        var sign = Array.Find(Signs, s => text.StartsWith(s, StringComparison.Ordinal)) ?? "";
        return text.Length == 0 ? null : new(sign, text[sign.Length..].Trim());
    }

    public bool Takes(string cell) => Sign switch
    {
        "" => cell.Contains(Text, StringComparison.OrdinalIgnoreCase),
        "=" => cell.Trim().Equals(Text, StringComparison.OrdinalIgnoreCase),
        "<>" => !cell.Trim().Equals(Text, StringComparison.OrdinalIgnoreCase),
        _ => (NumberIn(cell), NumberIn(Text)) is ({ } number, { } bound) && Sign switch
        {
            "<" => number < bound,
            "<=" => number <= bound,
            ">" => number > bound,
            _ => number >= bound,
        },
    };

    /// <summary>The number a cell begins with, as in “900 mm”; null where it begins with none.</summary>
    public static decimal? NumberIn(string cell)
    {
        var text = cell.Trim();
        var end = text.Length > 0 && text[0] is '-' or '+' ? 1 : 0;
        while (end < text.Length && (char.IsAsciiDigit(text[end]) || text[end] == '.'))
            end++;
        return decimal.TryParse(text[..end], NumberStyles.Number, CultureInfo.InvariantCulture, out var number) ? number : null;
    }
}
