using System.Net;
using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Server.Solving;
using Microsoft.Extensions.DependencyInjection;

namespace Juniperfall.Server.Tests;

/// <summary>Files, releases, configurations and structures over HTTP, on the demo data.</summary>
public sealed class LifeOfARevision(Served served) : IClassFixture<Served>
{
    [Fact]
    public async Task A_model_goes_out_and_comes_in_whole()
    {
        using var client = await served.As("engineer");
        var file = JsonNode.Parse(await client.GetStringAsync("/api/revisions/1/file"))!;
        Assert.Equal(400, file["library"]!["items"]!.AsObject().Count(i => i.Key.StartsWith("UC-", StringComparison.Ordinal)));
        // Over the product it came from, whose draft is still open, it is not taken in; as another product it is.
        using var same = new StringContent(file.ToJsonString());
        Assert.Contains("still draft", (string)(await client.PostAsync("/api/products/file", same).Json())["detail"]!);
        file["model"]!["id"] = "copy";
        file["model"]!["code"] = "CR-2";
        using var other = new StringContent(file.ToJsonString());
        var made = await client.PostAsync("/api/products/file", other).Json();
        var again = JsonNode.Parse(await client.GetStringAsync($"/api/revisions/{made["revisionId"]}/file"))!;
        // It is the same but for its own item, which has come along under the new code.
        var items = file["library"]!["items"]!.AsObject();
        var own = items["CR"]!.AsObject();
        items.Remove("CR");
        if (own.ContainsKey("number"))
            own["number"] = "CR-2";
        items["CR-2"] = own;
        Assert.True(JsonNode.DeepEquals(file, again));
    }

