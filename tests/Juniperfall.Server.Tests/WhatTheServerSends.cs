using System.Net;

namespace Juniperfall.Server.Tests;

/// <summary>The headers around every answer.</summary>
public sealed class WhatTheServerSends(Served served) : IClassFixture<Served>
{
    [Theory]
    [InlineData("/products", false), InlineData("/api/products", true), InlineData("/api/nothing", true), InlineData("/api/openapi.json", true)]
    public async Task Headers_keep_browsers_from_what_they_should_not_do(string path, bool isOfTheApi)
    {
        using var client = await served.As("planner");
        var response = await client.GetAsync(path);
        string Header(string name) => response.Headers.TryGetValues(name, out var values) ? string.Join(", ", values) : "";
        Assert.DoesNotContain("unsafe-eval", Header("Content-Security-Policy"));
        Assert.Contains("default-src 'self'", Header("Content-Security-Policy"));
        Assert.Contains("frame-ancestors 'none'", Header("Content-Security-Policy"));
        Assert.Equal(("nosniff", "same-origin", ""), (Header("X-Content-Type-Options"), Header("Referrer-Policy"), Header("Server")));
        Assert.Equal(isOfTheApi, Header("Cache-Control").Contains("no-store", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Behind_encryption_browsers_are_told_to_stay_with_it()
    {
        using var client = served.CreateClient(new() { BaseAddress = new("https://juniperfall.example") });
        Assert.Contains("max-age", (await client.GetAsync("/health")).Headers.GetValues("Strict-Transport-Security").Single());
    }

    [Fact]
    public async Task A_file_that_is_taken_out_is_saved_and_not_shown()
    {
        using var client = await served.As("engineer");
        var response = await client.GetAsync("/api/revisions/1/file");
        Assert.Equal((HttpStatusCode.OK, "attachment"), (response.StatusCode, response.Content.Headers.ContentDisposition!.DispositionType));
    }
}
