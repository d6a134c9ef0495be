using Juniperfall.Core.Language;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>What an evaluation of one assignment came to.</summary>
internal enum Verdict { Solution, NoSolution, Undecided }

/// <summary>
/// Evaluates a whole assignment through the network in floating point, each number as an interval that surely holds it
/// (a filter as in Fortune and Van Wyk, “Efficient exact arithmetic for computational geometry”, 1993): a comparison that the
/// intervals do not decide is made in exact numbers. One evaluator serves one thread.
/// </summary>
internal sealed class PointEvaluator
{
    private struct Point
    {
        public Outcomes Outcome;
        public int Index;
        public double Low, High;
    }

    private readonly Network _network;
    private readonly Point[] _points;
    private readonly int[] _order;
    private readonly int[] _conditionOf;
    private readonly int[]?[] _dependents;
    private readonly Outcomes[] _allowed;
    private bool _undecided, _ranging;
    private Assigned[] _evaluated = [];

    public PointEvaluator(Network network)
    {
        _network = network;
        var count = network.Nodes.Length;
        _points = new Point[count];
        _conditionOf = new int[count];
        _dependents = new int[network.Variables.Length][];
        _allowed = new Outcomes[count];
        Array.Fill(_conditionOf, -1);
        Array.Fill(_allowed, ~Outcomes.Impossible);
        foreach (var node in network.Nodes)
            if (node.Operator == Operator.Presence)
                _conditionOf[node.Children[1]] = node.Children[0];
        foreach (var (node, allowed, _) in network.Roots)
            _allowed[node] &= allowed;
        _order = Order(network);
        for (var n = 0; n < count; n++)
            if (network.Nodes[n].Operator == Operator.Constant)
                _points[n] = ConstantOf(network.Initial[n]);
    }

    /// <summary>Children before their nodes, and the condition of a variable before the variable.</summary>
    private int[] Order(Network network)
    {
        var order = new List<int>(network.Nodes.Length);
        var seen = new bool[network.Nodes.Length];
        var open = new Stack<(int Node, bool Done)>();
        for (var start = 0; start < seen.Length; start++)
        {
            open.Push((start, false));
            while (open.TryPop(out var at))
            {
                if (at.Done)
                {
                    if (network.Nodes[at.Node].Operator is not (Operator.Constant or Operator.Presence))
                        order.Add(at.Node);
                    continue;
                }
                if (seen[at.Node])
                    continue;
                seen[at.Node] = true;
                open.Push((at.Node, true));
                foreach (var child in network.Nodes[at.Node].Children)
                    open.Push((child, false));
                if (_conditionOf[at.Node] >= 0)
                    open.Push((_conditionOf[at.Node], false));
            }
        }
        return [.. order];
    }

    private static Point ConstantOf(in Domain domain) => domain.Kind switch
    {
        DomainKind.Number when domain.Outcomes == Outcomes.Present => NumberOf(domain.Low!.Value),
        DomainKind.Choice when domain.Outcomes == Outcomes.Present => new() { Outcome = Outcomes.Present, Index = BitSet.First(domain.Bits!) },
        _ => new() { Outcome = domain.Outcomes },
    };

    private static Point NumberOf(in Exact number)
    {
        var near = number.ToDouble();
        var exact = number.IsWhole && Math.Abs(near) < 1L << 53;
        // A quotient of two doubles is within half a unit in the last place, one of long numbers within a few.
        var slack = number.IsLong ? Math.Abs(near) * 1e-12 : 0;
        return exact ? new() { Outcome = Outcomes.Present, Low = near, High = near }
            : new() { Outcome = Outcomes.Present, Low = Math.BitDecrement(near - slack), High = Math.BitIncrement(near + slack) };
    }

    /// <summary>
    /// Evaluates the wanted values. A variable that does not apply is left without one, and one that comes to apply takes
    /// its preferred value; <paramref name="result"/> receives what was evaluated.
    /// </summary>
    public Verdict Evaluate(ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result) =>
        Evaluate(_order, wanted, preferred, result, -1, default);

