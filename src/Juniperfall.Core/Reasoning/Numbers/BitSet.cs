using System.Numerics;

namespace Juniperfall.Core.Reasoning.Numbers;

/// <summary>Sets of small whole numbers as bits of words.</summary>
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

    /// <param name="words">How many words of 64 bits it has.</param>
    public static ulong[] Of(int words, IEnumerable<int> members)
    {
        var bits = new ulong[words];
        foreach (var member in members)
            Set(bits, member);
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
