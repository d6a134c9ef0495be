using System.Globalization;
using System.Net;
using System.Text;
using Juniperfall.Formats.Structures;
using QRCoder;

namespace Juniperfall.Server.Structures;

/// <summary>
/// A structure as pages for the shop floor, in HTML with paged media: title block, indented bill of materials, cut list, and for each made
/// item its operations with their instructions and what they consume.
/// </summary>
internal static class ShopFloorPage
{
    /// <param name="address">Where the structure is found again, for the QR code.</param>
    /// <param name="font">The font file as a data URI; null falls back to what the machine has.</param>
    public static string Write(ResultView result, StructureFile file, string address, string? font)
    {
        var html = new StringBuilder();
        var head = $"{result.ProductCode}  {result.Name}";
        html.Append(CultureInfo.InvariantCulture, $$"""
            <!doctype html><html lang="en"><head><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; font-src data:"><title>{{Text(head)}}</title><style>
            {{(font is null ? "" : $"@font-face {{ font-family: Drawing; src: url({font}); font-weight: 100 900; }}")}}
            @page { size: A4; margin: 16mm 14mm 18mm; @bottom-left { content: {{Quoted(head)}}; font: 8pt Drawing, sans-serif; } @bottom-center { content: {{Quoted($"revision {result.RevisionNumber}, for {file.Quantity}")}}; font: 8pt Drawing, sans-serif; } @bottom-right { content: "page " counter(page) " of " counter(pages); font: 8pt Drawing, sans-serif; } }
            body { font: 9.5pt/1.35 Drawing, sans-serif; color: #222; margin: 0; font-variant-numeric: tabular-nums; }
            table { border-collapse: collapse; width: 100%; } td, th { border-bottom: .3pt solid #999; padding: 1.2pt 6pt 1.2pt 0; text-align: left; vertical-align: top; }
            th { font-weight: normal; font-style: italic; color: #555; font-size: 8.5pt; } tr { break-inside: avoid; } thead { display: table-header-group; }
            .n { text-align: right; } .b { display: inline-block; min-width: 16pt; border: .6pt solid #222; border-radius: 9pt; text-align: center; font-size: 7.5pt; line-height: 12pt; }
            .head { display: flex; border: .8pt solid #222; margin-bottom: 10pt; } .head > div { padding: 4pt 8pt; border-right: .4pt solid #222; } .head > div:first-child { flex: 1; min-width: 60mm; } .head > div:not(:first-child) { white-space: nowrap; } .head > div:last-child { border: 0; }
            .head i { display: block; font-size: 7.5pt; color: #555; } h1 { font-size: 14pt; margin: 0; } h2 { font-size: 11pt; margin: 12pt 0 3pt; break-after: avoid; } .q { color: #555; font-size: 8.5pt; } svg { width: 20mm; height: 20mm; }
            section.made { break-before: page; } .concession { border: 1.2pt solid #222; padding: 4pt 8pt; margin-bottom: 8pt; } .concession p { margin: 2pt 0 0; }
            </style></head><body>
            """);
        html.Append("<div class=head><div><h1>").Append(Text(result.Name)).Append("</h1>").Append(Text($"{result.ProductCode} {result.ProductLabel}"))
            .Append("</div>");
        foreach (var (label, value) in new (string, string?)[] { ("revision", $"{result.RevisionNumber} {result.RevisionState}"), ("quantity", file.Quantity),
            ("site", result.Site), ("day", result.Date?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)),
                     ("generated", $"{result.MadeAt:yyyy-MM-dd} by {result.Author}") })
            if (value is not null)
                html.Append("<div><i>").Append(label).Append("</i>").Append(Text(value)).Append("</div>");
        using var code = QRCodeGenerator.GenerateQrCode(address, QRCodeGenerator.ECCLevel.M);
        html.Append("<div>").Append(new SvgQRCode(code).GetGraphic(2, "#000", "#fff", drawQuietZones: false, SvgQRCode.SizingMode.ViewBoxAttribute))
            .Append("</div></div>");

