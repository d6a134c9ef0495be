using CsCheck;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

namespace Juniperfall.Core.Tests;

/// <summary>Exact numbers and units, and what expressions over constants come to.</summary>
public class Quantities
{
    private static readonly BoundModel Empty =
        new(new() { Id = "m", Code = "M", Root = "a", Assemblies = [new() { Id = "a", Name = "a" }] }, LibraryFacts.Empty);

    private static Value Evaluate(string text)
    {
        var result = Empty.Check(Empty.Document.Assemblies[0], text, null);
        Assert.True(result.Expression is not null, $"{text}: {string.Join(" ", result.Diagnostics.Select(d => d.Message))}");
        return new Evaluator(Empty, new Dictionary<string, Value>()).Evaluate(result.Expression, "");
    }

    [Theory]
    [InlineData("1959.2", "1959.20")]
    [InlineData("0", "0.00")]
    [InlineData("-0.005", "-0.01")]
    [InlineData("2/3", "0.67")]
    [InlineData("1234567890123456789.994", "1234567890123456789.99")]
    public void Money_is_written_with_its_cents(string number, string text) => Assert.Equal(text, Exact.Parse(number).ToFixed(2));

    [Theory]
    [InlineData("ceil(4.2 m / 0.6 m) = 7")]
    [InlineData("0.1 + 0.2 = 0.3")]
    [InlineData("1 / 3 * 3 = 1")]
    [InlineData("1 [in_i] = 25.4 mm")]
    [InlineData("-20 Cel + 5 K = -15 Cel")]
    [InlineData("30 Cel - -20 Cel = 50 K")]
    [InlineData("2 kW * 3 h = 21.6 MJ")]
    [InlineData("0.22 W/(m2.K) * 10 m2 * 24 K = 52.8 W")]
    [InlineData("sqrt(2 m2) = 1.414213562373095048801688724 m")]
    [InlineData("sqrt(1/9) = 1/3 or sqrt(0.25) = 0.5")]
    [InlineData("round(2.5) = 3 and round(-2.5) = -3 and floor(-0.5) = -1 and ceil(-0.5) = 0")]
    [InlineData("ceil(1340 mm, 50 mm) = 1.35 m")]
    [InlineData("150 g <= 0.15 kg")]
    [InlineData("19 % * 200 = 38")]
    [InlineData("2 ^ 10 = 1024 and 2 ^ -1 = 0.5")]
    [InlineData("at most 1 of (1 > 2, 2 > 1, 3 > 4)")]
    [InlineData("if 1 = 1 then 2 between 1 and 3 else no")]
    public void Arithmetic_is_exact_and_carries_units(string statement) => Assert.Equal(Value.Of(true), Evaluate(statement));

    private static readonly Gen<Exact> Numbers = Gen
        .Select(Gen.Long, Gen.Long[1, long.MaxValue], Gen.Int[0, 3], (n, d, power) => Exact.Of(n, d).Power(power + 1));

    [Fact]
    public void Numbers_obey_the_laws_of_a_field_beyond_the_size_of_a_long() => Gen.Select(Numbers, Numbers, Numbers).Sample((a, b, c) =>
        (a + b) * c == a * c + b * c && a - b + b == a && (b.IsZero || a / b * b == a) && a.CompareTo(b) == (a - b).Sign, seed: "0000KjDzkP3z", iter: 2000);

    [Fact]
    public void Text_and_rounding_agree_with_the_number() => Numbers.Sample(a =>
        Exact.Parse(a.ToString()) == a && a.Floor() <= a && a < a.Floor() + 1 && a.Ceiling() - a < 1
            && (a.Round() - a).Abs() <= Exact.Of(1, 2), seed: "0000KjDzkP3z", iter: 2000);

    [Fact]
    public void A_square_root_has_28_digits_rounded_to_the_nearest() => Gen.Long[1, long.MaxValue].Sample(n =>
    {
        var root = ((Exact)n).Sqrt();
        var digit = ((Exact)10).Power((int)Math.Floor(Math.Log10(root.ToDouble())) - 27);
        return root == 0 || ((root - digit / 2) * (root - digit / 2) <= n && n <= (root + digit / 2) * (root + digit / 2));
    }, seed: "0000KjDzkP3z", iter: 500);

    [Theory]
    [InlineData("12.5", "25/2")]
    [InlineData("-0.35", "-7/20")]
    [InlineData("1,5", null)]
    [InlineData("1e5", null)]
    [InlineData("1/0", null)]
    [InlineData(".5", null)]
    [InlineData("", null)]
    public void Only_plain_decimals_and_fractions_are_numbers(string text, string? fraction)
    {
        Assert.Equal(fraction is not null, Exact.TryParse(text, out var number));
        if (fraction is not null)
            Assert.Equal(fraction, $"{number.Numerator}/{number.Denominator}");
    }
}
