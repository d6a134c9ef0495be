using System.Numerics;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// The nodes that are to be revised. Nodes come after their children, so going round in their order revises each node once its
/// children have settled.
/// </summary>
internal sealed class RevisionQueue
{
    private readonly ulong[] _queued;
    private readonly bool[] _isSettled;
    private int[][] _parents;
    private int _pending;
    private int _word;

    public RevisionQueue(Network network)
    {
        _parents = network.Parents;
        _queued = new ulong[(network.Nodes.Length + 63) / 64];
        _isSettled = [.. network.Nodes.Select(n => n.Operator is Operator.Variable or Operator.Constant)];
    }

    /// <summary>A copy of a queue.</summary>
    /// <param name="spent">An earlier copy that is not used any more.</param>
    public RevisionQueue(RevisionQueue of, RevisionQueue? spent)
    {
        (_isSettled, _parents, _pending, _word) = (of._isSettled, of._parents, of._pending, of._word);
        _queued = ReusedArrays.Copied(of._queued, spent?._queued);
    }

    /// <summary>The node that is being revised: what it makes of itself is no cause to revise it again. −1 outside of revising.</summary>
    public int Reviser { get; set; } = -1;

    public void Clear()
    {
        if (_pending > 0)
            Array.Clear(_queued);
        _pending = 0;
    }

    public void Enqueue(int node)
    {
        ref var word = ref _queued[node >> 6];
        var bit = 1UL << node;
        if ((word & bit) != 0)
            return;
        word |= bit;
        _pending++;
    }

    public void EnqueueAll()
    {
        for (var node = 0; node < _isSettled.Length; node++)
            Enqueue(node);
    }

    /// <summary>Whether a node needs no revising, because something else keeps it as it is to be.</summary>
    public bool IsSettled(int node) => _isSettled[node];

    /// <summary>From now on a node needs no revising.</summary>
    public void Settle(int node) => _isSettled[node] = true;

    /// <summary>Puts in all that reads a node whose domain has changed.</summary>
    public void Changed(int node)
    {
        if (node != Reviser && !_isSettled[node])
            Enqueue(node);
        foreach (var parent in _parents[node])
            if (!_isSettled[parent])
                Enqueue(parent);
    }

    /// <summary>From now on only parents that need revising are looked at when a node changes.</summary>
    public void ForgetSettled() =>
        _parents = [.. _parents.Select(parents => Array.Exists(parents, p => _isSettled[p]) ? Array.FindAll(parents, p => !_isSettled[p]) : parents)];

    /// <summary>Begins again at the first node.</summary>
    public void StartRound() => _word = 0;

    /// <summary>Takes the next node to revise. False: there is none.</summary>
    public bool TryDequeue(out int node)
    {
        node = -1;
        if (_pending == 0)
            return false;
        while (_queued[_word] == 0)
            _word = _word + 1 == _queued.Length ? 0 : _word + 1;
        node = (_word << 6) + BitOperations.TrailingZeroCount(_queued[_word]);
        _queued[_word] &= _queued[_word] - 1;
        _pending--;
        return true;
    }
}
