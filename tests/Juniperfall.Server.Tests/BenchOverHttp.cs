using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>The bench as a page asks it, on the demo data: what it says fits together.</summary>
public sealed class BenchOverHttp(Served served) : IClassFixture<Served>
{
    private const string Path = "/api/revisions/1";

    private static object Pick(string path, string value) => new { path, value };

    private static IEnumerable<JsonNode> Asked(JsonNode answer) => answer["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray())!;

    [Fact]
    public async Task Every_value_ruled_out_by_a_pick_has_a_reason_and_each_of_its_ways_out_leads_there()
    {
        using var client = await served.As("order desk");
        object[] picks = [Pick("r.duty", "freezer")];
        var answer = await client.Post($"{Path}/answer", new { picks }).Json();
        var ruledOut = Asked(answer).Where(a => (string)a["name"]! is "core" or "floor" or "voltage")
            .SelectMany(a => a["choices"]!.AsArray().Where(c => !(bool)c!["can"]!).Select(c => ((string)a["path"]!, (string)c!["value"]!))).ToList();
        Assert.NotEmpty(ruledOut);
        foreach (var (path, value) in ruledOut)
        {
            var why = await client.Post($"{Path}/why", new { picks, path, value }).Json();
            Assert.True((bool)why["finished"]!);
            Assert.NotEmpty(why["reason"]!["picks"]!.AsArray().Concat(why["reason"]!["causes"]!.AsArray()));
            foreach (var way in (await client.Post($"{Path}/ways-out", new { picks, path, value }).Json())["ways"]!.AsArray())
            {
                var change = Assert.Single(way!["changes"]!.AsArray())!;
                Assert.Equal("r.duty", (string)change["path"]!);
                var there = await client.Post($"{Path}/answer", new { picks = new[] { Pick("r.duty", (string)change["to"]!), Pick(path, value) } }).Json();
                Assert.True((bool)there["valid"]!);
            }
        }
    }

    [Fact]
    public async Task Picks_that_clash_are_told_with_their_causes_and_nothing_is_built()
    {
        using var client = await served.As("order desk");
        object[] picks = [Pick("r.duty", "deep_freezer"), Pick("r.core", "80")];
        var answer = await client.Post($"{Path}/answer", new { picks }).Json();
        Assert.False((bool)answer["valid"]!);
        Assert.Null(answer["structure"]);
        var clash = Assert.Single(answer["clashes"]!.AsArray())!["reason"]!;
        Assert.Equal(["r.duty", "r.core"], clash["picks"]!.AsArray().Select(p => (string)p!["path"]!));
        Assert.Contains("§4", clash["causes"]!.AsArray().Select(c => (string)c!["mark"]!));
        // The picks stand as they were made: the later one is in clash, the earlier one picked.
        Assert.Equal(("picked", "clash"), ((string)Asked(answer).Single(a => (string)a["path"]! == "r.duty")["state"]!, (string)Asked(answer).Single(a => (string)a["path"]! == "r.core")["state"]!));
        var ways = await client.Post($"{Path}/ways-out", new { picks, path = (string?)null, value = (string?)null }).Json();
        Assert.Equal("r.core", (string)ways["ways"]![0]!["changes"]![0]!["path"]!);
    }

    [Fact]
    public async Task The_levels_of_a_structure_add_up_to_its_totals()
    {
        using var client = await served.As("planner");
        var structure = (await client.Post($"{Path}/answer", new { picks = Array.Empty<object>() }).Json())["structure"]!;
        decimal Of(JsonNode node, string member) => Formats.Tables.Number((string)node[member]!);
        var sum = structure["bom"]!.AsArray().Sum(l => Of(l!, "cost")) + structure["routing"]!.AsArray().Sum(o => Of(o!, "cost"));
        // Each line is shown to the cent.
        Assert.InRange(sum - Of(structure["totals"]!, "cost"), -0.5m, 0.5m);
        Assert.Equal(Of(structure["totals"]!, "weight"), structure["bom"]!.AsArray().Sum(l => Of(l!, "weight")), 0);
    }

    [Fact]
    public async Task A_figure_that_is_still_open_can_be_asked_how_far_it_goes()
    {
        using var client = await served.As("order desk");
        object[] picks = [Pick("r.duty", "freezer")];
        var answer = await client.Post($"{Path}/answer", new { picks }).Json();
        // A line whose item hangs on what is still open says on what; the others have their item.
        var lines = answer["lines"]!.AsArray().Select(l => (string)l!["name"]!).ToList();
        Assert.Contains("wall by Panel core", lines);
        Assert.Contains("ceiling by Panel core", lines);
        Assert.Contains("SO-WHI", lines);
        var figure = answer["figures"]!.AsArray().First(f => !(bool)f!["final"]! && (string?)f["low"] is not null)!;
        var bounds = await client.Post($"{Path}/bounds", new { picks, path = (string)figure["path"]! }).Json();
        Assert.True((bool)bounds["finished"]!);
        // What was shown unasked is never too narrow.
        var ends = ((string)bounds["text"]!).Split(' ').Where(t => decimal.TryParse(t, System.Globalization.CultureInfo.InvariantCulture, out _)).Select(t => decimal.Parse(t, System.Globalization.CultureInfo.InvariantCulture)).ToList();
        Assert.True(ends.Count > 0 && ends.Min() >= Formats.Tables.Number((string)figure["low"]!) && ends.Max() <= Formats.Tables.Number((string)figure["high"]!));
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, (await client.Post($"{Path}/bounds", new { picks, path = "r.nothing" })).StatusCode);
    }

    [Theory]
    [InlineData("length * width", "an area", "8.64 m²")]
    [InlineData("ceil(4.2 m / 0.6 m)", "a plain number", "7")]
    [InlineData("if duty.below_zero then 1 else 2", "a plain number", "2")]
    public async Task An_expression_being_typed_shows_its_type_and_what_it_comes_to(string text, string type, string example)
    {
        using var client = await served.As("engineer");
        await client.Post($"{Path}/answer", new { picks = Array.Empty<object>() });
        var checkedText = await client.Post($"{Path}/expression", new { assemblyId = "room", rowId = "r.volume", field = "expression", text, picks = Array.Empty<object>() }).Json();
        Assert.Empty(checkedText["findings"]!.AsArray());
        Assert.Equal((type, example, true), ((string)checkedText["type"]!, (string)checkedText["example"]!, (bool)checkedText["final"]!));
    }

    [Fact]
    public async Task A_fault_is_told_under_its_word_with_its_repair_and_names_are_completed()
    {
        using var client = await served.As("engineer");
        var faulty = await client.Post($"{Path}/expression", new { assemblyId = "room", rowId = "r.volume", field = "expression", text = "lenght * width", picks = Array.Empty<object>() }).Json();
        var finding = Assert.Single(faulty["findings"]!.AsArray())!;
        Assert.Equal((0, 6, "length"), ((int)finding["start"]!, (int)finding["length"]!, (string)finding["suggestion"]!));
        var completed = await client.Post($"{Path}/completion", new { assemblyId = "room", text = "duty = fr", position = 9 }).Json();
        Assert.Equal((7, 2, "freezer"), ((int)completed["start"]!, (int)completed["length"]!, (string)completed["items"]![0]!["text"]!));
    }
}