        if (file.Concession is { } concession)
        {
            html.Append("<div class=concession><b>").Append(Text($"Concession {concession.Number}")).Append("</b> ")
                .Append(Text($"for at most {concession.Quantity} until {concession.Until:yyyy-MM-dd}, asked for by {concession.AskedBy}, "
                    + $"signed by {concession.SignedBy} on {concession.SignedOn:yyyy-MM-dd}. {concession.Reason}"));
            foreach (var rule in concession.Rules)
                html.Append("<p>Set aside: <b>").Append(Text(rule.Mark)).Append("</b> ").Append(Text(rule.Sentence)).Append("</p>");
            html.Append("</div>");
        }
        html.Append("<h2>What it comes to</h2><table><thead><tr><th><th class=n>Weight kg<th class=n>Work min<th class=n>Lead time "
            + "days</tr></thead><tr><td>one piece<td class=n>").Append(Short(file.Piece.Weight))
            .Append("<td class=n>").Append(Short(file.Piece.Work)).Append("<td></tr><tr><td>the order of ").Append(Short(file.Quantity)).Append("<td class=n>")
                .Append(Short(file.Order.Weight))
            .Append("<td class=n>").Append(Short(file.Order.Work)).Append("<td class=n>").Append(Short(file.LeadTimeDays)).Append("</tr></table>");
        html.Append("<h2>Answers</h2><table>");
        foreach (var answers in result.Answers.Chunk(2))
        {
            html.Append("<tr>");
            foreach (var a in answers)
                html.Append("<td class=q>").Append(Text(a.Label)).Append("</td><td>").Append(Text(a.Value)).Append("</td>");
            html.Append("</tr>");
        }
        html.Append("</table><h2>Bill of materials</h2><table><thead><tr><th>Position<th>Item<th>Description<th class=n>Per piece<th class=n>For the "
            + "order<th>Unit<th>Op.<th>Store<th>Issue</tr></thead>");
        Lines(file.Structure, 0);
        html.Append("</table>");
        var cuts = StructureWriter.Made(file.Structure).SelectMany(m => m.Made.Lines.Where(l => !l.Figures.IsDefaultOrEmpty).Select(l => (m.Made, Line: l)))
            .ToList();
        if (cuts.Count > 0)
        {
            html.Append("<h2>Cut list</h2><table><thead><tr><th>For<th>Position<th>Item<th>Description<th>Figures</tr></thead>");
            foreach (var (made, line) in cuts)
                html.Append("<tr><td>").Append(Text(made.Item)).Append("<td><span class=b>").Append(line.Position).Append("</span><td>")
                    .Append(Text(line.Item)).Append("<td>").Append(Text(line.Description.In()))
                    .Append("<td>").Append(string.Join("<br>", line.Figures.Select(f => Text($"{f.Name}: {f.Number} {f.Unit}")))).Append("</tr>");
            html.Append("</table>");
        }
        if (!file.Consumption.IsDefaultOrEmpty)
        {
            html.Append("<h2>Used for the order</h2><table><thead><tr><th>Item<th>Description<th class=n>Net<th class=n>Gross<th class=n>To "
                + "order<th>Unit</tr></thead>");
            foreach (var used in file.Consumption)
                html.Append("<tr><td>").Append(Text(used.Item)).Append("<td>").Append(Text(used.Description.In())).Append("<td class=n>")
                    .Append(Short(used.Net)).Append("<td class=n>").Append(Short(used.Gross))
                    .Append("<td class=n>").Append(Short(used.ToOrder)).Append("<td>")
                        .Append(Text(used.Unit.Length == 0 ? "pcs" : Core.Quantities.Unit.Readable(used.Unit))).Append("</tr>");
            html.Append("</table>");
        }
        foreach (var (made, _) in StructureWriter.Made(file.Structure))
            Routing(made);
        return html.Append("</body></html>").ToString();

