using System.Collections.Immutable;
using System.Text;
using System.Text.Json.Nodes;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Test cases of products: what comes out of them on random models against the literal evaluator, and case by case by hand.</summary>
public class TestCases
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 400 : 60;

    private static CaseResult Run(BoundModel model, TestCase one)
    {
        var text = new PickText(model);
        var question = CaseQuestion.Of(one, model, text);
        var outcome = CaseOutcome.Of(model, new Reasoner(model, question.At), question, CancellationToken.None);
        return CaseResult.Of(one, question, new CaseFacts(model, text).Of(question, outcome), outcome.Answer.Exact);
    }

    private static List<CaseFact> Facts(BoundModel model, TestCase one)
    {
        var text = new PickText(model);
        var question = CaseQuestion.Of(one, model, text);
        return [.. new CaseFacts(model, text).Of(question, CaseOutcome.Of(model, new Reasoner(model, question.At), question, CancellationToken.None))];
    }

    private static TestCase Expecting(TestCase one, IEnumerable<CaseFact> facts) =>
        one with { Expected = [.. facts.Select(f => new CaseExpectation(f.Of, f.At, f.Is))] };

    private static BoundModel With(BoundModel model, params TestCase[] cases) => new(model.Document with { Cases = [.. cases] }, model.Facts);

    [Fact]
    public void The_verdict_of_a_case_and_all_that_comes_out_is_what_the_literal_evaluator_says()
    {
        var (valid, ruledOut) = (0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var random = new Random(seed);
            var model = new BoundModel(new RandomModels(seed * 7919 + 3).Next(), RandomModels.Facts);
            var (brute, text) = (new BruteForce(model), new PickText(model));
            var all = brute.Configurations();
            // Some picks of which each can be read; together they may stand or not.
            var picks = brute.Paths.Where(_ => random.Next(3) == 0).Select(p => (Path: p, Row: text.At(p))).Where(p => p.Row is not null)
                .Select(p => (p.Path, Row: p.Row!, Value: brute.ValuesOf(p.Row!).ToList() is { Count: > 0 } values
                    ? values[random.Next(values.Count)] : Value.Nothing))
                .Where(p => !p.Value.IsNothing).ToList();
            var one = new TestCase { Id = "one", Picks = [.. picks.Select(p => new CasePick(p.Path, CaseQuestion.Written(p.Row, p.Value, text)))] };
            var containing = all.Where(x => picks.TrueForAll(p => !x[p.Path].Applies || x[p.Path].Value == p.Value)).ToList();
            var facts = Facts(model, one);
            Assert.Equal(containing.Count > 0 ? CaseFacts.Valid : CaseFacts.RuledOut, facts.Single(f => f.Of == ExpectedOf.Verdict).Is);
            if (containing.Count == 0)
            {
                ruledOut++;
                continue;
            }
            valid++;
            // The asked values that came out stand together in one of them, and what is available is what they have.
            var asked = facts.Where(f => f.Of == ExpectedOf.Value && text.At(f.At) is not null).ToList();
            Assert.Contains(containing, x => asked.TrueForAll(f => x[f.At].Applies && CaseQuestion.Written(text.At(f.At)!, x[f.At].Value, text) == f.Is));
            foreach (var available in facts.Where(f => f.Of == ExpectedOf.Available && picks.TrueForAll(p => p.Path != f.At) && !f.Is.Contains("..")))
            {
                var had = containing.Where(x => x[available.At].Applies).Select(x => CaseQuestion.Written(text.At(available.At)!, x[available.At].Value, text));
                Assert.Equal(had.Distinct().Order(), available.Is.Split(" | ", StringSplitOptions.RemoveEmptyEntries).Order());
            }
            // What comes out is met; anything else is a difference that says what came out.
            var expecting = Expecting(one, facts);
            Assert.Equal(CaseState.Passed, Run(model, expecting).State);
            var at = random.Next(facts.Count);
            var other = expecting with { Expected = expecting.Expected.SetItem(at, expecting.Expected[at] with { Is = "something else" }) };
            var failed = Run(model, other);
            Assert.Equal((CaseState.Failed, new CaseDifference(at, facts[at].Is)), (failed.State, Assert.Single(failed.Differences)));
        }
        Assert.True(valid > 10 && ruledOut > 3, $"{valid} valid, {ruledOut} ruled out");
    }

    [Fact]
    public void What_proposals_do_not_reach_no_configuration_reaches()
    {
        var (reached, unreachable) = (0, 0);
        for (var seed = 0; seed < Rounds; seed++)
        {
            var model = new BoundModel(new RandomModels(seed * 104729 + 5).Next(), RandomModels.Facts);
            var all = new BruteForce(model).Configurations();
            if (all.Count is 0 or > 3_000)
                continue;
            var coverage = new CaseCoverage(new Reasoner(model), CancellationToken.None);
            var proposals = coverage.Proposals(CancellationToken.None).ToList();
            // Each reaches something that those before it did not.
            Assert.All(proposals, p => Assert.NotEmpty(p.Reaches));
            foreach (var covered in coverage.All.Where(c => c.Kind is CoveredKind.Value or CoveredKind.There or CoveredKind.NotThere))
            {
                var row = model.Index.Rows[covered.RowId];
                if (covered.Kind != CoveredKind.Value && row is not (PartLine or OperationLine))
                    continue;
                var isReached = all.Exists(x => covered.Kind == CoveredKind.Value
                    ? x.Any(s => RowPath.RowId(s.Key) == covered.RowId && s.Value.Applies && (RowPath.MemberId(s.Key) is { } member
                        ? member == covered.Part && s.Value.Value.IsTrue : s.Value.Value.ToString() == covered.Part))
                    : Holds(model, x, row) == (covered.Kind == CoveredKind.There));
                Assert.True(isReached == covered.Cases > 0, $"seed {seed}: {covered}, {isReached}");
                _ = isReached ? reached++ : unreachable++;
            }
        }
        Assert.True(reached > 100 && unreachable > 5, $"{reached} reached, {unreachable} not");
    }

    private static bool Holds(BoundModel model, Dictionary<string, BruteForce.Slot> configuration, Row line)
    {
        var evaluator = new Evaluator(model, configuration.Where(s => s.Value.Applies).ToDictionary(s => s.Key, s => s.Value.Value));
        return evaluator.Applies(evaluator.Occurrences.First(o => o.Parent is null), line);
    }

    private static readonly TestCase Small = new()
    {
        Id = "case1",
        Name = "Two thick ones",
        Picks = [new("core", "c100"), new("n", "2"), new("lit", "no")],
        Quantity = "10",
        Expected = [new(ExpectedOf.Verdict, "", "valid"), new(ExpectedOf.Quantity, "bolts", "8"), new(ExpectedOf.Cost, "", "20", "0.5")],
    };

    private static BoundModel SmallModel(string quantity = "n * 4") => Sound(Assembly("room", Choice("core"), Whole("n", 1, 9), YesNo("lit"),
        new StatementRule { Id = "thin", Expression = "if core = '80' then n < 5", Number = 4 },
        new PartLine { Id = "bolts", Item = "BOLT", Quantity = quantity }, new PartLine { Id = "seal", Item = "SEAL", Quantity = "1 m", AppliesWhen = "lit" }));

    [Fact]
    public void A_changed_line_is_told_with_what_came_out_and_a_tolerance_is_kept()
    {
        Assert.Equal(CaseState.Passed, Run(SmallModel(), Small).State);
        var changed = Run(SmallModel("n * 4 + 1"), Small);
        Assert.Equal([new(1, "9"), new(2, "22.5")], changed.Differences.AsEnumerable());
        Assert.Equal(CaseState.Passed, Run(SmallModel(), Small with { Expected = [new(ExpectedOf.Cost, "", "20.5", "0.5")] }).State);
        Assert.Equal(CaseState.Failed, Run(SmallModel(), Small with { Expected = [new(ExpectedOf.Cost, "", "20.51", "0.5")] }).State);
    }

    [Fact]
    public void A_case_that_has_to_be_ruled_out_names_the_rule_and_notices_when_another_one_does_it()
    {
        var one = new TestCase
        {
            Id = "c",
            Picks = [new("core", "c80"), new("n", "7")],
            Expected = [new(ExpectedOf.Verdict, "", "ruled out"), new(ExpectedOf.Rule, "thin", "yes"), new(ExpectedOf.Item, "bolts", "")],
        };
        Assert.Equal(CaseState.Passed, Run(SmallModel(), one).State);
        var without = Sound(Assembly("room", Choice("core"), Whole("n", 1, 9), new StatementRule { Id = "thin", Expression = "n < 9" },
            new StatementRule { Id = "other", Expression = "n < 5" }, new PartLine { Id = "bolts", Item = "BOLT", Quantity = "n" }));
        Assert.Equal(new CaseDifference(1, "no"), Assert.Single(Run(without, one).Differences));
    }

    [Fact]
    public void A_line_that_is_not_there_is_expected_as_nothing()
    {
        var one = new TestCase { Id = "c", Picks = [new("lit", "no"), new("n", "1"), new("core", "c80")], Expected = [new(ExpectedOf.Item, "seal", "")] };
        Assert.Equal(CaseState.Passed, Run(SmallModel(), one).State);
        Assert.Equal(new CaseDifference(0, "SEAL"), Assert.Single(Run(SmallModel(), one with { Picks = one.Picks.SetItem(0, new("lit", "yes")) }).Differences));
    }

    [Fact]
    public void Renames_leave_a_case_alone_and_what_is_gone_is_told_at_its_place()
    {
        var model = With(SmallModel(), Small);
        ModelDocument Edited(ModelDocument document, params EditStep[] steps)
        {
            var result = ModelEditor.Apply(document, new("e", [.. steps]), SmallModels.Facts);
            Assert.Null(result.Refusal);
            return result.Document;
        }
        var bound = ModelEditor.BindNames(model.Document, model.Facts).Document!;
        var renamed = Edited(bound, new SetField("n", "name", "pieces", "n"), new SetField("c100", "code", "hundred", "100"));
        Assert.Equal(CaseState.Passed, Run(new(renamed, model.Facts), renamed.Cases[0]).State);
        // What a case names can be deleted: the case stays, says so, and comes back to life by undo.
        var gone = ModelEditor.Apply(renamed, new("e", [new RemoveRow("bolts"), new RemoveRow("c100")]), model.Facts);
        Assert.Null(gone.Refusal);
        var result = Run(new(gone.Document, model.Facts), gone.Document.Cases[0]);
        Assert.Equal(CaseState.Faulty, result.State);
        Assert.Equal([(0, null), (null, 1)], result.Faults.Select(f => (f.Pick, f.Expectation)));
        var back = Edited(gone.Document, [.. gone.Inverse]);
        Assert.Equal(CaseState.Passed, Run(new(back, model.Facts), back.Cases[0]).State);
    }

    [Fact]
    public void Cases_are_edited_with_the_model_and_stand_in_its_file()
    {
        var model = SmallModel();
        var written = System.Text.Json.JsonSerializer.SerializeToNode(Small, DocumentJson.Options)!.AsObject();
        var added = ModelEditor.Apply(model.Document, new("e", [new AddRow("m", "cases", null, written)]), model.Facts);
        Assert.Null(added.Refusal);
        Assert.Equal(Small.Expected.AsEnumerable(), added.Document.Cases.Single().Expected);
        var package = new ModelPackage { Model = added.Document, Library = model.Facts };
        var read = ModelJson.Read(Encoding.UTF8.GetBytes(ModelJson.Write(package)));
        Assert.Null(read.Error);
        Assert.Equal(Small.Picks.AsEnumerable(), read.Package!.Model.Cases.Single().Picks);
        var changed = ModelEditor.Apply(added.Document, new("f", [new SetField("case1", "expected/1/is", JsonValue.Create("9"), JsonValue.Create("8")),
            new SetField("case1", "expected/1/because", JsonValue.Create("One more at the end."), null)]), model.Facts);
        Assert.Null(changed.Refusal);
        Assert.Equal(new CaseExpectation(ExpectedOf.Quantity, "bolts", "9", null, "One more at the end."), changed.Document.Cases[0].Expected[1]);
        var unknown = ModelEditor.Apply(added.Document,
            new("g", [new SetField("case1", "expected/1/of", JsonValue.Create("colour"), JsonValue.Create("quantity"))]), model.Facts);
        Assert.Equal(EditFault.Malformed, unknown.Refusal!.Fault);
    }

    [Fact]
    public void Wrong_quantities_sites_values_and_tolerances_are_told_and_names_are_read()
    {
        var one = new TestCase
        {
            Id = "c",
            Site = "NOWHERE",
            Quantity = "0",
            Picks = [new("core", "c81"), new("n", "12"), new("n", "3"), new("gone", "1"), new("n", "4")],
            Expected = [new(ExpectedOf.Cost, "", "20", "-1"), new(ExpectedOf.Rule, "bolts", "yes"), new(ExpectedOf.Value, "x", "1")],
        };
        var question = CaseQuestion.Of(one, SmallModel(), new PickText(SmallModel()));
        Assert.Equal([(0, null), (1, null), (3, null), (4, null), (null, 0), (null, 1), (null, 2), (null, null), (null, null)],
            question.Faults.Select(f => (f.Pick, f.Expectation)));
        Assert.Equal("3", Assert.Single(question.Picks).Value.Number.ToString());
        // By hand, a case names attributes and codes.
        Assert.Equal(CaseState.Passed, Run(SmallModel(), Small with { Picks = [new("Core", "100"), new("N", "2"), new("lit", "no")] }).State);
    }

    [Fact]
    public void Cases_that_ask_the_same_and_expect_different_things_contradict_each_other()
    {
        var other = Small with
        {
            Id = "case2",
            Picks = [.. Small.Picks.Reverse()],
            Expected = [new(ExpectedOf.Quantity, "bolts", "9"), new(ExpectedOf.Cost, "", "20.7", "0.3")],
        };
        Assert.Equal([(0, 1, ExpectedOf.Quantity, "bolts")], CaseResult.Contradictions([Small, other]));
        Assert.Empty(CaseResult.Contradictions([Small, other with { Site = "HAL" }]));
        Assert.Empty(CaseResult.Contradictions([Small, other with { Expected = [other.Expected[1]] }]));
    }
}
