using System.Numerics;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// Changes a configuration step by step until it keeps every rule again: of a rule that fails, the variable is changed, or two or
/// three, that leaves fewest other rules failing (Minton, Johnston, Philips and Laird, “Minimizing conflicts: a heuristic repair
/// method for constraint satisfaction and scheduling problems”, 1992). It finds most configurations in microseconds and proves
/// nothing: where it gives up there may be one all the same. Not safe for concurrent use.
/// </summary>
internal sealed class Repair
{
    /// <summary>How many variables may change for one value, and how many rules may fail on the way.</summary>
    private const int MostChanges = 24, MostEasyChanges = 6, MostFailing = 12;

    /// <summary>How many combinations of two or three values are tried for one rule.</summary>
    private const int MostCombinations = 6_000, MostEvaluatedCombinations = 400;

    private readonly RuleTables _rules;
    private readonly Slots _slots;
    private readonly int[] _current;

    /// <summary>The rules that fail now, and by rule its place among them, −1 where it holds.</summary>
    private readonly int[] _failing, _placeOf;
    private int _failingCount;

    /// <summary>By variable: in which repair it was changed, or for good by a value that is to stay.</summary>
    private readonly int[] _changedIn;
    private int _repair;
    private const int ForGood = int.MaxValue;

    private readonly List<(int Variable, int Before)> _changes = [];
    private ulong[] _domain = [];
    private ulong[] _wished = [];

    /// <summary>The rule that is to fail; −1 where all are to hold.</summary>
    private int _broken = -1;

    /// <summary>For the rules that have no table: the values of what they read, which follow those of the variables when they are asked for.</summary>
    private readonly PointEvaluator? _evaluator;
    private readonly int[] _evaluated;
    private readonly List<int> _touched = [];
    private readonly bool[] _isTouched;

    /// <param name="evaluator">For the rules that have no table; null where all have one.</param>
    public Repair(RuleTables rules, PointEvaluator? evaluator)
    {
        (_evaluator, _evaluated, _isTouched) = (evaluator, new int[rules.Slots.Variables], new bool[rules.Slots.Variables]);
        Array.Fill(_evaluated, -1);
        _lastMending = [.. _evaluated];
        (_rules, _slots) = (rules, rules.Slots);
        (_current, _changedIn) = (new int[_slots.Variables], new int[_slots.Variables]);
        (_failing, _placeOf) = (new int[rules.Count], new int[rules.Count]);
        Array.Fill(_placeOf, -1);
    }

    /// <summary>
    /// Starts from a configuration that keeps every rule, and makes it one within a domain. False: that was not found.
    /// </summary>
    /// <param name="domain">The slots that variables may take; at least one of each.</param>
    /// <param name="wished">Slots that are taken rather than others.</param>
    public bool Start(Witness from, ulong[] domain, ulong[] wished)
    {
        _broken = -1;
        Clear();
        (_domain, _wished) = (domain, wished);
        for (var variable = 0; variable < _current.Length; variable++)
            Assign(variable, from.Slots[variable]);
        Array.Clear(_changedIn);
        _repair = 1;
        _changes.Clear();
        for (var w = 0; w < domain.Length; w++)
            for (var outside = from.Set[w] & ~domain[w]; outside != 0; outside &= outside - 1)
            {
                var variable = _slots.Owner[(w << 6) + BitOperations.TrailingZeroCount(outside)];
                if (Best(variable) is not (>= 0 and var slot))
                    return false;
                Change(variable, slot);
            }
        return Settle();
    }

    /// <summary>Changes a configuration that keeps every rule so that one fails and all others hold. False: that was not found.</summary>
    public bool Break(int rule, Witness from, ulong[] domain)
    {
        if (!Start(from, domain, domain))
            return false;
        _broken = rule;
        _repair++;
        _changes.Clear();
        (_placeOf[rule], _failing[0], _failingCount) = (0, rule, 1);
        return Settle();
    }

    /// <summary>How much has been looked at since it was made: one for a look into a table, more for what is evaluated.</summary>
    public long Work { get; private set; }

    private const int WorkOfEvaluation = 8;

    private bool Holds(int rule) =>
        (_evaluator is { } evaluator && _rules.IsEvaluated(rule) ? HoldsAsEvaluated(rule, evaluator) : HoldsByTable(rule)) != (rule == _broken);

    private bool HoldsByTable(int rule)
    {
        Work++;
        return _rules.Holds(rule, _current);
    }

