using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>A random model, small enough that all its configurations are known, with random picks.</summary>
internal sealed record RandomCase(int Seed, BoundModel Model, BruteForce Brute, List<Dictionary<string, BruteForce.Slot>> All, Reasoner Reasoner,
    ImmutableArray<Pick> Picks)
{
    public static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 1500 : 120;

    public static bool Contains(Dictionary<string, BruteForce.Slot> configuration, Pick pick) =>
        !configuration[pick.Path].Applies || configuration[pick.Path].Value == pick.Value;

    public List<Dictionary<string, BruteForce.Slot>> With(IEnumerable<Pick> picks) => [.. All.Where(c => picks.All(p => Contains(c, p)))];

    public List<Pick> Standing()
    {
        var standing = new List<Pick>();
        foreach (var pick in Picks)
            if (With(standing.Append(pick)).Count > 0)
                standing.Add(pick);
        return standing;
    }

    /// <param name="salt">Another one gives other models.</param>
    /// <param name="change">What is changed of each row, at random by the seed.</param>
    public static IEnumerable<RandomCase> Of(int salt, Func<Random, Row, Row>? change = null)
    {
        for (var seed = 0; seed < Rounds; seed++)
        {
            var document = new RandomModels(seed * 7919 + salt).Next();
            if (change is not null)
                document = document.WithRows(Changing(change, new(seed)));
            var model = new BoundModel(document, RandomModels.Facts);
            Assert.DoesNotContain(model.Findings, f => f.Blocks);
            var brute = new BruteForce(model);
            var random = new Random(seed + salt);
            var picks = brute.Paths.OrderBy(_ => random.Next()).Take(random.Next(0, 5)).Select(path =>
            {
                var row = (AttributeRow)model.Index.Rows[RowPath.RowId(path)];
                var values = brute.ValuesOf(row).ToList();
                if (!row.Required && row.Kind != AttributeKind.Several)
                    values.Add(Value.Nothing);
                return new Pick(path, values[random.Next(values.Count)]);
            }).ToImmutableArray();
            yield return new(seed, model, brute, brute.Configurations(), new Reasoner(model), picks);
        }
    }

    private static Func<Row, Row> Changing(Func<Random, Row, Row> change, Random random) => row => change(random, row);
}
