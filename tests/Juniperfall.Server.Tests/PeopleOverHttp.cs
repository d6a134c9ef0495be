using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Juniperfall.Server.People;
using Juniperfall.Storage;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Juniperfall.Server.Tests;

/// <summary>People, their passwords, and what the audit tells of them.</summary>
public sealed class PeopleOverHttp(Served served) : IClassFixture<Served>
{
    private const string Good = "drizzle lantern oxbow";

    /// <summary>What the latest letter to somebody carries after the #.</summary>
    private string TokenFor(string mail) => Directory.GetFiles(Path.Combine(served.Files, "mail"), "*.eml").Order().Select(File.ReadAllText)
        .Where(text => text.Contains($"<{mail}>", StringComparison.Ordinal))
            .Select(text => Regex.Match(text.Replace("=\r\n", "", StringComparison.Ordinal), "/password#([A-Za-z0-9_-]+)").Groups[1].Value).Last();

    private static async Task<int> Choose(HttpClient client, string token, string password) =>
        (int)(await client.Post("/api/password", new { token, password })).StatusCode;

    private static async Task<List<string>> Audit(HttpClient administrator, string name) =>
        [.. (await administrator.Get($"/api/audit?name={name}")).AsArray().Select(e => $"{e!["kind"]} {e["person"]} {e["subject"]} {e["detail"]}".Trim())];

    [Fact]
    public async Task Somebody_is_added_chooses_a_password_changes_it_loses_the_role_and_the_right_to_sign_in()
    {
        using var administrator = await served.As("administrator");
        var person = new { name = "Rosa.Lind", display = "Rosa Lind", role = "planner", mail = "rosa@juniperfall.example" };
        Assert.Equal("rosa@juniperfall.example", (string)(await administrator.Post("/api/people", person).Json())["mail"]!);
        Assert.Equal(409, (int)(await administrator.Post("/api/people", person)).StatusCode);
        using var rosa = served.Anonymous();
        Assert.Equal(401, (int)(await rosa.Post("/api/session", new { name = "rosa.lind", password = "" })).StatusCode);
        var token = TokenFor(person.mail);
        Assert.Equal("Rosa Lind", (string)(await rosa.Post("/api/password/link", new { token }).Json())["display"]!);
        Assert.Equal(422, await Choose(rosa, token, "short"));
        Assert.Equal(204, await Choose(rosa, token, Good));
        // Once, and of two links only the later.
        Assert.Equal(410, await Choose(rosa, token, Good + " x"));
        Assert.Equal(410, await Choose(rosa, "made up", Good));
        (await rosa.Post("/api/session", new { name = "rosa.lind", password = Good })).EnsureSuccessStatusCode();
        using var elsewhere = served.Anonymous();
        (await elsewhere.Post("/api/session", new { name = "rosa.lind", password = Good })).EnsureSuccessStatusCode();
        Assert.Equal(422, (int)(await rosa.PutAsJsonAsync("/api/password", new { present = "not it", password = Good + " 2" })).StatusCode);
        (await rosa.PutAsJsonAsync("/api/password", new { present = Good, password = Good + " 2" })).EnsureSuccessStatusCode();
        Assert.Equal(HttpStatusCode.OK, (await rosa.GetAsync("/api/session")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await elsewhere.GetAsync("/api/session")).StatusCode);
        async Task<JsonNode> Change(object to) =>
            JsonNode.Parse(await (await administrator.PatchAsJsonAsync("/api/people/rosa.lind", to)).Content.ReadAsStringAsync())!;
        Assert.Equal("order desk", (string)(await Change(new { role = "order desk" }))["role"]!);
        Assert.Equal(HttpStatusCode.Unauthorized, (await rosa.GetAsync("/api/session")).StatusCode);
        Assert.False((bool)(await Change(new { active = false }))["active"]!);
        Assert.Equal(401, (int)(await rosa.Post("/api/session", new { name = "rosa.lind", password = Good + " 2" })).StatusCode);
        Assert.Equal(404, (int)(await administrator.PostAsync("/api/people/rosa.lind/link", null)).StatusCode);
        Assert.Equal("/role", (string)(await Change(new { role = "king" }))["pointer"]!);
        Assert.Equal("/mail", (string)(await Change(new { mail = "nowhere" }))["pointer"]!);
        string[] happened = ["personDeactivated piet rosa.lind", "roleChanged piet rosa.lind planner → order desk", "passwordChanged rosa.lind rosa.lind",
            "signedIn rosa.lind", "signedIn rosa.lind",
            "passwordSet rosa.lind rosa.lind", "linkSent piet rosa.lind", "personAdded piet rosa.lind planner"];
        var told = await Audit(administrator, "rosa.lind");
        Assert.Equal(happened, told.Where(t => t != "signInFailed rosa.lind"));
        // With no password yet; and after she may no longer sign in it is told of nobody.
        Assert.Single(told, "signInFailed rosa.lind");
    }

