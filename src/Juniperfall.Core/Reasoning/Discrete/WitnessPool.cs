namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// The configurations that questions to a network without numbers have found, for later ones: each is a witness for all its
/// values beside any picks that it contains. And what sets of picks were found to leave, exactly. Safe for concurrent use;
/// of more than some 64 MB the oldest are forgotten, and found again where they are needed.
/// </summary>
internal sealed class WitnessPool(Slots slots)
{
    private const int MostBytes = 64_000_000, MostWitnesses = 2048, MostNarrowings = 200;

    private readonly Witness?[] _witnesses = new Witness?[Math.Clamp(MostBytes / Math.Max(1, (slots.Variables * 4) + (slots.Words * 8)), 64, MostWitnesses)];
    private readonly Witness?[] _latestOf = new Witness?[slots.Count];
    private long _next;
    private readonly Lock _lock = new();
    private readonly Queue<(int[] Picks, ulong[] Left)> _narrowings = [];

    /// <summary>Keeps a configuration that holds.</summary>
    public void Add(Witness witness)
    {
        var at = Interlocked.Increment(ref _next) - 1;
        Volatile.Write(ref _witnesses[at % _witnesses.Length], witness);
        foreach (var slot in witness.Slots)
            Volatile.Write(ref _latestOf[slot], witness);
    }

    /// <summary>The latest configuration that has a slot, if it is still known.</summary>
    public Witness? LatestOf(int slot) => Volatile.Read(ref _latestOf[slot]);

    /// <summary>All that are known, the latest first.</summary>
    public IEnumerable<Witness> All()
    {
        var end = Interlocked.Read(ref _next);
        for (var i = end - 1; i >= Math.Max(0, end - _witnesses.Length); i--)
            if (Volatile.Read(ref _witnesses[i % _witnesses.Length]) is { } witness)
                yield return witness;
    }

    /// <summary>Keeps what some picks, by the slots that they ask for, were found to leave.</summary>
    public void Narrowed(int[] picks, ulong[] left)
    {
        lock (_lock)
        {
            if (_narrowings.Count >= MostNarrowings)
                _narrowings.Dequeue();
            _narrowings.Enqueue((picks, left));
        }
    }

    /// <summary>Takes out of a set what some of the picks, found by earlier questions, leave no room for.</summary>
    public void Narrow(HashSet<int> picks, ulong[] set)
    {
        lock (_lock)
            foreach (var (earlier, left) in _narrowings)
                if (Array.TrueForAll(earlier, picks.Contains))
                    BitSet.IntersectWith(set, left);
    }
}
