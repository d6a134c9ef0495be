using System.Net;
using System.Net.Http.Json;
using Juniperfall.Server.People;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

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

    private static Task<HttpResponseMessage> Enter(HttpClient client, string name, string password) => client.Post("/api/session", new { name, password });

    [Fact]
    public async Task After_some_wrong_attempts_each_further_one_waits_longer_and_others_do_not()
    {
        using var client = served.Anonymous();
        for (var i = 0; i < SignIn.FreeAttempts; i++)
            Assert.Equal(HttpStatusCode.Unauthorized, (await Enter(client, "Odile ", $"guess {i}")).StatusCode);
        var refused = await Enter(client, "odile", DemoData.Password);
        Assert.Equal(HttpStatusCode.TooManyRequests, refused.StatusCode);
        Assert.InRange(refused.Headers.RetryAfter!.Delta!.Value.TotalSeconds, 1, 5);
        using var other = await served.As("order desk");
        Assert.Equal("Marit Solberg", (string)(await other.Get("/api/session"))["display"]!);
        // It is slower and slower, not locked: after the wait the right password is let in, and then all is as before.
        HttpResponseMessage entered;
        do
            await Task.Delay(500);
        while ((entered = await Enter(client, "odile", DemoData.Password)).StatusCode == HttpStatusCode.TooManyRequests);
        Assert.Equal(HttpStatusCode.OK, entered.StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Enter(client, "odile", "guess")).StatusCode);
    }

    [Fact]
    public async Task Of_sixty_attempts_at_once_only_a_few_are_looked_at()
    {
        using var client = served.Anonymous();
        var outcomes = await Task.WhenAll(Enumerable.Range(0, 60).Select(i => Enter(client, "tomas", $"guess {i}")));
        Assert.InRange(outcomes.Count(o => o.StatusCode == HttpStatusCode.Unauthorized), 1, SignIn.FreeAttempts + 2);
        Assert.All(outcomes, o => Assert.Contains(o.StatusCode, new[] { HttpStatusCode.Unauthorized, HttpStatusCode.TooManyRequests }));
    }

    [Fact]
    public async Task Names_that_are_none_are_counted_as_well_and_bar_nobody()
    {
        using var client = served.Anonymous();
        var name = new string('n', 8_000);
        for (var i = 0; i < SignIn.FreeAttempts; i++)
            Assert.Equal(HttpStatusCode.Unauthorized, (await Enter(client, name, "guess")).StatusCode);
        Assert.Equal(HttpStatusCode.TooManyRequests, (await Enter(client, name, "guess")).StatusCode);
        for (var i = 0; i < SignIn.AttemptsAtFullSpeed + 5; i++)
            await Enter(client, $"nobody {i}", "guess");
        Assert.Equal(HttpStatusCode.OK, (await Enter(client, "marit", DemoData.Password)).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Enter(client, "marit\0", DemoData.Password)).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await Enter(client, "marit", new string('x', 10_000))).StatusCode);
    }

    private async Task Execute(string sql) => await served.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand(sql).ExecuteNonQueryAsync();

    [Fact]
    public async Task An_old_cookie_is_worth_nothing_after_signing_out_a_new_password_or_role_or_its_time()
    {
        await Execute($"insert into person (name, display, role, password) values ('petra', 'Petra', 'planner', '{Passwords.Hash("one two three")}') on "
            + $"conflict do nothing");
        async Task<HttpClient> Petra(string password)
        {
            var client = served.Anonymous();
            (await Enter(client, "petra", password)).EnsureSuccessStatusCode();
            return client;
        }

        static async Task<HttpStatusCode> Status(HttpClient client) => (await client.GetAsync("/api/session")).StatusCode;

        // The cookie that was kept from before signing out; another session of the same person goes on.
        using var kept = served.CreateClient(new() { HandleCookies = false, AllowAutoRedirect = false });
        kept.DefaultRequestHeaders.Add(CrossSite.Header, "1");
        var cookie = (await Enter(kept, "petra", "one two three")).Headers.GetValues("Set-Cookie").Single().Split(';')[0];
        kept.DefaultRequestHeaders.Add("Cookie", cookie);
        using var other = await Petra("one two three");
        Assert.Equal(HttpStatusCode.OK, await Status(kept));
        Assert.Equal(HttpStatusCode.NoContent, (await kept.DeleteAsync("/api/session")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, await Status(kept));
        Assert.Equal(HttpStatusCode.OK, await Status(other));
        await Execute("update person set role = 'approver' where name = 'petra'");
        Assert.Equal(HttpStatusCode.Unauthorized, await Status(other));
        using var again = await Petra("one two three");
        await Execute($"update person set password = '{Passwords.Hash("four five six")}' where name = 'petra'");
        Assert.Equal(HttpStatusCode.Unauthorized, await Status(again));
        using var old = await Petra("four five six");
        await Execute("update session set began_at = now() - interval '31 days' where person = 'petra'");
        Assert.Equal(HttpStatusCode.Unauthorized, await Status(old));
        using var last = await Petra("four five six");
        await Execute("update person set active = false where name = 'petra'");
        Assert.Equal(HttpStatusCode.Unauthorized, await Status(last));
    }

    [Fact]
    public async Task One_who_sends_very_many_requests_is_told_to_wait_and_others_are_not()
    {
        using var greedy = await served.As("planner");
        var outcomes = await Task.WhenAll(Enumerable.Range(0, RateLimits.Burst + 200).Select(_ => greedy.GetAsync("/api/session")));
        var refused = outcomes.Where(o => o.StatusCode == HttpStatusCode.TooManyRequests).ToList();
        Assert.NotEmpty(refused);
        Assert.NotEmpty((string)System.Text.Json.Nodes.JsonNode.Parse(await refused[0].Content.ReadAsStringAsync())!["detail"]!);
        using var other = await served.As("approver");
        Assert.Equal(HttpStatusCode.OK, (await other.GetAsync("/api/session")).StatusCode);
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
