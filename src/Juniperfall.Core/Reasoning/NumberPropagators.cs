using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>Propagators of comparisons and arithmetic.</summary>
internal partial class Propagation<T>
{
    private Interval<T> Numbers(int node) => _domains[node].Numbers;

    // ---- Comparisons --------------------------------------------------------------------------------------------

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
        else if (mayHold && mayFail && IsDecided(a, out var x) && IsDecided(b, out var y))
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
        if (_nodes[from].Variable is not { } variable || !(Numbers(point).IsPoint || T.IsNarrow(Numbers(point).Low, Numbers(point).High)) || !IsKnown(point, out var number))
            return true;
        ref readonly var domain = ref _domains[from];
        var (first, last) = (domain.First, domain.Last);
        if (variable.At(first) == number)
            first++;
        if (variable.At(last) == number)
            last--;
        return SetSteps(from, first, last);
    }

    // ---- Arithmetic ---------------------------------------------------------------------------------------------

    private bool ReviseArithmetic(int n, Node node)
    {
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Add:
                return SetBounds(n, Numbers(c[0]) + Numbers(c[1]))
                    && (!BindsFrom(n, c, c[0]) || SetBounds(c[0], Numbers(n) - Numbers(c[1])))
                    && (!BindsFrom(n, c, c[1]) || SetBounds(c[1], Numbers(n) - Numbers(c[0])));
            case Operator.Subtract:
                return SetBounds(n, Numbers(c[0]) - Numbers(c[1]))
                    && (!BindsFrom(n, c, c[0]) || SetBounds(c[0], Numbers(n) + Numbers(c[1])))
                    && (!BindsFrom(n, c, c[1]) || SetBounds(c[1], Numbers(c[0]) - Numbers(n)));
            case Operator.Negate:
                return SetBounds(n, -Numbers(c[0])) && (!BindsFrom(n, c, c[0]) || SetBounds(c[0], -Numbers(n)));
            case Operator.Multiply when c[0] == c[1]:
                return SetBounds(n, Numbers(c[0]).Square());
            case Operator.Multiply:
                return SetBounds(n, Numbers(c[0]) * Numbers(c[1]))
                    && (!BindsFrom(n, c, c[0]) || SetFactor(c[0], n, c[1]))
                    && (!BindsFrom(n, c, c[1]) || SetFactor(c[1], n, c[0]));
            case Operator.Divide:
                return ReviseDivide(n, c);
            case Operator.Power:
                return RevisePower(n, c[0], node.Count);
            case Operator.Absolute:
                return SetBounds(n, Numbers(c[0]).Absolute()) && (!BindsFrom(n, c, c[0]) || SetBounds(c[0], new(-Numbers(n).High, Numbers(n).High)));
            case Operator.Minimum or Operator.Maximum:
                return ReviseExtreme(n, c, node.Operator == Operator.Minimum);
            case Operator.SquareRoot:
                return ReviseSquareRoot(n, c[0]);
            default:
                return ReviseRounding(n, node.Operator, c, c[0], c[1]);
        }
    }

    /// <summary>Whether the node certainly has to do with this child: it may have a number, and the others do.</summary>
    private bool BindsFrom(int n, int[] children, int child) => _domains[n].MayHaveValue && Binds(children, child);

    private bool SetFactor(int factor, int product, int other) =>
        // A factor of zero leaves the other one open.
        (Numbers(other).HoldsZero && Numbers(product).HoldsZero) || SetBounds(factor, Numbers(product) / Numbers(other));

    private bool ReviseExtreme(int n, int[] c, bool least)
    {
        var numbers = Numbers(c[0]);
        for (var i = 1; i < c.Length; i++)
            numbers = least ? Interval<T>.Least(numbers, Numbers(c[i])) : Interval<T>.Greatest(numbers, Numbers(c[i]));
        if (!SetBounds(n, numbers))
            return false;
        foreach (var child in c)
            if (BindsFrom(n, c, child) && !SetBounds(child, least ? new(Numbers(n).Low, T.PositiveInfinity) : new(T.NegativeInfinity, Numbers(n).High)))
                return false;
        return true;
    }

    private bool ReviseDivide(int n, int[] c)
    {
        var divisor = Numbers(c[1]);
        var mayBeZero = divisor.HoldsZero;
        var mustBeZero = mayBeZero && divisor.IsPoint;
        if (mayBeZero && !mustBeZero && IsDecided(c[1], out var exactly))
        {
            (mayBeZero, mustBeZero) = (exactly.IsZero, exactly.IsZero);
            // Known to be on one side of zero, but not by doubles: nothing is known of the quotient but that there is one.
            divisor = Interval<T>.All;
        }
        var childMayFail = ((_domains[c[0]].Outcomes | _domains[c[1]].Outcomes) & Outcomes.Error) != 0;
        if (!mayBeZero && !childMayFail && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (mustBeZero)
            return SetOutcomes(n, ~Outcomes.Present);
        if (!SetBounds(n, Numbers(c[0]) / divisor))
            return false;
        if ((_domains[n].Outcomes & Outcomes.Error) != 0)
            return true;
        // Zero at an end of a divisor that is a variable can go once an error is not allowed.
        if (mayBeZero && Binds(c, c[1]) && _nodes[c[1]].Variable is not null
            && (!SetBoundsWithoutZero(c[1])))
            return false;
        return (!BindsFrom(n, c, c[0]) || SetBounds(c[0], Numbers(n) * Numbers(c[1])))
            && (!BindsFrom(n, c, c[1]) || (Numbers(n).HoldsZero && Numbers(c[0]).HoldsZero) || SetBounds(c[1], Numbers(c[0]) / Numbers(n)));
    }

    private bool SetBoundsWithoutZero(int variable) =>
        (Numbers(variable).Low != T.Zero || SetBounds(variable, new(T.Zero, T.PositiveInfinity), strictLow: true))
        && (Numbers(variable).High != T.Zero || SetBounds(variable, new(T.NegativeInfinity, T.Zero), strictHigh: true));

    private bool RevisePower(int n, int child, int exponent)
    {
        var numbers = Numbers(child);
        var mayBeZero = numbers.HoldsZero;
        var mustBeZero = mayBeZero && numbers.IsPoint;
        if (exponent < 0 && mayBeZero && IsDecided(child, out var exactly))
            (mayBeZero, mustBeZero) = (exactly.IsZero, exactly.IsZero);
        if ((exponent >= 0 || !mayBeZero) && (_domains[child].Outcomes & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (exponent < 0 && mustBeZero)
            return SetOutcomes(n, ~Outcomes.Present);
        return SetBounds(n, numbers.Power(exponent));
    }

    private bool ReviseSquareRoot(int n, int child)
    {
        var numbers = Numbers(child);
        var (mayFail, mustFail) = (numbers.Low < T.Zero, numbers.High < T.Zero);
        if (mayFail && !mustFail && IsDecided(child, out var exactly))
            (mayFail, mustFail) = (exactly.Sign < 0, exactly.Sign < 0);
        if (!mayFail && (_domains[child].Outcomes & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (mustFail)
            return SetOutcomes(n, ~Outcomes.Present);
        if (!SetBounds(n, numbers.Sqrt()))
            return false;
        return (_domains[n].Outcomes & (Outcomes.Error | Outcomes.Absent)) != 0 || SetBounds(child, new(T.Zero, T.PositiveInfinity));
    }

    private bool ReviseRounding(int n, Operator op, int[] c, int value, int step)
    {
        var size = Numbers(step);
        if (!size.IsPoint && !T.IsNarrow(size.Low, size.High))
            return true;
        if (!(size.Low > T.Zero))
        {
            if (!IsKnown(step, out var exactly) || exactly.Sign > 0)
                return true;
            return SetOutcomes(n, ~Outcomes.Present);
        }
        if (((_domains[value].Outcomes | _domains[step].Outcomes) & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        var rounded = Numbers(value).Rounded(op, size);
        // An end just beside a whole step rounds to the next one; what is decided is rounded exactly.
        if (!rounded.IsPoint && !T.IsNarrow(rounded.Low, rounded.High) && T.IsNarrow(Numbers(value).Low, Numbers(value).High) && IsKnown(n, out var number))
            rounded = Interval<T>.Around(number);
        if (!SetBounds(n, rounded))
            return false;
        if (!BindsFrom(n, c, value))
            return true;
        var back = new Interval<T>(Numbers(n).Rounded(Operator.Ceiling, size).Low, Numbers(n).Rounded(Operator.Floor, size).High);
        var half = size * new Interval<T>(T.Down(Exact.Of(1, 2)), T.Up(Exact.Of(1, 2)));
        return op switch
        {
            Operator.Ceiling => SetBounds(value, new((back - size).Low, back.High)),
            Operator.Floor => SetBounds(value, new(back.Low, (back + size).High)),
            _ => SetBounds(value, new((back - half).Low, (back + half).High)),
        };
    }

    private bool ReviseToNumber(int n, int[] c)
    {
        if (!Strict(n, c, Outcomes.Present))
            return false;
        var truth = _domains[c[0]].Outcomes;
        if ((truth & Outcomes.Value) == 0)
            return true;
        if (!SetBounds(n, new(T.Of((truth & Outcomes.False) != 0 ? 0 : 1), T.Of((truth & Outcomes.True) != 0 ? 1 : 0))))
            return false;
        if (!_domains[n].MayBePresent)
            return true;
        return (!(Numbers(n).Low > T.Zero) || SetOutcomes(c[0], ~Outcomes.False)) && (!(Numbers(n).High < T.Of(1)) || SetOutcomes(c[0], ~Outcomes.True));
    }

    private bool ReviseExtremeOf(int n, int[] children, bool least)
    {
        var (allMayBeNothing, mustFail) = (true, false);
        Outcomes errors = 0;
        Domain<T> hull = new() { Kind = DomainKind.Number };
        var cut = least ? T.PositiveInfinity : T.NegativeInfinity;
        foreach (var child in children)
        {
            ref readonly var domain = ref _domains[child];
            errors |= domain.Outcomes & Outcomes.Error;
            mustFail |= domain.Outcomes == Outcomes.Error;
            allMayBeNothing &= !domain.MustHaveValue;
            if (domain.MayBePresent)
                Join(ref hull, Domain<T>.Number(domain.Numbers));
            // One that is surely there limits the outcome from the other side.
            if (domain.MustHaveValue)
                cut = least ? (domain.Numbers.High < cut ? domain.Numbers.High : cut) : domain.Numbers.Low > cut ? domain.Numbers.Low : cut;
        }
        hull.Outcomes = mustFail ? Outcomes.Error : hull.Outcomes & Outcomes.Present | errors | (allMayBeNothing ? Outcomes.Absent : 0);
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull)
            && (!cut.IsFinite || SetBounds(n, least ? new(T.NegativeInfinity, cut) : new(cut, T.PositiveInfinity)));
    }
}
