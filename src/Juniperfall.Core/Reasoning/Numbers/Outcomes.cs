namespace Juniperfall.Core.Reasoning.Numbers;

/// <summary>What a node of the network may still be, besides which numbers or values: a set of outcomes.</summary>
[Flags]
internal enum Outcomes : byte
{
    Impossible = 0,

    /// <summary>Does not apply, so has no value.</summary>
    Absent = 1,

    /// <summary>Applies and was left without a value (optional attributes).</summary>
    None = 2,

    /// <summary>Cannot be computed: a division by zero, the root of a negative number.</summary>
    Error = 4,
    False = 8,
    True = 16,

    /// <summary>Has a number or a chosen value, of those listed in the domain.</summary>
    Present = 32,

    NoValue = Absent | None | Error,
    Value = False | True | Present,
}
