using System.Text;
using Juniperfall.Formats;
using MiniExcelLibs;

namespace Juniperfall.Core.Tests;

/// <summary>What leaves as a table comes out of a spreadsheet as it was, and never as a formula.</summary>
public class TablesOut
{
    private static readonly string[] Hostile =
        ["=1+1", "+1", "-1+2", "@SUM(A1)", "=cmd|' /C calc'!A0", "\t=1", "\r=1", "a,b", "say \"so\"", "two\r\nlines", " blank ", "", "漢 é", "<&>", "'quoted'"];

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

    private static readonly IReadOnlyList<(string, object?)> Head = [("Product", "CR Room"), ("Quantity", 5m), ("Day", new DateOnly(2027, 1, 31))];

    private static Task<byte[]> Book() =>
        Tables.Xlsx([new("BOM", Of with { Columns = ["Level", "Text", "Number", "Day"],
        Rows = [.. Of.Rows.Select((r, i) => (object?[])[.. r, new DateOnly(2027, 1, 1).AddDays(i)])] }, Head), new("Empty", new(["A", "B"], [])),
        new("Bom", new(["A"], [["x"]]))]);

    [Fact]
    public async Task Xlsx_keeps_numbers_numbers_days_days_and_texts_texts()
    {
        using var file = new MemoryStream(await Book());
        var rows = file.Query(useHeaderRow: true, sheetName: "BOM", startCell: "A5").Cast<IDictionary<string, object?>>().ToList();
        Assert.Equal(Hostile.Length, rows.Count);
        for (var i = 0; i < rows.Count; i++)
            Assert.Equal((0.125 * i, new DateTime(2027, 1, 1).AddDays(i)), (Assert.IsType<double>(rows[i]["Number"]), Assert.IsType<DateTime>(rows[i]["Day"])));
        Assert.Equal(["=1+1", "+1", "-1+2"], rows.Take(3).Select(r => (string?)r["Text"]));
        Assert.Equal(["BOM", "Empty", "Bom 2"], file.GetSheetNames());
        // No cell holds a formula: all of them are kept as texts or numbers. No element has a prefix, which some readers do not know.
        using var zip = new System.IO.Compression.ZipArchive(file);
        foreach (var sheet in zip.Entries
            .Where(e => e.FullName.StartsWith("xl/", StringComparison.Ordinal) && e.FullName.EndsWith(".xml", StringComparison.Ordinal)))
        {
            using var reader = new StreamReader(sheet.Open());
            var text = await reader.ReadToEndAsync();
            Assert.DoesNotContain("<f>", text);
            Assert.DoesNotContain("<x:", text);
        }
    }

    [Fact]
    public async Task Another_reader_finds_the_same_cells_and_columns_as_wide_as_their_text()
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        using var reader = ExcelDataReader.ExcelReaderFactory.CreateOpenXmlReader(new MemoryStream(await Book()));
        Assert.Equal("BOM", reader.Name);
        Assert.True(reader.Read());
        Assert.Equal(("Product", "CR Room"), (reader.GetString(0), reader.GetString(1)));
        Assert.True(reader.Read());
        Assert.Equal(5.0, reader.GetDouble(1));
        Assert.True(reader.Read());
        Assert.Equal(new DateTime(2027, 1, 31), reader.GetDateTime(1));
        Assert.True(reader.Read() && reader.Read());
        Assert.Equal("Text", reader.GetString(1));
        foreach (var text in Hostile)
        {
            Assert.True(reader.Read());
            // XML has only one way to end a line.
            Assert.Equal(text.Replace("\r\n", "\n").Replace("\r", "\n"), (reader.GetString(1) ?? "").Replace("\r\n", "\n").Replace("\r", "\n"));
        }
        Assert.True(reader.GetColumnWidth(1) > reader.GetColumnWidth(0));
    }
}
