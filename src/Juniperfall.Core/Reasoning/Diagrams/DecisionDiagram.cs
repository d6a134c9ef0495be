using System.Numerics;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// All configurations of some variables as one graph: its nodes are values, “all of these” over parts that share no variable, and “one of these” over
/// what excludes each other (Darwiche, “Decomposable negation normal form”, 2001). Questions take time in the number of its edges. Never changed.
/// </summary>
internal sealed class DecisionDiagram
{
    private readonly int[] _first, _children;
    private readonly bool[] _isAll;

    /// <param name="variables">The variables that it decides.</param>
    /// <param name="slots">By leaf, its slot; leaves come first.</param>
    /// <param name="first">By node behind the leaves: its first child; at the end, how many there are. Children come before their parents.</param>
    /// <param name="isAll">By node behind the leaves: whether all children hold, or exactly one of them.</param>
    public DecisionDiagram(int[] variables, int[] slots, int[] first, int[] children, bool[] isAll) =>
        (Variables, Slots, _first, _children, _isAll) = (variables, slots, first, children, isAll);

    public int[] Variables { get; }

    /// <summary>By leaf, its slot.</summary>
    public int[] Slots { get; }

    public int Edges => _children.Length;

    /// <summary>It as it is kept.</summary>
    public WarmDiagram ToKept() => new([.. Variables], [.. Slots], [.. _first], [.. _children], [.. _isAll]);

    /// <summary>One that was kept; null where it cannot be of these slots.</summary>
    public static DecisionDiagram? Of(WarmDiagram kept, Discrete.Slots slots)
    {
        var nodes = kept.IsAll.Length;
        var owners = kept.Variables.ToHashSet();
        if (nodes == 0 || kept.First.Length != nodes + 1 || kept.First[0] != 0 || kept.First[^1] != kept.Children.Length
            || kept.Variables.Any(v => v < 0 || v >= slots.Variables)
            || kept.Slots.Any(s => s < 0 || s >= slots.Count || !owners.Contains(slots.Owner[s])))
            return null;
        for (var node = 0; node < nodes; node++)
        {
            if (kept.First[node] > kept.First[node + 1] || kept.First[node] < 0)
                return null;
            for (var at = kept.First[node]; at < kept.First[node + 1]; at++)
                if (kept.Children[at] < 0 || kept.Children[at] >= kept.Slots.Length + node)
                    return null;
        }
        return new([.. kept.Variables], [.. kept.Slots], [.. kept.First], [.. kept.Children], [.. kept.IsAll]);
    }

    /// <summary>What <see cref="Inside"/> has found of all variables together.</summary>
    public byte AtTheLeast(byte[] inside) => inside[Root];

    private int Root => Slots.Length + _isAll.Length - 1;

    private ReadOnlySpan<int> ChildrenOf(int node) => _children.AsSpan(_first[node - Slots.Length].._first[node - Slots.Length + 1]);

    /// <summary>By node: how many picks at the least its configurations give up, counted up to <see cref="Many"/>.</summary>
    /// <param name="costs">By slot: 1 where it gives up a pick.</param>
    public byte[] Inside(ReadOnlySpan<byte> costs)
    {
        var inside = new byte[Root + 1];
        for (var leaf = 0; leaf < Slots.Length; leaf++)
            inside[leaf] = costs[Slots[leaf]];
        var at = 0;
        for (var i = 0; i < _isAll.Length; i++)
        {
            var (end, cost) = (_first[i + 1], 0);
            if (_isAll[i])
                for (; at < end; at++)
                    cost += inside[_children[at]];
            else
                for (cost = Many; at < end; at++)
                    cost = Math.Min(cost, inside[_children[at]]);
            inside[Slots.Length + i] = (byte)Math.Min(cost, Many);
        }
        return inside;
    }

    /// <summary>Of how many picks it is not counted any more how many they are.</summary>
    public const byte Many = 2;

    /// <summary>By leaf: how many picks at the least a configuration gives up that has its value, counted up to <see cref="Many"/>.</summary>
    /// <param name="inside">What <see cref="Inside"/> has found.</param>
    public byte[] Given(byte[] inside)
    {
        var outside = new byte[Root + 1];
        Array.Fill(outside, Many);
        outside[Root] = 0;
        for (var i = _isAll.Length - 1; i >= 0; i--)
        {
            var around = (int)outside[Slots.Length + i];
            if (around >= Many)
                continue;
            var isAll = _isAll[i];
            var children = _children.AsSpan(_first[i].._first[i + 1]);
            if (isAll)
                foreach (var child in children)
                    around += inside[child];
            foreach (var child in children)
                if ((isAll ? around - inside[child] : around) is var without && without < outside[child])
                    outside[child] = (byte)without;
        }
        var given = outside.AsSpan(0, Slots.Length).ToArray();
        for (var leaf = 0; leaf < given.Length; leaf++)
            given[leaf] = (byte)Math.Min(given[leaf] + inside[leaf], Many);
        return given;
    }

    /// <summary>A configuration that gives up as few picks as can be, as a slot for each variable.</summary>
    /// <param name="inside">What <see cref="Inside"/> has found.</param>
    public IEnumerable<int> Cheapest(byte[] inside)
    {
        var open = new Stack<int>([Root]);
        while (open.TryPop(out var node))
        {
            if (node < Slots.Length)
            {
                yield return Slots[node];
                continue;
            }
            var (from, to) = (_first[node - Slots.Length], _first[node - Slots.Length + 1]);
            var best = from;
            for (var at = from; at < to; at++)
                if (_isAll[node - Slots.Length])
                    open.Push(_children[at]);
                else if (inside[_children[at]] < inside[_children[best]])
                    best = at;
            if (!_isAll[node - Slots.Length])
                open.Push(_children[best]);
        }
    }

    /// <summary>How many configurations have only some slots.</summary>
    /// <param name="allowed">The slots, as a set.</param>
    public BigInteger Count(ulong[] allowed)
    {
        var counts = new BigInteger[Root + 1];
        for (var leaf = 0; leaf < Slots.Length; leaf++)
            counts[leaf] = BitSet.Has(allowed, Slots[leaf]) ? 1 : 0;
        for (var node = Slots.Length; node <= Root; node++)
        {
            var isAll = _isAll[node - Slots.Length];
            var count = isAll ? BigInteger.One : BigInteger.Zero;
            foreach (var child in ChildrenOf(node))
                count = isAll ? count * counts[child] : count + counts[child];
            counts[node] = count;
        }
        return counts[Root];
    }
}
