using System.Collections.Concurrent;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// What has to hold in a network, each as a truth table over the slots of the variables that it reads, so that whether it holds is one
/// look. A table is filled when it is first read; what would be too large, as sums and products mostly are, is evaluated. Safe for
/// concurrent use.
/// </summary>
internal sealed class RuleTables
{
    /// <summary>Up to so many combinations are evaluated for a table, and so many bits are kept for the rows of a grid.</summary>
    private const int MostEvaluated = 4096, MostKept = 1 << 24, MostFilled = 1 << 22;

    /// <summary>How many bits all tables together have, at most (32 MB).</summary>
    private const long MostInAll = 1L << 28;

    private long _inAll;

    private sealed class Rule(int node, Outcomes allowed, int[] variables)
    {
        public readonly int Node = node;

        /// <summary>For a condition under which a variable applies: none.</summary>
        public readonly Outcomes Allowed = allowed;
        public int[] Variables = variables;
        public int[] Strides = [];
        public int Offset;
        public ulong[]? Table;
        public bool IsEvaluated;

        /// <summary>By variable: the nodes between it and what the rule says, operands first.</summary>
        public int[]?[] Between = [];

        /// <summary>The group that alone asks for it; −1 where there is none such.</summary>
        public int Group { get; init; } = -1;

        /// <summary>Of a count: what is counted.</summary>
        public CountingRule? Counting;

        /// <summary>Of a grid: which variable each column asks for.</summary>
        public GridRule? Grid;
    }

    private readonly Network _network;
    private readonly Rule[] _rules;
    private readonly int[][] _rulesOf;
    private readonly ConcurrentBag<PointEvaluator> _evaluators = [];

    private readonly bool[] _isReadByEvaluated;

    /// <param name="domains">What the variables may be before any pick.</param>
    public RuleTables(Network network, VariableDomain[] domains)
    {
        _network = network;
        Slots = new(domains);
        // What comes of the variables whatever they are, such as that a sum is no error, never fails.
        var unimposed = new FixedPoint<DoubleEnd>(network, network.InDoubles, network.InDoubles.Initial, withGroups: true);
        var isKnown = unimposed.Evaluate();
        // What several groups ask of one node is one rule, and of none of them alone.
        var rules = network.Roots.GroupBy(r => r.Node).Where(g => !isKnown || g.Any(r => (unimposed[g.Key].Outcomes & ~r.Allowed) != 0)).OrderBy(g => g.Key)
            .Select(g => new Rule(g.Key, g.Aggregate(~Outcomes.Impossible, (all, r) => all & r.Allowed), network.VariablesUnder(g.Key))
            { Group = g.Count() == 1 ? g.First().Group : -1 }).ToList();
        for (var n = 0; n < network.Nodes.Length; n++)
            if (network.Nodes[n].Operator == Operator.Presence)
                rules.Add(new(n, Outcomes.Impossible, network.VariablesUnder(n)));
        _rules = [.. rules];
        foreach (var rule in _rules)
        {
            if (IsGrid(rule))
                rule.Grid = new(Slots, network.Nodes[rule.Node].Grid!, [.. network.Nodes[rule.Node].Children.Select(c => network.Nodes[c].Variable!.Index)]);
            if (rule.Allowed != Outcomes.Impossible)
                rule.Counting = CountingRule.Of(network, Slots, rule.Node, rule.Allowed);
            if (rule.Counting is not null)
                continue;
            LayOut(rule);
            if (rule.IsEvaluated && rule.Grid is null)
                (rule.Variables, rule.Between) = (ByDistance(network, rule.Node), new int[network.Variables.Length][]);
        }
        var rulesOf = Enumerable.Range(0, network.Variables.Length).Select(_ => new List<int>()).ToArray();
        for (var r = 0; r < _rules.Length; r++)
            foreach (var variable in _rules[r].Variables)
                rulesOf[variable].Add(r);
        _rulesOf = [.. rulesOf.Select(r => r.ToArray())];
        _isReadByEvaluated = new bool[network.Variables.Length];
        foreach (var rule in _rules.Where(r => r.IsEvaluated && r.Grid is null))
            foreach (var variable in rule.Variables)
                _isReadByEvaluated[variable] = true;
    }

    /// <summary>The variables under a node, breadth first.</summary>
    private static int[] ByDistance(Network network, int node)
    {
        var (seen, open, found) = (new HashSet<int> { node }, new Queue<int>([node]), new List<int>());
        while (open.TryDequeue(out var at))
        {
            if (network.Nodes[at].Variable is { } variable)
                found.Add(variable.Index);
            foreach (var child in network.Nodes[at].Children)
                if (seen.Add(child))
                    open.Enqueue(child);
        }
        return [.. found];
    }

