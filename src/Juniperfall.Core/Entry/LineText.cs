using System.Text.RegularExpressions;
using Juniperfall.Core.Language;

namespace Juniperfall.Core.Entry;

/// <summary>A stretch of a typed line without the blanks around it. It knows its place, so that what is wrong with it can be marked there.</summary>
internal sealed class LineText
{
    private readonly string _line;

    /// <param name="span">A stretch of the line; blanks at its ends are left out.</param>
    public LineText(string line, Span span)
    {
        var (start, end) = (span.Start, span.End);
        while (start < end && char.IsWhiteSpace(line[start]))
            start++;
        while (end > start && char.IsWhiteSpace(line[end - 1]))
            end--;
        (_line, Span) = (line, new(start, end - start));
    }

    public Span Span { get; }
    public string Text => _line.Substring(Span.Start, Span.Length);
    public bool IsEmpty => Span.Length == 0;

    public LineText From(int start) => new(_line, new(start, Math.Max(0, Span.End - start)));
    public LineText Until(int end) => new(_line, new(Span.Start, Math.Max(0, end - Span.Start)));

    /// <summary>
    /// What stands before and behind the first of some words or signs that stands by itself, outside of quotes and brackets; null where none does.
    /// </summary>
    public (LineText Before, string Word, LineText After)? SplitAt(params ReadOnlySpan<string> words)
    {
        var (depth, ifs) = (0, 0);
        for (var at = Span.Start; at < Span.End; at++)
        {
            if (_line[at] is '\'' or '"')
            {
                at = EndOfQuote(at);
                continue;
            }
            depth += _line[at] is '(' or '[' ? 1 : _line[at] is ')' or ']' ? -1 : 0;
            if (depth > 0)
                continue;
            if (IsAt(at, "if"))
                ifs++;
            foreach (var word in words)
                if (IsAt(at, word))
                {
                    // The “then” of an “if” belongs to that.
                    if (word == "then" && ifs-- > 0)
                        break;
                    return (Until(at), word, From(at + word.Length));
                }
        }
        return null;
    }

    private int EndOfQuote(int at)
    {
        var close = _line.IndexOf(_line[at], at + 1, Span.End - at - 1);
        return close < 0 ? Span.End : close;
    }

    /// <summary>Whether a word stands at a place with no letter or digit beside it; signs stand anywhere.</summary>
    private bool IsAt(int at, string word)
    {
        if (at + word.Length > Span.End || string.Compare(_line, at, word, 0, word.Length, StringComparison.OrdinalIgnoreCase) != 0)
            return false;
        bool IsPart(int place) => place >= Span.Start && place < Span.End && (char.IsLetterOrDigit(_line[place]) || _line[place] == '_');
        return !char.IsLetter(word[0]) || (!IsPart(at - 1) && !IsPart(at + word.Length));
    }

    /// <summary>The first match of a pattern, with its place in the line; null where there is none.</summary>
    public (Match Match, Span Span)? Find(Regex pattern) =>
        pattern.Match(Text) is { Success: true } match ? (match, new(Span.Start + match.Index, match.Length)) : null;

    /// <summary>Parts with commas between, outside of quotes and brackets.</summary>
    public IEnumerable<LineText> ByCommas()
    {
        var rest = this;
        while (rest.SplitAt(",") is var (before, _, after))
        {
            yield return before;
            rest = after;
        }
        yield return rest;
    }

    /// <summary>The place of a quote or bracket that is not closed; null where all are.</summary>
    public int? Unclosed()
    {
        var open = new Stack<int>();
        for (var at = Span.Start; at < Span.End; at++)
            switch (_line[at])
            {
                case '\'' or '"':
                    if (EndOfQuote(at) is var close && close == Span.End)
                        return at;
                    at = close;
                    break;
                case '(' or '[':
                    open.Push(at);
                    break;
                case ')' or ']':
                    if (!open.TryPop(out _))
                        return at;
                    break;
            }
        return open.TryPop(out var last) ? last : null;
    }
}
