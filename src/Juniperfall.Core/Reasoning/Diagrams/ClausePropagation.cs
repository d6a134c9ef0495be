using System.Numerics;

namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// What clauses leave of the values of variables: where all literals of a clause but one have failed, the last one must hold (Davis, Logemann and
/// Loveland, “A machine program for theorem-proving”, 1962). What was taken away can be given back, latest first.
/// </summary>
internal sealed class ClausePropagation
{
    private readonly ulong[] _left;
    private readonly (int Variable, ulong Before)[] _trail;
    private int _trailed;

    /// <summary>By clause: its first literal; behind the last clause: how many there are. By literal: its variable and values.</summary>
    private readonly int[] _first, _variable;
    private readonly ulong[] _values;

    /// <summary>By variable: its literals, each with its clause.</summary>
    private readonly (int Clause, ulong Values)[][] _literalsOf;

    /// <summary>By clause: how many of its literals can still hold.</summary>
    private readonly int[] _open;
    private readonly Stack<int> _pending = new();

    /// <param name="all">By variable: its values, as bits.</param>
    public ClausePropagation(ulong[] all, IReadOnlyList<SlotClause> clauses)
    {
        _left = [.. all];
        // A variable is narrowed at most as often as it has values.
        _trail = new (int, ulong)[all.Sum(a => BitOperations.PopCount(a)) + 1];
        (_first, _open) = (new int[clauses.Count + 1], new int[clauses.Count]);
        for (var c = 0; c < clauses.Count; c++)
            (_first[c + 1], _open[c]) = (_first[c] + clauses[c].Literals.Length, clauses[c].Literals.Length);
        (_variable, _values) = (new int[_first[^1]], new ulong[_first[^1]]);
        var literalsOf = Array.ConvertAll(all, _ => new List<(int, ulong)>());
        for (var c = 0; c < clauses.Count; c++)
            for (var l = 0; l < clauses[c].Literals.Length; l++)
            {
                (_variable[_first[c] + l], _values[_first[c] + l]) = clauses[c].Literals[l];
                literalsOf[clauses[c].Literals[l].Variable].Add((c, clauses[c].Literals[l].Values));
            }
        _literalsOf = [.. literalsOf.Select(l => l.ToArray())];
        for (var c = 0; c < clauses.Count; c++)
            if (_open[c] <= 1)
                _pending.Push(c);
    }

    /// <summary>The values of a variable that are left, as bits.</summary>
    public ulong Left(int variable) => _left[variable];

    public bool IsDecided(int variable) => BitOperations.IsPow2(_left[variable]);

    /// <summary>The clauses that name a variable; one may come more than once.</summary>
    public (int Clause, ulong Values)[] LiteralsOf(int variable) => _literalsOf[variable];

    /// <summary>The variables of a clause.</summary>
    public ReadOnlySpan<int> VariablesOf(int clause) => _variable.AsSpan(_first[clause].._first[clause + 1]);

    /// <summary>Whether a clause holds whatever is still decided.</summary>
    public bool IsMet(int clause)
    {
        for (var l = _first[clause]; l < _first[clause + 1]; l++)
            if ((_left[_variable[l]] & ~_values[l]) == 0)
                return true;
        return false;
    }

    /// <summary>A place to come back to.</summary>
    public int Mark => _trailed;

    public void BackTo(int mark)
    {
        _pending.Clear();
        while (_trailed > mark)
        {
            var (variable, before) = _trail[--_trailed];
            var now = _left[variable];
            foreach (var (clause, values) in _literalsOf[variable])
                if ((now & values) == 0 && (before & values) != 0)
                    _open[clause]++;
            _left[variable] = before;
        }
    }

    /// <summary>Keeps of a variable only some values, and whatever follows. False: nothing is left of some variable.</summary>
    public bool Keep(int variable, ulong values) => Narrow(variable, values) && Propagate();

    /// <summary>Goes on until nothing follows any more. False: nothing is left of some variable.</summary>
    public bool Propagate()
    {
        while (_pending.TryPop(out var clause))
        {
            var open = -1;
            for (var l = _first[clause]; l < _first[clause + 1] && open < 0; l++)
                if ((_left[_variable[l]] & _values[l]) != 0)
                    open = l;
            if (open < 0 || !Narrow(_variable[open], _values[open]))
                return false;
        }
        return true;
    }

    private bool Narrow(int variable, ulong values)
    {
        var (before, now) = (_left[variable], _left[variable] & values);
        if (now == before)
            return true;
        _trail[_trailed++] = (variable, before);
        _left[variable] = now;
        foreach (var (clause, literal) in _literalsOf[variable])
            if ((before & literal) != 0 && (now & literal) == 0 && --_open[clause] <= 1)
                _pending.Push(clause);
        return now != 0;
    }
}