    [Fact]
    public async Task Letters_can_be_read_by_the_server_only_and_links_end()
    {
        using var administrator = await served.As("administrator");
        await administrator.Post("/api/people", new { name = "gus", display = "Gus", role = "planner", mail = "gus@juniperfall.example" });
        var first = TokenFor("gus@juniperfall.example");
        var letter = Directory.GetFiles(Path.Combine(served.Files, "mail")).First();
        Assert.Equal(UnixFileMode.UserRead | UnixFileMode.UserWrite, File.GetUnixFileMode(letter));
        await Task.Delay(1100);   // letters are told apart by their second
        (await administrator.PostAsync("/api/people/gus/link", null)).EnsureSuccessStatusCode();
        using var gus = served.Anonymous();
        Assert.Equal(410, await Choose(gus, first, Good));
        await served.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand("update password_link set expires_at = now() where person = 'gus'")
            .ExecuteNonQueryAsync();
        Assert.Equal(410, await Choose(gus, TokenFor("gus@juniperfall.example"), Good));
    }

    [Fact]
    public async Task There_is_always_an_administrator_and_nobody_takes_their_own_rights_away()
    {
        using var piet = await served.As("administrator");
        Assert.Contains("your own rights",
            (string)JsonNode.Parse(await (await piet.PatchAsJsonAsync("/api/people/piet", new { role = "planner" })).Content.ReadAsStringAsync())!["detail"]!);
        Assert.Contains("your own rights",
            (string)JsonNode.Parse(await (await piet.PatchAsJsonAsync("/api/people/piet", new { active = false })).Content.ReadAsStringAsync())!["detail"]!);
        // Two administrators who take each other's rights away at once: one of them is left.
        await piet.Post("/api/people", new { name = "second", display = "Second", role = "administrator", mail = "second@juniperfall.example" });
        using var second = served.Anonymous();
        Assert.Equal(204, await Choose(second, TokenFor("second@juniperfall.example"), Good));
        (await second.Post("/api/session", new { name = "second", password = Good })).EnsureSuccessStatusCode();
        var outcomes = await Task.WhenAll(piet.PatchAsJsonAsync("/api/people/second", new { active = false }),
            second.PatchAsJsonAsync("/api/people/piet", new { role = "planner" }));
        var left = (long)(await served.Services.GetRequiredService<NpgsqlDataSource>()
            .CreateCommand("select count(*) from person where active and role = 'administrator'").ExecuteScalarAsync())!;
        Assert.Equal(1, left);
        Assert.Single(outcomes, o => o.IsSuccessStatusCode);
        await served.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand("update person set role = 'administrator' where name = 'piet'")
            .ExecuteNonQueryAsync();
    }

    [Theory]
    [InlineData("eleven char", "at least 12")]
    [InlineData("123456789qwe", "tries first")]
    [InlineData("Password123456", "easy to guess")]
    [InlineData("aaaaaaaaaaaaaaaaaaaa", "easy to guess")]
    [InlineData("rosalindrosalind", "easy to guess")]
    [InlineData("juniperfall2026!", "easy to guess", true)]
    [InlineData("drizzle lantern oxbow", null)]
    [InlineData("frost-and-panels", null)]
    [InlineData("漢字かな交じり文の長い例です", null)]
    public void Passwords_are_long_and_not_put_together_from_what_everyone_tries(string password, string? objection, bool mayPass = false)
    {
        var found = Passwords.Objection(password, new("rosa", "Rosa Lind", "planner", ""));
        Assert.True(objection is null ? found is null : found?.Contains(objection) == true || (mayPass && found is null), found);
    }

