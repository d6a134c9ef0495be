using System.Net;
using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>What the API says of itself, and the files that it serves.</summary>
public sealed class DescriptionOfTheApi(Served served) : IClassFixture<Served>
{
    [Fact]
    public async Task Every_endpoint_has_a_summary_its_right_its_errors_its_parameters_and_an_example()
    {
        var api = await served.Anonymous().Get("/api/openapi.json");
        Assert.Equal(["cookie juniperfall", "header X-Juniperfall"],
            api["components"]!["securitySchemes"]!.AsObject().Select(s => $"{s.Value!["in"]} {s.Value["name"]}").Order());
        var count = 0;
        foreach (var (path, methods) in api["paths"]!.AsObject())
            foreach (var (method, operation) in methods!.AsObject())
            {
                var where = $"{method} {path}";
                count++;
                Assert.False(string.IsNullOrWhiteSpace((string?)operation!["summary"]), where);
                Assert.False(string.IsNullOrWhiteSpace((string?)operation["description"]), where);
                Assert.All(operation["parameters"]?.AsArray() ?? [], p =>
                    Assert.True(p!["description"] is not null && p["example"] is not null, $"{where} {p["name"]}"));
                var isOpen = operation["description"]!.ToString() == "For everyone.";
                Assert.True(isOpen || (operation["responses"]!["401"] is not null && operation["responses"]!["403"] is not null), where);
                var needs = operation["security"]?.AsArray().SelectMany(s => s!.AsObject().Select(k => k.Key)).ToHashSet() ?? [];
                Assert.Equal((!isOpen, method != "get"), (needs.Contains("cookie"), needs.Contains("crossSite")));
                if (operation["requestBody"]?["content"]?["application/json"] is { } body)
                    Assert.True(body["example"] is JsonObject, where);
            }
        Assert.True(count > 55, $"only {count} endpoints are described");
    }

    [Fact]
    public async Task An_asset_that_is_not_there_is_not_found_and_a_page_is_the_page()
    {
        var client = served.Anonymous();
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/assets/index-00000000.js")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/api/nothing")).StatusCode);
    }
}
