using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Evaluation;

/// <summary>What an evaluation of one assignment came to.</summary>
internal enum Verdict { Solution, NoSolution, Undecided }

/// <summary>
/// Evaluates a whole assignment through the network in intervals of doubles, and in exact numbers where these leave a tie.
/// One evaluator serves one thread.
/// </summary>
internal sealed class PointEvaluator
{
    private readonly Network _network;
    private readonly NodePoints _values;
    private readonly Point[] _points;
    private readonly Outcomes[] _allowed;
    private Func<int, bool> _isActive = _ => true;
    private bool[]? _only;

    public PointEvaluator(Network network)
    {
        (_network, _values) = (network, new(network));
        (_points, _allowed) = (_values.All, new Outcomes[network.Nodes.Length]);
        Activate(_isActive);
    }

    /// <summary>Says which groups hold from now on; at first all do.</summary>
    /// <param name="only">By node, whether it is evaluated; null: all are. Each that is has its children evaluated, too.</param>
    public void Activate(Func<int, bool> isActive, bool[]? only = null)
    {
        (_isActive, _only) = (isActive, only);
        Array.Fill(_allowed, ~Outcomes.Impossible);
        foreach (var (node, allowed, group) in _network.Roots)
            if (group < 0 || isActive(group))
                _allowed[node] &= allowed;
    }

    /// <summary>
    /// Evaluates the wanted values. A variable that does not apply is left without one, and one that comes to apply takes
    /// its preferred value; <paramref name="result"/> receives what was evaluated.
    /// </summary>
    public Verdict Evaluate(ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result) =>
        Evaluate(_network.Order, wanted, preferred, result, -1, default);

    /// <summary>
    /// Evaluates again after only one variable has changed since the last whole evaluation, into the same result.
    /// </summary>
    /// <param name="upTo">Other than null, the variable takes all steps from the wanted one up to it at once: a solution is
    /// then one with each of them, none is none with any, and it may be undecided.</param>
    public Verdict EvaluateChanged(Variable variable, ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result, long? upTo) =>
        Evaluate(_network.DependentsOf(variable), wanted, preferred, result, upTo is null ? -1 : variable.Node, upTo ?? default);

    /// <summary>The node at which the last evaluation ended because what it came to is not allowed; −1 where it did not.</summary>
    public int FailedAt { get; private set; }

    /// <summary>What a node came to in the last evaluation that was a solution.</summary>
    public Outcomes OutcomeOf(int node) => _points[node].Outcome;

    /// <summary>The exact number of a node in the last evaluation that was a solution; null where it has none.</summary>
    public Exact? NumberOf(int node) => _points[node].Outcome == Outcomes.Present && _values.IsKnown(node, out var number) ? number : null;

    private Verdict Evaluate(ReadOnlySpan<int> order, ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result, int ranging,
        long upTo)
    {
        (_values.Ranging, _values.IsUndecided) = (ranging, false);
        FailedAt = -1;
        foreach (var n in order)
        {
            if (_only is { } only && !only[n])
                continue;
            var node = _network.Nodes[n];
            if (node.Variable is { } variable)
            {
                var value = wanted[variable.Index];
                // Where its condition is not to count, being absent is a value like others.
                if (IsConditional(n) is { } condition)
                {
                    if (_points[condition].Outcome != Outcomes.True)
                        value = Assigned.Absent;
                    else if (value.Outcome == Outcomes.Absent)
                    {
                        if (preferred[variable.Index] is not { } instead || instead.Outcome == Outcomes.Absent)
                        {
                            FailedAt = n;
                            return Verdict.NoSolution;
                        }
                        value = instead;
                    }
                }
                result[variable.Index] = value;
                _points[n] = _values.Of(variable, value, n == ranging ? upTo : value.Index);
            }
            else
                _points[n] = _values.Compute(n, node);
            if (_values.IsUndecided)
            {
                // All is decided, so that only a number that is too large to compute is left: what hangs on it does not hold.
                FailedAt = n;
                return ranging < 0 ? Verdict.NoSolution : Verdict.Undecided;
            }
            if ((_points[n].Outcome & _allowed[n]) == 0)
            {
                FailedAt = n;
                return Verdict.NoSolution;
            }
        }
        return Verdict.Solution;
    }

