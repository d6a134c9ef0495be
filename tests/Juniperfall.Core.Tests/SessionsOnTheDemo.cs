using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Formats;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Sessions on models with numbers: what a reasoner says that has answered others before is what the older way says, which is taken where a
/// number has very many steps.
/// </summary>
public class SessionsOnTheDemo
{
    private static readonly int Rounds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 60 : 4;

    [Theory]
    [InlineData("door-set")]
    [InlineData("strip-curtain")]
    public void Random_sessions_are_answered_as_by_the_older_way(string name)
    {
        var package = ModelJson.Read(File.ReadAllBytes(DemoModel.Files().First(f => Path.GetFileName(f) == $"{name}.json"))).Package!;
        AreTheSame(ModelEditor.BindNames(package.Model, package.Library).Document!, package.Library);
    }

    [Fact]
    public void A_list_of_more_values_than_are_listed_of_a_number_loses_none()
    {
        var list = new ValueList
        {
            Id = "list",
            Name = "list",
            Values = [.. Enumerable.Range(0, 300).Select(v => new ListValue { Id = "v" + v, Code = "w" + v })]
        };
        Row[] rows =
        [
            new AttributeRow { Id = "unit", Name = "unit", Kind = AttributeKind.Choice, ListId = "list", Required = true },
            new AttributeRow { Id = "small", Name = "small", Kind = AttributeKind.YesNo, Required = true },
            new AttributeRow { Id = "size", Name = "size", Kind = AttributeKind.Whole, Min = "1", Max = "250", Required = true },
            new StatementRule { Id = "r1", Number = 1,
                Expression = $"if small then unit in ({string.Join(", ", Enumerable.Range(0, 150).Select(v => "w" + v * 2))})" },
            new StatementRule { Id = "r2", Number = 2, Expression = "if small then size <= 120" },
        ];
        var document = new ModelDocument { Id = "m", Code = "CR", Root = "root", Lists = [list], Assemblies = [SmallModels.Assembly("root", rows)] };
        AreTheSame(document, LibraryFacts.Empty);
        var answer = new Reasoner(new BoundModel(document, LibraryFacts.Empty)).Answer(new([new("small", Value.Of(false))]), default);
        Assert.Equal(300, answer.Attributes.Single(a => a.Path == "unit").Available.Values.Length);
        Assert.Equal((1, 250), ((int)answer.Attributes.Single(a => a.Path == "size").Available.Lowest!.Value.Numerator,
            (int)answer.Attributes.Single(a => a.Path == "size").Available.Highest!.Value.Numerator));
    }

    private static void AreTheSame(ModelDocument document, LibraryFacts library)
    {
        var beside = new AttributeRow { Id = "beside", Name = "beside", Kind = AttributeKind.Whole, Min = "0", Max = "1000000", Required = false };
        var root = document.Assemblies.First(a => a.Id == document.Root);
        var other = document with
        {
            Assemblies =
            [.. document.Assemblies.Select(a => a != root ? a : a with { Topics = [.. a.Topics, new() { Id = "tbeside", Rows = [beside] }] })]
        };
        var (mine, theirs) = (new Reasoner(new BoundModel(document, library)), new Reasoner(new BoundModel(other, library)));
        for (var seed = 0; seed < Rounds; seed++)
        {
            var random = new Random(seed);
            var picks = ImmutableArray<Pick>.Empty;
            for (var step = 0; step < 10; step++)
            {
                var (a, b) = (mine.Answer(new(picks), default), theirs.Answer(new(picks), default));
                Assert.Equal(b.Valid, a.Valid);
                foreach (var (x, y) in a.Attributes.Zip(b.Attributes.Where(r => r.Path != "beside")))
                    Assert.True(x.Path == y.Path && Same(x.Available, y.Available) && Same(x.Alternatives, y.Alternatives),
                        $"seed {seed}, step {step}, {x.Path}: {string.Join(" ", x.Available.Values.Except(y.Available.Values))} more, "
                            + $"{string.Join(" ", y.Available.Values.Except(x.Available.Values))} less");
                var open = a.Attributes.Where(r => r.Available.Values.Length > 1 && picks.All(p => p.Path != r.Path)).ToList();
                if (open.Count == 0)
                    break;
                var at = open[random.Next(open.Count)];
                picks = picks.Add(new(at.Path, at.Available.Values[random.Next(at.Available.Values.Length)]));
            }
        }
    }

    private static bool Same(Available? a, Available? b) => a is null || b is null ? a is null && b is null
        : a.None == b.None && a.MayBeAbsent == b.MayBeAbsent && a.Listed == b.Listed && a.Lowest == b.Lowest && a.Highest == b.Highest
            && (!a.Listed || a.Values.SequenceEqual(b.Values));
}
