using System.Text.Json.Nodes;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>What is too large is a fault with its place, and what is only long is worked out without a deep stack.</summary>
public class Sizes
{
    /// <summary>Runs something on a stack of half a megabyte, a third of what a thread has by default; a full one would end the test run.</summary>
    private static T OnASmallStack<T>(Func<T> work)
    {
        T? result = default;
        Exception? thrown = null;
        var thread = new Thread(() =>
        {
            try
            {
                result = work();
            }
            catch (Exception e)
            {
                thrown = e;
            }
        }, 512 * 1024);
        thread.Start();
        thread.Join();
        return thrown is null ? result! : throw new InvalidOperationException("It failed on a small stack.", thrown);
    }

    private static PartLine Part(string id, string item, string quantity) => new() { Id = id, Item = item, Quantity = quantity };

    private static string Times(string text, int count) => string.Concat(Enumerable.Repeat(text, count));

    [Theory]
    [InlineData("x - ", 4990, "x < 7", Fault.TooDeep)]
    [InlineData("(", 9990, "x", Fault.TooDeep)]
    [InlineData("-", 9990, "x < 7", Fault.TooDeep)]
    [InlineData("not ", 4990, "y", Fault.TooDeep)]
    [InlineData("if y then ", 1990, "y", Fault.TooDeep)]
    [InlineData("abs(", 4990, "x", Fault.TooDeep)]
    [InlineData("at least 1 of (", 1200, "y", Fault.TooDeep)]
    [InlineData("(y and ", 2500, "y", Fault.TooDeep)]
    [InlineData("2 ^ ", 4000, "2 < x", Fault.UnexpectedWord)]
    [InlineData("x < ", 4000, "2", Fault.UnexpectedWord)]
    [InlineData("y or y and ", 1900, "y", Fault.TooLong)]
    [InlineData("x", 1, "[1].a", Fault.NotAPath)]
    public void An_expression_that_is_too_much_is_one_fault_at_its_place(string part, int times, string end, Fault expected)
    {
        var text = Times(part, times) + end;
        var faults = OnASmallStack(() => Of(Assembly("room", Whole("x", 0, 5), YesNo("y"), Rule("r", text)))).Findings;
        Assert.Contains(faults, f => f.RowId == "r" && f.Field == "expression" && f.Diagnostic.Fault == expected);
        Assert.True(faults.Count < 5, string.Join("\n", faults.Select(f => f.Diagnostic.Message)));
    }

    [Theory]
    [InlineData("y or ", 3000, "y")]
    [InlineData("x + ", 4000, "x >= 0")]
    [InlineData("x - ", 240, "x <= 0")]
    [InlineData("not (", 50, "y")]
    [InlineData("abs(", 100, "x")]
    public void Long_runs_and_a_hundred_levels_are_read(string part, int times, string end)
    {
        var closing = part.EndsWith('(') ? new string(')', times) : "";
        var text = Times(part, times) + end + closing + (part == "abs(" ? " >= 0" : "");
        var answer = OnASmallStack(() =>
            new Reasoner(Sound(Assembly("room", Whole("x", 0, 5), YesNo("y"), Rule("r", text)))).Answer(new([]), CancellationToken.None));
        Assert.True(answer is { Valid: true, Exact: true });
        Assert.Equal(Printer.Print(Parser.Parse(text).Root), Printer.Print(Parser.Parse(Printer.Print(Parser.Parse(text).Root)).Root));
    }

