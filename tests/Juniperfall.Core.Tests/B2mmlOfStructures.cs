using System.Xml.Linq;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Structures;
using Juniperfall.Formats.Structures;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Structures as B2MML: that it says what it means, and names nothing that is not in it.</summary>
public class B2mmlOfStructures
{
    private static readonly XNamespace B = B2mml.Namespace;

    private static XElement Written(BoundModel model, Structure structure, Exact quantity) =>
        XDocument.Parse(B2mml.Write(new StructureWriter(model, new(model)).Of(structure, default, quantity, [], []))).Root!;

    private static OperationLine Operation(string id, int sequence, string parallel = "") =>
        new()
        {
            Id = id,
            Name = id,
            Sequence = sequence,
            WorkCentre = "BENCH",
            Run = "6 min",
            Parallel = parallel,
            Label = new(LocalText.English(id).Texts.Add("de", id + " de")),
            Instructions = new(LocalText.English("do").Texts.Add("de", "tu"))
        };

    [Fact]
    public void Operations_follow_one_another_and_those_of_a_group_start_together_after_the_end_of_all_before()
    {
        var model = Sound(Assembly("room", Operation("cut", 10), Operation("foam", 20, "x"), Operation("wire", 30, "x"), Operation("pack", 40),
            Operation("label", 50)));
        var segments = Written(model, StructureBuilder.Build(model, new Dictionary<string, Value>()).Structure!, 1).Descendants(B + "OperationsSegment")
            .ToList();
        Assert.Equal(["", "AfterEnd 10-1", "AfterEnd 10-1, AtStart 20-2", "AfterEnd 30-3, AfterEnd 20-2", "AfterEnd 40-4"],
            segments.Select(s => string.Join(", ",
                s.Elements(B + "SegmentDependency").Select(d => $"{d.Element(B + "Dependency")!.Value} {d.Element(B + "SegmentID")!.Value}"))));
        // Each has one text a language, and produces the item.
        Assert.All(segments, s => Assert.Equal(["de", "en"], s.Elements(B + "Description").Select(d => d.Attribute("languageID")!.Value).Order()));
        Assert.All(segments, s => Assert
            .Equal(["CR"], s.Elements(B + "MaterialSpecification").Where(m => m.Element(B + "MaterialUse")!.Value == "Produced")
            .Select(m => m.Element(B + "MaterialDefinitionID")!.Value)));
        Assert.All(segments, s => Assert
            .Equal(["de tu", "en do"], s.Elements(B + "Parameter").Single(p => p.Element(B + "ID")!.Value == "Instructions").Elements(B + "Description")
            .Select(d => $"{d.Attribute("languageID")!.Value} {d.Value}").Order()));
    }

    [Fact]
    public void The_id_of_an_instance_stays_the_same_whatever_the_others_are()
    {
        var model = Sound(
            Assembly("room", Whole("n", 1, 3),
                new Subassembly
                {
                    Id = "doors",
                    Name = "doors",
                    AssemblyId = "door",
                    Item = "DOOR",
                    InstanceCount = "n",
                    Instances = [new() { Id = "1" }, new() { Id = "2" }, new() { Id = "3" }]
                }),
            Assembly("door", YesNo("wide"), new PartLine { Id = "p", Item = "BOLT", Quantity = "if wide then 8 else 6" }));
        IEnumerable<string> Ids(params string[] picks) =>
            Written(model, StructureBuilder.Build(model, SmallModels.Picks(model, picks).ToDictionary(p => p.Path, p => p.Value)).Structure!, 2)
            .Descendants(B + "OperationsDefinition").Select(d => d.Element(B + "ID")!.Value).Order(StringComparer.Ordinal);
        Assert.Equal(["CR", "DOOR/doors"], Ids("n=1", "doors[1].wide=yes"));
        Assert.Equal(["CR", "DOOR/doors[1]", "DOOR/doors[2]"], Ids("n=2", "doors[1].wide=yes", "doors[2].wide=no"));
        Assert.Equal(["CR", "DOOR/doors[1]", "DOOR/doors[2]"], Ids("n=3", "doors[1].wide=yes", "doors[2].wide=no", "doors[3].wide=yes"));
        Assert.Equal(["CR", "DOOR/doors[1]", "DOOR/doors[3]"], Ids("n=3", "doors[1].wide=no", "doors[2].wide=no", "doors[3].wide=yes"));
    }

    [Fact]
    public void Of_the_demo_every_id_that_is_named_is_in_the_file_and_the_order_takes_what_is_used_in_all()
    {
        foreach (var (model, structure) in DemoModel.Structures())
        {
            var xml = Written(model, structure, 5);
            HashSet<string> IdsOf(string element) => [.. xml.Descendants(B + element).Select(e => e.Element(B + "ID")!.Value)];
            Assert.Equal(xml.Descendants(B + "OperationsDefinition").Count(), IdsOf("OperationsDefinition").Count);
            Assert.Subset(IdsOf("MaterialDefinition"), xml.Descendants(B + "MaterialDefinitionID").Select(e => e.Value).ToHashSet());
            Assert.Subset(IdsOf("OperationsMaterialBill"), xml.Descendants(B + "AssemblyBillOfMaterialID").Select(e => e.Value).ToHashSet());
            Assert.Subset(IdsOf("OperationsDefinition"), xml.Descendants(B + "OperationsDefinitionID").Select(e => e.Value).ToHashSet());
            foreach (var definition in xml.Descendants(B + "OperationsDefinition"))
                Assert.Subset(definition.Descendants(B + "OperationsSegment").Select(s => s.Element(B + "ID")!.Value).ToHashSet(),
                    definition.Descendants(B + "SegmentID").Select(s => s.Value).ToHashSet());
            // What all requirements consume of what is not made here is the consumption of the order.
            var made = xml.Descendants(B + "MaterialRequirement").Where(m => m.Element(B + "MaterialUse")!.Value == "Produced")
                .Select(m => m.Element(B + "MaterialDefinitionID")!.Value).ToHashSet();
            var consumed = xml.Descendants(B + "MaterialRequirement").Where(m => m.Element(B + "MaterialUse")!.Value == "Consumed")
                .GroupBy(m => m.Element(B + "MaterialDefinitionID")!.Value).Where(g => !made.Contains(g.Key))
                .ToDictionary(g => g.Key, g => g.Aggregate(Exact.Zero, (sum, m) => sum + Exact.Parse(m.Descendants(B + "QuantityString").Single().Value)));
            Assert.Equal(new RollUp(model.Facts).Ordered(structure, 5).Consumption(model.Facts).ToDictionary(c => c.Item, c => c.Gross), consumed);
        }
    }
}
