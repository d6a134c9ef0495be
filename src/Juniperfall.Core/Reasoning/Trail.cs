namespace Juniperfall.Core.Reasoning;

/// <summary>The trail: what became true in order, level by level, and its undoing.</summary>
internal sealed partial class Search
{
    /// <summary>A literal that became true, or (−1 lower, −2 upper) a bound of a node that got tighter.</summary>
    private record struct Entry(int Literal, int Node, double Bound, double Before, int Previous, long Reason);

    private Entry[] _trail = new Entry[256];
    private int[] _levels = new int[256];
    private int _trailCount, _head, _level;

    /// <summary>How much of the trail was there when all was propagated the last time.</summary>
    private int _settled;

    private readonly List<int> _levelStarts = [];
    private readonly int[] _lastEvents;

    private void PushTrail(int literal, int node, double bound, double before, long reason)
    {
        if (_trailCount == _trail.Length)
        {
            Array.Resize(ref _trail, _trailCount * 2);
            Array.Resize(ref _levels, _trailCount * 2);
            Array.Resize(ref _seen, _trailCount * 2);
            Array.Resize(ref _needed, _trailCount * 2);
        }
        var previous = literal < 0 ? _lastEvents[node * 2 - 1 - literal] : -1;
        _levels[_trailCount] = _level;
        _trail[_trailCount++] = new(literal, node, bound, before, previous, reason);
    }

    private void NewLevel()
    {
        _levelStarts.Add(_trailCount);
        _level++;
    }

    private void GoBackTo(int level)
    {
        _reviser = -1;
        if (_level <= level)
            return;
        ClearQueue();
        var start = _levelStarts[level];
        for (var at = _trailCount - 1; at >= start; at--)
            Undo(_trail[at]);
        (_trailCount, _head, _level) = (start, Math.Min(_head, start), level);
        _levelStarts.RemoveRange(level, _levelStarts.Count - level);
        for (var at = _settled; at < start; at++)
            Touch(_trail[at]);
        _settled = Math.Min(_settled, start);
        if (_late.Count > 0)
            RestoreLate();
    }

    private void Touch(in Entry entry)
    {
        if (entry.Literal < 0)
            Changed(entry.Node);
        else
            for (var m = _firstMeaning[entry.Literal]; m >= 0; m = _meanings[m].Next)
                Changed(_meanings[m].Node);
    }

    private void Undo(in Entry entry)
    {
        if (entry.Literal < 0)
        {
            var upper = entry.Literal == -2;
            SetBound(entry.Node, upper, entry.Before);
            _lastEvents[entry.Node * 2 + (upper ? 1 : 0)] = entry.Previous;
            Reopen(entry.Node);
            return;
        }
        (_values[entry.Literal], _values[Negated(entry.Literal)]) = (0, 0);
        for (var m = _firstMeaning[entry.Literal]; m >= 0; m = _meanings[m].Next)
        {
            ref readonly var meaning = ref _meanings[m];
            _domains[meaning.Node].Outcomes |= meaning.Removes;
            if (meaning.RemovesValue >= 0)
                BitSet.Set(_domains[meaning.Node].Bits!, meaning.RemovesValue);
            Reopen(meaning.Node);
        }
    }

    private void Reopen(int node)
    {
        if (_variableOf[node] is var variable and >= 0 && (_isHeeded is null || _isHeeded[variable]))
        {
            _heap.Insert(variable);
            _decidedUpTo = Math.Min(_decidedUpTo, variable);
        }
    }

    private void Bump(int position)
    {
        var node = _trail[position].Node;
        if (node < 0)
        {
            var literal = _trail[position].Literal;
            var m = _firstMeaning[literal];
            node = m >= 0 ? _meanings[m].Node : _atoms[literal >> 1].Node;
        }
        if (node >= 0 && _nodes[node].Variable is { } variable)
            _heap.Bump(variable.Index);
    }
}
