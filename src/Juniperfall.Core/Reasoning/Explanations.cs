using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// What a propagator read of its nodes when it narrowed one of them. Where it is known which of that it needed, only that
/// counts; otherwise all of it does, which is always enough.
/// </summary>
internal sealed partial class Search
{
    private void ExplainRevised(int n, int before, int of, int target)
    {
        var node = _nodes[n];
        var c = node.Children;
        if (node.Group >= 0)
            MarkLiteral(_groupLiterals[node.Group]);
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
            MarkOutcomes(n, before);
            foreach (var child in c)
                MarkOutcomes(child, before);
            MarkBoundNow(sides.First, sides.FirstUpper, before);
            MarkBoundNow(sides.Second, sides.SecondUpper, before);
            return;
        }
        if (node.Operator == Operator.Table && ExplainTable(n, c, node.Grid!, of, before))
            return;
        MarkDomain(n, before);
        foreach (var child in c)
            MarkDomain(child, before);
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
            MarkOutcomes(n, before);
            MarkOutcomes(a, before);
            MarkOutcomes(b, before);
        }
        else if (first != second && (Left(x, InitialOutcomes(second)) & lost) == 0)
            MarkOutcomes(first, before);
        else if (first != second && (Left(InitialOutcomes(first), y) & lost) == 0)
            MarkOutcomes(second, before);
        else
        {
            MarkOutcomes(first, before);
            MarkOutcomes(second, before);
        }
    }

    /// <summary>Which of some nodes lost which outcome by a literal; −1 where that is not one of them alone.</summary>
    private (int Node, Outcomes Lost) Lost(int literal, int n, int a, int b)
    {
        var found = (Node: -1, Lost: (Outcomes)0);
        for (var m = _firstMeaning[literal]; m >= 0; m = _meanings[m].Next)
        {
            ref readonly var meaning = ref _meanings[m];
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
        for (var o = 0; o < Outcomes6; o++)
            if (_outcomeLiterals[node * Outcomes6 + o] != False)
                initial |= (Outcomes)(1 << o);
        return initial;
    }

    private Outcomes OutcomesAt(int node, int before)
    {
        Outcomes left = 0;
        for (var o = 0; o < Outcomes6; o++)
            if (_outcomeLiterals[node * Outcomes6 + o] is var literal && literal != False && (!IsFalse(literal) || _positions[literal >> 1] >= before))
                left |= (Outcomes)(1 << o);
        return left;
    }

    // ---- Order --------------------------------------------------------------------------------------------------

    /// <summary>What comes before the place at which something was left out was decided and the same; there, the other one counts.</summary>
    private void ExplainOrder(int n, int[] children, int before, int of, int target)
    {
        for (var m = of < 0 ? -1 : _firstMeaning[of]; m >= 0; m = _meanings[m].Next)
            if (Array.IndexOf(children, _meanings[m].Node) >= 0)
                target = _meanings[m].Node;
        MarkOutcomes(n, before);
        var half = children.Length / 2;
        for (var place = 0; place < half; place++)
        {
            var (first, second) = (children[place], children[place + half]);
            // A number for which no room is left had bounds of its own.
            if (first != target || _domains[first].Kind == DomainKind.Number)
                MarkDomain(first, before);
            if (second != target || _domains[second].Kind == DomainKind.Number)
                MarkDomain(second, before);
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
        var at = _lastEvents[node * 2];
        while (at >= 0 && _trail[at].Previous >= 0)
            at = _trail[at].Previous;
        return at < 0 ? _domains[node].Numbers.Low >= DoubleEnd.Zero : FirstLow(node, _trail[at].Before) >= 0;
    }

    private double FirstLow(int node, double before) =>
        _nodes[node].Variable is { } variable ? _ends.LowAt(variable.Index, (long)before).ToDouble() : before;

    // ---- Domains ------------------------------------------------------------------------------------------------

    /// <summary>Everything known of a node before a position.</summary>
    private void MarkDomain(int node, int before)
    {
        MarkOutcomes(node, before);
        if (_domains[node].Kind == DomainKind.Choice)
            MarkValues(node, before);
        else if (_domains[node].Kind == DomainKind.Number)
        {
            MarkBoundNow(node, false, before);
            MarkBoundNow(node, true, before);
        }
    }

    private void MarkOutcomes(int node, int before)
    {
        bool Holds(int literal) => _values[literal] != 0 && (literal <= False || _positions[literal >> 1] < before);
        var at = node * Outcomes6;
        var isOne = false;
        for (var o = 0; o < Outcomes6 && !isOne; o++)
            if (_outcomeLiterals[at + o] is var literal && IsTrue(literal) && Holds(literal))
            {
                MarkLiteral(literal);
                isOne = true;
            }
        for (var o = 0; o < Outcomes6 && !isOne; o++)
            if (_outcomeLiterals[at + o] is var literal && IsFalse(literal) && literal != False && Holds(literal))
                MarkLiteral(Negated(literal));
    }

    private void MarkBoundNow(int node, bool upper, int before)
    {
        var at = _lastEvents[node * 2 + (upper ? 1 : 0)];
        while (at >= before)
            at = _trail[at].Previous;
        if (at >= 0)
            MarkBound(node, upper, _trail[at].Bound, before);
    }

    private void MarkValues(int node, int before)
    {
        var literals = _valueLiterals[node]!;
        foreach (var literal in literals)
            if (literal > False && IsTrue(literal) && _positions[literal >> 1] < before)
            {
                MarkLiteral(literal);
                return;
            }
        foreach (var literal in literals)
            if (literal > False && IsFalse(literal) && _positions[literal >> 1] < before)
                MarkLiteral(Negated(literal));
    }
}
