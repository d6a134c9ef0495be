using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using Juniperfall.Formats;

namespace Juniperfall.Server.Tests;

/// <summary>The library as tables: loaded, edited, searched, taken out; and where its items are used.</summary>
public sealed class LibraryOverHttp(Served served) : IClassFixture<Served>
{
    private static Task<HttpResponseMessage> Load(HttpClient client, string mode, byte[] file, string table = "items") =>
        client.PostAsync($"/api/library/{table}/load?mode={mode}", new ByteArrayContent(file));

    private static byte[] Csv(params string[] lines) => Encoding.UTF8.GetBytes(string.Join("\r\n", lines));

    [Fact]
    public async Task A_file_is_looked_at_first_and_then_taken_whole_or_as_far_as_it_is_sound()
    {
        using var client = await served.As("administrator");
        var file = Csv("number;description;unit;kind;cost;store HAL;kg per unit", "LD-1;Loaded one;m;bought;1.5;Raw;2",
            "LD-2;Loaded two;parsec;bought;x;Attic;0", ";nameless;;;;;", "LD-1;again;;;;;");
        var seen = await Load(client, "check", file).Json();
        Assert.Equal((4, 1, 3), ((int)seen["rows"]!, (int)seen["added"]!, (int)seen["faultyRows"]!));
        Assert.False((bool)seen["stored"]!);
        Assert.Equal(["3 unit: “parsec” is not a unit code; pieces are left empty.", "3 cost: “x” is not a number.",
            "3 kg per unit: It must be more than zero.", "4 number: The number is missing.", "5 number: It stands in row 2 already."],
            seen["faults"]!.AsArray().Select(f => $"{f!["row"]} {f["column"]}: {f["sentence"]}"));
        Assert.False((bool)(await Load(client, "all", file).Json())["stored"]!);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/items/LD-1")).StatusCode);
        Assert.True((bool)(await Load(client, "good", file).Json())["stored"]!);
        var item = await client.Get("/api/items/LD-1");
        Assert.Equal(("1.5", "Raw", "2"), ((string)item["item"]!["cost"]!, (string)item["sites"]![0]!["store"]!, (string)item["conversions"]!["kg"]!));
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/items/LD-2")).StatusCode);
        // A column that is left out leaves what is there as it is; a store that is not there is told.
        Assert.Equal((1, 0), (await Load(client, "all", Csv("number,lead time days", "LD-1,9")).Json() is var changed
            ? ((int)changed["changed"]!, (int)changed["faultCount"]!) : default));
        Assert.Equal("1.5", (string)(await client.Get("/api/items/LD-1"))["item"]!["cost"]!);
        Assert.Contains("no store “Attic”", (string)(await Load(client, "check", Csv("number,store HAL", "LD-1,Attic")).Json())["faults"]![0]!["sentence"]!,
            StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_is_taken_out_changes_nothing_when_it_is_loaded_again()
    {
        using var client = await served.As("engineer");
        foreach (var table in new[] { "items", "work-centres", "sites", "standard-operations", "customer-classes" })
            foreach (var format in new[] { "csv", "xlsx" })
            {
                var again = await Load(client, "check", await client.GetByteArrayAsync($"/api/library/{table}/file.{format}"), table).Json();
                Assert.Equal((0, 0, 0), ((int)again["added"]!, (int)again["changed"]!, (int)again["faultCount"]!));
                Assert.True((int)again["same"]! > 2, $"{table}.{format}");
            }
    }

    [Fact]
    public async Task Files_that_are_none_are_refused_with_a_sentence_and_nothing_is_stored()
    {
        using var client = await served.As("engineer");
        async Task<string> Refused(byte[] file) => await Load(client, "all", file) is { StatusCode: HttpStatusCode.UnprocessableEntity } answer
            ? (string)JsonNode.Parse(await answer.Content.ReadAsStringAsync())!["detail"]! : "taken";
        Assert.StartsWith("The file is empty", await Refused([]), StringComparison.Ordinal);
        Assert.Equal("The file is not text in UTF-8.", await Refused([0x6e, 0xff, 0xfe, 0x00]));
        Assert.Equal("The file is neither a CSV nor an XLSX file that can be read.", await Refused([(byte)'P', (byte)'K', 3, 4, 9, 9]));
        Assert.StartsWith("The column “Number” is there twice", await Refused(Csv("Number,number", "a,b")), StringComparison.Ordinal);
        Assert.Contains("more than 150,000 rows", await Refused(Csv(["number", .. Enumerable.Range(0, 150_002).Select(i => $"n{i}")])),
            StringComparison.Ordinal);
        var strange = await Load(client, "good", Csv("number,colour", "LD-9,red")).Json();
        Assert.StartsWith("There is no column “colour”", (string)strange["faults"]![0]!["sentence"]!, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/items/LD-9")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Load(client, "all", Csv("code", "x"), "people")).StatusCode);
    }

    [Fact]
    public async Task A_grid_is_edited_by_the_same_rules_and_a_model_sees_the_change_at_once()
    {
        using var client = await served.As("engineer");
        var wrong = await client.Post("/api/library/work-centres/rows",
            new { columns = new[] { "code", "site", "crew" }, rows = new[] { new[] { "DOOR", "MOON", "0" } } }).Json();
        Assert.False((bool)wrong["stored"]!);
        Assert.Equal("“0” is no number of people.", (string)wrong["faults"]![0]!["sentence"]!);
        async Task<string> Labour() =>
            (string)(await client.Post("/api/revisions/6/costs", new { picks = Array.Empty<object>(), quantity = "1" }).Json())["order"]!["labour"]!;
        var before = await Labour();
        Assert.True((bool)(await client
            .Post("/api/library/work-centres/rows", new { columns = new[] { "code", "labour rate" }, rows = new[] { new[] { "DOOR", "70" } } })
            .Json())["stored"]!);
        Assert.NotEqual(before, await Labour());
        Assert.True((bool)(await client
            .Post("/api/library/work-centres/rows", new { columns = new[] { "code", "labour rate" }, rows = new[] { new[] { "DOOR", "35" } } })
            .Json())["stored"]!);
    }

    [Fact]
    public async Task A_store_that_an_item_or_a_part_line_is_kept_in_is_not_taken_away()
    {
        using var client = await served.As("administrator");
        async Task<string?> Set(string stores) => (await Load(client, "all", Csv("code;stores", $"HAL;{stores}"), "sites").Json()) is var answer
            && (bool)answer["stored"]!
            ? null : (string)answer["faults"]![0]!["sentence"]!;
        const string all = "Raw, Panels, Finished";
        Assert.EndsWith("Keep them elsewhere first, then take it away.", await Set(""), StringComparison.Ordinal);
        Assert.Null(await Set($"{all}, Mezzanine"));
        Assert.Null(await Set(all));
        Assert.Null(await Set($"{all}, Mezzanine"));
        // Only a line says it now, and nothing of the library.
        using var engineer = await served.As("engineer");
        var file = JsonNode.Parse(await client.GetStringAsync("/api/revisions/7/file"))!;
        (file["model"]!["id"], file["model"]!["code"]) = ("mezzanine", "MEZ");
        var line = file["model"]!["assemblies"]!.AsArray().SelectMany(a => a!["topics"]!.AsArray()).SelectMany(t => t!["rows"]!.AsArray())
            .First(r => r!["store"] is not null)!;
        line["store"] = "mezzanine";
        using var content = new StringContent(file.ToJsonString());
        Assert.Equal(HttpStatusCode.OK, (await engineer.PostAsync("/api/products/file", content)).StatusCode);
        Assert.Equal("Part lines of revision 1 of MEZ are kept in the store “Mezzanine”. Keep them elsewhere first, then take it away.", await Set(all));
    }

    [Fact]
    public async Task Items_are_found_by_number_first_then_by_words_and_page_by_page()
    {
        using var client = await served.As("planner");
        var gasket = (await client.Get("/api/library/items?search=gsk"))["rows"]!.AsArray().Select(r => (string)r![0]!).ToList();
        Assert.Equal(["GSK-D", "GSK-SP"], gasket);
        Assert.Contains("GSK-D", (await client.Get("/api/library/items?search=door%20gasket"))["rows"]!.AsArray().Select(r => (string)r![0]!));
        var first = await client.Get("/api/library/items");
        Assert.Equal((200, 600), (first["rows"]!.AsArray().Count, Math.Min(600, (int)first["found"]!)));
        var next = await client.Get("/api/library/items?from=200");
        Assert.Equal(200, next["rows"]!.AsArray().Count);
        Assert.Empty(next["rows"]!.AsArray().Select(r => (string)r![0]!).Intersect(first["rows"]!.AsArray().Select(r => (string)r![0]!)));
        Assert.Empty((await client.Get("/api/library/items?search=%25"))["rows"]!.AsArray());
    }

    [Fact]
    public async Task Items_are_sorted_and_filtered_by_any_column_over_all_pages()
    {
        using var client = await served.As("planner");
        var dear = await client.Get($"/api/library/items?sort=cost&descending=true&where={Uri.EscapeDataString("cost:>20")}&where=unit:%3Dm2");
        var (columns, rows) = (dear["columns"]!.AsArray().Select(c => (string)c!).ToList(), dear["rows"]!.AsArray());
        var costs = rows.Select(r => decimal.Parse((string)r![columns.IndexOf("cost")]!, System.Globalization.CultureInfo.InvariantCulture)).ToList();
        Assert.NotEmpty(costs);
        Assert.All(costs, c => Assert.True(c > 20));
        Assert.Equal(costs.OrderDescending(), costs);
        Assert.All(rows, r => Assert.Equal("m2", (string)r![columns.IndexOf("unit")]!));
        Assert.Contains("cost", dear["numberColumns"]!.AsArray().Select(c => (string)c!));
        // Every page has the columns of all that is wanted, and together they are all of it.
        var all = new List<string>();
        for (var from = 0; from == all.Count; from += 200)
            all.AddRange((await client.Get($"/api/library/items?sort=weight%20kg&from={from}"))["rows"]!.AsArray().Select(r => (string)r![0]!));
        Assert.Equal(all.Count, all.Distinct().Count());
        Assert.Equal((int)(await client.Get("/api/library/items"))["found"]!, all.Count);
        foreach (var wrong in new[] { "sort=nothing", "where=cost", "where=nothing:1", "from=-1" })
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await client.GetAsync($"/api/library/items?{wrong}")).StatusCode);
    }

    [Fact]
    public async Task An_item_says_where_models_and_structures_use_it()
    {
        using var client = await served.As("order desk");
        var spare = (await client.Get("/api/configurations?search=Sliding"))[0]!;
        await client.Post($"/api/configurations/{spare["id"]}/structures", new { id = Guid.NewGuid(), quantity = "2" });
        var track = await client.Get("/api/items/TRK-S");
        Assert.Contains(track["models"]!.AsArray(), m =>
            (string)m!["productCode"]! == "CR" && (string)m["how"]! == "fixed" && (string)m["condition"]! == "kind = sliding");
        Assert.Equal("Sliding door 1800", (string)track["structures"]![0]!["name"]!);
        Assert.Contains((await client.Get("/api/items/LF-100"))["models"]!.AsArray(), m => (string)m!["how"]! == "by value");
        Assert.Contains((await client.Get("/api/items/HNG-H"))["models"]!.AsArray(), m => (string)m!["how"]! == "substitute");
    }

    [Fact]
    public async Task A_cell_that_someone_else_has_changed_is_not_overwritten_unseen()
    {
        using var client = await served.As("engineer");
        Task<JsonNode> Write(string number, string cost, string? before) =>
            client.Post("/api/library/items/rows",
            new
            {
                columns = new[] { "number", "cost" },
                rows = new[] { new[] { number, cost } },
                before = before is null ? null : new[] { new[] { number, before } }
            }).Json();
        Assert.True((bool)(await Write("ST-1", "10", null))["stored"]!);
        Assert.True((bool)(await Write("ST-1", "11", "10"))["stored"]!);
        var refused = await Write("ST-1", "12", "10");
        Assert.False((bool)refused["stored"]!);
        Assert.Equal(("Someone has changed this to “11” since you saw it; yours, “12”, was not stored.", true),
            ((string)refused["faults"]![0]!["sentence"]!, (bool)refused["faults"]![0]!["isStale"]!));
        Assert.Equal("11", (string)(await client.Get("/api/items/ST-1"))["item"]!["cost"]!);
        // What both wanted is no quarrel, and many at once come one after the other.
        Assert.True((bool)(await Write("ST-1", "11", "10"))["stored"]!);
        var all = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => Write("ST-1", $"{20 + i}", "11")));
        Assert.Single(all, a => (bool)a["stored"]!);
    }

    [Fact]
    public async Task Customer_classes_have_a_discount_and_others_by_product()
    {
        using var client = await served.As("administrator");
        Assert.Equal(["discount %: A discount is at most 100 %.", "discount CR %: It cannot be negative."],
            (await Load(client, "check", Csv("code,label,discount %,discount CR %", "BIG,Too big,101,-1"), "customer-classes").Json())["faults"]!.AsArray()
                .Select(f => $"{f!["column"]}: {f["sentence"]}"));
        Assert.True((bool)(await Load(client, "all", Csv("code,label,discount %,discount SC %", "FAIR,Fair visitors,5,7.5"), "customer-classes")
            .Json())["stored"]!);
        Assert.Contains((await client.Get("/api/library"))["customerClasses"]!.AsArray(), c =>
            (string)c!["code"]! == "FAIR" && (string)c["label"]! == "Fair visitors");
        var costs = await client.Post("/api/revisions/7/costs", new { picks = Array.Empty<object>(), quantity = "2", customerClass = "fair" }).Json();
        Assert.Equal(("258", "7.5", "238.65", "477.3"),
            ((string)costs["price"]!["list"]!, (string)costs["price"]!["discount"]!, (string)costs["price"]!["each"]!, (string)costs["price"]!["order"]!));
    }

    [Fact]
    public async Task What_nothing_uses_is_taken_out_and_what_is_used_stays_and_says_by_what()
    {
        using var client = await served.As("engineer");
        Task<HttpResponseMessage> Remove(string table, string key) => client.Post($"/api/library/{table}/removed", new { key });
        async Task<string> Refused(string table, string key)
        {
            var answer = Remove(table, key);
            Assert.Equal(HttpStatusCode.Conflict, (await answer).StatusCode);
            return (string)(await answer.Json())["detail"]!;
        }
        await Load(client, "all", Csv("number,description,store HAL,substitutes", "RM-1,Goes,Raw,", "RM-2,Stays,,RM-1", "R.-1,Looks like a pattern,,",
            "1.1,Looks like a number,,", "length,Looks like a name,,"));
        // A number or a name that a model holds is no use of an item that is called the same.
        foreach (var alike in new[] { "1.1", "length" })
            Assert.Equal(HttpStatusCode.NoContent, (await Remove("items", alike)).StatusCode);
        Assert.Contains("item RM-2, which it can stand in for", await Refused("items", "RM-1"), StringComparison.Ordinal);
        Assert.Contains("of CR", await Refused("items", "GSK-D"), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NoContent, (await Remove("items", "RM-2")).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await Remove("items", "RM-1")).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await Remove("items", "R.-1")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/items/RM-1")).StatusCode);
        Assert.Contains("revision", await Refused("work-centres", "SAW"), StringComparison.Ordinal);
        Assert.Contains("in use", await Refused("sites", "HAL"), StringComparison.Ordinal);
        await Load(client, "all", Csv("code,label", "GONE,Goes"), "customer-classes");
        await Load(client, "all", Csv("code,label,site", "GONE,Goes,HAL"), "work-centres");
        Assert.Contains("configuration “", await Refused("customer-classes", "TRADE"), StringComparison.Ordinal);
        foreach (var table in new[] { "customer-classes", "work-centres" })
            Assert.Equal(HttpStatusCode.NoContent, (await Remove(table, "GONE")).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await Remove("standard-operations", "NOT-THERE")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await Remove("people", "ines")).StatusCode);
    }
}
