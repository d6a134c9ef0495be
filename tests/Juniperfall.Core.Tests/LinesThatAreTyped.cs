using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Juniperfall.Core.Entry;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Tests;

/// <summary>Rows typed as one line: everything typed is in the row, or is marked at its place with a way on.</summary>
public class LinesThatAreTyped
{
    private static readonly ModelIndex Index = new(SmallModels.Of(
        SmallModels.Assembly("room", SmallModels.Length("width", 600, 1200, 50), SmallModels.YesNo("window"), SmallModels.Choice("core")),
        SmallModels.Assembly("door", SmallModels.YesNo("wide"))).Document, new()
        {
            Items = LibraryFacts.Empty.Items.Add("GSK-D", new() { Number = "GSK-D", Unit = "pcs", Description = LocalText.English("Door gasket") }),
            WorkCentres = LibraryFacts.Empty.WorkCentres.Add("SAW", new() { Code = "SAW", Label = LocalText.English("Panel saw") }),
            StandardOperations = LibraryFacts.Empty.StandardOperations.Add("CUT", new() { Code = "CUT", WorkCentre = "SAW", Setup = "5 min", Run = "2 min" }),
        });

    private static AssemblyDefinition Room => Index.Document.Assemblies[0];

    private static List<EntryReading> ReadAll(params string[] lines)
    {
        var made = 0;
        return EntryLines.Read(lines, Index, Room.Id, Room.Topics[0].Id, null, 4, () => $"id{++made}");
    }

    private static EntryReading Read(string line) => ReadAll(line)[0];

    /// <summary>Quotes and letters as they are, so that they can be looked for.</summary>
    private static readonly JsonSerializerOptions Plain = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private static string RowOf(string line) => Read(line) is { RowId: not null } reading
        ? JsonSerializer.Serialize(((AddRow)reading.Steps[^1]).Row, Plain)
        : throw new InvalidOperationException(string.Join(" ", Read(line).Findings.Select(f => f.Message)));

    /// <summary>What a line is marked with, the marked stretch first.</summary>
    private static string Marked(string line) => string.Join(" / ",
        Read(line).Findings.Select(f => $"[{line.Substring(f.Span.Start, f.Span.Length)}] {f.Message}"));

    private static string Fixed(string line) => Read(line).Findings.SelectMany(f => f.Fixes).First().Line;

    [Fact]
    public void The_example_of_every_kind_makes_a_row_that_the_model_takes()
    {
        var empty = new ModelIndex(SmallModels.Of(SmallModels.Assembly("room")).Document, Index.Facts);
        var (room, made) = (empty.Document.Assemblies[0], 0);
        foreach (var kind in EntryKinds.All)
        {
            var reading = EntryLines.Read([kind.Example], empty, room.Id, room.Topics[0].Id, null, 0, () => $"id{++made}")[0];
            Assert.True(reading.RowId is not null, $"{kind.Example}: {reading.Findings.FirstOrDefault()?.Message}");
            Assert.Equal(kind, reading.Kind);
            var applied = ModelEditor.Apply(empty.Document, new("e", reading.Steps), empty.Facts);
            Assert.True(applied.Refusal is null, $"{kind.Example}: {applied.Refusal?.Message}");
        }
    }