    private static ComputedAttribute[] Chain(int length, Func<int, string> expression) =>
        [.. Enumerable.Range(0, length).Select(i => Computed($"c{i}", i == 0 ? "x" : expression(i - 1)))];

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Four_thousand_values_that_name_each_other_are_worked_out_in_whatever_order_they_stand(bool backwards)
    {
        var chain = Chain(4000, before => $"c{before} + 1");
        var rows = backwards ? chain.Reverse() : chain;
        var (answer, value) = OnASmallStack(() =>
        {
            var model = Sound(Assembly("room", [Whole("x", 0, 5), .. rows, Rule("r", "c3999 > 4001"), Part("p", "BOLT", "c3999")]));
            var found = new Reasoner(model).Answer(new([]), CancellationToken.None);
            return (found, new Evaluator(model, new Dictionary<string, Value> { ["x"] = Value.Of((Exact)5) })["c3999"]);
        });
        Assert.True(answer is { Valid: true, Exact: true });
        Assert.Equal(((Exact?)3, (Exact?)5),
            (answer.Attributes.Single(a => a.Path == "x").Available.Lowest, answer.Attributes.Single(a => a.Path == "x").Available.Highest));
        Assert.Equal(Value.Of((Exact)4004), value);
    }

    [Fact]
    public void A_circle_of_four_thousand_is_named_at_each_of_its_rows_in_a_sentence_one_can_read()
    {
        var findings = OnASmallStack(() =>
            Of(Assembly("room", [Chain(1, _ => "")[0] with { Expression = "c3999" }, .. Chain(4000, before => $"c{before} + 1")[1..]]))).Findings;
        Assert.Equal(4000, findings.Count(f => f.Diagnostic.Fault == Fault.Circular));
        Assert.All(findings, f => Assert.True(f.Diagnostic.Message.Length < 200, f.Diagnostic.Message));
    }

