using System.Net;
using System.Text.Json.Nodes;
using static Juniperfall.Server.Tests.Drafts;

namespace Juniperfall.Server.Tests;

/// <summary>Test cases over HTTP: kept from picks, asked after each edit, accepted with a reason, proposed, and standing in the way of a release.</summary>
public sealed class CasesOverHttp(Served served) : IClassFixture<Served>
{
    [Fact]
    public async Task A_case_is_kept_from_picks_turns_red_with_an_edit_and_is_accepted_with_a_reason()
    {
        using var engineer = await served.As("engineer");
        var (path, model) = await engineer.Draft();
        var facts = await engineer.Post($"{path}/cases/facts", new { picks = new[] { new { path = "n", value = "3" } }, quantity = "10" }).Json();
        var bolts = facts["facts"]!.AsArray().Single(f => (string)f!["of"]! == "quantity")!;
        Assert.Equal(("12", true), ((string)bolts["is"]!, (bool)bolts["isUsual"]!));
        var row = new
        {
            id = $"c{Guid.NewGuid():N}",
            name = "Three",
            picks = facts["picks"],
            quantity = "10",
            expected = facts["facts"]!.AsArray().Where(f => (bool)f!["isUsual"]!)
                .Select(f => new { of = (string)f!["of"]!, at = (string)f["at"]!, @is = (string)f["is"]! }),
        };
        await engineer.Edit(path, Add(model, "cases", row));
        Assert.Equal((1, 0), await engineer.Finished($"{path}/cases") is var all ? ((int)all["passed"]!, (int)all["failed"]!) : default);

        // The revision itself does not tell what cases expect: not everyone may see costs.
        Assert.Empty((await engineer.Get(path))["document"]!["cases"]!.AsArray());
        using var desk = await served.As("order desk");
        Assert.DoesNotContain((await desk.Get($"{path}/cases"))["cases"]![0]!["expected"]!.AsArray(), e => (string)e!["of"]! == "cost");

        await engineer.Edit(path, Set("bolts", "quantity", "n * 4 + 1", "n * 4"));
        var failing = (await engineer.Finished($"{path}/cases"))["cases"]![0]!;
        Assert.Equal("failed", (string)failing["state"]!);
        Assert.Contains("12 is expected, 13 came out", failing["expected"]!.AsArray().Select(e => $"{e!["shown"]} is expected, {e["actualShown"]} came out"));
        var quantity = failing["expected"]!.AsArray().Single(e => (string)e!["of"]! == "quantity")!;
        var (id, index) = ((string)failing["id"]!, (int)quantity["index"]!);
        await engineer.Edit(path, Set(id, $"expected/{index}/is", "13", "12"), Set(id, $"expected/{index}/because", "One more at the end.", null));
        var accepted = (await engineer.Finished($"{path}/cases"))["cases"]![0]!["expected"]!.AsArray().Single(e => (int)e!["index"]! == index)!;
        Assert.Equal((null, "One more at the end."), ((string?)accepted["actual"], (string)accepted["because"]!));
        // The history says it in words.
        var history = await engineer.Get($"{path}/history");
        Assert.Contains(history.AsArray().SelectMany(h => h!["changes"]!.AsArray()), c => (string)c!["name"]! == "Test case “Three”");
        Assert.DoesNotContain("12 → 13", history.ToJsonString(new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }));
    }

    [Fact]
    public async Task What_fails_stands_in_the_way_of_a_release_and_what_is_missing_is_proposed()
    {
        using var engineer = await served.As("engineer");
        var (path, model) = await engineer.Draft();
        var before = await engineer.Get($"{path}/cases/coverage");
        var rule = before["proposals"]!.AsArray()
            .Single(p => p!["reaches"]!.AsArray().Any(r => (string)r!["rowId"]! == "few" && (string)r["kind"]! == "rule"))!;
        Assert.Contains((string)rule["case"]!["picks"]![0]!["is"]!, new[] { "8", "9" });
        Assert.Contains(rule["case"]!["expected"]!.AsArray(), e => (string)e!["of"]! == "rule" && (string)e["at"]! == "few");
        await engineer.Edit(path, [.. before["proposals"]!.AsArray().Select(p => Add(model, "cases", new
        {
            id = (string)p!["case"]!["id"]!,
            name = (string)p["name"]!,
            picks = p["case"]!["picks"],
            expected = p["case"]!["expected"]!.AsArray().Select(e => new { of = (string)e!["of"]!, at = (string)e["at"]!, @is = (string)e["is"]! }),
        }))]);
        var after = await engineer.Get($"{path}/cases/coverage");
        Assert.Empty(after["proposals"]!.AsArray());
        Assert.All(after["kinds"]!.AsArray(), k => Assert.Equal((int)k!["all"]!, (int)k["reached"]!));
        Assert.True((bool)(await engineer.Get($"{path}/release"))["ready"]!);
        await engineer.Edit(path, Set("few", "expression", "n < 9", "n < 8"), Set("n", "max", "8", "9"));
        var check = await engineer.Get($"{path}/release");
        Assert.False((bool)check["ready"]!);
        Assert.Contains("test cases do not pass", (string)check["problems"]![0]!);
        var head = (long)(await engineer.Get(path))["head"]!;
        Assert.Equal(HttpStatusCode.Conflict, (await engineer.Post($"{path}/review", new { head, note = "" })).StatusCode);
    }

    [Fact]
    public async Task Wrong_quantities_kinds_and_cases_that_are_gone_are_told()
    {
        using var engineer = await served.As("engineer");
        var (path, model) = await engineer.Draft();
        var none = Array.Empty<object>();
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await engineer.Post($"{path}/cases/facts", new { picks = none, quantity = "-1" })).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.GetAsync("/api/revisions/999999/cases")).StatusCode);
        var wrong = await engineer.Post($"{path}/edits", new
        {
            id = Guid.NewGuid().ToString(),
            steps = new[] { Add(model, "cases",
            new { id = "w", name = "w", expected = new[] { new { of = "colour", at = "", @is = "red" } } }) }
        });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        await engineer.Edit(path, Add(model, "cases", new
        {
            id = "gone",
            name = "Of what is gone",
            picks = new[] { new { at = "nothing", @is = "1" } },
            expected = new[] { new { of = "verdict", at = "", @is = "valid" } },
        }));
        var one = (await engineer.Finished($"{path}/cases"))["cases"]![0]!;
        Assert.Equal(("faulty", "Pick 1: What it picks is no longer asked."), ((string)one["state"]!, (string)one["first"]!));
    }
}
