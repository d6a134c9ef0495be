namespace Juniperfall.Core.Quantities;

public enum ValueKind
{
    Nothing, YesNo, Number, Choice, Text,

    /// <summary>Cannot be computed: a division by zero, the root of a negative number, a rounding step that is not above zero.</summary>
    Error,
}

/// <summary>
/// What an attribute or an expression comes to. Numbers are in SI base units; a choice is the lasting id of a value;
/// <see cref="Nothing"/> is "no value", as everything has that does not apply.
/// </summary>
public readonly record struct Value
{
    // A text or a boxed number: answers hold thousands of values, most of which are yes, no or a choice.
    private readonly object? _content;

    private Value(ValueKind kind, bool isTrue, object? content) => (Kind, IsTrue, _content) = (kind, isTrue, content);

    public ValueKind Kind { get; }
    public bool IsTrue { get; }

    /// <summary>The number; 0 for all that is none.</summary>
    public Exact Number => Kind == ValueKind.Number ? (Exact)_content! : Exact.Zero;

    /// <summary>The id of the chosen value, or the text.</summary>
    public string? Text => _content as string;

    public static readonly Value Nothing = default;

    /// <summary>What cannot be computed. No attribute of a complete configuration has it.</summary>
    public static readonly Value Error = new(ValueKind.Error, false, null);
    public static Value Of(bool value) => new(ValueKind.YesNo, value, null);
    public static Value Of(Exact number) => new(ValueKind.Number, false, number);
    public static Value Choice(string valueId) => new(ValueKind.Choice, false, valueId);
    public static Value OfText(string text) => new(ValueKind.Text, false, text);

    public bool Equals(Value other) => Kind == other.Kind && IsTrue == other.IsTrue && Equals(_content, other._content);
    public override int GetHashCode() => HashCode.Combine(Kind, IsTrue, _content);

    public bool IsNothing => Kind == ValueKind.Nothing;

    /// <summary>Whether this is a value: neither nothing nor an error.</summary>
    public bool HasValue => Kind is not (ValueKind.Nothing or ValueKind.Error);

    public override string ToString() => Kind switch
    {
        ValueKind.Nothing => "nothing",
        ValueKind.Error => "error",
        ValueKind.YesNo => IsTrue ? "yes" : "no",
        ValueKind.Number => Number.ToString(),
        _ => Text ?? "",
    };
}
