using System.Numerics;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning.Numbers;

/// <summary>
/// The ends of intervals of numbers, possibly infinite. Operations come in pairs, rounded down and up, so that an interval
/// surely holds what it stands for (Moore, “Interval Analysis”, 1966). Search runs on doubles, the figures that people
/// read on exact numbers; the propagators are written once for both.
/// </summary>
internal interface IEnd<T> where T : struct, IEnd<T>
{
    static abstract T NegativeInfinity { get; }
    static abstract T PositiveInfinity { get; }
    static abstract T Zero { get; }

    /// <summary>The end at or below, and at or above, an exact number.</summary>
    static abstract T Down(in Exact number);
    static abstract T Up(in Exact number);

    /// <summary>A whole number of at most 53 bits, exactly.</summary>
    static abstract T Of(long number);

    static abstract bool operator <(T a, T b);
    static abstract bool operator >(T a, T b);
    static abstract bool operator <=(T a, T b);
    static abstract bool operator >=(T a, T b);
    static abstract bool operator ==(T a, T b);
    static abstract bool operator !=(T a, T b);
    static abstract T operator -(T a);
    static abstract T AddDown(T a, T b);
    static abstract T AddUp(T a, T b);

    /// <summary>Zero times infinity is zero: the infinite end is not reached.</summary>
    static abstract T MultiplyDown(T a, T b);
    static abstract T MultiplyUp(T a, T b);
    static abstract T DivideDown(T a, T b);
    static abstract T DivideUp(T a, T b);
    static abstract T SqrtDown(T a);
    static abstract T SqrtUp(T a);
    static abstract T Floor(T a);
    static abstract T Ceiling(T a);

    /// <summary>The nearest whole number; halves go away from zero.</summary>
    static abstract T Round(T a);

    /// <summary>An end that is cheaper to go on with, at or beyond the given one.</summary>
    static abstract T Shorten(T a, bool up);

    bool IsFinite { get; }
    int Sign { get; }
    double ToDouble();

    /// <summary>Whether an interval is so narrow that only its ends' rounding may keep it from being a point.</summary>
    static abstract bool IsNarrow(T low, T high);
}