    private bool HoldsAsEvaluated(int rule, PointEvaluator evaluator)
    {
        Work += WorkOfEvaluation;
        foreach (var variable in _touched)
        {
            _isTouched[variable] = false;
            if (_evaluated[variable] == _current[variable])
                continue;
            _evaluated[variable] = _current[variable];
            _rules.Set(evaluator, variable, _current[variable]);
        }
        _touched.Clear();
        return _rules.Holds(rule, evaluator);
    }

    private void Assign(int variable, int slot)
    {
        _current[variable] = slot;
        if (_evaluator is null || _isTouched[variable] || !_rules.IsReadByEvaluated(variable))
            return;
        _isTouched[variable] = true;
        _touched.Add(variable);
    }

    private void Clear()
    {
        for (var i = 0; i < _failingCount; i++)
            _placeOf[_failing[i]] = -1;
        _failingCount = 0;
    }

    /// <summary>As <see cref="Take"/>, where it needs few changes.</summary>
    public bool TakeIfEasy(int slot)
    {
        (_mostChanges, _isEasy) = (MostEasyChanges, true);
        var isTaken = Take(slot);
        (_mostChanges, _isEasy) = (MostChanges, false);
        return isTaken;
    }

    /// <summary>Where only easy changes are made: one variable for a rule.</summary>
    private bool _isEasy;
    private int _mostChanges = MostChanges;

    /// <summary>Takes a value, for good, beside those taken before. False: it was not found how; then all is as it was.</summary>
    public bool Take(int slot)
    {
        var variable = _slots.Owner[slot];
        if (_current[variable] == slot)
        {
            _changedIn[variable] = ForGood;
            return true;
        }
        if (_changedIn[variable] == ForGood)
            return false;
        _repair++;
        _changes.Clear();
        Change(variable, slot);
        if (Settle())
        {
            _changedIn[variable] = ForGood;
            return true;
        }
        for (var i = _changes.Count - 1; i >= 0; i--)
            Put(_changes[i].Variable, _changes[i].Before);
        return false;
    }

    /// <summary>Whether the configuration keeps every rule with another value of one variable and all else as it is; it stays as it is.</summary>
    public bool Fits(int slot)
    {
        var variable = _slots.Owner[slot];
        var before = _current[variable];
        Assign(variable, slot);
        var fits = Array.TrueForAll(_rules.RulesOf(variable), Holds);
        Assign(variable, before);
        return fits;
    }

    /// <summary>The configuration as it is now; it keeps every rule.</summary>
    public Witness Found => new([.. _current], _slots.Words);

    // ---- Changing -----------------------------------------------------------------------------------------------

    private void Change(int variable, int slot)
    {
        _changes.Add((variable, _current[variable]));
        _changedIn[variable] = _repair;
        Put(variable, slot);
    }

    private void Put(int variable, int slot)
    {
        Assign(variable, slot);
        foreach (var rule in _rules.RulesOf(variable))
            if (Holds(rule))
            {
                if (_placeOf[rule] is var place and >= 0)
                {
                    var last = _failing[--_failingCount];
                    (_failing[place], _placeOf[last]) = (last, place);
                    _placeOf[rule] = -1;
                }
            }
            else if (_placeOf[rule] < 0)
            {
                _placeOf[rule] = _failingCount;
                _failing[_failingCount++] = rule;
            }
    }

    private bool Settle()
    {
        while (_failingCount > 0)
            if (_failingCount > MostFailing || _changes.Count >= _mostChanges || !Mend(_failing[_failingCount - 1]))
                return false;
        return true;
    }

    private bool MayChange(int variable) => _changedIn[variable] < _repair;

    private bool IsWithin(int slot) => (_domain[slot >> 6] >> slot & 1) != 0;
    private bool IsWished(int slot) => (_wished[slot >> 6] >> slot & 1) != 0;

    /// <summary>Twice the number of rules of a variable that fail as it is now, less one for a value that is wished for.</summary>
    private int Cost(int variable, int limit)
    {
        var cost = IsWished(_current[variable]) ? -1 : 0;
        foreach (var rule in _rules.RulesOf(variable))
            if (!Holds(rule) && (cost += 2) >= limit)
                break;
        return cost;
    }

    /// <summary>The value of a variable that leaves fewest rules failing, whatever it has now; −1 where it may have none.</summary>
    private int Best(int variable)
    {
        var (before, best, least) = (_current[variable], -1, int.MaxValue);
        for (var slot = _slots.First[variable]; slot < _slots.First[variable + 1]; slot++)
            if (IsWithin(slot))
            {
                Assign(variable, slot);
                if (Cost(variable, least) is var cost && cost < least)
                    (best, least) = (slot, cost);
            }
        Assign(variable, before);
        return best;
    }

