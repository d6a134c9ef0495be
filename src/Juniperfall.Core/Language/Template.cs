namespace Juniperfall.Core.Language;

/// <summary>
/// A text for people with expressions in braces, which are filled in with their values: “Cut to {leaf_width}”. A doubled
/// brace stands for itself.
/// </summary>
public static class Template
{
    /// <summary>A stretch of a template: text as it is, or the expression between two braces.</summary>
    public readonly record struct Piece(string Text, bool IsExpression, Span Span);

    public static IReadOnlyList<Piece> Split(string template)
    {
        var pieces = new List<Piece>();
        var text = new System.Text.StringBuilder();
        var (start, at) = (0, 0);
        void EndText(int end)
        {
            if (text.Length > 0)
                pieces.Add(new(text.ToString(), false, new(start, end - start)));
            text.Clear();
        }

        while (at < template.Length)
        {
            var c = template[at];
            if (c is '{' or '}' && at + 1 < template.Length && template[at + 1] == c)
            {
                text.Append(c);
                at += 2;
                continue;
            }
            // A brace that is never closed is a text like any other.
            if (c == '{' && template.IndexOf('}', at) is var close and > 0)
            {
                EndText(at);
                pieces.Add(new(template[(at + 1)..close], true, new(at + 1, close - at - 1)));
                at = start = close + 1;
                continue;
            }
            text.Append(c);
            at++;
        }
        EndText(template.Length);
        return pieces;
    }

    /// <summary>Replaces the names in the expressions by ids, as <see cref="StoredText.Bind"/> does for one expression.</summary>
    /// <param name="references">The places of the names in an expression, with their ids.</param>
    public static string Bind(string template, Func<string, IEnumerable<(Span Span, string Id)>> references)
    {
        var result = template;
        foreach (var piece in Split(template).Where(p => p.IsExpression).Reverse())
            result = result[..piece.Span.Start] + StoredText.Bind(piece.Text, references(piece.Text)) + result[piece.Span.End..];
        return result;
    }
}
