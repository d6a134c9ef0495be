namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Arrays for a copy of a solver, taken from an earlier copy that is not used any more: this spares collecting megabytes.</summary>
internal static class ReusedArrays
{
    /// <summary>A copy of an array, written into another one where that has room.</summary>
    public static TItem[] Copied<TItem>(TItem[] from, TItem[]? into)
    {
        if (into is null || into.Length < from.Length)
            return [.. from];
        from.CopyTo(into, 0);
        Array.Clear(into, from.Length, into.Length - from.Length);
        return into;
    }

    /// <summary>An empty array of at least a length: another one, cleared, where that has room.</summary>
    public static TItem[] Cleared<TItem>(int length, TItem[]? into)
    {
        if (into is null || into.Length < length)
            return new TItem[length];
        Array.Clear(into);
        return into;
    }
}
