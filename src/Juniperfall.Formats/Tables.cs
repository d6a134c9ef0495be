using System.Globalization;
using System.Text;
using System.Xml;
using SpreadCheetah;
using SpreadCheetah.Styling;
using SpreadCheetah.Worksheets;

namespace Juniperfall.Formats;

/// <summary>A table to hand out: the names of its columns, and its rows. A cell is a text, a number, a day, yes or no, or nothing.</summary>
public sealed record Table(IReadOnlyList<string> Columns, IReadOnlyList<object?[]> Rows)
{
    /// <summary>The columns whose texts write numbers, which a workbook holds as such.</summary>
    public IReadOnlySet<int> NumberColumns { get; init; } = new HashSet<int>();

    /// <summary>The same with some columns left out.</summary>
    public Table Without(Func<string, bool> column)
    {
        var kept = Enumerable.Range(0, Columns.Count).Where(i => !column(Columns[i])).ToList();
        return new([.. kept.Select(i => Columns[i])], [.. Rows.Select(row => kept.ConvertAll(i => i < row.Length ? row[i] : null).ToArray())])
        {
            NumberColumns = NumberColumns.Where(kept.Contains).Select(i => kept.IndexOf(i)).ToHashSet(),
        };
    }
}

/// <summary>A sheet of a workbook.</summary>
/// <param name="Head">What it is of, in lines above the table; a blank row follows.</param>
public sealed record NamedTable(string Name, Table Table, IReadOnlyList<(string Label, object? Value)>? Head = null);

/// <summary>Tables as CSV (RFC 4180, UTF-8) and XLSX (ECMA-376).</summary>
public static class Tables
{
    private const int LongestSheetName = 31, LongestCell = 32_767;
    private const double WidestColumn = 60, NarrowestColumn = 6;

    public static decimal Number(string text) => decimal.Parse(text, NumberStyles.Number, CultureInfo.InvariantCulture);

    /// <summary>With a byte order mark, which spreadsheets need to see that it is UTF-8.</summary>
    public static byte[] Csv(Table table)
    {
        var text = new StringBuilder();
        foreach (var row in table.Rows.Prepend([.. table.Columns]))
            text.AppendJoin(',', row.Select(Cell)).Append("\r\n");
        return [.. Encoding.UTF8.Preamble, .. Encoding.UTF8.GetBytes(text.ToString())];
    }

    /// <summary>
    /// Quoted where RFC 4180 asks for it. A text that a spreadsheet would take for a formula is kept a text by an
    /// apostrophe in front; a number is none, also where it is negative.
    /// </summary>
    private static string Cell(object? value)
    {
        var text = Shown(value);
        if (value is string && text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) && !(text[0] == '-' && NumberOf(text) is not null))
            text = "'" + text;
        return text.AsSpan().ContainsAny(",\"\r\n") ? $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"" : text;
    }

    private static decimal? NumberOf(string text) =>
        decimal.TryParse(text, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static string Shown(object? value) => value switch
    {
        DateOnly day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        bool truth => truth ? "yes" : "no",
        _ => Convert.ToString(value, CultureInfo.InvariantCulture) ?? "",
    };

    /// <summary>A workbook: numbers and days are cells of these types, columns are as wide as what stands in them, heads stand still.</summary>
    public static async Task<byte[]> Xlsx(IReadOnlyList<NamedTable> sheets, CancellationToken cancel = default)
    {
        using var stream = new MemoryStream();
        // The standard lets cells go without their references; many readers do not.
        await using var book = await Spreadsheet.CreateNewAsync(stream, new SpreadCheetahOptions { WriteCellReferenceAttributes = true }, cancel);
        var bold = book.AddStyle(new Style { Font = { Bold = true } });
        var day = book.AddStyle(new Style { Format = NumberFormat.Custom("yyyy-mm-dd") });
        var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var (name, table, head) in sheets)
        {
            var headRows = head is { Count: > 0 } ? head.Count + 1 : 0;
            var options = new WorksheetOptions { FrozenRows = headRows + 1 };
            for (var c = 0; c < table.Columns.Count; c++)
                options.Column(c + 1).Width = WidthOf(table, c, head);
            await book.StartWorksheetAsync(SheetName(name, names), options, cancel);
            foreach (var (label, value) in head ?? [])
                await book.AddRowAsync([new StyledCell(Clean(label), bold), Of(value)], cancel);
            if (headRows > 0)
                await book.AddRowAsync(Array.Empty<StyledCell>(), cancel);
            await book.AddRowAsync([.. table.Columns.Select(c => new StyledCell(Clean(c), bold))], cancel);
            foreach (var row in table.Rows)
                await book.AddRowAsync([.. row
                    .Select((cell, c) => Of(table.NumberColumns.Contains(c) && cell is string text && NumberOf(text) is { } number ? number : cell))], cancel);
        }
        await book.FinishAsync(cancel);
        return stream.ToArray();

        StyledCell Of(object? value) => value switch
        {
            null => new StyledCell((string?)null, null),
            DateOnly on => new StyledCell(on.ToDateTime(TimeOnly.MinValue), day),
            decimal or int or long => new StyledCell(Convert.ToDecimal(value, CultureInfo.InvariantCulture), null),
            _ => new StyledCell(Clean(Shown(value)), null),
        };
    }

    private static double WidthOf(Table table, int column, IReadOnlyList<(string Label, object? Value)>? head)
    {
        var longest = table.Rows.Select(r => LineOf(Shown(r[column]))).Append(table.Columns[column].Length + 1)
            .Concat(column == 0 ? (head ?? []).Select(h => h.Label.Length + 1) : []).Max();
        return Math.Clamp(longest * 1.1 + 2, NarrowestColumn, WidestColumn);
    }

    /// <summary>How long the longest line of a text is.</summary>
    private static int LineOf(string text) => text.AsSpan().Contains('\n') ? text.Split('\n').Max(l => l.Length) : text.Length;

    /// <summary>A name as sheets may have: without the signs that they cannot hold, and none twice.</summary>
    private static string SheetName(string name, HashSet<string> taken)
    {
        var plain = string.Concat(Clean(name).Where(c => !"\\/?*[]:'".Contains(c, StringComparison.Ordinal))).Trim();
        plain = plain.Length == 0 ? "Sheet" : plain.Length > LongestSheetName ? plain[..LongestSheetName] : plain;
        for (var (base_, n) = (plain, 2); !taken.Add(plain); n++)
            plain = base_[..Math.Min(base_.Length, LongestSheetName - 4)] + $" {n}";
        return plain;
    }

    /// <summary>Without the characters that XML has no way to hold, and cut where a cell ends.</summary>
    private static string Clean(string text)
    {
        var clean = string.Concat(text.EnumerateRunes().Where(r => r.Value > 0xFFFF || XmlConvert.IsXmlChar((char)r.Value)));
        return clean.Length <= LongestCell ? clean : clean[..(LongestCell - 1)] + "…";
    }
}
