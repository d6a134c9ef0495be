using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Xml;
using CsvHelper;
using CsvHelper.Configuration;
using MiniExcelLibs;

namespace Juniperfall.Formats.Library;

/// <summary>The cells of a table as they stand in a file, texts all: the names of its columns, and its rows.</summary>
/// <param name="FirstRow">The number that the first row has in its file, for messages.</param>
public sealed record Sheet(IReadOnlyList<string> Columns, IReadOnlyList<string[]> Rows, int FirstRow = 2);

/// <param name="Error">Why the file is no table that can be read; null where it is.</param>
public sealed record SheetResult(Sheet? Sheet, string? Error);

/// <summary>Reads tables from CSV (RFC 4180; commas, semicolons or tabs) and XLSX. A cell with a formula, and merged cells, are refused: what they hold depends on more than the cell.</summary>
public static class SheetReader
{
    public const int MostRows = 150_000;
    private const int MostColumns = 200, MostTold = 10;

    public static SheetResult Read(byte[] file, CancellationToken cancel = default)
    {
        try
        {
            // What is zipped is a workbook; everything else is text.
            var rows = file is [(byte)'P', (byte)'K', ..] ? Xlsx(file, out var error, cancel) : Csv(file, out error, cancel);
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
            return new(new(columns, rows), null);
        }
        catch (Exception e) when (e is InvalidDataException or XmlException or DecoderFallbackException or CsvHelperException or FormatException)
        {
            return new(null, e is DecoderFallbackException ? "The file is not text in UTF-8." : "The file is neither a CSV nor an XLSX file that can be read.");
        }
    }

    private static string TooMany => $"The file has more than {MostRows.ToString("N0", CultureInfo.InvariantCulture)} rows. Split it and load the parts one after the other.";

    private static List<string[]> Csv(byte[] file, out string? error, CancellationToken cancel)
    {
        error = null;
        var text = new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(file.AsSpan().StartsWith(Encoding.UTF8.Preamble) ? file.AsSpan(Encoding.UTF8.Preamble.Length) : file);
        var head = text[..(text.IndexOf('\n', StringComparison.Ordinal) is var end and >= 0 ? end : text.Length)];
        var delimiter = new[] { ",", ";", "\t" }.MaxBy(d => head.Count(c => c == d[0]) * 4 + (d == "," ? 1 : 0))!;
        using var parser = new CsvParser(new StringReader(text), new CsvConfiguration(CultureInfo.InvariantCulture) { Delimiter = delimiter, BadDataFound = null, IgnoreBlankLines = true });
        var rows = new List<string[]>();
        while (parser.Read())
        {
            cancel.ThrowIfCancellationRequested();
            if (rows.Count > MostRows)
            {
                error = TooMany;
                break;
            }
            if (parser.Record!.Length > MostColumns)
            {
                error = $"Row {rows.Count + 1} has more than {MostColumns} cells.";
                break;
            }
            // An apostrophe in front keeps a text from being a formula; it is not part of the text.
            rows.Add([.. parser.Record.Select(c => c is ['\'', '=' or '+' or '-' or '@' or '\t' or '\r', ..] ? c[1..] : c)]);
        }
        return rows;
    }

    private static List<string[]> Xlsx(byte[] file, out string? error, CancellationToken cancel)
    {
        error = Refused(file);
        var rows = new List<string[]>();
        if (error is not null)
            return rows;
        using var stream = new MemoryStream(file);
        foreach (IDictionary<string, object?> row in MiniExcel.Query(stream, useHeaderRow: false).Cast<IDictionary<string, object?>>())
        {
            cancel.ThrowIfCancellationRequested();
            if (rows.Count > MostRows)
            {
                error = TooMany;
                break;
            }
            if (row.Count > MostColumns)
            {
                error = $"Row {rows.Count + 1} has more than {MostColumns} cells.";
                break;
            }
            rows.Add([.. row.Values.Select(Text)]);
        }
        return rows;
    }

    private static string Text(object? cell) => cell switch
    {
        null => "",
        bool truth => truth ? "yes" : "no",
        // A spreadsheet keeps numbers as doubles; fifteen digits are what people typed.
        double number => number.ToString("0.###############", CultureInfo.InvariantCulture),
        DateTime day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        _ => Convert.ToString(cell, CultureInfo.InvariantCulture) ?? "",
    };

    /// <summary>What of a workbook cannot be taken: formulas and merged cells, with their places. Definitions of entities are not read at all.</summary>
    private static string? Refused(byte[] file)
    {
        using var archive = new ZipArchive(new MemoryStream(file));
        if (archive.Entries.Sum(e => e.Length) > 1L << 30)
            return "The workbook is larger than a gigabyte once it is unpacked.";
        if (archive.Entries.Where(e => e.FullName.StartsWith("xl/worksheets/", StringComparison.Ordinal) && e.FullName.EndsWith(".xml", StringComparison.Ordinal)).OrderBy(e => e.FullName, StringComparer.Ordinal).FirstOrDefault() is not { } sheet)
            return "The workbook has no sheet.";
        var (formulas, merged, cell) = (new List<string>(), new List<string>(), "");
        using var stream = sheet.Open();
        using var xml = XmlReader.Create(stream, new() { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null });
        while (xml.Read())
            if (xml.NodeType == XmlNodeType.Element)
                switch (xml.LocalName)
                {
                    case "c":
                        cell = xml.GetAttribute("r") ?? "";
                        break;
                    case "f":
                        formulas.Add(cell);
                        break;
                    case "mergeCell":
                        merged.Add(xml.GetAttribute("ref") ?? "");
                        break;
                }
        string Some(List<string> places) => string.Join(", ", places.Take(MostTold)) + (places.Count > MostTold ? $" and {places.Count - MostTold} more" : "");
        return merged.Count > 0 ? $"Cells are merged at {Some(merged)}. Part them, so that every row has cells of its own."
            : formulas.Count > 0 ? $"There are formulas in {Some(formulas)}. Put their values in their place." : null;
    }
}
