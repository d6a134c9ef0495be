using System.Numerics;

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
/// What a node may be: outcomes, and for numbers the lowest and highest, for choices a bit for each value of the list.
/// Bit arrays are never changed in place, so that copies on the trail stay as they were.
/// </summary>
internal struct Domain<T> where T : struct, IEnd<T>
{
    public DomainKind Kind;
    public Outcomes Outcomes;
    public Interval<T> Numbers;

    /// <summary>For asked numbers: the first and last step that may be taken.</summary>
    public long First, Last;
    public ulong[]? Bits;

    public static Domain<T> YesNo(Outcomes outcomes) => new() { Kind = DomainKind.YesNo, Outcomes = outcomes };
    public static Domain<T> Number(Interval<T> numbers, Outcomes outcomes = Outcomes.Present) =>
        new() { Kind = DomainKind.Number, Outcomes = outcomes, Numbers = numbers };
    public static Domain<T> Choice(ulong[] bits, Outcomes outcomes = Outcomes.Present) =>
        new() { Kind = DomainKind.Choice, Outcomes = outcomes, Bits = bits };

    public readonly bool MayHaveValue => (Outcomes & Outcomes.Value) != 0;
    public readonly bool MustHaveValue => (Outcomes & Outcomes.NoValue) == 0;
    public readonly bool MayBePresent => (Outcomes & Outcomes.Present) != 0;
    public readonly bool HasOneOutcome => (Outcomes & (Outcomes - 1)) == 0;
}

/// <summary>What an asked attribute may be: outcomes, and the steps of a number from first to last, or the values of a choice.</summary>
internal readonly record struct VariableDomain(DomainKind Kind, Outcomes Outcomes, long First, long Last, ulong[]? Bits)
{
    public bool MayBePresent => (Outcomes & Outcomes.Present) != 0;

    public VariableDomain Only(Outcomes outcomes) => this with { Outcomes = outcomes };
    public VariableDomain Steps(long first, long last) => this with { Outcomes = Outcomes.Present, First = first, Last = last };
    public VariableDomain Value(int index) => Values(BitSet.Single(Bits!.Length << 6, index));
    public VariableDomain Values(ulong[] bits) => this with { Outcomes = Outcomes.Present, Bits = bits };

    /// <summary>Just one value.</summary>
    public VariableDomain Just(in Assigned value) => value.Outcome != Outcomes.Present ? Only(value.Outcome)
        : Kind == DomainKind.Choice ? Value((int)value.Index) : Steps(value.Index, value.Index);

    public bool Allows(in Assigned value) => (Outcomes & value.Outcome) != 0 && (value.Outcome != Outcomes.Present
        || (Kind == DomainKind.Choice ? BitSet.Has(Bits!, (int)value.Index) : First <= value.Index && value.Index <= Last));

    /// <summary>What is in both.</summary>
    public VariableDomain And(in VariableDomain other)
    {
        var both = this with { Outcomes = Outcomes & other.Outcomes };
        if (!both.MayBePresent)
            return both;
        if (Kind == DomainKind.Number)
            both = both with { First = Math.Max(First, other.First), Last = Math.Min(Last, other.Last) };
        else
            both = both with { Bits = [.. Bits!.Zip(other.Bits!, (a, b) => a & b)] };
        return both.Size > BitOperations.PopCount((uint)(both.Outcomes & ~Outcomes.Present)) ? both : both.Only(both.Outcomes & ~Outcomes.Present);
    }

    /// <summary>How many values there are.</summary>
    public double Size => BitOperations.PopCount((uint)(Outcomes & ~Outcomes.Present))
        + (!MayBePresent ? 0 : Kind == DomainKind.Choice ? BitSet.Count(Bits!) : (double)Last - First + 1);

    public bool IsPoint => (Outcomes & (Outcomes - 1)) == 0 && (!MayBePresent || (Kind == DomainKind.Choice ? BitSet.Count(Bits!) == 1 : First == Last));

    /// <summary>The value that is left.</summary>
    public Assigned Point => new(Outcomes, !MayBePresent ? 0 : Kind == DomainKind.Choice ? BitSet.First(Bits!) : First);
}

/// <summary>The value of one variable: absent, none, yes, no, the step of a number, or the index of a value in its list.</summary>
internal readonly record struct Assigned(Outcomes Outcome, long Index)
{
    public static readonly Assigned Absent = new(Outcomes.Absent, 0);
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

    public static void Clear(ulong[] bits, int index) => bits[index >> 6] &= ~(1UL << index);

    public static bool Any(ulong[] bits) => bits.AsSpan().ContainsAnyExcept(0UL);

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

    public static int Last(ulong[] bits)
    {
        for (var i = bits.Length - 1; i >= 0; i--)
            if (bits[i] != 0)
                return (i << 6) + BitOperations.Log2(bits[i]);
        return -1;
    }

    /// <summary>Whether a set has something in common with another one of the same length.</summary>
    public static bool Intersects(ReadOnlySpan<ulong> a, ReadOnlySpan<ulong> b)
    {
        var i = 0;
        for (; i <= a.Length - Vector<ulong>.Count; i += Vector<ulong>.Count)
            if ((new Vector<ulong>(a[i..]) & new Vector<ulong>(b[i..])) != Vector<ulong>.Zero)
                return true;
        for (; i < a.Length; i++)
            if ((a[i] & b[i]) != 0)
                return true;
        return false;
    }

    /// <summary>Keeps of a set what is in another one of the same length.</summary>
    public static void IntersectWith(Span<ulong> set, ReadOnlySpan<ulong> other)
    {
        var i = 0;
        for (; i <= set.Length - Vector<ulong>.Count; i += Vector<ulong>.Count)
            (new Vector<ulong>(set[i..]) & new Vector<ulong>(other[i..])).CopyTo(set[i..]);
        for (; i < set.Length; i++)
            set[i] &= other[i];
    }

    /// <summary>Adds to a set what is in another one of the same length.</summary>
    public static void UniteWith(Span<ulong> set, ReadOnlySpan<ulong> other)
    {
        var i = 0;
        for (; i <= set.Length - Vector<ulong>.Count; i += Vector<ulong>.Count)
            (new Vector<ulong>(set[i..]) | new Vector<ulong>(other[i..])).CopyTo(set[i..]);
        for (; i < set.Length; i++)
            set[i] |= other[i];
    }

    /// <summary>Takes out of a set what is in another one of the same length.</summary>
    public static void Subtract(Span<ulong> set, ReadOnlySpan<ulong> other)
    {
        var i = 0;
        for (; i <= set.Length - Vector<ulong>.Count; i += Vector<ulong>.Count)
            Vector.AndNot(new Vector<ulong>(set[i..]), new Vector<ulong>(other[i..])).CopyTo(set[i..]);
        for (; i < set.Length; i++)
            set[i] &= ~other[i];
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
        for (var w = 0; w < bits.Length; w++)
            for (var word = bits[w]; word != 0; word &= word - 1)
                yield return (w << 6) + BitOperations.TrailingZeroCount(word);
    }
}
