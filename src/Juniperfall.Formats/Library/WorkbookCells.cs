using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Xml;
using ExcelDataReader;
using Juniperfall.Core;

namespace Juniperfall.Formats.Library;

/// <summary>
/// The cells of one sheet of a workbook (ECMA-376). A cell with a formula or an error, and merged cells, are refused: what they hold
/// depends on more than the cell.
/// </summary>
internal static class WorkbookCells
{
    private const int MostTold = 10;
    private const string Relationships = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";

    // The reader asks for an encoding of old workbooks before it looks at a new one.
    static WorkbookCells() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    private sealed record Part(string Name, bool Hidden, string Path);

    public static (List<string[]> Rows, Sheet Of, string? Error) Read(byte[] file, SheetChoice choice, CancellationToken cancel)
    {
        var rows = new List<string[]>();
        List<Part> parts;
        using (var archive = new ZipArchive(new MemoryStream(file)))
        {
            if (UnpackedSize.FaultOf(archive, cancel) is { } tooLarge)
                return (rows, new([], []), tooLarge);
            parts = Parts(archive);
            var of = new Sheet([], []) { Sheets = [.. parts.Select(p => new SheetName(p.Name, p.Hidden))] };
            if (parts.Count == 0)
                return (rows, of, "The workbook has no sheet.");
            // Without a choice the first sheet that can be seen is meant.
            var chosen = choice.Sheet is null
                ? parts.Find(p => !p.Hidden) ?? parts[0] : parts.Find(p => p.Name.Equals(choice.Sheet, StringComparison.OrdinalIgnoreCase));
            if (chosen is null)
                return (rows, of, $"The workbook has no sheet “{choice.Sheet}”; there are {string.Join(", ", parts.Select(p => p.Name))}.");
            of = of with { Read = new(chosen.Name) };
            if (Refused(archive, chosen, cancel) is { } refused)
                return (rows, of, refused);
            return (rows, of, Cells(file, parts.IndexOf(chosen), rows, cancel));
        }
    }

    private static string? Cells(byte[] file, int sheet, List<string[]> rows, CancellationToken cancel)
    {
        using var reader = ExcelReaderFactory.CreateOpenXmlReader(new MemoryStream(file));
        var text = 0L;
        for (var i = 0; i < sheet; i++)
            if (!reader.NextResult())
                return "The workbook names a sheet that it does not hold.";
        while (reader.Read())
        {
            cancel.ThrowIfCancellationRequested();
            if (rows.Count > Limits.MostTableRows)
                return SheetReader.TooMany;
            if (reader.FieldCount > Limits.MostTableColumns)
                return SheetReader.TooWide(rows.Count + 1);
            rows.Add([.. Enumerable.Range(0, reader.FieldCount).Select(i => Text(reader.GetValue(i), reader.GetNumberFormatString(i)))]);
            // A text that many cells share is one here, too, but not in what is made of it.
            if ((text += rows[^1].Sum(c => (long)c.Length)) > Limits.MostTableText)
                return SheetReader.TooMuchText;
        }
        return null;
    }

    private static string Text(object? cell, string? format) => cell switch
    {
        null => "",
        bool truth => truth ? "yes" : "no",
        // A cell of percentages holds hundredths and shows what people typed.
        double number when format?.Contains('%', StringComparison.Ordinal) == true => Number(number * 100) + "%",
        double number => Number(number),
        DateTime day => day.TimeOfDay == TimeSpan.Zero
            ? day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) : day.ToString("yyyy-MM-ddTHH:mm:ss", CultureInfo.InvariantCulture),
        _ => Convert.ToString(cell, CultureInfo.InvariantCulture) ?? "",
    };

    /// <summary>A spreadsheet keeps numbers as doubles; fifteen digits are what people typed.</summary>
    private static string Number(double number) => Math.Abs(number) < 1e15
        ? Math.Round((decimal)number, 12).ToString("0.###############", CultureInfo.InvariantCulture)
        : number.ToString("0.###############", CultureInfo.InvariantCulture);

    private static XmlReader Xml(ZipArchiveEntry entry) =>
        XmlReader.Create(entry.Open(), new() { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null, CloseInput = true });

    /// <summary>The sheets in the order of the workbook, each with the part that holds it, whatever that is called.</summary>
    private static List<Part> Parts(ZipArchive archive)
    {
        var targets = new Dictionary<string, string>();
        if (archive.GetEntry("xl/_rels/workbook.xml.rels") is { } relations)
            using (var xml = Xml(relations))
                while (xml.Read())
                    if (xml is { NodeType: XmlNodeType.Element, LocalName: "Relationship" } && xml.GetAttribute("Id") is { } id
                        && xml.GetAttribute("Target") is { } target)
                        targets[id] = target.StartsWith('/') ? target[1..] : "xl/" + target;
        var parts = new List<Part>();
        if (archive.GetEntry("xl/workbook.xml") is { } workbook)
            using (var xml = Xml(workbook))
                while (xml.Read())
                    if (xml is { NodeType: XmlNodeType.Element, LocalName: "sheet" })
                        parts.Add(new(xml.GetAttribute("name") ?? "", xml.GetAttribute("state") is "hidden" or "veryHidden",
                            targets.GetValueOrDefault(xml.GetAttribute("id", Relationships) ?? "", "")));
        return parts;
    }

    /// <summary>What of a sheet cannot be taken, with its places. Definitions of entities are not read at all.</summary>
    private static string? Refused(ZipArchive archive, Part part, CancellationToken cancel)
    {
        if (archive.GetEntry(part.Path) is not { } entry)
            return $"The sheet “{part.Name}” is not in the workbook.";
        var (formulas, merged, errors, cell) = (new List<string>(), new List<string>(), new List<string>(), "");
        using var xml = Xml(entry);
        while (xml.Read())
        {
            cancel.ThrowIfCancellationRequested();
            if (xml.NodeType == XmlNodeType.Element)
                switch (xml.LocalName)
                {
                    case "c":
                        cell = xml.GetAttribute("r") ?? "";
                        if (xml.GetAttribute("t") == "e")
                            errors.Add(cell);
                        break;
                    case "f":
                        formulas.Add(cell);
                        break;
                    case "mergeCell":
                        merged.Add(xml.GetAttribute("ref") ?? "");
                        break;
                }
        }
        string Some(List<string> places) => string.Join(", ", places.Take(MostTold)) + (places.Count > MostTold ? $" and {places.Count - MostTold} more" : "");
        return merged.Count > 0 ? $"Cells are merged at {Some(merged)}. Part them, so that every row has cells of its own."
            : formulas.Count > 0 ? $"There are formulas in {Some(formulas)}. Put their values in their place."
            : errors.Count > 0 ? $"There are errors, such as #N/A, in {Some(errors)}. Put values in their place, or empty them." : null;
    }
}
