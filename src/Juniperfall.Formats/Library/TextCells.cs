using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using CsvHelper;
using CsvHelper.Configuration;
using Juniperfall.Core;

namespace Juniperfall.Formats.Library;

/// <summary>The cells of a text by RFC 4180, with commas, semicolons or tabs between them.</summary>
internal static partial class TextCells
{
    private static readonly char[] Separators = [',', ';', '\t'];

    public static (List<string[]> Rows, Sheet Of, string? Error) Read(byte[] file, SheetChoice choice, CancellationToken cancel)
    {
        var text = new UTF8Encoding(false, throwOnInvalidBytes: true)
            .GetString(file.AsSpan().StartsWith(Encoding.UTF8.Preamble) ? file.AsSpan(Encoding.UTF8.Preamble.Length) : file);
        var separator = choice.Separator is { } chosen && Separators.Contains(chosen) ? chosen : SeparatorOf(text);
        var rows = new List<string[]>();
        var of = new Sheet([], []) { Read = new(null, separator, choice.DecimalComma) };
        if (FaultOfQuotes(text, separator) is { } fault)
            return (rows, of, fault);
        using var parser = new CsvParser(new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture) { Delimiter = separator.ToString(), BadDataFound = null, IgnoreBlankLines = true });
        while (parser.Read())
        {
            cancel.ThrowIfCancellationRequested();
            if (rows.Count > Limits.MostTableRows)
                return (rows, of, SheetReader.TooMany);
            if (parser.Record!.Length > Limits.MostTableColumns)
                return (rows, of, SheetReader.TooWide(rows.Count + 1));
            // An apostrophe in front keeps a text from being a formula; it is not part of the text.
            rows.Add([.. parser.Record.Select(c => c is ['\'', '=' or '+' or '-' or '@' or '\t' or '\r', ..] ? c[1..] : c)]);
        }
        return (rows, of with { Read = of.Read with { DecimalComma = choice.DecimalComma ?? HasDecimalCommas(rows) } }, null);
    }

    /// <summary>The sign that parts the names of the columns: most often there, outside of quotes.</summary>
    private static char SeparatorOf(string text)
    {
        var (counts, quoted) = (new int[Separators.Length], false);
        foreach (var c in text)
            if (c == '\n' && !quoted)
                break;
            else if (c == '"')
                quoted = !quoted;
            else if (!quoted && Array.IndexOf(Separators, c) is >= 0 and var at)
                counts[at]++;
        return Separators[Array.IndexOf(counts, counts.Max())];
    }

    /// <summary>Where decimal commas are the only decimals that there are.</summary>
    private static bool HasDecimalCommas(List<string[]> rows)
    {
        var (commas, points) = (0, 0);
        foreach (var cell in rows.Skip(1).SelectMany(r => r))
            if (cell.Contains(',', StringComparison.Ordinal) && Sheet.WithDecimalComma().IsMatch(cell.Trim().TrimEnd('%').TrimEnd()))
                commas++;
            else if (WithDecimalPoint().IsMatch(cell))
                points++;
        return commas > 0 && points == 0;
    }

    [GeneratedRegex(@"^\s*[+-]?\d+\.\d+\s*%?\s*$")]
    private static partial Regex WithDecimalPoint();

    /// <summary>A quote that opens a cell and is never closed, or closes in the middle of one, with the line that it opens in.</summary>
    private static string? FaultOfQuotes(string text, char separator)
    {
        var (line, opened, atStart) = (1, 0, true);
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (opened > 0)
            {
                if (c == '\n')
                    line++;
                if (c != '"')
                    continue;
                if (i + 1 < text.Length && text[i + 1] == '"')
                {
                    i++;
                    continue;
                }
                if (i + 1 < text.Length && text[i + 1] != separator && text[i + 1] is not ('\r' or '\n'))
                    return $"The quote that opens a cell in line {opened} is closed in the middle of a cell in line {line}. A quote inside a cell is "
                        + $"written twice.";
                opened = 0;
            }
            else if (c == '"' && atStart)
                opened = line;
            else
            {
                atStart = c == separator || c == '\n';
                if (c == '\n')
                    line++;
            }
        }
        return opened > 0 ? $"The quote that opens a cell in line {opened} is never closed." : null;
    }
}