    [Fact]
    public async Task What_is_not_for_a_role_and_releases_stand_in_the_audit_which_nothing_changes()
    {
        using var planner = await served.As("planner");
        Assert.Equal(HttpStatusCode.Forbidden, (await planner.GetAsync("/api/audit")).StatusCode);
        using var administrator = await served.As("administrator");
        Assert.Contains("forbidden odile  GET /api/audit", await Audit(administrator, "odile"));
        Assert.Contains(await Audit(administrator, "CR"), e => e.StartsWith("revisionReleased tomas CR revision 1", StringComparison.Ordinal));
        var data = served.Services.GetRequiredService<NpgsqlDataSource>();
        foreach (var sql in new[] { "update audit set person = 'nobody'", "delete from audit", "truncate audit" })
            await Assert.ThrowsAsync<PostgresException>(() => data.CreateCommand(sql).ExecuteNonQueryAsync());
        // Pages go on where the last one ended.
        var first = (await administrator.Get("/api/audit")).AsArray();
        var next = (await administrator.Get($"/api/audit?before={first[1]!["id"]}")).AsArray();
        Assert.Equal((long)first[2]!["id"]!, (long)next[0]!["id"]!);
    }

    [Fact]
    public async Task What_strangers_and_roles_can_bring_about_at_will_does_not_fill_the_audit()
    {
        using var stranger = served.Anonymous();
        for (var i = 0; i < 30; i++)
            await stranger.Post("/api/session", new { name = $"stranger {i}", password = "guess" });
        using var approver = await served.As("approver");
        for (var i = 0; i < 30; i++)
            await approver.GetAsync("/api/people");
        using var administrator = await served.As("administrator");
        var told = (await administrator.Get("/api/audit")).AsArray().Select(e => $"{e!["kind"]} {e["person"]} {e["detail"]}").ToList();
        Assert.Single(told, "signInFailed  ");
        Assert.Single(told, "forbidden tomas GET /api/people");
    }

    [Fact]
    public async Task The_keys_of_cookies_are_kept_encrypted()
    {
        using var _ = await served.As("engineer");
        var key = (string)(await served.Services.GetRequiredService<NpgsqlDataSource>().CreateCommand("select xml from protection_key limit 1")
            .ExecuteScalarAsync())!;
        Assert.Contains("EncryptedData", key);
        Assert.DoesNotContain("masterKey>",
            key.Replace("</masterKey>", "", StringComparison.Ordinal).Replace("requiresEncryption", "", StringComparison.Ordinal).Split("<encryptedSecret")[0]);
    }

    [Fact]
    public async Task A_cookie_holds_at_another_server_with_the_same_certificate_and_at_none_with_another()
    {
        using var client = served.Anonymous();
        var cookie = (await client.Post("/api/session", new { name = "ines", password = DemoData.Password })).Headers.GetValues("Set-Cookie").Single()
            .Split(';')[0];
        async Task<HttpStatusCode> At(WebApplicationFactory<Program> server)
        {
            using var other = server.CreateClient(new() { HandleCookies = false });
            other.DefaultRequestHeaders.Add("Cookie", cookie);
            return (await other.GetAsync("/api/session")).StatusCode;
        }

        await using var same = served.WithWebHostBuilder(_ => { });
        await using var without = served.WithWebHostBuilder(b => b.UseSetting("Certificate", Path.Combine(served.Files, "another.pfx")));
        Assert.Equal(HttpStatusCode.OK, await At(same));
        Assert.Equal(HttpStatusCode.Unauthorized, await At(without));
    }

