using System.Net;
using System.Net.Http.Json;
using Juniperfall.Server.People;

namespace Juniperfall.Server.Tests;

public sealed class SigningIn(Served served) : IClassFixture<Served>
{
    [Fact]
    public async Task A_wrong_password_and_an_unknown_name_are_told_alike()
    {
        using var client = served.Anonymous();
        var wrong = await client.Post("/api/session", new { name = "piet", password = "guess" }).Json();
        var unknown = await client.Post("/api/session", new { name = "nobody", password = "guess" }).Json();
        Assert.Equal((401, "/password"), ((int)wrong["status"]!, (string)wrong["pointer"]!));
        Assert.Equal((string)wrong["detail"]!, (string)unknown["detail"]!);
    }

    [Fact]
    public async Task After_too_many_attempts_even_the_right_password_waits_and_others_do_not()
    {
        using var client = served.Anonymous();
        for (var i = 0; i < SignIn.MostAttemptsOfName; i++)
            Assert.Equal(HttpStatusCode.Unauthorized, (await client.Post("/api/session", new { name = "Odile ", password = $"guess {i}" })).StatusCode);
        var refused = await client.Post("/api/session", new { name = "odile", password = DemoData.Password });
        Assert.Equal(HttpStatusCode.TooManyRequests, refused.StatusCode);
        Assert.NotNull(refused.Headers.RetryAfter);
        using var other = await served.As("order desk");
        Assert.Equal("Marit Solberg", (string)(await other.Get("/api/session"))["display"]!);
    }

    [Fact]
    public async Task The_cookie_is_for_this_site_only_and_gone_after_signing_out()
    {
        using var client = served.Anonymous();
        var response = await client.Post("/api/session", new { name = "ines", password = DemoData.Password });
        var cookie = Assert.Single(response.Headers.GetValues("Set-Cookie")).ToLowerInvariant();
        Assert.Contains("httponly", cookie);
        Assert.Contains("samesite=strict", cookie);
        Assert.Equal(HttpStatusCode.NoContent, (await client.DeleteAsync("/api/session")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await client.GetAsync("/api/session")).StatusCode);
    }

    [Fact]
    public async Task A_request_from_another_site_changes_nothing()
    {
        using var client = await served.As("engineer");
        var body = new { id = Guid.NewGuid(), code = "XS", label = "Cross" };
        client.DefaultRequestHeaders.Remove(CrossSite.Header);
        Assert.Equal(HttpStatusCode.Forbidden, (await client.Post("/api/products", body)).StatusCode);
        client.DefaultRequestHeaders.Add(CrossSite.Header, "1");
        foreach (var (name, value) in new[] { ("Origin", "https://elsewhere.example"), ("Sec-Fetch-Site", "cross-site"), ("Sec-Fetch-Site", "same-site") })
        {
            client.DefaultRequestHeaders.Add(name, value);
            Assert.Equal(HttpStatusCode.Forbidden, (await client.Post("/api/products", body)).StatusCode);
            client.DefaultRequestHeaders.Remove(name);
        }
        Assert.Empty((await client.Get("/api/products?search=XS")).AsArray());
        client.DefaultRequestHeaders.Add("Origin", "http://localhost");
        Assert.Equal(HttpStatusCode.OK, (await client.Post("/api/products", body)).StatusCode);
    }
}