    /// <summary>
    /// Evaluates again after only one variable has changed since the last whole evaluation, into the same result.
    /// </summary>
    /// <param name="upTo">Other than null, the variable takes all numbers from the wanted one up to it at once: a solution is
    /// then one with each of them, none is none with any, and it may be undecided.</param>
    public Verdict EvaluateChanged(Variable variable, ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result, Exact? upTo) =>
        Evaluate(_dependents[variable.Index] ??= DependentsOf(variable), wanted, preferred, result, upTo is null ? -1 : variable.Index, upTo ?? default);

    /// <summary>The variable and what depends on it, in the order of evaluation.</summary>
    private int[] DependentsOf(Variable variable)
    {
        var touched = new bool[_points.Length];
        touched[variable.Node] = true;
        return [.. _order.Where(n => touched[n] |= _network.Nodes[n].Children.Any(c => touched[c]) || (_conditionOf[n] >= 0 && touched[_conditionOf[n]]))];
    }

    private Verdict Evaluate(int[] order, ReadOnlySpan<Assigned> wanted, ReadOnlySpan<Assigned?> preferred, Assigned[] result, int ranging, Exact upTo)
    {
        _ranging = ranging >= 0;
        _undecided = false;
        _evaluated = result;
        foreach (var n in order)
        {
            var node = _network.Nodes[n];
            if (node.Variable is { } variable)
            {
                var condition = _conditionOf[n];
                var applies = condition < 0 || _points[condition].Outcome == Outcomes.True;
                var value = wanted[variable.Index];
                if (!applies)
                    value = new(Outcomes.Absent, Exact.Zero, -1);
                else if (value.Outcome == Outcomes.Absent)
                {
                    if (preferred[variable.Index] is not { } instead || instead.Outcome == Outcomes.Absent)
                        return Verdict.NoSolution;
                    value = instead;
                }
                result[variable.Index] = value;
                _points[n] = value.Outcome != Outcomes.Present ? new() { Outcome = value.Outcome }
                    : value.Index >= 0 ? new() { Outcome = Outcomes.Present, Index = value.Index } : NumberOf(value.Number);
                if (variable.Index == ranging && value.Outcome == Outcomes.Present)
                    _points[n].High = NumberOf(upTo).High;
            }
            else
                _points[n] = Compute(node);
            if (_undecided)
                return Verdict.Undecided;
            if ((_points[n].Outcome & _allowed[n]) == 0)
                return Verdict.NoSolution;
        }
        return Verdict.Solution;
    }

    private static Outcomes Plain(Outcomes outcome) => outcome == Outcomes.None ? Outcomes.Absent : outcome;

    private static Point Of(Outcomes outcome) => new() { Outcome = outcome };

    private static Point Of(bool truth) => Of(truth ? Outcomes.True : Outcomes.False);

