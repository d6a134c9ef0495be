namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// Leaves the bounds of a number as they are once they were narrowed often in one round: propagation over wide ranges can converge as
/// slowly as it likes, and search is complete without it.
/// </summary>
internal sealed class NarrowingLimit
{
    private const int MostNarrowings = 60;
    private readonly long[] _narrowings;
    private readonly List<int> _refused = [];
    private long _round;

    public NarrowingLimit(int nodes) => _narrowings = new long[nodes];

    /// <param name="spent">An earlier copy that is not used any more.</param>
    public NarrowingLimit(NarrowingLimit of, NarrowingLimit? spent) =>
        (_narrowings, _round) = (ReusedArrays.Copied(of._narrowings, spent?._narrowings), of._round);

    public void StartRound() => _round++;

    /// <summary>Whether a node was narrowed as often as it may be in this round; counts one more time where it was not.</summary>
    public bool IsReached(int node)
    {
        var first = _round << 8;
        ref var narrowings = ref _narrowings[node];
        if (narrowings < first)
            narrowings = first;
        if (narrowings - first > MostNarrowings)
            return true;
        if (++narrowings - first <= MostNarrowings)
            return false;
        _refused.Add(node);
        return true;
    }

    /// <summary>Queues again what rounds before have left as it was. False: there is nothing such.</summary>
    public bool TakeUpRefused(RevisionQueue queue)
    {
        foreach (var node in _refused)
            queue.Changed(node);
        var any = _refused.Count > 0;
        _refused.Clear();
        return any;
    }
}
