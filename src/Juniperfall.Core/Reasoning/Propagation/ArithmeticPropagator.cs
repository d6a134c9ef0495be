using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Propagators of arithmetic, with bounds; rounding stands apart.</summary>
internal sealed class ArithmeticPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
    {
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.ToNumber:
                return ReviseToNumber(n, c);
            case Operator.LeastOf or Operator.GreatestOf:
                return ReviseExtremeOf(n, c, node.Operator == Operator.LeastOf);
            default:
                var ownError = node.Operator is Operator.Divide or Operator.SquareRoot or Operator.Power ? Outcomes.Error : 0;
                return Strict(n, c, Outcomes.Present | ownError) && (!AllMayHaveValue(c) || ReviseArithmetic(n, node));
        }
    }

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
            default:
                return ReviseSquareRoot(n, c[0]);
        }
    }

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
        if (mayBeZero && !mustBeZero && _store.IsDecided(c[1], out var exactly))
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
        if (mayBeZero && Binds(c, c[1]) && _store.Nodes[c[1]].Variable is not null
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
        if (exponent < 0 && mayBeZero && _store.IsDecided(child, out var exactly))
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
        if (mayFail && !mustFail && _store.IsDecided(child, out var exactly))
            (mayFail, mustFail) = (exactly.Sign < 0, exactly.Sign < 0);
        if (!mayFail && (_domains[child].Outcomes & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        if (mustFail)
            return SetOutcomes(n, ~Outcomes.Present);
        if (!SetBounds(n, numbers.Sqrt()))
            return false;
        return (_domains[n].Outcomes & (Outcomes.Error | Outcomes.Absent)) != 0 || SetBounds(child, new(T.Zero, T.PositiveInfinity));
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