    private Point Compute(Node node)
    {
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.And:
                return Of(Kleene.And(Plain(_points[c[0]].Outcome), Plain(_points[c[1]].Outcome)));
            case Operator.Or:
                return Of(Kleene.Or(Plain(_points[c[0]].Outcome), Plain(_points[c[1]].Outcome)));
            case Operator.SameYesNo:
                return Of(Kleene.Same(Plain(_points[c[0]].Outcome), Plain(_points[c[1]].Outcome)));
            case Operator.OtherYesNo:
                return Of(Kleene.Other(Plain(_points[c[0]].Outcome), Plain(_points[c[1]].Outcome)));
            case Operator.Not:
                return Of(Kleene.Not(Plain(_points[c[0]].Outcome)));
            case Operator.Holds:
                return Of(Plain(_points[c[0]].Outcome) is var held && held == Outcomes.Absent ? Outcomes.False : held);
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
                return Property(_points[c[0]], node.PropertyValues!);
            case Operator.Figure:
                return Figure(node);
            default:
                // The strict ones: an error dominates, then no value.
                var nothing = false;
                foreach (var child in c)
                {
                    if (_points[child].Outcome == Outcomes.Error)
                        return Of(Outcomes.Error);
                    nothing |= (_points[child].Outcome & Outcomes.NoValue) != 0;
                }
                return nothing ? Of(Outcomes.Absent) : Strict(node);
        }
    }

    /// <summary>The intervals do not tell; nothing after this counts.</summary>
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
        var (yes, open, k) = (0, 0, node.Count);
        foreach (var child in node.Children)
            switch (_points[child].Outcome)
            {
                case Outcomes.True: yes++; break;
                case Outcomes.Absent or Outcomes.None: open++; break;
                case Outcomes.Error: return Unknown();
            }
        return Of(node.CountingKind switch
        {
            CountingKind.Exactly => yes > k || yes + open < k ? Outcomes.False : open > 0 ? Outcomes.Absent : Outcomes.True,
            CountingKind.AtMost => yes + open <= k ? Outcomes.True : yes > k ? Outcomes.False : Outcomes.Absent,
            _ => yes >= k ? Outcomes.True : yes + open < k ? Outcomes.False : Outcomes.Absent,
        });
    }

    private Point ExtremeOf(int[] children, bool least)
    {
        var found = Of(Outcomes.Absent);
        foreach (var child in children)
        {
            ref readonly var point = ref _points[child];
            if (point.Outcome == Outcomes.Error)
                return Unknown();
            if (point.Outcome != Outcomes.Present)
                continue;
            found = found.Outcome == Outcomes.Absent ? point : least ? Bounds(Math.Min(found.Low, point.Low), Math.Min(found.High, point.High))
                : Bounds(Math.Max(found.Low, point.Low), Math.Max(found.High, point.High));
        }
        return found;
    }

    private static Point Property(in Point choice, Value[] values)
    {
        if (choice.Outcome != Outcomes.Present)
            return Of(choice.Outcome == Outcomes.Error ? Outcomes.Error : Outcomes.Absent);
        var value = values[choice.Index];
        return value.Kind switch
        {
            ValueKind.Number => NumberOf(value.Number),
            ValueKind.YesNo => Of(value.IsTrue),
            _ => Of(Outcomes.Absent),
        };
    }

    private Point Figure(Node node)
    {
        foreach (var key in node.Children)
        {
            if (_points[key].Outcome == Outcomes.Error)
                return Unknown();
            if ((_points[key].Outcome & Outcomes.NoValue) != 0)
                return Of(Outcomes.Absent);
        }
        for (var r = 0; r < node.Grid!.Rows.Length; r++)
            if (Matches(node, r))
                return node.Figures[r].IsNothing ? Of(Outcomes.Absent) : NumberOf(node.Figures[r].Number);
        return Of(Outcomes.Absent);
    }

    private bool Matches(Node node, int row)
    {
        var cells = node.Grid!.Rows[row];
        for (var c = 0; c < cells.Length; c++)
        {
            ref readonly var point = ref _points[node.Children[c]];
            var cell = cells[c];
            if (cell.Cell.Any)
                continue;
            if (cell.Bits is { } bits ? !BitSet.Has(bits, point.Index) : point.Outcome != Outcomes.Present ? (cell.YesNo & point.Outcome) == 0
                : !cell.Cell.Matches(Value.Of(ExactOf(node.Children[c]))))
                return false;
        }
        return true;
    }

    // ---- Strict operators over points that all have a value -----------------------------------------------------

    private Point Strict(Node node)
    {
        var c = node.Children;
        ref readonly var a = ref _points[c[0]];
        ref readonly var b = ref _points[c.Length > 1 ? c[1] : c[0]];
        switch (node.Operator)
        {
            case Operator.Less:
                return c[0] == c[1] ? Of(false) : a.High < b.Low || (a.Low < b.High && ExactOf(c[0]) < ExactOf(c[1])) ? Of(true) : Of(false);
            case Operator.LessOrEqual:
                return c[0] == c[1] || a.High <= b.Low || (a.Low <= b.High && ExactOf(c[0]) <= ExactOf(c[1])) ? Of(true) : Of(false);
            case Operator.Equal or Operator.NotEqual:
                var same = c[0] == c[1] || (a.High >= b.Low && b.High >= a.Low && ExactOf(c[0]) == ExactOf(c[1]));
                return Of(same == (node.Operator == Operator.Equal));
            case Operator.SameChoice:
                return Of(a.Index == b.Index);
            case Operator.OtherChoice:
                return Of(a.Index != b.Index);
            case Operator.Table:
                for (var r = 0; r < node.Grid!.Rows.Length; r++)
                    if (Matches(node, r))
                        return Of(true);
                return Of(false);
            case Operator.ToNumber:
                return a.Outcome == Outcomes.True ? Bounds(1, 1) : Bounds(0, 0);
            case Operator.Add:
                return Sum(a, b);
            case Operator.Subtract:
                return Sum(a, Bounds(-b.High, -b.Low));
            case Operator.Negate:
                return Bounds(-a.High, -a.Low);
            case Operator.Multiply:
                return Product(a, b);
            case Operator.Divide:
                return b.Low > 0 || b.High < 0 ? Quotient(a, b) : ExactOf(c[1]).IsZero ? Of(Outcomes.Error) : NumberOf(ExactOf(c[0]) / ExactOf(c[1]));
            case Operator.Power:
                return node.Count >= 0 || a.Low > 0 || a.High < 0 ? Power(a, node.Count) : ExactOf(c[0]).IsZero ? Of(Outcomes.Error) : NumberOf(ExactOf(c[0]).Power(node.Count));
            case Operator.Absolute:
                return a.Low >= 0 ? a : a.High <= 0 ? Bounds(-a.High, -a.Low) : Bounds(0, Math.Max(-a.Low, a.High));
            case Operator.Minimum or Operator.Maximum:
                return ExtremeOf(c, node.Operator == Operator.Minimum);
            case Operator.SquareRoot:
                return a.Low >= 0 ? Bounds(Math.Max(0, Math.BitDecrement(Math.Sqrt(a.Low))), Math.BitIncrement(Math.Sqrt(a.High))) : a.High < 0 || ExactOf(c[0]).Sign < 0 ? Of(Outcomes.Error)
                    : Bounds(0, Math.BitIncrement(Math.Sqrt(Math.Max(0, a.High))));
            default:
                return b.Low > 0 ? Rounded(node.Operator, a, b) : ExactOf(c[1]).Sign > 0 ? NumberOf(RoundedExactly(node.Operator, ExactOf(c[0]), ExactOf(c[1]))) : Of(Outcomes.Error);
        }
    }

    private static Point Bounds(double low, double high) => new() { Outcome = Outcomes.Present, Low = low, High = high };

    /// <summary>Rounded outward by one place unless the operation was exact, which its remainder tells.</summary>
    private static Point Sum(in Point a, in Point b)
    {
        if (a.Low == a.High && b.Low == b.High)
        {
            var sum = a.Low + b.Low;
            var rest = sum - a.Low;
            if ((a.Low - (sum - rest)) + (b.Low - rest) == 0)
                return Bounds(sum, sum);
        }
        return Bounds(Math.BitDecrement(a.Low + b.Low), Math.BitIncrement(a.High + b.High));
    }

    private static Point Product(in Point a, in Point b)
    {
        if (a.Low == a.High && b.Low == b.High)
        {
            var product = a.Low * b.Low;
            if (Math.FusedMultiplyAdd(a.Low, b.Low, -product) == 0)
                return Bounds(product, product);
        }
        var (p, q, r, s) = (a.Low * b.Low, a.Low * b.High, a.High * b.Low, a.High * b.High);
        return Bounds(Math.BitDecrement(Math.Min(Math.Min(p, q), Math.Min(r, s))), Math.BitIncrement(Math.Max(Math.Max(p, q), Math.Max(r, s))));
    }

    private static Point Quotient(in Point a, in Point b)
    {
        if (a.Low == a.High && b.Low == b.High)
        {
            var quotient = a.Low / b.Low;
            if (Math.FusedMultiplyAdd(quotient, b.Low, -a.Low) == 0)
                return Bounds(quotient, quotient);
        }
        var (p, q, r, s) = (a.Low / b.Low, a.Low / b.High, a.High / b.Low, a.High / b.High);
        return Bounds(Math.BitDecrement(Math.Min(Math.Min(p, q), Math.Min(r, s))), Math.BitIncrement(Math.Max(Math.Max(p, q), Math.Max(r, s))));
    }

    private static Point Power(in Point a, int exponent)
    {
        var power = Bounds(1, 1);
        for (var i = 0; i < Math.Abs(exponent); i++)
            power = Product(power, a);
        return exponent < 0 ? Quotient(Bounds(1, 1), power) : power;
    }

    private static Point Rounded(Operator op, in Point value, in Point step)
    {
        var steps = Quotient(value, step);
        double Round(double x) => op switch
        {
            Operator.Ceiling => Math.Ceiling(x),
            Operator.Floor => Math.Floor(x),
            // Halves go away from zero, as in the exact arithmetic.
            _ => Math.Round(x, MidpointRounding.AwayFromZero),
        };
        return Product(Bounds(Round(steps.Low), Round(steps.High)), step);
    }

    // ---- In exact numbers ---------------------------------------------------------------------------------------

    /// <summary>The number that a node has at the points just evaluated.</summary>
    private Exact ExactOf(int n)
    {
        // Over a range there is no one number to decide by.
        if (_ranging)
        {
            _undecided = true;
            return Exact.Zero;
        }
        var node = _network.Nodes[n];
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Variable:
                return _evaluated[node.Variable!.Index].Number;
            case Operator.Constant:
                return _network.Initial[n].Low!.Value;
            case Operator.Property:
                return node.PropertyValues![_points[c[0]].Index].Number;
            case Operator.If or Operator.Where:
                return ExactOf(_points[c[0]].Outcome == Outcomes.True ? c[1] : c[2]);
            case Operator.Else:
                return ExactOf(_points[c[0]].Outcome == Outcomes.Present ? c[0] : c[1]);
            case Operator.Figure:
                var row = 0;
                while (!Matches(node, row))
                    row++;
                return node.Figures[row].Number;
            case Operator.ToNumber:
                return _points[c[0]].Outcome == Outcomes.True ? 1 : 0;
            case Operator.Add:
                return ExactOf(c[0]) + ExactOf(c[1]);
            case Operator.Subtract:
                return ExactOf(c[0]) - ExactOf(c[1]);
            case Operator.Negate:
                return -ExactOf(c[0]);
            case Operator.Multiply:
                return ExactOf(c[0]) * ExactOf(c[1]);
            case Operator.Divide:
                return ExactOf(c[0]) / ExactOf(c[1]);
            case Operator.Power:
                return ExactOf(c[0]).Power(node.Count);
            case Operator.Absolute:
                return ExactOf(c[0]).Abs();
            case Operator.SquareRoot:
                return ExactOf(c[0]).Sqrt();
            case Operator.Minimum or Operator.LeastOf:
                return ExactOfPresent(c).Min();
            case Operator.Maximum or Operator.GreatestOf:
                return ExactOfPresent(c).Max();
            default:
                return RoundedExactly(node.Operator, ExactOf(c[0]), ExactOf(c[1]));
        }
    }

    private IEnumerable<Exact> ExactOfPresent(int[] children) => children.Where(c => _points[c].Outcome == Outcomes.Present).Select(ExactOf);

    private static Exact RoundedExactly(Operator op, in Exact value, in Exact step) => step * (op switch
    {
        Operator.Ceiling => (value / step).Ceiling(),
        Operator.Floor => (value / step).Floor(),
        _ => (value / step).Round(),
    });
}
