using System.Text;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>A value may be called anything: by id it is told apart from the answer “none of them”, from keywords and from numbers.</summary>
public class NamesOfValues
{
    private static readonly string[] Codes =
        ["none", "and", "yes", "no", "3", "1.5", "two words", "it's", "''", "'", "\"", "a|b", "*", "1..2", "lid", "=", "None of them", "x = 1", "⟦v1⟧",
        "ångström 漢", "exactly", "-1", "3 mm", "{}"];

    private static ValueList List => new() { Id = "lids", Name = "lids", Values = [.. Codes.Select((code, i) => new ListValue { Id = $"v{i}", Code = code })] };

    private static BoundModel Model(bool required, params Row[] rows)
    {
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "CR",
            Root = "box",
            Lists = [List],
            Assemblies = [Assembly("box", [Choice("lid") with { ListId = "lids", Required = required }, .. rows])]
        }, Facts);
        Assert.True(model.Findings.Count == 0, string.Join(" ", model.Findings.Select(f => $"{f.RowId}.{f.Field}: {f.Diagnostic.Message}")));
        return model;
    }

    public static TheoryData<string> All => [.. Codes];

    [Theory]
    [MemberData(nameof(All))]
    public void It_is_picked_written_and_read_back_as_itself_whether_or_not_there_is_none_of_them(string code)
    {
        foreach (var required in new[] { true, false })
        {
            var model = Model(required);
            var (text, row) = (new PickText(model), (AttributeRow)model.Index.Rows["lid"]);
            var value = Value.Choice($"v{Array.IndexOf(Codes, code)}");
            Assert.Equal((value, null), text.ReadValue(row, text.Write(row, value)));
            Assert.Equal((new Pick("lid", value), null), text.ReadCode("lid", code));
            Assert.Equal((value, null), text.ReadValue(row, Printer.Name(code)));
            Assert.Equal(required ? null : new Pick("lid", Value.Nothing), text.ReadNone("lid").Pick);
            var answer = new Reasoner(model).Answer(new([new("lid", value)]), CancellationToken.None);
            Assert.Equal((true, AttributeState.Picked, value), (answer.Valid, answer.At("lid").State, answer.At("lid").Value!.Value));
        }
    }

    [Theory]
    [MemberData(nameof(All))]
    public void It_stands_in_expressions_and_cells_of_grids_and_its_rename_follows(string code)
    {
        var value = Value.Choice($"v{Array.IndexOf(Codes, code)}");
        var name = Printer.Name(code);
        var model = Model(false, YesNo("is"), Rule("r", $"is = (lid = {name})"), Rule("s", $"if lid <> none then lid in ({name}, 'lid')"),
            new CombinationGrid
            {
                Id = "g",
                Name = "g",
                Number = 1,
                Columns = [new() { Id = "c", Name = "lid", Reference = "lid" }],
                Rows = [new() { Id = "g1", Cells = [name] }, new() { Id = "g2", Cells = ["'none' | yes | 'lid'"] }]
            });
        var answer = new Reasoner(model).Answer(new([]), CancellationToken.None);
        Assert.Equal(new[] { value, Value.Choice("v14") }.Distinct().Order(Comparer<Value>.Create((a, b) => string.CompareOrdinal(a.Text, b.Text))),
            answer.At("lid").Available.Values.Order(Comparer<Value>.Create((a, b) => string.CompareOrdinal(a.Text, b.Text))));
        Assert.True(answer.At("lid").Available.None);
        Assert.Equal(value, Assert.Single(Picked(model, "is=yes").At("lid").Available.Values));
        Assert.Equal(name, Printer.Print(Parser.Parse(name).Root));
        // Bound to ids it follows a rename, and out to a file and in again it is the same.
        var bound = ModelEditor.BindNames(model.Document, Facts).Document!;
        var renamed = bound with
        {
            Lists =
            [bound.Lists[0] with { Values = [.. bound.Lists[0].Values.Select(v => v.Id == value.Text ? v with { Code = "plain" } : v)] }]
        };
        Assert.Contains("lid = plain",
            StoredText.Show(((StatementRule)renamed.Assemblies[0].Rows.Single(r => r.Id == "r")).Expression, new ModelIndex(renamed)));
        var read = ModelJson.Read(Encoding.UTF8.GetBytes(ModelJson.Write(new() { Model = bound, Library = Facts })));
        Assert.Equal(value, Assert.Single(Picked(new(read.Package!.Model, Facts), "is=yes").At("lid").Available.Values));
    }

    private static Answer Picked(BoundModel model, string pick) => new Reasoner(model).Answer(new(Picks(model, pick)), CancellationToken.None);

    [Theory]
    [InlineData("lid = none", "'none'")]
    [InlineData("lid = yes", "'yes'")]
    [InlineData("lid <> 3", "'3'")]
    [InlineData("lid in (3 mm, 'lid')", "'3 mm'")]
    [InlineData("all has none", "'none'")]
    public void Without_the_quotes_that_it_needs_it_is_told_with_the_repair(string expression, string repair)
    {
        var model = Model(true, new AttributeRow { Id = "all", Name = "all", Kind = AttributeKind.Several, ListId = "lids" });
        var diagnostic = Assert.Single(model.Check(model.Document.Assemblies[0], expression, null).Diagnostics);
        Assert.Equal((Fault.UnknownValue, repair), (diagnostic.Fault, diagnostic.Suggestion));
        Assert.Empty(model.Check(model.Document.Assemblies[0],
            expression.Remove(diagnostic.Span.Start, diagnostic.Span.Length).Insert(diagnostic.Span.Start, repair), null).Diagnostics);
    }

    [Fact]
    public void A_reason_and_a_way_out_tell_the_value_called_none_from_none_of_them()
    {
        var model = Model(false, Rule("r", "lid = none or lid = 'and'"));
        var reasoner = new Reasoner(model);
        var none = Picks(model, "lid='none'");
        Assert.Equal(Value.Choice("v0"), none[0].Value);
        Assert.False(reasoner.Answer(new(none), CancellationToken.None).Valid == true);
        Assert.True(reasoner.Answer(new(Picks(model, "lid=none")), CancellationToken.None).Valid == true);
        Assert.NotNull(reasoner.WhyNot(new([]), "lid", Value.Choice("v0"), CancellationToken.None).Reason);
        var change = Assert.Single(Assert.Single(reasoner.WaysOut(new(none), null, CancellationToken.None).Found).Changes);
        var (words, row) = (new ModelWording(model), (AttributeRow)model.Index.Rows["lid"]);
        Assert.Equal(("“none”", "none"), (words.ValueOf(row, change.From.Value), words.ValueOf(row, Value.Nothing)));
    }
}
