using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Tests;

/// <summary>UCUM codes: what they mean, which are none, and where one ends in a text.</summary>
public class UnitsByTheirCodes
{
    [Theory]
    [InlineData("mm", "m", "1000", "1")]
    [InlineData("[in_i]", "mm", "10", "254")]
    [InlineData("[ft_i]", "[in_i]", "1", "12")]
    [InlineData("[lb_av]", "g", "1", "453.59237")]
    [InlineData("L", "cm3", "1", "1000")]
    [InlineData("hL", "L", "1", "100")]
    [InlineData("kW.h", "MJ", "1", "3.6")]
    [InlineData("kJ/(kg.K)", "J/(g.K)", "2.1", "2.1")]
    [InlineData("W/(m2.K)", "mW/(cm2.K)", "1", "0.1")]
    [InlineData("kg/d", "g/h", "24", "1000")]
    [InlineData("bar", "Pa", "1", "100000")]
    [InlineData("m3/h", "L/min", "6", "100")]
    [InlineData("m2.s-1", "m2/s", "7", "7")]
    [InlineData("wk", "d", "2", "14")]
    [InlineData("%", "", "19", "0.19")]
    [InlineData("um", "nm", "1", "1000")]
    [InlineData("t", "kg", "0.5", "500")]
    [InlineData("Cel", "Cel", "-18", "-18")]
    public void Numbers_are_converted_exactly_and_back(string from, string to, string number, string expected)
    {
        var (one, other) = (Unit.Parse(from), Unit.Parse(to));
        Assert.Equal(one.Dimension, other.Dimension);
        Assert.Equal(Exact.Parse(expected), other.FromBase(one.ToBase(Exact.Parse(number))));
        Assert.Equal(Exact.Parse(number), one.FromBase(other.ToBase(Exact.Parse(expected))));
    }

    [Theory]
    [InlineData("MM")]
    [InlineData("KG")]
    [InlineData("kmin")]
    [InlineData("m/")]
    [InlineData("/m")]
    [InlineData("(m")]
    [InlineData("m)")]
    [InlineData("m 2")]
    [InlineData("[in]")]
    [InlineData("m--2")]
    [InlineData("Cel/m")]
    [InlineData("²")]
    [InlineData("m123")]
    [InlineData("((((((((((m))))))))))")]
    public void Case_matters_and_what_is_no_code_is_none(string code)
    {
        Assert.Null(Unit.TryParse(code));
        Assert.Throws<FormatException>(() => Unit.Parse(code));
    }

    [Theory]
    [InlineData("5 m2 + 3", 2, "m2")]
    [InlineData("5 mm", 2, "mm")]
    [InlineData("5 min", 2, "min")]
    [InlineData("5 metres", 2, "")]
    [InlineData("5 W/(m2.K)*2", 2, "W/(m2.K)")]
    [InlineData("(5 m)", 3, "m")]
    [InlineData("5 m/2", 2, "m")]
    [InlineData("5 [in_i]>2", 2, "[in_i]")]
    [InlineData("5 %)", 2, "%")]
    [InlineData("5 ", 2, "")]
    public void The_longest_code_after_a_number_is_its_unit(string text, int start, string expected) =>
        Assert.Equal(expected, text.Substring(start, Unit.LongestAt(text, start)));

    [Theory]
    [InlineData("m2", "m²")]
    [InlineData("W/(m2.K)", "W/(m².K)")]
    [InlineData("Cel", "°C")]
    [InlineData("", "")]
    public void Codes_are_shown_as_people_write_them(string code, string shown) => Assert.Equal(shown, Unit.Readable(code));

    [Fact]
    public void Every_unit_that_is_offered_is_one_and_every_dimension_can_be_shown()
    {
        foreach (var code in Unit.Common)
        {
            var unit = Unit.Parse(code);
            Assert.Equal(unit.Dimension, Unit.ForDisplay(unit.Dimension).Dimension);
            Assert.False(string.IsNullOrWhiteSpace(unit.Dimension.Describe()));
        }
    }
}
