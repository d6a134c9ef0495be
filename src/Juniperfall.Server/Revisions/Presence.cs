using System.Collections.Concurrent;
using System.Text.Json;
using Npgsql;

namespace Juniperfall.Server.Revisions;

/// <summary>A page that looks at a revision: whose it is, and at which row.</summary>
/// <param name="Page">An id that the page gave itself.</param>
/// <param name="RowId">Null where it is at no row.</param>
public sealed record PageView(string Page, string Person, string Display, string? RowId);

/// <summary>
/// Who looks at a revision just now, and where. Each page says so from time to time; one that has been silent for a while is gone. It is told to all
/// servers, and kept by none longer than that.
/// </summary>
public sealed class Presence : INoticeHearer, IDisposable
{
    /// <summary>A page says where it is at least every so often; see the front end.</summary>
    public static readonly TimeSpan Silence = TimeSpan.FromSeconds(45);

    private const string Told = "presence";
    private const int MostPages = 100;

    private sealed record Notice(long RevisionId, PageView Page, bool Leaves);

    private readonly ConcurrentDictionary<(long RevisionId, string Page), (PageView Page, DateTimeOffset Until)> _pages = new();
    private readonly OpenPages<IReadOnlyList<PageView>> _listeners = new();
    private readonly NpgsqlDataSource _data;
    private readonly TimeProvider _time;
    private readonly ITimer _sweeper;

    public Presence(NpgsqlDataSource data, TimeProvider time)
    {
        (_data, _time) = (data, time);
        _sweeper = time.CreateTimer(_ => Sweep(), null, TimeSpan.FromSeconds(10), TimeSpan.FromSeconds(10));
    }

    public string Channel => Told;

    /// <summary>Who is there, each time that changes.</summary>
    public IAsyncEnumerable<IReadOnlyList<PageView>> Of(long revisionId, CancellationToken cancel) => _listeners.Of(revisionId, cancel);

    /// <summary>Who is there now, in the order of their names.</summary>
    public IReadOnlyList<PageView> Now(long revisionId) =>
        [.. _pages.Where(p => p.Key.RevisionId == revisionId).Select(p => p.Value.Page).OrderBy(p => p.Person, StringComparer.Ordinal)
            .ThenBy(p => p.Page, StringComparer.Ordinal).Take(MostPages)];

    /// <summary>Says that a page is there, or that it leaves.</summary>
    public async Task Say(long revisionId, PageView page, bool leaves, CancellationToken cancel)
    {
        await using var notify = _data.CreateCommand("select pg_notify($1, $2)");
        notify.Parameters.Add(new() { Value = Told });
        notify.Parameters.Add(new() { Value = JsonSerializer.Serialize(new Notice(revisionId, page, leaves), JsonSerializerOptions.Web) });
        await notify.ExecuteNonQueryAsync(cancel);
    }

    public void Hear(string payload)
    {
        if (JsonSerializer.Deserialize<Notice>(payload, JsonSerializerOptions.Web) is not { Page.Page: not null } notice)
            return;
        var key = (notice.RevisionId, notice.Page.Page);
        var isKnown = _pages.TryGetValue(key, out var before);
        if (notice.Leaves)
            _pages.TryRemove(key, out _);
        else if (isKnown || _pages.Keys.Count(k => k.RevisionId == notice.RevisionId) < MostPages)
            _pages[key] = (notice.Page, _time.GetUtcNow() + Silence);
        if (notice.Leaves ? isKnown : before.Page != notice.Page)
            Tell(notice.RevisionId);
    }

    public void Missed() { }

    private void Sweep()
    {
        var now = _time.GetUtcNow();
        foreach (var revision in _pages.Where(p => p.Value.Until < now).Select(p => p.Key).ToList().Where(k => _pages.TryRemove(k, out _))
            .Select(k => k.RevisionId).ToHashSet())
            Tell(revision);
    }

    private void Tell(long revisionId)
    {
        var now = Now(revisionId);
        _listeners.Tell(revisionId, _ => now);
    }

    public void Dispose() => _sweeper.Dispose();
}
