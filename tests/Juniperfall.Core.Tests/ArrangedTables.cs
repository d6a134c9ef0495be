using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Library;
using Juniperfall.Formats.Library;

namespace Juniperfall.Core.Tests;

/// <summary>Tables of the library searched, filtered and sorted.</summary>
public class ArrangedTables
{
    private static readonly LibraryTable<ItemFact> Table = LibraryTables.Items([]);

    private static readonly ItemFact[] Items =
    [
        Item("PNL-100", "Panel", "12.5"), Item("PNL-20", "Panel, narrow", "9"), Item("BOLT", "Bolt for panels", ""), Item("SEAL", "Door seal", "110"),
    ];

    private static ItemFact Item(string number, string description, string cost)
    {
        var item = new ItemFact { Number = number, Cost = cost };
        return Table.ColumnOf("description")!.Read(item, description).Thing;
    }

    private static string[] Numbers(Arrangement wanted) => [.. wanted.Of(Table, Items).Select(i => i.Number)];

    [Theory]
    [InlineData("cost", false, "PNL-20 PNL-100 SEAL BOLT")]
    [InlineData("cost", true, "SEAL PNL-100 PNL-20 BOLT")]
    [InlineData("number", false, "BOLT PNL-20 PNL-100 SEAL")]
    [InlineData(null, false, "BOLT PNL-100 PNL-20 SEAL")]
    public void Numbers_are_sorted_by_size_texts_by_the_numbers_in_them_and_empty_cells_stand_last(string? column, bool descending, string order) =>
        Assert.Equal(order.Split(' '), Numbers(new("", column, descending, [])));

    [Fact]
    public void A_search_looks_in_numbers_and_descriptions_and_puts_numbers_that_begin_with_it_first()
    {
        Assert.Equal(["BOLT", "PNL-100", "PNL-20"], Numbers(Arrangement.None with { Search = "panel" }));
        Assert.Equal(["PNL-100", "PNL-20"], Numbers(Arrangement.None with { Search = "pnl" }));
    }

    /// <summary>The front end filters tables that it holds whole by the same pairs of filter and cell.</summary>
    [Fact]
    public void A_filter_takes_cells_by_text_or_by_number()
    {
        foreach (var pair in JsonNode.Parse(File.ReadAllText(Path.Combine(Architecture.Root, "tests", "models", "cell-filters.json")))!.AsArray())
            Assert.True((bool)pair!["takes"]! == CellFilter.Of((string)pair["filter"]!)!.Takes((string)pair["cell"]!), pair.ToJsonString());
    }

    [Fact]
    public void A_search_looks_at_descriptions_in_every_language()
    {
        var german = Table.ColumnOf("description de")!.Read(Items[0], "Wandelement").Thing;
        var wanted = Arrangement.None with { Search = "wandel" };
        Assert.Equal(["PNL-100"], wanted.Of(Table, [german, .. Items[1..]]).Select(i => i.Number));
        Assert.Empty(wanted.Of(Table, Items));
    }

    [Fact]
    public void Filters_hold_together_and_a_blank_one_asks_for_nothing()
    {
        Assert.Equal(["PNL-20"], Numbers(Arrangement.None with { Filters = [("number", "pnl"), ("cost", "<10")] }));
        Assert.Equal(4, Numbers(Arrangement.None with { Filters = [("cost", "  ")] }).Length);
        Assert.Equal("nothing", new Arrangement("", "nothing", false, []).UnknownColumn(Table));
        Assert.Null(new Arrangement("", "cost", false, [("number", "x")]).UnknownColumn(Table));
    }
}
