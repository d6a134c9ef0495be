using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Saved configurations: found again by what one knows of them, and generated for another site and day.</summary>
public sealed class ConfigurationsOverHttp(Served served) : IClassFixture<Served>
{
    private static async Task<List<JsonNode>> Found(HttpClient client, string search) =>
        [.. (await client.Get($"/api/configurations?search={Uri.EscapeDataString(search)}")).AsArray().Select(c => c!)];

    [Theory]
    [InlineData("harbour", "Harbour fish market, freezer")]
    [InlineData("strip curtain", "Loading bay 2")]
    [InlineData("sc marit", "Loading bay 2", "Loading bay 1, standard")]
    [InlineData("Solberg polar", "Freezer passage, polar")]
    [InlineData("duty freezer", "Harbour fish market, freezer")]
    [InlineData("SLIDING 1800", "Sliding door 1800")]
    public async Task Each_word_of_a_search_is_found_in_name_product_people_or_answers(string search, params string[] among)
    {
        using var client = await served.As("order desk");
        var found = await Found(client, search);
        Assert.All(among, name => Assert.Contains(name, found.Select(c => (string)c["name"]!)));
        // One word too many, and nothing is found; signs of patterns are none.
        Assert.Empty(await Found(client, $"{search} nowhere-at-all"));
        Assert.Empty(await Found(client, $"{search} %zz_"));
        Assert.True(found.Count < (await Found(client, "")).Count);
    }

    [Fact]
    public async Task A_value_that_is_searched_for_is_told_and_follows_what_is_saved()
    {
        using var client = await served.As("order desk");
        var id = Guid.NewGuid().ToString();
        var form = await client.Post("/api/revisions/1/answer", new { picks = Array.Empty<object>() }).Answer();
        var core = form["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).First(a => (string)a!["label"]! == "Panel core")!;
        object Picked(string value) => new[] { new { path = (string)core["path"]!, value } };
        await client.Post("/api/configurations", new { id, name = "Quarry canteen", revisionId = 1, picks = Picked("120") });
        var today = DateTime.UtcNow.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
        var found = Assert.Single(await Found(client, $"quarry {today} 120 mm"));
        Assert.Equal("Panel core: 120 mm", (string)Assert.Single(found["matches"]!.AsArray())!);
        Assert.Empty((await Found(client, "quarry"))[0]["matches"]!.AsArray());
        await client.Put($"/api/configurations/{id}", new { name = "Quarry canteen", picks = Picked("150"), version = 1 });
        Assert.Empty(await Found(client, "quarry 120"));
        Assert.Single(await Found(client, "quarry 150"));
        // However long and however many words: an answer.
        Assert.Empty(await Found(client, string.Join(' ', Enumerable.Range(0, 400).Select(i => $"word{i}"))));
    }

    [Fact]
    public async Task An_attribute_that_becomes_given_changes_nothing_for_configurations_that_are_there()
    {
        using var engineer = await served.As("engineer");
        var saved = (await Found(engineer, "Sliding door 1800"))[0];
        var step = new { @do = "set", rowId = "d.kind", field = "askedAs", value = "given", before = (string?)null };
        await engineer.Post("/api/revisions/6/edits", new { id = Guid.NewGuid().ToString(), steps = new[] { step } }).Json();
        var preview = await engineer.Get($"/api/configurations/{saved["id"]}/move?to=6");
        Assert.True((bool)preview["valid"]!);
        Assert.Empty(preview["clashes"]!.AsArray());
        Assert.Empty(preview["changes"]!.AsArray());
        // It stays an answer, and can still be changed.
        var answer = await engineer.Post("/api/revisions/6/answer", new { picks = new[] { new { path = "d.kind", value = "sliding" } } }).Answer();
        var kind = answer["sections"]!.AsArray().SelectMany(x => x!["asked"]!.AsArray()).Single(x => (string)x!["path"]! == "d.kind")!;
        Assert.Equal("picked", (string)kind["state"]!);
    }

    [Fact]
    public async Task A_planner_generates_for_another_site_and_day_without_changing_the_configuration()
    {
        using var planner = await served.As("planner");
        var saved = (await Found(planner, "Loading bay 2"))[0];
        var (id, structure) = ((string)saved["id"]!, Guid.NewGuid().ToString());
        var before = (await planner.Get($"/api/configurations/{id}")).ToJsonString();
        var made = await planner.Post($"/api/configurations/{id}/structures",
            new { id = structure, quantity = "5", madeFor = new { site = "hal", date = "2027-03-01" } }).Json();
        Assert.Equal(("Haldwyn", "2027-03-01", "5"), ((string)made["site"]!, (string)made["date"]!, (string)made["costs"]!["quantity"]!));
        Assert.Equal(before, (await planner.Get($"/api/configurations/{id}")).ToJsonString());
        // What to buy and by when, and the load of the work centres, add up with the routing.
        var costs = made["costs"]!;
        Assert.All(costs["consumption"]!.AsArray(), c =>
        {
            var (takes, needed, by) = ((string)c!["leadTimeDays"]!, (string)c["neededOnDay"]!, (string)c["orderByDay"]!);
            Assert.Equal(takes.Length == 0, by.Length == 0);
            if (takes.Length > 0)
                Assert.Equal(decimal.Parse(needed, CultureInfo.InvariantCulture) - decimal.Parse(takes, CultureInfo.InvariantCulture),
                    decimal.Parse(by, CultureInfo.InvariantCulture), 2);
        });
        decimal Sum(IEnumerable<JsonNode?> of, params string[] names) =>
            of.Sum(n => names.Sum(name => decimal.Parse((string)n![name]!, CultureInfo.InvariantCulture)));
        Assert.Equal(Sum(made["structure"]!["routing"]!.AsArray(), "orderSetup", "orderRun"), Sum(costs["load"]!.AsArray(), "setup", "run"), 0);
        Assert.Contains("Load", await Sheets(planner, structure));
        // Wrong ones have their place, and make nothing.
        var other = Guid.NewGuid().ToString();
        Assert.Equal("/madeFor/site", (string)(await planner.Post($"/api/configurations/{id}/structures",
            new { id = other, madeFor = new { site = "MOON", date = (string?)null } }).Json())["pointer"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await planner.GetAsync($"/api/structures/{other}")).StatusCode);
        // The planner still may not change it.
        Assert.Equal(HttpStatusCode.Forbidden, (await planner.Put($"/api/configurations/{id}", new { name = "Mine", picks = Array.Empty<object>(), version = 1 }))
            .StatusCode);
    }

    private static async Task<List<string>> Sheets(HttpClient client, string structure)
    {
        using var book = new System.IO.Compression.ZipArchive(await client.GetStreamAsync($"/api/structures/{structure}/structure.xlsx"));
        using var reader = new StreamReader(book.GetEntry("xl/workbook.xml")!.Open());
        return [.. System.Xml.Linq.XDocument.Parse(await reader.ReadToEndAsync()).Descendants().Where(e => e.Name.LocalName == "sheet")
            .Select(e => (string)e.Attribute("name")!)];
    }
}
