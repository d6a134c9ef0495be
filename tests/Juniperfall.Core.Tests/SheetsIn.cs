using System.IO.Compression;
using System.Text;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Formats.Library;

namespace Juniperfall.Core.Tests;

/// <summary>Tables as they come in from files: what of them is taken, and what is refused with its place.</summary>
public class SheetsIn
{
    private static byte[] Workbook(string sheet, Action<ZipArchive>? more = null)
    {
        using var memory = new MemoryStream();
        using (var archive = new ZipArchive(memory, ZipArchiveMode.Create))
        {
            Write("[Content_Types].xml", """<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>""");
            Write("xl/workbook.xml", """
                <workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships">
                <sheets><sheet name="notes" sheetId="1" state="hidden" r:id="r1"/><sheet name="items" sheetId="2" r:id="r2"/><sheet name="more" sheetId="3" r:id="r3"/></sheets></workbook>
                """);
            // The parts have names of their own, and are not in the order of the sheets.
            Write("xl/_rels/workbook.xml.rels", """
                <Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="/xl/data/a.xml"/>
                <Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet9.xml"/><Relationship Id="r3" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/>
                <Relationship Id="s" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/styles" Target="styles.xml"/></Relationships>
                """);
            Write("xl/styles.xml", """<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><cellXfs count="2"><xf numFmtId="0"/><xf numFmtId="10"/></cellXfs></styleSheet>""");
            const string open = "<worksheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\">";
            Write("xl/worksheets/sheet9.xml", open + "<sheetData><row r=\"1\"><c r=\"A1\" t=\"e\"><f>1/0</f><v>#DIV/0!</v></c></row></sheetData></worksheet>");
            Write("xl/worksheets/sheet1.xml",
                open + "<sheetData><row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>other</t></is></c></row></sheetData></worksheet>");
            Write("xl/data/a.xml", sheet.Replace("<worksheet>", open));
            more?.Invoke(archive);

            void Write(string name, string text)
            {
                using var entry = archive.CreateEntry(name).Open();
                entry.Write(Encoding.UTF8.GetBytes(text.Trim()));
            }
        }
        return memory.ToArray();
    }

    private const string Three = "<worksheet><sheetData><row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>code</t></is></c><c r=\"B1\" "
        + "t=\"inlineStr\"><is><t>discount %</t></is></c></row><row r=\"2\"><c r=\"A2\" t=\"inlineStr\"><is><t>D</t></is></c><c r=\"B2\" "
        + "s=\"1\"><v>0.125</v></c></row></sheetData></worksheet>";

    [Fact]
    public void Of_a_workbook_the_first_sheet_that_is_seen_is_read_or_the_one_that_is_named_and_a_percentage_is_what_it_shows()
    {
        var sheet = SheetReader.Read(Workbook(Three)).Sheet!;
        Assert.Equal([("notes", true), ("items", false), ("more", false)], sheet.Sheets.Select(s => (s.Name, s.Hidden)));
        Assert.Equal(("items", "12.5%"), (sheet.Read.Sheet, sheet.Rows[0][1]));
        var change = LibraryTables.CustomerClasses.Read(sheet, _ => null);
        Assert.Equal("12.5", Assert.Single(change.Good).Discount);
        Assert.Equal("other", Assert.Single(SheetReader.Read(Workbook(Three), new("more")).Sheet!.Columns));
        // A hidden sheet can be named, too; what is wrong with it is not held against the others.
        Assert.Equal("There are formulas in A1. Put their values in their place.", SheetReader.Read(Workbook(Three), new("Notes")).Error);
        Assert.Equal("The workbook has no sheet “none”; there are notes, items, more.", SheetReader.Read(Workbook(Three), new("none")).Error);
    }

