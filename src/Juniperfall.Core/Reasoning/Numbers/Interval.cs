namespace Juniperfall.Core.Reasoning.Numbers;

/// <summary>Which whole number one is rounded to; the nearest one goes away from zero where two are as near.</summary>
internal enum Rounding { Up, Down, Nearest }

/// <summary>An interval of numbers that holds all that its operands allow.</summary>
internal readonly struct Interval<T>(T low, T high) where T : struct, IEnd<T>
{
    public readonly T Low = low, High = high;

    public static Interval<T> All => new(T.NegativeInfinity, T.PositiveInfinity);
    public bool IsPoint => Low == High;
    public bool HoldsZero => Low <= T.Zero && High >= T.Zero;

    private static T Min(T a, T b) => a < b ? a : b;
    private static T Max(T a, T b) => a > b ? a : b;

    public static Interval<T> operator +(Interval<T> a, Interval<T> b) => new(T.AddDown(a.Low, b.Low), T.AddUp(a.High, b.High));
    public static Interval<T> operator -(Interval<T> a) => new(-a.High, -a.Low);
    public static Interval<T> operator -(Interval<T> a, Interval<T> b) => a + -b;

    public static Interval<T> operator *(Interval<T> a, Interval<T> b)
    {
        if (a.Low >= T.Zero && b.Low >= T.Zero)
            return new(T.MultiplyDown(a.Low, b.Low), T.MultiplyUp(a.High, b.High));
        return new(Min(Min(T.MultiplyDown(a.Low, b.Low), T.MultiplyDown(a.Low, b.High)), Min(T.MultiplyDown(a.High, b.Low), T.MultiplyDown(a.High, b.High))),
            Max(Max(T.MultiplyUp(a.Low, b.Low), T.MultiplyUp(a.Low, b.High)), Max(T.MultiplyUp(a.High, b.Low), T.MultiplyUp(a.High, b.High))));
    }

    /// <summary>The quotients for divisors other than zero.</summary>
    public static Interval<T> operator /(Interval<T> a, Interval<T> b)
    {
        if (b.High < T.Zero)
            return -a / -b;
        if (b.Low > T.Zero)
            return new(T.DivideDown(a.Low, a.Low >= T.Zero ? b.High : b.Low), T.DivideUp(a.High, a.High >= T.Zero ? b.Low : b.High));
        // A divisor from zero upwards still gives the side that is away from zero.
        return b.Low >= T.Zero && b.High > T.Zero && a.Low >= T.Zero ? new(T.DivideDown(a.Low, b.High), T.PositiveInfinity) : All;
    }

    public Interval<T> Square() => HoldsZero ? new(T.Zero, Max(T.MultiplyUp(Low, Low), T.MultiplyUp(High, High)))
        : new(Min(T.MultiplyDown(Low, Low), T.MultiplyDown(High, High)), Max(T.MultiplyUp(Low, Low), T.MultiplyUp(High, High)));

    public Interval<T> Absolute() => Low >= T.Zero ? this : High <= T.Zero ? -this : new(T.Zero, Max(-Low, High));

    /// <summary>To a whole power; below zero only for what does not hold zero.</summary>
    public Interval<T> Power(int exponent)
    {
        if (exponent < 0)
            return Power(-exponent) is var power && power.HoldsZero ? All : new Interval<T>(T.Of(1), T.Of(1)) / power;
        var (low, high) = (EndPower(Low, exponent), EndPower(High, exponent));
        return exponent > 0 && exponent % 2 == 0 && HoldsZero ? new(T.Zero, Max(low.High, high.High)) : new(Min(low.Low, high.Low), Max(low.High, high.High));
    }

    private static Interval<T> EndPower(T end, int exponent)
    {
        var power = new Interval<T>(T.Of(1), T.Of(1));
        for (var i = 0; i < exponent; i++)
            power *= new Interval<T>(end, end);
        return power;
    }

    /// <summary>The roots of what is not negative.</summary>
    public Interval<T> Sqrt() => new(Low > T.Zero ? T.SqrtDown(Low) : T.Zero, High > T.Zero ? T.SqrtUp(High) : T.Zero);

    /// <summary>Rounded to a multiple of a step above zero.</summary>
    public Interval<T> Rounded(Rounding way, Interval<T> step)
    {
        var steps = this / step;
        return new Interval<T>(Whole(steps.Low, way), Whole(steps.High, way)) * step;
    }

    private static T Whole(T steps, Rounding way) => way switch { Rounding.Up => T.Ceiling(steps), Rounding.Down => T.Floor(steps), _ => T.Round(steps) };

    public static Interval<T> Least(Interval<T> a, Interval<T> b) => new(Min(a.Low, b.Low), Min(a.High, b.High));
    public static Interval<T> Greatest(Interval<T> a, Interval<T> b) => new(Max(a.Low, b.Low), Max(a.High, b.High));
    public static Interval<T> Hull(Interval<T> a, Interval<T> b) => new(Min(a.Low, b.Low), Max(a.High, b.High));
    public static bool Overlap(Interval<T> a, Interval<T> b) => a.Low <= b.High && b.Low <= a.High;

    /// <summary>The smallest interval known to hold an exact number.</summary>
    public static Interval<T> Around(in Quantities.Exact number) => new(T.Down(number), T.Up(number));
}
