using System.IO.Compression;
using System.Text;
using Juniperfall.Formats.Library;

namespace Juniperfall.Core.Tests;

/// <summary>Tables as they come in from files: what of them is taken, and what is refused with its place.</summary>
public class SheetsIn
{
    private static byte[] Workbook(string sheet)
    {
        using var memory = new MemoryStream();
        using (var archive = new ZipArchive(memory, ZipArchiveMode.Create))
        using (var entry = archive.CreateEntry("xl/worksheets/sheet1.xml").Open())
            entry.Write(Encoding.UTF8.GetBytes(sheet));
        return memory.ToArray();
    }

    [Theory]
    [InlineData("<worksheet><sheetData><row r=\"2\"><c r=\"B2\"><f>A1*2</f><v>4</v></c><c r=\"C2\"><f>1+1</f></c></row></sheetData></worksheet>", "There are formulas in B2, C2. Put their values in their place.")]
    [InlineData("<worksheet><sheetData/><mergeCells><mergeCell ref=\"A1:B1\"/></mergeCells></worksheet>", "Cells are merged at A1:B1. Part them, so that every row has cells of its own.")]
    [InlineData("<!DOCTYPE x [<!ENTITY e SYSTEM \"file:///etc/passwd\">]><worksheet><sheetData><row><c r=\"A1\"><v>&e;</v></c></row></sheetData></worksheet>", "The file is neither a CSV nor an XLSX file that can be read.")]
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
