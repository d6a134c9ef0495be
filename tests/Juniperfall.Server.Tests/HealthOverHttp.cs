using System.Net;
using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Analysis, counting and filling in as pages ask for them, on the demo data.</summary>
public sealed class HealthOverHttp(Served served) : IClassFixture<Served>
{
    private const string Path = "/api/revisions/1", Cooling = "/api/revisions/3";

    private static async Task<JsonNode> Finished(HttpClient client, string path)
    {
        for (var tries = 0; tries < 600; tries++)
        {
            var health = await client.GetAsync($"{path}/health?date=2027-01-11").Json();
            if (!(bool)health["running"]!)
                return health;
            await Task.Delay(100);
        }
        throw new TimeoutException("The analysis did not end.");
    }

    [Fact]
    public async Task What_was_found_can_be_accepted_with_a_reason_by_an_engineer_and_taken_back()
    {
        using var ines = await served.As("engineer");
        var health = await Finished(ines, Cooling);
        var found = health["findings"]!.AsArray().Single(f => (string)f!["kind"]! == "valueNever" && (string)f["rowId"]! == "c.needed"
            && ((string)f["sentence"]!).Contains("above"))!;
        // No unit has more than 51 kW.
        Assert.Contains("§24", found["causes"]!.AsArray().Select(c => (string)c!["mark"]!));
        var key = (string)found["key"]!;
        var wrong = await ines.Post($"{Cooling}/health/accepted?date=2027-01-11", new { key, reason = " " });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        Assert.Equal(HttpStatusCode.UnprocessableEntity,
            (await ines.Post($"{Cooling}/health/accepted?date=2027-01-11", new { key = "other", reason = "so" })).StatusCode);
        static JsonNode? AcceptedOf(JsonNode of, string key) => of["findings"]!.AsArray().Single(f => (string)f!["key"]! == key)!["accepted"];
        var accepted = AcceptedOf(await ines.Post($"{Cooling}/health/accepted?date=2027-01-11", new { key, reason = "Kept for spares." }).Json(), key)!;
        Assert.Equal("Kept for spares.", (string)accepted["reason"]!);
        Assert.Null(AcceptedOf(await ines.Post($"{Cooling}/health/accepted?date=2027-01-11", new { key, reason = (string?)null }).Json(), key));
        using var marit = await served.As("order desk");
        Assert.Equal(HttpStatusCode.Forbidden, (await marit.Post($"{Cooling}/health/accepted?date=2027-01-11", new { key, reason = "so" })).StatusCode);
    }