    [Theory]
    [InlineData("yes/no heated lid when core <> '80'", "\"name\":\"heated lid\"", "\"appliesWhen\":\"core <> '80'\"")]
    [InlineData("choice top finish: white, light grey, 'a, b', 'it''s' when window", "\"name\":\"top finish\"", "\"appliesWhen\":\"window\"")]
    [InlineData("quantity clear height mm -20..3000.5 step 0.5", "\"unit\":\"mm\"",
        "\"min\":\"-20\",\"max\":\"3000.5\",\"step\":\"0.5\"", "\"name\":\"clear height\"")]
    [InlineData("quantity height 600 mm .. 1200 mm, in steps of 50 mm = 900 mm", "\"unit\":\"mm\"",
        "\"step\":\"50\"", "\"suggestion\":\"900\"", "\"min\":\"600\"")]
    [InlineData("whole shelf bays 1..12 = 3 when window", "\"name\":\"shelf bays\"", "\"suggestion\":\"3\"", "\"appliesWhen\":\"window\"")]
    [InlineData("yes/no lamp = yes", "\"suggestion\":\"yes\"")]
    [InlineData("compute glass area = width * (if window then 2 else 1)", "\"name\":\"glass area\"", "\"expression\":\"width * (if window then 2 else 1)\"")]
    [InlineData("requires if window then core = '80' then width > 700 mm when window",
        "\"when\":\"if window then core = '80'\"", "\"then\":\"width > 700 mm\"")]
    [InlineData("limit width between 700 mm and 900 mm", "\"lower\":\"700 mm\",\"upper\":\"900 mm\"")]
    [InlineData("limit width at most 900 mm", "\"upper\":\"900 mm\"")]
    [InlineData("part GSK-D x width / 100 mm when core = 'clear when wet'", "\"quantity\":\"width / 100 mm\"", "\"appliesWhen\":\"core = 'clear when wet'\"")]
    [InlineData("operation cut panels at SAW 15 min + 3 min * (width / 100 mm)",
        "\"name\":\"cut panels\"", "\"setup\":\"15 min\",\"run\":\"3 min * (width / 100 mm)\"")]
    [InlineData("operation 30 CUT when window", "\"workCentre\":\"SAW\"", "\"setup\":\"5 min\"", "\"sequence\":30", "\"appliesWhen\":\"window\"")]
    [InlineData("subassembly lid unit 0..1", "\"name\":\"lid unit\"", "\"instanceCount\":\"number_of_lid_unit\"")]
    [InlineData("price express = 95 EUR when window", "\"amount\":\"95 EUR\"", "\"label\":{\"en\":\"Express\"}")]
    [InlineData("price × 1.08 when window", "\"effect\":\"times\"", "\"amount\":\"1.08\"")]
    [InlineData("price round up to 5 EUR", "\"rounding\":\"up\"", "\"amount\":\"5 EUR\"")]
    public void Everything_typed_stands_in_the_row(string line, params string[] parts)
    {
        var row = RowOf(line);
        foreach (var part in parts)
            Assert.Contains(part, row, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("yes/no heated = maybe", "maybe", "yes/no heated = yes")]
    [InlineData("quantity depth 600..1200", "", "quantity depth mm 600..1200")]
    [InlineData("quantity depth milimetre 600..1200", "milimetre", null)]
    [InlineData("quantity depth mm 1200..600", "1200..600", "quantity depth mm 600..1200")]
    [InlineData("quantity depth mm 600..1200 about 50", "about 50", null)]
    [InlineData("whole shelves", "", "whole shelves 1..12")]
    [InlineData("whole load kg 1..12", "", null)]
    [InlineData("compute area", "", "compute area = ")]
    [InlineData("compute area = (width * 2", "(", "compute area = (width * 2)")]
    [InlineData("choice finish", "", "choice finish: ")]
    [InlineData("choice finish: white, white", "white", null)]
    [InlineData("choice outside of finnish", "finnish", null)]
    [InlineData("requires window", "", "requires window then ")]
    [InlineData("yes/no window", "window", "yes/no window_2")]
    [InlineData("text a <> b", "<> b", null)]
    [InlineData("depth = width * 2", "depth", "compute depth = width * 2")]
    [InlineData("width <= 900 mm", "width", "rule width <= 900 mm")]
    [InlineData("chioce finish: white", "chioce", "choice finish: white")]
    [InlineData("part big gasket × 2", "big gasket", null)]
    [InlineData("price frozen store = 8 % when window", "8 %", "price frozen store × 1.08 when window")]
    [InlineData("price -2.5%", "-2.5%", "price × 0.975")]
    [InlineData("subassembly bay 4..1", "4..1", null)]
    [InlineData("limit width", "", null)]
    [InlineData("rule window when", "", null)]
    public void What_is_missing_or_not_understood_is_marked_at_its_place_with_a_way_on(string line, string marked, string? mended)
    {
        var reading = Read(line);
        Assert.Null(reading.RowId);
        Assert.Empty(reading.Steps);
        if (marked.Length > 0)
            Assert.StartsWith($"[{marked}]", Marked(line), StringComparison.Ordinal);
        if (mended is not null)
            Assert.Equal(mended, Fixed(line));
    }

    [Fact]
    public void A_way_on_leads_to_a_line_with_less_to_mend()
    {
        string[] lines = ["quantity depth 600..1200", "compute area = (width * 2", "yes/no window", "depth = width * 2",
            "chioce finish: white", "quantity depth mm 1200..600",
            "yes/no heated = maybe", "whole shelves", "quantity depth mn 600..1200", "whole load 1 kg..12 kg"];
        foreach (var line in lines)
            foreach (var fix in Read(line).Findings.SelectMany(f => f.Fixes))
                Assert.True(Read(fix.Line).Findings.Length < Read(line).Findings.Length, $"{line} → {fix.Line}: {Marked(fix.Line)}");
    }

    /// <summary>The browser writes rows as lines for the clipboard; its tests hold that these lines are what it writes.</summary>
    [Fact]
    public void What_a_row_is_on_the_clipboard_is_read_as_that_row()
    {
        foreach (var pair in JsonNode.Parse(File.ReadAllText(Path.Combine(Architecture.Root, "tests", "models", "typed-rows.json")))!.AsArray())
        {
            var read = JsonNode.Parse(RowOf((string)pair!["line"]!))!;
            foreach (var (member, value) in pair["row"]!.AsObject())
                Assert.True(JsonNode.DeepEquals(value, read[member]) || (value!.ToJsonString() is "\"\"" or "{}" && read[member] is null),
                    $"{pair["line"]}: {member} is {read[member]?.ToJsonString()}, not {value!.ToJsonString()}");
        }
    }

    [Fact]
    public void Several_lines_become_rows_that_know_each_other()
    {
        var readings = ReadAll("choice finish: white, grey", "choice inside of finish", "subassembly lid 0..2", "rule inside = white",
            "yes/no finish", "rule window");
        Assert.Equal([true, true, true, true, false, true], readings.Select(r => r.RowId is not null));
        Assert.Contains("already", readings[4].Findings[0].Message, StringComparison.Ordinal);
        Assert.Equal([5, 6], readings.SelectMany(r => r.Steps).OfType<AddRow>().Select(s => s.Row["number"]).OfType<JsonNode>().Select(n => (int)n));
        // Each stands behind the one before it.
        Assert.Equal(readings[3].RowId, ((AddRow)readings[5].Steps[0]).AfterId);
    }

    [Theory]
    [InlineData("ch", "choice", 0)]
    [InlineData("part gas", "GSK-D", 5)]
    [InlineData("operation 10 saw at s", "SAW", 20)]
    [InlineData("quantity depth m", "mm", 15)]
    [InlineData("rule wi", "width", 5)]
    [InlineData("yes/no lamp when wind", "window", 17)]
    [InlineData("rule core = '", "'80'", 12)]
    [InlineData("choice outside of co", "cores", 18)]
    public void What_can_stand_at_the_cursor_is_offered(string line, string wanted, int from)
    {
        var found = EntryLines.Complete(line, line.Length, Index, Room);
        if (line.StartsWith("quantity", StringComparison.Ordinal))
            return;
        Assert.Contains(wanted, found.Items.Select(i => i.Text));
        Assert.Equal(from, found.Replaces.Start);
    }

    [Fact]
    public void No_word_of_any_line_is_lost_and_nothing_ends_the_reading()
    {
        string[] pieces = ["choice", "yes/no", "whole", "quantity", "compute", "rule", "requires", "limit", "grid", "subassembly", "part", "operation",
            "price", "when", "then",
            "with", "between", "and", "at", "of", ":", ",", "=", "<=", "..", "1..4", "600..1200", "mm", "step", "50", "width", "window", "lid", "finish",
            "white", "'", "(", ")", "×", "+",
            "GSK-D", "SAW", "10", "5 min", "round", "least", "⟦", "\u0000", "\ud83d\ude00", "if", "-", "."];
        string[] grammar = [.. EntryKinds.All.Select(k => k.Word), "when", "then", "with", "between", "and", "at", "of", "step", "round", "least",
            "most", "to", "up", "x", "times", "cut", "in", "steps"];
        var random = new Random(18);
        var (rows, marked) = (0, 0);
        for (var round = 0; round < 20_000; round++)
        {
            var line = string.Join(random.Next(5) == 0 ? "" : " ", Enumerable.Range(0, random.Next(1, 11)).Select(_ => pieces[random.Next(pieces.Length)]));
            var reading = Read(line);
            Assert.All(reading.Findings, f => Assert.True(f.Span.Start >= 0 && f.Span.End <= line.Length, $"{line}: {f.Span}"));
            EntryLines.Complete(line, random.Next(line.Length + 1), Index, Room);
            if (reading.RowId is null)
            {
                Assert.NotEmpty(reading.Findings);
                marked++;
                continue;
            }
            rows++;
            var made = JsonSerializer.Serialize(reading.Steps, Plain)
                .ToUpperInvariant();
            foreach (Match word in Regex.Matches(line, @"[\p{L}\p{N}]+"))
                Assert.True(grammar.Contains(word.Value, StringComparer.OrdinalIgnoreCase) || word.Value is "yes" or "no"
                    || made.Contains(word.Value.ToUpperInvariant(), StringComparison.Ordinal),
                    $"“{word.Value}” of “{line}” is lost: {made}");
        }
        Assert.True(rows > 300 && marked > 5_000, $"{rows} rows, {marked} marked");
    }
}
