using System.Collections.Concurrent;
using System.Globalization;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Revisions;

/// <summary>That a revision has changed: its last edit. Zero after the connection was lost, when anything may have.</summary>
public sealed record RevisionChanged(long RevisionId, long Head);

/// <summary>Hears of every edit on the database, whichever server stored it, and passes it on to the open pages.</summary>
public sealed class EditFeed(NpgsqlDataSource data, ILogger<EditFeed> log) : BackgroundService
{
    private readonly ConcurrentDictionary<Channel<RevisionChanged>, long> _pages = new();

    /// <summary>The changes of one revision from now on.</summary>
    public async IAsyncEnumerable<RevisionChanged> Of(long revisionId, [EnumeratorCancellation] CancellationToken cancel)
    {
        var channel = Channel.CreateBounded<RevisionChanged>(new BoundedChannelOptions(16) { FullMode = BoundedChannelFullMode.DropOldest });
        _pages[channel] = revisionId;
        try
        {
            await foreach (var change in channel.Reader.ReadAllAsync(cancel))
                yield return change;
        }
        finally
        {
            _pages.TryRemove(channel, out _);
        }
    }

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
            try
            {
                await using var connection = await data.OpenConnectionAsync(stop);
                connection.Notification += (_, e) =>
                {
                    var parts = e.Payload.Split(':');
                    Tell(long.Parse(parts[0], CultureInfo.InvariantCulture), long.Parse(parts[1], CultureInfo.InvariantCulture));
                };
                await using (var listen = new NpgsqlCommand($"listen {RevisionStore.Channel}", connection))
                    await listen.ExecuteNonQueryAsync(stop);
                Tell(null, 0);
                while (true)
                    await connection.WaitAsync(stop);
            }
            catch (Exception e) when (e is NpgsqlException or System.Net.Sockets.SocketException or IOException or InvalidOperationException or TimeoutException)
            {
                log.LogWarning("Edits of others are not heard just now: {Reason}", e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stop).ContinueWith(_ => { }, TaskScheduler.Default);
            }
            catch (OperationCanceledException)
            {
                return;
            }
    }

    private void Tell(long? revisionId, long head)
    {
        foreach (var (page, wanted) in _pages)
            if (revisionId is null || wanted == revisionId)
                page.Writer.TryWrite(new(wanted, head));
    }
}
