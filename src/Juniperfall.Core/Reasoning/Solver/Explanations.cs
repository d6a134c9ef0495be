using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// What led to something that became true. Of what a propagator read of its nodes, only that counts which it is known to have needed;
/// otherwise all of it does, which is always enough.
/// </summary>
internal sealed class Explanations
{
    private readonly LiteralStore _store;
    private readonly ClauseDatabase _clauses;
    private readonly ConflictMarks _marks;
    private readonly TableExplanations _tables;
    private readonly int[]?[] _cones;

    /// <param name="spent">Those of an earlier copy that is not used any more.</param>
    public Explanations(LiteralStore store, ClauseDatabase clauses, ConflictMarks marks, Explanations? spent)
    {
        (_store, _clauses, _marks, _tables) = (store, clauses, marks, new(store, marks));
        _cones = spent?._cones ?? new int[store.Nodes.Length][];
    }

    /// <summary>Marks what led to something at a position; of a conflict, what leads to it now.</summary>
    /// <param name="of">The literal that was made true; of a bound −1 for a lower and −2 for an upper one.</param>
    /// <param name="node">The node of a bound.</param>
    public void Explain(long reason, int before, int of, int node = -1)
    {
        var data = Antecedent.DataOf(reason);
        switch (Antecedent.KindOf(reason))
        {
            case Antecedent.Kind.Clause:
                foreach (var literal in _clauses.LiteralsOf(data))
                    if (literal != of)
                        _marks.MarkLiteral(LiteralNames.Negated(literal));
                break;
            case Antecedent.Kind.Literal:
                _marks.MarkLiteral(data);
                break;
            case Antecedent.Kind.Others:
                for (var o = 0; o < LiteralNames.OutcomeCount; o++)
                    if (_store.Names.Of(data, o) is var outcome && outcome != of && outcome != LiteralNames.False && outcome != LiteralNames.Negated(of)
                        && _store.IsFalse(outcome) && _store.PositionOf(outcome) < before)
                        _marks.MarkLiteral(LiteralNames.Negated(outcome));
                break;
            case Antecedent.Kind.OtherValues:
                foreach (var literal in _store.Names.ValuesOf(data))
                    if (literal > LiteralNames.False && literal != of && _store.IsFalse(literal) && _store.PositionOf(literal) < before)
                        _marks.MarkLiteral(LiteralNames.Negated(literal));
                if (_store.Names.Of(data, Outcomes.Present) is var present && present != LiteralNames.Negated(of) && _store.IsTrue(present)
                    && present != LiteralNames.True && _store.PositionOf(present) < before)
                    _marks.MarkLiteral(present);
                break;
            case Antecedent.Kind.Event:
                var named = _store.Bounds.Atoms.Of(of);
                _marks.MarkBound(named.Node, named.Upper, named.Bound, data + 1);
                break;
            case Antecedent.Kind.NoRoom:
                _marks.MarkLiteral(_store.Names.Of(data >> 1, Outcomes.Present));
                _marks.MarkBoundNow(data >> 1, (data & 1) == 0, before);
                break;
            case Antecedent.Kind.Crossing:
                _marks.MarkLiteral(data);
                var atom = _store.Bounds.Atoms.Of(data);
                _marks.MarkBoundNow(atom.Node, atom.Upper == ((data & 1) != 0), before);
                break;
            case Antecedent.Kind.Revised:
                ExplainRevised(data, before, of, node);
                break;
            case Antecedent.Kind.RevisedByExactNumbers:
                foreach (var one in ConeOf(data))
                    _marks.MarkDomain(one, before);
                if (_store.Nodes[data].Group >= 0)
                    _marks.MarkLiteral(_store.Groups[_store.Nodes[data].Group]);
                break;
        }
    }

    /// <summary>A node and all that it stems from.</summary>
    public int[] ConeOf(int node) => _cones[node] ??= FindCone(node);

    private int[] FindCone(int node)
    {
        var cone = new HashSet<int> { node };
        var open = new Stack<int>([node]);
        while (open.TryPop(out var at))
            foreach (var child in _store.Nodes[at].Children)
                if (cone.Add(child))
                    open.Push(child);
        return [.. cone.Order()];
    }

    private void ExplainRevised(int n, int before, int of, int target)
    {
        var node = _store.Nodes[n];
        var c = node.Children;
        if (node.Group >= 0)
            _marks.MarkLiteral(_store.Groups[node.Group]);
        if (node.Operator == Operator.InOrder)
        {
            ExplainOrder(n, c, before, of, target);
            return;
        }
        if (of >= 0 && LogicOf(node.Operator) is { } logic)
        {
            ExplainLogic(logic, n, c[0], c[1], before, of);
            return;
        }
        if (of < 0 && SidesOf(node.Operator, n, c, target, of == -2) is { } sides)
        {
            _marks.MarkOutcomes(n, before);
            foreach (var child in c)
                _marks.MarkOutcomes(child, before);
            _marks.MarkBoundNow(sides.First, sides.FirstUpper, before);
            _marks.MarkBoundNow(sides.Second, sides.SecondUpper, before);
            return;
        }
        if (node.Operator == Operator.Table && _tables.Explain(n, c, node.Grid!, of, before))
            return;
        _marks.MarkDomain(n, before);
        foreach (var child in c)
            _marks.MarkDomain(child, before);
    }

    // ---- Logic --------------------------------------------------------------------------------------------------

    private static BinaryLogic? LogicOf(Operator op) => op switch
    {
        Operator.And => BinaryLogic.And,
        Operator.Or => BinaryLogic.Or,
        Operator.SameYesNo => BinaryLogic.Same,
        Operator.OtherYesNo => BinaryLogic.Other,
        _ => null,
    };

