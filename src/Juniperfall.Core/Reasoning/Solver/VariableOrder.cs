using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>Which variables are still to be decided, and which comes next.</summary>
internal sealed class VariableOrder
{
    private readonly int[] _variableOf;
    private readonly VariableHeap _heap;
    private readonly int _count;

    /// <summary>By variable: whether it is among those that the search is projected to; null: to all.</summary>
    private bool[]? _isProjected;

    public VariableOrder(Network network)
    {
        _count = network.Variables.Length;
        _heap = new(_count);
        _variableOf = [.. network.Nodes.Select(n => n.Variable?.Index ?? -1)];
    }

    /// <summary>One in which nothing is decided, over the same network.</summary>
    public VariableOrder(VariableOrder like) => (_variableOf, _heap, _count) = (like._variableOf, new(like._count), like._count);

    /// <summary>The variable of a node; −1 where it is none.</summary>
    public int VariableOf(int node) => _variableOf[node];

    /// <summary>Variables before this one are decided.</summary>
    public int DecidedUpTo { get; set; }

    public bool IsProjected(int variable) => _isProjected is null || _isProjected[variable];

    /// <summary>A variable may not be decided any more.</summary>
    public void Reopen(int node)
    {
        if (_variableOf[node] is var variable and >= 0 && IsProjected(variable))
        {
            _heap.Insert(variable);
            DecidedUpTo = Math.Min(DecidedUpTo, variable);
        }
    }

    /// <summary>A variable took part in a conflict.</summary>
    public void Bump(int node)
    {
        if (_variableOf[node] is var variable and >= 0)
            _heap.Bump(variable);
    }

    public void Decay() => _heap.Decay();

    public bool TryTake(out int variable) => _heap.TryTake(out variable);

    public void PutBack(int variable) => _heap.Insert(variable);

    /// <summary>Projects the search to some variables: only these are to be decided.</summary>
    public void ProjectTo(IEnumerable<int> variables)
    {
        _isProjected ??= new bool[_count];
        Array.Clear(_isProjected);
        _heap.Clear();
        ProjectAlsoTo(variables);
    }

    /// <summary>Ends the projection.</summary>
    public void ProjectToAll()
    {
        ProjectAlsoTo(Enumerable.Range(0, _count));
        _isProjected = null;
    }

    /// <summary>Widens the projection, where there is one.</summary>
    public void ProjectAlsoTo(IEnumerable<int> variables)
    {
        if (_isProjected is null)
            return;
        foreach (var variable in variables)
            if (!_isProjected[variable])
            {
                _isProjected[variable] = true;
                _heap.Insert(variable);
            }
        DecidedUpTo = 0;
    }
}
