using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Propagators of rounding to multiples of a step.</summary>
internal sealed class RoundingPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
    {
        var c = node.Children;
        var way = node.Operator switch { Operator.Ceiling => Rounding.Up, Operator.Floor => Rounding.Down, _ => Rounding.Nearest };
        return Strict(n, c, Outcomes.Present | Outcomes.Error) && (!AllMayHaveValue(c) || ReviseRounding(n, way, c, c[0], c[1]));
    }

    private bool ReviseRounding(int n, Rounding way, int[] c, int value, int step)
    {
        var size = Numbers(step);
        if (!size.IsPoint && !T.IsNarrow(size.Low, size.High))
            return true;
        if (!(size.Low > T.Zero))
        {
            if (!_store.IsKnown(step, out var exactly) || exactly.Sign > 0)
                return true;
            return SetOutcomes(n, ~Outcomes.Present);
        }
        if (((_domains[value].Outcomes | _domains[step].Outcomes) & Outcomes.Error) == 0 && !SetOutcomes(n, ~Outcomes.Error))
            return false;
        var rounded = Numbers(value).Rounded(way, size);
        // An end just beside a whole step rounds to the next one; what is decided is rounded exactly.
        if (!rounded.IsPoint && !T.IsNarrow(rounded.Low, rounded.High) && T.IsNarrow(Numbers(value).Low, Numbers(value).High)
            && _store.IsKnown(n, out var number))
            rounded = Interval<T>.Around(number);
        if (!SetBounds(n, rounded))
            return false;
        if (!BindsFrom(n, c, value))
            return true;
        var back = new Interval<T>(Numbers(n).Rounded(Rounding.Up, size).Low, Numbers(n).Rounded(Rounding.Down, size).High);
        var half = size * new Interval<T>(T.Down(Exact.Of(1, 2)), T.Up(Exact.Of(1, 2)));
        return way switch
        {
            Rounding.Up => SetBounds(value, new((back - size).Low, back.High)),
            Rounding.Down => SetBounds(value, new(back.Low, (back + size).High)),
            _ => SetBounds(value, new((back - half).Low, (back + half).High)),
        };
    }
}
