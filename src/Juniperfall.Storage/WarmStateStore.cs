using Juniperfall.Core.Models.Document;
using Npgsql;
using NpgsqlTypes;

namespace Juniperfall.Storage;

/// <summary>What was found out of released revisions, by site and day, for servers that know nothing yet.</summary>
public sealed class WarmStateStore(NpgsqlDataSource data)
{
    private const string Select = "select site, day, state from warm_state where revision_id = $1 and program = $2";

    private const string SelectMissing = """
        select id, head from revision r where state = 'released' and not exists (select 1 from warm_state w where w.revision_id = r.id and w.program = $1)
        order by changed_at desc, id limit $2
        """;

    private const string Upsert = """
        insert into warm_state (revision_id, program, site, day, state) values ($1, $2, $3, $4, $5)
        on conflict (revision_id, site, day) do update set program = excluded.program, state = excluded.state, made_at = now()
        """;

    /// <summary>The released revisions of which a program has kept nothing yet, those first that were changed last.</summary>
    public async Task<IReadOnlyList<RevisionAt>> Missing(Guid program, int most, CancellationToken cancel) =>
        await data.Query(SelectMissing, r => new RevisionAt(r.GetInt64(0), r.GetInt64(1)), cancel, program, most).ToListAsync(cancel);

    /// <param name="program">The program that made them: another one may find out otherwise.</param>
    public async Task<IReadOnlyDictionary<Effectivity, byte[]>> Load(long revisionId, Guid program, CancellationToken cancel) =>
        await data.Query(Select, r =>
            (At: new Effectivity(r.GetString(0) is { Length: > 0 } site ? site : null, r.DayOrNull(1)), State: r.GetFieldValue<byte[]>(2)),
            cancel, revisionId, program).ToDictionaryAsync(x => x.At, x => x.State, cancellationToken: cancel);

    public Task Save(long revisionId, Guid program, Effectivity at, byte[] state, CancellationToken cancel) =>
        data.Execute(Upsert, cancel, revisionId, program, at.Site ?? "",
            new NpgsqlParameter { Value = at.Date is { } day ? day : DBNull.Value, NpgsqlDbType = NpgsqlDbType.Date }, state);
}