    [Fact]
    public async Task A_feature_model_comes_in_as_a_model_like_any_other_and_what_has_no_counterpart_is_listed()
    {
        using var client = await served.As("engineer");
        using var uvl = new StringContent(
            "features\n    Rack\n        mandatory\n            Finish\n                alternative\n                    Zinc\n                    White\n "
                + "       optional\n            String label\n            Castors\nconstraints\n    White => Castors\n");
        var made = await client.PostAsync("/api/products/file?format=uvl", uvl).Json();
        Assert.StartsWith("Line 9: ", (string)Assert.Single(made["unread"]!.AsArray())!);
        var path = $"/api/revisions/{made["revisionId"]}";
        Assert.Empty((await client.Get(path))["findings"]!.AsArray());
        var answer = await client.Post($"{path}/answer", new { picks = new[] { new { path = "f3", value = "yes" } } }).Answer();
        var asked = answer["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).ToDictionary(a => (string)a!["name"]!, a => a!);
        Assert.Equal(("follows", "yes"), ((string)asked["Castors"]["state"]!, (string)asked["Castors"]["value"]!));
        Assert.Equal(("follows", "no"), ((string)asked["Zinc"]["state"]!, (string)asked["Zinc"]["value"]!));
        using var faulty = new StringContent("features\n    Rack\n    Castors\n");
        Assert.Equal("Line 3: There is one root feature.", (string)(await client.PostAsync("/api/products/file?format=uvl", faulty).Json())["detail"]!);
    }

    [Fact]
    public async Task The_history_names_what_a_person_knows()
    {
        using var client = await served.As("engineer");
        // A copy of the strip curtain: its draft is that of other tests.
        var file = JsonNode.Parse(await client.GetStringAsync("/api/revisions/8/file"))!;
        (file["model"]!["id"], file["model"]!["code"]) = (Guid.NewGuid().ToString(), "SCH");
        using var content = new StringContent(file.ToJsonString());
        content.Headers.ContentType = new("application/json");
        var made = await client.PostAsync("/api/products/file", content).Json();
        var path = $"/api/revisions/{made["revisionId"]}";
        var lists = (await client.Get(path))["document"]!["lists"]!.AsArray();
        var strip = lists.Single(l => (string)l!["name"]! == "strips")!;
        var (value, rate) = (strip["values"]![0]!, strip["properties"]!.AsArray().Single(c => (string)c!["name"]! == "rate")!);
        var before = (string)value["properties"]![(string)rate["id"]!]!;
        async Task<string> Latest(string id, object step)
        {
            Assert.Equal(HttpStatusCode.OK, (await client.Post($"{path}/edits", new { id, steps = new[] { step } })).StatusCode);
            var change = (await client.Get($"{path}/history"))[0]!["changes"]![0]!;
            return $"{change["name"]}, {change["what"]}";
        }

        Assert.Equal($"Strip {value["label"]!["en"]}, rate: {before} → 31", await Latest("h1",
            new { @do = "set", rowId = (string)value["id"]!, field = $"properties/{rate["id"]}", value = "31", before }));
        var grid = (await client.Get(path))["document"]!["assemblies"]![0]!["topics"]!.AsArray().SelectMany(t => t!["rows"]!.AsArray())
            .First(r => (string)r!["kind"]! == "grid")!;
        Assert.Equal($"{grid["label"]!["en"]}, row 1, price: 190 → 195", await Latest("h2",
            new { @do = "set", rowId = (string)grid["rows"]![0]!["id"]!, field = "cells/2", value = "195", before = "190" }));
        Assert.Equal($"§{grid["number"]}, applies when: {grid["appliesWhen"]} → yes", await Latest("h3",
            new { @do = "set", rowId = (string)grid["id"]!, field = "appliesWhen", value = "yes", before = (string)grid["appliesWhen"]! }));
    }

    /// <summary>What is found out after a release is there for a server that starts later.</summary>
    private async Task AnotherServerKnowsIt(long revisionId)
    {
        var states = served.Services.GetRequiredService<WarmStates>();
        for (var wait = 0; wait < 200 && (await states.Load(revisionId, default)).Count == 0; wait++)
            await Task.Delay(50);
        await using var later = served.WithWebHostBuilder(_ => { });
        var compiled = await later.Services.GetRequiredService<CompiledModels>().Get(revisionId, default);
        Assert.True(await compiled!.Solve(Effectivity.Any, (reasoner, _) => reasoner.IsWarm, default));
    }

    [Fact]
    public async Task A_release_is_checked_and_made_by_someone_else_than_the_author()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var made = await engineer.Post("/api/products", new { id = Guid.NewGuid(), code = "SK", label = "Start-up kit" }).Json();
        var path = $"/api/revisions/{made["revisionId"]}";
        var topic = (string)(await engineer.Get(path))["document"]!["assemblies"]![0]!["topics"]![0]!["id"]!;
        Task<JsonNode> Add(string id, string expression) =>
            engineer.Post($"{path}/edits",
            new
            {
                id,
                steps = new[] { new { @do = "add", parentId = topic, collection = "rows", afterId = (string?)null,
            row = new { kind = "statement", id, number = 1, expression } } }
            }).Json();
        await Add("faulty", "nothing = 1");
        var check = await approver.Get($"{path}/release");
        Assert.False((bool)check["ready"]!);
        Assert.Contains("nothing", (string)check["findings"]![0]!["message"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"{path}/release", new { head = 1 })).StatusCode);
        await engineer.Post($"{path}/undo", new { id = "u1" });
        await Add("impossible", "1 = 2");
        Assert.Contains("No configuration is possible", (string)(await approver.Get($"{path}/release"))["problems"]![0]!);
        await engineer.Post($"{path}/undo", new { id = "u2" });
        Assert.True((bool)(await approver.Get($"{path}/release"))["ready"]!);
        Assert.Equal(HttpStatusCode.Forbidden, (await engineer.Post($"{path}/release", new { head = 4 })).StatusCode);
        Assert.Contains("has changed since", (string)(await approver.Post($"{path}/release", new { head = 3 }).Json())["detail"]!);
        Assert.Equal("released", (string)(await approver.Post($"{path}/release", new { head = 4 }).Json())["state"]!);
        await AnotherServerKnowsIt((long)made["revisionId"]!);
        var next = await engineer.Post($"/api/products/{made["productId"]}/revisions", new { }).Json();
        var twice = await engineer.Post($"/api/products/{made["productId"]}/revisions", new { }).Json();
        Assert.Equal((long)next["revisionId"]!, (long)twice["revisionId"]!);
    }

    [Fact]
    public async Task A_release_is_asked_for_sent_back_asked_for_again_and_given()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        var made = await engineer.Post("/api/products", new { id = Guid.NewGuid(), code = "RV", label = "Rack to review" }).Json();
        var path = $"/api/revisions/{made["revisionId"]}";
        Task<HttpResponseMessage> Edit(string id, object value) => engineer.Post($"{path}/edits",
            new { id, steps = new[] { new { @do = "set", rowId = made["productId"]!, field = "sumLines", value, before = !(bool)value } } });
        async Task<bool> Waits() => (await approver.Get("/api/waiting")).AsArray().Any(r => (string)r!["productCode"]! == "RV");

        Assert.Equal(HttpStatusCode.NoContent, (await engineer.GetAsync($"{path}/review")).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await engineer.Post($"{path}/review", new { head = 7, note = "" })).StatusCode);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await engineer.Post($"{path}/review", new { head = 0, note = new string('x', 2001) })).StatusCode);
        Assert.False(await Waits());
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"{path}/review", new { head = 0, note = " Look at the posts. " })).StatusCode);
        Assert.True(await Waits());
        Assert.Equal("in review", (string)(await engineer.Get(path))["state"]!);
        Assert.Equal("Look at the posts.", (string)(await approver.Get($"{path}/review"))["note"]!);
        // It is not edited while it is looked at, and not asked for twice.
        Assert.Contains("in review; take it back", await (await Edit("e1", true)).Content.ReadAsStringAsync());
        Assert.Equal(HttpStatusCode.Conflict, (await engineer.Post($"{path}/review", new { head = 0, note = "" })).StatusCode);

        Assert.Equal(HttpStatusCode.NoContent, (await approver.Post($"{path}/review/return", new { note = "No posts." })).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await approver.Post($"{path}/review/return", new { note = "" })).StatusCode);
        var back = await engineer.Get($"{path}/review");
        Assert.Equal(("sent back", "No posts."), ((string)back["outcome"]!, (string)back["answer"]!));
        Assert.False(await Waits());
        Assert.Equal(HttpStatusCode.OK, (await Edit("e2", true)).StatusCode);

        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"{path}/review", new { head = 1, note = "" })).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.DeleteAsync($"{path}/review")).StatusCode);
        Assert.Equal("taken back", (string)(await engineer.Get($"{path}/review"))["outcome"]!);
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post($"{path}/review", new { head = 1, note = "" })).StatusCode);
        Assert.Equal("released", (string)(await approver.Post($"{path}/release", new { head = 1 }).Json())["state"]!);
        Assert.Equal("released", (string)(await engineer.Get($"{path}/review"))["outcome"]!);
        Assert.False(await Waits());
    }

    [Fact]
    public async Task A_structure_is_generated_once_and_stays_as_it_is()
    {
        using var client = await served.As("order desk");
        var picks = new[] { new { path = "r.duty", value = "near_zero" }, new { path = "r.length", value = "3600" } };
        var id = Guid.NewGuid();
        var saved = await client.Post("/api/configurations", new { id, name = "Cold store 7", revisionId = 1, picks }).Json();
        var needed = await client.Post($"/api/configurations/{id}/structures", new { id = Guid.NewGuid() }).Json();
        Assert.Contains("Still needed: Cooling set: Unit", (string)needed["detail"]!);
        var answer = await client.Post("/api/revisions/1/answer", new { picks }).Answer();
        var unit = answer["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).Single(a => (string)a!["name"]! == "unit")!;
        // One that also goes with everything that is suggested.
        var full = picks;
        foreach (var can in unit["choices"]!.AsArray().Where(c => (bool)c!["can"]!))
        {
            full = [.. picks, new { path = (string)unit["path"]!, value = (string)can!["value"]! }];
            if ((await client.Post("/api/revisions/1/answer", new { picks = full }).Answer())["structure"] is JsonObject)
                break;
        }
        var changed = await client.PutAsync($"/api/configurations/{id}",
            System.Net.Http.Json.JsonContent.Create(new { name = "Cold store 7", picks = full, version = (int)saved["version"]! }));
        Assert.Equal(HttpStatusCode.OK, changed.StatusCode);
        var stale = await client.PutAsync($"/api/configurations/{id}",
            System.Net.Http.Json.JsonContent.Create(new { name = "Mine", picks, version = (int)saved["version"]! }));
        Assert.Equal(HttpStatusCode.Conflict, stale.StatusCode);
        var structureId = Guid.NewGuid();
        var first = await client.Post($"/api/configurations/{id}/structures", new { id = structureId }).Json();
        var again = await client.Post($"/api/configurations/{id}/structures", new { id = structureId }).Json();
        Assert.True(JsonNode.DeepEquals(first["structure"], again["structure"]));
        var line = first["structure"]!["bom"]!.AsArray().First(l => l!["below"] is JsonObject)!;
        Assert.NotEmpty(line["below"]!["bom"]!.AsArray());
        var csv = await client.GetStringAsync($"/api/structures/{structureId}/bom.csv");
        Assert.Equal(Lines(first["structure"]!) + 1, csv.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Length);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/api/structures/{structureId}/bom.exe")).StatusCode);
    }

    [Fact]
    public async Task A_released_revision_of_another_product_is_reused_as_it_is_and_found_again_from_there()
    {
        using var engineer = await served.As("engineer");
        var made = await engineer.Post("/api/products", new { id = Guid.NewGuid(), code = "ANX", label = "Annex" }).Json();
        var path = $"/api/revisions/{made["revisionId"]}";
        var topic = (string)(await engineer.Get(path))["document"]!["assemblies"]![0]!["topics"]![0]!["id"]!;
        object Reuse(int? revision, int? before, object? content = null) =>
            new { @do = "reuse", entryId = "cool", productId = "cooling-set", revision, before, content };
        object Add(object row) => new { @do = "add", parentId = topic, collection = "rows", afterId = (string?)null, row };
        var place = new
        {
            kind = "subassembly",
            id = "place",
            name = "cooling",
            assemblyId = "cool",
            make = "phantom",
            inputs = new[] { new { id = "in", attributeId = "cool.c.needed", expression = "load" } }
        };
        var load = new { kind = "attribute", id = "load", name = "load", type = "quantity", unit = "W", min = "0", max = "90000", step = "100" };
        var edited = await engineer.Post($"{path}/edits", new { id = "e1", steps = new[] { Reuse(1, null), Add(place), Add(load) } }).Json();
        var reused = Assert.Single(edited["document"]!["reused"]!.AsArray())!;
        Assert.Equal(("CS", 1), ((string)reused["code"]!, (int)reused["revision"]!));
        Assert.Empty(edited["findings"]!.AsArray());
        // What it is given lies within what it can be asked for.
        var answer = await engineer.Post($"{path}/answer", new { picks = Array.Empty<object>() }).Answer();
        var asked = answer["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).ToList();
        Assert.Equal(("200", "51000"),
            ((string)asked.Single(a => (string)a!["path"]! == "load")!["lowest"]!, (string)asked.Single(a => (string)a!["path"]! == "load")!["highest"]!));
        Assert.Contains(asked, a => (string)a!["path"]! == "place:1/cool.c.unit");

        // Only what was released, as it was released, and once.
        Assert.Equal("There is no released revision 2 of that product.",
            (string)(await engineer.Post($"{path}/edits", new { id = "e2", steps = new[] { Reuse(2, 1) } }).Json())["detail"]!);
        Assert.Equal("/steps", (string)(await engineer.Post($"{path}/edits", new { id = "e3", steps = new[] { Reuse(1, null, reused) } }).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.Conflict, (await engineer.Post($"{path}/edits", new { id = "e4", steps = new[] { Reuse(1, null) } })).StatusCode);
        var inUse = await engineer.Post($"{path}/edits", new { id = "e5", steps = new[] { Reuse(null, 1) } }).Json();
        Assert.Equal(["cooling", "cooling"], inUse["places"]!.AsArray().Select(p => (string)p!["name"]!));
        Assert.Contains("it is edited there",
            (string)(await engineer.Post($"{path}/edits",
            new { id = "e6", steps = new object[] { new { @do = "set", rowId = "cool.c.needed", field = "max", value = "1", before = "60000" } } })
            .Json())["detail"]!);

        Assert.Contains((await engineer.Get($"{path}/history"))[0]!["changes"]!.AsArray(), c =>
            (string)c!["name"]! == "CS" && (string)c["what"]! == "revision 1 is reused");
        var reusers = (await engineer.Get("/api/products/cooling-set/reusers")).AsArray();
        // Other tests import copies of the room.
        Assert.Equal(["ANX 1 draft 1", "CR 2 draft 1", "CR 1 released 1"],
            reusers.Where(r => (string)r!["code"]! is "ANX" or "CR").Select(r => $"{r!["code"]} {r["number"]} {r["state"]} {r["reuses"]}"));
        Assert.Empty((await engineer.Get("/api/products/strip-curtain/reusers")).AsArray());
        // The file takes it along.
        using var approver = await served.As("approver");
        Assert.Equal(HttpStatusCode.OK, (await approver.Post($"{path}/release", new { head = 1 })).StatusCode);
        var file = JsonNode.Parse(await engineer.GetStringAsync($"{path}/file"))!;
        Assert.Contains("UC-C290-21", file["library"]!["items"]!.AsObject().Select(i => i.Key));
        static IEnumerable<string> Values(JsonNode of) => of["lists"]!.AsArray().SelectMany(l => l!["values"]!.AsArray()).Select(v => (string)v!["id"]!);
        Assert.Equal(Values(reused), Values(file["model"]!["reused"]![0]!));
    }

    private static int Lines(JsonNode structure) => structure["bom"]!.AsArray().Sum(l => 1 + (l!["below"] is JsonObject below ? Lines(below) : 0));

    [Fact]
    public async Task The_interface_describes_itself()
    {
        using var client = served.Anonymous();
        var document = await client.Get("/api/openapi.json");
        Assert.Contains("/api/revisions/{id}/answer", document["paths"]!.AsObject().Select(p => p.Key));
    }
}
