using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server;

/// <summary>Whether the server can do its work: the database is there and in the present form, and the queue moves.</summary>
public static class ServerHealth
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(3);

    /// <summary>200 where all is well, 503 otherwise; either way with what was found. It tells nothing of what is in the database.</summary>
    public static async Task<IResult> Of(Database.State database, Scheduler scheduler, CancellationToken cancel)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Patience);
        var found = await database.Find(limit.Token);
        var queue = scheduler.StateFor("");
        var isFull = queue.Waiting >= Scheduler.MostWaiting;
        return Results.Json(new
        {
            status = found is null && !isFull ? "ok" : "failing",
            database = found ?? "ok",
            running = queue.Running,
            waiting = queue.Waiting
        },
            statusCode: found is null && !isFull ? StatusCodes.Status200OK : StatusCodes.Status503ServiceUnavailable);
    }
}
