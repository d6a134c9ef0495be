using System.Collections.Immutable;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Values that are not to be had for a time, and things that take turns over time.</summary>
public class PausedValues
{
    [Fact]
    public void Without_paused_values_answers_are_those_of_the_model_whose_lists_lack_them()
    {
        var narrowed = 0;
        foreach (var c in RandomCase.Of(2026))
        {
            var random = new Random(c.Seed);
            // Values that inputs are recoded to take part in what stands above them; here those count that people choose.
            var values = c.Model.Document.Lists[0].Values.OrderBy(_ => random.Next()).Take(random.Next(1, 3)).Select(v => v.Id).ToHashSet();
            var paused = new BoundModel(c.Model.Document.WithPaused(values.ToDictionary(v => v, _ => "It is out.")), RandomModels.Facts);
            var standing = c.Picks.Where(p => p.Value.Kind != ValueKind.Choice || !values.Contains(p.Value.Text!)).ToImmutableArray();
            var answer = new Reasoner(paused).Answer(new(standing), CancellationToken.None);
            // Every configuration that has none of them is left, and no other one.
            var left = c.With(standing).Where(x => x.Values.All(s => !s.Applies || s.Value.Kind != ValueKind.Choice
                || !values.Contains(s.Value.Text!))).ToList();
            var members = c.Model.Index.Rows.Values.OfType<AttributeRow>().Where(a => a.Kind == AttributeKind.Several).ToList();
            if (members.Count > 0)
                continue;
            Assert.Equal(left.Count > 0, answer.Valid);
            narrowed += left.Count < c.With(standing).Count ? 1 : 0;
            foreach (var attribute in answer.Valid == true ? answer.Attributes : [])
                if (attribute.Available is { Listed: true } available && attribute.State != AttributeState.Picked)
                    Assert.Equal(left.Where(x => x[attribute.Path].Applies).Select(x => x[attribute.Path].Value).Where(v => !v.IsNothing).ToHashSet(),
                        available.Values.ToHashSet());
        }
        Assert.True(narrowed > 10, $"{narrowed}");
    }

    private static ListValue Of(string code, string? from, string? to) => new()
    {
        Id = code,
        Code = code,
        From = from is null ? null : DateOnly.Parse(from, System.Globalization.CultureInfo.InvariantCulture),
        To = to is null ? null : DateOnly.Parse(to, System.Globalization.CultureInfo.InvariantCulture),
    };

    [Theory]
    [InlineData("a:- 2027-01-31;b:2027-02-01 -", "")]
    [InlineData("a:- 2027-01-31;b:2027-02-11 -", "gap 2027-02-01 2027-02-10")]
    [InlineData("a:2027-03-01 2027-03-31;b:2027-01-01 2027-01-31", "gap 2027-02-01 2027-02-28,gap 2027-04-01 ")]
    [InlineData("a:- 2027-01-31;b:2026-01-01 2026-02-01;c:2027-01-15 2027-05-31", "gap 2027-06-01 ")]
    [InlineData("a:- -;b:2027-01-01 2027-02-01", "")]
    public void Days_without_any_value_are_gaps_of_the_list(string values, string gaps)
    {
        var list = new ValueList
        {
            Id = "l",
            Name = "l",
            Values = [.. values.Split(';').Select(v => v.Split(':', ' ') is [var code, var from, var to]
                ? Of(code, from == "-" ? null : from, to == "-" ? null : to) : throw new ArgumentException(v))],
        };
        var model = SmallModels.Of(Assembly("room", YesNo("lit"))).Document with { Lists = [list] };
        Assert.Equal(gaps, string.Join(",", Successions.Of(model)
            .Select(s => $"{s.Kind.ToString().ToLowerInvariant()} {s.From:yyyy-MM-dd} {s.To:yyyy-MM-dd}")));
        // Day by day, around all that begins or ends.
        for (var day = new DateOnly(2026, 12, 1); day < new DateOnly(2027, 8, 1); day = day.AddDays(1))
            if (day >= (list.Values.Min(v => v.From) ?? DateOnly.MinValue) || list.Values.Any(v => v.From is null))
                Assert.Equal(!list.Values.Any(v => new Effectivity(null, day).Includes(v)),
                    Successions.Of(model).Any(s => s.From <= day && (s.To is null || day <= s.To)));
    }
}
