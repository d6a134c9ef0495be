using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

public enum TokenKind { Number, Name, QuotedName, Text, Reference, Symbol, Keyword, End }

/// <summary>
/// A word of an expression. <see cref="Text"/> is its meaning: a keyword in lower case, a name without its quotes, a
/// symbol in canonical form. Number tokens carry their value and unit.
/// </summary>
public sealed record Token(TokenKind Kind, Span Span, string Text, Exact Number = default, Unit? Unit = null)
{
    public bool Is(string text) => Kind is TokenKind.Symbol or TokenKind.Keyword && Text == text;
}

/// <summary>Splits an expression into tokens. Never fails: what it cannot read becomes a diagnostic and is passed over.</summary>
public static class Lexer
{
    public static readonly IReadOnlySet<string> Keywords = new HashSet<string>(StringComparer.OrdinalIgnoreCase)
    {
        "and", "or", "not", "if", "then", "else", "in", "between", "where", "yes", "no", "none", "exactly", "at",
    };

    public const char ReferenceOpen = '⟦';
    public const char ReferenceClose = '⟧';

    public static List<Token> Read(string text, List<Diagnostic> diagnostics)
    {
        var tokens = new List<Token>();
        if (text.Length > Limits.LongestExpression)
        {
            diagnostics.Add(new(Fault.TooLong, new(Limits.LongestExpression, 1),
                $"This is longer than {Limits.LongestExpression} characters. Split it into computed attributes."));
            text = text[..Limits.LongestExpression];
        }
        var position = 0;
        while (position < text.Length)
        {
            var c = text[position];
            if (char.IsWhiteSpace(c)) { position++; continue; }
            var token = char.IsAsciiDigit(c) ? Number(text, position, diagnostics)
                : IsNameStart(c) ? Word(text, position)
                : c is '\'' or '"' ? Quoted(text, position, c, diagnostics)
                : c == ReferenceOpen && text.IndexOf(ReferenceClose, position) is var close and > 0
                    ? new Token(TokenKind.Reference, new(position, close - position + 1), text[(position + 1)..close])
                : Symbol(text, position);
            if (token is null)
            {
                diagnostics.Add(new(Fault.UnexpectedCharacter, new(position, 1), $"“{c}” has no meaning here."));
                position++;
                continue;
            }
            tokens.Add(token);
            position = token.Span.End;
        }
        tokens.Add(new(TokenKind.End, new(text.Length, 0), ""));
        return tokens;
    }

    public static bool IsNameStart(char c) => char.IsLetter(c) || c == '_' || char.IsSurrogate(c);
    public static bool IsNamePart(char c) => IsNameStart(c) || char.IsDigit(c)
        || char.GetUnicodeCategory(c) == System.Globalization.UnicodeCategory.NonSpacingMark;

    /// <summary>Whether a name can stand in an expression without quotes.</summary>
    public static bool IsPlainName(string name) =>
        name.Length > 0 && IsNameStart(name[0]) && name.All(IsNamePart) && !Keywords.Contains(name);

    private static Token Word(string text, int start)
    {
        var end = start;
        while (end < text.Length && IsNamePart(text[end]))
            end++;
        var word = text[start..end];
        return Keywords.Contains(word)
            ? new(TokenKind.Keyword, new(start, end - start), word.ToLowerInvariant())
            : new(TokenKind.Name, new(start, end - start), word);
    }

    private static Token Quoted(string text, int start, char quote, List<Diagnostic> diagnostics)
    {
        // A quote inside is written twice.
        var close = text.IndexOf(quote, start + 1);
        while (close >= 0 && close + 1 < text.Length && text[close + 1] == quote)
            close = text.IndexOf(quote, close + 2);
        if (close < 0)
        {
            diagnostics.Add(new(Fault.UnclosedQuote, new(start, text.Length - start), $"The closing {quote} is missing.", text[start..] + quote));
            close = text.Length;
        }
        var inner = text[(start + 1)..close].Replace($"{quote}{quote}", $"{quote}", StringComparison.Ordinal);
        return new(quote == '"' ? TokenKind.Text : TokenKind.QuotedName, new(start, Math.Min(close + 1, text.Length) - start), inner);
    }

    private static Token Number(string text, int start, List<Diagnostic> diagnostics)
    {
        var end = start;
        while (end < text.Length && char.IsAsciiDigit(text[end]))
            end++;
        if (end + 1 < text.Length && text[end] == '.' && char.IsAsciiDigit(text[end + 1]))
        {
            end++;
            while (end < text.Length && char.IsAsciiDigit(text[end]))
                end++;
        }
        // A comma between two digits without a blank is a decimal comma that someone typed out of habit.
        else if (end + 1 < text.Length && text[end] == ',' && char.IsAsciiDigit(text[end + 1]))
        {
            var comma = end++;
            while (end < text.Length && char.IsAsciiDigit(text[end]))
                end++;
            diagnostics.Add(new(Fault.DecimalComma, new(start, end - start),
                "Decimals are written with a point; after a comma that separates two numbers, put a blank.",
                text[start..comma] + "." + text[(comma + 1)..end]));
        }
        var digits = text[start..end].Replace(',', '.');
        if (!Exact.TryParse(digits, out var number))
            diagnostics.Add(new(Fault.BadNumber, new(start, end - start), $"A number has at most {Exact.MaximumDigits} digits."));
        var unitStart = end;
        while (unitStart < text.Length && text[unitStart] is ' ' or '\u00a0')
            unitStart++;
        var unitLength = Unit.LongestAt(text, unitStart);
        return unitLength > 0
            ? new(TokenKind.Number, new(start, unitStart + unitLength - start), digits, number, Unit.Parse(text.Substring(unitStart, unitLength)))
            : new(TokenKind.Number, new(start, end - start), digits, number, Unit.One);
    }

    private static Token? Symbol(string text, int position)
    {
        var two = position + 1 < text.Length ? text.Substring(position, 2) : "";
        var canonical = two switch { "<=" or ">=" or "<>" or ".." => two, "!=" => "<>", _ => null };
        if (canonical is not null)
            return new(TokenKind.Symbol, new(position, 2), canonical);
        canonical = text[position] switch
        {
            '+' or '*' or '/' or '(' or ')' or '[' or ']' or ',' or '.' or '=' or '<' or '>' or '^' or '-' => text[position].ToString(),
            '≤' => "<=",
            '≥' => ">=",
            '≠' => "<>",
            '×' or '·' => "*",
            '÷' => "/",
            '−' => "-",
            _ => null,
        };
        return canonical is null ? null : new(TokenKind.Symbol, new(position, 1), canonical);
    }
}
