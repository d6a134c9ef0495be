using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Counting;

/// <summary>Propagation whose narrowings can be undone, level by level.</summary>
internal sealed class Backtracking
{
    private readonly Network _network;
    private readonly DomainTrail<DoubleEnd> _trail = new();
    private readonly FixedPoint<DoubleEnd> _propagation;

    public Backtracking(Network network, Domain<DoubleEnd>[] state, bool withGroups) =>
        (_network, _propagation) = (network, new(network, network.InDoubles, state, withGroups, _trail));

    public ref readonly Domain<DoubleEnd> this[int node] => ref _propagation[node];
    public VariableDomain Of(Variable variable) => _propagation.Of(variable);

    /// <summary>A mark to come back to.</summary>
    public int Mark => _trail.Mark;

    public void BackTo(int mark) => _propagation.UndoTo(mark, _trail);

    /// <summary>The variables that were narrowed since a mark; one may come more than once.</summary>
    public IEnumerable<Variable> NarrowedSince(int mark) => _trail.Since(mark).Select(n => _network.Nodes[n].Variable).OfType<Variable>();

    /// <summary>Imposes every root. False: no configuration at all.</summary>
    public bool Start() => _propagation.Start() && _propagation.PropagateInFull();

    /// <summary>Lets each node be what its variables make of it.</summary>
    public bool Evaluate() => _propagation.Evaluate();

    public bool Restrict(Variable variable, in VariableDomain to) => _propagation.Restrict(variable, to);

    /// <summary>Propagates until nothing changes any more. False: nothing is left.</summary>
    public bool Propagate() => _propagation.PropagateInFull();
}
