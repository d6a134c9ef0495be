using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>
/// What is told of an answer while it is worked out is never taken back: what can be had can be had in the answer, what is neither that nor
/// undecided cannot, and each part says at least what the one before it said.
/// </summary>
public class PartsOfAnswers
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 400 : 40;

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Parts_of_an_answer_come_to_the_whole_and_never_say_more_than_it(bool withNumber)
    {
        var (undecided, parts) = (0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var model = new BoundModel(WithAndWithoutNumbers.Model(seed, withNumber), RandomModels.Facts);
            var (watched, alone) = (new Reasoner(model), new Reasoner(model));
            var random = new Random(seed);
            var picks = new List<Pick>();
            for (var step = 0; step < 8; step++)
            {
                var told = new List<PartialAnswer>();
                var whole = watched.Answer(new([.. picks]), default, known => told.Add(known()));
                foreach (var part in told)
                {
                    Assert.Equal(whole.Valid, part.Valid);
                    undecided += Assert.All(part.Attributes, whole.Attributes);
                }
                foreach (var (before, after) in told.Zip(told.Skip(1)))
                    for (var i = 0; i < before.Attributes.Length; i++)
                        Assert.NotLess(before.Attributes[i], after.Attributes[i]);
                if (told.Count > 0)
                    parts++;
                // Being watched changes nothing.
                var unwatched = alone.Answer(new([.. picks]), default);
                Assert.Equal(unwatched.Attributes.Select(Shown), whole.Attributes.Select(Shown));
                if (whole.Attributes.IsEmpty)
                    break;
                WithAndWithoutNumbers.Change(picks, whole, random);
            }
        }
        Assert.True(undecided > 100 && parts > Rounds, $"{undecided} undecided in {parts} answers with parts");
    }

    [Fact]
    public void A_value_of_a_part_that_is_not_undecided_is_proven()
    {
        // Few numbers are left, and the search for them takes many steps: each part says no more than what is proven by then.
        var model = SmallModels.Sound(SmallModels.Assembly("room", SmallModels.Whole("wide", 1, 900), SmallModels.Whole("deep", 1, 900),
            SmallModels.Whole("high", 1, 900), SmallModels.Rule("§1", "wide * deep + high = 360007"), SmallModels.Rule("§2", "wide + deep + high = 1207")));
        var told = new List<PartialAnswer>();
        var whole = new Reasoner(model).Answer(new([]), default, known => told.Add(known()));
        Assert.True(whole.Exact);
        Assert.NotEmpty(told);
        Assert.Contains(told, part => part.Attributes.Any(a => a.Undecided is not null));
        foreach (var part in told)
            Assert.All(part.Attributes, whole.Attributes);
    }

    private static string Shown(AttributeAnswer a) => $"{a.Path} {a.State} {a.Applies} {a.Value} {Shown(a.Available)} {(a.Alternatives is { } other ? Shown(other) : "")}";

    private static string Shown(Available available) =>
        $"{string.Join(",", available.Values)} {available.None} {available.MayBeAbsent} {available.Lowest} {available.Highest}";

    /// <summary>The checks of parts, which go over every value.</summary>
    private sealed class Assert : Xunit.Assert
    {
        /// <summary>Checks a part against the whole.</summary>
        /// <returns>How many attributes it left undecided.</returns>
        public static int All(IReadOnlyList<AttributeAnswer> part, IReadOnlyList<AttributeAnswer> whole)
        {
            var (undecided, exact) = (0, whole.ToDictionary(a => a.Path));
            foreach (var known in part)
            {
                var (told, can) = (known.Alternatives ?? known.Available, exact[known.Path].Alternatives ?? exact[known.Path].Available);
                True(told.Values.All(can.Has) || !can.Listed, $"{known.Path} can have what it cannot");
                True(can.None || !told.None, $"{known.Path} can be none");
                if (known.Undecided is not { } open)
                    Equal(Shown(can), Shown(told));
                else
                {
                    undecided++;
                    if (known.Row.Kind is not (AttributeKind.Whole or AttributeKind.Quantity))
                        True(can.Values.All(v => told.Has(v) || open.Contains(v)) && (!can.None || told.None || open.Contains(Value.Nothing)),
                            $"{known.Path} is ruled out too early");
                }
            }
            return undecided;
        }

        public static void NotLess(AttributeAnswer before, AttributeAnswer after)
        {
            True(before.Undecided is not null || after.Undecided is null, $"{before.Path} was decided");
            var (had, has) = (before.Alternatives ?? before.Available, after.Alternatives ?? after.Available);
            True(had.Values.All(has.Has) && (has.None || !had.None), $"{before.Path} could have more");
            if (before.Undecided is { } open)
                True(after.Undecided is not { } still || still.All(open.Contains), $"{before.Path} is undecided again");
        }
    }
}
