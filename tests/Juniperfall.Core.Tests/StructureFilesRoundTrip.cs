using System.Text.Json;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats.Structures;

namespace Juniperfall.Core.Tests;

/// <summary>Structure files are read as they were written, and explain each of their numbers.</summary>
public class StructureFilesRoundTrip
{
    [Fact]
    public void A_file_is_read_as_it_was_written()
    {
        foreach (var (model, structure, values) in DemoModel.StructuresWithValues())
        {
            var words = new ModelWording(model);
            var explainer = new StructureExplainer(model, words, values, default, withSteps: true);
            var price = PriceFile.Of(model, Pricing.Of(model, values), null, 3, explainer);
            var written = StructureWriter.Json(new StructureWriter(model, words, explainer).Of(structure, default, 3, [], []) with { Price = price });
            var read = JsonSerializer.Deserialize<StructureFile>(written, DocumentJson.Options)!;
            Assert.Equal(written, StructureWriter.Json(read));
        }
    }

    [Fact]
    public void The_last_step_of_each_formula_comes_to_the_number_of_its_line()
    {
        var explained = 0;
        foreach (var (model, structure, values) in DemoModel.StructuresWithValues())
        {
            var words = new ModelWording(model);
            var file = new StructureWriter(model, words, new(model, words, values, default, withSteps: true)).Of(structure, default, 1, [], []);
            foreach (var (made, _) in StructureWriter.Made(file.Structure))
            {
                foreach (var line in made.Lines)
                {
                    var from = line.Explanation!;
                    Assert.Equal(model.Index.AssemblyOfRow[from.Row].Id, from.Assembly);
                    Assert.All(from.Because.Concat(from.FormulaBecause), b => Assert.Equal(words.LabelAt(b.Path), b.Label));
                    if (from.Steps is not [.., var last] || model.Index.Rows[from.Row] is not PartLine { Step: "" } || line.Instances.Length > 1)
                        continue;
                    var at = words.Places[from.Place];
                    var quantity = new Evaluator(model, values, default).Evaluate(model.Expression(from.Row, "quantity")!, at.Prefix).Number;
                    Assert.True(Exact.TryParse(line.Net, out var net) && Unit.TryParse(line.Unit.Length == 0 ? "1" : line.Unit) is { } unit
                        && unit.FromBase(quantity) == net, $"{line.Item}: {last.Text} = {last.Result}, not {line.Net}");
                    explained++;
                }
            }
        }
        Assert.True(explained >= 8, $"{explained}");
    }
}
