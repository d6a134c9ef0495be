namespace Juniperfall.Core.Reasoning.Counting;

/// <summary>Propagation whose narrowings can be undone, level by level, by domains kept on a trail.</summary>
internal sealed class Backtracking : Propagation<DoubleEnd>
{
    private readonly List<(int Node, Domain<DoubleEnd> Before)> _trail = [];

    public Backtracking(Network network, Domain<DoubleEnd>[] state, bool withGroups) : base(network, network.Rough, state, withGroups)
    {
    }

    /// <summary>A mark to come back to.</summary>
    public int Mark => _trail.Count;

    public void BackTo(int mark)
    {
        ClearQueue();
        _reviser = -1;
        for (var i = _trail.Count - 1; i >= mark; i--)
            _domains[_trail[i].Node] = _trail[i].Before;
        _trail.RemoveRange(mark, _trail.Count - mark);
    }

    /// <summary>The variables that were narrowed since a mark; one may come more than once.</summary>
    public IEnumerable<Variable> NarrowedSince(int mark)
    {
        for (var i = mark; i < _trail.Count; i++)
            if (_nodes[_trail[i].Node].Variable is { } variable)
                yield return variable;
    }

    private void Keep(int node) => _trail.Add((node, _domains[node]));

    protected override bool SetOutcomes(int node, Outcomes keep)
    {
        if ((_domains[node].Outcomes & keep) != _domains[node].Outcomes)
            Keep(node);
        return base.SetOutcomes(node, keep);
    }

    protected override bool SetBits(int node, ulong[] mask)
    {
        if (!BitSet.IsSubset(_domains[node].Bits!, mask))
            Keep(node);
        return base.SetBits(node, mask);
    }

    protected override bool Narrow(int node, Interval<DoubleEnd> numbers)
    {
        Keep(node);
        return base.Narrow(node, numbers);
    }

    protected override bool Narrow(int node, long first, long last)
    {
        Keep(node);
        return base.Narrow(node, first, last);
    }

    /// <summary>Propagates until nothing is left as it was for want of rounds. False: nothing is left.</summary>
    public bool PropagateAll()
    {
        do
            if (!Propagate())
                return false;
        while (TakeUpRefused());
        return true;
    }
}
