using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>A part or operation line of one occurrence, with the nodes that say whether and how much.</summary>
internal sealed record CompiledLine(Occurrence Occurrence, Row Row, int Condition, ImmutableSortedDictionary<string, int> Numbers);

internal sealed record CompiledComputed(Occurrence Occurrence, ComputedAttribute Row, ExpressionType Type, int Node);

internal sealed record CompiledAdvice(Occurrence Occurrence, Row Row, int Node);

/// <summary>The whole model as a network of nodes over decision variables, for one site and date.</summary>
internal sealed class Network
{
    public required BoundModel Model { get; init; }
    public required Node[] Nodes { get; init; }
    public required Domain<ExactEnd>[] Initial { get; init; }
    public required Variable[] Variables { get; init; }
    public required Group[] Groups { get; init; }

    /// <summary>What holds in every configuration: the node, its outcomes, and the group that asks for it (−1: background).</summary>
    public required (int Node, Outcomes Allowed, int Group)[] Roots { get; init; }
    public required Dictionary<string, int> ConditionOfPath { get; init; }
    public required CompiledLine[] Lines { get; init; }
    public required CompiledComputed[] Computed { get; init; }
    public required CompiledAdvice[] Advice { get; init; }
    public required (Occurrence Occurrence, AttributeRow Row)[] Texts { get; init; }

    /// <summary>What was asked to be found out of it, beside its configurations.</summary>
    public ImmutableArray<Probe> Probes { get; init; } = [];

    /// <summary>What a structure comes to as a whole, where that was asked for.</summary>
    public IReadOnlyDictionary<string, int> Goals { get; init; } = new Dictionary<string, int>();

    private readonly Lazy<NetworkEnds<DoubleEnd>> _inDoubles;
    private readonly Lazy<NetworkEnds<ExactEnd>> _inExactNumbers;
    private readonly Lazy<int[][]> _parents;
    private readonly Lazy<(int[] Order, int[] PresenceOf, int[] ConditionOf)> _evaluation;

    public Network()
    {
        _inDoubles = new(() => new(this));
        _inExactNumbers = new(() => new(this));
        _parents = new(FindParents);
        _evaluation = new(FindOrder);
    }

    public NetworkEnds<DoubleEnd> InDoubles => _inDoubles.Value;
    public NetworkEnds<ExactEnd> InExactNumbers => _inExactNumbers.Value;
    public int[][] Parents => _parents.Value;

    /// <summary>Instances that can change places while nothing is picked: <see cref="InterchangeableInstances.Of"/>.</summary>
    public int[][][] Interchangeable { get; init; } = [];

    /// <summary>For each of these, by instance but the last: the node that says that it and the next one are in order.</summary>
    public int[][] Orders { get; init; } = [];

    /// <summary>Children before their nodes, and the condition of a variable before the variable; constants left out.</summary>
    public int[] Order => _evaluation.Value.Order;

    /// <summary>By node: for a variable that has a condition, the constraint and the condition’s node, otherwise −1.</summary>
    public int[] PresenceOf => _evaluation.Value.PresenceOf;
    public int[] ConditionOf => _evaluation.Value.ConditionOf;

    /// <summary>Whether there are no numbers, so that propagation decides everything.</summary>
    public bool HasNoNumbers => _hasNoNumbers ??= Array.TrueForAll(Initial, d => d.Kind != DomainKind.Number);

    private bool? _hasNoNumbers;
    private int[]?[]? _dependents;
    private int[]? _placeInOrder;

    /// <summary>A variable and what depends on it, in the order of evaluation. Found once; two that find it at once find the same.</summary>
    public int[] DependentsOf(Variable variable)
    {
        var known = Volatile.Read(ref _dependents) ?? Interlocked.CompareExchange(ref _dependents, new int[Variables.Length][], null) ?? _dependents!;
        return known[variable.Index] ??= FindDependents(variable);
    }

