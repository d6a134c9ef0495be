using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Formats;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>An item exchanged for another wherever a model names it, as an edit.</summary>
public class ExchangedItems
{
    private static readonly LibraryFacts Register = Facts with
    {
        Items = Facts.Items
            .Add("BAR", new() { Number = "BAR", Conversions = ImmutableSortedDictionary<string, string>.Empty.Add("m", "6") })
            .Add("COIL", new() { Number = "COIL", Unit = "m" })
            .Add("STUD", new() { Number = "STUD" }),
    };

    private static BoundModel Model(params Row[] rows) => new(new()
    {
        Id = "m",
        Code = "CR",
        Root = "room",
        Lists = [Cores],
        Assemblies = [Assembly("room", [Choice("core"), Length("width", 1000, 9000, 500), .. rows]),
            Assembly("leaf", new PartLine { Id = "hinge", Item = "BOLT", Quantity = "3" })],
    }, Register);

    private static (ItemExchange Exchange, BoundModel After) Exchanged(BoundModel model, string from, string to, DateOnly? day = null)
    {
        var ids = 0;
        Assert.DoesNotContain(model.Findings, f => f.Blocks);
        var exchange = ItemExchange.Of(model, from, to, day, () => $"new{++ids}");
        if (exchange.Steps.IsEmpty)
            return (exchange, model);
        var result = ModelEditor.Apply(model.Document, new("e", exchange.Steps), model.Facts);
        Assert.Null(result.Refusal);
        var after = new BoundModel(result.Document, model.Facts);
        Assert.DoesNotContain(after.Findings, f => f.Blocks);
        // As an edit it is taken back whole.
        Assert.Equal(Shown(model), Shown(new(ModelEditor.Apply(result.Document, new("back", result.Inverse), model.Facts).Document, model.Facts)));
        return (exchange, after);
    }

    /// <summary>A model as people read it, whatever of its texts is bound to ids already.</summary>
    private static string Shown(BoundModel model) => System.Text.Json.JsonSerializer.Serialize(new ShownDocument(model.Index).Document, DocumentJson.Options);

    private static PartLine Line(BoundModel model, string id) => (PartLine)model.Index.Rows[id];

    [Fact]
    public void It_is_exchanged_on_lines_as_a_substitute_in_lists_and_in_expressions()
    {
        var (exchange, after) = Exchanged(Model(
            new PartLine { Id = "fixed", Item = "BOLT", Quantity = "4" },
            new PartLine { Id = "other", Item = "STUD", Substitutes = "SEAL, BOLT" },
            new PartLine { Id = "by", ItemFrom = "if core = '80' then \"BOLT\" else core.item", Quantity = "1" }), "BOLT", "BAR");
        Assert.Equal(("BAR", "SEAL, BAR"), (Line(after, "fixed").Item, Line(after, "other").Substitutes));
        Assert.Contains("\"BAR\"", Line(after, "by").ItemFrom);
        Assert.Equal("BAR", after.Index.Lists["cores"].Values[0].Properties["item"]);
        Assert.Equal("BAR", Line(after, "hinge").Item);
        Assert.Empty(exchange.Left);
        Assert.False(LibraryUses.OfItem(after.Document, "BOLT"));
    }

    [Theory]
    [InlineData("BAR", "COIL", "2", "(2) * 6 m")] // Bars in metres.
    [InlineData("COIL", "BAR", "width * 2", "width * 2")] // The new one is told in metres, too.
    [InlineData("BAR", "COIL", "width", "width")] // It was in metres already.
    [InlineData("BAR", "STUD", "width", "(width) / (6 m)")] // From metres to pieces.
    public void A_quantity_is_carried_over_by_the_conversions_of_both(string from, string to, string before, string after)
    {
        var model = Exchanged(Model(new PartLine { Id = "line", Item = from, Quantity = before, Step = "1" }), from, to).After;
        Assert.Equal((to, after), (Line(model, "line").Item, StoredText.Show(Line(model, "line").Quantity, model.Index)));
        // What it was rounded up to was said in the unit of the old one.
        Assert.Equal(Register.Items[from].Unit == Register.Items[to].Unit ? "1" : "", Line(model, "line").Step);
    }

