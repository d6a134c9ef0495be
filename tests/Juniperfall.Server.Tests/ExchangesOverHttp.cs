using System.Net;
using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>An item exchanged for another one over models, looked at before and made as edits of drafts.</summary>
public sealed class ExchangesOverHttp(Served served) : IClassFixture<Served>
{
    private static async Task<string> Item(HttpClient client, string unit = "", string cost = "0.5")
    {
        var number = $"EX-{Guid.NewGuid().ToString("N")[..8].ToUpperInvariant()}";
        var stored = await client.Post("/api/library/items/rows", new
        {
            columns = new[] { "number", "description", "unit", "kind", "cost", "weight kg", "store HAL", "store ELL" },
            rows = new[] { new[] { number, "Made up", unit, "bought", cost, "0.2", "Raw", "" } },
        }).Json();
        Assert.True((bool)stored["stored"]!, stored.ToJsonString());
        return number;
    }

    private static async Task<JsonNode> Of(HttpClient client, string from, object asked, string model)
    {
        var seen = await client.Post($"/api/items/{from}/exchange/preview", asked).Json();
        return seen["products"]!.AsArray().Single(p => (long)p!["touched"]!["revisionId"]! == long.Parse(model.Split('/')[^1],
            System.Globalization.CultureInfo.InvariantCulture))!;
    }

    private static string Bolts(JsonNode revision, string rowId = "bolts") => (string)revision["document"]!["assemblies"]![0]!["topics"]![0]!["rows"]!.AsArray()
        .Single(r => (string)r!["id"]! == rowId)!["item"]!;

    [Fact]
    public async Task It_is_seen_in_every_product_before_it_is_made_as_one_edit_of_each_draft()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (old, other) = (await Item(engineer), await Item(engineer, cost: "0.75"));
        var (draft, _) = await engineer.Draft();
        var (released, _) = await engineer.Draft();
        foreach (var path in new[] { draft, released })
            await engineer.Edit(path, Set("bolts", "item", old, "SCRW-K"));
        await approver.Released(released);
        var revision = long.Parse(released.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        await engineer.Post("/api/configurations",
            new { id = Guid.NewGuid(), name = "Three", revisionId = revision, picks = new[] { new { path = "n", value = "3" } } });

        var seen = await Of(engineer, old, new { with = other }, released);
        var place = Assert.Single(seen["places"]!.AsArray())!;
        Assert.Equal(("bolts", "item", old, other), ((string)place["rowId"]!, (string)place["field"]!, (string)place["before"]!, (string)place["after"]!));
        var touched = seen["touched"]!["entries"]!.AsArray().Single()!;
        var cost = touched["changes"]!.AsArray().Single(c => (string)c!["of"]! == "cost")!;
        // Twelve of them, each a quarter more.
        Assert.Equal(("changes", "3"), ((string)touched["kind"]!, (string)cost["by"]!));
        // Nothing is stored by looking.
        Assert.Equal(old, Bolts(await engineer.Get(draft)));

        object Chosen(JsonNode of) => new { revisionId = (long)of["touched"]!["revisionId"]!, head = (long)of["head"]! };
        var looked = await Of(engineer, old, new { with = other }, draft);
        var exchange = new { id = Guid.NewGuid(), with = other, revisions = new[] { Chosen(looked), Chosen(seen) } };
        var made = (await engineer.Post($"/api/items/{old}/exchange", exchange).Json()).AsArray();
        Assert.All(made, m => Assert.Equal((1, ""), ((int)m!["places"]!, (string)m["why"]!)));
        Assert.Equal(other, Bolts(await engineer.Get(draft)));
        // Of the released one it is the next draft.
        var next = (long)made[1]!["revisionId"]!;
        Assert.NotEqual(revision, next);
        Assert.Equal((old, other), (Bolts(await engineer.Get(released)), Bolts(await engineer.Get($"/api/revisions/{next}"))));
        // What was looked at has changed since, and is left; an undo takes back the whole.
        var again = (await engineer.Post($"/api/items/{old}/exchange", exchange).Json()).AsArray();
        Assert.All(again, m => Assert.NotEmpty((string)m!["why"]!));
        await engineer.Post($"{draft}/undo", new { id = Guid.NewGuid() });
        Assert.Equal(old, Bolts(await engineer.Get(draft)));
    }

