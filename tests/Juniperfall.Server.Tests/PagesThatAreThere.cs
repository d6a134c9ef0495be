using System.Net;
using Juniperfall.Server.Revisions;
using Microsoft.Extensions.DependencyInjection;

namespace Juniperfall.Server.Tests;

/// <summary>Who looks at a revision is told to all who do.</summary>
public sealed class PagesThatAreThere(Served served) : IClassFixture<Served>
{
    private Presence Presence => served.Services.GetRequiredService<Presence>();

    private async Task<List<string>> Within(long revision, Func<List<string>, bool> there)
    {
        for (var tries = 0; ; tries++)
        {
            List<string> now = [.. Presence.Now(revision).Select(p => $"{p.Display} at {p.RowId ?? "none"}")];
            if (there(now) || tries > 100)
                return now;
            await Task.Delay(50);
        }
    }

    [Fact]
    public async Task A_page_is_seen_where_it_is_until_it_leaves_and_others_are_told()
    {
        using var engineer = await served.As("engineer");
        using var approver = await served.As("approver");
        using var ends = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        var told = new List<int>();
        var hears = Task.Run(async () =>
        {
            await foreach (var pages in Presence.Of(3, ends.Token))
                told.Add(pages.Count);
        });
        Assert.Equal(HttpStatusCode.NoContent, (await engineer.Post("/api/revisions/3/presence", new { page = "one", rowId = "r.length" })).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await approver.Post("/api/revisions/3/presence", new { page = "two" })).StatusCode);
        var both = await Within(3, p => p.Count == 2);
        Assert.Equal(2, both.Count);
        Assert.Contains(both, p => p.EndsWith("at r.length", StringComparison.Ordinal));
        Assert.Contains(both, p => p.EndsWith("at none", StringComparison.Ordinal));
        // Saying the same again tells nobody; going to another row does.
        await approver.Post("/api/revisions/3/presence", new { page = "two" });
        await engineer.Post("/api/revisions/3/presence", new { page = "one", rowId = "r.width" });
        static bool IsAtWidth(string p) => p.EndsWith("at r.width", StringComparison.Ordinal);
        Assert.Contains(await Within(3, p => p.Exists(IsAtWidth)), IsAtWidth);
        await engineer.Post("/api/revisions/3/presence", new { page = "one", leaves = true });
        await approver.Post("/api/revisions/3/presence", new { page = "two", leaves = true });
        Assert.Empty(await Within(3, p => p.Count == 0));
        await ends.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => hears);
        Assert.Equal([1, 2, 2, 1, 0], told);
        Assert.Empty(Presence.Now(4));
    }

    [Fact]
    public async Task What_is_no_page_is_refused()
    {
        using var engineer = await served.As("engineer");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await engineer.Post("/api/revisions/3/presence", new { page = "" })).StatusCode);
        Assert.Equal(HttpStatusCode.UnprocessableEntity,
            (await engineer.Post("/api/revisions/3/presence", new { page = "x", rowId = new string('r', 101) })).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await engineer.Post("/api/revisions/999999/presence", new { page = "x" })).StatusCode);
        // What another program tells on the same channel is not trusted to be sound, and stops nothing.
        var data = served.Services.GetRequiredService<Npgsql.NpgsqlDataSource>();
        foreach (var (channel, payload) in new[] { ("presence", "nothing"), ("presence", "null"), ("presence", "{}"), (Storage.RevisionStore.Channel, "x") })
            await data.CreateCommand($"select pg_notify('{channel}', '{payload}')").ExecuteNonQueryAsync();
        await engineer.Post("/api/revisions/4/presence", new { page = "after it" });
        Assert.Single(await Within(4, p => p.Count == 1));
    }
}
