namespace Juniperfall.Core.Quantities;

public enum ValueKind { Nothing, YesNo, Number, Choice, Text }

/// <summary>
/// What an attribute or an expression comes to. Numbers are in SI base units; a choice is the lasting id of a value;
/// <see cref="Nothing"/> is "no value", as everything has that does not apply.
/// </summary>
public readonly record struct Value
{
    public ValueKind Kind { get; private init; }
    public Exact Number { get; private init; }

    /// <summary>The id of the chosen value, or the text.</summary>
    public string? Text { get; private init; }
    public bool IsTrue { get; private init; }

    public static readonly Value Nothing = default;
    public static Value Of(bool value) => new() { Kind = ValueKind.YesNo, IsTrue = value };
    public static Value Of(Exact number) => new() { Kind = ValueKind.Number, Number = number };
    public static Value Choice(string valueId) => new() { Kind = ValueKind.Choice, Text = valueId };
    public static Value OfText(string text) => new() { Kind = ValueKind.Text, Text = text };

    public bool IsNothing => Kind == ValueKind.Nothing;

    public override string ToString() => Kind switch
    {
        ValueKind.Nothing => "nothing",
        ValueKind.YesNo => IsTrue ? "yes" : "no",
        ValueKind.Number => Number.ToString(),
        _ => Text ?? "",
    };
}
