using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Propagators of comparisons of numbers.</summary>
internal sealed class ComparisonPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
    {
        var c = node.Children;
        return Strict(n, c, Outcomes.True | Outcomes.False) && (!AllMayHaveValue(c) || ReviseComparison(n, node.Operator, c, c[0], c[1]));
    }

    private bool ReviseComparison(int n, Operator op, int[] children, int a, int b)
    {
        var (left, right) = (Numbers(a), Numbers(b));
        bool mayHold, mayFail;
        switch (op)
        {
            case Operator.Less:
                mayHold = left.Low < right.High;
                mayFail = left.High >= right.Low;
                break;
            case Operator.LessOrEqual:
                mayHold = left.Low <= right.High;
                mayFail = left.High > right.Low;
                break;
            default:
                mayHold = Interval<T>.Overlap(left, right);
                mayFail = !(left.IsPoint && right.IsPoint && left.Low == right.Low);
                break;
        }
        if (a == b)
            (mayHold, mayFail) = op == Operator.Less ? (false, true) : (true, false);
        else if (mayHold && mayFail && _store.IsDecided(a, out var x) && _store.IsDecided(b, out var y))
        {
            mayHold = op switch { Operator.Less => x < y, Operator.LessOrEqual => x <= y, _ => x == y };
            mayFail = !mayHold;
        }
        if (op == Operator.NotEqual)
            (mayHold, mayFail) = (mayFail, mayHold);
        if (!SetOutcomes(n, Outcomes.NoValue | (mayHold ? Outcomes.True : 0) | (mayFail ? Outcomes.False : 0)))
            return false;
        var truth = _domains[n].Outcomes & Outcomes.Value;
        if (truth is not (Outcomes.True or Outcomes.False) || a == b)
            return true;
        var holds = truth == Outcomes.True;
        switch (op)
        {
            case Operator.Less or Operator.LessOrEqual when holds:
                return Order(children, a, b, strict: op == Operator.Less);
            case Operator.Less or Operator.LessOrEqual:
                return Order(children, b, a, strict: op == Operator.LessOrEqual);
            default:
                if (holds == (op == Operator.Equal))
                    return (!Binds(children, a) || SetBounds(a, Numbers(b))) && (!Binds(children, b) || SetBounds(b, Numbers(a)));
                return (!Binds(children, a) || Shave(a, b)) && (!Binds(children, b) || Shave(b, a));
        }
    }

    private bool Order(int[] children, int lower, int higher, bool strict) =>
        (!Binds(children, lower) || SetBounds(lower, new(T.NegativeInfinity, Numbers(higher).High), strictHigh: strict))
        && (!Binds(children, higher) || SetBounds(higher, new(Numbers(lower).Low, T.PositiveInfinity), strictLow: strict));

    /// <summary>Takes the number of a point from the ends of an asked number.</summary>
    private bool Shave(int from, int point)
    {
        if (_store.Nodes[from].Variable is not { } variable || !(Numbers(point).IsPoint || T.IsNarrow(Numbers(point).Low, Numbers(point).High))
            || !_store.IsKnown(point, out var number))
            return true;
        ref readonly var domain = ref _domains[from];
        var (first, last) = (domain.First, domain.Last);
        if (variable.At(first) == number)
            first++;
        if (variable.At(last) == number)
            last--;
        return _store.SetSteps(from, first, last);
    }
}
