using Npgsql;

namespace Juniperfall.Storage;

/// <summary>That a finding was accepted: by whom, when and why.</summary>
public sealed record Acceptance(string Key, string Reason, string Person, DateTime At);

/// <summary>Findings of the analysis of a product's models that were accepted.</summary>
public sealed class HealthStore(NpgsqlDataSource data)
{
    private const string Select = "select key, reason, person, at from accepted_finding where product_id = $1";

    private const string Upsert = """
        insert into accepted_finding (product_id, key, reason, person) values ($1, $2, $3, $4)
        on conflict (product_id, key) do update set reason = excluded.reason, person = excluded.person, at = now()
        """;

    private const string Delete = "delete from accepted_finding where product_id = $1 and key = $2";

    public async Task<IReadOnlyDictionary<string, Acceptance>> Accepted(string productId, CancellationToken cancel) =>
        await data.Query(Select, r => new Acceptance(r.GetString(0), r.GetString(1), r.GetString(2), r.GetDateTime(3)), cancel, productId)
            .ToDictionaryAsync(a => a.Key, cancellationToken: cancel);

    public Task Accept(string productId, string key, string reason, string person, CancellationToken cancel) =>
        data.Execute(Upsert, cancel, productId, key, reason, person);

    public Task Withdraw(string productId, string key, CancellationToken cancel) => data.Execute(Delete, cancel, productId, key);
}