    [Fact]
    public async Task Filling_in_is_told_step_by_step_and_ends_with_a_configuration_that_stands()
    {
        using var client = await served.As("engineer");
        object[] picks = [new { path = "r.duty", value = "freezer" }];
        var text = await (await client.Post($"{Path}/best", new { picks, goal = "#cost", highest = false })).Content.ReadAsStringAsync();
        var steps = text.Split("\n\n", StringSplitOptions.RemoveEmptyEntries)
            .Select(e => JsonNode.Parse(e[(e.IndexOf("data:", StringComparison.Ordinal) + 5)..])!).ToList();
        var last = steps[^1];
        Assert.True((bool)last["done"]! && (bool)last["proven"]!);
        Assert.All(steps.SkipLast(1), s => Assert.False((bool)s["done"]!));
        var all = last["values"]!.AsArray().Select(v => new { path = (string)v!["path"]!, value = (string)v["value"]! }).Cast<object>().Prepend(picks[0])
            .ToArray();
        var answer = await client.Post($"{Path}/answer", new { picks = all }).Answer();
        Assert.True((bool)answer["valid"]!);
        // What the structure costs is what was promised.
        Assert.Equal((string)last["number"]!,
            $"{decimal.Parse((string)answer["structure"]!["totals"]!["cost"]!, System.Globalization.CultureInfo.InvariantCulture):0.00} EUR");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await client.Post($"{Path}/best", new { picks, goal = "#joy", highest = false })).StatusCode);

        // What is given stays at its answer or as it is suggested, and is told as assumed.
        Assert.Equal(["Goods", "Goods a day", "Goods arrive warm", "Ambient"], last["assumed"]!.AsArray().Take(4).Select(a => (string)a!["label"]!));
        Assert.DoesNotContain(last["changes"]!.AsArray(), c => (string)c!["path"]! is "r.goods" or "r.ambient" or "r.length");

        // Filled in, it stands as suggestions: nothing is pinned, also after it was saved and opened again.
        var filled = last["values"]!.AsArray().Select(v => v!.DeepClone()).Prepend(JsonNode.Parse("""{"path": "r.duty", "value": "freezer"}""")!).ToArray();
        Assert.All(filled.Skip(1), v => Assert.Equal("lowest #cost", (string)v["filledIn"]!));
        var suggested = await client.Post($"{Path}/answer", new { picks = filled }).Answer();
        var states = suggested["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).Where(a => (string)a!["path"]! != "r.duty").ToList();
        Assert.DoesNotContain(states, a => (string)a!["state"]! is "picked" or "clash");
        Assert.Equal((string)answer["structure"]!["totals"]!["cost"]!, (string)suggested["structure"]!["totals"]!["cost"]!);
        var id = Guid.CreateVersion7().ToString();
        var saved = await client.Post("/api/configurations", new { id, name = "Filled in", revisionId = 1, picks = filled }).Json();
        Assert.Equal(filled.Length, saved["picks"]!.AsArray().Count);
        Assert.Equal(filled.Length - 1, saved["picks"]!.AsArray().Count(p => (string?)p!["filledIn"] == "lowest #cost"));
        // A pick that does not stand with all of it is taken; what is in its way yields.
        var chill = filled.Skip(1).Append(JsonNode.Parse("""{"path": "r.duty", "value": "chill"}""")!).ToArray();
        Assert.True((bool)(await client.Post($"{Path}/answer", new { picks = chill }).Answer())["valid"]!);
    }

    [Fact]
    public async Task What_stands_against_a_row_of_values_comes_in_groups_of_one_reason()
    {
        using var client = await served.As("order desk");
        var why = await client.Post($"{Path}/why-all", new { picks = new[] { new { path = "r.duty", value = "deep_freezer" } }, path = "r.core" }).Json();
        Assert.True((bool)why["finished"]!);
        var group = Assert.Single(why["groups"]!.AsArray())!;
        Assert.Equal(["80 mm", "100 mm"], group["labels"]!.AsArray().Select(l => (string)l!));
        Assert.Equal("§4", (string)Assert.Single(group["reason"]!["causes"]!.AsArray())!["mark"]!);
        Assert.Equal(HttpStatusCode.UnprocessableEntity,
            (await client.Post($"{Path}/why-all", new { picks = Array.Empty<object>(), path = "r.length" })).StatusCode);
    }

    [Fact]
    public async Task A_count_that_takes_too_long_says_that_there_are_at_least_so_many()
    {
        using var client = await served.As("engineer");
        var count = await client.Post($"{Path}/count", new { picks = Array.Empty<object>() }).Json();
        Assert.False((bool)count["exact"]!);
        Assert.True(((string)count["number"]!).Length > 6);
    }

    [Fact]
    public async Task A_model_is_measured_with_what_is_in_all_of_its_configurations()
    {
        using var marit = await served.As("order desk");
        var door = await marit.Get("/api/revisions/5/measures?date=2027-01-11");
        Assert.True((bool)door["finished"]!);
        var heated = door["features"]!.AsArray()
            .Single(f => (string)f!["feature"]!["path"]! == "d.below_zero" && (string)f["feature"]!["valueLabel"]! == "yes")!;
        Assert.Equal("variant", (string)heated["presence"]!);
        Assert.Contains(heated["implies"]!.AsArray(), f => (string)f!["path"]! == "d.heated");
        Assert.Equal((await marit.Post("/api/revisions/5/count", new { picks = Array.Empty<object>() }).Json())["number"]!.ToString().Replace(" ", ""),
            (string)door["configurations"]!);
    }
}
