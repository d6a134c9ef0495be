using Npgsql;

namespace Juniperfall.Storage;

/// <summary>People of the demo data. Their password is known to everyone, so it holds only in a server that is set to show the demo.</summary>
public sealed class DemoPeople(NpgsqlDataSource data)
{
    private const string IsEmptyQuery = """
        select not exists (select 1 from person) and not exists (select 1 from product) and not exists (select 1 from item)
        """;

    private const string TakePasswords = """
        update person set password = '' where demo and password <> ''
        """;

    private const string GivePassword = """
        update person set password = $1 where demo and password = ''
        """;

    /// <summary>Whether nobody has worked in the database, or could.</summary>
    public async Task<bool> IsEmpty(CancellationToken cancel) => await data.Query(IsEmptyQuery, r => r.GetBoolean(0), cancel).FirstAsync(cancel);

    /// <summary>Nobody signs in with the known password any more. Whoever of the demo has chosen one of their own keeps it.</summary>
    public Task TakeKnownPasswords(CancellationToken cancel) => data.Execute(TakePasswords, cancel);

    public Task GiveKnownPasswords(string hash, CancellationToken cancel) => data.Execute(GivePassword, cancel, hash);
}
