using System.Numerics;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

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

internal enum DomainKind : byte { YesNo, Number, Choice }

/// <summary>
/// The domain of one node: outcomes, and for numbers the lowest and highest, for choices a bit for each value of the list.
/// Null bounds are infinite. Bit arrays are never changed in place, so that copies on the trail stay as they were.
/// </summary>
internal struct Domain
{
    public DomainKind Kind;
    public Outcomes Outcomes;
    public Exact? Low;
    public Exact? High;
    public ulong[]? Bits;

    public static Domain YesNo(Outcomes outcomes) => new() { Kind = DomainKind.YesNo, Outcomes = outcomes };
    public static Domain Number(Exact? low, Exact? high, Outcomes outcomes = Outcomes.Present) =>
        new() { Kind = DomainKind.Number, Outcomes = outcomes, Low = low, High = high };
    public static Domain Choice(ulong[] bits, Outcomes outcomes = Outcomes.Present) =>
        new() { Kind = DomainKind.Choice, Outcomes = outcomes, Bits = bits };

    public readonly bool MayHaveValue => (Outcomes & Outcomes.Value) != 0;
    public readonly bool MustHaveValue => (Outcomes & Outcomes.NoValue) == 0;
    public readonly bool IsPoint => Kind switch
    {
        _ when (Outcomes & (Outcomes - 1)) != 0 => false,
        _ when (Outcomes & Outcomes.Value) == 0 => true,
        DomainKind.YesNo => true,
        DomainKind.Number => Low is { } low && High is { } high && low == high,
        _ => BitSet.Count(Bits!) == 1,
    };
}

internal static class BitSet
{
    public static ulong[] Full(int count)
    {
        var bits = new ulong[(count + 63) / 64];
        for (var i = 0; i < count; i++)
            bits[i >> 6] |= 1UL << i;
        return bits;
    }

    public static ulong[] Single(int count, int index)
    {
        var bits = new ulong[(count + 63) / 64];
        bits[index >> 6] |= 1UL << index;
        return bits;
    }

    public static bool Has(ulong[] bits, int index) => (bits[index >> 6] >> index & 1) != 0;
    public static void Set(ulong[] bits, int index) => bits[index >> 6] |= 1UL << index;

    public static int Count(ulong[] bits)
    {
        var count = 0;
        foreach (var word in bits)
            count += BitOperations.PopCount(word);
        return count;
    }

    public static int First(ulong[] bits)
    {
        for (var i = 0; i < bits.Length; i++)
            if (bits[i] != 0)
                return (i << 6) + BitOperations.TrailingZeroCount(bits[i]);
        return -1;
    }

    public static bool Intersects(ulong[] a, ulong[] b)
    {
        for (var i = 0; i < a.Length; i++)
            if ((a[i] & b[i]) != 0)
                return true;
        return false;
    }

    public static bool IsSubset(ulong[] a, ulong[] b)
    {
        for (var i = 0; i < a.Length; i++)
            if ((a[i] & ~b[i]) != 0)
                return false;
        return true;
    }

    public static ulong[] Union(ulong[] a, ulong[] b)
    {
        if (IsSubset(b, a))
            return a;
        var union = new ulong[a.Length];
        for (var i = 0; i < a.Length; i++)
            union[i] = a[i] | b[i];
        return union;
    }

    public static IEnumerable<int> Members(ulong[] bits)
    {
        for (var i = 0; i < bits.Length << 6; i++)
            if (Has(bits, i))
                yield return i;
    }
}
