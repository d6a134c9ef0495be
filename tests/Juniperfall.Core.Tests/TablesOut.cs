using System.Text;
using Juniperfall.Formats;
using MiniExcelLibs;

namespace Juniperfall.Core.Tests;

/// <summary>What leaves as a table comes out of a spreadsheet as it was, and never as a formula.</summary>
public class TablesOut
{
    private static readonly string[] Hostile = ["=1+1", "+1", "-1+2", "@SUM(A1)", "=cmd|' /C calc'!A0", "\t=1", "\r=1", "a,b", "say \"so\"", "two\r\nlines", " blank ", "", "漢 é", "<&>", "'quoted'"];

    private static readonly Table Of = new(["Level", "Text", "Number"], [.. Hostile.Select((t, i) => new object?[] { i, t, 0.125m * i })]);

    /// <summary>RFC 4180, read literally.</summary>
    private static List<List<string>> Read(string csv)
    {
        var (rows, row, cell, quoted) = (new List<List<string>>(), new List<string>(), new StringBuilder(), false);
        for (var i = 0; i < csv.Length; i++)
            switch (csv[i])
            {
                case '"' when quoted && i + 1 < csv.Length && csv[i + 1] == '"': cell.Append('"'); i++; break;
                case '"': quoted = !quoted; break;
                case ',' when !quoted: row.Add(cell.ToString()); cell.Clear(); break;
                case '\r' when !quoted && csv[i + 1] == '\n': row.Add(cell.ToString()); cell.Clear(); rows.Add(row); row = []; i++; break;
                default: cell.Append(csv[i]); break;
            }
        return rows;
    }

    [Fact]
    public void Csv_keeps_every_text_and_defuses_formulas()
    {
        var bytes = Tables.Csv(Of);
        Assert.Equal(Encoding.UTF8.Preamble.ToArray(), bytes[..3]);
        var rows = Read(Encoding.UTF8.GetString(bytes[3..]));
        Assert.Equal(["Level", "Text", "Number"], rows[0]);
        Assert.Equal(Hostile.Length + 1, rows.Count);
        foreach (var (text, i) in Hostile.Select((t, i) => (t, i)))
        {
            Assert.Equal($"{i}", rows[i + 1][0]);
            Assert.Equal(text.Length > 0 && "=+-@\t\r".Contains(text[0]) ? "'" + text : text, rows[i + 1][1]);
            Assert.Equal(0.125m * i, Tables.Number(rows[i + 1][2]));
        }
        // A negative number is a number, and stays one.
        Assert.Contains("-5", Encoding.UTF8.GetString(Tables.Csv(new(["n"], [[-5m]]))));
        Assert.DoesNotContain("'-5", Encoding.UTF8.GetString(Tables.Csv(new(["n"], [[-5m]]))));
    }

    [Fact]
    public void Xlsx_keeps_numbers_numbers_and_texts_texts()
    {
        using var file = new MemoryStream(Tables.Xlsx([("BOM", Of), ("Empty", new(["A", "B"], []))]));
        var rows = file.Query(useHeaderRow: true, sheetName: "BOM").Cast<IDictionary<string, object?>>().ToList();
        Assert.Equal(Hostile.Length, rows.Count);
        for (var i = 0; i < rows.Count; i++)
            Assert.Equal(0.125 * i, Convert.ToDouble(rows[i]["Number"], System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal(["=1+1", "+1", "-1+2"], rows.Take(3).Select(r => (string?)r["Text"]));
        Assert.Equal(["BOM", "Empty"], file.GetSheetNames());
        // No cell holds a formula: all of them are kept as texts or numbers.
        using var zip = new System.IO.Compression.ZipArchive(file);
        foreach (var sheet in zip.Entries.Where(e => e.FullName.StartsWith("xl/worksheets/", StringComparison.Ordinal) && e.FullName.EndsWith(".xml", StringComparison.Ordinal)))
        {
            using var reader = new StreamReader(sheet.Open());
            Assert.DoesNotContain("<x:f>", reader.ReadToEnd().Replace("<f>", "<x:f>"));
        }
    }
}
