using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Revisions;

/// <summary>Something that hears what any server tells the others over the database.</summary>
public interface INoticeHearer
{
    string Channel { get; }

    void Hear(string payload);

    /// <summary>The connection was there again: anything may have been missed meanwhile.</summary>
    void Missed();
}

/// <summary>One connection on which this server hears the notices of all.</summary>
public sealed class DatabaseNotices(NpgsqlDataSource data, IEnumerable<INoticeHearer> hearers, ILogger<DatabaseNotices> log) : BackgroundService
{
    private readonly Dictionary<string, INoticeHearer> _hearers = hearers.ToDictionary(h => h.Channel);

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
            try
            {
                await using var connection = await data.OpenConnectionAsync(stop);
                connection.Notification += (_, e) => Hear(e.Channel, e.Payload);
                foreach (var channel in _hearers.Keys)
                    await using (var listen = new NpgsqlCommand($"listen {channel}", connection))
                        await listen.ExecuteNonQueryAsync(stop);
                foreach (var hearer in _hearers.Values)
                    hearer.Missed();
                while (true)
                    await connection.WaitAsync(stop);
            }
            catch (Exception e) when (e is NpgsqlException or System.Net.Sockets.SocketException or IOException or InvalidOperationException
                or TimeoutException)
            {
                log.LogWarning("What other servers tell is not heard just now: {Reason}", e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stop).ContinueWith(_ => { }, TaskScheduler.Default);
            }
            catch (OperationCanceledException)
            {
                return;
            }
    }

    /// <summary>What is no notice of ours is passed over: it must not end the listening.</summary>
    private void Hear(string channel, string payload)
    {
        try
        {
            _hearers.GetValueOrDefault(channel)?.Hear(payload);
        }
        catch (Exception e) when (e is FormatException or OverflowException or IndexOutOfRangeException or System.Text.Json.JsonException)
        {
            log.LogWarning("A notice on {Channel} was not understood: {Reason}", channel, e.Message);
        }
    }
}
