using System.Numerics;
using Juniperfall.Core.Reasoning.Counting;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// Writes rules as clauses over the values of their variables: each set of combinations that a rule rules out, as wide as it can be made, is a
/// clause, as prime implicates are (Quine, “A way to simplify truth functions”, 1955; here found greedily, not all of them).
/// </summary>
internal sealed class RuleClauses(Network network, DiscreteNetwork discrete)
{
    /// <summary>A mask has this many bits; a variable with more values is not written as clauses.</summary>
    public const int MostValues = 64;

    /// <summary>Up to so many combinations are gone through one by one, and so many clauses are written for one rule.</summary>
    private const int MostCombinations = 1 << 12, MostClauses = 2_000;

    /// <summary>How many evaluations one rule may take that has more combinations.</summary>
    private const int MostEvaluations = 4_000;

    private readonly Slots _slots = discrete.Slots;
    private readonly RuleTables _rules = discrete.Rules;
    private readonly int[] _current = new int[discrete.Slots.Variables];
    private Backtracking? _evaluation;

    /// <summary>The values of a variable, as bits.</summary>
    private ulong All(int variable) => _slots.SizeOf(variable) == MostValues ? ulong.MaxValue : (1UL << _slots.SizeOf(variable)) - 1;

    /// <summary>A rule as clauses; null where it would be too many, or a variable of it has too many values.</summary>
    public List<SlotClause>? Of(int rule)
    {
        int[] variables = [.. _rules.VariablesOf(rule).Where(v => _slots.SizeOf(v) > 1)];
        if (Array.Exists(variables, v => _slots.SizeOf(v) > MostValues))
            return null;
        foreach (var variable in _rules.VariablesOf(rule))
            _current[variable] = _slots.First[variable];
        if (_rules.CountingOf(rule) is { } counting && counting.Clauses(_slots, MostClauses) is { } counted)
            return [.. counted.Select(c => new SlotClause(c))];
        var combinations = variables.Aggregate(1.0, (product, v) => product * _slots.SizeOf(v));
        return combinations <= MostCombinations ? ByCombinations(rule, variables) : ByParts(rule, variables);
    }

    // ---- Rules of few combinations ------------------------------------------------------------------------------

    private List<SlotClause>? ByCombinations(int rule, int[] variables)
    {
        var (clauses, box) = (new List<SlotClause>(), new ulong[variables.Length]);
        var boxes = new List<ulong[]>();
        return Next(0) ? clauses : null;

        bool Next(int at)
        {
            if (at < variables.Length)
            {
                for (var value = 0; value < _slots.SizeOf(variables[at]); value++)
                {
                    (box[at], _current[variables[at]]) = (1UL << value, _slots.First[variables[at]] + value);
                    if (!Next(at + 1))
                        return false;
                }
                return true;
            }
            if (_rules.Holds(rule, _current) || boxes.Exists(Covers))
                return true;
            ulong[] wide = [.. box];
            for (var i = 0; i < variables.Length; i++)
                for (var others = All(variables[i]) & ~wide[i]; others != 0; others &= others - 1)
                {
                    var before = wide[i];
                    wide[i] = others & (~others + 1);
                    wide[i] = IsRuledOut(rule, variables, wide, 0) ? before | wide[i] : before;
                }
            for (var i = 0; i < variables.Length; i++)
                _current[variables[i]] = SlotOf(variables[i], box[i]);
            boxes.Add(wide);
            clauses.Add(ClauseOf(variables, wide));
            return clauses.Count <= MostClauses;
        }

        bool Covers(ulong[] wide)
        {
            for (var i = 0; i < wide.Length; i++)
                if ((box[i] & ~wide[i]) != 0)
                    return false;
            return true;
        }
    }

    private bool IsRuledOut(int rule, int[] variables, ulong[] box, int at)
    {
        if (at == variables.Length)
            return !_rules.Holds(rule, _current);
        for (var rest = box[at]; rest != 0; rest &= rest - 1)
        {
            _current[variables[at]] = SlotOf(variables[at], rest);
            if (!IsRuledOut(rule, variables, box, at + 1))
                return false;
        }
        return true;
    }

