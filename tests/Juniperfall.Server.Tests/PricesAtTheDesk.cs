using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Prices as the order desk quotes them, costs as only some may see them, and what a change costs.</summary>
public sealed class PricesAtTheDesk(Served served) : IClassFixture<Served>
{
    private const string Curtain = "/api/revisions/7", Door = "/api/revisions/5", Room = "/api/revisions/1";

    private static object[] Picks(params (string Path, string Value)[] picks) => [.. picks.Select(p => new { path = p.Path, value = p.Value })];

    private static decimal Number(JsonNode? text) => decimal.Parse((string)text!, CultureInfo.InvariantCulture);

    [Fact]
    public async Task Every_price_is_that_of_the_customer_class()
    {
        using var client = await served.As("order desk");
        var asked = new { picks = Picks(("s.width", "2000")), customerClass = "TRADE" };
        var price = (await client.Post($"{Curtain}/answer", asked).Answer())["price"]!;
        // 18 % off 429 EUR.
        Assert.Equal(("429", "351.78", "Trade partner"), ((string)price["list"]!, (string)price["each"]!, (string)price["customerClass"]!));
        var costs = await client.Post($"{Curtain}/costs", new { asked.picks, quantity = "1", asked.customerClass }).Json();
        Assert.Equal("351.78", (string)costs["price"]!["each"]!);
        var total = (await client.Post($"{Curtain}/totals", asked).Json()).AsArray().Single(t => (string)t!["goal"]! == "#price")!;
        Assert.Equal(("price for Trade partner", "351.78 EUR"), ((string)total["label"]!, (string)total["suggested"]!));
        Assert.EndsWith("EUR", (string)(await client.Post($"{Curtain}/bounds", new { asked.picks, asked.customerClass, path = "#price" }).Json())["text"]!);
        // A class that is gone stands in the way of nothing else.
        var gone = (await client.Post($"{Curtain}/answer", new { asked.picks, customerClass = "ENDED" }).Answer())["price"]!;
        Assert.Equal(("429", "429", "There is no customer class “ENDED” in the library."),
            ((string)gone["list"]!, (string)gone["each"]!, (string)gone["fault"]!));
    }

    /// <summary>The texts under names that say what something costs, wherever they stand.</summary>
    private static IEnumerable<string> CostsIn(JsonNode? node) => node switch
    {
        JsonObject members => members.SelectMany(m =>
            (m.Key is "cost" or "orderCost" or "material" or "labour" or "machine" or "overhead" && m.Value is JsonValue text
            && text.TryGetValue<string>(out var said) && said.Length > 0 && !said.Equals("0", StringComparison.Ordinal)
            ? [$"{m.Key} {said}"] : Enumerable.Empty<string>())
            .Concat(m.Key == "margin" && m.Value is not null ? ["margin"] : []).Concat(CostsIn(m.Value))),
        JsonArray members => members.SelectMany(CostsIn),
        _ => [],
    };

    [Fact]
    public async Task What_things_cost_is_told_to_those_only_who_may_see_it()
    {
        using var desk = await served.As("order desk");
        using var planner = await served.As("planner");
        var id = (string)(await desk.Get("/api/configurations?search=Loading%20bay%202"))[0]!["id"]!;
        var structure = Guid.NewGuid().ToString();
        var made = await desk.Post($"/api/configurations/{id}/structures", new { id = structure, quantity = "2" }).Json();
        Assert.True(made["structure"] is not null, made.ToJsonString());
        foreach (var (client, sees) in new[] { (desk, false), (planner, true) })
        {
            var picks = Picks(("s.width", "2000"));
            JsonNode[] answers =
            [
                await client.Post($"{Curtain}/answer", new { picks }).Answer(), await client.Post($"{Curtain}/costs", new { picks, quantity = "3" }).Json(),
                await client.Get($"/api/structures/{structure}"), JsonNode.Parse(await client.GetStringAsync($"/api/structures/{structure}/structure.json"))!,
                await client.Get("/api/items?search=STR-300"), await client.Get("/api/items/STR-300"),
            ];
            foreach (var answer in answers)
                Assert.Equal(sees, CostsIn(answer).Any());
            // Weights and prices are for everyone.
            Assert.All(answers[..2], a => Assert.NotNull(a["price"]));
            Assert.NotEqual("", (string)answers[1]["order"]!["weight"]!);
            foreach (var name in new[] { $"/api/structures/{structure}/bom.csv", $"/api/structures/{structure}/routing.csv", "/api/library/items/file.csv" })
                Assert.Equal(sees, (await client.GetStringAsync(name)).Split('\n')[0].Contains("cost", StringComparison.OrdinalIgnoreCase));
            foreach (var (table, column) in new[] { ("items", "cost"), ("work-centres", "labour rate"), ("sites", "material overhead %") })
                Assert.Equal(sees, (await client.Get($"/api/library/{table}"))["columns"]!.AsArray().Any(c => (string)c! == column));
            Assert.Equal(sees, (await client.Post($"{Curtain}/totals", new { picks }).Json()).AsArray().Any(t => (string)t!["goal"]! == "#cost"));
            Assert.Equal(sees, (await client.Post($"{Curtain}/bounds", new { picks, path = "#cost" }).Json())["text"] is not null);
            Assert.Equal(sees ? HttpStatusCode.OK : HttpStatusCode.UnprocessableEntity,
                (await client.PostAsJsonAsync($"{Curtain}/best", new { picks, goal = "#cost", highest = false })).StatusCode);
            Assert.Equal(sees, (await client.Get($"/api/compare?left={id}&right={id}"))["rows"]!.AsArray()
                .Any(r => (string)r!["name"]! is "Cost" or "Material"));
            Assert.Equal(sees, (await client.Post($"{Curtain}/what-if", new { picks, then = Picks(("s.width", "1000")) }).Json())["changes"]!.AsArray()
                .Any(r => (string)r!["name"]! == "Cost"));
        }
    }