    [Fact]
    public async Task From_a_day_on_both_are_there_and_what_is_missing_at_a_site_is_told()
    {
        using var engineer = await served.As("engineer");
        var (old, other) = (await Item(engineer), await Item(engineer));
        var (draft, _) = await engineer.Draft();
        await engineer.Edit(draft, Set("bolts", "item", old, "SCRW-K"));
        var seen = await Of(engineer, old, new { with = other, from = "2027-03-01" }, draft);
        Assert.Equal("2027-03-01", (string)seen["places"]![0]!["from"]!);
        Assert.All(seen["sites"]!.AsArray(), s => Assert.Empty(s!["more"]!.AsArray()));
        var chosen = new { revisionId = (long)seen["touched"]!["revisionId"]!, head = (long)seen["head"]! };
        await engineer.Post($"/api/items/{old}/exchange", new { id = Guid.NewGuid(), with = other, from = "2027-03-01", revisions = new[] { chosen } });
        async Task<string> On(string date) => (string)(await engineer.Post($"{draft}/answer", new { picks = Array.Empty<object>(), date }).Answer())
            ["structure"]!["bom"]![0]!["item"]!;
        Assert.Equal((old, other), (await On("2027-02-28"), await On("2027-03-01")));

        // One that no site keeps could not be built anywhere.
        var homeless = $"EX-{Guid.NewGuid().ToString("N")[..8].ToUpperInvariant()}";
        await engineer.Post("/api/library/items/rows", new { columns = new[] { "number", "cost" }, rows = new[] { new[] { homeless, "1" } } });
        var bad = await Of(engineer, old, new { with = homeless }, draft);
        Assert.Contains(bad["sites"]!.AsArray(), s => s!["more"]!.AsArray().Any(m => ((string)m!).Contains(homeless, StringComparison.Ordinal)));
    }

    [Fact]
    public async Task What_cannot_be_exchanged_says_why_and_changes_nothing()
    {
        using var engineer = await served.As("engineer");
        var (old, inMetres) = (await Item(engineer), await Item(engineer, "m"));
        var (draft, _) = await engineer.Draft();
        await engineer.Edit(draft, Set("bolts", "item", old, "SCRW-K"));
        foreach (var (with, pointer) in new[] { ("NO-SUCH", "/with"), (old, "/with") })
            Assert.Equal(pointer, (string)(await engineer.Post($"/api/items/{old}/exchange/preview", new { with }).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.Post("/api/items/NO-SUCH/exchange/preview", new { with = old })).StatusCode);
        var seen = await Of(engineer, old, new { with = inMetres }, draft);
        Assert.Contains("conversion", (string)Assert.Single(seen["left"]!.AsArray())!["why"]!);
        Assert.Empty(seen["places"]!.AsArray());
        var chosen = new { revisionId = (long)seen["touched"]!["revisionId"]!, head = (long)seen["head"]! };
        var made = (await engineer.Post($"/api/items/{old}/exchange", new { id = Guid.NewGuid(), with = inMetres, revisions = new[] { chosen } }).Json()).AsArray();
        Assert.Equal("Nothing here can be exchanged.", (string)made[0]!["why"]!);
        Assert.Equal(chosen.head, (long)(await engineer.Get(draft))["head"]!);

        // A product that is itself an item: it cannot become a part of what is a part of it.
        var code = (string)(await engineer.Get(draft))["document"]!["code"]!;
        async Task Made(string number) => await engineer.Post("/api/library/items/rows",
            new { columns = new[] { "number", "cost", "kind" }, rows = new[] { new[] { number, "1", "made" } } });
        await Made(code);
        var (above, _) = await engineer.Draft();
        await engineer.Edit(above, Set("bolts", "item", code, "SCRW-K"));
        var parent = (string)(await engineer.Get(above))["document"]!["code"]!;
        await Made(parent);
        var circle = await Of(engineer, old, new { with = parent }, draft);
        Assert.Contains(circle["touched"]!["faults"]!.AsArray(), f => ((string)f!).Contains("each would contain the other", StringComparison.Ordinal));
        made = (await engineer.Post($"/api/items/{old}/exchange", new { id = Guid.NewGuid(), with = parent, revisions = new[] { chosen } }).Json()).AsArray();
        Assert.Contains("each would contain the other", (string)made[0]!["why"]!);
    }
}
