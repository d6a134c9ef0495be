using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>What edits mean: on random models with random edits against all configurations of both, and on the demo room.</summary>
public class MeaningOfEdits
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 300 : 60;

    /// <summary>A model with some of its rules left out, and the limits of some numbers changed.</summary>
    private static ModelDocument Edited(ModelDocument document, Random random, bool rulesAlone) => document with
    {
        Assemblies = [.. document.Assemblies.Select(a => a with
        {
            Topics = [.. a.Topics.Select(t => t with
            {
                Rows = [.. t.Rows.Where(r => r is not IRule || r is CombinationGrid || random.Next(3) > 0)
                    .Select(r => !rulesAlone && r is AttributeRow { Kind: AttributeKind.Whole, Max: { } max } n && random.Next(2) == 0
                        ? n with { Max = (Exact.Parse(max) - Exact.One).ToString() } : r)],
            })],
        })],
    };

    [Fact]
    public void An_example_is_allowed_by_one_alone_and_where_none_is_proven_there_is_none()
    {
        var (examples, proofs, missed) = (0, 0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var random = new Random(seed);
            var document = new RandomModels(seed * 15_485_863 + 11).Next();
            var (full, edited) = (new BoundModel(document, RandomModels.Facts), new BoundModel(Edited(document, random, seed % 2 == 0), RandomModels.Facts));
            if (full.Findings.Any(f => f.Blocks) || edited.Findings.Any(f => f.Blocks))
                continue;
            foreach (var (one, other) in new[] { (full, edited), (edited, full) })
            {
                var (here, there) = (new BruteForce(one).Configurations(), new BruteForce(other).Configurations());
                var paths = new BruteForce(one).Paths.Intersect(new BruteForce(other).Paths).ToList();
                string Shared(Dictionary<string, BruteForce.Slot> x) => string.Join(";", paths.Select(p => x[p]));
                var known = there.Select(Shared).ToHashSet();
                var isThere = here.Any(x => !known.Contains(Shared(x)));
                var found = EditMeaning.OnlyIn(new(one), new(other), CancellationToken.None);
                if (found.Example is { } example)
                {
                    examples++;
                    bool Has(Dictionary<string, BruteForce.Slot> x) => example.All(p => x[p.Path].Applies && x[p.Path].Value == p.Value)
                        && paths.All(p => !x[p].Applies || example.Any(e => e.Path == p));
                    Assert.True(here.Exists(Has) && !there.Exists(Has), $"seed {seed}");
                }
                else if (found.IsProven)
                {
                    proofs++;
                    Assert.False(isThere, $"seed {seed}");
                }
                else if (isThere)
                    missed++;
            }
        }
        Assert.True(examples > 15 && proofs > 10, $"{examples} examples, {proofs} proofs");
        // Where they differ in more than rules, something may be missed; mostly it is not.
        Assert.True(missed <= examples / 4, $"{missed} missed of {examples}");
    }

    [Fact]
    public void A_limit_lowered_by_mistake_is_told_with_a_room_that_it_breaks()
    {
        var (model, reasoner) = DemoModel.Room.Value;
        var lowered = ModelEditor.Apply(model.Document, new("e", [new SetField("rule2", "upper", "30 m2", "90 m2")]), model.Facts);
        Assert.Null(lowered.Refusal);
        var after = new Reasoner(new BoundModel(lowered.Document, model.Facts));
        var lost = EditMeaning.OnlyIn(reasoner, after, CancellationToken.None);
        Assert.Equal("rule2", lost.BecauseOf);
        var area = lost.Example!.Value.Where(p => p.Path is "r.length" or "r.width").Select(p => p.Value.Number.ToDouble()).Aggregate(1.0, (a, b) => a * b);
        Assert.InRange(area, 30.0001, 90);
        var gained = EditMeaning.OnlyIn(after, reasoner, CancellationToken.None);
        Assert.Equal((null, true), (gained.Example, gained.IsProven));
    }
}
