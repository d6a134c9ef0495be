using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Library;

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
}
