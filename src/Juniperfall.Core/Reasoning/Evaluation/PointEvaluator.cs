using Juniperfall.Core.Language;
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
    private struct Point
    {
        public Outcomes Outcome;
        public long Index;
        public Interval<DoubleEnd> Numbers;
    }

    private readonly Network _network;
    private readonly NetworkEnds<DoubleEnd> _ends;
    private readonly Point[] _points;
    private readonly Outcomes[] _allowed;
    private Func<int, bool> _isActive = _ => true;
    private bool[]? _only;
    private readonly Exactly _exactly;
    private bool _undecided;
    private int _ranging = -1;

    public PointEvaluator(Network network)
    {
        (_network, _ends) = (network, network.Rough);
        var count = network.Nodes.Length;
        _points = new Point[count];
        _allowed = new Outcomes[count];
        _exactly = new(this);
        Activate(_isActive);
        for (var n = 0; n < count; n++)
            if (network.Nodes[n].Operator == Operator.Constant)
                _points[n] = ConstantOf(_ends.Initial[n]);
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

    private static Point ConstantOf(in Domain<DoubleEnd> domain) => domain.Kind switch
    {
        DomainKind.Number when domain.Outcomes == Outcomes.Present => Of(domain.Numbers),
        DomainKind.Choice when domain.Outcomes == Outcomes.Present => new() { Outcome = Outcomes.Present, Index = BitSet.First(domain.Bits!) },
        _ => new() { Outcome = domain.Outcomes },
    };

    /// <summary>Ties among the points just evaluated; over a range there is no one number to decide by.</summary>
    private sealed class Exactly(PointEvaluator evaluator) : ExactNumbers(evaluator._network)
    {
        protected override Outcomes OutcomeOf(int node) => evaluator._points[node].Outcome;
        protected override long IndexOf(int node) => node == evaluator._ranging ? Undecided : evaluator._points[node].Index;
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
    public Exact? NumberOf(int node) => _points[node].Outcome == Outcomes.Present && _exactly.TryGet(node, out var number) ? number : null;

    private Verdict Evaluate(ReadOnlySpan<int> order, ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result, int ranging, long upTo)
    {
        _ranging = ranging;
        _undecided = false;
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
                _points[n] = new() { Outcome = value.Outcome, Index = value.Index };
                if (value.Outcome == Outcomes.Present && variable.Initial.Kind == DomainKind.Number)
                    _points[n].Numbers = _ends.Between(variable.Index, value.Index, n == ranging ? upTo : value.Index);
            }
            else
                _points[n] = Compute(n, node);
            if (_undecided)
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
        _ranging = -1;
        foreach (var n in _network.Under(node))
            if (_network.Nodes[n].Variable is { } variable)
                _points[n] = PointOf(variable, valueOf(variable.Index));
            else if (_network.Nodes[n].Operator != Operator.Presence)
                _points[n] = ComputeOrNothing(n, _network.Nodes[n]);
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
        _points[variable.Node] = PointOf(variable, value);
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
        _ranging = -1;
        var nodes = _network.Nodes;
        foreach (var n in order)
        {
            ref readonly var at = ref nodes[n];
            if (_checkedAt[n] == _now || at.Variable is not null || at.Operator == Operator.Presence)
                continue;
            if (IsStale(n, at.Children))
            {
                var before = _points[n];
                _points[n] = ComputeOrNothing(n, at);
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

    private Point PointOf(Variable variable, in Assigned value)
    {
        var point = new Point { Outcome = value.Outcome, Index = value.Index };
        if (value.Outcome == Outcomes.Present && variable.Initial.Kind == DomainKind.Number)
            point.Numbers = _ends.Between(variable.Index, value.Index, value.Index);
        return point;
    }

    private Point ComputeOrNothing(int n, in Node node)
    {
        foreach (var child in node.Children)
            if (_points[child].Outcome == Outcomes.Impossible)
                return default;
        _undecided = false;
        var point = Compute(n, node);
        return _undecided ? default : point;
    }

    private static Point Of(Outcomes outcome) => new() { Outcome = outcome };

    private static Point Of(bool truth) => Of(truth ? Outcomes.True : Outcomes.False);

    private Point Compute(int n, Node node)
    {
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.InOrder:
                return Of(IsInOrder(c));
            case Operator.And:
                return Of(Kleene.And(Kleene.Plain(_points[c[0]].Outcome), Kleene.Plain(_points[c[1]].Outcome)));
            case Operator.Or:
                return Of(Kleene.Or(Kleene.Plain(_points[c[0]].Outcome), Kleene.Plain(_points[c[1]].Outcome)));
            case Operator.SameYesNo:
                return Of(Kleene.Same(Kleene.Plain(_points[c[0]].Outcome), Kleene.Plain(_points[c[1]].Outcome)));
            case Operator.OtherYesNo:
                return Of(Kleene.Other(Kleene.Plain(_points[c[0]].Outcome), Kleene.Plain(_points[c[1]].Outcome)));
            case Operator.Not:
                return Of(Kleene.Not(Kleene.Plain(_points[c[0]].Outcome)));
            case Operator.Holds:
                return Of(Kleene.Holds(Kleene.Plain(_points[c[0]].Outcome)));
            case Operator.IsNone:
                return Of(_points[c[0]].Outcome switch { Outcomes.None => Outcomes.True, Outcomes.Absent => Outcomes.Absent, Outcomes.Error => Outcomes.Error, _ => Outcomes.False });
            case Operator.If:
                return Chosen(_points[c[0]].Outcome, c[1], c[2]);
            case Operator.Where:
                return Chosen(_points[c[0]].Outcome, c[1], -1);
            case Operator.Else:
                return _points[c[0]].Outcome is Outcomes.Absent or Outcomes.None ? AsNode(_points[c[1]]) : _points[c[0]];
            case Operator.Counting:
                return Counting(node);
            case Operator.LeastOf or Operator.GreatestOf:
                return ExtremeOf(c, node.Operator == Operator.LeastOf);
            case Operator.Property:
                return Property(n, _points[c[0]], node);
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
            if (_points[operand].Outcome == Outcomes.Error)
                return Outcomes.Error;
            if ((_points[operand].Outcome & Outcomes.NoValue) != 0)
                none = Outcomes.Absent;
        }
        return none;
    }

    private Point Unknown()
    {
        _undecided = true;
        return default;
    }

    private static Point AsNode(in Point point) => point.Outcome == Outcomes.None ? Of(Outcomes.Absent) : point;

    private Point Chosen(Outcomes truth, int then, int otherwise) => truth switch
    {
        Outcomes.True => AsNode(_points[then]),
        Outcomes.False => otherwise >= 0 ? AsNode(_points[otherwise]) : Of(Outcomes.Absent),
        Outcomes.Error => Of(Outcomes.Error),
        _ => Of(Outcomes.Absent),
    };

    private Point Counting(Node node)
    {
        var (yes, open) = (0, 0);
        foreach (var child in node.Children)
            switch (_points[child].Outcome)
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
            ref readonly var point = ref _points[child];
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

    private int ValueAt(int key) => _points[key].Outcome switch { Outcomes.True => 1, Outcomes.False => 0, _ => (int)_points[key].Index };

    private bool Matches(int n, Node node, int row)
    {
        var cells = node.Grid!.Rows[row];
        for (var c = 0; c < cells.Length; c++)
        {
            ref readonly var point = ref _points[node.Children[c]];
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
        var numbers = _points[key].Numbers;
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
            var (first, second) = (_points[children[place]], _points[children[place + half]]);
            if (LexicographicRank.Of(first.Outcome, first.Index).CompareTo(LexicographicRank.Of(second.Outcome, second.Index)) is var compared && compared != 0)
                return compared < 0;
        }
        return true;
    }

    private Point Strict(int n, Node node)
    {
        var c = node.Children;
        var a = _points[c[0]].Numbers;
        var b = c.Length > 1 ? _points[c[1]].Numbers : a;
        switch (node.Operator)
        {
            case Operator.Less:
                return Of(c[0] != c[1] && (a.High < b.Low || (a.Low < b.High && TryExact(c[0], out var x) && TryExact(c[1], out var y) && x < y)));
            case Operator.LessOrEqual:
                return Of(c[0] == c[1] || a.High <= b.Low || (a.Low <= b.High && TryExact(c[0], out x) && TryExact(c[1], out y) && x <= y));
            case Operator.Equal or Operator.NotEqual:
                var same = c[0] == c[1] || (Interval<DoubleEnd>.Overlap(a, b) && ((a.IsPoint && b.IsPoint) || (TryExact(c[0], out x) && TryExact(c[1], out y) && x == y)));
                return Of(same == (node.Operator == Operator.Equal));
            case Operator.SameChoice:
                return Of(_points[c[0]].Index == _points[c[1]].Index);
            case Operator.OtherChoice:
                return Of(_points[c[0]].Index != _points[c[1]].Index);
            case Operator.Table:
                return Of(FirstMatch(n, node) >= 0);
            case Operator.ToNumber:
                return Of(_points[c[0]].Outcome == Outcomes.True ? One : new(DoubleEnd.Zero, DoubleEnd.Zero));
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
        _points[n].Outcome = Outcomes.Present;
        return _exactly.TryGet(n, out number);
    }

    /// <summary>The number of a node whose operand must pass a test, else an error.</summary>
    private Point ByExact(int n, int operand, Func<Exact, bool> test) =>
        !TryExact(operand, out var number) ? default : !test(number) ? Of(Outcomes.Error) : TryPresent(n, out var result) ? Of(Interval<DoubleEnd>.Around(result)) : Unknown();

    /// <summary>The exact number that a node has; where the evaluation is over a range, it is undecided.</summary>
    private bool TryExact(int n, out Exact number)
    {
        if (_exactly.TryGet(n, out number))
            return true;
        _undecided = true;
        return false;
    }
}