    /// <summary>An evaluator for the rules that have no table, for one thread; null where all have one.</summary>
    public PointEvaluator? NewEvaluator() => Array.Exists(_isReadByEvaluated, r => r) ? new(_network) : null;

    /// <summary>Whether a rule has neither a table nor rows, so that its nodes are evaluated.</summary>
    public bool IsEvaluated(int rule) => _rules[rule] is { IsEvaluated: true, Grid: null };

    /// <summary>Whether such a rule reads a variable.</summary>
    public bool IsReadByEvaluated(int variable) => _isReadByEvaluated[variable];

    public Slots Slots { get; }
    public int Count => _rules.Length;

    /// <summary>The rules that read a variable.</summary>
    public int[] RulesOf(int variable) => _rulesOf[variable];

    /// <summary>The variables that a rule reads; of one that is evaluated those first that stand nearest to what it says.</summary>
    public int[] VariablesOf(int rule) => _rules[rule].Variables;

    /// <summary>The rule that is all that a group asks for; −1 where it asks for something else, or not alone.</summary>
    public int RuleOf(int group)
    {
        var found = -1;
        for (var r = 0; r < _rules.Length; r++)
            if (_rules[r].Group == group)
                if (found >= 0)
                    return -1;
                else
                    found = r;
        return _network.Roots.Count(r => r.Group == group) == 1
            && !Array.Exists(_network.Nodes, n => n.Operator == Operator.Presence && n.Group == group) ? found : -1;
    }

    /// <summary>A rule as a count, where it is one.</summary>
    public CountingRule? CountingOf(int rule) => _rules[rule].Counting;

    /// <summary>A rule as a grid, where it is one.</summary>
    public GridRule? GridOf(int rule) => _rules[rule].Grid;

    /// <summary>Whether a rule holds where each variable has the value of a slot.</summary>
    public bool Holds(int index, int[] slots)
    {
        var rule = _rules[index];
        if (rule.Counting is { } counting)
            return counting.Holds(slots);
        if (rule.Table is not { } table)
        {
            if (rule.IsEvaluated)
                return rule.Grid?.Allows(slots, (rule.Allowed & Outcomes.Absent) != 0) ?? IsKept(rule, slots);
            Fill(rule);
            return Holds(index, slots);
        }
        var at = rule.Offset;
        var (variables, strides) = (rule.Variables, rule.Strides);
        for (var i = 0; i < variables.Length; i++)
            at += slots[variables[i]] * strides[i];
        return (table[at >> 6] >> at & 1) != 0;
    }

    /// <summary>Whether a rule holds for everything that nodes may be, or for nothing of it; null where that is not known.</summary>
    /// <param name="outcomes">What a node may come out as.</param>
    public bool? Holds(int index, Func<int, Outcomes> outcomes)
    {
        var rule = _rules[index];
        if (rule.Allowed != Outcomes.Impossible)
            return outcomes(rule.Node) is var told && (told & rule.Allowed) == 0 ? false : (told & ~rule.Allowed) == 0 ? true : null;
        var (condition, conditional) = (outcomes(_network.Nodes[rule.Node].Children[0]), outcomes(_network.Nodes[rule.Node].Children[1]));
        var (holds, holdsNot) = ((condition & Outcomes.True) != 0, (condition & ~Outcomes.True) != 0);
        var (applies, absent) = ((conditional & ~Outcomes.Absent) != 0, (conditional & Outcomes.Absent) != 0);
        return !(holds && applies) && !(holdsNot && absent) ? false : !(holds && absent) && !(holdsNot && applies) ? true : null;
    }

    private void LayOut(Rule rule)
    {
        rule.Strides = new int[rule.Variables.Length];
        var size = 1L;
        for (var i = rule.Variables.Length - 1; i >= 0 && size <= MostKept; i--)
        {
            var variable = rule.Variables[i];
            rule.Strides[i] = (int)size;
            rule.Offset -= Slots.First[variable] * rule.Strides[i];
            size *= Slots.SizeOf(variable);
        }
        rule.IsEvaluated = size > (rule.Grid is not null ? MostKept : MostEvaluated) || _inAll + size > MostInAll;
        _inAll += rule.IsEvaluated ? 0 : size;
    }

    /// <summary>Whether a rule is a grid whose keys are different variables as they are: then its rows fill the table.</summary>
    private bool IsGrid(Rule rule) => _network.Nodes[rule.Node] is { Operator: Operator.Table } node && (rule.Allowed & Outcomes.Value) == Outcomes.True
        && node.Children.Length == rule.Variables.Length && node.Children.All(c => _network.Nodes[c].Variable is { Initial.Kind: not DomainKind.Number });

