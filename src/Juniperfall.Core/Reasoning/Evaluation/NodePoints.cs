using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Evaluation;

/// <summary>What a node comes to: one outcome, with the value or the interval that its number lies in.</summary>
internal struct Point
{
    public Outcomes Outcome;

    /// <summary>The step of an asked number, or the place of a value in its list.</summary>
    public long Index;
    public Interval<DoubleEnd> Numbers;
}

/// <summary>
/// What the nodes of a network come to, and what an operator means on operands that are decided: in intervals of doubles, and in exact
/// numbers where these leave a tie.
/// </summary>
internal sealed class NodePoints
{
    private readonly Network _network;
    private readonly NetworkEnds<DoubleEnd> _ends;
    private readonly NumbersOfPoints _numbers;

    public NodePoints(Network network)
    {
        (_network, _ends, All) = (network, network.InDoubles, new Point[network.Nodes.Length]);
        _numbers = new(this);
        for (var n = 0; n < All.Length; n++)
            if (network.Nodes[n].Operator == Operator.Constant)
                All[n] = ConstantOf(_ends.Initial[n]);
    }

    /// <summary>By node, what it came to last.</summary>
    public Point[] All { get; }

    /// <summary>The variable that stands for a range of steps at once; −1 where none does.</summary>
    public int Ranging { get; set; } = -1;

    /// <summary>Whether something could not be computed since this was last reset.</summary>
    public bool IsUndecided { get; set; }

    /// <summary>The exact number of a node; false where there is none, or where it stems from a range.</summary>
    public bool IsKnown(int node, out Exact number) => _numbers.TryGet(node, out number);

    private static Point ConstantOf(in Domain<DoubleEnd> domain) => domain.Kind switch
    {
        DomainKind.Number when domain.Outcomes == Outcomes.Present => Of(domain.Numbers),
        DomainKind.Choice when domain.Outcomes == Outcomes.Present => new() { Outcome = Outcomes.Present, Index = BitSet.First(domain.Bits!) },
        _ => new() { Outcome = domain.Outcomes },
    };

    /// <summary>Ties among the points just evaluated; over a range there is no one number to decide by.</summary>
    private sealed class NumbersOfPoints(NodePoints points) : ExactNumbers(points._network)
    {
        protected override Outcomes OutcomeOf(int node) => points.All[node].Outcome;
        protected override long IndexOf(int node) => node == points.Ranging ? Undecided : points.All[node].Index;
    }

    public Point Of(Variable variable, in Assigned value) => Of(variable, value, value.Index);

    /// <param name="upTo">The last of the steps that a number stands for.</param>
    public Point Of(Variable variable, in Assigned value, long upTo)
    {
        var point = new Point { Outcome = value.Outcome, Index = value.Index };
        if (value.Outcome == Outcomes.Present && variable.Initial.Kind == DomainKind.Number)
            point.Numbers = _ends.Between(variable.Index, value.Index, upTo);
        return point;
    }

    /// <summary>What an operator makes of its operands; no outcome at all where that cannot be computed, as with operands that have none.</summary>
    public Point ComputeOrNothing(int n, in Node node)
    {
        foreach (var child in node.Children)
            if (All[child].Outcome == Outcomes.Impossible)
                return default;
        IsUndecided = false;
        var point = Compute(n, node);
        return IsUndecided ? default : point;
    }

    private static Point Of(Outcomes outcome) => new() { Outcome = outcome };

    private static Point Of(bool truth) => Of(truth ? Outcomes.True : Outcomes.False);