/// <summary>An end in floating point; operations are rounded outward where their remainder says that they were not exact.</summary>
internal readonly struct DoubleEnd(double value) : IEnd<DoubleEnd>
{
    private readonly double _value = value;

    public static DoubleEnd NegativeInfinity => new(double.NegativeInfinity);
    public static DoubleEnd PositiveInfinity => new(double.PositiveInfinity);
    public static DoubleEnd Zero => default;
    public static DoubleEnd Of(long number) => new(number);

    // Two longs and their quotient are each rounded once; longer numbers go by logarithms, which lose more.
    private static double SlackOf(in Exact number, double near) => number.IsWhole && Math.Abs(near) < 1L << 53 ? 0
        : Math.Abs(near) * (number.IsLong ? 1e-11 : 1e-15) + Tiny;

    public static DoubleEnd Down(in Exact number)
    {
        var near = number.ToDouble();
        return new(near == double.PositiveInfinity ? double.MaxValue : near - SlackOf(number, near));
    }

    public static DoubleEnd Up(in Exact number)
    {
        var near = number.ToDouble();
        return new(near == double.NegativeInfinity ? double.MinValue : near + SlackOf(number, near));
    }

    public static bool operator <(DoubleEnd a, DoubleEnd b) => a._value < b._value;
    public static bool operator >(DoubleEnd a, DoubleEnd b) => a._value > b._value;
    public static bool operator <=(DoubleEnd a, DoubleEnd b) => a._value <= b._value;
    public static bool operator >=(DoubleEnd a, DoubleEnd b) => a._value >= b._value;
    public static bool operator ==(DoubleEnd a, DoubleEnd b) => a._value == b._value;
    public static bool operator !=(DoubleEnd a, DoubleEnd b) => a._value != b._value;
    public static DoubleEnd operator -(DoubleEnd a) => new(-a._value);

    /// <summary>What a rounded sum leaves out, exactly (Knuth’s two-sum).</summary>
    private static double RestOfSum(double a, double b, double sum)
    {
        var part = sum - a;
        return (a - (sum - part)) + (b - part);
    }

    public static DoubleEnd AddDown(DoubleEnd a, DoubleEnd b)
    {
        var sum = a._value + b._value;
        return !double.IsFinite(sum) ? new(BelowInfinity(sum, a, b)) : new(RestOfSum(a._value, b._value, sum) < 0 ? Math.BitDecrement(sum) : sum);
    }

    public static DoubleEnd AddUp(DoubleEnd a, DoubleEnd b) => -AddDown(-a, -b);

    // An overflow is not infinite; neither is a NaN, which only mixed infinities give.
    private static double BelowInfinity(double result, DoubleEnd a, DoubleEnd b) =>
        double.IsNaN(result) ? double.NegativeInfinity : result > 0 && a.IsFinite && b.IsFinite ? double.MaxValue : result;

    private const double Tiny = 1e-280;   // below, remainders are no longer exact

    public static DoubleEnd MultiplyDown(DoubleEnd a, DoubleEnd b)
    {
        if (a._value == 0 || b._value == 0)
            return Zero;
        var product = a._value * b._value;
        if (!double.IsFinite(product))
            return new(BelowInfinity(product, a, b));
        return new(Math.Abs(product) < Tiny || Math.FusedMultiplyAdd(a._value, b._value, -product) < 0 ? Math.BitDecrement(product) : product);
    }

    public static DoubleEnd MultiplyUp(DoubleEnd a, DoubleEnd b) => -MultiplyDown(-a, b);

    public static DoubleEnd DivideDown(DoubleEnd a, DoubleEnd b)
    {
        if (a._value == 0)
            return Zero;
        var quotient = a._value / b._value;
        if (!double.IsFinite(quotient))
            return new(BelowInfinity(quotient, a, b));
        if (!b.IsFinite)
            return new(quotient < 0 || (quotient == 0 && Math.Sign(a._value) != Math.Sign(b._value)) ? -Tiny : 0);
        // The exact quotient less the rounded one has the sign of the remainder over the divisor.
        var remainder = -Math.FusedMultiplyAdd(quotient, b._value, -a._value);
        return new(Math.Abs(quotient) < Tiny || remainder * Math.Sign(b._value) < 0 ? Math.BitDecrement(quotient) : quotient);
    }

    public static DoubleEnd DivideUp(DoubleEnd a, DoubleEnd b) => -DivideDown(-a, b);

    // The exact root is itself rounded at 28 digits, far finer than a double.
    public static DoubleEnd SqrtDown(DoubleEnd a) => new(Math.Max(0, Math.BitDecrement(Math.Sqrt(a._value))));
    public static DoubleEnd SqrtUp(DoubleEnd a) => new(a.IsFinite ? Math.BitIncrement(Math.Sqrt(a._value)) : a._value);
    public static DoubleEnd Floor(DoubleEnd a) => new(Math.Floor(a._value));
    public static DoubleEnd Ceiling(DoubleEnd a) => new(Math.Ceiling(a._value));
    public static DoubleEnd Round(DoubleEnd a) => new(Math.Round(a._value, MidpointRounding.AwayFromZero));
    public static DoubleEnd Shorten(DoubleEnd a, bool up) => a;
    public static bool IsNarrow(DoubleEnd low, DoubleEnd high) =>
        high._value - low._value is var width
            && (width <= 1e-12 || (width < double.PositiveInfinity && width <= 1e-9 * Math.Max(Math.Abs(low._value), Math.Abs(high._value))));

    public bool IsFinite => double.IsFinite(_value);
    public int Sign => Math.Sign(_value);
    public double ToDouble() => _value;
    public override bool Equals(object? obj) => obj is DoubleEnd other && other == this;
    public override int GetHashCode() => _value.GetHashCode();
    public override string ToString() => _value.ToString(System.Globalization.CultureInfo.InvariantCulture);
}

