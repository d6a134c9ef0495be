using System.Numerics;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// The configurations that questions to a network without numbers have found, for later ones: each is a witness for all its
/// values beside any picks that it contains. And what sets of picks were found to leave, exactly. Safe for concurrent use;
/// of more than some 64 MB the oldest are forgotten, and found again where they are needed.
/// </summary>
internal sealed class WitnessPool
{
    private const int MostBytes = 64_000_000, MostWitnesses = 2048, MostNarrowings = 200;

    private readonly Slots _slots;
    private readonly Lock _lock = new();

    /// <summary>The latest ones, in a ring; and by slot the places of those that have it, as a set.</summary>
    private readonly Witness?[] _witnesses;
    private readonly ulong[]?[] _places;
    private readonly Witness?[] _latestOf;
    private int _next;
    private readonly Queue<(int[] Picks, ulong[] Left)> _narrowings = [];

    public WitnessPool(Slots slots)
    {
        _slots = slots;
        var bytes = Math.Max(1, (slots.Variables * 4) + (slots.Words * 8) + (slots.Count / 8));
        _witnesses = new Witness?[Math.Clamp(MostBytes / bytes, 64, MostWitnesses) & ~63];
        (_places, _latestOf) = (new ulong[]?[slots.Count], new Witness?[slots.Count]);
    }

    /// <summary>Keeps a configuration that holds.</summary>
    public void Add(Witness witness)
    {
        lock (_lock)
        {
            if (_witnesses[_next] is { } forgotten)
                foreach (var slot in forgotten.Slots)
                {
                    BitSet.Clear(_places[slot]!, _next);
                    if (_latestOf[slot] == forgotten)
                        _latestOf[slot] = null;
                }
            foreach (var slot in witness.Slots)
            {
                BitSet.Set(_places[slot] ??= new ulong[_witnesses.Length / 64], _next);
                _latestOf[slot] = witness;
            }
            _witnesses[_next] = witness;
            _next = (_next + 1) % _witnesses.Length;
        }
    }

    /// <summary>The latest configuration that has a slot; null where none is known.</summary>
    public Witness? LatestOf(int slot)
    {
        lock (_lock)
            return _latestOf[slot];
    }

    /// <summary>The configurations that are known to keep all of some picks, the latest last.</summary>
    /// <param name="picks">The slots that are asked for; a pick is kept also where its variable does not apply.</param>
    public List<Witness> Containing(ReadOnlySpan<int> picks)
    {
        var found = new List<Witness>();
        lock (_lock)
        {
            // Once around the ring from the oldest word on; the word that is being filled has both ends.
            var (count, first) = (_witnesses.Length / 64, _next >> 6);
            for (var i = 0; i <= count; i++)
            {
                var w = (first + i) % count;
                var newest = (1UL << _next) - 1;
                var places = PlacesOfAll(picks, w);
                if (w == first)
                    places &= i == 0 ? ~newest : newest;
                for (; places != 0; places &= places - 1)
                    if (_witnesses[(w << 6) + BitOperations.TrailingZeroCount(places)] is { } witness)
                        found.Add(witness);
            }
        }
        return found;
    }

    /// <summary>The latest configuration that is known to keep all of some picks; null where there is none.</summary>
    public Witness? LatestContaining(ReadOnlySpan<int> picks)
    {
        lock (_lock)
        {
            var (count, first) = (_witnesses.Length / 64, _next >> 6);
            for (var i = count; i >= 0; i--)
            {
                var w = (first + i) % count;
                var newest = (1UL << _next) - 1;
                var places = PlacesOfAll(picks, w) & (w != first ? ulong.MaxValue : i == 0 ? ~newest : newest);
                for (; places != 0; places &= ~(1UL << BitOperations.Log2(places)))
                    if (_witnesses[(w << 6) + BitOperations.Log2(places)] is { } witness)
                        return witness;
            }
        }
        return null;
    }

    /// <summary>Moves from one set to another those slots that some known configuration has that keeps all of some picks.</summary>
    /// <param name="from">Where slots to look for are.</param>
    public void Move(ReadOnlySpan<int> picks, ulong[] from, ulong[] to)
    {
        lock (_lock)
        {
            Span<ulong> containing = stackalloc ulong[MostWitnesses / 64];
            containing = containing[..(_witnesses.Length / 64)];
            for (var w = 0; w < containing.Length; w++)
                containing[w] = PlacesOfAll(picks, w);
            for (var w = 0; w < from.Length; w++)
                for (var rest = from[w]; rest != 0; rest &= rest - 1)
                    if (_places[(w << 6) + BitOperations.TrailingZeroCount(rest)] is { } places && BitSet.Intersects(places, containing))
                    {
                        var slot = rest & (~rest + 1);
                        from[w] &= ~slot;
                        to[w] |= slot;
                    }
        }
    }

    /// <summary>Of a word of places those of configurations that keep all of some picks, if there are any at them.</summary>
    private ulong PlacesOfAll(ReadOnlySpan<int> picks, int word)
    {
        var places = ulong.MaxValue;
        foreach (var pick in picks)
            places &= PlacesOf(pick, word) | PlacesOf(_slots.AbsentOf(_slots.Owner[pick]), word);
        return places;
    }

    private ulong PlacesOf(int slot, int word) => slot >= 0 && _places[slot] is { } places ? places[word] : 0;

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
