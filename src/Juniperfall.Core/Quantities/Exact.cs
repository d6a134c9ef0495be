using System.Globalization;
using System.Numerics;

namespace Juniperfall.Core.Quantities;

/// <summary>
/// An exact rational number. Always in lowest terms with a positive denominator, so that equal numbers are equal bits.
/// Small numbers live in two longs; anything larger falls back to <see cref="BigInteger"/>, without limits.
/// </summary>
public readonly struct Exact : IEquatable<Exact>, IComparable<Exact>
{
    private sealed record Big(BigInteger Numerator, BigInteger Denominator);

    private readonly long _numerator;
    private readonly long _denominatorLessOne;   // so that default(Exact) is 0
    private readonly Big? _big;

    private Exact(long numerator, long denominator)
    {
        _numerator = numerator;
        _denominatorLessOne = denominator - 1;
        _big = null;
    }

    private Exact(Big big) => _big = big;

    public static readonly Exact Zero = new(0, 1);
    public static readonly Exact One = new(1, 1);

    public BigInteger Numerator => _big?.Numerator ?? _numerator;
    public BigInteger Denominator => _big?.Denominator ?? (_denominatorLessOne + 1);
    public bool IsZero => _big is null && _numerator == 0;
    public bool IsWhole => _big is null ? _denominatorLessOne == 0 : _big.Denominator.IsOne;

    /// <summary>Whether the number needs more than twelve decimals, or more room than a long.</summary>
    public bool IsLong => _big is not null || _denominatorLessOne >= 1_000_000_000_000;
    /// <summary>Whether the numerator or the denominator has more than <see cref="Limits.MostBits"/>.</summary>
    public bool IsTooLarge => _big is not null && (_big.Numerator.GetBitLength() > Limits.MostBits || _big.Denominator.GetBitLength() > Limits.MostBits);

    public int Sign => _big is null ? Math.Sign(_numerator) : _big.Numerator.Sign;

    public static implicit operator Exact(int value) => new(value, 1);
    public static implicit operator Exact(long value) => value == long.MinValue ? Of(value, BigInteger.One) : new(value, 1);

    /// <summary>numerator ÷ denominator, reduced.</summary>
    /// <exception cref="DivideByZeroException">The denominator is zero.</exception>
    public static Exact Of(BigInteger numerator, BigInteger denominator)
    {
        if (denominator.IsZero)
            throw new DivideByZeroException();
        if (denominator.Sign < 0)
            (numerator, denominator) = (-numerator, -denominator);
        var common = BigInteger.GreatestCommonDivisor(numerator, denominator);
        if (!common.IsOne)
            (numerator, denominator) = (numerator / common, denominator / common);
        return numerator > long.MinValue && numerator <= long.MaxValue && denominator <= long.MaxValue
            ? new((long)numerator, (long)denominator)
            : new(new Big(numerator, denominator));
    }

    private static Exact OfWide(Int128 numerator, Int128 denominator)
    {
        if (numerator == 0)
            return Zero;
        if (numerator > long.MinValue && numerator <= long.MaxValue && denominator <= long.MaxValue)
        {
            long n = (long)numerator, d = (long)denominator;
            if (d == 1)
                return new(n, 1);
            var small = (long)Gcd((ulong)Math.Abs(n), (ulong)d);
            return new(n / small, d / small);
        }
        return Of((BigInteger)numerator, (BigInteger)denominator);
    }

    private static ulong Gcd(ulong a, ulong b)
    {
        while (b != 0)
            (a, b) = (b, a % b);
        return a;
    }

    private long D => _denominatorLessOne + 1;
    private static bool Small(Exact a, Exact b) => a._big is null && b._big is null;

    public static Exact operator +(Exact a, Exact b) =>
        !Small(a, b) ? Of(a.Numerator * b.Denominator + b.Numerator * a.Denominator, a.Denominator * b.Denominator)
        : a.D == b.D ? OfWide((Int128)a._numerator + b._numerator, a.D)
        : OfSum((Int128)a._numerator * b.D, (Int128)b._numerator * a.D, (Int128)a.D * b.D);

    private static Exact OfSum(Int128 a, Int128 b, Int128 denominator) =>
        Int128.Abs(a) < Int128.MaxValue / 2 && Int128.Abs(b) < Int128.MaxValue / 2
            ? OfWide(a + b, denominator)
            : Of((BigInteger)a + (BigInteger)b, (BigInteger)denominator);

    public static Exact operator -(Exact a) => a._big is null ? new(-a._numerator, a.D) : Of(-a.Numerator, a.Denominator);
    public static Exact operator -(Exact a, Exact b) => a + -b;

    public static Exact operator *(Exact a, Exact b) =>
        Small(a, b) ? OfWide((Int128)a._numerator * b._numerator, (Int128)a.D * b.D)
        : Of(a.Numerator * b.Numerator, a.Denominator * b.Denominator);

    /// <exception cref="DivideByZeroException"><paramref name="b"/> is zero.</exception>
    public static Exact operator /(Exact a, Exact b)
    {
        if (b.IsZero)
            throw new DivideByZeroException();
        if (!Small(a, b))
            return Of(a.Numerator * b.Denominator, a.Denominator * b.Numerator);
        var (n, d) = ((Int128)a._numerator * b.D, (Int128)a.D * b._numerator);
        return d < 0 ? OfWide(-n, -d) : OfWide(n, d);
    }

    public static bool operator <(Exact a, Exact b) => a.CompareTo(b) < 0;
    public static bool operator >(Exact a, Exact b) => a.CompareTo(b) > 0;
    public static bool operator <=(Exact a, Exact b) => a.CompareTo(b) <= 0;
    public static bool operator >=(Exact a, Exact b) => a.CompareTo(b) >= 0;
    public static bool operator ==(Exact a, Exact b) => a.Equals(b);
    public static bool operator !=(Exact a, Exact b) => !a.Equals(b);

    public int CompareTo(Exact other) =>
        !Small(this, other) ? (Numerator * other.Denominator).CompareTo(other.Numerator * Denominator)
        : D == other.D ? _numerator.CompareTo(other._numerator)
        : ((Int128)_numerator * other.D).CompareTo((Int128)other._numerator * D);

    public bool Equals(Exact other) =>
        Small(this, other) ? _numerator == other._numerator && _denominatorLessOne == other._denominatorLessOne
        : Numerator == other.Numerator && Denominator == other.Denominator;

    public override bool Equals(object? obj) => obj is Exact other && Equals(other);
    public override int GetHashCode() => _big is null ? HashCode.Combine(_numerator, _denominatorLessOne) : HashCode.Combine(_big.Numerator, _big.Denominator);

    public static Exact Min(Exact a, Exact b) => a <= b ? a : b;
    public static Exact Max(Exact a, Exact b) => a >= b ? a : b;
    public Exact Abs() => Sign < 0 ? -this : this;

    /// <summary>The greatest whole number not above this one.</summary>
    public Exact Floor()
    {
        if (IsWhole)
            return this;
        if (_big is null)
            return new(_numerator >= 0 ? _numerator / D : -(-_numerator / D) - 1, 1);
        var quotient = BigInteger.DivRem(Numerator, Denominator, out _);
        return Of(Sign < 0 ? quotient - 1 : quotient, BigInteger.One);
    }

    /// <summary>The least whole number not below this one.</summary>
    public Exact Ceiling() => -(-this).Floor();

    /// <summary>The nearest whole number; halves go away from zero, as the trade expects of a bill of materials.</summary>
    public Exact Round() => Sign < 0 ? -(-this).Round() : (this + Of(1, 2)).Floor();

    /// <summary>The square root, rounded half to even at 28 significant digits.</summary>
    /// <exception cref="ArithmeticException">The number is negative.</exception>
    public Exact Sqrt()
    {
        if (Sign < 0)
            throw new ArithmeticException("The square root of a negative number does not exist.");
        if (IsZero)
            return Zero;
        // Scale so that the integer root has 28 digits, then decide the last digit by the exact remainder.
        const int digits = 28;
        var magnitude = (int)Math.Floor((BigInteger.Log10(Numerator) - BigInteger.Log10(Denominator)) / 2);
        for (var scale = digits - 1 - magnitude; ; scale--)
        {
            var factor = BigInteger.Pow(10, Math.Abs(scale));
            var scaled = scale >= 0 ? this * Of(factor * factor, 1) : this / Of(factor * factor, 1);
            var whole = scaled.Floor().Numerator;
            var root = IntegerRoot(whole);
            if (root >= BigInteger.Pow(10, digits))
                continue;
            var half = Of(2 * root + 1, 2);
            var comparison = scaled.CompareTo(half * half);
            if (comparison > 0 || (comparison == 0 && !root.IsEven))
                root += 1;
            return scale >= 0 ? Of(root, factor) : Of(root * factor, 1);
        }
    }

    private static BigInteger IntegerRoot(BigInteger n)
    {
        if (n.IsZero)
            return n;
        var x = BigInteger.One << (int)((n.GetBitLength() + 1) / 2);
        while (true)
        {
            var next = (x + n / x) >> 1;
            if (next >= x)
                return x;
            x = next;
        }
    }

    /// <summary>This number to a whole power.</summary>
    public Exact Power(int exponent) => exponent < 0
        ? One / Power(-exponent)
        : Of(BigInteger.Pow(Numerator, exponent), BigInteger.Pow(Denominator, exponent));

    /// <summary>The longest number text accepted by <see cref="TryParse"/>; longer ones are refused, not truncated.</summary>
    public const int MaximumDigits = 200;

    /// <summary>Reads a decimal ("12", "-0.35") or a fraction ("1/3"), with a point and never a comma.</summary>
    public static bool TryParse(string? text, out Exact value)
    {
        value = Zero;
        if (string.IsNullOrWhiteSpace(text) || text.Length > MaximumDigits)
            return false;
        text = text.Trim();
        var slash = text.IndexOf('/');
        if (slash >= 0)
        {
            if (!TryParse(text[..slash], out var n) || !TryParse(text[(slash + 1)..], out var d) || d.IsZero)
                return false;
            value = n / d;
            return true;
        }
        var start = text[0] is '-' or '+' ? 1 : 0;
        var point = text.IndexOf('.');
        var digits = point < 0 ? text[start..] : text[start..point] + text[(point + 1)..];
        if (digits.Length == 0 || !digits.All(char.IsAsciiDigit) || point == start || point == text.Length - 1)
            return false;
        var magnitude = BigInteger.Parse(digits, CultureInfo.InvariantCulture);
        value = Of(text[0] == '-' ? -magnitude : magnitude, BigInteger.Pow(10, point < 0 ? 0 : text.Length - point - 1));
        return true;
    }

    /// <exception cref="FormatException">The text is not a number.</exception>
    public static Exact Parse(string text) =>
        TryParse(text, out var value) ? value : throw new FormatException($"“{text}” is not a number.");

    /// <summary>The exact text: a decimal where it terminates, otherwise a fraction. <see cref="Parse"/> reads it back.</summary>
    public override string ToString()
    {
        var (twos, fives, rest) = (0, 0, Denominator);
        while (rest.IsEven) { rest >>= 1; twos++; }
        while (rest % 5 == 0) { rest /= 5; fives++; }
        if (!rest.IsOne)
            return $"{Numerator}/{Denominator}";
        return Decimal(Math.Max(twos, fives));
    }

    /// <summary>The number rounded to at most <paramref name="places"/> decimals, trailing zeros dropped: for people, not for files.</summary>
    public string ToDisplay(int places = 3) => RoundedTo(places).ToString();

    /// <summary>The number rounded to <paramref name="places"/> decimals, all of them written, as money is.</summary>
    public string ToFixed(int places) => RoundedTo(places).Decimal(places);

    private Exact RoundedTo(int places)
    {
        var scale = Of(BigInteger.Pow(10, places), 1);
        return (this * scale).Round() / scale;
    }

    private string Decimal(int places)
    {
        var scaled = BigInteger.Abs(Numerator) * BigInteger.Pow(10, places) / Denominator;
        var text = scaled.ToString(CultureInfo.InvariantCulture).PadLeft(places + 1, '0');
        var sign = Sign < 0 ? "-" : "";
        return places == 0 ? sign + text : $"{sign}{text[..^places]}.{text[^places..]}";
    }

    public double ToDouble() => _big is null
        ? (double)_numerator / D : Math.Exp(BigInteger.Log(BigInteger.Abs(Numerator)) - BigInteger.Log(Denominator)) * Sign;
}
