using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>A frozen set of what was released, and of the library.</summary>
/// <param name="Products">How many products it holds a revision of.</param>
public sealed record Baseline(string Id, long Number, string Name, string Note, string Person, DateTime MadeAt, long Products);

/// <summary>A product at a baseline and now.</summary>
/// <param name="State">What the revision of then is by now.</param>
/// <param name="NowId">The latest revision that is released now; null where there is none.</param>
public sealed record BaselineProduct(string ProductId, string Code, LocalText Label, long ThenId, int Then, string State, long? NowId, int? Now);

/// <summary>Baselines: made once, never changed.</summary>
public sealed class BaselineStore(NpgsqlDataSource data)
{
    private const string Columns = """
        select b.id, b.number, b.name, b.note, b.person, b.made_at, (select count(*) from baseline_revision r where r.baseline_id = b.id) from baseline b
        """;

    private const string SelectAll = $"{Columns} order by b.number desc limit $1";
    private const string SelectOne = $"{Columns} where b.id = $1";

    private const string SelectFacts = """
        select facts from baseline where id = $1
        """;

    private const string SelectProducts = """
        select p.id, p.code, r.label, r.id, r.number, r.state, n.id, n.number
        from baseline_revision b join product p on p.id = b.product_id join revision r on r.id = b.revision_id
        left join lateral (select x.id, x.number from revision x where x.product_id = p.id and x.state = 'released' order by x.number desc limit 1) n on true
        where b.baseline_id = $1 order by lower(p.code)
        """;

    private const string Insert = """
        insert into baseline (id, name, note, person, facts) values ($1, $2, $3, $4, $5) on conflict (id) do nothing
        """;

    /// <summary>Of each product the latest revision that is released and not withdrawn.</summary>
    private const string InsertRevisions = """
        insert into baseline_revision (baseline_id, product_id, revision_id)
        select distinct on (product_id) $1, product_id, id from revision where state = 'released' order by product_id, number desc
        """;

    /// <summary>Those made last first.</summary>
    public async Task<IReadOnlyList<Baseline>> All(int most, CancellationToken cancel) => await data.Query(SelectAll, Read, cancel, most).ToListAsync(cancel);

    public async Task<Baseline?> One(string id, CancellationToken cancel) => await data.Query(SelectOne, Read, cancel, id).FirstOrDefaultAsync(cancel);

    /// <summary>The library as it was.</summary>
    public async Task<LibraryFacts?> Facts(string id, CancellationToken cancel) =>
        await data.Query(SelectFacts, r => r.ReadJson<LibraryFacts>(0), cancel, id).FirstOrDefaultAsync(cancel);

    public async Task<IReadOnlyList<BaselineProduct>> Products(string id, CancellationToken cancel) =>
        await data.Query(SelectProducts, r => new BaselineProduct(r.GetString(0), r.GetString(1), r.ReadJson<LocalText>(2), r.GetInt64(3), r.GetInt32(4),
            r.GetString(5), r.IsDBNull(6) ? null : r.GetInt64(6), r.IsDBNull(7) ? null : r.GetInt32(7)), cancel, id).ToListAsync(cancel);

    /// <summary>Freezes what is released now. False where there is one of this id; that stays as it is.</summary>
    public async Task<bool> Add(UnitOfWork work, string id, string name, string note, string person, LibraryFacts facts, CancellationToken cancel)
    {
        await using var insert = work.Connection.Command(Insert, id, name, note, person, Sql.Json(facts));
        if (await insert.ExecuteNonQueryAsync(cancel) == 0)
            return false;
        await using var revisions = work.Connection.Command(InsertRevisions, id);
        await revisions.ExecuteNonQueryAsync(cancel);
        return true;
    }

    private static Baseline Read(NpgsqlDataReader r) =>
        new(r.GetString(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetDateTime(5), r.GetInt64(6));
}
