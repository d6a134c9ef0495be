using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// What has to hold in a network without numbers, each as a truth table over the slots of the variables that it reads, so that
/// whether it holds is one look. A table is filled when it is first read; what would be too large is evaluated each time. Safe
/// for concurrent use.
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
        public readonly int[] Variables = variables;
        public int[] Strides = [];
        public int Offset;
        public ulong[]? Table;
        public bool IsEvaluated;

        /// <summary>The group that alone asks for it; −1 where there is none such.</summary>
        public int Group { get; init; } = -1;

        /// <summary>Of a grid: which variable each column asks for.</summary>
        public GridRule? Grid;
    }

    private readonly Network _network;
    private readonly Rule[] _rules;
    private readonly int[][] _rulesOf;
    private readonly PointEvaluator _evaluator;
    private readonly Lock _evaluating = new();

    /// <param name="domains">What the variables may be before any pick.</param>
    public RuleTables(Network network, VariableDomain[] domains)
    {
        _network = network;
        Slots = new(domains);
        _evaluator = new(network);
        // What several groups ask of one node is one rule, and of none of them alone.
        var rules = network.Roots.GroupBy(r => r.Node).OrderBy(g => g.Key).Select(g => new Rule(g.Key, g.Aggregate(~Outcomes.Impossible, (all, r) => all & r.Allowed), network.VariablesUnder(g.Key))
        { Group = g.Count() == 1 ? g.First().Group : -1 }).ToList();
        for (var n = 0; n < network.Nodes.Length; n++)
            if (network.Nodes[n].Operator == Operator.Presence)
                rules.Add(new(n, Outcomes.Impossible, network.VariablesUnder(n)));
        _rules = [.. rules];
        foreach (var rule in _rules)
        {
            if (IsGrid(rule))
                rule.Grid = new(Slots, network.Nodes[rule.Node].Grid!, [.. network.Nodes[rule.Node].Children.Select(c => network.Nodes[c].Variable!.Index)]);
            LayOut(rule);
        }
        var rulesOf = Enumerable.Range(0, network.Variables.Length).Select(_ => new List<int>()).ToArray();
        for (var r = 0; r < _rules.Length; r++)
            foreach (var variable in _rules[r].Variables)
                rulesOf[variable].Add(r);
        _rulesOf = [.. rulesOf.Select(r => r.ToArray())];
    }

    public Slots Slots { get; }
    public int Count => _rules.Length;

    /// <summary>The rules that read a variable.</summary>
    public int[] RulesOf(int variable) => _rulesOf[variable];

    /// <summary>The variables that a rule reads.</summary>
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
        return _network.Roots.Count(r => r.Group == group) == 1 && !Array.Exists(_network.Nodes, n => n.Operator == Operator.Presence && n.Group == group) ? found : -1;
    }

    /// <summary>A rule as a grid, where it is one.</summary>
    public GridRule? GridOf(int rule) => _rules[rule].Grid;

    /// <summary>Whether a rule holds where each variable has the value of a slot.</summary>
    public bool Holds(int index, int[] slots)
    {
        var rule = _rules[index];
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
        && node.Children.Length == rule.Variables.Length && node.Children.All(c => _network.Nodes[c].Operator == Operator.Variable);

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
        lock (_evaluating)
        {
            Assigned ValueOf(int variable) => Slots[slots[variable]];
            if (rule.Allowed != Outcomes.Impossible)
                return (_evaluator.OutcomeOf(rule.Node, ValueOf) & rule.Allowed) != 0;
            // A variable applies if and only if its condition is true.
            var (condition, conditional) = (_network.Nodes[rule.Node].Children[0], _network.Nodes[rule.Node].Children[1]);
            return (_evaluator.OutcomeOf(condition, ValueOf) == Outcomes.True) == (ValueOf(_network.Nodes[conditional].Variable!.Index).Outcome != Outcomes.Absent);
        }
    }
}
