using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Wrong input gets a sentence at the place of the fault, and leaves everything as it was.</summary>
public sealed class WrongRequests(Served served) : IClassFixture<Served>
{
    private const string Draft = "/api/revisions/2", Released = "/api/revisions/1";

    private static StringContent Body(string json) => new(json, Encoding.UTF8, "application/json");

    [Theory]
    [InlineData("""{"picks":[{"path":"r.length"}]}""", "/picks/0", 400)]
    [InlineData("""{"picks":[{"path":"r.length","value":7}]}""", "/picks/0/value", 400)]
    [InlineData("""{"picks":[],"more":1}""", "/more", 400)]
    [InlineData("""{"picks":""", "/picks", 400)]
    [InlineData("", "", 400)]
    public async Task A_body_that_is_not_what_is_asked_for_is_told_where(string json, string pointer, int status)
    {
        using var client = await served.As("engineer");
        var problem = await client.PostAsync($"{Draft}/answer", Body(json)).Json();
        Assert.Equal((status, pointer), ((int)problem["status"]!, (string)problem["pointer"]!));
        Assert.NotEmpty((string)problem["detail"]!);
    }

    [Theory]
    [InlineData("r.length", "99999", "lies between")]
    [InlineData("r.length", "3610", "goes in steps of")]
    [InlineData("r.length", "3,6", "with a point")]
    [InlineData("r.length", "3600 kg", "length")]
    [InlineData("r.length", "long", "not a number")]
    [InlineData("r.duty", "frezer", "Did you mean “freezer”?")]
    [InlineData("r.nothing", "1", "no longer asked")]
    public async Task A_pick_that_cannot_be_read_is_answered_at_its_place_and_the_rest_goes_on(string path, string value, string sentence)
    {
        using var client = await served.As("order desk");
        var answer = await client.Post($"{Released}/answer", new { picks = new[] { new { path = "r.goods", value = "meat" }, new { path, value } } }).Answer();
        var fault = Assert.Single(answer["faults"]!.AsArray())!;
        Assert.Contains(sentence, (string)fault["sentence"]!);
        Assert.True((bool)answer["valid"]!);
        var saved = await client.Post("/api/configurations",
            new { id = Guid.NewGuid(), name = "x", revisionId = 1, picks = new[] { new { path = "r.goods", value = "meat" }, new { path, value } } }).Json();
        Assert.Equal((422, "/picks/1/value"), ((int)saved["status"]!, (string)saved["pointer"]!));
    }

    [Fact]
    public async Task An_edit_of_what_has_changed_is_refused_with_what_is_there()
    {
        using var client = await served.As("engineer");
        JsonObject Edit(string value, string before) => new()
        {
            ["id"] = Guid.NewGuid().ToString(),
            ["steps"] = new JsonArray(new JsonObject { ["do"] = "set", ["rowId"] = "r.width", ["field"] = "note", ["value"] = value, ["before"] = before }),
        };
        var first = await client.Post($"{Draft}/edits", Edit("first", "")).Json();
        // Of all rows only the one that was edited is told again.
        var told = Rows(first).Where(r => r["same"] is null).ToList();
        Assert.Equal(("r.width", "first"), ((string)Assert.Single(told)["id"]!, (string)told[0]["note"]!));
        var whole = await client.Get(Draft);
        Assert.Equal(whole["head"]!.ToJsonString(), first["sequence"]!.ToJsonString());
        Assert.True(JsonNode.DeepEquals(Rows(whole).Single(r => (string)r["id"]! == "r.width"), told[0]));
        Assert.InRange(first.ToJsonString().Length, 100, whole.ToJsonString().Length / 10);
        var refused = await client.Post($"{Draft}/edits", Edit("second", "")).Json();
        Assert.Equal((409, "changed", "first"), ((int)refused["status"]!, (string)refused["fault"]!, (string)refused["current"]!));
        var used = await client.Post($"{Draft}/edits", new { id = Guid.NewGuid(), steps = new[] { new { @do = "remove", rowId = "r.width" } } }).Json();
        Assert.Equal((409, "inUse"), ((int)used["status"]!, (string)used["fault"]!));
        Assert.Contains(used["places"]!.AsArray(), p => (string)p!["name"]! == "§3");
        var released = await client.Post($"{Released}/edits", Edit("late", "")).Json();
        Assert.Contains("open the next revision", (string)released["detail"]!);
    }

    private static IEnumerable<JsonNode> Rows(JsonNode revision) =>
        revision["document"]!["assemblies"]!.AsArray().SelectMany(a => a!["topics"]?.AsArray() ?? []).SelectMany(t => t!["rows"]?.AsArray() ?? [])!;

    [Theory]
    [InlineData("{", "Line 1")]
    [InlineData("""{"feature":"tree"}""", "does not belong here")]
    [InlineData("""{"model":{"id":"m","code":"M","root":"a","format":"other/9"}}""", "other/9")]
    [InlineData("null", "empty")]
    public async Task A_file_that_is_no_model_is_told_why(string file, string sentence)
    {
        using var client = await served.As("engineer");
        var problem = await client.PostAsync("/api/products/file", Body(file)).Json();
        Assert.Equal(422, (int)problem["status"]!);
        Assert.Contains(sentence, (string)problem["detail"]!);
    }

    [Fact]
    public async Task A_file_that_nests_deeply_or_is_huge_is_refused_in_little_time()
    {
        using var client = await served.As("engineer");
        var deep = await client.PostAsync("/api/products/file", Body($$"""{"model":{{string.Concat(Enumerable.Repeat("[", 100_000))}}""")).Json();
        Assert.Contains("Line 1", (string)deep["detail"]!);
        var before = (await client.Get("/api/products")).AsArray().Count;
        using var huge = new ByteArrayContent(new byte[Juniperfall.Core.Limits.LargestFile + 1]);
        var status = (await client.PostAsync("/api/products/file", huge)).StatusCode;
        Assert.True(status is HttpStatusCode.UnprocessableEntity or HttpStatusCode.RequestEntityTooLarge, $"{status}");
        Assert.Equal(before, (await client.Get("/api/products")).AsArray().Count);
    }

    [Fact]
    public async Task A_product_code_is_taken_once_and_a_repeated_request_makes_one_product()
    {
        using var client = await served.As("engineer");
        var id = Guid.NewGuid();
        var first = await client.Post("/api/products", new { id, code = "SR", label = "Shelf rack" }).Json();
        var again = await client.Post("/api/products", new { id, code = "SR", label = "Shelf rack" }).Json();
        Assert.Equal((long)first["revisionId"]!, (long)again["revisionId"]!);
        var taken = await client.Post("/api/products", new { id = Guid.NewGuid(), code = "sr", label = "Another" }).Json();
        Assert.Equal((409, "/code"), ((int)taken["status"]!, (string)taken["pointer"]!));
    }
}