/// <summary>An end in exact arithmetic: down and up are the same.</summary>
internal readonly struct ExactEnd : IEnd<ExactEnd>
{
    private readonly Exact _value;
    private readonly sbyte _infinite;

    private ExactEnd(Exact value, sbyte infinite = 0) => (_value, _infinite) = (value, infinite);

    public static ExactEnd NegativeInfinity => new(Exact.Zero, -1);
    public static ExactEnd PositiveInfinity => new(Exact.Zero, 1);
    public static ExactEnd Zero => default;
    public static ExactEnd Of(long number) => new(number);
    public static ExactEnd Down(in Exact number) => new(number);
    public static ExactEnd Up(in Exact number) => new(number);

    private static int Compare(in ExactEnd a, in ExactEnd b) =>
        a._infinite != 0 || b._infinite != 0 ? a._infinite.CompareTo(b._infinite) : a._value.CompareTo(b._value);

    public static bool operator <(ExactEnd a, ExactEnd b) => Compare(a, b) < 0;
    public static bool operator >(ExactEnd a, ExactEnd b) => Compare(a, b) > 0;
    public static bool operator <=(ExactEnd a, ExactEnd b) => Compare(a, b) <= 0;
    public static bool operator >=(ExactEnd a, ExactEnd b) => Compare(a, b) >= 0;
    public static bool operator ==(ExactEnd a, ExactEnd b) => Compare(a, b) == 0;
    public static bool operator !=(ExactEnd a, ExactEnd b) => Compare(a, b) != 0;
    public static ExactEnd operator -(ExactEnd a) => new(-a._value, (sbyte)-a._infinite);

    private static ExactEnd Infinite(int sign) => sign < 0 ? NegativeInfinity : PositiveInfinity;

    private static readonly Exact Largest = Exact.Of(System.Numerics.BigInteger.One << (Limits.MostBits / 2), 1);

    /// <summary>A lower end that is not too large: the number itself, or the nearest below it that can be computed with.</summary>
    private static ExactEnd CutDown(Exact number) => !number.IsTooLarge ? new(number)
        : number > Largest ? new(Largest) : number < -Largest ? NegativeInfinity : new((number * Largest).Floor() / Largest);

    public static ExactEnd AddDown(ExactEnd a, ExactEnd b) =>
        a._infinite == 0 && b._infinite == 0 ? CutDown(a._value + b._value) : a._infinite < 0 || b._infinite < 0 ? NegativeInfinity : PositiveInfinity;

    public static ExactEnd AddUp(ExactEnd a, ExactEnd b) => -AddDown(-a, -b);

    public static ExactEnd MultiplyDown(ExactEnd a, ExactEnd b) =>
        a._infinite == 0 && b._infinite == 0 ? CutDown(a._value * b._value) : a.Sign * b.Sign == 0 ? Zero : Infinite(a.Sign * b.Sign);

    public static ExactEnd MultiplyUp(ExactEnd a, ExactEnd b) => -MultiplyDown(-a, b);

    public static ExactEnd DivideDown(ExactEnd a, ExactEnd b) =>
        b._infinite != 0 ? Zero : a._infinite == 0 ? CutDown(a._value / b._value) : Infinite(a.Sign * b.Sign);

    public static ExactEnd DivideUp(ExactEnd a, ExactEnd b) => -DivideDown(-a, b);
    public static ExactEnd SqrtDown(ExactEnd a) => a._infinite == 0 ? new(a._value.Sqrt()) : a;
    public static ExactEnd SqrtUp(ExactEnd a) => SqrtDown(a);
    public static ExactEnd Floor(ExactEnd a) => a._infinite == 0 ? new(a._value.Floor()) : a;
    public static ExactEnd Ceiling(ExactEnd a) => a._infinite == 0 ? new(a._value.Ceiling()) : a;
    public static ExactEnd Round(ExactEnd a) => a._infinite == 0 ? new(a._value.Round()) : a;

    private static readonly Exact Fine = Exact.Parse("1000000000");

    public static ExactEnd Shorten(ExactEnd a, bool up) =>
        a._infinite != 0 || !a._value.IsLong ? a : new((up ? (a._value * Fine).Ceiling() : (a._value * Fine).Floor()) / Fine);

    public static bool IsNarrow(ExactEnd low, ExactEnd high) => false;

    public bool IsFinite => _infinite == 0;
    public int Sign => _infinite != 0 ? _infinite : _value.Sign;
    public double ToDouble() => _infinite switch { 0 => _value.ToDouble(), < 0 => double.NegativeInfinity, _ => double.PositiveInfinity };

    /// <summary>The number; null where the end is infinite.</summary>
    public Exact? Number => _infinite == 0 ? _value : null;
    public override bool Equals(object? obj) => obj is ExactEnd other && other == this;
    public override int GetHashCode() => HashCode.Combine(_value, _infinite);
    public override string ToString() => Number?.ToString() ?? (_infinite < 0 ? "-∞" : "∞");
}
