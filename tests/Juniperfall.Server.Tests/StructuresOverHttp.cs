using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using System.Xml.Linq;

namespace Juniperfall.Server.Tests;

/// <summary>Structures as pages ask for them: the full structure, workings, cost and time, what is missing, comparison, files.</summary>
public sealed class StructuresOverHttp(Served served) : IClassFixture<Served>
{
    // Revisions in the order of the demo files: 1 and 2 the cold room, 3 and 4 the door set, 5 and 6 the strip curtain.
    private const string Door = "/api/revisions/5", Curtain = "/api/revisions/7";
    private static object[] Picks(params (string Path, string Value)[] picks) => [.. picks.Select(p => new { path = p.Path, value = p.Value })];

    [Fact]
    public async Task The_full_structure_tells_what_can_be_there_and_narrows_with_picks()
    {
        using var client = await served.As("engineer");
        async Task<Dictionary<string, JsonNode>> Lines(params (string, string)[] picks) =>
            (await client.Post($"{Door}/full-structure", new { picks = Picks(picks) }).Json())["lines"]!.AsArray()
            .ToDictionary(l => (string)l!["rowId"]!, l => l!);
        var all = await Lines();
        Assert.Equal(("always", "open", "open"), ((string)all["part33"]["state"]!, (string)all["part34"]["state"]!, (string)all["part36"]["state"]!));
        var sliding = await Lines(("d.kind", "sliding"));
        Assert.Equal(("out", "in", "always"), ((string)sliding["part34"]["state"]!, (string)sliding["part36"]["state"]!, (string)sliding["part33"]["state"]!));
        Assert.Equal("This does not hold: kind = hinged and leaf_weight <= 45 kg.", (string)sliding["part34"]["whyNot"]!);
        Assert.Contains(sliding["part34"]["because"]!.AsArray(), b => (string)b!["label"]! == "Kind" && (string)b["value"]! == "Sliding");
        Assert.Equal("What carries the leaf?", (string)sliding["part36"]["question"]!);
    }

