using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Juniperfall.Core;

namespace Juniperfall.Formats.Library;

/// <summary>A sheet of a workbook, as one chooses among them.</summary>
public sealed record SheetName(string Name, bool Hidden);

/// <summary>How a file is read; null is as it is recognised.</summary>
/// <param name="Sheet">The name of the sheet of a workbook.</param>
/// <param name="Separator">“,”, “;” or a tab, of a text.</param>
/// <param name="DecimalComma">Whether numbers are written with a comma, in a text.</param>
public sealed record SheetChoice(string? Sheet = null, char? Separator = null, bool? DecimalComma = null);

/// <summary>The cells of a table as they stand in a file, texts all: the names of its columns, and its rows.</summary>
/// <param name="FirstRow">The number that the first row has in its file, for messages.</param>
public sealed partial record Sheet(IReadOnlyList<string> Columns, IReadOnlyList<string[]> Rows, int FirstRow = 2)
{
    /// <summary>The sheets of the workbook that it is of; empty for a text.</summary>
    public IReadOnlyList<SheetName> Sheets { get; init; } = [];

    /// <summary>How it was read, what was recognised included.</summary>
    public SheetChoice Read { get; init; } = new();

    /// <summary>A cell as its column takes it: of a number with its decimal point, of a percentage in a column of percentages without the sign.</summary>
    public string Text(string cell, bool isNumber, string column)
    {
        if (!isNumber)
            return cell;
        if (column.Contains('%', StringComparison.Ordinal) && cell.EndsWith('%'))
            cell = cell[..^1].TrimEnd();
        return Read.DecimalComma == true && WithDecimalComma().IsMatch(cell) ? cell.Replace(".", "", StringComparison.Ordinal).Replace(',', '.') : cell;
    }

    /// <summary>A number with a decimal comma, perhaps with points between its thousands.</summary>
    [GeneratedRegex(@"^[+-]?(\d+|\d{1,3}(\.\d{3})+)(,\d+)?$")]
    internal static partial Regex WithDecimalComma();
}

/// <param name="Error">Why the file is no table that can be read; null where it is.</param>
public sealed record SheetResult(Sheet? Sheet, string? Error);

/// <summary>Reads tables from CSV (RFC 4180; commas, semicolons or tabs) and XLSX.</summary>
public static class SheetReader
{
    public static SheetResult Read(byte[] file, SheetChoice? choice = null, CancellationToken cancel = default)
    {
        try
        {
            if (file.Length > Limits.LargestTable)
                return new(null, $"The file is larger than {Limits.LargestTable >> 20} MB.");
            // What is zipped is a workbook; everything else is text.
            var (rows, of, error) = file is [(byte)'P', (byte)'K', ..]
                ? WorkbookCells.Read(file, choice ?? new(), cancel) : TextCells.Read(file, choice ?? new(), cancel);
            if (error is not null)
                return new(null, error);
            if (rows.Count == 0)
                return new(null, "The file is empty. Its first row has to name the columns.");
            var columns = rows[0].Select(c => c.Trim()).ToList();
            while (columns.Count > 0 && columns[^1].Length == 0)
                columns.RemoveAt(columns.Count - 1);
            if (columns.Exists(c => c.Length == 0))
                return new(null, $"Column {columns.IndexOf("") + 1} has no name in the first row.");
            if (columns.GroupBy(c => c, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Count() > 1) is { } twice)
                return new(null, $"The column “{twice.Key}” is there twice.");
            rows.RemoveAt(0);
            // Blank rows at the end are none.
            while (rows.Count > 0 && Array.TrueForAll(rows[^1], c => c.Length == 0))
                rows.RemoveAt(rows.Count - 1);
            return new(of with { Columns = columns, Rows = rows }, null);
        }
        // The readers of zipped files, markup and workbooks throw nearly anything at what is none of their kind.
        catch (Exception e) when (e is not (OperationCanceledException or OutOfMemoryException))
        {
            return new(null, e is DecoderFallbackException ? "The file is not text in UTF-8." : "The file is neither a CSV nor an XLSX file that can be read.");
        }
    }

    internal static string TooMuchText =>
        $"The cells of the file hold more than {Limits.MostTableText >> 20} million characters. Split it and load the parts one after the other.";
    internal static string TooMany =>
        $"The file has more than {Limits.MostTableRows.ToString("N0", CultureInfo.InvariantCulture)} rows. Split it and load the parts one after the other.";
    internal static string TooWide(int row) => $"Row {row} has more than {Limits.MostTableColumns} cells.";
}