    /// <summary>By node: its place in <see cref="Order"/>; −1 where it has none.</summary>
    public int[] PlacesInOrder
    {
        get
        {
            if (_placeInOrder is { } known)
                return known;
            var places = new int[Nodes.Length];
            Array.Fill(places, -1);
            for (var i = 0; i < Order.Length; i++)
                places[Order[i]] = i;
            return _placeInOrder = places;
        }
    }

    /// <summary>A node and all that it is made of, children before their nodes; constants left out.</summary>
    public int[] Under(int node)
    {
        var known = Volatile.Read(ref _under) ?? Interlocked.CompareExchange(ref _under, new int[Nodes.Length][], null) ?? _under!;
        return known[node] ??= FindUnder(node);
    }

    private int[]?[]? _under;

    /// <summary>The variables that a node is made of, itself among them where it is one.</summary>
    public int[] VariablesUnder(int node) => [.. Under(node).Select(n => Nodes[n].Variable?.Index ?? -1).Where(v => v >= 0).Order()];

    private int[] FindUnder(int node)
    {
        var seen = new HashSet<int> { node };
        var open = new Stack<int>([node]);
        while (open.TryPop(out var at))
            foreach (var child in Nodes[at].Children)
                if (seen.Add(child))
                    open.Push(child);
        return [.. seen.Where(n => Nodes[n].Operator != Operator.Constant).Order()];
    }

    /// <summary>The variables that a group's constraints read; of group −1, those of all that holds in any case. Found once.</summary>
    public int[] VariablesOf(int group)
    {
        var known = Volatile.Read(ref _variablesOf) ?? Interlocked.CompareExchange(ref _variablesOf, FindVariablesOfGroups(), null) ?? _variablesOf!;
        return known[group + 1];
    }

    private int[][]? _variablesOf;

    /// <summary>All groups, those first that read some variables, then those that read what these read, and so on.</summary>
    public IEnumerable<int> GroupsByDistance(IEnumerable<int> variables)
    {
        var (seen, reached, open) = (new bool[Groups.Length], new bool[Variables.Length], new Queue<int>());
        foreach (var variable in variables)
            Reach(variable);
        while (open.TryDequeue(out var variable))
            foreach (var group in GroupsOf(variable))
                if (!seen[group])
                {
                    seen[group] = true;
                    yield return group;
                    foreach (var next in VariablesOf(group))
                        Reach(next);
                }
        for (var group = 0; group < seen.Length; group++)
            if (!seen[group])
                yield return group;

        void Reach(int variable)
        {
            if (reached[variable])
                return;
            reached[variable] = true;
            open.Enqueue(variable);
        }
    }

    /// <summary>
    /// How many of the nearest groups to look at, again and again more until it is all: mostly the nearest are enough to refute
    /// something, and the rest of the model is never looked at.
    /// </summary>
    public static IEnumerable<int> Widening(int groups)
    {
        for (var near = FirstNear; near < groups; near *= NearFactor)
            yield return near;
        yield return groups;
    }

    private const int FirstNear = 250, NearFactor = 25;

    /// <summary>The groups whose constraints read a variable. Found once.</summary>
    private int[] GroupsOf(int variable)
    {
        var known = Volatile.Read(ref _groupsOf) ?? Interlocked.CompareExchange(ref _groupsOf, FindGroupsOfVariables(), null) ?? _groupsOf!;
        return known[variable];
    }

    private int[][]? _groupsOf;

    private int[][] FindGroupsOfVariables()
    {
        var found = Variables.Select(_ => new List<int>()).ToArray();
        for (var group = 0; group < Groups.Length; group++)
            foreach (var variable in VariablesOf(group))
                found[variable].Add(group);
        return [.. found.Select(f => f.ToArray())];
    }

