using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;

namespace Juniperfall.Core.Tests;

/// <summary>Pairs of text and expected diagnostics, and the printer's round trip.</summary>
public class LanguageFaults
{
    private static readonly BoundModel Model = new(new()
    {
        Id = "m",
        Code = "M",
        Root = "a",
        Lists = [new() { Id = "l", Name = "cores", Properties = [new() { Id = "p", Name = "thickness", Unit = "mm" }],
            Values = [new() { Id = "v1", Code = "thin" }, new() { Id = "v2", Code = "very thick" }] }],
        Assemblies = [new() { Id = "a", Name = "room", Topics = [new() { Id = "t", Rows = [
            new AttributeRow { Id = "len", Name = "length", Kind = AttributeKind.Quantity, Unit = "mm", Min = "0", Max = "100", Step = "10" },
            new AttributeRow { Id = "cor", Name = "core", Kind = AttributeKind.Choice, ListId = "l" },
            new AttributeRow { Id = "amb", Name = "ambient", Kind = AttributeKind.Quantity, Unit = "Cel", Min = "0", Max = "40", Step = "1" },
            new AttributeRow { Id = "hot", Name = "heated", Kind = AttributeKind.YesNo, Required = false },
            new AttributeRow { Id = "ext", Name = "extras", Kind = AttributeKind.Several, ListId = "l" },
            new Subassembly { Id = "drs", Name = "doors", AssemblyId = "leaf", Instances = [new() { Id = "1" }, new() { Id = "2" }] },
            new AttributeRow { Id = "txt", Name = "label", Kind = AttributeKind.Text },
            new AttributeRow { Id = "odd", Name = "Größe 漢", Kind = AttributeKind.Whole, Min = "0", Max = "3" },
        ] }] }, new() { Id = "leaf", Name = "leaf",
            Topics = [new() { Id = "tl", Rows = [new AttributeRow { Id = "w", Name = "width", Kind = AttributeKind.Whole, Min = "0", Max = "3" }] }] }],
    }, LibraryFacts.Empty);

    private static BindResult Check(string text) => Model.Check(Model.Document.Assemblies[0], text, null);

    [Theory]
    [InlineData("length + ", Fault.ExpressionExpected, 9, null)]
    [InlineData("(length > 5 mm", Fault.MissingClosing, 0, null)]
    [InlineData("length > 5 mm)", Fault.UnexpectedWord, 13, null)]
    [InlineData("lenght > 5 mm", Fault.UnknownName, 0, "length")]
    [InlineData("core = thinn", Fault.UnknownValue, 7, "thin")]
    [InlineData("core.thicknes > 5 mm", Fault.UnknownProperty, 5, "thickness")]
    [InlineData("length > 5", Fault.UnitMismatch, 0, null)]
    [InlineData("length + 3 kg > 2 m", Fault.UnitMismatch, 0, null)]
    [InlineData("core > thin", Fault.TypeMismatch, 0, null)]
    [InlineData("heated and length", Fault.NotACondition, 11, null)]
    [InlineData("ambient * 2 > 3 K", Fault.TemperaturePoint, 0, null)]
    [InlineData("ambient + 20 Cel > 3 Cel", Fault.TemperaturePoint, 0, null)]
    [InlineData("label = \"x\"", Fault.TextCannotBeReasoned, 0, null)]
    [InlineData("ciel(length / 2 mm)", Fault.UnknownFunction, 0, "ceil")]
    [InlineData("ceil(length)", Fault.UnitMismatch, 0, null)]
    [InlineData("length > 1,5 m", Fault.DecimalComma, 9, "1.5")]
    [InlineData("core = 'very thick", Fault.UnclosedQuote, 7, "'very thick'")]
    [InlineData("1 < length < 3", Fault.UnexpectedWord, 11, null)]
    [InlineData("length # 3", Fault.UnexpectedCharacter, 7, null)]
    [InlineData("if heated", Fault.MissingWord, 0, null)]
    [InlineData("doors.width > 1", Fault.NoSuchInstance, 0, null)]
    [InlineData("doors[3].width > 1", Fault.NoSuchInstance, 0, null)]
    [InlineData("extras = thin", Fault.NotAPath, 0, null)]
    [InlineData("extras.thickness > 3 mm", Fault.NotAPath, 0, null)]
    [InlineData("extras has thinn", Fault.UnknownValue, 11, "thin")]
    [InlineData("extras has 3", Fault.TypeMismatch, 11, null)]
    [InlineData("core has thin", Fault.TypeMismatch, 0, null)]
    [InlineData("sum(extras) > 3 mm", Fault.NotANumber, 4, null)]
    public void Each_fault_is_reported_where_it_stands_with_a_repair_where_there_is_one(string text, Fault fault, int start, string? suggestion)
    {
        var result = Check(text);
        Assert.Null(result.Expression);
        Assert.Contains(result.Diagnostics, d =>
            d.Fault == fault && d.Span.Start == start && d.Suggestion == suggestion && d.Message.EndsWith('.') | d.Message.EndsWith('?'));
    }

