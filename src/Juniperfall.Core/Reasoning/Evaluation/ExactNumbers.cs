using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Evaluation;

/// <summary>
/// The exact number that a node has once all that it stems from is decided. Intervals of doubles answer nearly every
/// question; this decides the ties that they leave (Fortune and Van Wyk, “Efficient exact arithmetic for computational
/// geometry”, 1993).
/// </summary>
internal abstract class ExactNumbers(Network network)
{
    private Exact[]? _numbers;
    private int[] _round = [];
    private int _now;

    /// <summary>The outcome of a node where only one is left, otherwise none.</summary>
    protected abstract Outcomes OutcomeOf(int node);

    /// <summary>The step or the index of the value that a node has; <see cref="Undecided"/> where it is open.</summary>
    protected abstract long IndexOf(int node);

    /// <summary>The number that a node has; false where something that it stems from is still open, or where it has none.</summary>
    public bool TryGet(int node, out Exact number)
    {
        _numbers ??= new Exact[network.Nodes.Length];
        if (_round.Length == 0)
            _round = new int[network.Nodes.Length];
        _now++;
        _waiting.Clear();
        for (var next = node; ;)
        {
            (_depth, _tooDeep) = (0, -1);
            if (Try(next, out number))
            {
                if (!_waiting.TryPop(out next))
                    return true;
            }
            else if (_tooDeep < 0)
                return false;
            else
            {
                _waiting.Push(next);
                next = _tooDeep;
            }
        }
    }

    private const int Deepest = 200;
    private readonly Stack<int> _waiting = [];
    private int _depth;
    private int _tooDeep;

    // Expressions share nodes, so that each is worked out once for one request. Beyond a depth this gives up, and begins again from there.
    private bool Try(int n, out Exact number)
    {
        if (_round[n] == _now)
        {
            number = _numbers![n];
            return true;
        }
        number = Exact.Zero;
        if (_depth == Deepest)
        {
            _tooDeep = n;
            return false;
        }
        _depth++;
        var has = Compute(n, out number);
        _depth--;
        if (has)
            (_numbers![n], _round[n]) = (number, _now);
        return has;
    }

    private bool Compute(int n, out Exact number)
    {
        number = Exact.Zero;
        if (OutcomeOf(n) != Outcomes.Present)
            return false;
        var node = network.Nodes[n];
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Variable:
                if (IndexOf(n) is var step && step == Undecided)
                    return false;
                number = node.Variable!.At(step);
                return true;
            case Operator.Constant:
                number = network.Initial[n].Numbers.Low.Number!.Value;
                return true;
            case Operator.Property:
                if (IndexOf(c[0]) is var value && (value == Undecided || node.PropertyValues![value].Kind != ValueKind.Number))
                    return false;
                number = node.PropertyValues![value].Number;
                return true;
            case Operator.If or Operator.Where:
                return OutcomeOf(c[0]) switch
                {
                    Outcomes.True => Try(c[1], out number),
                    Outcomes.False when node.Operator == Operator.If => Try(c[2], out number),
                    _ => false,
                };
            case Operator.Else:
                return OutcomeOf(c[0]) switch
                {
                    Outcomes.Present => Try(c[0], out number),
                    Outcomes.Absent or Outcomes.None => Try(c[1], out number),
                    _ => false,
                };
            case Operator.ToNumber:
                number = OutcomeOf(c[0]) == Outcomes.True ? 1 : 0;
                return OutcomeOf(c[0]) is Outcomes.True or Outcomes.False;
            case Operator.Figure:
                if (FirstRow(node) is not { } row || node.Figures[row].IsNothing)
                    return false;
                number = node.Figures[row].Number;
                return true;
            case Operator.LeastOf or Operator.GreatestOf or Operator.Minimum or Operator.Maximum:
                return Extreme(c, node.Operator is Operator.LeastOf or Operator.Minimum, out number);
        }
        Exact b = default;
        if (!Try(c[0], out var a) || (c.Length > 1 && !Try(c[1], out b)))
            return false;
        if (Arithmetic.Compute(node.Operator, a, b, node.Count) is not { } result)
            return false;
        number = result;
        return true;
    }

    protected const long Undecided = long.MinValue;

    private bool Extreme(int[] children, bool least, out Exact number)
    {
        number = Exact.Zero;
        var any = false;
        foreach (var child in children)
        {
            var outcome = OutcomeOf(child);
            if (outcome is Outcomes.Absent or Outcomes.None)
                continue;
            if (outcome != Outcomes.Present || !Try(child, out var one))
                return false;
            number = !any ? one : least ? Exact.Min(number, one) : Exact.Max(number, one);
            any = true;
        }
        return any;
    }

    private int? FirstRow(Node node)
    {
        for (var r = 0; r < node.Grid!.Rows.Length; r++)
        {
            var matches = true;
            for (var c = 0; c < node.Children.Length && matches; c++)
            {
                if (Matches(node.Grid.Rows[r][c], node.Children[c]) is not { } cell)
                    return null;
                matches = cell;
            }
            if (matches)
                return r;
        }
        return null;
    }

    /// <summary>Whether a decided key matches a cell; null where the key is not decided.</summary>
    private bool? Matches(CompiledCell cell, int key)
    {
        var outcome = OutcomeOf(key);
        if (outcome is not (Outcomes.True or Outcomes.False or Outcomes.Present))
            return null;
        if (cell.Cell.Any)
            return true;
        if (outcome != Outcomes.Present)
            return (cell.YesNo & outcome) != 0;
        if (cell.Bits is { } bits)
            return IndexOf(key) is var index && index == Undecided ? null : BitSet.Has(bits, (int)index);
        return Try(key, out var number) ? cell.Cell.Matches(Value.Of(number)) : null;
    }
}