        void Lines(MadeItem made, int depth)
        {
            foreach (var line in made.Lines)
            {
                html.Append("<tr><td style='padding-left:").Append(depth * 12).Append("pt'><span class=b>").Append(line.Position).Append("</span><td>")
                    .Append(Text(line.Item)).Append("<td>").Append(Text(line.Description.In()));
                if (!line.Instances.IsDefaultOrEmpty)
                    html.Append(" <span class=q>no. ").Append(string.Join(", ", line.Instances)).Append("</span>");
                if (!line.Substitutes.IsDefaultOrEmpty)
                    html.Append("<br><span class=q>instead: ").Append(Text(string.Join(", ", line.Substitutes))).Append("</span>");
                html.Append("<td class=n>").Append(line.PerOrder ? "" : Short(line.Gross)).Append("<td class=n>")
                    .Append(Short(line.OrderGross.Length > 0 ? line.OrderGross : line.Gross)).Append("<td>")
                    .Append(Text(line.Unit.Length == 0 ? "pcs" : Core.Quantities.Unit.Readable(line.Unit)))
                    .Append("<td>").Append(line.Operation).Append("<td>").Append(Text(line.Store)).Append("<td>")
                        .Append(line.Issue == "hand" ? "by hand" : "backflush").Append("</tr>");
                if (line.Structure is { } below)
                    Lines(below, depth + 1);
            }
        }

        void Routing(MadeItem made)
        {
            if (made.Operations.IsDefaultOrEmpty)
                return;
            html.Append("<section class=made><h2>").Append(Text($"{made.Item}  {made.Description.In()}"))
                .Append(made.Quantity.Length > 0 ? $": operations, {Short(made.Quantity)} made" : ": operations")
                .Append("</h2><table><thead><tr><th>Op.<th>Operation<th>Work centre<th class=n>Crew<th class=n>Set-up min<th class=n>Run min each<th "
                    + "class=n>For the order min<th>Done</tr></thead>");
            foreach (var (operation, i) in made.Operations.Select((o, i) => (o, i)))
            {
                html.Append("<tr><td>").Append(operation.Sequence).Append("<td><b>").Append(Text(operation.Label.Or(operation.Name))).Append("</b>");
                if (operation.Parallel.Length > 0)
                    html.Append(" <span class=q>at the same time: ").Append(Text(operation.Parallel)).Append("</span>");
                if (operation.Instructions.In() is { Length: > 0 } instructions)
                    html.Append("<br>").Append(Text(instructions));
                var consumed = made.Lines.Where(l => l.Operation == operation.Sequence
                    || (i == 0 && (l.Operation is null || made.Operations.All(o => o.Sequence != l.Operation)))).ToList();
                if (consumed.Count > 0)
                    html.Append("<br><span class=q>")
                        .Append(string.Join(" · ", consumed.Select(l => $"<span class=b>{l.Position}</span> {Text($"{l.Item} {Short(l.Gross)} {l.Unit}")}")))
                        .Append("</span>");
                html.Append("<td>").Append(Text(operation.WorkCentre)).Append("<td class=n>").Append(operation.Crew).Append("<td class=n>")
                    .Append(Short(operation.Setup)).Append("<td class=n>").Append(Short(operation.Run))
                    .Append(operation.Batch is { } batch ? $"<br><span class=q>for {Short(batch)}</span>" : "").Append("<td class=n>").Append(InAll(operation))
                        .Append("<td>☐</tr>");
            }
            html.Append("</table></section>");
        }
    }

    /// <summary>Set-up and run of the whole order, in minutes.</summary>
    private static string InAll(OperationFile operation) => Core.Quantities.Exact.TryParse(operation.OrderSetup, out var setup)
        && Core.Quantities.Exact.TryParse(operation.OrderRun, out var run) ? (setup + run).ToDisplay(1) : "";

    private static string Text(string text) => WebUtility.HtmlEncode(text);

    /// <summary>A text between quotes in a style sheet.</summary>
    private static string Quoted(string text) =>
        "\"" + string.Concat(text.Select(c => char.IsLetterOrDigit(c) || c is ' ' or ',' or '.' or '-' ? c.ToString() : $"\\{(int)c:x} ")) + "\"";

    private static string Short(string number) => Core.Quantities.Exact.TryParse(number, out var exact) ? exact.ToDisplay(3) : Text(number);
}
