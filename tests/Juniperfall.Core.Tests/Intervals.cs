using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Tests;

/// <summary>An interval in doubles holds the exact number that it stands for, through every operation.</summary>
public class Intervals
{
    private readonly Random _random = new(20261124);

    /// <summary>Numbers as they are met: whole, decimal, thirds, large, tiny, and neighbours of whole multiples.</summary>
    private Exact Number() => _random.Next(7) switch
    {
        0 => _random.Next(-20, 20),
        1 => Exact.Of(_random.Next(-2000, 2000), 100),
        2 => Exact.Of(_random.Next(-100, 100), _random.Next(1, 40)),
        3 => Exact.Of(_random.NextInt64(), _random.Next(1, 1000)),
        4 => Exact.Of(_random.Next(-100, 100), _random.NextInt64(1, long.MaxValue)),
        5 => Exact.Of(_random.Next(-9, 9), 10) + Exact.Of(1, 1_000_000_000_000_000),
        _ => Exact.Of(_random.Next(1, 50), 10).Sqrt(),
    };

    private static void Holds(Interval<DoubleEnd> interval, Exact number, string what)
    {
        Assert.True(interval.Low.ToDouble() is var low && (double.IsNegativeInfinity(low) || ExactOf(low) <= number),
            $"{what}: {interval.Low} is above {number}");
        Assert.True(interval.High.ToDouble() is var high && (double.IsPositiveInfinity(high) || ExactOf(high) >= number),
            $"{what}: {interval.High} is below {number}");
    }

    /// <summary>The double itself, not a decimal near it.</summary>
    private static Exact ExactOf(double value)
    {
        var bits = BitConverter.DoubleToInt64Bits(value);
        var exponent = (int)(bits >> 52 & 0x7FF);
        var mantissa = new System.Numerics.BigInteger((bits & 0xFFFFFFFFFFFFF) | (exponent == 0 ? 0 : 1L << 52));
        exponent = Math.Max(exponent, 1) - 1075;
        var magnitude = exponent >= 0 ? Exact.Of(mantissa << exponent, 1) : Exact.Of(mantissa, System.Numerics.BigInteger.One << -exponent);
        return value < 0 ? -magnitude : magnitude;
    }

    private Interval<DoubleEnd> Wider(Exact number) =>
        Interval<DoubleEnd>.Hull(Interval<DoubleEnd>.Around(number),
            Interval<DoubleEnd>.Around(_random.Next(3) switch { 0 => number, 1 => Number(), _ => number + Exact.Of(_random.Next(-5, 5), 10) }));

    [Fact]
    public void Hold_the_result_of_every_operation_on_what_they_hold()
    {
        for (var i = 0; i < 20_000; i++)
        {
            var (a, b) = (Number(), Number());
            var (x, y) = (Wider(a), Wider(b));
            Holds(x, a, "number");
            Holds(x + y, a + b, "sum");
            Holds(x - y, a - b, "difference");
            Holds(-x, -a, "negative");
            Holds(x * y, a * b, "product");
            Holds(x.Square(), a * a, "square");
            Holds(x.Absolute(), a.Abs(), "absolute");
            if (!b.IsZero)
                Holds(x / y, a / b, "quotient");
            if (a.Sign >= 0)
                Holds(x.Sqrt(), a.Sqrt(), "root");
            var exponent = _random.Next(-3, 5);
            if (exponent >= 0 || !a.IsZero)
                Holds(x.Power(exponent), a.Power(exponent), $"power {exponent}");
            var step = Exact.Of(_random.Next(1, 30), 10);
            var by = Interval<DoubleEnd>.Around(step);
            Holds(x.Rounded(Rounding.Up, by), (a / step).Ceiling() * step, "ceiling");
            Holds(x.Rounded(Rounding.Down, by), (a / step).Floor() * step, "floor");
            Holds(x.Rounded(Rounding.Nearest, by), (a / step).Round() * step, "nearest");
        }
    }

    [Fact]
    public void Of_numbers_that_doubles_hold_are_points_and_stay_so_where_the_result_is_one()
    {
        foreach (var (a, b) in new[] { (3, 4), (1200, 50), (-7, 2), (0, 5) })
        {
            var (x, y) = (Interval<DoubleEnd>.Around(a), Interval<DoubleEnd>.Around(b));
            Assert.All(new[] { x, x + y, x - y, x * y, (x * y) / y, x.Square(), x.Power(3) }, r => Assert.True(r.IsPoint));
        }
        Assert.False((Interval<DoubleEnd>.Around(1) / Interval<DoubleEnd>.Around(3)).IsPoint);
    }
}
