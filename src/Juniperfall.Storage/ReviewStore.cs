using Juniperfall.Core.Models.Texts;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>That someone asked for the release of a revision, and what came of it.</summary>
/// <param name="Outcome">released, sent back or taken back; null while it is open.</param>
public sealed record Review(long RevisionId, string AskedBy, DateTime AskedAt, string Note, string? Outcome, string? AnsweredBy, DateTime? AnsweredAt,
    string Answer);

/// <summary>Something that waits for a person.</summary>
/// <param name="Kind">release: a review is open; sentBack: what one wrote has come back; remarks: some on what one wrote are open; answered: remarks of
/// one's own have an answer by someone else; concession: someone else asks for one.</param>
/// <param name="By">Who did it last.</param>
/// <param name="Text">The note, or the last text.</param>
/// <param name="Count">How many remarks; of reviews and concessions 1.</param>
/// <param name="Id">Of the concession; empty of the others, which are found by their revision.</param>
public sealed record WaitingEntry(string Kind, long RevisionId, string ProductCode, LocalText ProductLabel, int Number, string By, DateTime At, string Text,
    long Count, string Id);

/// <summary>Reviews of revisions before their release. A revision whose release is asked for is in review, and is not edited meanwhile.</summary>
public sealed class ReviewStore(NpgsqlDataSource data)
{
    private const string Columns = "v.revision_id, v.asked_by, v.asked_at, v.note, v.outcome, v.answered_by, v.answered_at, v.answer";

    private const string SelectLatest = $"""
        select {Columns} from review v where v.revision_id = $1 order by v.id desc limit 1
        """;

    /// <summary>By kind: what waits for $1; what only an approver releases is left out unless $2, and what only an author mends unless $3.</summary>
    private const string SelectWaiting = """
        select 'release', v.revision_id, p.code, r.label, r.number, v.asked_by, v.asked_at, v.note, 1::bigint, ''
        from review v join revision r on r.id = v.revision_id join product p on p.id = r.product_id
        where $2 and v.outcome is null and r.state = 'in review' and r.author <> $1
        union all
        select 'sentBack', v.revision_id, p.code, r.label, r.number, v.answered_by, v.answered_at, v.answer, 1, ''
        from revision r join product p on p.id = r.product_id
        join lateral (select * from review x where x.revision_id = r.id order by x.id desc limit 1) v on v.outcome = 'sent back'
        where $3 and r.state = 'draft' and r.author = $1
        union all
        select 'remarks', r.id, p.code, r.label, r.number, (array_agg(m.person order by m.made_at desc))[1], max(m.made_at),
            (array_agg(m.text order by m.made_at desc))[1], count(*), ''
        from remark m join revision r on r.id = m.revision_id join product p on p.id = r.product_id
        where $3 and m.closed_at is null and r.author = $1 and r.state in ('draft', 'in review') and m.person <> $1
        group by r.id, p.code, r.label, r.number
        union all
        select 'answered', r.id, p.code, r.label, r.number, (array_agg(a.person order by a.made_at desc))[1], max(a.made_at),
            (array_agg(a.text order by a.made_at desc))[1], count(distinct m.id), ''
        from remark m join revision r on r.id = m.revision_id join product p on p.id = r.product_id
        join lateral (select * from remark_answer x where x.remark_id = m.id order by x.made_at desc limit 1) a on a.person <> $1
        where m.closed_at is null and m.person = $1
        group by r.id, p.code, r.label, r.number
        union all
        select 'concession', r.id, p.code, r.label, r.number, k.asked_by, k.asked_at, k.reason, 1, k.id
        from concession k join configuration c on c.id = k.configuration_id join revision r on r.id = k.revision_id join product p on p.id = r.product_id
        where $2 and k.outcome is null and k.asked_by <> $1 and (k.picks, k.revision_id) is not distinct from (c.picks, c.revision_id)
        order by 7 limit $4
        """;

    private const string MarkInReview = """
        update revision set state = 'in review' where id = $1 and state = 'draft' and head = $2
        """;

    private const string MarkDraft = """
        update revision set state = 'draft' where id = $1 and state = 'in review'
        """;

    private const string Insert = """
        insert into review (revision_id, asked_by, note) values ($1, $2, $3)
        """;

    private const string Close = """
        update review set outcome = $2, answered_by = $3, answered_at = now(), answer = $4 where revision_id = $1 and outcome is null
        """;

    /// <summary>The latest review of a revision, open or not; null where its release was never asked for.</summary>
    public async Task<Review?> Latest(long revisionId, CancellationToken cancel) =>
        await data.Query(SelectLatest, Read, cancel, revisionId).FirstOrDefaultAsync(cancel);

    /// <summary>What waits for a person, the longest waiting first.</summary>
    public async Task<IReadOnlyList<WaitingEntry>> WaitingFor(string person, bool releases, bool edits, int most, CancellationToken cancel) =>
        await data.Query(SelectWaiting, r => new WaitingEntry(r.GetString(0), r.GetInt64(1), r.GetString(2), r.ReadJson<LocalText>(3), r.GetInt32(4),
            r.GetString(5), r.GetDateTime(6), r.GetString(7), r.GetInt64(8), r.GetString(9)), cancel, person, releases, edits, most).ToListAsync(cancel);

    /// <summary>Asks for the release of a draft. False where it is none any more, or has changed since <paramref name="head"/>.</summary>
    public async Task<bool> Ask(UnitOfWork work, long revisionId, long head, string person, string note, CancellationToken cancel)
    {
        await using var mark = work.Connection.Command(MarkInReview, revisionId, head);
        if (await mark.ExecuteNonQueryAsync(cancel) != 1)
            return false;
        await using var insert = work.Connection.Command(Insert, revisionId, person, note);
        await insert.ExecuteNonQueryAsync(cancel);
        await RevisionStore.TellOfState(work, revisionId, cancel);
        return true;
    }

    /// <summary>Makes a revision in review a draft again. False where it is in no review.</summary>
    /// <param name="outcome">sent back or taken back.</param>
    public async Task<bool> Return(UnitOfWork work, long revisionId, string outcome, string person, string answer, CancellationToken cancel)
    {
        await using var mark = work.Connection.Command(MarkDraft, revisionId);
        if (await mark.ExecuteNonQueryAsync(cancel) != 1)
            return false;
        await CloseAs(work, revisionId, outcome, person, answer, cancel);
        await RevisionStore.TellOfState(work, revisionId, cancel);
        return true;
    }

    /// <summary>Says in the open review, where there is one, what came of it.</summary>
    public async Task CloseAs(UnitOfWork work, long revisionId, string outcome, string person, string answer, CancellationToken cancel)
    {
        await using var close = work.Connection.Command(Close, revisionId, outcome, person, answer);
        await close.ExecuteNonQueryAsync(cancel);
    }

    private static Review Read(NpgsqlDataReader r) => new(r.GetInt64(0), r.GetString(1), r.GetDateTime(2), r.GetString(3), r.TextOrNull(4), r.TextOrNull(5),
        r.IsDBNull(6) ? null : r.GetDateTime(6), r.GetString(7));
}