    /// <summary>One of the other two nodes alone where that is enough, otherwise both.</summary>
    private void ExplainLogic(BinaryLogic logic, int n, int a, int b, int before, int of)
    {
        var (node, lost) = Lost(of, n, a, b);
        var (first, second) = node == n ? (a, b) : (n, node == a ? b : a);
        Outcomes Left(Outcomes x, Outcomes y) => node == n ? logic.Results(x, y) : logic.Operands(x, y);
        var (x, y) = (OutcomesAt(first, before), OutcomesAt(second, before));
        if (node < 0)
        {
            _marks.MarkOutcomes(n, before);
            _marks.MarkOutcomes(a, before);
            _marks.MarkOutcomes(b, before);
        }
        else if (first != second && (Left(x, InitialOutcomes(second)) & lost) == 0)
            _marks.MarkOutcomes(first, before);
        else if (first != second && (Left(InitialOutcomes(first), y) & lost) == 0)
            _marks.MarkOutcomes(second, before);
        else
        {
            _marks.MarkOutcomes(first, before);
            _marks.MarkOutcomes(second, before);
        }
    }

    /// <summary>Which of some nodes lost which outcome by a literal; −1 where that is not one of them alone.</summary>
    private (int Node, Outcomes Lost) Lost(int literal, int n, int a, int b)
    {
        var found = (Node: -1, Lost: (Outcomes)0);
        for (var m = _store.Names.FirstMeaning(literal); m >= 0; m = _store.Names[m].Next)
        {
            ref readonly var meaning = ref _store.Names[m];
            if (meaning.Removes == 0 || (meaning.Node != n && meaning.Node != a && meaning.Node != b))
                continue;
            if (found.Node >= 0)
                return (-1, 0);
            found = (meaning.Node, meaning.Removes);
        }
        return found;
    }

    private Outcomes InitialOutcomes(int node)
    {
        Outcomes initial = 0;
        for (var o = 0; o < LiteralNames.OutcomeCount; o++)
            if (_store.Names.Of(node, o) != LiteralNames.False)
                initial |= (Outcomes)(1 << o);
        return initial;
    }

    private Outcomes OutcomesAt(int node, int before)
    {
        Outcomes left = 0;
        for (var o = 0; o < LiteralNames.OutcomeCount; o++)
            if (_store.Names.Of(node, o) is var literal && literal != LiteralNames.False && (!_store.IsFalse(literal) || _store.PositionOf(literal) >= before))
                left |= (Outcomes)(1 << o);
        return left;
    }

    // ---- Order --------------------------------------------------------------------------------------------------

    /// <summary>What comes before the place at which something was left out was decided and the same; there, the other one counts.</summary>
    private void ExplainOrder(int n, int[] children, int before, int of, int target)
    {
        for (var m = of < 0 ? -1 : _store.Names.FirstMeaning(of); m >= 0; m = _store.Names[m].Next)
            if (Array.IndexOf(children, _store.Names[m].Node) >= 0)
                target = _store.Names[m].Node;
        _marks.MarkOutcomes(n, before);
        var half = children.Length / 2;
        for (var place = 0; place < half; place++)
        {
            var (first, second) = (children[place], children[place + half]);
            // A number for which no room is left had bounds of its own.
            if (first != target || _store.Domains[first].Kind == DomainKind.Number)
                _marks.MarkDomain(first, before);
            if (second != target || _store.Domains[second].Kind == DomainKind.Number)
                _marks.MarkDomain(second, before);
            if (first == target || second == target)
                return;
        }
    }

    // ---- Numbers ------------------------------------------------------------------------------------------------

    private readonly record struct Sides(int First, bool FirstUpper, int Second, bool SecondUpper);

    /// <summary>The two bounds that a bound of a node came from; null where it is not known to be these alone.</summary>
    private Sides? SidesOf(Operator op, int n, int[] c, int target, bool upper)
    {
        if (c.Length != 2 || c[0] == c[1] || c[0] == n || c[1] == n)
            return null;
        var (a, b) = (c[0], c[1]);
        switch (op)
        {
            case Operator.Add:
                return target == n ? new(a, upper, b, upper) : new(n, upper, target == a ? b : a, !upper);
            case Operator.Subtract:
                return target == n ? new(a, upper, b, !upper) : target == a ? new(n, upper, b, upper) : new(a, upper, n, !upper);
            case Operator.Multiply when IsNeverBelowZero(a) && IsNeverBelowZero(b) && IsNeverBelowZero(n):
                return target == n ? new(a, upper, b, upper) : new(n, upper, target == a ? b : a, !upper);
            case Operator.Divide when IsNeverBelowZero(a) && IsNeverBelowZero(b) && IsNeverBelowZero(n):
                return target == n ? new(a, upper, b, !upper) : target == a ? new(n, upper, b, upper) : new(a, upper, n, !upper);
            case Operator.Less or Operator.LessOrEqual:
                return new(target == a ? b : a, upper, n, false);
            default:
                return null;
        }
    }

    /// <summary>Whether a node's lowest number was never below zero.</summary>
    private bool IsNeverBelowZero(int node)
    {
        var at = _store.Trail.LastEvent(node, upper: false);
        while (at >= 0 && _store.Trail[at].Previous >= 0)
            at = _store.Trail[at].Previous;
        return at < 0 ? _store.Domains[node].Numbers.Low >= DoubleEnd.Zero : FirstLow(node, _store.Trail[at].Before) >= 0;
    }

    private double FirstLow(int node, double before) =>
        _store.Nodes[node].Variable is { } variable ? _store.Ends.LowAt(variable.Index, (long)before).ToDouble() : before;
}
