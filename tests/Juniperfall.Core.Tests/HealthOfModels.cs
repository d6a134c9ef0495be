using System.Collections.Immutable;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>What analysis finds in a model: on random models against all their configurations, and case by case by hand.</summary>
public class HealthOfModels
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 600 : 50;

    private static HealthReport Check(BoundModel model) => HealthCheck.Run(new Reasoner(model), null, CancellationToken.None);

    private static bool IsListedUnderCost(BoundModel model, Dictionary<string, Value> values) =>
        StructureBuilder.Build(model, values).Structure is { } structure && Pricing.Of(model, values).Sheet is { } sheet
            && sheet.Price < new RollUp(model.Facts).Of(structure, 1).Cost;

    [Fact]
    public void What_never_is_always_is_and_makes_no_difference_is_so_over_all_configurations_and_examples_show_it()
    {
        var met = new Dictionary<HealthKind, int>();
        for (var seed = 0; seed < Rounds; seed++)
        {
            var model = new BoundModel(new RandomModels(seed * 104729 + 5).Next(), RandomModels.Facts);
            var brute = new BruteForce(model);
            var all = brute.Configurations();
            var report = Check(model);
            Assert.True(report.IsFinished);
            foreach (var finding in report.Findings)
                met[finding.Kind] = met.GetValueOrDefault(finding.Kind) + 1;
            Assert.Equal(all.Count == 0, report.Findings.Any(f => f.Kind == HealthKind.NoConfiguration));
            if (all.Count == 0)
            {
                // The causes suffice, and none of them can be left out.
                var causes = report.Findings.Single(f => f.Kind == HealthKind.NoConfiguration).Causes!.Value;
                Assert.Empty(brute.Configurations(causes.ToHashSet()));
                Assert.All(causes, c => Assert.NotEmpty(brute.Configurations(causes.Remove(c).ToHashSet())));
                continue;
            }
            IEnumerable<string> Found(HealthKind kind) =>
                report.Findings.Where(f => f.Kind == kind).SelectMany(f => f.Fields.DefaultIfEmpty("").Select(x => $"{f.RowId} {x}".Trim())).Order();
            void Same(HealthKind kind, IEnumerable<string> expected) =>
                Assert.True(expected.Order().SequenceEqual(Found(kind)),
                $"seed {seed}, {kind}: expected {string.Join(", ", expected.Order())}; found {string.Join(", ", Found(kind))}");

            // Attributes, over all the places where they stand.
            var values = brute.Paths.GroupBy(p => (Row: (AttributeRow)model.Index.Rows[RowPath.RowId(p)], Member: RowPath.MemberId(p)))
                .Select(g => (g.Key.Row, g.Key.Member, Had: all.SelectMany(x => g.Where(p => x[p].Applies).Select(p => x[p].Value)).Distinct().ToList()))
                    .ToList();
            Same(HealthKind.ValueAlways, values.Where(v => v.Had.Count == 1 && (v.Member is null || v.Had[0].IsTrue))
                .Select(v => $"{v.Row.Id} {v.Member}".Trim()));
            Same(HealthKind.ValueNever, values.Where(v => v.Had.Count > 1 || (v.Had.Count == 1 && v.Member is not null && !v.Had[0].IsTrue))
                .SelectMany(v => v.Member is not null
                ? v.Had.Contains(Value.Of(true)) ? [] : [v.Member]
                : v.Row.Kind is AttributeKind.Whole or AttributeKind.Quantity
                    ? brute.ValuesOf(v.Row).ToList() is var range && v.Had.Where(h => !h.IsNothing).Select(h => h.Number).ToList() is var numbers
                        && numbers.Count > 0
                        ? new[] { numbers.Min() > range[0].Number ? "min" : "", numbers.Max() < range[^1].Number ? "max" : "" }.Where(f => f.Length > 0) : []
                    : brute.ValuesOf(v.Row).Where(x => !v.Had.Contains(x)).Select(x => x.Kind == ValueKind.YesNo ? x.IsTrue ? "yes" : "no" : x.Text!),
                        (v, field) => $"{v.Row.Id} {field}"));

            // Lines.
            var evaluators = all.Select(x => new Evaluator(model, x.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value))).ToList();
            var lines = model.Document.Assemblies.SelectMany(a => a.Rows).Where(r => r is PartLine or OperationLine or PriceLine).ToList();
            bool Is(Evaluator e, Row line) => e.Applies(e.Occurrences.First(o => o.Parent is null), line);
            Same(HealthKind.AlwaysThere, lines.Where(l => l.AppliesWhen.Length > 0 && evaluators.TrueForAll(e => Is(e, l))).Select(l => $"{l.Id} appliesWhen"));
            Assert.Equal(lines.Where(l => evaluators.TrueForAll(e => !Is(e, l))).Select(l => l.Id).Order(),
                report.Findings.Where(f => f.Kind == HealthKind.NeverApplies && lines.Exists(l => l.Id == f.RowId)).Select(f => f.RowId).Order());
            if (PriceFields.AreIn(model.Document))
                Assert.Equal(all.Exists(x => IsListedUnderCost(model, x.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value))),
                    report.Findings.Any(f => f.Kind == HealthKind.PriceUnderCost));
            static Value Number(Evaluator e, BoundModel of, Row line, string field) => e.Evaluate(of.Expression(line.Id, field)!, "");
            foreach (var line in lines.Where(l => l is not PriceLine))
            {
                var field = line is PartLine ? "quantity" : "run";
                if (model.Expression(line.Id, field) is Language.BoundLiteral)
                    continue;
                var numbers = evaluators.Where(e => Is(e, line)).Select(e => Number(e, model, line, field)).ToList();
                foreach (var (kind, test) in new (HealthKind, Func<Value, bool>)[]
                {
                    (HealthKind.NumberNegative, n => n.HasValue && n.Number.Sign < 0), (HealthKind.NumberZero, n => n.HasValue && n.Number.IsZero),
                        (HealthKind.NumberMissing, n => n.IsNothing),
                })
                {
                    var finding = report.Findings.SingleOrDefault(f => f.Kind == kind && f.RowId == line.Id);
                    Assert.True(numbers.Exists(n => test(n)) == finding is not null, $"seed {seed}, {kind} of {line.Id}");
                    if (finding is null)
                        continue;
                    var shown = finding.Example!.Value.ToDictionary(p => p.Path, p => p.Value);
                    Assert.Contains(all, x => x.All(s => s.Value.Applies == shown.ContainsKey(s.Key) && (!s.Value.Applies || shown[s.Key] == s.Value.Value)));
                    Assert.True(test(Number(new Evaluator(model, shown), model, line, field)), $"seed {seed}: the example does not show it");
                }
            }

            // Rules that make no difference in any of their places.
            var everything = brute.Causes.ToHashSet();
            Same(HealthKind.RuleRedundant,
                everything.Where(c => c.Kind == CauseKind.Rule && model.Index.Rows[c.RowId] is IRule { Strength: RuleStrength.Must }
                && model.IsSound(model.Index.Rows[c.RowId]))
                .GroupBy(c => c.RowId).Where(g => g.All(c => brute.Configurations(everything.Where(o => o != c).ToHashSet()).Count == all.Count))
                    .Select(g => g.Key));
        }
        foreach (var kind in new[] { HealthKind.ValueNever, HealthKind.ValueAlways, HealthKind.NeverApplies, HealthKind.RuleRedundant,
            HealthKind.NumberNegative, HealthKind.NumberZero, HealthKind.GridRowNever })
            Assert.True(met.GetValueOrDefault(kind) > 0, $"{kind} was never met");
    }

    private static IEnumerable<string> Kinds(BoundModel model) =>
        Check(model).Findings.Select(f => $"{f.Kind} {f.RowId}{(f.Fields.IsEmpty ? "" : " ")}{string.Join(",", f.Fields)}");

    [Fact]
    public void A_division_by_zero_that_picks_can_reach_is_shown()
    {
        var model = Sound(Assembly("room", Whole("n", 0, 3), Whole("m", 0, 3), Computed("share", "6 / n"), Rule("r", "share + m <= 9")));
        var finding = Assert.Single(Check(model).Findings, f => f.Kind == HealthKind.CannotBeComputed);
        Assert.Equal(("share", Value.Of(Exact.Zero)), (finding.RowId, finding.Example!.Value.Single(p => p.Path == "n").Value));
        // Where a rule keeps away from it, there is nothing to find.
        Assert.DoesNotContain(Check(Sound(Assembly("room", Whole("n", 0, 3), Computed("share", "6 / n"), Rule("r", "n >= 1")))).Findings, f =>
            f.Kind == HealthKind.CannotBeComputed);
    }

    [Fact]
    public void Price_lines_that_never_apply_always_do_or_cannot_be_computed_are_told()
    {
        PriceLine Line(string id, string amount, string when = "") => new() { Id = id, Amount = amount, AppliesWhen = when };
        var model = Sound(Assembly("room", Whole("n", 0, 3), YesNo("lit"), Rule("r", "n < 3"), Line("never", "5 EUR", "n = 3"),
            Line("always", "5 EUR", "n < 3"), Line("some", "5 EUR / n", "lit"), Line("guarded", "5 EUR / n", "n > 0"),
            new PartLine { Id = "p", Item = "BOLT", Surcharge = "1 EUR / (n - 1)", Quantity = "1" }));
        Assert.Equal(["AlwaysThere always appliesWhen", "CannotBeComputed p surcharge", "CannotBeComputed some amount", "NeverApplies never appliesWhen",
            "ValueNever n max"], Kinds(model).Where(k => !k.StartsWith("Unused", StringComparison.Ordinal) && !k.StartsWith("Rule", StringComparison.Ordinal))
            .Order());
    }

    [Fact]
    public void A_list_price_under_the_cost_is_told_with_a_configuration_that_has_it_and_only_then()
    {
        BoundModel Model(string price) => Sound(Assembly("room", Whole("n", 1, 4), YesNo("lit"), Rule("r", "n < 4"),
            new PartLine { Id = "p", Item = "BOLT", Quantity = "n * 100" }, new PriceLine { Id = "price", Amount = price, AppliesWhen = "n > 0" }));
        var finding = Assert.Single(Check(Model("60 EUR")).Findings, f => f.Kind == HealthKind.PriceUnderCost);
        Assert.Equal(("price", Value.Of(3)), (finding.RowId, finding.Example!.Value.Single(p => p.Path == "n").Value));
        // Three hundred bolts at 0.25: 75 EUR is what they cost, and no more than three can be picked.
        Assert.DoesNotContain(Check(Model("75 EUR")).Findings, f => f.Kind == HealthKind.PriceUnderCost);
    }

    [Fact]
    public void Grid_rows_are_named_by_their_number_with_the_rule_that_stands_against_them()
    {
        var grid = new CombinationGrid
        {
            Id = "g",
            Name = "spans",
            Number = 4,
            Columns = [new() { Id = "c", Name = "core", Reference = "core" }, new() { Id = "w", Name = "wide", Reference = "wide" }],
            Rows = [new() { Id = "1", Cells = ["'80'", "no"] }, new() { Id = "2", Cells = ["'100'", "yes"] }, new() { Id = "3", Cells = ["'120'", "*"] },
                new() { Id = "4", Cells = ["'80'", "yes"] }],
        };
        var model = Sound(Assembly("room", Choice("core"), YesNo("wide"), grid, Rule("thick", "if wide then core.thickness > 80 mm")));
        var never = Assert.Single(Check(model).Findings, f => f.Kind == HealthKind.GridRowNever);
        Assert.Equal(("rows/3", "Row 4 of “spans” can never match.", "thick"),
            (Assert.Single(never.Fields), never.Sentence, Assert.Single(never.Causes!.Value).RowId));
        var gap = Assert.Single(Check(model).Findings, f => f.Kind == HealthKind.GridGap);
        Assert.Contains("1 of 6 combinations have no row in “spans”, such as 100, no", gap.Sentence);
    }

    [Fact]
    public void A_grid_row_that_says_the_same_as_an_earlier_one_is_named_with_it()
    {
        static GridRow Row(string id, params string[] cells) => new() { Id = id, Cells = [.. cells] };
        var grid = new CombinationGrid
        {
            Id = "g",
            Name = "spans",
            Columns = [new() { Id = "c", Name = "core", Reference = "core" }, new() { Id = "n", Name = "n", Reference = "n" }],
            Rows = [Row("1", "'80' | '100'", "1 .. 3"), Row("2", "*", "4"), Row("3", "'100' | '80'", "1..3"), Row("4", "'120'", "*"), Row("5", "*", "4")],
        };
        var finding = Assert.Single(Check(Sound(Assembly("room", Choice("core"), Whole("n", 0, 9), grid))).Findings, f => f.Kind == HealthKind.GridRowRepeated);
        Assert.Equal("2 rows of “spans” say the same as an earlier one: 3 as 1; 5 as 2.", finding.Sentence);
        Assert.Equal(["rows/2", "rows/4"], finding.Fields.AsEnumerable());
    }

    [Fact]
    public void What_is_never_used_or_was_forgotten_is_told()
    {
        var line = (string id, string when) => new PartLine { Id = id, Item = "BOLT", Quantity = "1", AppliesWhen = when };
        var model = Sound(Assembly("room", Choice("core"), Choice("face"), YesNo("idle"), Rule("r", "face = '80' or face = '100'"), line("p", "core = '80'"),
            line("q", "core = '100'"),
            new PartLine { Id = "i", ItemFrom = "face.item", Quantity = "1 m", AppliesWhen = "core = '80'" }));
        Assert.Equal(["ValueNever face c120", "Unused idle", "ValueWithoutPart core c120"],
            Kinds(model).Where(k => !k.StartsWith("Number", StringComparison.Ordinal))
            .OrderBy(k => k.StartsWith("ValueNever", StringComparison.Ordinal) ? 0 : 1).ThenBy(k => k));
    }

    [Fact]
    public void What_was_not_found_out_in_time_is_said_and_nothing_else()
    {
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        var report = HealthCheck.Run(new Reasoner(DemoModel.Room.Value.Model), null, stopped.Token);
        Assert.False(report.IsFinished);
        Assert.DoesNotContain(report.Findings, f => f.Kind is HealthKind.ValueNever or HealthKind.RuleRedundant or HealthKind.NoConfiguration);
    }
}
