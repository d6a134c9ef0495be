namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Undecided variables by how often they took part in recent conflicts (Moskewicz and others, “Chaff”, 2001); ties go to the
/// earlier one.
/// </summary>
internal sealed class VariableHeap
{
    private readonly double[] _activities;
    private readonly int[] _heap;
    private readonly int[] _places;
    private int _count;
    private double _increment = 1;
    private const double DecayFactor = 0.95, TooLarge = 1e100;

    public VariableHeap(int count)
    {
        (_activities, _heap, _places) = (new double[count], new int[count], new int[count]);
        for (var i = 0; i < count; i++)
            (_heap[i], _places[i]) = (i, i);
        _count = count;
    }

    public void Decay() => _increment /= DecayFactor;

    public void Bump(int variable)
    {
        if ((_activities[variable] += _increment) > TooLarge)
        {
            for (var i = 0; i < _activities.Length; i++)
                _activities[i] /= TooLarge;
            _increment /= TooLarge;
        }
        if (_places[variable] >= 0)
            Rise(_places[variable]);
    }

    public void Insert(int variable)
    {
        if (_places[variable] >= 0)
            return;
        Put(_count, variable);
        Rise(_count++);
    }

    public void Clear()
    {
        for (; _count > 0; _count--)
            _places[_heap[_count - 1]] = -1;
    }

    public bool TryTake(out int variable)
    {
        variable = -1;
        if (_count == 0)
            return false;
        variable = _heap[0];
        _places[variable] = -1;
        if (--_count > 0)
        {
            Put(0, _heap[_count]);
            Sink(0);
        }
        return true;
    }

    private bool IsBefore(int a, int b) => _activities[a] > _activities[b] || (_activities[a] == _activities[b] && a < b);

    private void Put(int place, int variable) => (_heap[place], _places[variable]) = (variable, place);

    private void Rise(int place)
    {
        var variable = _heap[place];
        for (; place > 0 && (place - 1) / 2 is var above && IsBefore(variable, _heap[above]); place = above)
            Put(place, _heap[above]);
        Put(place, variable);
    }

    private void Sink(int place)
    {
        var variable = _heap[place];
        while (place * 2 + 1 is var below && below < _count)
        {
            if (below + 1 < _count && IsBefore(_heap[below + 1], _heap[below]))
                below++;
            if (!IsBefore(_heap[below], variable))
                break;
            Put(place, _heap[below]);
            place = below;
        }
        Put(place, variable);
    }
}
