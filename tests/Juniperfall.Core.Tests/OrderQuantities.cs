using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures;
using Juniperfall.Formats.Structures;
using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>What a structure comes to for an order: by line, by operation, by item, and adding up.</summary>
public class OrderQuantities
{
    private static BoundModel Model => new(new()
    {
        Id = "m",
        Code = "CR",
        Root = "room",
        Assemblies =
        [
            Assembly("room", new PartLine { Id = "p1", Item = "BOLT", Quantity = "7" },
                new PartLine { Id = "p2", Item = "SEAL", Quantity = "12 m", PerOrder = true },
                new Subassembly { Id = "doors", Name = "doors", AssemblyId = "door", Quantity = "2", Instances = [new() { Id = "1" }] },
                new OperationLine { Id = "o1", Name = "pack", Sequence = 10, WorkCentre = "BENCH", Setup = "30 min", Run = "6 min" }),
            Assembly("door", new PartLine { Id = "p3", Item = "BOLT", Quantity = "3", Scrap = "10", Step = "0.5" },
                new OperationLine { Id = "o2", Name = "foam", Sequence = 10, WorkCentre = "BENCH", Setup = "10 min", Run = "8 min", Batch = "4" }),
        ],
    }, Facts with { Items = Facts.Items.SetItem("BOLT", Facts.Items["BOLT"] with { OrderMultiple = "50" }) });

    private static Structure Built(BoundModel model) => StructureBuilder.Build(model, ImmutableDictionary<string, Value>.Empty).Structure!;

    [Fact]
    public void An_order_of_five_needs_five_times_what_a_piece_needs_and_once_what_an_order_needs()
    {
        var model = Model;
        var order = new RollUp(model.Facts).Ordered(Built(model), 5);
        Assert.Equal(new Exact[] { 35, 12, 10 }, order.Lines.Select(l => l.Gross));
        var doors = order.Lines[2].Below!;
        Assert.Equal(((Exact)10, 1), (doors.Quantity, doors.Lots));
        // Three with 10 % scrap are 3.3, in halves 3.5, for ten doors 35.
        Assert.Equal(((Exact)30, (Exact)35), (doors.Lines[0].Net, doors.Lines[0].Gross));
        // Ten doors in batches of four are three runs.
        Assert.Equal(((Exact)600, (Exact)(3 * 480)), (doors.Operations[0].Setup, doors.Operations[0].Run));
        Assert.Equal(((Exact)1800, (Exact)(5 * 360)), (order.Operations[0].Setup, order.Operations[0].Run));
        // 35 + 35 bolts are ordered in fifties.
        Assert.Equal([("BOLT", 65, 70, 100), ("SEAL", 12, 12, 12)],
            order.Consumption(model.Facts).Select(c => (c.Item, (int)c.Net.Numerator, (int)c.Gross.Numerator, (int)c.ToOrder.Numerator)));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(3)]
    [InlineData(10)]
    public void Lines_and_operations_add_up_to_the_piece_and_to_the_order_at_every_level(int quantity)
    {
        foreach (var (model, structure) in new[] { (Model, Built(Model)) }.Concat(DemoModel.Structures()))
        {
            var order = new RollUp(model.Facts).Ordered(structure, quantity);
            foreach (var made in order.Levels())
            {
                var parts = made.Lines.Select(l => l.Totals).Concat(made.Operations.Select(o => o.Totals)).ToList();
                Assert.Equal(made.All, parts.Aggregate(Totals.Zero, (sum, t) => sum + t));
                Assert.Equal(made.EachOf(made.All), parts.Select(made.EachOf).Aggregate(Totals.Zero, (sum, t) => sum + t));
                Assert.All(made.Lines, l => Assert.Equal(l.Line.PerOrder ? l.Line.Gross * made.Lots : l.Line.Gross * made.Quantity, l.Gross));
            }
            // What goes out as a file says the same.
            var file = new StructureWriter(model, new(model)).Of(structure, default, quantity, [], []);
            Assert.Equal(Exact.Parse(file.Piece.Cost).ToDisplay(6),
                file.Structure.Lines.Select(l => l.Cost).Concat(file.Structure.Operations.Select(o => o.Cost))
                .Aggregate(Exact.Zero, (sum, c) => sum + Exact.Parse(c)).ToDisplay(6));
            Assert.Equal(StructureWriter.Made(file.Structure).SelectMany(m => m.Made.Lines).Where(l => l.Structure is null).GroupBy(l => l.Item)
                .OrderBy(g => g.Key, StringComparer.Ordinal)
                .Select(g => (g.Key, g.Aggregate(Exact.Zero, (sum, l) => sum + Exact.Parse(l.OrderGross)))),
                    file.Consumption.Select(c => (c.Item, Exact.Parse(c.Gross))));
        }
    }
}
