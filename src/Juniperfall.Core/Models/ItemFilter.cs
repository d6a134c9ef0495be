using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models;

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

/// <summary>What expressions and grids read of items.</summary>
public static class ItemReading
{
    /// <summary>A constant as it is written in expressions: 27, 27 kg, -3 Cel; in base units. Null where the text is none.</summary>
    public static (Exact Number, Dimension Dimension)? Number(string text) => Parser.Parse(text) is { Diagnostics.Length: 0 } parsed ? parsed.Root switch
    {
        NumberSyntax number => (number.Unit.ToBase(number.Number), number.Unit.Dimension),
        UnarySyntax { Operator: UnaryOperator.Negate, Operand: NumberSyntax number } => (number.Unit.ToBase(-number.Number), number.Unit.Dimension),
        _ => null,
    } : null;

    /// <summary>The number that a text begins with, without its unit.</summary>
    internal static Exact Bare(string text) => Exact.TryParse(text.Split(' ')[0], out var number) ? number : Exact.Zero;

    /// <summary>
    /// The type that a property has over some items: yes/no or a number where all that have it agree, otherwise a text; null
    /// where none has it.
    /// </summary>
    public static ExpressionType? TypeOf(LibraryFacts facts, IEnumerable<string> items, string property)
    {
        var texts = items.Select(i => facts.Items.GetValueOrDefault(i)?.PropertyOf(property)).Where(t => !string.IsNullOrEmpty(t)).Distinct().ToList();
        if (texts.Count == 0)
            return null;
        if (texts.TrueForAll(t => t is "yes" or "no"))
            return ExpressionType.YesNo;
        var numbers = texts.Select(t => Number(t!)).ToList();
        return numbers.TrueForAll(n => n is not null)
            && numbers.Select(n => n!.Value.Dimension).Distinct().Count() == 1 ? ExpressionType.Number(numbers[0]!.Value.Dimension) : ExpressionType.Text;
    }

    /// <summary>A property of an item as a value of a type; nothing where the item or the property is not there.</summary>
    public static Value ValueOf(LibraryFacts facts, string item, string property, ExpressionType type) =>
        facts.Items.GetValueOrDefault(item)?.PropertyOf(property) is not { Length: > 0 } text ? Value.Nothing
        : type.Kind switch
        {
            TypeKind.YesNo => Value.Of(text == "yes"),
            TypeKind.Number =>
            Number(text) is var (number, _) ? Value.Of(number) : Value.Nothing,
            _ => Value.OfText(text)
        };

    /// <summary>All texts that an expression can come to, of those that are looked up.</summary>
    /// <param name="facts">The library as the expression reads it; null for that of the model.</param>
    public static IEnumerable<string> TextsOf(ModelIndex index, Bound text, Func<IInEffect, bool>? holds = null, LibraryFacts? facts = null) => text switch
    {
        BoundLiteral { Value: { Kind: ValueKind.Text, Text: { } written } } => [written],
        BoundIf choice => TextsOf(index, choice.Then, holds, facts).Concat(TextsOf(index, choice.Else, holds, facts)),
        BoundProperty property => index.Lists[property.ListId].Values.Where(v => holds?.Invoke(v) ?? true)
            .Select(v => v.Properties.GetValueOrDefault(property.PropertyId, "")),
        BoundGridFigure figure when index.Rows.GetValueOrDefault(figure.GridId) is CombinationGrid grid
            && grid.Columns.ToList().FindIndex(c => c.Id == figure.ColumnId) is >= 0 and var at =>
            DrawnRows.Of(grid, index.Facts).Select(r => at < r.Cells.Length ? DrawnRows.Unquoted(r.Cells[at]) : ""),
        BoundItemProperty of => TextsOf(index, of.Item, holds, facts)
            .Select(i => (facts ?? index.Facts).Items.GetValueOrDefault(i)?.PropertyOf(of.Property) ?? ""),
        _ => [],
    };
}