    [Fact]
    public async Task A_quantity_is_worked_out_step_by_step()
    {
        using var client = await served.As("planner");
        var steps = (await client.Post($"{Curtain}/working",
            new { picks = Picks(("s.width", "1200"), ("s.height", "2100")), rowId = "s.p1", prefix = "", field = "quantity" }).Json()).AsArray();
        Assert.Equal(["strip_count = 6", "strip_length = 2150 mm", "strip_count * strip_length = 12.9 m"], steps.Select(s => $"{s!["text"]} = {s["result"]}"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity,
            (await client.Post($"{Curtain}/working", new { picks = Picks(), rowId = "none", prefix = "", field = "quantity" })).StatusCode);
    }

    [Fact]
    public async Task Cost_and_lead_time_go_with_the_quantity()
    {
        using var client = await served.As("planner");
        var one = await client.Post($"{Curtain}/costs", new { picks = Picks(), quantity = "1", site = "HAL" }).Json();
        var ten = await client.Post($"{Curtain}/costs", new { picks = Picks(), quantity = "10", site = "HAL" }).Json();
        static decimal Of(JsonNode costs, string whose, string part) =>
            decimal.Parse((string)costs[whose]![part]!, System.Globalization.CultureInfo.InvariantCulture);
        // Set-up is shared by the ten, and the carton goes with the order.
        Assert.True(Of(ten, "piece", "cost") < Of(one, "piece", "cost"));
        Assert.True(Of(ten, "order", "cost") < 10 * Of(one, "order", "cost"));
        Assert.Equal(Of(one, "order", "material") * 10 - 9 * 4.6m, Of(ten, "order", "material"));
        Assert.True(decimal.Parse((string)ten["schedule"]!["days"]!, System.Globalization.CultureInfo.InvariantCulture) > decimal
            .Parse((string)one["schedule"]!["days"]!, System.Globalization.CultureInfo.InvariantCulture));
        // Cutting strips and the rail go side by side.
        Assert.Equal("0", (string)one["schedule"]!["operations"]![1]!["start"]!);
        foreach (var wrong in new[] { "0", "-1", "1.5", "two", "" })
            Assert.Equal("/quantity", (string)(await client.Post($"{Curtain}/costs", new { picks = Picks(), quantity = wrong }).Json())["pointer"]!);
    }

    [Fact]
    public async Task What_is_missing_at_a_site_stands_against_generating_there()
    {
        using var client = await served.As("engineer");
        Assert.DoesNotContain((await client.Get($"{Curtain}/buildable?site=HAL")).AsArray(), f => (string)f!["severity"]! == "error");
        var missing = (await client.Get($"{Curtain}/buildable?site=TRN")).AsArray();
        Assert.Contains(missing, f => (string)f!["sentence"]! == "STR-300 is not kept at Tarn Bridge." && (string)f["mendedIn"]! == "item"
            && (string)f["code"]! == "STR-300" && (string)f["rowId"]! == "s.p1");
        var id = Guid.NewGuid();
        await client.Post("/api/configurations", new { id, name = "At the depot", revisionId = 7, picks = Picks(), site = "TRN" });
        var refused = await client.Post($"/api/configurations/{id}/structures", new { id = Guid.NewGuid(), quantity = "1" });
        Assert.Equal(HttpStatusCode.Conflict, refused.StatusCode);
        Assert.Contains("is not kept at Tarn Bridge", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.UnprocessableEntity,
            (await client.Post($"/api/configurations/{id}/structures", new { id = Guid.NewGuid(), quantity = "0" })).StatusCode);
    }

    [Fact]
    public async Task A_structure_goes_out_as_files_that_say_the_same()
    {
        using var client = await served.As("planner");
        var polar = (await client.Get("/api/configurations?search=polar"))[0]!;
        var id = Guid.NewGuid();
        var made = await client.Post($"/api/configurations/{polar["id"]}/structures", new { id, quantity = "4" }).Json();
        Assert.Equal("4", (string)made["costs"]!["quantity"]!);
        Assert.NotEmpty(made["structure"]!["bom"]![0]!["steps"]!.AsArray());
        var json = await client.Get($"/api/structures/{id}/structure.json");
        Assert.Equal(("juniperfall-structure/1", "SC", "4"), ((string)json["format"]!, (string)json["product"]!, (string)json["quantity"]!));
        var xml = XDocument.Parse(await client.GetStringAsync($"/api/structures/{id}/structure.xml"));
        var b2mml = XNamespace.Get("http://www.mesa.org/xml/B2MML");
        var items = json["structure"]!["lines"]!.AsArray().Select(l => (string)l!["item"]!).ToList();
        Assert.Equal(items, xml.Descendants(b2mml + "OperationsMaterialBillItem").Select(i => i.Element(b2mml + "MaterialDefinitionID")!.Value));
        Assert.Equal(items.Append("SC").Order(StringComparer.Ordinal),
            xml.Descendants(b2mml + "MaterialDefinition").Select(d => d.Element(b2mml + "ID")!.Value).Order(StringComparer.Ordinal));
        Assert.Equal(["10-1", "20-2", "30-3", "40-4"], xml.Descendants(b2mml + "OperationsSegment").Select(s => s.Element(b2mml + "ID")!.Value));
        // Punching waits for both that run together.
        Assert.Equal(["20-2", "10-1"],
            xml.Descendants(b2mml + "OperationsSegment").ElementAt(2).Elements(b2mml + "SegmentDependency").Select(d => d.Element(b2mml + "SegmentID")!.Value));
        var csv = await client.GetStringAsync($"/api/structures/{id}/bom.csv");
        Assert.Equal(items, csv.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Skip(1).Select(l => l.Split(',')[3]));
        // The instructions carry the numbers of this order.
        Assert.Contains("strips of 2150 mm", (string)json["structure"]!["operations"]![0]!["instructions"]!["en"]!, StringComparison.Ordinal);
        Assert.Equal("%PDF", System.Text.Encoding.ASCII.GetString((await client.GetByteArrayAsync($"/api/structures/{id}/structure.pdf"))[..4]));
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/api/structures/{id}/bom.json")).StatusCode);
    }

    [Fact]
    public async Task Two_configurations_are_compared_in_all_that_they_come_to()
    {
        using var client = await served.As("planner");
        async Task<string> Id(string name) => (string)(await client.Get($"/api/configurations?search={Uri.EscapeDataString(name)}"))[0]!["id"]!;
        var (left, right) = (await Id("Sliding door 1800"), await Id("Door with window"));
        var rows = (await client.Get($"/api/compare?left={left}&right={right}"))["rows"]!.AsArray();
        string[] Of(string kind, string name) =>
            [.. rows.Where(r => (string)r!["kind"]! == kind && (string)r["name"]! == name)
            .SelectMany(r => new[] { (string)r!["before"]!, (string)r["after"]! })];
        Assert.Equal(["Sliding", "Hinged"], Of("attribute", "Kind"));
        Assert.Equal("", (string)rows.Single(r => ((string)r!["name"]!).StartsWith("WIN-3 ", StringComparison.Ordinal))!["before"]!);
        Assert.Contains(rows, r => (string)r!["kind"]! == "total" && (string)r["name"]! == "Cost");
        Assert.Contains(rows, r => (string)r!["before"]! == (string)r["after"]!);
        // Doors that are not there have nothing to compare.
        var (room, other) = (await Id("Harbour"), await Id("Bakery"));
        Assert.DoesNotContain((await client.Get($"/api/compare?left={room}&right={other}"))["rows"]!.AsArray(), r =>
            ((string)r!["name"]!).StartsWith("Door 2", StringComparison.Ordinal) && (string)r["kind"]! == "attribute");
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/api/compare?left={left}&right=none")).StatusCode);
        Assert.Equal("PK", System.Text.Encoding.ASCII.GetString((await client.GetByteArrayAsync($"/api/compare.xlsx?left={left}&right={right}"))[..2]));
    }

    [Fact]
    public async Task A_price_tells_each_of_its_steps_with_formula_and_values()
    {
        using var client = await served.As("order desk");
        var price = (await client.Post($"{Curtain}/costs", new { picks = Picks(("s.width", "2000")), quantity = "3" }).Json())["price"]!;
        Assert.Equal(["adds By area 428.4", "atLeast Least for a curtain 428.4", "rounds Whole euros 429"],
            price["steps"]!.AsArray().Select(s => $"{s!["effect"]} {s["name"]} {s["after"]}"));
        var area = price["steps"]![0]!;
        Assert.Equal(("area * strip.rate * (if overlap = two_thirds then 1.9 else if overlap = half then 1.3 else 1)", "not standard", "s.p_area"),
            ((string)area["formula"]!, (string)area["condition"]!, (string)area["rowId"]!));
        var steps = area["steps"]!.AsArray().Select(s => $"{s!["text"]} = {((string)s["result"]!).Replace('²', '2')}").ToList();
        Assert.Equal(["area = 4.2 m2", "strip.rate = 102 EUR/m2", "area * strip.rate = 428.4 EUR"], steps.Take(3));
        Assert.Equal(("429", "1287", "429"),
            ((string)price["list"]!, (string)price["order"]!,
            (string)(await client.Post($"{Curtain}/answer", new { picks = Picks(("s.width", "2000")) }).Answer())["price"]!["list"]!));
        Assert.Equal("/customerClass",
            (string)(await client.Post($"{Curtain}/costs", new { picks = Picks(), quantity = "1", customerClass = "NOBODY" }).Json())["pointer"]!);
    }

    [Fact]
    public async Task While_something_is_open_totals_tell_from_where_to_where_they_can_go()
    {
        using var client = await served.As("engineer");
        var totals = (await client.Post($"{Door}/totals", new { picks = Picks() }).Json()).AsArray();
        Assert.Equal(["#price", "#cost", "#weight", "#work", "#leadTime"], totals.Select(t => (string)t!["goal"]!));
        // As suggested nothing is open; over all that can still be picked much is.
        Assert.Equal("760.00 EUR", (string)totals[0]!["suggested"]!);
        Assert.All(totals, t => Assert.False((bool)t!["final"]!));
        var exactly = Ends((string)(await client.Post($"{Door}/bounds", new { picks = Picks(), path = "#price" }).Json())["text"]!);
        var reach = Ends((string)totals[0]!["text"]!);
        Assert.Equal((760, 2275), exactly);
        Assert.InRange(exactly.Least, reach.Least, 760);
        Assert.InRange(exactly.Most, 760, reach.Most);
        Assert.Equal("/path", (string)(await client.Post($"{Door}/bounds", new { picks = Picks(), path = "#profit" }).Json())["pointer"]!);
    }

    private static (decimal Least, decimal Most) Ends(string text)
    {
        var ends = text.Replace(" EUR", "").Split(" – ").Select(n => decimal.Parse(n, CultureInfo.InvariantCulture)).ToList();
        return (ends[0], ends[^1]);
    }

    [Fact]
    public async Task A_configuration_keeps_whom_it_is_priced_for_and_its_structure_keeps_the_price()
    {
        using var client = await served.As("order desk");
        var (id, structure) = (Guid.NewGuid().ToString(), Guid.NewGuid().ToString());
        Assert.Equal("/customerClass",
            (string)(await client.Post("/api/configurations", new { id, name = "Priced", revisionId = 7, picks = Picks(), customerClass = "NOBODY" })
            .Json())["pointer"]!);
        var saved = await client.Post("/api/configurations", new { id, name = "Priced", revisionId = 7, picks = Picks(), customerClass = "trade" }).Json();
        Assert.Equal("TRADE", (string)saved["customerClass"]!);
        var result = await client.Post($"/api/configurations/{id}/structures", new { id = structure, quantity = "4" }).Json();
        Assert.Equal(("Trade partner", "211.56", "846.24"),
            ((string)result["costs"]!["price"]!["customerClass"]!, (string)result["costs"]!["price"]!["each"]!, (string)result["costs"]!["price"]!["order"]!));
        var file = JsonNode.Parse(await client.GetStringAsync($"/api/structures/{structure}/structure.json"))!;
        Assert.Equal(("258", "TRADE", "18"), ((string)file["price"]!["list"]!, (string)file["price"]!["customerClass"]!, (string)file["price"]!["discount"]!));
        // What is said of the class later does not reach what was generated.
        using var piet = await served.As("administrator");
        await piet.Post("/api/library/customer-classes/rows", new { columns = new[] { "code", "discount SC %" }, rows = new[] { new[] { "TRADE", "20" } } });
        Assert.Equal("211.56", (string)(await client.Get($"/api/structures/{structure}"))["costs"]!["price"]!["each"]!);
        Assert.Equal("206.4", (string)(await client.Post($"{Curtain}/costs", new { picks = Picks(), quantity = "1", customerClass = "TRADE" })
            .Json())["price"]!["each"]!);
        await piet.Post("/api/library/customer-classes/rows", new { columns = new[] { "code", "discount SC %" }, rows = new[] { new[] { "TRADE", "18" } } });
        // Side by side with list price, at a quantity.
        var other = Guid.NewGuid().ToString();
        await client.Post("/api/configurations", new { id = other, name = "Listed", revisionId = 7, picks = Picks() });
        var compared = await client.Get($"/api/compare?left={id}&right={other}&quantity=4");
        Assert.Equal("Trade partner", (string)compared["left"]!["customerClass"]!);
        Assert.Contains(compared["rows"]!.AsArray(), r =>
            (string)r!["name"]! == "Price of the order" && (string)r["before"]! == "846.24 EUR" && (string)r["after"]! == "1032.00 EUR");
        Assert.Equal("/quantity", (string?)(await (await client.GetAsync($"/api/compare?left={id}&right={other}&quantity=0")).Content
            .ReadAsStringAsync() is var text ? JsonNode.Parse(text)!["pointer"] : null));
    }

    [Fact]
    public async Task A_grid_tells_what_it_draws_from_the_register()
    {
        using var client = await served.As("engineer");
        var drawn = await client.Get("/api/revisions/3/grids/c.units/drawn");
        Assert.Equal((400, 200), ((int)drawn["found"]!, drawn["rows"]!.AsArray().Count));
        Assert.Equal(("UC-C290-2-01", "C290-2-01 chill R290 230"),
            ((string)drawn["rows"]![0]!["item"]!, string.Join(' ', drawn["rows"]![0]!["cells"]!.AsArray().Select(c => (string)c!))));
        Assert.Contains("refrigerant", drawn["properties"]!.AsArray().Select(p => (string)p!));
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/revisions/1/grids/r.duty/drawn")).StatusCode);
        // Where an item is used tells the grids that draw it, also where its number is written nowhere in the model.
        Assert.Contains((await client.Get("/api/items/UC-C290-2-01"))["models"]!.AsArray(), m =>
            (string)m!["rowId"]! == "c.units" && (string)m["how"]! == "drawn row");
        // A unit that leaves the register leaves the draft, and not what was released.
        await client.Post("/api/library/items/rows", new { columns = new[] { "number", "active" }, rows = new[] { new[] { "UC-C290-2-02", "no" } } });
        Assert.Equal((400, 399), ((int)(await client.Get("/api/revisions/3/grids/c.units/drawn"))["found"]!,
            (int)(await client.Get("/api/revisions/4/grids/c.units/drawn"))["found"]!));
        await client.Post("/api/library/items/rows", new { columns = new[] { "number", "active" }, rows = new[] { new[] { "UC-C290-2-02", "yes" } } });
    }
}
