using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Tests;

/// <summary>With a concession answers are those of the model without its rules, and what is broken is told.</summary>
public class RulesAtRest
{
    private static ModelDocument Without(ModelDocument document, IReadOnlySet<string> rules) => document with
    {
        Assemblies = [.. document.Assemblies.Select(a => a with
        {
            Topics = [.. a.Topics.Select(t => t with { Rows = [.. t.Rows.Where(r => !rules.Contains(r.Id))] })],
        })],
    };

    private static string Told(Available available) =>
        $"{string.Join(' ', available.Values.Select(v => v.ToString()).Order())} {available.None} {available.Lowest} {available.Highest}";

    [Fact]
    public void Answers_are_those_of_the_model_without_the_rules_and_what_is_not_kept_is_told()
    {
        var (freed, broken, kept) = (0, 0, 0);
        foreach (var c in RandomCase.Of(1701))
        {
            var random = new Random(c.Seed);
            var rules = c.Model.Index.Rows.Values.OfType<IRule>().Where(r => r.Strength == RuleStrength.Must).Select(r => r.Id)
                .OrderBy(_ => random.Next()).Take(random.Next(1, 3)).ToHashSet();
            var removed = new BoundModel(Without(c.Model.Document, rules), RandomModels.Facts);
            // A grid that gives figures cannot be taken out; nothing can be held against it.
            if (rules.Count == 0 || removed.Findings.Any(f => f.Blocks))
                continue;
            var resting = new Reasoner(new(c.Model.Document.WithRulesAtRest(rules), RandomModels.Facts), default, c.Reasoner);
            var (answer, wanted) = (resting.Answer(new(c.Picks), CancellationToken.None), new Reasoner(removed).Answer(new(c.Picks), CancellationToken.None));
            var all = new BruteForce(removed).Configurations();
            Assert.Equal(all.Any(x => c.Picks.All(p => RandomCase.Contains(x, p))), answer.Valid);
            Assert.Equal(wanted.Valid, answer.Valid);
            Assert.Equal(wanted.Missing.AsEnumerable(), answer.Missing);
            foreach (var (one, other) in answer.Attributes.Zip(wanted.Attributes))
                Assert.Equal((other.Path, other.Applies, Told(other.Available)), (one.Path, one.Applies, Told(one.Available)));
            if (answer.Valid == true && c.With(c.Picks).Count == 0)
                freed++;
            // One whole configuration of those that are left, at random.
            var left = all.Where(x => c.Picks.All(p => RandomCase.Contains(x, p))).ToList();
            if (left.Count == 0)
                continue;
            var fillIns = left[random.Next(left.Count)]
                .Where(s => s.Value.Applies && c.Picks.All(p => p.Path != s.Key)).Select(s => new Pick(s.Key, s.Value.Value));
            var alone = resting.Answer(new(c.Picks) { FillIns = [.. fillIns], WithAvailability = false }, CancellationToken.None);
            if (alone.Only is not { } only)
                continue;
            var values = only.ToDictionary(p => p.Path, p => p.Value);
            var stands = c.All.Any(x => x.All(s => s.Value.Applies ? values.TryGetValue(s.Key, out var v) && v == s.Value.Value : !values.ContainsKey(s.Key)));
            var told = alone.Advice.Any(a => rules.Contains(RowPath.RowId(a.RowId)));
            Assert.Equal(!stands, told);
            (broken, kept) = told ? (broken + 1, kept) : (broken, kept + 1);
        }
        Assert.True(freed > 5 && broken > 5 && kept > 5, $"{freed} freed, {broken} broken, {kept} kept");
    }
}