    private void Fill(Rule rule)
    {
        var size = 1;
        foreach (var variable in rule.Variables)
            size *= Slots.SizeOf(variable);
        var table = new ulong[(size + 63) / 64];
        if (rule.Grid is null || !FillFromRows(rule, table))
        {
            if (size > MostEvaluated)
            {
                rule.IsEvaluated = true;
                return;
            }
            var slots = new int[Slots.Variables];
            for (var at = 0; at < size; at++)
            {
                for (var i = 0; i < rule.Variables.Length; i++)
                    slots[rule.Variables[i]] = Slots.First[rule.Variables[i]] + at / rule.Strides[i] % Slots.SizeOf(rule.Variables[i]);
                if (IsKept(rule, slots))
                    BitSet.Set(table, at);
            }
        }
        Volatile.Write(ref rule.Table, table);
    }

    /// <summary>Enters the combinations of each row. False: there are too many of them, as rows of wildcards have.</summary>
    private bool FillFromRows(Rule rule, ulong[] table)
    {
        var grid = rule.Grid!;
        var columns = grid.Variables.Select(v => Array.IndexOf(rule.Variables, v)).ToArray();
        var steps = new int[columns.Length][];
        var filled = 0L;
        for (var row = 0; row < grid.RowCount; row++)
        {
            var combinations = 1L;
            for (var c = 0; c < columns.Length; c++)
            {
                var (first, stride) = (Slots.First[grid.Variables[c]], rule.Strides[columns[c]]);
                steps[c] = [.. Enumerable.Range(0, Slots.SizeOf(grid.Variables[c])).Where(s => grid.Has(row, c, first + s)).Select(s => s * stride)];
                combinations *= steps[c].Length;
            }
            if ((filled += combinations) > MostFilled)
                return false;
            Enter(0, 0);
        }
        if ((rule.Allowed & Outcomes.Absent) != 0)
            EnterWithoutValues(0, 0, false);
        return true;

        void Enter(int column, int at)
        {
            if (column == columns.Length)
                BitSet.Set(table, at);
            else
                foreach (var step in steps[column])
                    Enter(column + 1, at + step);
        }

        // Where a key has no value a grid asks for nothing.
        void EnterWithoutValues(int place, int at, bool isAny)
        {
            if (place == rule.Variables.Length)
            {
                if (isAny)
                    BitSet.Set(table, at);
                return;
            }
            var (first, size) = (Slots.First[rule.Variables[place]], Slots.SizeOf(rule.Variables[place]));
            for (var s = 0; s < size; s++)
                if ((Slots[first + s].Outcome & Outcomes.NoValue) != 0)
                    EnterWithoutValues(place + 1, at + s * rule.Strides[place], true);
                else if (isAny || HasGap(place + 1))
                    EnterWithoutValues(place + 1, at + s * rule.Strides[place], isAny);
        }

        bool HasGap(int from)
        {
            for (var i = from; i < rule.Variables.Length; i++)
                for (var slot = Slots.First[rule.Variables[i]]; slot < Slots.First[rule.Variables[i] + 1]; slot++)
                    if ((Slots[slot].Outcome & Outcomes.NoValue) != 0)
                        return true;
            return false;
        }
    }

    private bool IsKept(Rule rule, int[] slots)
    {
        if (!_evaluators.TryTake(out var evaluator))
            evaluator = new(_network);
        evaluator.EvaluateUnder(rule.Node, variable => Slots[slots[variable]]);
        var isKept = IsKept(rule, evaluator);
        _evaluators.Add(evaluator);
        return isKept;
    }

    /// <summary>Gives a variable the value of a slot.</summary>
    public void Set(PointEvaluator evaluator, int variable, int slot) => evaluator.Set(_network.Variables[variable], Slots[slot]);

    /// <summary>Whether a rule holds where the variables that it reads have the values that an evaluator was given.</summary>
    public bool Holds(int rule, PointEvaluator evaluator)
    {
        var (of, only) = (_rules[rule], evaluator.OnlyChangedSince(_rules[rule].Node));
        evaluator.Update(of.Node, only < 0
            ? _network.Under(of.Node) : of.Between[only] ??= [.. _network.Under(of.Node).Intersect(_network.DependentsOf(_network.Variables[only]))]);
        return IsKept(of, evaluator);
    }

    private bool IsKept(Rule rule, PointEvaluator evaluator)
    {
        if (rule.Allowed != Outcomes.Impossible)
            return (evaluator.OutcomeOf(rule.Node) & rule.Allowed) != 0;
        // A variable applies if and only if its condition is true.
        var (condition, conditional) = (_network.Nodes[rule.Node].Children[0], _network.Nodes[rule.Node].Children[1]);
        return (evaluator.OutcomeOf(condition) == Outcomes.True) == (evaluator.OutcomeOf(conditional) != Outcomes.Absent);
    }
}
