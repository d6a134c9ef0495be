using Npgsql;

namespace Juniperfall.Storage;

/// <summary>A revision at the edit that it stands at.</summary>
public sealed record RevisionAt(long RevisionId, long Head);

/// <summary>
/// Which revisions a server works out ahead at its start. A row that stays behind while nobody holds its lock is one that the server did
/// not outlive; it is not worked out ahead again until it is edited.
/// </summary>
public sealed class WarmUpJournal(NpgsqlDataSource data)
{
    private const int LockSpace = 7361;

    private const string SelectLastChanged = """
        select id, head from revision where state <> 'withdrawn' order by changed_at desc, id desc limit $1
        """;

    private const string SelectRow = """
        select 1 from warm_up where revision_id = $1 and head = $2
        """;

    private const string Upsert = """
        insert into warm_up (revision_id, head) values ($1, $2) on conflict (revision_id) do update set head = excluded.head, started_at = now()
        """;

    /// <summary>The revisions that were changed last, the latest first.</summary>
    public async Task<IReadOnlyList<RevisionAt>> LastChanged(int most, CancellationToken cancel) =>
        await data.Query(SelectLastChanged, r => new RevisionAt(r.GetInt64(0), r.GetInt64(1)), cancel, most).ToListAsync(cancel);

    /// <summary>Whether a server ended while it worked this out ahead.</summary>
    public async Task<bool> HasFailed(RevisionAt revision, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        return await IsLeftBehind(connection, revision, cancel);
    }

    private static async Task<bool> IsLeftBehind(NpgsqlConnection connection, RevisionAt revision, CancellationToken cancel)
    {
        await using var row = connection.Command(SelectRow, revision.RevisionId, revision.Head);
        if (await row.ExecuteScalarAsync(cancel) is null)
            return false;
        await using var isFree = connection.Command("select pg_try_advisory_xact_lock($1, $2)", LockSpace, (int)revision.RevisionId);
        return (bool)(await isFree.ExecuteScalarAsync(cancel))!;
    }

    /// <summary>Works a revision out ahead, unless a server has not outlived that before or another one is at it.</summary>
    /// <returns>Whether it was done.</returns>
    public async Task<bool> Try(RevisionAt revision, Func<Task> work, CancellationToken cancel)
    {
        // The lock is the connection's: when the server dies, so does it.
        await using var connection = await data.OpenConnectionAsync(cancel);
        if (await IsLeftBehind(connection, revision, cancel))
            return false;
        await using var take = connection.Command("select pg_try_advisory_lock($1, $2)", LockSpace, (int)revision.RevisionId);
        if (!(bool)(await take.ExecuteScalarAsync(cancel))!)
            return false;
        await using (var begun = connection.Command(Upsert, revision.RevisionId, revision.Head))
            await begun.ExecuteNonQueryAsync(cancel);
        try
        {
            await work();
        }
        finally
        {
            // Whatever it threw, the server lives; only its death leaves the row.
            await using var done = connection.Command("delete from warm_up where revision_id = $1", revision.RevisionId);
            await done.ExecuteNonQueryAsync(CancellationToken.None);
            await using var free = connection.Command("select pg_advisory_unlock($1, $2)", LockSpace, (int)revision.RevisionId);
            await free.ExecuteScalarAsync(CancellationToken.None);
        }
        return true;
    }
}
