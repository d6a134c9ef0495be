using System.Text;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Formats;

namespace Juniperfall.Core.Tests;

/// <summary>A model means the same however its text is kept: printed in canonical form, bound to ids, renamed, or out to a file and in again.</summary>
public class SameMeaning
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 600 : 60;

    private static Row Each(Row row, Func<string, string> text)
    {
        var changed = row switch
        {
            AttributeRow a => a with { Lower = text(a.Lower), Upper = text(a.Upper) },
            ComputedAttribute c => c with { Expression = text(c.Expression) },
            StatementRule s => s with { Expression = text(s.Expression) },
            RequiresRule r => r with { When = text(r.When), Then = text(r.Then) },
            ExcludesRule e => e with { When = text(e.When), Then = text(e.Then) },
            LimitRule l => l with { Of = text(l.Of), Lower = text(l.Lower), Upper = text(l.Upper) },
            Subassembly s => s with { Inputs = [.. s.Inputs.Select(i => i with { Expression = text(i.Expression) })] },
            PartLine p => p with { Quantity = text(p.Quantity) },
            OperationLine o => o with { Run = text(o.Run) },
            _ => row,
        };
        return changed with { AppliesWhen = text(changed.AppliesWhen) };
    }

    private static string Meaning(ModelDocument document)
    {
        var model = new BoundModel(document, RandomModels.Facts);
        Assert.DoesNotContain(model.Findings, f => f.Blocks);
        var answer = new Reasoner(model).Answer(new([]), CancellationToken.None);
        static string Of(Available a) => $"{string.Join(",", a.Values)} {a.None} {a.MayBeAbsent} {a.Lowest} {a.Highest}";
        return string.Join("\n", answer.Attributes.Select(a => $"{a.Path} {a.State} {a.Applies} {a.Value} {Of(a.Available)}")
            .Concat(answer.AsSuggested.Computed.Select(c => $"{c.Path} {c.Number?.Low} {c.Number?.High} {c.Number?.MayHaveNoValue} {c.Value}"))
            .Concat(answer.AsSuggested.Lines
                .Select(l => $"{l.Path} {l.State} {string.Join(",", l.Numbers.Select(n => $"{n.Key} {n.Value.Low} {n.Value.High}"))}"))
            .Append($"{answer.Valid} {string.Join(",", answer.Missing)}"));
    }

    private static void HeldFor(int salt, Func<ModelDocument, ModelDocument> change, Func<string, string>? shown = null)
    {
        for (var seed = 0; seed < Rounds; seed++)
        {
            var document = new RandomModels(seed * 104729 + salt).Next();
            Assert.Equal(Meaning(document), (shown ?? (text => text))(Meaning(change(document))));
        }
    }

    [Fact]
    public void Printed_in_canonical_form_and_the_form_is_stable() => HeldFor(1, document => document.WithRows(row => Each(row, text =>
    {
        if (text.Length == 0)
            return text;
        var printed = Printer.Print(Parser.Parse(text).Root);
        Assert.Equal(printed, Printer.Print(Parser.Parse(printed).Root));
        return printed;
    })));

    [Fact]
    public void With_every_keyword_in_capitals_and_blanks_where_they_do_not_matter() => HeldFor(2, document => document.WithRows(row => Each(row, text =>
        System.Text.RegularExpressions.Regex.Replace(text, @"\b(and|or|not|if|then|else|in|between|where|none|heated|core)\b", m => m.Value.ToUpperInvariant())
            .Replace("(", " ( ").Replace(" (", "(").Replace(",", " ,  "))));

    [Fact]
    public void Bound_to_ids() => HeldFor(3, document => ModelEditor.BindNames(document, RandomModels.Facts).Document!);

    [Fact]
    public void Under_other_names_everywhere() => HeldFor(4, document =>
    {
        var bound = ModelEditor.BindNames(document, RandomModels.Facts).Document!;
        // Names with blanks, accents and a keyword in them have to be quoted wherever they are shown.
        var renamed = bound.WithRows(row => row is NamedRow named ? named with { Name = $"und dann {named.Name} é" } : row);
        var shown = renamed.WithRows(row => Each(row, text => StoredText.Show(text, new ModelIndex(renamed))));
        Assert.Equal(Meaning(renamed), Meaning(shown));
        return renamed;
    });

    [Fact]
    public void With_what_stands_below_taken_from_another_product() => HeldFor(6, document =>
    {
        var below = document.Assemblies.Single(a => a.Id == "door");
        var alone = new ModelDocument { Id = "ds", Code = "DS", Root = "door", Lists = [.. document.Lists.Where(l => l.Id == "walls")], Assemblies = [below] };
        // Bound to ids or by names, it is the same.
        var released = new BoundModel(document.Assemblies[0].Rows.Count() % 2 == 0 ? ModelEditor.BindNames(alone, RandomModels.Facts).Document! : alone,
            RandomModels.Facts);
        return (document with
        {
            Assemblies = document.Assemblies.Remove(below),
            Lists = [.. document.Lists.Where(l => l.Id != "walls")],
            Reused = [Reuse.Of(released, 3, "zz")],
        }).WithRows(r => r is Subassembly place
            ? place with { AssemblyId = "zz", Inputs = [.. place.Inputs.Select(i => i with { AttributeId = "zz." + i.AttributeId })] } : r);
    }, text => text.Replace("zz.", "", StringComparison.Ordinal));

    [Fact]
    public void Out_to_a_file_and_in_again() => HeldFor(5, document =>
    {
        var written = ModelJson.Write(new() { Model = document, Library = RandomModels.Facts });
        var read = ModelJson.Read(Encoding.UTF8.GetBytes(written));
        Assert.Null(read.Error);
        Assert.Equal(written, ModelJson.Write(read.Package!));
        return read.Package!.Model;
    });

    [Fact]
    public void A_file_cut_off_anywhere_is_refused_with_a_sentence()
    {
        var written = Encoding.UTF8.GetBytes(ModelJson.Write(new() { Model = new RandomModels(3).Next(), Library = RandomModels.Facts }));
        for (var length = 0; length < written.Length - 2; length += 97)
            Assert.False(string.IsNullOrWhiteSpace(ModelJson.Read(written[..length]).Error));
    }
}
