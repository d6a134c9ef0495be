using System.Security.Cryptography;
using System.Text;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>How many attempts failed, or are under way, beside one that has just been begun.</summary>
/// <param name="OfPair">Of the same name from the same address.</param>
/// <param name="OfName">Of the same name from anywhere.</param>
/// <param name="OfAddress">From the same address for any name.</param>
/// <param name="SinceLast">How long ago the last of the same name from the same address was begun.</param>
public sealed record EarlierAttempts(long Id, long OfPair, long OfName, long OfAddress, TimeSpan? SinceLast);

/// <summary>Attempts to sign in, counted over a sliding window for every instance of the server alike, from when they begin.</summary>
public sealed class SignInAttempts(NpgsqlDataSource data)
{
    private const string BeginAttempt = """
        with own as (insert into sign_in_attempt (name, address) values ($1, $2) returning id)
        select own.id, (select count(*) from sign_in_attempt a where a.name = $1 and a.address = $2 and a.at > now() - $3),
            (select count(*) from sign_in_attempt a where a.name = $1 and a.at > now() - $3), (select count(*) from sign_in_attempt a where a.address = $2 and a.at > now() - $3),
            (select extract(epoch from clock_timestamp() - max(a.at))::float8 from sign_in_attempt a where a.name = $1 and a.address = $2 and a.at > now() - $3)
        from own
        """;

    private const string DeleteOne = """
        delete from sign_in_attempt where id = $1
        """;

    private const string DeletePair = """
        delete from sign_in_attempt where (name = $1 and address = $2) or at < now() - interval '1 day'
        """;

    /// <summary>Attempts on one pair are counted one after the other, however many come at once.</summary>
    public async Task<EarlierAttempts> Begin(string name, string address, TimeSpan window, CancellationToken cancel)
    {
        var key = KeyOf(name);
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using (var pair = connection.Command("select pg_advisory_xact_lock(hashtextextended($1, 0))", $"{key} {address}"))
            await pair.ExecuteNonQueryAsync(cancel);
        var earlier = await connection
            .Query(BeginAttempt, r => new EarlierAttempts(r.GetInt64(0), r.GetInt64(1), r.GetInt64(2), r.GetInt64(3),
            r.IsDBNull(4) ? null : TimeSpan.FromSeconds(Math.Max(0, r.GetDouble(4)))),
            cancel, key, address, window).FirstAsync(cancel);
        await transaction.CommitAsync(cancel);
        return earlier;
    }

    /// <summary>One that was not looked at does not count.</summary>
    public Task TakeBack(EarlierAttempts attempt, CancellationToken cancel) => data.Execute(DeleteOne, cancel, attempt.Id);

    /// <summary>Forgets those of a pair after it has signed in, and everyone's old ones.</summary>
    public Task Forget(string name, string address, CancellationToken cancel) => data.Execute(DeletePair, cancel, KeyOf(name), address);

    /// <summary>Names that are none are counted as well, by something short.</summary>
    private static string KeyOf(string name) =>
        name.Trim().ToLowerInvariant() is var folded && folded.Length <= 60
            && !folded.Contains('\0') ? folded : Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(folded)));
}
