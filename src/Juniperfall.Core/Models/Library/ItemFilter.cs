using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Library;

/// <summary>
/// Which items of the register are meant: conditions joined by “and”, each a property, a comparison and a text:
/// <c>family = cooling unit and weight &lt; 60 kg and number begins C290</c>. A text with the
/// word “and” in it stands in double quotes. Case never matters.
/// </summary>
public sealed record ItemFilter
{
    private static readonly string[] Comparisons = ["<=", ">=", "<>", "=", "<", ">", " begins "];

    private sealed record Condition(string Property, string Comparison, string Text);

    private readonly ImmutableArray<Condition> _conditions;

    private ItemFilter(ImmutableArray<Condition> conditions) => _conditions = conditions;

    /// <summary>Reads a filter; the sentence says what is wrong with it.</summary>
    public static (ItemFilter? Filter, string? Fault) Parse(string text)
    {
        var conditions = ImmutableArray.CreateBuilder<Condition>();
        foreach (var part in System.Text.RegularExpressions.Regex
            .Split(text.Trim(), @"\s+and(?:\s+|$)(?=(?:[^""]*""[^""]*"")*[^""]*$)", System.Text.RegularExpressions.RegexOptions.IgnoreCase))
        {
            // What stands first compares; the text behind it may hold anything.
            var (at, word) = Comparisons.Select(c => (At: part.IndexOf(c, StringComparison.OrdinalIgnoreCase), Word: c)).Where(x => x.At >= 0)
                .OrderBy(x => x.At).ThenByDescending(x => x.Word.Length).FirstOrDefault((-1, ""));
            if (at < 0)
                return (null, $"“{part}” compares nothing; write a property, a comparison and a text, as in family = cooling unit.");
            var (property, wanted) = (part[..at].Trim(), part[(at + word.Length)..].Trim().Trim('\'', '"'));
            if (property.Length == 0 || wanted.Length == 0)
                return (null, $"In “{part}” {(property.Length == 0 ? "the property" : "what it is compared with")} is missing.");
            conditions.Add(new(property, word.Trim(), wanted));
        }
        return (new(conditions.ToImmutable()), null);
    }

    /// <summary>Whether an item is among them; one without the property is not.</summary>
    public bool Includes(ItemFact item) => _conditions.All(c => item.PropertyOf(c.Property) is { Length: > 0 } text && Holds(text, c));

    private static bool Holds(string text, Condition condition)
    {
        if (condition.Comparison == "begins")
            return text.StartsWith(condition.Text, StringComparison.OrdinalIgnoreCase);
        var order = ItemReading.Number(text) is var (a, of) && ItemReading.Number(condition.Text) is var (b, with) && (of == with || of.IsNone || with.IsNone)
            // A number without a unit is one of the unit beside it.
            ? of == with ? a.CompareTo(b) : ItemReading.Bare(text).CompareTo(ItemReading.Bare(condition.Text))
            : string.Compare(text, condition.Text, StringComparison.OrdinalIgnoreCase);
        return condition.Comparison switch { "=" => order == 0, "<>" => order != 0, "<" => order < 0, "<=" => order <= 0, ">" => order > 0, _ => order >= 0 };
    }
}
