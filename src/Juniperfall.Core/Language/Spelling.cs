using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Language;

/// <summary>Finds what a misspelt word was probably meant to be.</summary>
public static class Spelling
{
    /// <summary>The nearest candidate within a third of the word's length, or null. Ties go to the first.</summary>
    public static string? Nearest(string word, IEnumerable<string> candidates)
    {
        var folded = Names.Fold(word);
        var limit = Math.Max(1, folded.Length / 3);
        return candidates.Select(c => (Candidate: c, Distance: Distance(folded, Names.Fold(c))))
            .Where(c => c.Distance <= limit).OrderBy(c => c.Distance).Select(c => c.Candidate).FirstOrDefault();
    }

    /// <summary>Optimal string alignment distance: insertions, deletions, replacements and swaps of neighbours count one.</summary>
    public static int Distance(string a, string b)
    {
        var rows = new int[a.Length + 1, b.Length + 1];
        for (var i = 0; i <= a.Length; i++)
            rows[i, 0] = i;
        for (var j = 0; j <= b.Length; j++)
            rows[0, j] = j;
        for (var i = 1; i <= a.Length; i++)
            for (var j = 1; j <= b.Length; j++)
            {
                var change = a[i - 1] == b[j - 1] ? 0 : 1;
                rows[i, j] = Math.Min(Math.Min(rows[i - 1, j] + 1, rows[i, j - 1] + 1), rows[i - 1, j - 1] + change);
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                    rows[i, j] = Math.Min(rows[i, j], rows[i - 2, j - 2] + 1);
            }
        return rows[a.Length, b.Length];
    }
}
