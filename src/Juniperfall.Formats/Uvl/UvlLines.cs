namespace Juniperfall.Formats.Uvl;

/// <param name="Indent">Columns of blanks before the text; a tab goes to the next multiple of eight.</param>
internal readonly record struct UvlLine(int Number, int Indent, string Text);

/// <summary>The lines of a UVL file that say something, without comments.</summary>
internal static class UvlLines
{
    public static IEnumerable<UvlLine> Of(string text)
    {
        var number = 0;
        foreach (var raw in WithoutBlockComments(text.TrimStart('\uFEFF')).Split('\n'))
        {
            number++;
            var line = WithoutComment(raw.TrimEnd('\r', ' ', '\t'));
            var indent = 0;
            var at = 0;
            for (; at < line.Length && line[at] is ' ' or '\t'; at++)
                indent += line[at] == '\t' ? 8 - indent % 8 : 1;
            if (at < line.Length)
                yield return new(number, indent, line[at..].TrimEnd());
        }
    }

    /// <summary>The text with blanks in place of block comments, so that lines and places stay; quotes and line comments are none of theirs.</summary>
    private static string WithoutBlockComments(string text)
    {
        if (!text.Contains("/*", StringComparison.Ordinal))
            return text;
        var plain = text.ToCharArray();
        var quote = '\0';
        for (var i = 0; i < plain.Length; i++)
            if (plain[i] == '\n')
                quote = '\0';
            else if (quote != '\0')
                quote = plain[i] == quote ? '\0' : quote;
            else if (plain[i] is '"' or '\'')
                quote = plain[i];
            else if (plain[i] == '/' && i + 1 < plain.Length && plain[i + 1] == '/')
                i = text.IndexOf('\n', i) is >= 0 and var end ? end - 1 : plain.Length;
            else if (plain[i] == '/' && i + 1 < plain.Length && plain[i + 1] == '*')
            {
                var close = text.IndexOf("*/", i + 2, StringComparison.Ordinal) is >= 0 and var at ? at + 2 : plain.Length;
                for (; i < close; i++)
                    if (plain[i] is not ('\n' or '\r'))
                        plain[i] = ' ';
                i--;
            }
        return new(plain);
    }

    private static string WithoutComment(string line)
    {
        var quote = '\0';
        for (var i = 0; i < line.Length; i++)
            if (quote != '\0')
                quote = line[i] == quote ? '\0' : quote;
            else if (line[i] is '"' or '\'')
                quote = line[i];
            else if (line[i] == '/' && i + 1 < line.Length && line[i + 1] == '/')
                return line[..i];
        return line;
    }
}
