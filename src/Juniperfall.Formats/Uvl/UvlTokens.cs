using System.Text;

namespace Juniperfall.Formats.Uvl;

internal enum UvlTokenKind { Symbol, Name, Number, Text }

internal readonly record struct UvlToken(UvlTokenKind Kind, string Text);

/// <summary>The tokens of one line of UVL. A name may have parts in double quotes, joined by dots.</summary>
internal static class UvlTokens
{
    private static readonly string[] Symbols =
        ["<=>", "=>", "==", "!=", "<=", ">=", "<", ">", "!", "&", "|", "(", ")", "{", "}", "[", "]", ",", "+", "-", "*", "/", ".."];

    public static List<UvlToken> Of(string line, out string? wrong)
    {
        wrong = null;
        var tokens = new List<UvlToken>();
        for (var at = 0; at < line.Length;)
        {
            if (char.IsWhiteSpace(line[at]))
            {
                at++;
                continue;
            }
            if (line[at] == '\'')
            {
                var end = line.IndexOf('\'', at + 1);
                if (end < 0)
                {
                    wrong = "A text is not closed.";
                    return tokens;
                }
                tokens.Add(new(UvlTokenKind.Text, line[(at + 1)..end]));
                at = end + 1;
            }
            else if (char.IsAsciiDigit(line[at]))
            {
                var start = at;
                while (at < line.Length && (char.IsAsciiDigit(line[at]) || (line[at] == '.' && at + 1 < line.Length && char.IsAsciiDigit(line[at + 1]))))
                    at++;
                // A name may begin with digits.
                if (at < line.Length && IsNamePart(line[at]))
                    tokens.Add(new(UvlTokenKind.Name, Name(line, start, ref at, out wrong)));
                else
                    tokens.Add(new(UvlTokenKind.Number, line[start..at]));
            }
            else if (IsNamePart(line[at]) || line[at] == '"')
                tokens.Add(new(UvlTokenKind.Name, Name(line, at, ref at, out wrong)));
            else if (Array.Find(Symbols, s => string.CompareOrdinal(line, at, s, 0, s.Length) == 0) is { } symbol)
            {
                tokens.Add(new(UvlTokenKind.Symbol, symbol));
                at += symbol.Length;
            }
            else
                wrong = $"“{line[at]}” does not belong here.";
            if (wrong is not null)
                return tokens;
        }
        return tokens;
    }

    private static bool IsNamePart(char c) => char.IsLetterOrDigit(c) || c is '_' or '#' or '§' or '%' or '?' or '\\' or '’' or ';' or '$';

    private static string Name(string line, int start, ref int at, out string? wrong)
    {
        wrong = null;
        var name = new StringBuilder();
        at = start;
        while (true)
        {
            if (at < line.Length && line[at] == '"')
            {
                var end = line.IndexOf('"', at + 1);
                if (end < 0)
                {
                    wrong = "A quoted name is not closed.";
                    return name.ToString();
                }
                name.Append(line, at + 1, end - at - 1);
                at = end + 1;
            }
            else
                while (at < line.Length && IsNamePart(line[at]))
                    name.Append(line[at++]);
            if (at + 1 >= line.Length || line[at] != '.' || line[at + 1] == '.')
                return name.ToString();
            name.Append('.');
            at++;
        }
    }
}
