using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>When what a group asks for holds in a search.</summary>
internal enum GroupsHold
{
    Always,

    /// <summary>Where the group is assumed. Nodes can be asked for by themselves, too.</summary>
    WhereAssumed,

    /// <summary>Where the group is assumed, and no node is asked for: what only a group reads is not looked at before.</summary>
    WhereAssumedOnly,
}

/// <summary>
/// The literals of groups, by which rules can be left out, and what each of them brings about. Written once; searches over the same
/// network share it.
/// </summary>
internal sealed class GroupActivation
{
    private readonly int[] _literals;
    private readonly List<(int Node, Outcomes Allowed)>[] _roots;
    private readonly List<int>[] _wokenBy;
    private readonly int[]? _sleepsUntil;
    private int _first = int.MaxValue;

    public GroupActivation(Network network, GroupsHold hold)
    {
        _literals = new int[network.Groups.Length];
        _roots = [.. network.Groups.Select(_ => new List<(int, Outcomes)>())];
        _wokenBy = [.. network.Groups.Select(_ => new List<int>())];
        _sleepsUntil = hold == GroupsHold.WhereAssumedOnly ? OnlyReadByGroups(network) : null;
    }

    public int Count => _literals.Length;

    /// <summary>The literal that a group holds.</summary>
    public int this[int group] => _literals[group];

    /// <summary>The group of a literal; −1 where it stands for none.</summary>
    public int GroupOf(int literal) => literal >= _first && (literal - _first) >> 1 is var group && group < _literals.Length ? group : -1;

    /// <summary>What a group asks of nodes once it holds.</summary>
    public List<(int Node, Outcomes Allowed)> RootsOf(int group) => _roots[group];

    /// <summary>The nodes that are to be revised once a group holds.</summary>
    public List<int> WokenBy(int group) => _wokenBy[group];

    /// <summary>The group that a node does not count without; −1 where it does. Of many rules a reason reads a few.</summary>
    public int SleepsUntil(int node) => _sleepsUntil is { } until ? until[node] : -1;

    /// <summary>Gives each group a literal of its own; these follow upon one another.</summary>
    /// <param name="isSettled">Whether a node needs no revising.</param>
    public void Name(Network network, Func<int> newLiteral, Func<int, bool> isSettled)
    {
        for (var group = 0; group < _literals.Length; group++)
        {
            _literals[group] = newLiteral();
            _first = Math.Min(_first, _literals[group]);
        }
        foreach (var (node, allowed, group) in network.Roots)
            if (group >= 0)
                _roots[group].Add((node, allowed));
        for (var n = 0; n < network.Nodes.Length; n++)
            if (network.Nodes[n].Operator == Operator.Presence && network.Nodes[n].Group >= 0)
                _wokenBy[network.Nodes[n].Group].Add(n);
        for (var n = 0; _sleepsUntil is not null && n < network.Nodes.Length; n++)
            if (_sleepsUntil[n] >= 0 && !isSettled(n))
                _wokenBy[_sleepsUntil[n]].Add(n);
    }

    private static int[] OnlyReadByGroups(Network network)
    {
        var until = new int[network.Nodes.Length];
        Array.Fill(until, -1);
        foreach (var roots in network.Roots.GroupBy(r => r.Node))
            if (roots.ToList() is [{ Group: >= 0 } only] && network.Parents[only.Node].Length == 0)
                until[only.Node] = only.Group;
        return until;
    }
}
