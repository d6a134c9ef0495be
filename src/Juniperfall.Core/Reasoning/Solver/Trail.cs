using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>The trail: what became true, in order and level by level, each with its antecedent.</summary>
internal sealed class Trail
{
    /// <summary>In place of the literal: a lower or an upper bound of a node got tighter.</summary>
    public const int LowerBound = -1, UpperBound = -2;

    /// <summary>A literal that became true, or a bound of a node that got tighter.</summary>
    /// <param name="Before">The bound before.</param>
    /// <param name="Previous">The position of the event before this one of the same bound; −1 where there is none.</param>
    public record struct Entry(int Literal, int Node, double Bound, double Before, int Previous, long Reason)
    {
        public readonly bool IsBound => Literal < 0;
        public readonly bool IsUpper => Literal == UpperBound;
    }

    private Entry[] _entries;
    private int[] _levels;
    private readonly int[] _lastEvents;
    private readonly List<int> _levelStarts = [];

    public Trail(int nodes)
    {
        (_entries, _levels, _lastEvents) = (new Entry[256], new int[256], new int[nodes * 2]);
        Array.Fill(_lastEvents, -1);
    }

    /// <summary>A copy of a trail on which nothing is decided.</summary>
    /// <param name="spent">An earlier copy that is not used any more.</param>
    public Trail(Trail of, Trail? spent)
    {
        (_entries, _levels, _lastEvents) =
            (ReusedArrays.Copied(of._entries, spent?._entries), ReusedArrays.Copied(of._levels, spent?._levels),
            ReusedArrays.Copied(of._lastEvents, spent?._lastEvents));
        (Count, Head, Settled) = (of.Count, of.Head, of.Settled);
    }

    public int Count { get; private set; }

    /// <summary>The position of the next literal whose clauses are to be visited.</summary>
    public int Head { get; set; }

    /// <summary>How much of the trail was there when all was propagated the last time.</summary>
    public int Settled { get; set; }

    /// <summary>How many decisions stand.</summary>
    public int Level { get; private set; }

    public ref readonly Entry this[int position] => ref _entries[position];
    public int LevelOf(int position) => _levels[position];

    /// <summary>The position at which the level above a number of levels begins; the end where there is none.</summary>
    public int StartAbove(int level) => level < Level ? _levelStarts[level] : Count;

    /// <summary>The position of the latest event of a bound; −1 where it never changed.</summary>
    public int LastEvent(int node, bool upper) => _lastEvents[Side(node, upper)];

    private static int Side(int node, bool upper) => node * 2 + (upper ? 1 : 0);

    public void PushLiteral(int literal, long reason) => Push(new(literal, -1, 0, 0, -1, reason));

    public void PushBound(int node, bool upper, double bound, double before, long reason)
    {
        Push(new(upper ? UpperBound : LowerBound, node, bound, before, LastEvent(node, upper), reason));
        _lastEvents[Side(node, upper)] = Count - 1;
    }

    private void Push(in Entry entry)
    {
        if (Count == _entries.Length)
        {
            Array.Resize(ref _entries, Count * 2);
            Array.Resize(ref _levels, Count * 2);
        }
        _levels[Count] = Level;
        _entries[Count++] = entry;
    }

    public void NewLevel()
    {
        _levelStarts.Add(Count);
        Level++;
    }

    /// <summary>Forgets an event that is undone.</summary>
    public void UndoEvent(in Entry entry) => _lastEvents[Side(entry.Node, entry.IsUpper)] = entry.Previous;

    /// <summary>Cuts off all above a level, after it was undone.</summary>
    public void CutTo(int level)
    {
        Count = _levelStarts[level];
        (Head, Level) = (Math.Min(Head, Count), level);
        _levelStarts.RemoveRange(level, _levelStarts.Count - level);
    }
}