    [Fact]
    public async Task What_is_left_of_a_price_is_watched_by_product()
    {
        using var ines = await served.As("engineer");
        using var desk = await served.As("order desk");
        var product = (string)(await ines.Get("/api/products?search=Strip curtain"))[0]!["id"]!;
        var margin = $"/api/products/{product}/least-margin";
        foreach (var wrong in new[] { "-1", "100", "a lot", "12.345", "1e2", "∞" })
            Assert.Equal("/percent", (string)(await ines.Put(margin, new { percent = wrong }).Json())["pointer"]!);
        Assert.Equal("22.5", (string)(await ines.Put(margin, new { percent = " 22.5 " }).Json())["leastMargin"]!);
        Assert.Null((await desk.Get($"/api/products/{product}"))["leastMargin"]);
        var costs = await ines.Post($"{Curtain}/costs", new { picks = Picks(), quantity = "1" }).Json();
        var (paid, cost) = (Number(costs["price"]!["each"]), Number(costs["piece"]!["cost"]));
        Assert.InRange(Number(costs["margin"]!["amount"]), paid - cost - 0.01m, paid - cost + 0.01m);
        Assert.InRange(Number(costs["margin"]!["percent"]), ((paid - cost) / paid * 100) - 0.1m, ((paid - cost) / paid * 100) + 0.1m);
        Assert.False((bool)costs["margin"]!["isUnder"]!);
        // The same for who pays less, once more is asked.
        await ines.Put(margin, new { percent = "99.99" });
        var answer = (await ines.Post($"{Curtain}/answer", new { picks = Picks(), customerClass = "TRADE" }).Answer())["price"]!["margin"]!;
        Assert.Equal(("99.99", true), ((string)answer["least"]!, (bool)answer["isUnder"]!));
        Assert.Null((string?)(await ines.Put(margin, new { percent = "" }).Json())["leastMargin"]);
        Assert.False((bool)(await ines.Post($"{Curtain}/answer", new { picks = Picks(), customerClass = "TRADE" }).Answer())["price"]!["margin"]!["isUnder"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await ines.PutAsJsonAsync("/api/products/none/least-margin", new { percent = "1" })).StatusCode);
    }

    [Fact]
    public async Task What_something_costs_is_the_difference_of_two_full_answers()
    {
        using var client = await served.As("order desk");
        var random = new Random(19);
        var (different, hindered) = (0, 0);
        foreach (var revision in new[] { Curtain, Door, Room })
        {
            var form = await client.Post($"{revision}/answer", new { picks = Picks() }).Answer();
            var choices = form["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray())
                .Where(a => (string)a!["kind"]! is "choice" or "yesNo" && a["choices"]!.AsArray().Count > 1).Select(a => a!).ToList();
            (string, string) Any() => choices[random.Next(choices.Count)] is var a
                ? ((string)a["path"]!, (string)a["choices"]![random.Next(a["choices"]!.AsArray().Count)]!["value"]!) : default;
            for (var round = 0; round < 14; round++)
            {
                (string Path, string Value)[] now = [.. Enumerable.Range(0, 4).Select(_ => Any()).DistinctBy(p => p.Item1)];
                var change = Any();
                (string Path, string Value)[] then = [.. now.Where(p => p.Path != change.Item1), change];
                var told = await client.Post($"{revision}/what-if", new { picks = Picks(now), then = Picks(then), customerClass = "TRADE" }).Json();
                var (before, after) = (await client.Post($"{revision}/answer", new { picks = Picks(now), customerClass = "TRADE" }).Answer(),
                    await client.Post($"{revision}/answer", new { picks = Picks(then), customerClass = "TRADE" }).Answer());
                Assert.Equal((before["price"]?["each"]?.ToString(), after["price"]?["each"]?.ToString()),
                    (told["now"]!["price"]?["each"]?.ToString(), told["then"]!["price"]?["each"]?.ToString()));
                decimal? expected = before["price"] is { } x && after["price"] is { } y ? Number(y["each"]) - Number(x["each"]) : null;
                Assert.Equal(expected, told["difference"] is { } difference ? Number(difference) : null);
                Assert.Equal(after["price"] is null && after["missing"]!.AsArray().Count + after["clashes"]!.AsArray().Count > 0,
                    told["then"]!["hindrances"]!.AsArray().Count > 0 && told["then"]!["price"] is null);
                different += told["changes"]!.AsArray().Count > 0 ? 1 : 0;
                hindered += told["then"]!["hindrances"]!.AsArray().Count > 0 ? 1 : 0;
            }
        }
        Assert.True(different > 10 && hindered > 2, $"{different} differ, {hindered} cannot be had");
        // Wrong input has its place, in either of the two.
        Assert.Equal("/then/1/path", (string)(await client.Post($"{Curtain}/what-if",
            new { picks = Picks(), then = Picks(("s.width", "900"), ("s.width", "950")) }).Json())["pointer"]!);
        var clash = await client.Post($"{Curtain}/what-if", new { picks = Picks(), then = Picks(("s.width", "9")) }).Json();
        Assert.Null(clash["difference"]);
        Assert.NotEmpty(clash["then"]!["hindrances"]!.AsArray());
    }
}
