using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// Narrows the domains of a network until no propagator removes anything more (Mackworth, “Consistency in networks of relations”,
/// 1977). Nothing that a solution has is ever removed; ties that interval ends leave are decided exactly once what they stem from is
/// decided. All groups hold or none does.
/// </summary>
internal sealed class FixedPoint<T> where T : struct, IEnd<T>
{
    private readonly PlainStore<T> _store;
    private readonly Propagators<T> _propagators;

    /// <param name="state">The domains to start from; they are not changed.</param>
    /// <param name="withGroups">Whether what belongs to a group holds.</param>
    /// <param name="trail">Where domains are kept before they change; null where nothing is undone.</param>
    public FixedPoint(Network network, NetworkEnds<T> ends, Domain<T>[] state, bool withGroups = true, DomainTrail<T>? trail = null)
    {
        _store = new(network, ends, state, withGroups, trail);
        _propagators = new(_store);
    }

    /// <summary>The domains after everything is imposed and propagated; null where that leaves nothing.</summary>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static Domain<T>[]? Of(Network network, NetworkEnds<T> ends, bool withGroups, CancellationToken cancel = default)
    {
        var propagation = new FixedPoint<T>(network, ends, ends.Initial, withGroups);
        return propagation.Start(cancel) ? propagation.Snapshot() : null;
    }

    public ref readonly Domain<T> this[int node] => ref _store.Domains[node];
    public Domain<T>[] Snapshot() => [.. _store.Domains];

    /// <summary>What a variable may still be.</summary>
    public VariableDomain Of(Variable variable) => _store.Of(variable);

    /// <summary>Imposes every root and propagates everything once. False: no configuration at all.</summary>
    /// <exception cref="OperationCanceledException">Cancelled; nothing of it is to be used then.</exception>
    public bool Start(CancellationToken cancel = default)
    {
        foreach (var (node, allowed, group) in _store.Network.Roots)
            if (_store.IsActive(group) && !_store.SetOutcomes(node, allowed))
                return false;
        _store.Queue.EnqueueAll();
        return Propagate(cancel);
    }

    /// <summary>Propagates everything once without imposing any root: each node is what its variables make of it.</summary>
    public bool Evaluate()
    {
        _store.Queue.EnqueueAll();
        return Propagate();
    }

    /// <summary>Revises until nothing changes. False: nothing is left.</summary>
    /// <exception cref="OperationCanceledException">Cancelled; nothing of it is to be used then.</exception>
    public bool Propagate(CancellationToken cancel = default)
    {
        var queue = _store.Queue;
        queue.StartRound();
        _store.Limit.StartRound();
        while (queue.TryDequeue(out var node))
        {
            queue.Reviser = node;
            cancel.ThrowIfCancellationRequested();
            if (_store.Domains[node].Outcomes == Outcomes.Impossible || !_propagators.Revise(node))
            {
                queue.Clear();
                return false;
            }
        }
        queue.Reviser = -1;
        return true;
    }

    /// <summary>Propagates until nothing is left as it was for want of rounds. False: nothing is left.</summary>
    public bool PropagateInFull()
    {
        do
            if (!Propagate())
                return false;
        while (_store.Limit.TakeUpRefused(_store.Queue));
        return true;
    }

    /// <summary>Narrows a variable to a domain, outcome by outcome, without propagating. False: nothing is left.</summary>
    public bool Restrict(Variable variable, in VariableDomain to) => _store.Restrict(variable, to);

    /// <summary>Puts the domains back to what they were at a mark of the trail.</summary>
    public void UndoTo(int mark, DomainTrail<T> trail)
    {
        _store.Queue.Clear();
        _store.Queue.Reviser = -1;
        trail.UndoTo(mark, _store.Domains);
    }
}