    /// <summary>What an operator makes of its operands.</summary>
    public Point Compute(int n, Node node)
    {
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.InOrder:
                return Of(IsInOrder(c));
            case Operator.And:
                return Of(Kleene.And(Kleene.Plain(All[c[0]].Outcome), Kleene.Plain(All[c[1]].Outcome)));
            case Operator.Or:
                return Of(Kleene.Or(Kleene.Plain(All[c[0]].Outcome), Kleene.Plain(All[c[1]].Outcome)));
            case Operator.SameYesNo:
                return Of(Kleene.Same(Kleene.Plain(All[c[0]].Outcome), Kleene.Plain(All[c[1]].Outcome)));
            case Operator.OtherYesNo:
                return Of(Kleene.Other(Kleene.Plain(All[c[0]].Outcome), Kleene.Plain(All[c[1]].Outcome)));
            case Operator.Not:
                return Of(Kleene.Not(Kleene.Plain(All[c[0]].Outcome)));
            case Operator.Holds:
                return Of(Kleene.Holds(Kleene.Plain(All[c[0]].Outcome)));
            case Operator.IsNone:
                return Of(All[c[0]].Outcome switch
                {
                    Outcomes.None => Outcomes.True,
                    Outcomes.Absent => Outcomes.Absent,
                    Outcomes.Error =>
                    Outcomes.Error,
                    _ => Outcomes.False
                });
            case Operator.If:
                return Chosen(All[c[0]].Outcome, c[1], c[2]);
            case Operator.Where:
                return Chosen(All[c[0]].Outcome, c[1], -1);
            case Operator.Else:
                return All[c[0]].Outcome is Outcomes.Absent or Outcomes.None ? AsNode(All[c[1]]) : All[c[0]];
            case Operator.Counting:
                return Counting(node);
            case Operator.LeastOf or Operator.GreatestOf:
                return ExtremeOf(c, node.Operator == Operator.LeastOf);
            case Operator.Property:
                return Property(n, All[c[0]], node);
            case Operator.Figure:
                return Figure(n, node);
            default:
                return NoValueOf(c) is { } none ? Of(none) : Strict(n, node);
        }
    }

    /// <summary>What comes of strict operands of which one has no value: an error dominates. Null where all have one.</summary>
    private Outcomes? NoValueOf(int[] operands)
    {
        Outcomes? none = null;
        foreach (var operand in operands)
        {
            if (All[operand].Outcome == Outcomes.Error)
                return Outcomes.Error;
            if ((All[operand].Outcome & Outcomes.NoValue) != 0)
                none = Outcomes.Absent;
        }
        return none;
    }

    private Point Unknown()
    {
        IsUndecided = true;
        return default;
    }

    private static Point AsNode(in Point point) => point.Outcome == Outcomes.None ? Of(Outcomes.Absent) : point;

    private Point Chosen(Outcomes truth, int then, int otherwise) => truth switch
    {
        Outcomes.True => AsNode(All[then]),
        Outcomes.False => otherwise >= 0 ? AsNode(All[otherwise]) : Of(Outcomes.Absent),
        Outcomes.Error => Of(Outcomes.Error),
        _ => Of(Outcomes.Absent),
    };

    private Point Counting(Node node)
    {
        var (yes, open) = (0, 0);
        foreach (var child in node.Children)
            switch (All[child].Outcome)
            {
                case Outcomes.True: yes++; break;
                case Outcomes.Absent or Outcomes.None: open++; break;
                case Outcomes.Error: return Of(Outcomes.Error);
            }
        return Of(Kleene.Counting(node.CountingKind, node.Count, yes, open));
    }

    private Point ExtremeOf(int[] children, bool least)
    {
        var found = Of(Outcomes.Absent);
        foreach (var child in children)
        {
            ref readonly var point = ref All[child];
            if (point.Outcome == Outcomes.Error)
                return Of(Outcomes.Error);
            if (point.Outcome != Outcomes.Present)
                continue;
            found = found.Outcome == Outcomes.Absent ? Of(point.Numbers)
                : Of(least ? Interval<DoubleEnd>.Least(found.Numbers, point.Numbers) : Interval<DoubleEnd>.Greatest(found.Numbers, point.Numbers));
        }
        return found;
    }

    private Point Property(int n, in Point choice, Node node)
    {
        var values = node.PropertyValues!;
        if (choice.Outcome != Outcomes.Present)
            return Of(choice.Outcome == Outcomes.Error ? Outcomes.Error : Outcomes.Absent);
        return values[choice.Index].Kind switch
        {
            ValueKind.Number => Of(_ends.Properties[n]![choice.Index]),
            ValueKind.YesNo => Of(values[choice.Index].IsTrue),
            ValueKind.Choice => new() { Outcome = Outcomes.Present, Index = BitSet.First(node.Choices![choice.Index]!) },
            _ => Of(Outcomes.Absent),
        };
    }

    private Point Figure(int n, Node node)
    {
        if (NoValueOf(node.Children) is { } none)
            return Of(none);
        var row = FirstMatch(n, node);
        return row < 0 || node.Figures[row].IsNothing ? Of(Outcomes.Absent) : Of(_ends.Figures[n]![row]);
    }

    /// <summary>The first row of a grid that matches; −1 where none does. Columns of choices leave few rows to look at.</summary>
    private int FirstMatch(int n, Node node)
    {
        var grid = node.Grid!;
        var words = (grid.Rows.Length + 63) / 64;
        for (var w = 0; w < words; w++)
        {
            var word = ulong.MaxValue;
            for (var c = 0; c < node.Children.Length && word != 0; c++)
                if (grid.Supports[c] is { Length: > 0 } supports)
                    word &= supports[ValueAt(node.Children[c])]?[w] ?? 0;
            for (; word != 0; word &= word - 1)
                if ((w << 6) + System.Numerics.BitOperations.TrailingZeroCount(word) is var row && row < grid.Rows.Length && Matches(n, node, row))
                    return row;
        }
        return -1;
    }

    private int ValueAt(int key) => All[key].Outcome switch { Outcomes.True => 1, Outcomes.False => 0, _ => (int)All[key].Index };

    private bool Matches(int n, Node node, int row)
    {
        var cells = node.Grid!.Rows[row];
        for (var c = 0; c < cells.Length; c++)
        {
            ref readonly var point = ref All[node.Children[c]];
            var cell = cells[c];
            if (cell.Cell.Any)
                continue;
            if (cell.Bits is { } bits ? !BitSet.Has(bits, (int)point.Index) : point.Outcome != Outcomes.Present ? (cell.YesNo & point.Outcome) == 0
                : !MatchesNumber(cell, _ends.Cells[n]![row][c], node.Children[c]))
                return false;
        }
        return true;
    }

    private bool MatchesNumber(CompiledCell cell, (Interval<DoubleEnd> Outer, Interval<DoubleEnd> Inner)[] ranges, int key)
    {
        var numbers = All[key].Numbers;
        var may = false;
        foreach (var (outer, inner) in ranges)
        {
            if (inner.Low <= numbers.Low && numbers.High <= inner.High)
                return true;
            may |= Interval<DoubleEnd>.Overlap(outer, numbers);
        }
        return may && TryExact(key, out var number) && cell.Cell.Matches(Value.Of(number));
    }

    // ---- Strict operators over points that all have a value -----------------------------------------------------

    private bool IsInOrder(int[] children)
    {
        var half = children.Length / 2;
        for (var place = 0; place < half; place++)
        {
            var (first, second) = (All[children[place]], All[children[place + half]]);
            if (LexicographicRank.Of(first.Outcome, first.Index).CompareTo(LexicographicRank.Of(second.Outcome, second.Index)) is var compared && compared != 0)
                return compared < 0;
        }
        return true;
    }

    private Point Strict(int n, Node node)
    {
        var c = node.Children;
        var a = All[c[0]].Numbers;
        var b = c.Length > 1 ? All[c[1]].Numbers : a;
        switch (node.Operator)
        {
            case Operator.Less:
                return Of(c[0] != c[1] && (a.High < b.Low || (a.Low < b.High && TryExact(c[0], out var x) && TryExact(c[1], out var y) && x < y)));
            case Operator.LessOrEqual:
                return Of(c[0] == c[1] || a.High <= b.Low || (a.Low <= b.High && TryExact(c[0], out x) && TryExact(c[1], out y) && x <= y));
            case Operator.Equal or Operator.NotEqual:
                var same = c[0] == c[1] || (Interval<DoubleEnd>.Overlap(a, b)
                    && ((a.IsPoint && b.IsPoint) || (TryExact(c[0], out x) && TryExact(c[1], out y) && x == y)));
                return Of(same == (node.Operator == Operator.Equal));
            case Operator.SameChoice:
                return Of(All[c[0]].Index == All[c[1]].Index);
            case Operator.OtherChoice:
                return Of(All[c[0]].Index != All[c[1]].Index);
            case Operator.Table:
                return Of(FirstMatch(n, node) >= 0);
            case Operator.ToNumber:
                return Of(All[c[0]].Outcome == Outcomes.True ? One : new(DoubleEnd.Zero, DoubleEnd.Zero));
            case Operator.Add:
                return Of(a + b);
            case Operator.Subtract:
                return Of(a - b);
            case Operator.Negate:
                return Of(-a);
            case Operator.Multiply:
                return Of(c[0] == c[1] ? a.Square() : a * b);
            case Operator.Divide:
                return !b.HoldsZero ? Of(a / b) : ByExact(n, c[1], static divisor => !divisor.IsZero);
            case Operator.Power:
                return node.Count >= 0 || !a.HoldsZero ? Of(a.Power(node.Count)) : ByExact(n, c[0], static of => !of.IsZero);
            case Operator.Absolute:
                return Of(a.Absolute());
            case Operator.Minimum or Operator.Maximum:
                return ExtremeOf(c, node.Operator == Operator.Minimum);
            case Operator.SquareRoot:
                return a.High < DoubleEnd.Zero ? Of(Outcomes.Error) : a.Low >= DoubleEnd.Zero ? Of(a.Sqrt()) : ByExact(n, c[0], static of => of.Sign >= 0);
            default:
                return b.Low > DoubleEnd.Zero ? Rounded(n, node.Operator, a, b) : ByExact(n, c[1], static step => step.Sign > 0);
        }
    }

    private static readonly Interval<DoubleEnd> One = new(DoubleEnd.Of(1), DoubleEnd.Of(1));

    private static Point Of(Interval<DoubleEnd> numbers) => new() { Outcome = Outcomes.Present, Numbers = numbers };

    /// <summary>An end just beside a whole step rounds to the next one; that is decided exactly, or left as wide as it is over a range.</summary>
    private Point Rounded(int n, Operator op, Interval<DoubleEnd> value, Interval<DoubleEnd> step)
    {
        var rounded = value.Rounded(op switch { Operator.Ceiling => Rounding.Up, Operator.Floor => Rounding.Down, _ => Rounding.Nearest }, step);
        return rounded.IsPoint || DoubleEnd.IsNarrow(rounded.Low, rounded.High) || !DoubleEnd.IsNarrow(value.Low, value.High) || !TryPresent(n, out var number)
            ? Of(rounded) : Of(Interval<DoubleEnd>.Around(number));
    }

    private bool TryPresent(int n, out Exact number)
    {
        All[n].Outcome = Outcomes.Present;
        return _numbers.TryGet(n, out number);
    }

    /// <summary>The number of a node whose operand must pass a test, else an error.</summary>
    private Point ByExact(int n, int operand, Func<Exact, bool> test) =>
        !TryExact(operand, out var number) ? default : !test(number) ? Of(Outcomes.Error) : TryPresent(n, out var result)
            ? Of(Interval<DoubleEnd>.Around(result)) : Unknown();

    /// <summary>The exact number that a node has; where the evaluation is over a range, it is undecided.</summary>
    private bool TryExact(int n, out Exact number)
    {
        if (_numbers.TryGet(n, out number))
            return true;
        IsUndecided = true;
        return false;
    }
}
