using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;

namespace Juniperfall.Core.Tests;

/// <summary>Every example of docs/language.md: blocks marked <c>true</c> hold as they stand, those marked <c>cold-room</c> are sound there.</summary>
public class LanguageGuide
{
    private static IEnumerable<string> Examples(string mark)
    {
        var inside = false;
        foreach (var line in File.ReadLines(DemoModel.RepositoryFile("docs", "language.md")))
        {
            if (line.StartsWith("```", StringComparison.Ordinal))
                inside = line == "```" + mark;
            else if (inside && line.Length > 0)
                yield return line;
        }
    }

    [Fact]
    public void Statements_over_constants_hold()
    {
        var model = new BoundModel(new() { Id = "m", Code = "M", Root = "a", Assemblies = [new() { Id = "a", Name = "a" }] }, LibraryFacts.Empty);
        Assert.NotEmpty(Examples("true"));
        foreach (var example in Examples("true"))
        {
            var bound = model.Check(model.Document.Assemblies[0], example, ExpressionType.YesNo).Expression;
            Assert.True(bound is not null && new Evaluator(model, new Dictionary<string, Value>()).Evaluate(bound, "") == Value.Of(true), example);
        }
    }

    [Fact]
    public void Sentences_about_the_cold_room_are_sound()
    {
        var model = DemoModel.Room.Value.Model;
        Assert.NotEmpty(Examples("cold-room"));
        foreach (var example in Examples("cold-room"))
        {
            var result = model.Check(model.Index.Root!, example, null);
            Assert.True(result.Expression is not null, $"{example}: {string.Join(" ", result.Diagnostics.Select(d => d.Message))}");
        }
    }
}
