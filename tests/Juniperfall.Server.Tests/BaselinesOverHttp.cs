using System.Net;
using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>What was released, frozen under a name; and views that people keep.</summary>
public sealed class BaselinesOverHttp(Served served) : IClassFixture<Served>
{
    [Fact]
    public async Task A_baseline_stays_what_it_is_and_tells_what_is_otherwise_by_now()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, _) = await engineer.Draft();
        await approver.Released(path);
        var (product, code) = ((string)(await engineer.Get(path))["productId"]!, (string)(await engineer.Get(path))["document"]!["code"]!);
        var id = Guid.NewGuid();
        var made = await engineer.Post("/api/baselines", new { id, name = " Spring ", note = "As printed." }).Json();
        Assert.Equal(("Spring", 0), ((string)made["baseline"]!["name"]!, (int)made["allItems"]!));
        JsonNode Mine(JsonNode baseline) => baseline["products"]!.AsArray().Single(p => (string)p!["code"]! == code)!;
        Assert.Equal((1, 1), ((int)Mine(made)["then"]!, (int)Mine(made)["now"]!));
        // Sent twice it is made once, and stays as it was made.
        Assert.Equal("Spring", (string)(await engineer.Post("/api/baselines", new { id, name = "Other" }).Json())["baseline"]!["name"]!);

        var next = $"/api/revisions/{(long)(await engineer.Post($"/api/products/{product}/revisions", new { }).Json())["revisionId"]!}";
        await engineer.Edit(next, Set("bolts", "quantity", "n * 5", "n * 4"));
        await approver.Released(next);
        (await approver.Post($"{path}/withdraw", new { why = "Too weak." })).EnsureSuccessStatusCode();
        await engineer.Post("/api/library/items/rows",
            new { columns = new[] { "number", "cost", "weight kg" }, rows = new[] { new[] { "SCRW-K", "77.5", "0.9" } } });
        var later = await engineer.Get($"/api/baselines/{id}");
        Assert.Equal((1, 2, "withdrawn"), ((int)Mine(later)["then"]!, (int)Mine(later)["now"]!, (string)Mine(later)["state"]!));
        var item = later["items"]!.AsArray().Single(i => (string)i!["number"]! == "SCRW-K")!;
        Assert.Contains(item["fields"]!.AsArray(), f => (string)f!["field"]! == "cost" && (string)f["after"]! == "77.5");
        Assert.Equal((string)item["number"]!, (string)(await engineer.Get($"/api/baselines/{id}/items/SCRW-K"))["number"]!);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.GetAsync($"/api/baselines/{id}/items/GSK-D")).StatusCode);
        // What is a part of a baseline is held against what came later, and what costs is not for everyone.
        var difference = await engineer.Get($"{next}/difference?from={(long)Mine(later)["thenId"]!}");
        Assert.NotEmpty(difference["sheets"]!.AsArray());
        using var desk = await served.As("order desk");
        var seen = (await desk.Get($"/api/baselines/{id}"))["items"]!.AsArray().Single(i => (string)i!["number"]! == "SCRW-K")!;
        Assert.DoesNotContain(seen["fields"]!.AsArray(), f => ((string)f!["field"]!).StartsWith("cost", StringComparison.Ordinal));
        Assert.Contains(seen["fields"]!.AsArray(), f => (string)f!["field"]! == "weight");

        foreach (var (wrong, pointer) in new (object, string)[] { (new { id = "x", name = "A" }, "/id"), (new { id = Guid.NewGuid(), name = " " }, "/name") })
            Assert.Equal(pointer, (string)(await engineer.Post("/api/baselines", wrong).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.GetAsync($"/api/baselines/{Guid.NewGuid()}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.GetAsync($"/api/baselines/{id}/items/NO-SUCH")).StatusCode);
    }

    [Fact]
    public async Task A_view_is_kept_for_oneself_or_for_all_and_nobody_else_changes_it()
    {
        using var engineer = await served.As("engineer");
        using var desk = await served.As("order desk");
        async Task<List<string>> Views(HttpClient of) => [.. (await of.Get("/api/views?place=configurations")).AsArray().Select(v => (string)v!["name"]!)];
        var (own, shared) = (Guid.NewGuid(), Guid.NewGuid());
        object View(string name, bool forAll, string state = "{}") => new { place = "configurations", name, state, forAll };
        Assert.Equal(HttpStatusCode.OK, (await engineer.Put($"/api/views/{own}", View("Mine", false))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await engineer.Put($"/api/views/{shared}", View("Harbour", true))).StatusCode);
        Assert.Equal(["Harbour", "Mine"], await Views(engineer));
        Assert.Equal(["Harbour"], await Views(desk));
        Assert.Equal(HttpStatusCode.Conflict, (await desk.Put($"/api/views/{shared}", View("Taken", true))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await desk.DeleteAsync($"/api/views/{shared}")).StatusCode);
        Assert.Equal("/name", (string)(await desk.Put($"/api/views/{Guid.NewGuid()}", View(" ", true)).Json())["pointer"]!);
        Assert.Equal("/state", (string)(await desk.Put($"/api/views/{Guid.NewGuid()}", View("Long", true, new('x', 9_000))).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.OK, (await engineer.Put($"/api/views/{own}", View("Mine again", false))).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.DeleteAsync($"/api/views/{shared}")).StatusCode);
        Assert.Equal(["Mine again"], await Views(engineer));
        Assert.Empty(await Views(desk));
    }
}
