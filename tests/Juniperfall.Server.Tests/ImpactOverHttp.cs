using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>What a draft makes of what is saved, over HTTP: found in the background, by the edit that does it, also where a product is reused.</summary>
public sealed class ImpactOverHttp(Served served) : IClassFixture<Served>
{
    private static async Task<JsonNode> Saved(HttpClient client, long revisionId, string name, params (string Path, string Value)[] picks) =>
        await client.Post("/api/configurations",
            new { id = Guid.NewGuid(), name, revisionId, picks = picks.Select(p => new { path = p.Path, value = p.Value }) }).Json();

    private static JsonNode Entry(JsonNode impact, string name) => impact["entries"]!.AsArray().Single(e => (string)e!["name"]! == name)!;

    [Fact]
    public async Task A_tightened_rule_breaks_what_it_must_and_a_quantity_changes_the_rest_each_by_its_edit()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, _) = await engineer.Draft();
        await approver.Released(path);
        var released = long.Parse(path.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        await Saved(engineer, released, "Two");
        await Saved(engineer, released, "Six", ("n", "6"));
        var seven = await Saved(engineer, released, "Seven", ("n", "7"));
        // A structure of what its configuration picks no more is held on to as well.
        (await engineer.Post($"/api/configurations/{seven["id"]}/structures", new { id = Guid.NewGuid(), quantity = "1" })).EnsureSuccessStatusCode();
        (await engineer.Put($"/api/configurations/{seven["id"]}", new { name = "Seven", picks = new[] { new { path = "n", value = "3" } }, version = 1 }))
            .EnsureSuccessStatusCode();
        var product = (string)(await engineer.Get(path))["productId"]!;
        var draft = $"/api/revisions/{(await engineer.Post($"/api/products/{product}/revisions", new { }).Json())["revisionId"]}";

        var untouched = await engineer.Finished($"{draft}/impact");
        Assert.Equal((4, 4, 0), ((int)untouched["all"]!, (int)untouched["counts"]!["same"]!, untouched["entries"]!.AsArray().Count));

        await engineer.Edit(draft, Set("few", "expression", "n < 5", "n < 8"));
        await engineer.Edit(draft, Set("few", "note", "As agreed.", null));
        await engineer.Edit(draft, Set("bolts", "quantity", "n * 5", "n * 4"));
        var impact = await engineer.Finished($"{draft}/impact");
        Assert.Equal((2, 2, 0), ((int)impact["counts"]!["breaks"]!, (int)impact["counts"]!["changes"]!, (int)impact["counts"]!["same"]!));
        Assert.Contains("n < 5", (string)Entry(impact, "Six")["because"]!);
        Assert.Equal("few", (string)Entry(impact, "Six")["rows"]![0]!["rowId"]!);
        Assert.Contains(impact["entries"]!.AsArray(), e => (bool)e!["isStructure"]! && (string)e["kind"]! == "breaks");
        var two = Entry(impact, "Two")["changes"]!.AsArray().Single(c => (string)c!["of"]! == "quantity")!;
        Assert.Equal(("8", "10", "2"), ((string)two["before"]!, (string)two["after"]!, (string)two["by"]!));
        // Each group names the edit that does it, and no other one.
        JsonNode EditOf(string kind) => impact["groups"]!.AsArray().Single(g => (string)g!["kind"]! == kind)!["edit"]!["edit"]!;
        Assert.Contains("n < 8 → n < 5", (string)EditOf("breaks")["changes"]![0]!["what"]!);
        Assert.Contains("n * 4 → n * 5", (string)EditOf("changes")["changes"]![0]!["what"]!);

        // What comes of costs is not for everyone.
        using var desk = await served.As("order desk");
        var seen = await desk.Get($"{draft}/impact");
        Assert.Contains(Entry(impact, "Two")["changes"]!.AsArray(), c => (string)c!["of"]! == "cost");
        Assert.DoesNotContain(seen["entries"]!.AsArray().SelectMany(e => e!["changes"]!.AsArray()), c => (string)c!["of"]! == "cost");

        // Mended, all is as it was; what is taken away breaks what picks it.
        await engineer.Edit(draft, Set("few", "expression", "n < 8", "n < 5"), Set("bolts", "quantity", "n * 4", "n * 5"));
        Assert.Equal(4, (int)(await engineer.Finished($"{draft}/impact"))["counts"]!["same"]!);
        await engineer.Edit(draft, Set("n", "max", "5", "9"));
        var gone = await engineer.Finished($"{draft}/impact");
        Assert.Equal((2, 2), ((int)gone["counts"]!["breaks"]!, (int)gone["counts"]!["same"]!));
    }

    [Fact]
    public async Task After_a_release_what_stays_the_same_is_moved_at_once_the_rest_by_name_and_what_breaks_stays()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, _) = await engineer.Draft();
        await approver.Released(path);
        var first = long.Parse(path.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        var (two, six) = (await Saved(engineer, first, "Two"), await Saved(engineer, first, "Six", ("n", "6")));
        var five = await Saved(engineer, first, "Five", ("n", "5"));
        var product = (string)(await engineer.Get(path))["productId"]!;
        var next = (long)(await engineer.Post($"/api/products/{product}/revisions", new { }).Json())["revisionId"]!;
        var draft = $"/api/revisions/{next}";
        await engineer.Edit(draft, Set("few", "expression", "n < 6", "n < 8"), Set("bolts", "quantity", "n * 4 + (if n = 5 then 1 else 0)", "n * 4"));
        Assert.Equal(409, (int)(await engineer.Post($"{draft}/impact/move", new { }).Json())["status"]!);
        await approver.Released(draft);
        await engineer.Finished($"{draft}/impact");
        var same = await engineer.Post($"{draft}/impact/move", new { }).Json();
        Assert.Equal((1, 0), ((int)same["moved"]!, same["notMoved"]!.AsArray().Count));
        // Someone changes one of those that are left meanwhile.
        (await engineer.Put($"/api/configurations/{five["id"]}",
            new { name = "Five, at the end", picks = new[] { new { path = "n", value = "5" } }, version = 1 }))
            .EnsureSuccessStatusCode();
        var ids = new[] { five, six }.Select(c => (string)c["id"]!);
        // What has changed is asked again first.
        Assert.Equal(409, (int)(await engineer.Post($"{draft}/impact/move", new { ids }).Json())["status"]!);
        await engineer.Finished($"{draft}/impact");
        var rest = await engineer.Post($"{draft}/impact/move", new { ids }).Json();
        async Task<long> On(JsonNode of) => (long)(await engineer.Get($"/api/configurations/{of["id"]}"))["revisionId"]!;
        Assert.Contains(rest["notMoved"]!.AsArray(), n => (string)n!["name"]! == "Six" && ((string)n["why"]!).Contains("n < 6", StringComparison.Ordinal));
        Assert.Equal((next, first, next), (await On(two), await On(six), await On(five)));
    }

    [Fact]
    public async Task A_change_of_the_library_tells_what_it_would_touch_and_stores_nothing()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, model) = await engineer.Draft();
        var facts = await engineer.Post($"{path}/cases/facts", new { picks = new[] { new { path = "n", value = "3" } }, quantity = "1" }).Json();
        await engineer.Edit(path, Add(model, "cases", new
        {
            id = $"c{Guid.NewGuid():N}",
            name = "Three",
            picks = facts["picks"],
            expected = facts["facts"]!.AsArray().Where(f => (string)f!["of"]! is "verdict" or "cost")
                .Select(f => new { of = (string)f!["of"]!, at = (string)f["at"]!, @is = (string)f["is"]! }),
        }));
        var code = (string)(await engineer.Get(path))["document"]!["code"]!;
        await approver.Released(path);
        await Saved(engineer, long.Parse(path.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture), "Two");
        var item = (await engineer.Get("/api/items/SCRW-K"))["item"]!;
        Task<HttpResponseMessage> Suppose(string column, string value) =>
            engineer.Post("/api/library/items/impact", new { columns = new[] { "number", column }, rows = new[] { new[] { "SCRW-K", value } } });

        var dearer = await Suppose("cost", "99").Json();
        Assert.True((bool)dearer["finished"]!);
        var touched = dearer["products"]!.AsArray().Single(p => (string)p!["code"]! == code)!;
        Assert.Equal((1, 1, 1), ((int)touched["cases"]!, (int)touched["failingCases"]!, (int)touched["asked"]!));
        Assert.StartsWith("Three: Cost of the order", (string)touched["failing"]![0]!);
        Assert.Contains(Entry(touched, "Two")["changes"]!.AsArray(), c => (string)c!["of"]! == "cost");
        Assert.Contains(dearer["products"]!.AsArray(), p => (string)p!["code"]! == "CR");
        // What no model reads touches nothing; what is wrong is told at its row; nothing was stored.
        Assert.Empty((await Suppose("cost", (string)item["cost"]!).Json())["products"]!.AsArray());
        Assert.Equal("/rows/0", (string)(await Suppose("cost", "dear").Json())["pointer"]!);
        Assert.Equal((string)item["cost"]!, (string)(await engineer.Get("/api/items/SCRW-K"))["item"]!["cost"]!);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await engineer.Post("/api/library/nothing/impact",
            new { columns = Array.Empty<string>(), rows = Array.Empty<string[]>() })).StatusCode);
    }

    [Fact]
    public async Task What_reuses_the_product_is_asked_as_if_it_took_the_draft()
    {
        using var engineer = await served.As("engineer");
        var products = (await engineer.Get("/api/products")).AsArray();
        var path = $"/api/revisions/{products.First(p => (string)p!["code"]! == "CS")!["revisionId"]}";
        var document = (await engineer.Get(path))["document"]!;
        var before = await engineer.Finished($"{path}/impact");
        Assert.Equal(0, (int)before["counts"]!["breaks"]!);
        // The units of the cooling set are in its value list; each costs a little more to put in.
        var part = document["assemblies"]!.AsArray().SelectMany(a => a!["topics"]!.AsArray()).SelectMany(t => t!["rows"]!.AsArray())
            .First(r => (string)r!["kind"]! == "operation" && r["run"] is not null)!;
        await engineer.Edit(path, Set((string)part["id"]!, "run", "(" + (string)part["run"]! + ") * 2", (string)part["run"]!));
        var impact = await engineer.Finished($"{path}/impact");
        Assert.Empty(impact["troubles"]!.AsArray());
        Assert.Contains(impact["entries"]!.AsArray(), e => (string)e!["productCode"]! == "CR" && (string)e["kind"]! == "changes");
    }
}
