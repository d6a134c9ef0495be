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
        var answer = await client.Exactly(Path, new { picks });
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
                var there = await client.Post($"{Path}/answer", new { picks = new[] { Pick("r.duty", (string)change["to"]!), Pick(path, value) } }).Answer();
                Assert.True((bool)there["valid"]!);
            }
        }
    }

    [Fact]
    public async Task Picks_that_clash_are_told_with_their_causes_and_nothing_is_built()
    {
        using var client = await served.As("order desk");
        object[] picks = [Pick("r.duty", "deep_freezer"), Pick("r.core", "80")];
        var answer = await client.Exactly(Path, new { picks });
        Assert.False((bool)answer["valid"]!);
        Assert.Null(answer["structure"]);
        var clash = Assert.Single(answer["clashes"]!.AsArray())!["reason"]!;
        Assert.Equal(["r.duty", "r.core"], clash["picks"]!.AsArray().Select(p => (string)p!["path"]!));
        Assert.Contains("§4", clash["causes"]!.AsArray().Select(c => (string)c!["mark"]!));
        // The picks stand as they were made: the later one is in clash, the earlier one picked.
        Assert.Equal(("picked", "clash"),
            ((string)Asked(answer).Single(a => (string)a["path"]! == "r.duty")["state"]!,
            (string)Asked(answer).Single(a => (string)a["path"]! == "r.core")["state"]!));
        var ways = await client.Post($"{Path}/ways-out", new { picks, path = (string?)null, value = (string?)null }).Json();
        Assert.Equal("r.core", (string)ways["ways"]![0]!["changes"]![0]!["path"]!);
    }

    [Fact]
    public async Task The_levels_of_a_structure_add_up_to_its_totals()
    {
        using var client = await served.As("planner");
        var structure = (await client.Exactly(Path, new { picks = Array.Empty<object>() }))["structure"]!;
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
        var answer = await client.Exactly(Path, new { picks });
        // A line whose item hangs on what is still open says on what; the others have their item.
        var lines = answer["lines"]!.AsArray().Select(l => (string)l!["name"]!).ToList();
        Assert.Contains("wall by Panel core", lines);
        Assert.Contains("ceiling by Panel core", lines);
        Assert.Contains("SO-WHI", lines);
        var figure = answer["figures"]!.AsArray().First(f => !(bool)f!["final"]! && (bool)f["isNumber"]!)!;
        var bounds = await client.Post($"{Path}/bounds", new { picks, path = (string)figure["path"]! }).Json();
        Assert.True((bool)bounds["finished"]!);
        // What was shown unasked is never too narrow.
        static List<decimal> Numbers(JsonNode? text) =>
            [.. ((string)text!).Split(' ').Where(t => decimal.TryParse(t, System.Globalization.CultureInfo.InvariantCulture, out _))
            .Select(t => decimal.Parse(t, System.Globalization.CultureInfo.InvariantCulture))];
        var (ends, shown) = (Numbers(bounds["text"]), Numbers(figure["text"]));
        Assert.True(ends.Count > 0 && ends.Min() >= shown.Min() && ends.Max() <= shown.Max());
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, (await client.Post($"{Path}/bounds", new { picks, path = "r.nothing" })).StatusCode);
    }

    [Theory]
    [InlineData("length * width", "an area", "8.64 m²")]
    [InlineData("ceil(4.2 m / 0.6 m)", "a plain number", "7")]
    [InlineData("if duty.below_zero then 1 else 2", "a plain number", "2")]
    public async Task An_expression_being_typed_shows_its_type_and_what_it_comes_to(string text, string type, string example)
    {
        using var client = await served.As("engineer");
        await client.Exactly(Path, new { picks = Array.Empty<object>() });
        var checkedText = await client
            .Post($"{Path}/expression", new { assemblyId = "room", rowId = "r.volume", field = "expression", text, picks = Array.Empty<object>() }).Json();
        Assert.Empty(checkedText["findings"]!.AsArray());
        Assert.Equal((type, example, true), ((string)checkedText["type"]!, (string)checkedText["example"]!, (bool)checkedText["final"]!));
    }

    [Fact]
    public async Task A_fault_is_told_under_its_word_with_its_repair_and_names_are_completed()
    {
        using var client = await served.As("engineer");
        var faulty = await client.Post($"{Path}/expression",
            new { assemblyId = "room", rowId = "r.volume", field = "expression", text = "lenght * width", picks = Array.Empty<object>() }).Json();
        var finding = Assert.Single(faulty["findings"]!.AsArray())!;
        Assert.Equal((0, 6, "length"), ((int)finding["start"]!, (int)finding["length"]!, (string)finding["suggestion"]!));
        var completed = await client.Post($"{Path}/completion", new { assemblyId = "room", text = "duty = fr", position = 9 }).Json();
        Assert.Equal((7, 2, "freezer"), ((int)completed["start"]!, (int)completed["length"]!, (string)completed["items"]![0]!["text"]!));
    }

    [Theory]
    [InlineData("Cold room"), InlineData("Strip curtain"), InlineData("Door")]
    public async Task The_form_is_told_once_and_no_pick_changes_it(string product)
    {
        using var client = await served.As("engineer");
        var revision = (long)(await client.Get($"/api/products?search={product}")).AsArray()[0]!["revisionId"]!;
        Task<JsonNode> Ask(object picks, string? form, string? site = null) =>
            client.Post($"/api/revisions/{revision}/answer", new { picks, form, site }).Json();
        var first = await Ask(Array.Empty<object>(), null);
        var (form, key) = (first["form"]!, (string)first["formKey"]!);
        Assert.Equal(key, (string)form["key"]!);
        var random = new Random(3);
        var picks = new List<object>();
        var whole = WholeAnswer.Of(form, first);
        for (var i = 0; i < 8; i++)
        {
            // What can be had, somewhere at random.
            var asked = whole["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).Where(a => a!["choices"]!.AsArray().Any(c => (bool)c!["can"]!))
                .ToList();
            var some = asked[random.Next(asked.Count)]!;
            var can = some["choices"]!.AsArray().Where(c => (bool)c!["can"]!).ToList();
            picks.RemoveAll(p => ((dynamic)p).path == (string)some["path"]!);
            picks.Add(new { path = (string)some["path"]!, value = (string)can[random.Next(can.Count)]!["value"]! });
            var (state, again) = (await Ask(picks, key), await Ask(picks, "none"));
            Assert.Null(state["form"]);
            Assert.True(JsonNode.DeepEquals(form, again["form"]), $"{product}: the form differs after {i + 1} picks");
            Assert.True((bool)state["valid"]!);
            Assert.InRange(state.ToJsonString(new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }).Length, 100, 32_000);
            whole = WholeAnswer.Of(form, state);
        }
        // Another site is another form, unless it makes no difference to the model.
        var elsewhere = await Ask(picks, key, "TRN");
        Assert.Equal(elsewhere["formKey"]!.ToJsonString() == JsonValue.Create(key).ToJsonString(), elsewhere["form"] is null);
    }

    [Fact]
    public async Task The_form_of_a_draft_changes_with_the_names_of_the_library_and_that_of_a_release_does_not()
    {
        using var client = await served.As("engineer");
        Task<JsonNode> Ask(int revision, string? form) => client.Post($"/api/revisions/{revision}/answer", new { picks = Array.Empty<object>(), form }).Json();
        var (released, draft) = (await Ask(1, null), await Ask(2, null));
        var item = draft["form"]!["lines"]!.AsArray().First(l => (string)l!["kind"]! == "part" && (string)l["description"]! != "")!;
        var edit = new { columns = new[] { "number", "description" }, rows = new[] { new[] { (string)item["name"]!, "Called something else now" } } };
        (await client.Post("/api/library/items/rows", edit)).EnsureSuccessStatusCode();
        Assert.Null((await Ask(1, (string)released["formKey"]!))["form"]);
        var again = (await Ask(2, (string)draft["formKey"]!))["form"]!;
        Assert.Contains(again["lines"]!.AsArray(), l =>
            (string)l!["name"]! == (string)item["name"]! && (string)l["description"]! == "Called something else now");
    }

    [Fact]
    public async Task An_answer_that_takes_longer_comes_in_parts_that_it_never_takes_back()
    {
        using var client = await served.As("order desk");
        var form = (await client.Post($"{Path}/answer", new { picks = Array.Empty<object>() }).Json())["form"]!;
        var paths = form["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).Select(a => (string)a!["path"]!).ToList();
        var told = 0;
        foreach (var doors in new[] { "4", "3", "2" })
        {
            object[] picks = [Pick("r.door_count", doors)];
            using var sent = await client.Post($"{Path}/answer", new { picks, form = (string)form["key"]!, parts = true });
            var events = sent.Content.Headers.ContentType!.MediaType == "text/event-stream" ? EventsOf(await sent.Content.ReadAsStringAsync()) : [];
            // Asked again it is known, and comes as a whole.
            var whole = await client.Post($"{Path}/answer", new { picks, form = (string)form["key"]!, parts = true }).Json();
            if (events.Count == 0)
                continue;
            Assert.Equal("whole", events[^1].Name);
            Assert.Equal(whole.ToJsonString(), events[^1].Data.ToJsonString());
            foreach (var (name, part) in events.SkipLast(1))
            {
                Assert.Equal("part", name);
                Assert.True((bool)part["valid"]!);
                foreach (var asked in part["asked"]!.AsArray())
                {
                    var (state, exact) = (asked!["state"]!, whole["asked"]![paths.IndexOf((string)asked["path"]!)]!);
                    var cannot = Numbers(exact["cannot"]);
                    Assert.Subset(cannot, Numbers(state["cannot"]));
                    Assert.Subset(Numbers(state["cannot"]).Concat(Numbers(state["unknownChoices"])).ToHashSet(), cannot);
                    if (state["unknown"] is null)
                        Assert.Equal(((string?)exact["lowest"], (string?)exact["highest"]), ((string?)state["lowest"], (string?)state["highest"]));
                }
                told++;
            }
        }
        Assert.True(told > 0, "Every answer came at once.");

        static HashSet<int> Numbers(JsonNode? list) => [.. list?.AsArray().Select(n => (int)n!) ?? []];

        static List<(string Name, JsonNode Data)> EventsOf(string stream) => [.. stream.Split("\n\n", StringSplitOptions.RemoveEmptyEntries)
            .Select(e => e.Split('\n')).Select(lines => (lines.Single(l => l.StartsWith("event: "))[7..], JsonNode.Parse(lines.Single(l => l.StartsWith("data: "))[6..])!))];
    }

    [Fact]
    public async Task Lines_that_are_typed_come_back_as_edits_or_with_what_is_to_be_mended()
    {
        using var client = await served.As("engineer");
        var revision = await client.GetAsync("/api/revisions/2").Json();
        var assembly = revision["document"]!["assemblies"]![0]!;
        var (assemblyId, topic) = ((string)assembly["id"]!, assembly["topics"]![0]!);
        Task<HttpResponseMessage> Read(object lines, object? more = null, string? topicId = null) => client.Post("/api/revisions/2/entry",
            new { assemblyId, topicId = topicId ?? (string)topic["id"]!, afterId = (string?)null, lines, position = more });
        var read = await Read(new[] { "yes/no heated lid when duty = chill", "quantity depth 600..1200", "rule depth >= 600 mm" }).Json();
        var lines = read["lines"]!.AsArray();
        Assert.Equal("heated lid", (string)lines[0]!["steps"]![0]!["row"]!["name"]!);
        Assert.Equal("quantity depth mm 600..1200", (string)lines[1]!["findings"]![0]!["fixes"]![0]!["line"]!);
        Assert.Empty(lines[1]!["steps"]!.AsArray());
        Assert.True((int)lines[2]!["steps"]![0]!["row"]!["number"]! > 0);
        // Nothing is stored by reading.
        Assert.Equal((long)revision["head"]!, (long)(await client.GetAsync("/api/revisions/2").Json())["head"]!);
        var offered = (await Read(new[] { "part PW" }, 7).Json())["completion"]!;
        Assert.Equal(5, (int)offered["start"]!);
        Assert.Contains(offered["items"]!.AsArray(), i => ((string)i!["text"]!).StartsWith("PW-", StringComparison.Ordinal));
        foreach (var wrong in new[] { await Read(Enumerable.Repeat("yes/no a", 201)), await Read(new[] { "yes/no a" }, null, "no such topic") })
            Assert.Equal(422, (int)wrong.StatusCode);
    }
}