    [Fact]
    public void Eight_thousand_conditions_that_hang_on_each_other_are_answered_or_left_open_in_time()
    {
        var rows = Enumerable.Range(0, 8000).Select(i => YesNo($"b{i}") with { AppliesWhen = i == 0 ? "" : $"b{i - 1}" }).ToArray();
        var (answer, applies) = OnASmallStack(() =>
        {
            var model = Sound(Assembly("room", [.. rows]));
            using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(2));
            var evaluator = new Evaluator(model, rows.ToDictionary(r => r.Id, _ => Value.Of(true)));
            return (new Reasoner(model).Answer(new([]), limit.Token), evaluator.Applies(evaluator.Occurrences.Single(), rows[^1]));
        });
        Assert.True(answer.Valid != false);
        Assert.True(applies);
    }

    [Fact]
    public void A_number_whose_digits_explode_is_too_large_to_compute_and_everything_else_goes_on()
    {
        var (answer, structure) = OnASmallStack(() =>
        {
            var chain = Chain(26, before => $"c{before} * c{before}");
            var model = Sound(Assembly("room", [Whole("x", 2, 5), .. chain, Rule("r", "c25 > 3"), Part("p", "BOLT", "c25"), Part("q", "BOLT", "2")]));
            using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
            return (new Reasoner(model).Answer(new([]), limit.Token),
                StructureBuilder.Build(model, new Dictionary<string, Value> { ["x"] = Value.Of((Exact)3) }, default));
        });
        Assert.True(answer is { Valid: true, Exact: true });
        Assert.Contains(structure.Faults, f => f.RowId == "p" && f.Message.Contains("too large", StringComparison.Ordinal));
        Assert.DoesNotContain(structure.Faults, f => f.RowId == "q");
    }

    [Fact]
    public void A_tie_between_numbers_that_are_too_large_is_no_configuration_and_no_endless_search()
    {
        var rows = Chain(26, before => $"c{before} * c{before}")
            .Concat(Enumerable.Range(0, 26).Select(i => Computed($"d{i}", i == 0 ? "x" : $"d{i - 1} * d{i - 1}")));
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        var answer = new Reasoner(Sound(Assembly("room", [Whole("x", 2, 3), .. rows, Rule("r", "c25 = d25")]))).Answer(new([]), limit.Token);
        Assert.True(answer.Exact);
        Assert.False(answer.Valid);
    }

    private static Subassembly Place(string id, string assembly, int instances) =>
        new() { Id = id, Name = id, AssemblyId = assembly, Instances = [.. Enumerable.Range(1, instances).Select(i => new Instance { Id = $"{i}" })] };

    public static TheoryData<string, AssemblyDefinition[]> TooLarge => new()
    {
        { "s0 in one another", [.. Enumerable.Range(0, 26)
            .Select(i => Assembly(i == 0 ? "room" : $"a{i}", [YesNo($"z{i}"), .. i < 25 ? new Row[] { Place($"s{i}", $"a{i + 1}", 2) } : []]))] },
        { "deep", [.. Enumerable.Range(0, 40)
            .Select(i => Assembly(i == 0 ? "room" : $"a{i}", [YesNo($"z{i}"), .. i < 39 ? new Row[] { Place($"s{i}", $"a{i + 1}", 1) } : []]))] },
        { "instances", [Assembly("room", Place("s", "a", 1001)), Assembly("a", YesNo("z"))] },
        { "rows", [Assembly("room", [.. Enumerable.Range(0, 50_001).Select(i => YesNo($"z{i}"))])] },
        { "rows of instances", [Assembly("room", Place("s", "a", 900)), Assembly("a", [.. Enumerable.Range(0, 200).Select(i => YesNo($"z{i}"))])] },
    };

    [Theory]
    [MemberData(nameof(TooLarge))]
    public void A_model_that_is_larger_than_it_may_be_says_so_and_is_not_worked_on(string what, AssemblyDefinition[] assemblies)
    {
        var model = OnASmallStack(() => Of(assemblies));
        Assert.True(model.IsTooLarge, what);
        Assert.All(model.Findings, f => Assert.Equal(Fault.TooLarge, f.Diagnostic.Fault));
        Assert.Empty(Occurrence.All(model));
        // It is answered like an empty one, and an edit does not bring it about.
        Assert.Empty(new Reasoner(model).Answer(new([]), CancellationToken.None).Attributes);
        var refused = ModelEditor.Apply(model.Document, new("e", [new SetField(model.Document.Id, "code", "NEW", model.Document.Code)]), Facts);
        Assert.Equal(EditFault.Malformed, refused.Refusal?.Fault);
    }

    [Fact]
    public void Deep_chains_of_assemblies_that_contain_each_other_are_faults_of_their_own()
    {
        var assemblies = Enumerable.Range(0, 3000).Select(i => Assembly(i == 0 ? "room" : $"a{i}", Place($"s{i}", i == 2999 ? "a1" : $"a{i + 1}", 1)))
            .ToArray();
        var model = OnASmallStack(() => Of(assemblies));
        Assert.Contains(model.Findings, f => f.Diagnostic.Fault is Fault.TooLarge or Fault.CircularAssembly);
    }

    public static TheoryData<Row[]> TwiceTheSameId => new()
    {
        new Row[] { YesNo("x"), YesNo("x") with { Name = "other" } },
        new Row[] { Place("s", "a", 2) with { Instances = [new() { Id = "1" }, new() { Id = "1" }] } },
        new Row[] { Place("s", "a", 1), Place("s", "a", 1) with { Name = "t" } },
        new Row[] { YesNo("x/y") },
        new Row[] { YesNo("x#y") },
        new Row[] { YesNo(new string('x', 201)) },
    };

    [Theory]
    [MemberData(nameof(TwiceTheSameId))]
    public void What_cannot_be_told_apart_is_left_out_with_a_fault(Row[] rows)
    {
        var model = Of(Assembly("room", [.. rows, YesNo("sound")]), Assembly("a", YesNo("z")));
        Assert.Contains(model.Findings, f => f.Diagnostic.Fault is Fault.DuplicateId or Fault.BadId);
        Assert.Contains(new Reasoner(model).Answer(new([]), CancellationToken.None).Attributes, a => a.Path == "sound");
    }

    [Theory]
    [InlineData("1|")]
    [InlineData("|")]
    [InlineData("1||2")]
    [InlineData("'1")]
    [InlineData("1..2..3")]
    public void A_cell_that_cannot_be_read_is_a_fault_of_its_grid(string cell)
    {
        var grid = new CombinationGrid
        {
            Id = "g",
            Name = "g",
            Columns = [new() { Id = "k", Name = "k", Reference = "x" }],
            Rows = [new() { Id = "r1", Cells = [cell] }]
        };
        var model = Of(Assembly("room", Whole("x", 0, 5), grid));
        Assert.Contains(model.Findings, f => f.RowId == "g" && f.Diagnostic.Fault == Fault.BadCell);
        Assert.True(new Reasoner(model).Answer(new([]), CancellationToken.None).Valid);
    }

    public static TheoryData<string> BadSteps =>
    [
        """{"do": "set", "rowId": "m", "field": "label/a/b/c/d/e/f/g/h/i/j/k/l/m", "value": "x", "before": null}""",
        """{"do": "set", "rowId": "x", "field": "note", "value": "a\u0000b", "before": null}""",
        """{"do": "set", "rowId": "x", "field": "name", "value": 7, "before": "x"}""",
        """{"do": "set", "rowId": "m", "field": "assemblies", "value": [null], "before": null}""",
        """{"do": "set", "rowId": "m", "field": "assemblies/0/topics/0/rows", "value": {}, "before": null}""",
        """{"do": "add", "parentId": "m", "collection": "lists", "afterId": null, "row": {"id": 7}}""",
        """{"do": "add", "parentId": "m", "collection": "lists", "afterId": null, "row": {"id": "l", "name": null}}""",
        """{"do": "add", "parentId": "x", "collection": "name", "afterId": null, "row": {"id": "l"}}""",
        """{"do": "move", "rowId": "x", "parentId": "x", "collection": "sites", "afterId": "x"}""",
        """{"do": "move", "rowId": "room", "parentId": "room", "collection": "topics", "afterId": null}""",
        """{"do": "remove", "rowId": "m"}""",
    ];

    [Theory]
    [MemberData(nameof(BadSteps))]
    public void A_step_of_any_content_is_refused_and_leaves_the_model_as_it_was(string step)
    {
        var document = Of(Assembly("room", YesNo("x"))).Document;
        var steps = System.Text.Json.JsonSerializer.Deserialize<EditStep>(step, DocumentJson.Options)!;
        var result = ModelEditor.Apply(document, new("e", [steps]), Facts);
        Assert.NotNull(result.Refusal);
        Assert.Same(document, result.Document);
    }

    [Fact]
    public void Every_limit_stands_in_the_document_with_its_number()
    {
        var document = File.ReadAllText(DemoModel.RepositoryFile("docs", "limits.md"));
        foreach (var limit in typeof(Limits).GetFields())
        {
            var number = Convert.ToInt64(limit.GetRawConstantValue());
            var shown = number.ToString("#,0", System.Globalization.CultureInfo.InvariantCulture);
            Assert.True(new[] { shown, $"{number >> 20} MB", $"{number >> 20} million" }.Any(text =>
                document.Contains($"| {text} (`{limit.Name}`)", StringComparison.Ordinal)), $"{limit.Name}: {shown}");
        }
    }

    [Fact]
    public void An_edit_has_at_most_so_many_steps()
    {
        var document = Of(Assembly("room", YesNo("x"))).Document;
        ModelEdit Adding(int steps) => new("e", [.. Enumerable.Range(0, steps).Select(i =>
            new AddRow("room", "topics", i == 0 ? null : $"t{i - 1}", new JsonObject { ["id"] = $"t{i}", ["label"] = new JsonObject { ["en"] = "t" } }))]);
        Assert.Null(ModelEditor.Apply(document, Adding(Limits.MostSteps), Facts).Refusal);
        Assert.Equal(EditFault.Malformed, ModelEditor.Apply(document, Adding(Limits.MostSteps + 1), Facts).Refusal?.Fault);
    }
}