    private int SlotOf(int variable, ulong values) => _slots.First[variable] + BitOperations.TrailingZeroCount(values);

    private SlotClause ClauseOf(int[] variables, ulong[] ruledOut) => new([.. variables.Select((v, i) => (v, All(v) & ~ruledOut[i])).Where(l => l.Item2 != 0)]);

    // ---- Rules of many --------------------------------------------------------------------------------------------

    /// <summary>Halves the combinations, variable by variable, until intervals tell of all that are left whether the rule holds.</summary>
    private List<SlotClause>? ByParts(int rule, int[] variables)
    {
        if (_evaluation is null)
        {
            _evaluation = new(network, network.InDoubles.Initial, withGroups: false);
            if (!_evaluation.Evaluate())
                return null;
            for (var v = 0; v < network.Variables.Length; v++)
                if (_slots.SizeOf(v) <= MostValues)
                    _evaluation.Restrict(network.Variables[v], DomainOf(v, All(v)));
            _evaluation.Propagate();
        }
        var (clauses, box, left) = (new List<SlotClause>(), new ulong[variables.Length], MostEvaluations);
        for (var i = 0; i < variables.Length; i++)
            box[i] = All(variables[i]);
        return Next(0) ? clauses : null;

        bool Next(int at)
        {
            if (--left < 0)
                return false;
            switch (Holds(rule, variables, box))
            {
                case true:
                    return true;
                case false:
                    for (var i = 0; i < at; i++)
                    {
                        // What need not be as it is to rule the rest out is left open.
                        var before = box[i];
                        box[i] = All(variables[i]);
                        if (--left < 0 || Holds(rule, variables, box) != false)
                            box[i] = before;
                    }
                    clauses.Add(ClauseOf(variables, box));
                    return clauses.Count <= MostClauses;
            }
            ulong[] kept = [.. box];
            for (var rest = kept[at]; rest != 0; rest &= rest - 1)
            {
                kept.CopyTo(box, 0);
                box[at] = rest & (~rest + 1);
                if (!Next(at + 1))
                    return false;
            }
            return true;
        }
    }

    /// <summary>Whether a rule holds for all of some combinations, or for none; null where that is not known.</summary>
    private bool? Holds(int rule, int[] variables, ulong[] box)
    {
        var mark = _evaluation!.Mark;
        var isSingle = true;
        for (var i = 0; i < variables.Length; i++)
        {
            isSingle &= BitOperations.IsPow2(box[i]);
            _current[variables[i]] = SlotOf(variables[i], box[i]);
            if (box[i] != All(variables[i]))
                _evaluation.Restrict(network.Variables[variables[i]], DomainOf(variables[i], box[i]));
        }
        bool? holds = isSingle ? _rules.Holds(rule, _current) : _evaluation.Propagate() ? _rules.Holds(rule, n => _evaluation[n].Outcomes) : null;
        _evaluation.BackTo(mark);
        return holds;
    }

    private VariableDomain DomainOf(int variable, ulong values)
    {
        var initial = network.Variables[variable].Initial;
        var (outcomes, first, last) = (Outcomes.Impossible, long.MaxValue, long.MinValue);
        var bits = initial.Bits is { } all ? new ulong[all.Length] : null;
        for (var rest = values; rest != 0; rest &= rest - 1)
        {
            var value = _slots[SlotOf(variable, rest)];
            outcomes |= value.Outcome;
            if (value.Outcome != Outcomes.Present)
                continue;
            (first, last) = (Math.Min(first, value.Index), Math.Max(last, value.Index));
            if (bits is not null)
                BitSet.Set(bits, (int)value.Index);
        }
        return initial with { Outcomes = outcomes, First = first, Last = last, Bits = bits };
    }
}
