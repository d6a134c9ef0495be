using System.Net.Http.Json;
using System.Text.Json.Nodes;
using Juniperfall.Server;
using Juniperfall.Server.People;
using Microsoft.AspNetCore.Mvc.Testing;
using Npgsql;

namespace Juniperfall.Server.Tests;

/// <summary>The server on a database of its own, with the demo data; one for all tests of a class.</summary>
public sealed class Served : WebApplicationFactory<Program>, IAsyncLifetime
{
    /// <summary>Where the server keeps what is no data: the certificate and letters.</summary>
    public string Files { get; } = Directory.CreateTempSubdirectory("juniperfall").FullName;

    private readonly string _database = $"s{Guid.NewGuid():n}";
    private readonly string _server = Environment.GetEnvironmentVariable("JUNIPERFALL_TEST_DATABASE")
        ?? throw new InvalidOperationException("Run ./test: it starts the database that JUNIPERFALL_TEST_DATABASE names.");

    public async Task InitializeAsync()
    {
        await using var server = NpgsqlDataSource.Create(_server);
        await server.CreateCommand($"create database {_database}").ExecuteNonQueryAsync();
    }

    async Task IAsyncLifetime.DisposeAsync()
    {
        await base.DisposeAsync();
        Directory.Delete(Files, true);
    }

    protected override void ConfigureWebHost(Microsoft.AspNetCore.Hosting.IWebHostBuilder builder)
    {
        builder.UseSetting("Database", new NpgsqlConnectionStringBuilder(_server) { Database = _database, MaxPoolSize = 20 }.ConnectionString);
        builder.UseSetting("Certificate", Path.Combine(Files, "cookies.pfx"));
        builder.UseSetting("Mail", Path.Combine(Files, "mail"));
        builder.UseSetting("Demo", Repository("demo"));
        builder.UseSetting("Logging:LogLevel:Default", "None");
    }

    public static string Repository(string path)
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "Juniperfall.slnx")))
            folder = Path.GetDirectoryName(folder)!;
        return Path.Combine(folder, path);
    }

    /// <summary>A client that carries what our own pages send.</summary>
    public HttpClient Anonymous()
    {
        var client = CreateClient(new() { AllowAutoRedirect = false });
        client.DefaultRequestHeaders.Add(CrossSite.Header, "1");
        return client;
    }

    public async Task<HttpClient> As(string role)
    {
        var client = Anonymous();
        var name = DemoData.People.Single(p => p.Role == role).Name;
        (await client.PostAsJsonAsync("/api/session", new { name, password = DemoData.Password })).EnsureSuccessStatusCode();
        return client;
    }
}

internal static class Requests
{
    public static async Task<JsonNode> Json(this Task<HttpResponseMessage> sent) => JsonNode.Parse(await (await sent).Content.ReadAsStringAsync())!;

    public static Task<HttpResponseMessage> Post(this HttpClient client, string path, object body) => client.PostAsJsonAsync(path, body);

    public static Task<HttpResponseMessage> Put(this HttpClient client, string path, object body) => client.PutAsJsonAsync(path, body);

    public static async Task<JsonNode> Get(this HttpClient client, string path) => JsonNode.Parse(await client.GetStringAsync(path))!;
}
