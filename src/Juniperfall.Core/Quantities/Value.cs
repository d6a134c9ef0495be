namespace Juniperfall.Core.Quantities;

public enum ValueKind { Nothing, YesNo, Number, Choice, Text }

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
    public static Value Of(bool value) => new(ValueKind.YesNo, value, null);
    public static Value Of(Exact number) => new(ValueKind.Number, false, number);
    public static Value Choice(string valueId) => new(ValueKind.Choice, false, valueId);
    public static Value OfText(string text) => new(ValueKind.Text, false, text);

    public bool Equals(Value other) => Kind == other.Kind && IsTrue == other.IsTrue && Equals(_content, other._content);
    public override int GetHashCode() => HashCode.Combine(Kind, IsTrue, _content);

    public bool IsNothing => Kind == ValueKind.Nothing;

    public override string ToString() => Kind switch
    {
        ValueKind.Nothing => "nothing",
        ValueKind.YesNo => IsTrue ? "yes" : "no",
        ValueKind.Number => Number.ToString(),
        _ => Text ?? "",
    };
}
