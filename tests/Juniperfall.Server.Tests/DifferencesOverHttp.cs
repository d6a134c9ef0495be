using System.Net;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>What a revision changes over HTTP: the net list in words, and what it means, against the one released before.</summary>
public sealed class DifferencesOverHttp(Served served) : IClassFixture<Served>
{
    [Fact]
    public async Task A_lowered_limit_and_a_raised_price_are_told_with_a_room_that_breaks()
    {
        using var engineer = await served.As("engineer");
        var room = (await engineer.Get("/api/products?search=Cold room")).AsArray().First(p => (string)p!["code"]! == "CR")!;
        var revisions = (await engineer.Get($"/api/products/{room["id"]}/revisions")).AsArray();
        var draft = (long)revisions.First(r => (string)r!["state"]! == "draft")!["id"]!;
        var released = revisions.First(r => (string)r!["state"]! == "released")!;
        var path = $"/api/revisions/{draft}";
        var before = await engineer.Get($"{path}/difference");
        Assert.Equal((int)released["number"]!, (int)before["from"]!);
        await engineer.Post($"{path}/edits", new
        {
            id = Guid.NewGuid().ToString(),
            steps = new[] { Set("rule2", "upper", "30 m2", "90 m2"), Set("cores:80", "properties/cores.rate", "160", "148") },
        }).Json();
        var difference = await engineer.Get($"{path}/difference");
        static string Fields(System.Text.Json.Nodes.JsonNode of) =>
            string.Join(", ", of["fields"]!.AsArray().Select(f => $"{f!["field"]}: {f["before"]} → {f["after"]}"));
        var changes = difference["sheets"]!.AsArray()
            .SelectMany(s => s!["changes"]!.AsArray().Select(c => $"{s["name"]}: {c!["kind"]} {c["name"]} {Fields(c)}")).ToList();
        Assert.Contains(changes, c => c.EndsWith("changed §2 upper: 90 m2 → 30 m2", StringComparison.Ordinal));
        Assert.Contains(changes, c => c.EndsWith("rate: 148 → 160", StringComparison.Ordinal));
        var meaning = await engineer.Get($"{path}/difference/meaning");
        Assert.Equal("§2", (string)meaning["lost"]!["because"]!);
        Assert.NotEmpty(meaning["lost"]!["example"]!.AsArray());
        Assert.Null(meaning["gained"]!["example"]);
        Assert.Contains(meaning["suggested"]!.AsArray(), c => (string)c!["name"]! == "List price");
        // Costs are not for everyone.
        using var desk = await served.As("order desk");
        Assert.DoesNotContain((await desk.Get($"{path}/difference/meaning"))["suggested"]!.AsArray(), c => (string)c!["name"]! is "Cost" or "Material");
        // A revision of another product is none to compare with.
        var other = (await engineer.Get("/api/products")).AsArray().First(p => (string)p!["code"]! == "DS")!;
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await engineer.GetAsync($"{path}/difference?from={other["revisionId"]}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.GetAsync("/api/revisions/999999/difference")).StatusCode);
    }

    [Fact]
    public async Task Of_a_first_revision_it_is_said_that_nothing_was_released_before()
    {
        using var engineer = await served.As("engineer");
        var made = await engineer.Post("/api/products", new { id = Guid.NewGuid(), code = "SR1ST", label = "Shelf rack" }).Json();
        var path = $"/api/revisions/{made["revisionId"]}/difference";
        Assert.Null((await engineer.Get(path))["from"]);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await engineer.GetAsync($"{path}/meaning")).StatusCode);
    }
}
