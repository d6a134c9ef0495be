using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Tests;

/// <summary>
/// The lowest and highest of sums whose parts hang together by rules, conditions and roundings: what branch and bound proves with bounds on partial
/// sums is the best of all configurations gone through one by one.
/// </summary>
public class BestOfSums
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 300 : 30;

    private static BoundModel Model(Random random)
    {
        string One(params string[] options) => options[random.Next(options.Length)];
        var rows = new List<Row>();
        for (var i = 0; i < 3; i++)
            rows.Add(SmallModels.Whole($"n{i}", random.Next(0, 3), random.Next(3, 7)));
        for (var i = 0; i < 3; i++)
            rows.Add(SmallModels.YesNo($"y{i}"));
        rows.Add(SmallModels.Choice("c"));
        string Number() => One("n0", "n1", "n2", "2", "c.thickness / 10 mm", "n0 * n1", "ceil(n1 / 2)", "max(n1, n2)");
        string Condition() => One("y0", "y1", "not y2", "n0 > 2", "c = '80'", "y0 and n1 < 4", "n0 = n2");
        string Part(int depth) => depth == 0 ? Number() : random.Next(4) switch
        {
            0 => $"(if {Condition()} then {Part(depth - 1)} else {Part(depth - 1)})",
            1 => $"({Part(depth - 1)} + {Part(depth - 1)})",
            2 => $"{random.Next(1, 4)} * ({Part(depth - 1)})",
            _ => $"({Part(depth - 1)} - {Number()})",
        };
        for (var i = 0; i < 4; i++)
            rows.Add(SmallModels.Computed($"part{i}", Part(2)));
        rows.Add(SmallModels.Computed("sum", $"part0 + part1 + {(random.Next(2) == 0 ? "part2" : $"round(part2 / 2)")} + part3"));
        for (var i = random.Next(1, 5); i > 0; i--)
            rows.Add(SmallModels.Rule($"r{i}", One($"if {Condition()} then {Condition()}", $"not ({Condition()} and {Condition()})", "n0 + n1 + n2 <= 9", "part0 <= part1 + 6")));
        return SmallModels.Sound(SmallModels.Assembly("room", [.. rows]));
    }

    [Fact]
    public void The_lowest_and_the_highest_are_those_of_all_configurations_gone_through()
    {
        var (proven, impossible) = (0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var random = new Random(seed);
            var model = Model(random);
            var reasoner = new Reasoner(model);
            Pick[] picks = random.Next(2) == 0 ? [] : [new("y0", Value.Of(random.Next(2) == 0))];
            var answer = reasoner.Answer(new([.. picks]), default);
            var sum = model.Index.Rows["sum"];
            var all = answer.Valid != true ? [] : reasoner.Explore(new([.. picks]), default)
                .Select(c => new Evaluator(model, c.ToDictionary(p => p.Path, p => p.Value), default).Evaluate(model.Expression("sum", "expression")!, ""))
                .Select(v => v.Number).ToList();
            if (all.Count == 0)
            {
                impossible++;
                continue;
            }
            foreach (var highest in new[] { false, true })
            {
                var best = reasoner.Best(answer, sum.Id, highest, default);
                Assert.True(best.Proven, $"seed {seed}");
                Assert.Equal(highest ? all.Max() : all.Min(), best.Number);
                var values = best.Values!.Value.ToDictionary(p => p.Path, p => p.Value);
                Assert.Equal(best.Number, new Evaluator(model, values, default).Evaluate(model.Expression("sum", "expression")!, "").Number);
                proven++;
            }
            var tight = reasoner.Tight(answer, sum.Id, null, default)!;
            Assert.Equal((all.Min(), all.Max(), true), (tight.Low, tight.High, tight.Finished));
        }
        Assert.True(proven > Rounds && impossible < Rounds / 2, $"{proven} proven, {impossible} impossible");
    }

    [Fact]
    public void What_the_sum_does_not_hang_on_stays_as_suggested()
    {
        AttributeRow Suggested(int i) => SmallModels.YesNo($"s{i}") with { Suggestion = i % 2 == 0 ? "yes" : "no" };
        var model = SmallModels.Sound(SmallModels.Assembly("room",
            [.. Enumerable.Range(0, 8).Select(i => (Row)Suggested(i)), .. Enumerable.Range(0, 5).Select(i => (Row)SmallModels.Whole($"n{i}", 0, 9)),
            SmallModels.Rule("§1", "n0 + n1 >= 7"), SmallModels.Rule("§2", "n1 * n2 >= 12"), SmallModels.Rule("§3", "if n3 > 4 then n4 < 3"),
            SmallModels.Computed("sum", "3 * (n0 + n1) + (2 * n1 + n2) + (if n3 > 4 then 1 else 5 + n4)")]));
        var reasoner = new Reasoner(model);
        foreach (var highest in new[] { false, true })
        {
            var best = reasoner.Best(reasoner.Answer(new([]), default), "sum", highest, default);
            Assert.True(best.Proven);
            Assert.Equal(Enumerable.Range(0, 8).Select(i => Value.Of(i % 2 == 0)), best.Values!.Value.Where(p => p.Path[0] == 's').OrderBy(p => p.Path).Select(p => p.Value));
        }
    }

    [Fact]
    public void What_runs_out_of_time_says_what_was_found_and_how_much_better_it_may_be()
    {
        var model = SmallModels.Sound(SmallModels.Assembly("room",
            [.. Enumerable.Range(0, 14).Select(i => (Row)SmallModels.Whole($"n{i}", 0, 60)),
            SmallModels.Rule("§1", string.Join(" + ", Enumerable.Range(0, 13).Select(i => $"n{i} * n{i + 1}")) + " = 9973"),
            SmallModels.Computed("sum", string.Join(" + ", Enumerable.Range(0, 14).Select(i => $"(if n{i} > {i} then {60 - i} * n{i} else n{i})")))]));
        var reasoner = new Reasoner(model);
        var answer = reasoner.Answer(new([]), new CancellationTokenSource(TimeSpan.FromSeconds(3)).Token);
        using var soon = new CancellationTokenSource(TimeSpan.FromMilliseconds(800));
        var steps = new List<Optimum>();
        var best = reasoner.Best(answer with { Valid = true }, "sum", false, soon.Token, new Told(steps));
        if (best.Proven)
            return;
        Assert.NotNull(best.Number);
        Assert.True(best.Bound is null || best.Bound <= best.Number, $"{best.Bound} is not below {best.Number}");
        // Each step is at least as good as the one before it.
        Assert.Equal(steps.Select(s => s.Number).OrderByDescending(n => n), steps.Select(s => s.Number));
    }

    private sealed class Told(List<Optimum> steps) : IProgress<Optimum>
    {
        public void Report(Optimum value) => steps.Add(value);
    }
}