    [Fact]
    public void What_cannot_be_exchanged_is_left_and_says_why()
    {
        var model = Model(new PartLine { Id = "line", Item = "COIL", Quantity = "width" },
            new Subassembly { Id = "door", Name = "door", AssemblyId = "leaf", Make = SubassemblyKind.OwnItem, Item = "DOOR" });
        Assert.Equal(new("line", "item", LeftBecause.NoConversion), Assert.Single(Exchanged(model, "COIL", "PANEL").Exchange.Left));
        Assert.Equal(new("door", "item", LeftBecause.IsMadeHere), Assert.Single(Exchanged(model, "DOOR", "STUD").Exchange.Left));
        // The hinge is part of the door, which cannot be part of itself.
        Assert.Contains(new("hinge", "item", LeftBecause.WouldContainItself), Exchanged(model, "BOLT", "DOOR").Exchange.Left);
        Assert.Contains(new LeftPlace("c80", "properties/item", LeftBecause.HasNoDays), Exchanged(model, "BOLT", "STUD", new(2027, 3, 1)).Exchange.Left);
    }

    [Fact]
    public void From_a_day_on_there_are_two_lines_one_of_which_holds_on_any_day()
    {
        var (march, april) = (new DateOnly(2027, 3, 1), new DateOnly(2027, 4, 1));
        var model = Model(
            new PartLine { Id = "always", Item = "STUD", Quantity = "4", Figures = [new() { Id = "cut", Name = "cut", Expression = "width" }] },
            new PartLine { Id = "over", Item = "STUD", To = new(2027, 2, 1) },
            new PartLine { Id = "later", Item = "STUD", From = april },
            new PartLine { Id = "between", Item = "STUD", From = new(2027, 1, 1), To = april });
        var (exchange, after) = Exchanged(model, "STUD", "BOLT", march);
        foreach (var day in new[] { new DateOnly(2026, 12, 1), new(2027, 1, 15), new(2027, 2, 28), march, new(2027, 3, 31), april, new(2027, 4, 2) })
        {
            List<string> Items(BoundModel of) =>
                [.. of.Index.Root!.Rows.OfType<PartLine>().Where(p => new Effectivity(null, day).Includes(p)).Select(p => p.Item)];
            Assert.Equal(Items(model).Count, Items(after).Count);
            Assert.All(Items(after), i => Assert.Equal(day < march ? "STUD" : "BOLT", i));
        }
        Assert.Equal(3, exchange.Places.Length);
        Assert.Equal(after.Index.Rows.Count, after.Index.Rows.Values.SelectMany(r => r is PartLine p ? [p.Id, .. p.Figures.Select(f => f.Id)] : new[] { r.Id })
            .Except(["cut", "new2"]).Distinct().Count());
    }

    [Fact]
    public void Exchanged_there_and_back_a_demo_model_is_as_it_was()
    {
        var exchanged = 0;
        foreach (var file in DemoModel.Files())
        {
            var package = ModelJson.Read(File.ReadAllBytes(file)).Package!;
            var demo = new BoundModel(package.Model, package.Library);
            var named = demo.Document.Assemblies.SelectMany(a => a.Rows).OfType<PartLine>().Select(p => p.Item).Where(i => i.Length > 0).Distinct();
            foreach (var item in named.Where((_, i) => i % 6 == 0))
            {
                var facts = demo.Facts with { Items = demo.Facts.Items.Add("OTHER-1", demo.Facts.Items[item] with { Number = "OTHER-1" }) };
                var there = ItemExchange.Of(new(demo.Document, facts), item, "OTHER-1", null, () => Guid.NewGuid().ToString());
                Assert.Empty(there.Left);
                var result = ModelEditor.Apply(demo.Document, new("there", there.Steps), facts);
                Assert.Null(result.Refusal);
                var model = new BoundModel(result.Document, facts);
                Assert.DoesNotContain(model.Findings, f => f.Blocks);
                var back = ItemExchange.Of(model, "OTHER-1", item, null, () => Guid.NewGuid().ToString());
                Assert.Equal(there.Places.Length, back.Places.Length);
                Assert.Equal(Shown(demo), Shown(new(ModelEditor.Apply(result.Document, new("back", back.Steps), facts).Document, facts)));
                exchanged++;
            }
        }
        Assert.True(exchanged > 8, $"{exchanged} items");
    }
}
