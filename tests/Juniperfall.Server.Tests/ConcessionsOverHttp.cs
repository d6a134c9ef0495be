using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>Rules set aside for one configuration: asked for, signed by someone else, shown wherever it is made, and ended.</summary>
public sealed class ConcessionsOverHttp(Served served) : IClassFixture<Served>
{
    private static readonly string Later = DateTime.UtcNow.AddDays(30).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    private static object[] Nine => [new { path = "n", value = "9" }];

    private static object Wish(Guid id, string[] rules, string reason = "The wall carries it.", string? until = null, long quantity = 3, int version = 1) =>
        new { id, rules, reason, until = until ?? Later, quantity, version };

    /// <summary>A released rack whose rules are n &lt; 8, n &lt; 20 and n &gt; 0; and nine of it, which the first forbids, saved by the order desk.</summary>
    private async Task<(long Revision, string Configuration)> Saved(HttpClient desk)
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (path, _) = await engineer.Draft();
        var topic = (string)(await engineer.Get(path))["document"]!["assemblies"]![0]!["topics"]![0]!["id"]!;
        await engineer.Edit(path, Add(topic, "rows", new { kind = "statement", id = "room", number = 2, expression = "n < 20" }),
            Add(topic, "rows", new { kind = "statement", id = "some", number = 3, expression = "n > 0" }));
        await approver.Released(path);
        var revision = long.Parse(path.Split('/')[^1], CultureInfo.InvariantCulture);
        return (revision, await Save(desk, revision, "Nine"));
    }

    private static async Task<string> Save(HttpClient desk, long revision, string name) =>
        (string)(await desk.Post("/api/configurations", new { id = Guid.NewGuid(), name, revisionId = revision, picks = Nine }).Json())["id"]!;

    private static async Task<(HttpStatusCode Status, JsonNode Body)> Generate(HttpClient client, string configuration, string quantity)
    {
        using var sent = await client.Post($"/api/configurations/{configuration}/structures", new { id = Guid.NewGuid(), quantity });
        return (sent.StatusCode, JsonNode.Parse(await sent.Content.ReadAsStringAsync())!);
    }

    [Fact]
    public async Task A_rule_is_set_aside_for_what_it_was_signed_for_and_is_told_wherever_that_is_made()
    {
        using var desk = await served.As("order desk");
        using var approver = await served.As("approver");
        var (revision, configuration) = await Saved(desk);
        Assert.Equal(HttpStatusCode.Conflict, (await Generate(desk, configuration, "1")).Status);

        var id = Guid.NewGuid();
        var asked = await desk.Post($"/api/configurations/{configuration}/concessions", Wish(id, ["few"])).Json();
        Assert.Equal(("asked", "few", "§1"), ((string)asked["state"]!, (string)asked["rules"]![0]!["row"]!, (string)asked["rules"]![0]!["mark"]!));
        // Sent twice it is asked for once; another one waits for its answer.
        Assert.Equal((long)asked["number"]!, (long)(await desk.Post($"/api/configurations/{configuration}/concessions", Wish(id, ["few"])).Json())["number"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await desk.Post($"/api/configurations/{configuration}/concessions", Wish(Guid.NewGuid(), ["few"]))).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await Generate(desk, configuration, "1")).Status);
        Assert.Contains((await approver.Get("/api/waiting")).AsArray(), w => (string)w!["kind"]! == "concession" && (string)w["id"]! == id.ToString());
        Assert.DoesNotContain((await desk.Get("/api/waiting")).AsArray(), w => (string)w!["kind"]! == "concession");

        Assert.Equal("holds", (string)(await approver.Post($"/api/concessions/{id}/sign", new { note = "By the statics." }).Json())["state"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"/api/concessions/{id}/sign", new { note = "" })).StatusCode);
        var (status, made) = await Generate(desk, configuration, "2");
        Assert.Equal(HttpStatusCode.OK, status);
        Assert.Equal(("36", "The wall carries it."), ((string)made["structure"]!["bom"]![0]!["net"]!, (string)made["concession"]!["reason"]!));
        Assert.Empty(made["advice"]!.AsArray());
        var structure = (string)made["id"]!;
        foreach (var file in new[] { "bom.csv", "routing.csv", "structure.json", "structure.xml" })
            Assert.Contains("oncession", await desk.GetStringAsync($"/api/structures/{structure}/{file}"));
        // No more than it allows, and nothing else than what it is for.
        var (refused, problem) = await Generate(desk, configuration, "2");
        Assert.Equal((HttpStatusCode.UnprocessableEntity, "/quantity"), (refused, (string)problem["pointer"]!));
        Assert.Contains("1 are left", (string)problem["detail"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await Generate(desk, await Save(desk, revision, "Copy of nine"), "1")).Status);
        var compared = await desk.Get($"/api/compare?left={configuration}&right={await Save(desk, revision, "Another copy")}");
        Assert.Equal((true, false), ((bool)compared["left"]!["complete"]!, (bool)compared["right"]!["complete"]!));

        object Changed(int version, string n) => new { name = "Nine", picks = new[] { new { path = "n", value = n } }, version };
        await desk.Put($"/api/configurations/{configuration}", Changed(1, "8"));
        Assert.Equal("changedSince", (string)(await desk.Get($"/api/concessions/{id}"))["state"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await Generate(desk, configuration, "1")).Status);
        await desk.Put($"/api/configurations/{configuration}", Changed(2, "9"));
        Assert.Equal(HttpStatusCode.OK, (await Generate(desk, configuration, "1")).Status);
        Assert.Equal("usedUp", (string)(await desk.Get($"/api/concessions/{id}"))["state"]!);
        // More can be asked for; what is changed meanwhile cannot be signed, and does not stand in the way of asking anew.
        async Task<string> AskForMore(int version) =>
            (string)(await desk.Post($"/api/configurations/{configuration}/concessions", Wish(Guid.NewGuid(), ["few"], version: version)).Json())["id"]!;
        var outlived = await AskForMore(3);
        await desk.Put($"/api/configurations/{configuration}", Changed(3, "8"));
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"/api/concessions/{outlived}/sign", new { note = "" })).StatusCode);
        await AskForMore(4);
        Assert.Equal("takenBack", (string)(await desk.Get($"/api/concessions/{outlived}"))["state"]!);
        await desk.Put($"/api/configurations/{configuration}", Changed(4, "9"));
        var more = await AskForMore(5);
        await approver.Post($"/api/concessions/{more}/sign", new { note = "" });
        Assert.Equal(HttpStatusCode.OK, (await Generate(desk, configuration, "1")).Status);
        Assert.Equal(1, (int)(await desk.Get($"/api/concessions/{more}"))["used"]!);

        Assert.Equal("/note", (string)(await approver.Post($"/api/concessions/{id}/withdraw", new { note = " " }).Json())["pointer"]!);
        Assert.Equal("withdrawn", (string)(await approver.Post($"/api/concessions/{id}/withdraw", new { note = "It was not built." }).Json())["state"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"/api/concessions/{id}/withdraw", new { note = "Again." })).StatusCode);
        // What was made under it still says so.
        Assert.NotNull((await desk.Get($"/api/structures/{structure}"))["concession"]);
        Assert.Contains((await desk.Get("/api/concessions/rules")).AsArray(), r => (string)r!["row"]! == "few" && (long)r["signed"]! >= 1);
        Assert.All((await desk.Get("/api/concessions?rule=few")).AsArray(), k => Assert.Equal("few", (string)k!["rules"]![0]!["row"]!));
        using var administrator = await served.As("administrator");
        var audit = (await administrator.Get("/api/audit")).AsArray().Select(a => (string)a!["kind"]!).ToHashSet();
        Assert.Superset(new HashSet<string> { "concessionAskedFor", "concessionSigned", "concessionWithdrawn" }, audit);
    }

    public static TheoryData<string, string[], string, string?, long, int> Wrong => new()
    {
        { "/rules", [], "Why.", null, 1, 1 },
        { "/rules/0", ["gone"], "Why.", null, 1, 1 },
        { "/rules/1", ["few", "n"], "Why.", null, 1, 1 },
        { "/rules", ["few", "room", "some"], "Why.", null, 1, 1 },
        { "/rules/1", ["few", "room"], "Why.", null, 1, 1 },
        { "/reason", ["few"], "  ", null, 1, 1 },
        { "/until", ["few"], "Why.", "2020-01-31", 1, 1 },
        { "/quantity", ["few"], "Why.", null, 0, 1 },
        { "", ["few"], "Why.", null, 1, 7 },
        { "", ["room"], "Why.", null, 1, 1 },
    };

    [Theory, MemberData(nameof(Wrong))]
    public async Task What_cannot_be_asked_for_is_said_at_its_place(string pointer, string[] rules, string reason, string? until, long quantity, int version)
    {
        using var desk = await served.As("order desk");
        var (_, configuration) = await Saved(desk);
        using var sent = await desk.Post($"/api/configurations/{configuration}/concessions", Wish(Guid.NewGuid(), rules, reason, until, quantity, version));
        Assert.Equal(pointer.Length == 0 ? HttpStatusCode.Conflict : HttpStatusCode.UnprocessableEntity, sent.StatusCode);
        var problem = JsonNode.Parse(await sent.Content.ReadAsStringAsync())!;
        Assert.Equal(pointer, (string?)problem["pointer"] ?? "");
        Assert.NotEmpty((string)problem["detail"]!);
        Assert.Empty((await desk.Get($"/api/configurations/{configuration}/concessions")).AsArray());
    }

    [Fact]
    public async Task One_is_refused_taken_back_and_found_out_anew_against_a_draft()
    {
        using var desk = await served.As("order desk");
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var (revision, configuration) = await Saved(desk);
        async Task<string> Ask() =>
            (string)(await desk.Post($"/api/configurations/{configuration}/concessions", Wish(Guid.NewGuid(), ["few"])).Json())["id"]!;
        var refused = await Ask();
        Assert.Equal(HttpStatusCode.Conflict, (await engineer.Post($"/api/concessions/{refused}/take-back", new { })).StatusCode);
        Assert.Equal("/note", (string)(await approver.Post($"/api/concessions/{refused}/refuse", new { note = "" }).Json())["pointer"]!);
        Assert.Equal("refused", (string)(await approver.Post($"/api/concessions/{refused}/refuse", new { note = "It would sag." }).Json())["state"]!);
        Assert.Equal("takenBack", (string)(await desk.Post($"/api/concessions/{await Ask()}/take-back", new { }).Json())["state"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await approver.Post($"/api/concessions/{Guid.NewGuid()}/sign", new { note = "" })).StatusCode);
        await approver.Post($"/api/concessions/{await Ask()}/sign", new { note = "" });

        // With its rule set aside it stands on its revision; another rule of the next draft breaks it, and moving it on is left to people.
        var product = (string)(await engineer.Get($"/api/revisions/{revision}"))["productId"]!;
        var draft = $"/api/revisions/{(long)(await engineer.Post($"/api/products/{product}/revisions", new { }).Json())["revisionId"]!}";
        await engineer.Edit(draft, Set("room", "expression", "n < 9", "n < 20"));
        var impact = await engineer.Finished($"{draft}/impact");
        Assert.Equal(("breaks", true), ((string)impact["entries"]![0]!["kind"]!, (bool)impact["entries"]![0]!["isConceded"]!));
        Assert.Equal("room", (string)impact["entries"]![0]!["rows"]![0]!["rowId"]!);
        await engineer.Edit(draft, Set("room", "expression", "n < 10", "n < 9"));
        impact = await engineer.Finished($"{draft}/impact");
        Assert.Equal(1, (int)impact["counts"]!["same"]!);
        await approver.Released(draft);
        await engineer.Finished($"{draft}/impact");
        var moved = await desk.Post($"{draft}/impact/move", new { }).Json();
        Assert.Equal(0, (int)moved["moved"]!);
        Assert.Contains("concession", (string)moved["notMoved"]![0]!["why"]!);
    }

    [Fact]
    public async Task Rules_can_be_tried_without_by_anyone_and_no_draft_has_a_concession()
    {
        using var desk = await served.As("order desk");
        using var engineer = await served.As("engineer");
        var (path, _) = await engineer.Draft();
        var asked = await desk.Post($"{path}/answer", new { picks = Nine, setAside = new[] { "few" } }).Json();
        Assert.Equal((true, "few"), ((bool)asked["valid"]!, (string)asked["advice"]![0]!["rowId"]!));
        Assert.False((bool)(await desk.Post($"{path}/answer", new { picks = Nine }).Json())["valid"]!);
        Assert.Equal("/setAside/0", (string)(await desk.Post($"{path}/answer", new { picks = Nine, setAside = new[] { "bolts" } }).Json())["pointer"]!);
        Assert.Equal("/setAside", (string)(await desk
            .Post($"{path}/answer", new { picks = Nine, setAside = Enumerable.Repeat("few", 21) }).Json())["pointer"]!);
        var configuration = await Save(desk, long.Parse(path.Split('/')[^1], CultureInfo.InvariantCulture), "On a draft");
        var refused = await desk.Post($"/api/configurations/{configuration}/concessions", Wish(Guid.NewGuid(), ["few"])).Json();
        Assert.Contains("draft", (string)refused["detail"]!);
    }
}
