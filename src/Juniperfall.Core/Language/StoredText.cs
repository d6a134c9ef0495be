using System.Collections.Immutable;
using System.Text;
using Juniperfall.Core.Models.Binding;

namespace Juniperfall.Core.Language;

/// <summary>
/// The stored form of an expression is the text as typed with every name replaced by ⟦its id⟧, so that renaming a thing
/// renames every use. Both directions keep blanks and line breaks as they are.
/// </summary>
public static class StoredText
{
    /// <summary>Replaces the given places by ids.</summary>
    public static string Bind(string text, IEnumerable<(Span Span, string Id)> references)
    {
        var result = new StringBuilder(text);
        foreach (var (span, id) in references.DistinctBy(r => r.Span.Start).OrderByDescending(r => r.Span.Start))
            result.Remove(span.Start, span.Length).Insert(span.Start, $"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}");
        return result.ToString();
    }

    /// <summary>The text as people see it, with the present names.</summary>
    public static string Show(string stored, ModelIndex index) => ShowWithMap(stored, index).Text;

    /// <summary>The text as people see it, and a function that carries a place in the stored text over to it.</summary>
    public static (string Text, Func<Span, Span> Map) ShowWithMap(string stored, ModelIndex index)
    {
        if (!stored.Contains(Lexer.ReferenceOpen))
            return (stored, span => span);
        var text = new StringBuilder();
        var starts = new List<(int Stored, int Shown)>();
        var position = 0;
        while (position < stored.Length)
        {
            starts.Add((position, text.Length));
            var close = stored[position] == Lexer.ReferenceOpen ? stored.IndexOf(Lexer.ReferenceClose, position) : -1;
            if (close < 0)
            {
                text.Append(stored[position++]);
                continue;
            }
            var id = stored[(position + 1)..close];
            text.Append(Printer.Name(index.NameOf(id) ?? "?"));
            position = close + 1;
        }
        starts.Add((stored.Length, text.Length));
        int At(int offset) => starts.Last(s => s.Stored <= offset).Shown;
        return (text.ToString(), span => new(At(span.Start), Math.Max(0, At(span.End) - At(span.Start))));
    }

    /// <summary>The stored text with other ids in the places of those that it refers to.</summary>
    public static string Renamed(string stored, Func<string, string> renamed)
    {
        foreach (var id in References(stored).Distinct().ToList())
            stored = stored.Replace($"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}", $"{Lexer.ReferenceOpen}{renamed(id)}{Lexer.ReferenceClose}",
                StringComparison.Ordinal);
        return stored;
    }

    /// <summary>The ids that a stored text refers to.</summary>
    public static IEnumerable<string> References(string stored)
    {
        for (var open = stored.IndexOf(Lexer.ReferenceOpen); open >= 0; open = stored.IndexOf(Lexer.ReferenceOpen, open + 1))
            if (stored.IndexOf(Lexer.ReferenceClose, open) is var close and > 0)
                yield return stored[(open + 1)..close];
    }
}
