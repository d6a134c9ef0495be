using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>A value, or a product, that is not to be had for a time; and what of a revision holds when.</summary>
public sealed class PausesOverHttp(Served served) : IClassFixture<Served>
{
    private const string Curtain = "strip-curtain";

    private static async Task<(long Revision, string Value)> Released(HttpClient client)
    {
        var revision = (await client.Get($"/api/products/{Curtain}/revisions")).AsArray().First(r => (string)r!["state"]! == "released")!;
        var lists = (await client.Get($"/api/revisions/{(long)revision["id"]!}"))["document"]!["lists"]!.AsArray();
        return ((long)revision["id"]!, (string)lists.SelectMany(l => l!["values"]!.AsArray()).Single(v => (string)v!["code"]! == "p300")!["id"]!);
    }

    private static Task<JsonNode> Pause(HttpClient client, object pause) => client.Post($"/api/products/{Curtain}/pauses", pause).Json();

    private static object Strip => new { path = "s.strip", value = "p300" };

    [Fact]
    public async Task A_value_is_not_to_be_had_on_its_days_and_on_all_others_it_is()
    {
        using var engineer = await served.As("engineer");
        var (revision, value) = await Released(engineer);
        var id = Guid.NewGuid();
        var paused = await Pause(engineer, new { id, valueId = value, from = "2027-02-01", to = "2027-02-28", reason = "The press is mended" });
        var seen = paused.AsArray().Single(p => (string)p!["id"]! == id.ToString())!;
        // The demo has a passage for no day in particular with these strips.
        Assert.Contains(seen["met"]!.AsArray(), c => (string)c!["name"]! == "Freezer passage, polar");
        async Task<bool> CanOn(string? date) => (bool)(await engineer.Exactly($"/api/revisions/{revision}", new { picks = Array.Empty<object>(), date }))
            ["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).Single(a => (string)a!["path"]! == "s.strip")!["choices"]!.AsArray()
            .Single(c => (string)c!["value"]! == "p300")!["can"]!;
        Assert.Equal((true, false, false, true), (await CanOn("2027-01-31"), await CanOn("2027-02-01"), await CanOn("2027-02-28"), await CanOn("2027-03-01")));
        Assert.True(await CanOn(null));
        var picked = await engineer.Post($"/api/revisions/{revision}/answer", new { picks = new[] { Strip }, date = "2027-02-10" }).Json();
        var faults = picked["faults"]!.AsArray();
        Assert.Contains("from 2027-02-01 until 2027-02-28: The press is mended.", (string)Assert.Single(faults)!["sentence"]!);

        // What is saved for such a day is not generated; for another one it is.
        var saved = (string)(await engineer.Post("/api/configurations", new
        {
            id = Guid.NewGuid(),
            name = "Polar",
            revisionId = revision,
            picks = new[] { Strip, new { path = "s.frozen", value = "yes" } },
            site = "HAL",
            date = "2027-03-10",
        }).Json())["id"]!;
        async Task<HttpStatusCode> Generated(string date) => (await engineer.Post($"/api/configurations/{saved}/structures",
            new { id = Guid.NewGuid(), quantity = "1", madeFor = new { site = "HAL", date } })).StatusCode;
        Assert.Equal((HttpStatusCode.Conflict, HttpStatusCode.OK), (await Generated("2027-02-10"), await Generated("2027-03-10")));
        // Test cases are of the model, which has not changed.
        Assert.DoesNotContain((await engineer.Finished($"/api/revisions/{revision}/cases"))["cases"]!.AsArray(), c => (string)c!["state"]! == "failed");

        await engineer.Post($"/api/products/{Curtain}/pauses/{id}/end", new { });
        Assert.True(await CanOn("2027-02-10"));
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.Post($"/api/products/{Curtain}/pauses/{id}/end", new { })).StatusCode);
    }

    [Fact]
    public async Task A_product_is_not_made_while_it_is_paused_and_wrong_input_is_told_at_its_place()
    {
        using var engineer = await served.As("engineer");
        using var desk = await served.As("order desk");
        var made = await engineer.Draft();
        using var approver = await served.As("approver");
        await approver.Released(made.Path);
        var revision = long.Parse(made.Path.Split('/')[^1], CultureInfo.InvariantCulture);
        var product = (string)(await engineer.Get(made.Path))["productId"]!;
        var saved = (string)(await desk.Post("/api/configurations",
            new { id = Guid.NewGuid(), name = "Two", revisionId = revision, picks = Array.Empty<object>(), date = "2027-02-10" }).Json())["id"]!;
        var id = Guid.NewGuid();
        var path = $"/api/products/{product}/pauses";
        foreach (var (wrong, pointer) in new (object, string)[]
        {
            (new { id = "x", from = "2027-02-01", reason = "Why." }, "/id"), (new { id, from = "2027-02-01", reason = " " }, "/reason"),
            (new { id, from = "2027-02-01", to = "2027-01-01", reason = "Why." }, "/to"),
            (new { id, valueId = "no", from = "2027-02-01", reason = "Why." }, "/valueId"),
        })
            Assert.Equal(pointer, (string)(await engineer.Post(path, wrong).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.Forbidden, (await desk.Post(path, new { id, from = "2027-02-01", reason = "Why." })).StatusCode);
        await engineer.Post(path, new { id, from = "2027-02-01", reason = "The line moves." });
        await engineer.Post(path, new { id, from = "2027-02-01", reason = "The line moves." });
        Assert.Single((await desk.Get(path)).AsArray());
        using var refused = await desk.Post($"/api/configurations/{saved}/structures", new { id = Guid.NewGuid(), quantity = "1" });
        Assert.Equal(HttpStatusCode.Conflict, refused.StatusCode);
        Assert.Contains("from 2027-02-01 on: The line moves.", await refused.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task What_holds_when_tells_of_gaps_and_overlaps()
    {
        using var engineer = await served.As("engineer");
        var (path, _) = await engineer.Draft();
        var topic = (string)(await engineer.Get(path))["document"]!["assemblies"]![0]!["topics"]![0]!["id"]!;
        await engineer.Edit(path, Set("bolts", "to", "2027-01-31", null),
            Behind("bolts", new { kind = "part", id = "next", item = "SCRW-R", quantity = "n", from = "2027-02-11", to = "2027-03-31" }),
            Behind("next", new { kind = "part", id = "third", item = "SCRW-K", quantity = "n", from = "2027-03-01" }));
        object Behind(string afterId, object row) => new { @do = "add", parentId = topic, collection = "rows", afterId, row };
        var times = await engineer.Get($"{path}/times");
        Assert.Equal(["bolts", "next", "third"], times["entries"]!.AsArray().Select(e => (string)e!["id"]!));
        Assert.Equal(["gap 2027-02-01 2027-02-10", "overlap 2027-03-01 2027-03-31"],
            times["successions"]!.AsArray().Select(s => $"{s!["kind"]} {s["from"]} {s["to"]}"));
        Assert.Equal(["2027-02-01", "2027-02-11", "2027-03-01", "2027-04-01"], times["days"]!.AsArray().Select(d => (string)d!));
    }
}
