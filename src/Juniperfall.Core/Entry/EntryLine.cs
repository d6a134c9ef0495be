using Juniperfall.Core.Language;

namespace Juniperfall.Core.Entry;

/// <summary>
/// Reads a row that is typed as one line. Nothing of a line is ever left out: what is not understood is a finding at its place, and then there is no
/// row. Expressions are taken as they stand; what is wrong in them is told by the row.
/// </summary>
public static class EntryLine
{
    public static EntryReading Read(string line, EntryPlace place)
    {
        var reader = new EntryReader(line, place);
        if (line.Length > Limits.LongestExpression)
        {
            reader.Fault(new(Limits.LongestExpression, line.Length - Limits.LongestExpression), $"A line has at most {Limits.LongestExpression} characters.");
            return reader.Reading(null, null);
        }
        var whole = new LineText(line, new(0, line.Length));
        var blank = 0;
        while (blank < whole.Span.Length && !char.IsWhiteSpace(whole.Text[blank]) && whole.Text[blank] != ':')
            blank++;
        var word = whole.Until(whole.Span.Start + blank);
        reader.Part(EntryPartKind.Kind, word.Span);
        if (EntryKinds.Of(word.Text) is not { } kind)
        {
            NotAKind(reader, whole, word);
            return reader.Reading(null, null);
        }
        var rest = whole.From(word.Span.End);
        return reader.Reading(kind, kind.Word switch
        {
            "choice" or "several" or "yes/no" or "whole" or "quantity" or "text" or "compute" => AttributeLines.Read(reader, kind, rest),
            "rule" or "requires" or "excludes" or "limit" or "grid" => RuleLines.Read(reader, kind, rest),
            _ => StructureLines.Read(reader, kind, rest),
        });
    }

    private static void NotAKind(EntryReader reader, LineText whole, LineText word)
    {
        if (whole.IsEmpty)
        {
            reader.Missing(whole, "The first word says what the row is.");
            return;
        }
        var fixes = new List<EntryFix>();
        if (Spelling.Nearest(word.Text, EntryKinds.All.Select(k => k.Word)) is { } near)
            fixes.Add(reader.Instead(word.Span, near));
        // What is written without its first word is mostly one of these.
        if (whole.SplitAt("=", "<=", ">=", "<>") is var (before, sign, _))
        {
            if (sign == "=" && !before.IsEmpty && reader.Place.Index.Named(reader.Place.Assembly, before.Text.Trim('\'')) is null)
                fixes.Add(reader.Instead(new(whole.Span.Start, 0), "compute ", "compute it"));
            fixes.Add(reader.Instead(new(whole.Span.Start, 0), "rule ", "make it a rule"));
        }
        else if (whole.SplitAt(":") is not null)
            fixes.Add(reader.Instead(new(whole.Span.Start, 0), "choice ", "make it a choice"));
        reader.Fault(word.Span, $"The first word says what the row is: {string.Join(", ", EntryKinds.All.Select(k => k.Word))}.", [.. fixes]);
    }
}
