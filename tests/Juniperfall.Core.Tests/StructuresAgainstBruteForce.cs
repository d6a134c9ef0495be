using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Structures and prices of every complete configuration of random models, held against the literal evaluator: conditions and
/// quantities of which parts cannot be computed stand everywhere in them.
/// </summary>
public class StructuresAgainstBruteForce
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 600 : 80;

    private static Exact Rounded(PartLine part, Exact number) => part.Step.Length == 0
        ? number : (number / Exact.Parse(part.Step)).Ceiling() * Exact.Parse(part.Step);

    [Fact]
    public void Lines_times_and_prices_are_those_of_the_definition_and_what_cannot_be_computed_is_a_fault_at_its_line()
    {
        var (sound, faulty, priced) = (0, 0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var model = new BoundModel(new RandomModels(seed * 6151 + 5).Next(), RandomModels.Facts);
            Assert.DoesNotContain(model.Findings, f => f.Blocks);
            var brute = new BruteForce(model);
            foreach (var configuration in brute.Configurations().Where((_, i) => i % 7 == seed % 7).Take(40))
            {
                var values = configuration.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value);
                var lines = brute.Lines(configuration).ToList();
                var (part, net) = Number("part", "quantity");
                var (operation, run) = Number("op", "run");
                var faults = new List<string>();
                if (part is not null && net is not { Sign: >= 0 })
                    faults.Add("part");
                if (operation is not null && run is not { Sign: >= 0 })
                    faults.Add("op");
                var built = StructureBuilder.Build(model, values);
                Assert.Equal(faults.Order(), built.Faults.Select(f => f.RowId).Distinct().Order());
                faulty += faults.Count;
                if (built.Structure is { } structure)
                {
                    sound++;
                    var expected = part is not null && net!.Value.Sign > 0 ? Rounded((PartLine)part, net.Value) : (Exact?)null;
                    Assert.Equal(expected, structure.Bom.SingleOrDefault()?.Net);
                    Assert.Equal(operation is null ? null : run, structure.Routing.SingleOrDefault()?.Run);
                }

                var price = Pricing.Of(model, values);
                var (line, amount) = Number("price", "amount");
                var (_, surcharge) = part is not null && net is { Sign: > 0 } ? Number("part", "surcharge") : default;
                if (Fails("price", "amount") || (net is { Sign: > 0 } && Fails("part", "surcharge"))
                    || (part is not null && ((PartLine)part).Surcharge.Length > 0 && Fails("part", "quantity")))
                {
                    Assert.Null(price.Sheet);
                    continue;
                }
                var before = surcharge ?? Exact.Zero;
                var total = line is null || amount is null ? before : ((PriceLine)line).Effect == PriceEffect.Adds
                    ? before + amount.Value : Exact.Max(before, amount.Value);
                Assert.Equal((total * 100).Round() / 100, price.Sheet!.Price);
                priced++;

                (Row? Row, Exact? Number) Number(string id, string field) => lines.FirstOrDefault(l => l.Row.Id == id) is { Row: { } row } found
                    ? (row, found.Field(field) is { Kind: ValueKind.Number } number ? number.Number : null) : default;
                bool Fails(string id, string field) => lines.FirstOrDefault(l => l.Row.Id == id) is { Row: not null } found && found.Field(field) is null;
            }
        }
        Assert.True(sound > Rounds && faulty > Rounds / 2 && priced > Rounds, $"{sound} structures, {faulty} faults and {priced} prices were met");
    }

    [Theory]
    [InlineData("1 / x > 0.4 and x > 0", "0", false)]
    [InlineData("x > 0 and 1 / x > 0.4", "0", false)]
    [InlineData("1 / x > 0.4 and x > 0", "2", true)]
    [InlineData("1 / x > 0.4 or x = 0", "0", true)]
    [InlineData("sqrt(x - 2) > 0 or x < 3", "1", true)]
    [InlineData("round(1, x) = 1 and x > 0", "0", false)]
    [InlineData("not (x = 0) and x ^ -1 > 0", "0", false)]
    public void A_condition_that_is_decided_by_one_part_does_not_fail_because_of_another(string condition, string x, bool isThere)
    {
        var model = SmallModels.Sound(SmallModels
            .Assembly("root", SmallModels.Whole("x", 0, 3), new PartLine { Id = "part", Item = "BOLT", AppliesWhen = condition },
            new PriceLine { Id = "price", Amount = "5 EUR", AppliesWhen = condition }));
        var answer = SmallModels.Ask(model, $"x = {x}");
        Assert.Equal(isThere ? LineState.In : LineState.Out, answer.AsSuggested.Lines.Single(l => l.Row.Id == "part").State);
        var values = answer.Standing.ToDictionary(p => p.Path, p => p.Value);
        Assert.Equal(isThere ? 1 : 0, StructureBuilder.Build(model, values).Structure!.Bom.Length);
        Assert.Equal(isThere ? 5 : 0, Pricing.Of(model, values).Sheet!.Price);
    }
}
