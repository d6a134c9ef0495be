using System.Collections.Immutable;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Something saved that a later state of its model can touch.</summary>
/// <param name="IsStructure">Whether it is what a structure was generated from, which its configuration no longer picks.</param>
/// <param name="RevisionNumber">Of the revision that it is saved on.</param>
/// <param name="Outcome">What came out of it there; null where that was not found out yet.</param>
/// <param name="SetAside">The ids of the rules that a concession sets aside for it.</param>
public sealed record ImpactSubject(StoredConfiguration Configuration, bool IsStructure, int RevisionNumber, string RevisionState, SavedOutcome? Outcome,
    ImmutableArray<string> SetAside)
{
    public string Id => Configuration.Id;
}

/// <summary>How much is saved of a product, when something was saved last, and which concessions stand.</summary>
public sealed record SavedMark(long Count, string Last);

/// <summary>What is saved of a product, with what came out of it.</summary>
public sealed class ImpactStore(NpgsqlDataSource data)
{
    /// <summary>A structure counts beside its configuration only where that has moved on since.</summary>
    private const string SelectSubjects = """
        with saved as (
            select false as is_structure, c.id, c.name, c.revision_id, c.picks, c.site, c.date, c.customer_class, c.author, c.changed_by, c.version,
                   c.changed_at,
                   (select k.rules from concession k where k.configuration_id = c.id and k.outcome = 'signed' and k.withdrawn_at is null
                      and k.until >= current_date and (k.picks, k.revision_id) is not distinct from (c.picks, c.revision_id)
                    order by k.number desc limit 1) as rules
            from configuration c join revision r on r.id = c.revision_id where r.product_id = $1
            union all
            select true, s.id, s.configuration_name, s.revision_id, s.picks, s.site, s.date, null, s.author, s.author, 1, s.made_at,
                   (select k.rules from concession k where k.id = s.concession_id)
            from structure s join revision r on r.id = s.revision_id join configuration c on c.id = s.configuration_id
            where r.product_id = $1
              and (c.revision_id, c.picks, c.site, c.date) is distinct from (s.revision_id, s.picks, s.site, s.date)
            order by changed_at desc, id limit $2)
        select s.*, r.number, r.state, o.content
        from saved s join revision r on r.id = s.revision_id left join saved_outcome o on o.id = s.id and o.version = s.version
        order by s.changed_at desc, s.id
        """;

    private const string SelectMark = """
        select count(*) + (select count(*) from structure s join revision r on r.id = s.revision_id where r.product_id = $1),
               concat(coalesce(max(c.changed_at), '-infinity'::timestamptz), ' ',
                   (select string_agg(k.id, ' ' order by k.number) from concession k join revision r on r.id = k.revision_id
                    where r.product_id = $1 and k.outcome = 'signed' and k.withdrawn_at is null and k.until >= current_date))
        from configuration c join revision r on r.id = c.revision_id where r.product_id = $1
        """;

    private const string Upsert = """
        insert into saved_outcome (id, version, content) values ($1, $2, $3)
        on conflict (id) do update set version = excluded.version, content = excluded.content
        """;

    private sealed record Kept(bool? Valid, bool IsComplete, ImmutableArray<CaseFact> Facts, ImmutableArray<StoredPick>? Values);

    /// <summary>Everything saved on any revision of a product, what was changed last first.</summary>
    public IAsyncEnumerable<ImpactSubject> Subjects(string productId, int most, CancellationToken cancel) => data.Query(SelectSubjects, r =>
    {
        var picks = r.ReadJson<ImmutableArray<StoredPick>>(4);
        var stored = new StoredConfiguration(r.GetString(1), r.GetString(2), r.GetInt64(3), [.. picks.Where(p => p.FilledIn is null).Select(p => p.ToPick())],
            new(r.TextOrNull(5), r.DayOrNull(6)), r.TextOrNull(7), r.GetString(8), r.GetString(9), r.GetInt32(10), r.GetDateTime(11))
        {
            FillIns = [.. picks.Where(p => p.FilledIn is not null).Select(p => new FilledIn(p.ToPick(), p.FilledIn!))],
        };
        return new ImpactSubject(stored, r.GetBoolean(0), r.GetInt32(13), r.GetString(14),
            r.IsDBNull(15) || r.ReadJson<Kept>(15) is not { } kept ? null
                : new(kept.Valid, kept.IsComplete, kept.Facts, kept.Values is { } values ? [.. values.Select(v => v.ToPick())] : null),
            r.IsDBNull(12) ? [] : [.. r.ReadJson<ImmutableArray<RuleSetAside>>(12).Select(x => x.Row)]);
    }, cancel, productId, most);

    /// <summary>What changes whenever something of a product is saved.</summary>
    public async Task<SavedMark> Mark(string productId, CancellationToken cancel) =>
        await data.Query(SelectMark, r => new SavedMark(r.GetInt64(0), r.GetString(1)), cancel, productId).SingleAsync(cancel);

    /// <summary>Keeps what came out of something saved, at the version that it was asked of.</summary>
    public Task Keep(string id, int version, SavedOutcome outcome, CancellationToken cancel) => data.Execute(Upsert, cancel, id, version,
        Sql.Json(new Kept(outcome.Valid, outcome.IsComplete, outcome.Facts, outcome.Values is { } values ? [.. values.Select(StoredPick.Of)] : null)));
}