    /// <summary>A part of a workbook that repeats some text; it packs well.</summary>
    private static void Repeat(ZipArchive archive, string name, string start, string text, long characters, string end)
    {
        using var entry = archive.CreateEntry(name).Open();
        entry.Write(Encoding.UTF8.GetBytes(start));
        var block = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Repeat(text, 100_000 / text.Length)));
        for (var written = 0L; written < characters; written += block.Length)
            entry.Write(block);
        entry.Write(Encoding.UTF8.GetBytes(end));
    }

    public static TheoryData<string, string, string, long, string> Bombs => new()
    {
        { "xl/sharedStrings.xml", "<sst><si><t>", "a", 300_000_000, "A text of the workbook is longer than 262144 characters." },
        { "xl/sharedStrings.xml", "<sst>", "<si><t>aaaaaaaaaaaaaaa</t></si>", 300_000_000, "The workbook is larger than 64 MB once it is unpacked." },
        { "xl/worksheets/sheet2.xml", "<worksheet>", "<row/>", 600_000_000, "The workbook is larger than 512 MB once it is unpacked." },
        { "anything", "", "\0", 300_000_000, "A text of the workbook is longer than 262144 characters." },
    };

    [Theory]
    [MemberData(nameof(Bombs))]
    public void A_small_file_that_unpacks_to_a_large_one_is_refused_before_it_fills_the_memory(string part, string start, string text, long characters,
        string error)
    {
        var file = Workbook(Three, archive => Repeat(archive, part, start, text, characters, ""));
        Assert.True(file.Length < 4_000_000);
        var before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Equal(error, SheetReader.Read(file).Error);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 20_000_000);
    }

    [Fact]
    public void A_text_that_many_cells_share_counts_each_time()
    {
        var cells = string.Concat(Enumerable.Range(1, 100).Select(c => $"<c t=\"s\"><v>0</v></c>"));
        var sheet = "<worksheet><sheetData>" + string.Concat(Enumerable.Range(1, 100).Select(r => $"<row r=\"{r}\">{cells}</row>"))
            + "</sheetData></worksheet>";
        var file = Workbook(sheet, archive =>
        {
            using var relations = new StreamWriter(archive.CreateEntry("xl/sharedStrings.xml").Open());
            relations.Write($"<sst xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><si><t>{new string('a', 30_000)}</t></si></sst>");
        });
        Assert.StartsWith("The cells of the file hold more than 64 million characters.", SheetReader.Read(file).Error);
    }

    [Fact]
    public void A_workbook_of_any_bytes_is_a_table_or_a_fault()
    {
        var whole = Workbook(Three);
        Assert.Equal("The workbook has more than 1000 parts.", SheetReader.Read(Workbook(Three, archive =>
        {
            for (var i = 0; i < 1001; i++)
                archive.CreateEntry($"p{i}");
        })).Error);
        for (var seed = 0; seed < 500; seed++)
        {
            var random = new Random(seed);
            var file = whole.ToArray();
            for (var changes = random.Next(1, 12); changes > 0; changes--)
                file[random.Next(2, file.Length)] = (byte)random.Next(256);
            var cut = random.Next(4) == 0 ? file[..random.Next(2, file.Length)] : file;
            var result = SheetReader.Read(cut);
            Assert.True(result.Sheet is null != result.Error is null, $"seed {seed}");
        }
    }

    [Theory]
    [InlineData("a,b\n1,\"x\n2,y\n", "The quote that opens a cell in line 2 is never closed.")]
    [InlineData("a,b\n1,\"x\n2,\"y\n3,z\n",
        "The quote that opens a cell in line 2 is closed in the middle of a cell in line 3. A quote inside a cell is written twice.")]
    [InlineData("a,b\n1,5\" pipe\n", null)]
    [InlineData("a,b\n1,\"\"\"\"\n2,\"\"\n", null)]
    public void A_quote_that_is_not_closed_is_a_fault_with_its_line(string text, string? error) =>
        Assert.Equal(error, SheetReader.Read(Encoding.UTF8.GetBytes(text)).Error);

    [Theory]
    [InlineData("code;label;labour rate\nA;x, y;1.234,50\n", ';', true, "1234.5")]
    [InlineData("code\tlabel\tlabour rate\nA\tx\t12,5\n", '\t', true, "12.5")]
    [InlineData("code,label,labour rate\nA,x,12.5\n", ',', false, "12.5")]
    [InlineData("code;label;labour rate\nA;x;12.5\nB;y;1,5\n", ';', false, null)]
    public void Separator_and_decimal_comma_are_recognised_and_can_be_said(string text, char separator, bool comma, string? rate)
    {
        var sheet = SheetReader.Read(Encoding.UTF8.GetBytes(text)).Sheet!;
        Assert.Equal((separator, comma), (sheet.Read.Separator, sheet.Read.DecimalComma));
        var change = LibraryTables.WorkCentres.Read(sheet, _ => null);
        Assert.Equal(rate, change.Faults.Count > 0 ? null : change.Good[0].LabourRate);
        // Texts keep their commas.
        Assert.StartsWith("x", change.Good[0].Label.In());
        var said = SheetReader.Read(Encoding.UTF8.GetBytes(text), new(null, '|', !comma)).Sheet!;
        Assert.Equal((separator, !comma), (said.Read.Separator, said.Read.DecimalComma));
        Assert.Single(SheetReader.Read(Encoding.UTF8.GetBytes(text), new(null, separator == ';' ? '\t' : ';')).Sheet!.Columns);
    }

    [Fact]
    public void What_a_table_would_do_is_told_cell_by_cell()
    {
        var sheet = SheetReader.Read(Encoding.UTF8.GetBytes("code,label,labour rate\nBENCH,Bench,36\nSAW,Saw,40\nNEW,New,12\n")).Sheet!;
        var facts = SmallModels.Facts.WorkCentres.Add("SAW", new() { Code = "SAW", Label = LocalText.English("Old saw"), LabourRate = "40" });
        var change = LibraryTables.WorkCentres.Read(sheet, facts.GetValueOrDefault);
        Assert.Equal([(2, "BENCH", "label", "", "Bench", false), (3, "SAW", "label", "Old saw", "Saw", false)],
            change.Cells.Where(c => !c.IsNew).Select(c => (c.Row, c.Key, c.Column, c.Before, c.After, c.IsNew)));
        Assert.Contains(change.Cells, c => c is { Row: 4, IsNew: true, Column: "labour rate", Before: "", After: "12" });
        Assert.Equal(change.Cells.Count, change.CellCount);
    }

    [Theory]
    [InlineData("<worksheet><sheetData><row r=\"2\"><c r=\"B2\"><f>A1*2</f><v>4</v></c><c r=\"C2\"><f>1+1</f></c></row></sheetData></worksheet>",
        "There are formulas in B2, C2. Put their values in their place.")]
    [InlineData("<worksheet><sheetData/><mergeCells><mergeCell ref=\"A1:B1\"/></mergeCells></worksheet>",
        "Cells are merged at A1:B1. Part them, so that every row has cells of its own.")]
    [InlineData("<worksheet><sheetData><row r=\"2\"><c r=\"B2\" t=\"e\"><v>#N/A</v></c></row></sheetData></worksheet>",
        "There are errors, such as #N/A, in B2. Put values in their place, or empty them.")]
    [InlineData("<!DOCTYPE x [<!ENTITY e SYSTEM \"file:///etc/passwd\">]><worksheet><sheetData><row><c r=\"A1\"><v>&e;</v></c></row></sheetData></worksheet>",
        "The file is neither a CSV nor an XLSX file that can be read.")]
    public void Formulas_merged_cells_and_entities_are_refused(string sheet, string error) => Assert.Equal(error, SheetReader.Read(Workbook(sheet)).Error);

    [Theory]
    [InlineData("a,b\r\n1,\"x, \"\"y\"\"\nz\"\r\n", "1|x, \"y\"\nz")]
    [InlineData("a;b\n1,5;x\n\n", "1,5|x")]
    [InlineData("\uFEFFa\tb\r\n'=1+1\t'quoted'\r\n", "=1+1|'quoted'")]
    public void Tables_are_read_whatever_parts_their_cells(string text, string first)
    {
        var (sheet, error) = SheetReader.Read(Encoding.UTF8.GetBytes(text));
        Assert.Null(error);
        Assert.Equal(["a", "b"], sheet!.Columns);
        Assert.Equal(first, string.Join('|', Assert.Single(sheet.Rows)));
    }
}
