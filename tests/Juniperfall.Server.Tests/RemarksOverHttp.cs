using System.Net;
using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>Remarks of a reviewer, what waits for whom, and a revision that is withdrawn.</summary>
public sealed class RemarksOverHttp(Served served) : IClassFixture<Served>
{
    private static async Task<List<string>> Waiting(HttpClient client, string path) =>
        [.. (await client.Get("/api/waiting")).AsArray().Where(w => path.EndsWith($"/{w!["revisionId"]}", StringComparison.Ordinal))
            .Select(w => $"{w!["kind"]} {w["count"]}")];

    private static Task<HttpResponseMessage> Remark(HttpClient client, string path, Guid id, string row, string text) =>
        client.Post($"{path}/remarks", new { id, rowId = row, text });

    [Fact]
    public async Task A_remark_on_a_row_is_answered_and_closed_before_the_release_and_waits_for_who_has_to_do_something()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, _) = await engineer.Draft();
        var head = (long)(await engineer.Get(path))["head"]!;
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"{path}/review", new { head, note = "" })).StatusCode);
        Assert.Equal(["release 1"], await Waiting(approver, path));

        var (first, second) = (Guid.NewGuid(), Guid.NewGuid());
        Assert.Equal(HttpStatusCode.NoContent, (await Remark(approver, path, first, "bolts", " Four, or six? ")).StatusCode);
        // Sent twice it is made once.
        Assert.Equal(HttpStatusCode.NoContent, (await Remark(approver, path, first, "bolts", "Four, or six?")).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await Remark(approver, path, second, "", "A picture is missing.")).StatusCode);
        Assert.Equal("/rowId", (string)(await Remark(approver, path, Guid.NewGuid(), "gone", "?").Json())["pointer"]!);
        Assert.Equal("/text", (string)(await Remark(approver, path, Guid.NewGuid(), "bolts", "  ").Json())["pointer"]!);
        Assert.Equal(["remarks 2"], await Waiting(engineer, path));
        Assert.Equal(HttpStatusCode.NoContent, (await approver.Post($"{path}/review/return", new { note = "See the remarks." })).StatusCode);
        Assert.Equal(["remarks 2", "sentBack 1"], (await Waiting(engineer, path)).Order());
        Assert.Empty(await Waiting(approver, path));

        Assert.Equal(HttpStatusCode.NoContent,
            (await engineer.Post($"{path}/remarks/{first}/answers", new { id = Guid.NewGuid(), text = "Four, by the drawing." })).StatusCode);
        Assert.Equal(["answered 1"], await Waiting(approver, path));
        // A row that goes leaves its remark, with the name that it had.
        await engineer.Edit(path, new { @do = "remove", rowId = "bolts" });
        var remarks = (await engineer.Get($"{path}/remarks")).AsArray();
        Assert.Equal(("Four, or six?", "Four, by the drawing.", null), ((string)remarks[0]!["text"]!, (string)remarks[0]!["answers"]![0]!["text"]!,
            (string?)remarks[0]!["assemblyId"]));
        Assert.NotEmpty((string)remarks[0]!["rowName"]!);

        head = (long)(await engineer.Get(path))["head"]!;
        await engineer.Post($"{path}/review", new { head, note = "" });
        Assert.Contains("2 remarks are open", (string)(await approver.Post($"{path}/release", new { head }).Json())["detail"]!);
        foreach (var id in new[] { first, second })
            Assert.Equal(HttpStatusCode.NoContent, (await approver.Put($"{path}/remarks/{id}/closed", new { close = true })).StatusCode);
        Assert.Equal("released", (string)(await approver.Post($"{path}/release", new { head, note = "The first one." }).Json())["state"]!);
        using var administrator = await served.As("administrator");
        var audit = (await administrator.Get("/api/audit")).AsArray().Select(a => (string)a!["kind"]!).ToList();
        Assert.Subset(audit.ToHashSet(), new HashSet<string> { "releaseAskedFor", "remarkMade", "remarkClosed", "revisionSentBack", "revisionReleased" });
    }

    [Fact]
    public async Task What_is_withdrawn_can_be_read_and_left_but_nothing_new_is_made_on_it()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, _) = await engineer.Draft();
        var revision = long.Parse(path.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"{path}/withdraw", new { why = "Not yet." })).StatusCode);
        await approver.Released(path);
        async Task<JsonNode> Save() => await engineer.Post("/api/configurations",
            new { id = Guid.NewGuid(), name = "One", revisionId = revision, picks = Array.Empty<object>() }).Json();
        var saved = await Save();
        Assert.Equal("/why", (string)(await approver.Post($"{path}/withdraw", new { why = "" }).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.NoContent, (await approver.Post($"{path}/withdraw", new { why = "The screws rust." })).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"{path}/withdraw", new { why = "Again." })).StatusCode);

        Assert.Contains("withdrawn", (string)(await Save())["detail"]!);
        Assert.Contains("withdrawn", (string)(await engineer.Post($"/api/configurations/{saved["id"]}/structures",
            new { id = Guid.NewGuid() }).Json())["detail"]!);
        Assert.Equal("withdrawn", (string)(await engineer.Get($"/api/configurations/{saved["id"]}"))["revisionState"]!);
        // The next draft goes on from it, and what is saved moves on once that is released.
        var product = (string)(await engineer.Get(path))["productId"]!;
        var entry = (await engineer.Get($"/api/products/{product}/revisions")).AsArray()[0]!;
        Assert.Equal("The screws rust.", (string)entry["withdrawn"]!["why"]!);
        var next = (long)(await engineer.Post($"/api/products/{product}/revisions", new { }).Json())["revisionId"]!;
        await approver.Released($"/api/revisions/{next}");
        var moved = await engineer.Post($"/api/configurations/{saved["id"]}/move", new { revisionId = next, version = 1 }).Json();
        Assert.Equal(("released", 2), ((string)moved["revisionState"]!, (int)moved["revisionNumber"]!));
    }
}
