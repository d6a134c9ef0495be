using System.Globalization;
using System.Text;
using MiniExcelLibs;

namespace Juniperfall.Formats;

/// <summary>A table to hand out: the names of its columns, and its rows.</summary>
public sealed record Table(IReadOnlyList<string> Columns, IReadOnlyList<object?[]> Rows);

/// <summary>Tables as CSV (RFC 4180, UTF-8) and XLSX.</summary>
public static class Tables
{
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
    /// apostrophe in front.
    /// </summary>
    private static string Cell(object? value)
    {
        var text = Convert.ToString(value, CultureInfo.InvariantCulture) ?? "";
        if (value is string && text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal))
            text = "'" + text;
        return text.AsSpan().ContainsAny(",\"\r\n") ? $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"" : text;
    }

    public static byte[] Xlsx(IReadOnlyList<(string Name, Table Table)> sheets)
    {
        using var stream = new MemoryStream();
        stream.SaveAs(sheets.ToDictionary(s => s.Name, s => (object)Rows(s.Table)));
        return stream.ToArray();
    }

    private static List<Dictionary<string, object?>> Rows(Table table) =>
        table.Rows.Count == 0 ? [table.Columns.ToDictionary(c => c, _ => (object?)null)] : [.. table.Rows.Select(r => table.Columns.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => r[x.i]))];
}