    private int[][] FindVariablesOfGroups()
    {
        var found = Enumerable.Range(0, Groups.Length + 1).Select(_ => new SortedSet<int>()).ToArray();
        foreach (var (node, _, group) in Roots)
            found[group + 1].UnionWith(VariablesUnder(node));
        for (var n = 0; n < Nodes.Length; n++)
            // What applies in any case is so by propagation, before any question.
            if (Nodes[n].Operator == Operator.Presence && Nodes[Nodes[n].Children[0]].Operator != Operator.Constant)
                found[Nodes[n].Group + 1].UnionWith(VariablesUnder(n));
        return [.. found.Select(f => f.ToArray())];
    }

    /// <summary>What a group asks of nodes; of group −1, what is asked in any case. Found once.</summary>
    public (int Node, Outcomes Allowed)[] RootsOf(int group)
    {
        var known = Volatile.Read(ref _rootsOf) ?? Interlocked.CompareExchange(ref _rootsOf, FindRootsOfGroups(), null) ?? _rootsOf!;
        return known[group + 1];
    }

    private (int, Outcomes)[][]? _rootsOf;

    private (int, Outcomes)[][] FindRootsOfGroups()
    {
        var roots = Roots.ToLookup(r => r.Group, r => (r.Node, r.Allowed));
        return [.. Enumerable.Range(-1, Groups.Length + 1).Select(group => roots[group].ToArray())];
    }

    /// <summary>Whether a group says when something applies. Found once.</summary>
    public bool IsCondition(int group) =>
        (_conditions ??= [.. Nodes.Where(n => n.Operator == Operator.Presence && n.Group >= 0).Select(n => n.Group)]).Contains(group);

    private HashSet<int>? _conditions;

    private int[] FindDependents(Variable variable)
    {
        var places = PlacesInOrder;
        var found = new HashSet<int> { variable.Node };
        var open = new Stack<int>([variable.Node]);
        while (open.TryPop(out var at))
            foreach (var parent in Parents[at])
            {
                // Through the presence of a variable to the variable itself.
                var next = Nodes[parent].Operator == Operator.Presence ? Nodes[parent].Children[1] : parent;
                if (found.Add(next))
                    open.Push(next);
            }
        return [.. found.Where(n => places[n] >= 0).OrderBy(n => places[n])];
    }

    private int[][] FindParents()
    {
        var parents = new List<int>[Nodes.Length];
        for (var i = 0; i < Nodes.Length; i++)
            foreach (var child in Nodes[i].Children.Distinct())
                (parents[child] ??= []).Add(i);
        return [.. parents.Select(p => p?.ToArray() ?? [])];
    }

    private (int[], int[], int[]) FindOrder()
    {
        var (presenceOf, conditionOf) = (new int[Nodes.Length], new int[Nodes.Length]);
        Array.Fill(presenceOf, -1);
        Array.Fill(conditionOf, -1);
        for (var n = 0; n < Nodes.Length; n++)
            if (Nodes[n].Operator == Operator.Presence)
                (presenceOf[Nodes[n].Children[1]], conditionOf[Nodes[n].Children[1]]) = (n, Nodes[n].Children[0]);
        var order = new List<int>(Nodes.Length);
        var seen = new bool[Nodes.Length];
        var open = new Stack<(int Node, bool Done)>();
        for (var start = 0; start < seen.Length; start++)
        {
            open.Push((start, false));
            while (open.TryPop(out var at))
            {
                if (at.Done)
                {
                    if (Nodes[at.Node].Operator is not (Operator.Constant or Operator.Presence))
                        order.Add(at.Node);
                    continue;
                }
                if (seen[at.Node])
                    continue;
                seen[at.Node] = true;
                open.Push((at.Node, true));
                foreach (var child in Nodes[at.Node].Children)
                    open.Push((child, false));
                if (conditionOf[at.Node] >= 0)
                    open.Push((conditionOf[at.Node], false));
            }
        }
        return ([.. order], presenceOf, conditionOf);
    }
}