    [Fact]
    public void Several_faults_are_reported_at_once() =>
        Assert.Equal([Fault.UnknownName, Fault.UnitMismatch, Fault.ExpressionExpected],
            Check("lenght > 2 m and length > 3 kg and ()").Diagnostics.OrderBy(d => d.Span.Start).Select(d => d.Fault));

    [Theory]
    [InlineData(10_000)]
    [InlineData(300)]
    public void Deep_nesting_is_a_fault_and_not_a_crash(int depth)
    {
        Assert.Contains(Check(new string('(', depth) + "1" + new string(')', depth)).Diagnostics, d => d.Fault is Fault.TooDeep or Fault.TooLong);
        Assert.Contains(Check(string.Concat(Enumerable.Repeat("not ", depth)) + "heated").Diagnostics, d => d.Fault is Fault.TooDeep or Fault.TooLong);
    }

    [Theory]
    [InlineData("NOT Heated  AND core='very thick' or LENGTH>=3 cm")]
    [InlineData("if heated then length * (2 + 3) - -4 mm > 1 mm else core in (thin, 'very thick')")]
    [InlineData("-(5 m) + length - (length - 2 m) > 0 m and not (heated or heated = none)")]
    [InlineData("at least 2 of (heated, core <> thin, 'Größe 漢' between 1 and 2)")]
    [InlineData("max(length, core.thickness) / 2 ^ 3 > ceil(7 / 2) * 1 mm")]
    public void Printing_reading_and_printing_again_is_stable_and_means_the_same(string text)
    {
        var first = Check(text);
        Assert.True(first.Expression is not null, string.Join(" ", first.Diagnostics.Select(d => d.Message)));
        var printed = Printer.Print(Parser.Parse(text).Root);
        Assert.Equal(printed, Printer.Print(Parser.Parse(printed).Root));
        var again = Check(printed);
        Assert.Equal(Describe(first.Expression), Describe(again.Expression!));
        static string Describe(Bound bound) =>
            string.Join(";", bound.All().Select(b =>
            b switch
            {
                BoundLiteral l => l.Value.ToString(),
                BoundAttribute a => a.Path,
                BoundBinary x => x.Operator.ToString(),
                BoundUnary u =>
            u.Operator.ToString(),
                _ => b.GetType().Name
            }));
    }

    [Fact]
    public void The_stored_form_follows_a_rename()
    {
        const string typed = "Length  > 5 mm and core = 'very thick'";
        var stored = StoredText.Bind(typed, Check(typed).References);
        Assert.Equal("⟦len⟧  > 5 mm and ⟦cor⟧ = ⟦v2⟧", stored);
        var room = Model.Document.Assemblies[0];
        var renamed = Model.Document with
        {
            Assemblies =
            [room with { Topics = [room.Topics[0] with { Rows =
            [.. room.Topics[0].Rows.Select(r => r.Id == "len" ? (NamedRow)r with { Name = "inner length" } : r)] }] }]
        };
        Assert.Equal("'inner length'  > 5 mm and core = 'very thick'", StoredText.Show(stored, new ModelIndex(renamed)));
        Assert.NotNull(new BoundModel(renamed, LibraryFacts.Empty).Check(renamed.Assemblies[0], stored, ExpressionType.YesNo).Expression);
    }

    [Fact]
    public void Circles_are_named_and_rest_with_what_depends_on_them()
    {
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "M",
            Root = "a",
            Assemblies = [new() { Id = "a", Name = "a", Topics = [new() { Id = "t", Rows = [
                new ComputedAttribute { Id = "1", Name = "one", Expression = "two + 1" },
                    new ComputedAttribute { Id = "2", Name = "two", Expression = "one + 1" },
                new AttributeRow { Id = "3", Name = "three", Kind = AttributeKind.YesNo, AppliesWhen = "four" },
                    new AttributeRow { Id = "4", Name = "four", Kind = AttributeKind.YesNo, AppliesWhen = "three" },
                new StatementRule { Id = "5", Expression = "three" }, new StatementRule { Id = "6", Expression = "1 = 1" },
            ] }] }],
        }, LibraryFacts.Empty);
        Assert.Equal(["1", "2", "3", "4"], model.Findings.Where(f => f.Diagnostic.Fault == Fault.Circular).Select(f => f.RowId).Order());
        Assert.Contains(model.Findings, f => f.RowId == "1" && f.Diagnostic.Message.Contains("one → two → one"));
        Assert.Contains(model.Findings, f => f.RowId == "5" && f.Diagnostic.Fault == Fault.DependsOnFaulty);
        Assert.DoesNotContain(model.Findings, f => f.RowId == "6");
    }
}