    private const int MostCandidates = 64, Spread = 8;

    /// <summary>By variable: the slot with which it last mended a rule; −1 for none.</summary>
    private readonly int[] _lastMending;
    private readonly List<int> _candidates = [];

    /// <summary>The slots of a variable that are tried: all, or of a number with many steps those near the present one, the ends, and some in
    /// between.</summary>
    private List<int> CandidatesOf(int variable)
    {
        var (first, end) = (_slots.First[variable], _slots.First[variable + 1]);
        var candidates = _candidates;
        candidates.Clear();
        if (end - first <= MostCandidates || !_slots.IsNumber(variable))
        {
            // What mended something before is likely to do so again.
            if (_lastMending[variable] is >= 0 and var last)
                candidates.Add(last);
            for (var slot = first; slot < end; slot++)
                candidates.Add(slot);
            return candidates;
        }
        for (; first < end && _slots[first].Outcome != Outcomes.Present; first++)
            candidates.Add(first);
        while (first < end && !IsWithin(first))
            first++;
        while (end > first && !IsWithin(end - 1))
            end--;
        if (end - first <= MostCandidates)
        {
            for (var slot = first; slot < end; slot++)
                candidates.Add(slot);
            return candidates;
        }
        var at = Math.Clamp(_current[variable], first, end - 1);
        candidates.Add(at);
        for (var by = 1; by < end - first; by *= 2)
        {
            if (at + by < end)
                candidates.Add(at + by);
            if (at - by >= first)
                candidates.Add(at - by);
        }
        candidates.Add(first);
        candidates.Add(end - 1);
        for (var i = 1; i < Spread; i++)
            candidates.Add(first + (int)((long)(end - first) * i / Spread));
        return candidates;
    }

    private bool Mend(int rule)
    {
        var variables = _rules.VariablesOf(rule);
        var (bestVariable, bestSlot, least) = (-1, -1, int.MaxValue);
        foreach (var variable in variables)
        {
            if (!MayChange(variable))
                continue;
            var before = _current[variable];
            foreach (var slot in CandidatesOf(variable))
            {
                if (slot == before || !IsWithin(slot))
                    continue;
                Assign(variable, slot);
                if (Holds(rule) && Cost(variable, least) is var cost && cost < least)
                    (bestVariable, bestSlot, least) = (variable, slot, cost);
                if (least <= 0)
                    break;
            }
            Assign(variable, before);
            if (least <= 0)
                break;
        }
        if (bestVariable < 0)
            return rule != _broken && _rules.GridOf(rule) is { } grid ? MendByRow(grid)
                : rule != _broken && _rules.CountingOf(rule) is { } counting ? MendByCount(counting) : !_isEasy && MendByMore(rule, variables);
        _lastMending[bestVariable] = bestSlot;
        Change(bestVariable, bestSlot);
        return true;
    }

    /// <summary>Takes as many members out of a count, or into it, as it has too many or too few; those first that leave fewest other rules failing.</summary>
    private bool MendByCount(CountingRule counting)
    {
        var excess = counting.Excess(_current);
        var costs = new List<(int Cost, int Variable, int Slot)>();
        for (var i = 0; i < counting.Members.Length; i++)
        {
            var (variable, counted) = (counting.Members[i], counting.TrueSlotOf(i));
            if (!MayChange(variable) || _slots.SizeOf(variable) != 2 || (_current[variable] == counted) != excess > 0)
                continue;
            // Yes and no are all that it has.
            var other = _slots.First[variable] + _slots.First[variable + 1] - 1 - _current[variable];
            if (!IsWithin(other))
                continue;
            var before = _current[variable];
            Assign(variable, other);
            costs.Add((Cost(variable, int.MaxValue), variable, other));
            Assign(variable, before);
        }
        if (costs.Count < Math.Abs(excess))
            return false;
        foreach (var (_, variable, slot) in costs.OrderBy(c => c.Cost).Take(Math.Abs(excess)))
            Change(variable, slot);
        return true;
    }

    private readonly int[] _chosen = new int[3];
    private readonly int[] _bestSlots = new int[3];
    private readonly int[] _bestVariables = new int[3];
    private int _bestCount, _leastOfMore, _tried, _mostTried;