    /// <summary>The node of the condition under which a variable applies; none where that is inactive.</summary>
    private int? IsConditional(int n)
    {
        var presence = _network.PresenceOf[n];
        if (presence < 0)
            return null;
        var group = _network.Nodes[presence].Group;
        return group < 0 || _isActive(group) ? _network.ConditionOf[n] : null;
    }

    /// <summary>Evaluates a node and what it is made of, whatever has to hold.</summary>
    public void EvaluateUnder(int node, Func<int, Assigned> valueOf)
    {
        _values.Ranging = -1;
        foreach (var n in _network.Under(node))
            if (_network.Nodes[n].Variable is { } variable)
                _points[n] = _values.Of(variable, valueOf(variable.Index));
            else if (_network.Nodes[n].Operator != Operator.Presence)
                _points[n] = _values.ComputeOrNothing(n, _network.Nodes[n]);
    }

    /// <summary>By node: when its value became another one, and when it was last found to be what its operands make of it.</summary>
    private long[]? _changedAt;
    private long[]? _checkedAt;
    private long _now;

    /// <summary>The variable that was given values last, and since when no other one was.</summary>
    private int _latest = -1;
    private long _latestSince;

    /// <summary>Gives a variable a value; what reads it is evaluated again when it is asked for.</summary>
    public void Set(Variable variable, in Assigned value)
    {
        _changedAt ??= new long[_points.Length];
        _points[variable.Node] = _values.Of(variable, value);
        _changedAt[variable.Node] = ++_now;
        if (_latest != variable.Index)
            (_latest, _latestSince) = (variable.Index, _now);
    }

    /// <summary>The only variable that was given another value since a node was updated; −1 where there are several.</summary>
    public int OnlyChangedSince(int node) => _checkedAt is { } checkedAt && checkedAt[node] > 0 && checkedAt[node] >= _latestSince - 1 ? _latest : -1;

    /// <summary>
    /// Evaluates a node where variables have the values that they were given, whatever has to hold: again only what reads something that has
    /// changed. What cannot be computed comes to no outcome at all.
    /// </summary>
    /// <param name="order">The node and what it is made of, as far as it reads what has changed since it was last updated, operands first.</param>
    public void Update(int node, int[] order)
    {
        if (_checkedAt is { } known && known[node] == _now && _now > 0)
            return;
        _changedAt ??= new long[_points.Length];
        _checkedAt ??= new long[_points.Length];
        _values.Ranging = -1;
        var nodes = _network.Nodes;
        foreach (var n in order)
        {
            ref readonly var at = ref nodes[n];
            if (_checkedAt[n] == _now || at.Variable is not null || at.Operator == Operator.Presence)
                continue;
            if (IsStale(n, at.Children))
            {
                var before = _points[n];
                _points[n] = _values.ComputeOrNothing(n, at);
                if (!IsSame(before, _points[n]))
                    _changedAt[n] = _now;
            }
            _checkedAt[n] = _now;
        }
    }

    private bool IsStale(int n, int[] operands)
    {
        var at = _checkedAt![n];
        if (at == 0)
            return true;
        foreach (var operand in operands)
            if (_changedAt![operand] > at)
                return true;
        return false;
    }

    // An interval that is no point may stand for another number now.
    private static bool IsSame(in Point before, in Point after) => before.Outcome == after.Outcome && before.Index == after.Index
        && (after.Outcome != Outcomes.Present || (before.Numbers.IsPoint && after.Numbers.IsPoint && before.Numbers.Low == after.Numbers.Low));
}
