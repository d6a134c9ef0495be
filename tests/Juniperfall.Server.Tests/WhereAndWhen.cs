using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Every question, configuration and structure is for a site and a day; what does not hold there is not to be had.</summary>
public sealed class WhereAndWhen(Served served) : IClassFixture<Served>
{
    private const string Path = "/api/revisions/1";

    private static object Pick(string path, string value) => new { path, value };

    private static JsonNode Asked(JsonNode answer, string path) =>
        answer["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).Single(a => (string)a!["path"]! == path)!;

    private static bool Can(JsonNode answer, string path, string value) =>
        (bool)Asked(answer, path)["choices"]!.AsArray().Single(c => (string)c!["value"]! == value)!["can"]!;

    [Theory]
    [InlineData(null, null, true, true)]
    [InlineData("HAL", null, true, true)]
    [InlineData("ell", null, false, true)]
    [InlineData(null, "2027-12-31", true, true)]
    [InlineData("HAL", "2028-01-01", true, false)]
    public async Task A_value_can_be_had_where_and_when_it_holds(string? site, string? date, bool collected, bool galvanised)
    {
        using var client = await served.As("order desk");
        var answer = await client.Exactly(Path, new { picks = Array.Empty<object>(), site, date });
        Assert.Equal((true, (collected, galvanised)),
            ((bool)answer["exact"]!, (Can(answer, "r.delivery", "collected"), Can(answer, "r.outer_finish", "galvanised"))));
        // The reason is the same whoever asks first: the model does not forget for which site and day it was asked.
        var why = await client.Post($"{Path}/why", new { picks = Array.Empty<object>(), path = "r.delivery", value = "collected", site, date }).Json();
        Assert.Equal(collected, (bool)why["possible"]!);
        if (!collected)
            Assert.Equal("“Collected” is to be had only at Haldwyn.", (string)why["reason"]!["sentence"]!);
        var ways = await client.Post($"{Path}/ways-out",
            new { picks = Array.Empty<object>(), path = "r.outer_finish", value = "galvanised", site, date }).Json();
        Assert.Empty(ways["ways"]!.AsArray());
        Assert.Equal(galvanised, ways["cause"] is null);
        if (!galvanised)
            Assert.Equal("“Galvanised steel” is to be had only until 2027-12-31.", (string)ways["cause"]!["sentence"]!);
    }

    [Fact]
    public async Task A_rule_rests_until_its_first_day()
    {
        using var client = await served.As("order desk");
        var refrigerant = (string)(await client.Exactly(Path, new { picks = Array.Empty<object>() }))["sections"]!.AsArray()
            .SelectMany(s => s!["asked"]!.AsArray()).Single(a => (string)a!["name"]! == "refrigerant")!["path"]!;
        object[] picks = [Pick("r.duty", "chill"), Pick(refrigerant, "R449A")];
        Assert.True((bool)(await client.Exactly(Path, new { picks, date = "2027-06-30" }))["valid"]!);
        var later = await client.Exactly(Path, new { picks, date = "2027-07-01" });
        Assert.False((bool)later["valid"]!);
        Assert.Contains("CS §30", later["clashes"]![0]!["reason"]!["causes"]!.AsArray().Select(c => (string)c!["mark"]!));
    }

    [Fact]
    public async Task A_pick_that_does_not_hold_there_is_told_at_its_place_and_left_as_it_is()
    {
        using var client = await served.As("order desk");
        object[] picks = [Pick("r.delivery", "collected"), Pick("r.duty", "freezer")];
        var answer = await client.Exactly(Path, new { picks, site = "TRN" });
        var fault = Assert.Single(answer["faults"]!.AsArray())!;
        Assert.Equal(("r.delivery", "collected", "“Collected” is to be had only at Haldwyn."),
            ((string)fault["path"]!, (string)fault["value"]!, (string)fault["sentence"]!));
        // The rest is answered without it.
        Assert.Equal("picked", (string)Asked(answer, "r.duty")["state"]!);
        var refused = await client.Post("/api/configurations", new { id = Guid.NewGuid(), name = "Depot store", revisionId = 1, picks, site = "TRN" });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
        Assert.Equal("/picks/0/value", (string)JsonNode.Parse(await refused.Content.ReadAsStringAsync())!["pointer"]!);
    }

    [Fact]
    public async Task A_site_that_is_not_there_and_a_day_that_is_none_are_refused_at_their_place()
    {
        using var client = await served.As("order desk");
        object[] picks = [];
        const string site = "NOWHERE";
        foreach (var (question, body) in new (string, object)[]
        {
            ("answer", new { picks, site }), ("why", new { picks, path = "r.duty", value = "chill", site }),
                ("ways-out", new { picks, path = "r.duty", value = "chill", site }),
            ("bounds", new { picks, path = "r.volume", site }),
                ("expression", new { picks, assemblyId = "room", rowId = "r.volume", field = "expression", text = "1", site }),
        })
        {
            var refused = await client.Post($"{Path}/{question}", body);
            Assert.Equal(HttpStatusCode.UnprocessableEntity, refused.StatusCode);
            var problem = JsonNode.Parse(await refused.Content.ReadAsStringAsync())!;
            Assert.Equal(("/site", "There is no site “NOWHERE”."), ((string)problem["pointer"]!, (string)problem["detail"]!));
        }
        var noDay = await client.Post($"{Path}/answer", new { picks = Array.Empty<object>(), date = "2027-02-30" });
        Assert.Equal(HttpStatusCode.BadRequest, noDay.StatusCode);
        Assert.Contains("date", (string)JsonNode.Parse(await noDay.Content.ReadAsStringAsync())!["detail"]!);
    }

    [Fact]
    public async Task A_configuration_keeps_its_site_and_day_and_its_structure_is_made_for_them()
    {
        using var client = await served.As("order desk");
        var listed = (await client.Get("/api/configurations?search=harbour")).AsArray().Single()!;
        var saved = await client.Get($"/api/configurations/{listed["id"]}");
        Assert.Equal(("HAL", "2027-02-15"), ((string)saved["site"]!, (string)saved["date"]!));
        var structureId = Guid.NewGuid();
        var made = await client.Post($"/api/configurations/{listed["id"]}/structures", new { id = structureId }).Json();
        Assert.Equal(("Haldwyn", "2027-02-15"), ((string)made["site"]!, (string)made["date"]!));
        // Lines without a store of their own are taken from where the item is kept at the site.
        var anywhere = await client.Exactly(Path, new { picks = saved["picks"] });
        var stores = made["structure"]!["bom"]!.AsArray().Zip(anywhere["structure"]!["bom"]!.AsArray())
            .Where(l => (string)l.First!["store"]! != (string)l.Second!["store"]!).ToList();
        Assert.NotEmpty(stores);
        Assert.All(stores, l => Assert.Equal("", (string)l.Second!["store"]!));

        Task<HttpResponseMessage> Change(string? site, string? date, JsonNode seen) =>
            client.PutAsJsonAsync($"/api/configurations/{listed["id"]}",
            new { name = (string)saved["name"]!, picks = saved["picks"], site, date, version = (int)seen["version"]! });
        var elsewhere = await Change(null, "2030-01-01", saved).Json();
        Assert.Null((string?)elsewhere["site"]);
        Assert.Equal("2030-01-01", (string)elsewhere["date"]!);
        // What was generated stays as it was.
        Assert.Equal("2027-02-15", (string)(await client.Get($"/api/structures/{structureId}"))["date"]!);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await Change("MOON", null, elsewhere)).StatusCode);
    }
}