    [Fact]
    public async Task Without_the_setting_Demo_nobody_signs_in_with_the_known_password()
    {
        static async Task<HttpStatusCode> Enter(WebApplicationFactory<Program> server, string name, string password)
        {
            using var client = server.CreateClient();
            client.DefaultRequestHeaders.Add(CrossSite.Header, "1");
            return (await client.Post("/api/session", new { name, password })).StatusCode;
        }

        await using var own = new Served();
        await own.InitializeAsync();
        Assert.Equal(HttpStatusCode.OK, await Enter(own, "marit", DemoData.Password));
        using var ines = await own.As("engineer");
        (await ines.PutAsJsonAsync("/api/password", new { present = DemoData.Password, password = Good })).EnsureSuccessStatusCode();
        await using (var atWork = own.WithWebHostBuilder(b => b.UseSetting("Demo", "")))
        {
            Assert.Equal(HttpStatusCode.Unauthorized, await Enter(atWork, "marit", DemoData.Password));
            // One who chose a password works on with it.
            Assert.Equal(HttpStatusCode.OK, await Enter(atWork, "ines", Good));
        }
        await using var again = own.WithWebHostBuilder(_ => { });
        Assert.Equal(HttpStatusCode.OK, await Enter(again, "marit", DemoData.Password));
        Assert.Equal(HttpStatusCode.OK, await Enter(again, "ines", Good));
    }

    [Fact]
    public async Task A_database_that_holds_work_gets_no_demo()
    {
        await using var own = new Served();
        await own.InitializeAsync();
        await using (var empty = own.WithWebHostBuilder(b => b.UseSetting("Demo", "")))
        {
            var data = empty.Services.GetRequiredService<NpgsqlDataSource>();
            await using var work = await UnitOfWork.Begin(data, default);
            await empty.Services.GetRequiredService<PersonStore>().Add(work, new("hana", "Hana", "administrator", Passwords.Hash(Good)), false, default);
            await work.Commit(default);
        }
        await using var withDemo = own.WithWebHostBuilder(_ => { });
        var people = await withDemo.Services.GetRequiredService<PersonStore>().All(default);
        Assert.Equal("hana", Assert.Single(people).Name);
    }

    [Fact]
    public async Task Behind_a_named_proxy_the_cookie_is_for_encrypted_connections_and_the_address_is_the_callers()
    {
        await using var behind = served
            .WithWebHostBuilder(b => b.UseSetting("Proxies", "127.0.0.0/8").ConfigureServices(s => s.AddTransient<IStartupFilter, Peer>()));
        async Task<(string Cookie, string Address)> Enter(string peer)
        {
            using var client = behind.CreateClient(new() { HandleCookies = false });
            foreach (var (header, value) in new[] { (CrossSite.Header, "1"), (Peer.Header, peer), ("X-Forwarded-For", "203.0.113.7"),
                ("X-Forwarded-Proto", "https") })
                client.DefaultRequestHeaders.Add(header, value);
            var response = await client.Post("/api/session", new { name = "tomas", password = DemoData.Password });
            Assert.Equal(HttpStatusCode.OK, response.StatusCode);
            var address = (string)(await served.Services.GetRequiredService<NpgsqlDataSource>()
                .CreateCommand("select address from audit where person = 'tomas' order by id desc limit 1").ExecuteScalarAsync())!;
            return (response.Headers.GetValues("Set-Cookie").Single().ToLowerInvariant(), address);
        }

        var trusted = await Enter("127.0.0.1");
        Assert.Contains("; secure", trusted.Cookie);
        Assert.Equal("203.0.113.7", trusted.Address);
        // Anyone else who says so is not believed.
        var stranger = await Enter("198.51.100.9");
        Assert.DoesNotContain("; secure", stranger.Cookie);
        Assert.Equal("198.51.100.9", stranger.Address);
    }

    /// <summary>Requests of these tests come over no network; from where they seem to come, they say themselves.</summary>
    private sealed class Peer : IStartupFilter
    {
        public const string Header = "X-Peer";

        public Action<IApplicationBuilder> Configure(Action<IApplicationBuilder> next) => app =>
        {
            app.Use((context, go) =>
            {
                context.Connection.RemoteIpAddress = IPAddress.Parse(context.Request.Headers[Header].ToString());
                return go();
            });
            next(app);
        };
    }
}
