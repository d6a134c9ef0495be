using Juniperfall.Core.Models.Texts;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>That someone asked for the release of a revision, and what came of it.</summary>
/// <param name="Outcome">released, sent back or taken back; null while it is open.</param>
public sealed record Review(long RevisionId, string AskedBy, DateTime AskedAt, string Note, string? Outcome, string? AnsweredBy, DateTime? AnsweredAt,
    string Answer);

/// <summary>An open review with what it is about.</summary>
public sealed record OpenReview(Review Review, string ProductId, string ProductCode, LocalText ProductLabel, int Number, string Author);

/// <summary>Reviews of revisions before their release. A revision whose release is asked for is in review, and is not edited meanwhile.</summary>
public sealed class ReviewStore(NpgsqlDataSource data)
{
    private const string Columns = "v.revision_id, v.asked_by, v.asked_at, v.note, v.outcome, v.answered_by, v.answered_at, v.answer";

    private const string SelectLatest = $"""
        select {Columns} from review v where v.revision_id = $1 order by v.id desc limit 1
        """;

    private const string SelectOpen = $"""
        select {Columns}, p.id, p.code, r.label, r.number, r.author
        from review v join revision r on r.id = v.revision_id join product p on p.id = r.product_id
        where v.outcome is null and r.state = 'in review' order by v.asked_at limit $1
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

    /// <summary>What waits for a release, the longest waiting first.</summary>
    public async Task<IReadOnlyList<OpenReview>> Open(int most, CancellationToken cancel) =>
        await data.Query(SelectOpen, r => new OpenReview(Read(r), r.GetString(8), r.GetString(9), r.ReadJson<LocalText>(10), r.GetInt32(11), r.GetString(12)),
            cancel, most).ToListAsync(cancel);

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