    /// <summary>Changes two variables of a rule together, or three.</summary>
    private bool MendByMore(int rule, int[] variables)
    {
        (_bestCount, _leastOfMore, _tried, _mostTried) = (0, int.MaxValue, 0, _rules.IsEvaluated(rule) ? MostEvaluatedCombinations : MostCombinations);
        for (var count = 2; count <= 3 && _bestCount == 0 && _tried < _mostTried; count++)
            Try(rule, variables, 0, 0, count);
        for (var i = 0; i < _bestCount; i++)
            Change(_bestVariables[i], _bestSlots[i]);
        return _bestCount > 0;
    }

    private void Try(int rule, int[] variables, int from, int chosen, int count)
    {
        if (chosen == count)
        {
            _tried++;
            if (!Holds(rule))
                return;
            var cost = 0;
            for (var i = 0; i < count && cost < _leastOfMore; i++)
                cost += Cost(_chosen[i], _leastOfMore - cost);
            if (cost >= _leastOfMore)
                return;
            (_bestCount, _leastOfMore) = (count, cost);
            for (var i = 0; i < count; i++)
                (_bestVariables[i], _bestSlots[i]) = (_chosen[i], _current[_chosen[i]]);
            return;
        }
        for (var i = from; i <= variables.Length - (count - chosen) && _tried < _mostTried; i++)
        {
            var variable = variables[i];
            if (!MayChange(variable))
                continue;
            var before = _current[variable];
            _chosen[chosen] = variable;
            for (var slot = _slots.First[variable]; slot < _slots.First[variable + 1]; slot++)
                if (slot != before && IsWithin(slot))
                {
                    Assign(variable, slot);
                    Try(rule, variables, i + 1, chosen + 1, count);
                }
            Assign(variable, before);
        }
    }

    private const int MostRows = 48, Planes = 4;

    private ulong[] _rows = [];
    private readonly ulong[][] _planes = new ulong[Planes][];
    private readonly List<(int Variable, int Slot)> _ofRow = [], _ofBestRow = [];

    /// <summary>Goes to one of the rows of a grid that need fewest changes.</summary>
    private bool MendByRow(GridRule grid)
    {
        if (_rows.Length < grid.Words)
        {
            _rows = new ulong[grid.Words];
            for (var p = 0; p < Planes; p++)
                _planes[p] = new ulong[grid.Words];
        }
        grid.Agreement(_current, v => !MayChange(v), _rows, _planes);
        var (tried, least) = (0, int.MaxValue);
        _ofBestRow.Clear();
        for (var agreeing = grid.Variables.Length - 1; agreeing >= 0 && tried < MostRows && _ofBestRow.Count == 0; agreeing--)
            for (var w = 0; w < grid.Words && tried < MostRows; w++)
            {
                var rows = _rows[w];
                for (var p = 0; p < Planes; p++)
                    rows &= (agreeing >> p & 1) != 0 ? _planes[p][w] : ~_planes[p][w];
                for (; rows != 0 && tried < MostRows; rows &= rows - 1)
                    if (Goes(grid, (w << 6) + BitOperations.TrailingZeroCount(rows)) is >= 0 and var cost)
                    {
                        tried++;
                        if (cost >= least)
                            continue;
                        least = cost;
                        _ofBestRow.Clear();
                        _ofBestRow.AddRange(_ofRow);
                    }
            }
        foreach (var (variable, slot) in _ofBestRow)
            Change(variable, slot);
        return _ofBestRow.Count > 0;
    }

    /// <summary>What it costs to go to a row; −1 where some value is not to be had.</summary>
    private int Goes(GridRule grid, int row)
    {
        _ofRow.Clear();
        for (var c = 0; c < grid.Variables.Length; c++)
        {
            var variable = grid.Variables[c];
            if (grid.Has(row, c, _current[variable]))
                continue;
            var to = -1;
            for (var slot = _slots.First[variable]; slot < _slots.First[variable + 1] && to < 0; slot++)
                if (IsWithin(slot) && grid.Has(row, c, slot))
                    to = slot;
            if (to < 0)
                return -1;
            _ofRow.Add((variable, to));
        }
        Exchange();
        var cost = 0;
        foreach (var (variable, _) in _ofRow)
            cost += Cost(variable, int.MaxValue) + 1;
        Exchange();
        return cost;
    }

    /// <summary>Puts the values of the row in the places of the present ones, and the other way round.</summary>
    private void Exchange()
    {
        for (var i = 0; i < _ofRow.Count; i++)
        {
            var (variable, slot) = _ofRow[i];
            _ofRow[i] = (variable, _current[variable]);
            Assign(variable, slot);
        }
    }
}
