using Npgsql;

namespace Juniperfall.Storage;

/// <summary>An answer to a remark.</summary>
public sealed record RemarkAnswer(string Id, string Text, string Person, DateTime MadeAt);

/// <summary>What a reviewer wrote on a row of a revision, or on it as a whole.</summary>
/// <param name="RowId">Empty where it is of the whole.</param>
/// <param name="RowName">What the row was called when it was written.</param>
/// <param name="ClosedBy">Null while it is open.</param>
public sealed record Remark(string Id, long RevisionId, string RowId, string RowName, string Text, string Person, DateTime MadeAt, string? ClosedBy,
    DateTime? ClosedAt)
{
    public IReadOnlyList<RemarkAnswer> Answers { get; init; } = [];
}

/// <summary>Remarks on revisions, their answers, and that they are closed.</summary>
public sealed class RemarkStore(NpgsqlDataSource data)
{
    private const string SelectRemarks = """
        select id, revision_id, row_id, row_name, text, person, made_at, closed_by, closed_at from remark where revision_id = $1 order by made_at, id limit $2
        """;

    private const string SelectOne = """
        select id, revision_id, row_id, row_name, text, person, made_at, closed_by, closed_at from remark where id = $1
        """;

    private const string SelectAnswers = """
        select a.id, a.text, a.person, a.made_at, a.remark_id from remark_answer a join remark r on r.id = a.remark_id
        where r.revision_id = $1 order by a.made_at, a.id
        """;

    private const string Insert = """
        insert into remark (id, revision_id, row_id, row_name, text, person) values ($1, $2, $3, $4, $5, $6) on conflict (id) do nothing
        """;

    private const string InsertAnswer = """
        insert into remark_answer (id, remark_id, text, person) values ($1, $2, $3, $4) on conflict (id) do nothing
        """;

    private const string CloseOne = """
        update remark set closed_by = $2, closed_at = now() where id = $1 and closed_at is null
        """;

    private const string ReopenOne = """
        update remark set closed_by = null, closed_at = null where id = $1 and closed_at is not null
        """;

    private const string CountOpen = """
        select count(*) from remark where revision_id = $1 and closed_at is null
        """;

    public async Task<IReadOnlyList<Remark>> Of(long revisionId, int most, CancellationToken cancel)
    {
        var answers = (await data.Query(SelectAnswers, r => (Remark: r.GetString(4), Answer: new RemarkAnswer(r.GetString(0), r.GetString(1), r.GetString(2),
            r.GetDateTime(3))), cancel, revisionId).ToListAsync(cancel)).ToLookup(a => a.Remark, a => a.Answer);
        return [.. (await data.Query(SelectRemarks, Read, cancel, revisionId, most).ToListAsync(cancel)).Select(r => r with { Answers = [.. answers[r.Id]] })];
    }

    public async Task<Remark?> One(string id, CancellationToken cancel) => await data.Query(SelectOne, Read, cancel, id).FirstOrDefaultAsync(cancel);

    /// <summary>How many are open.</summary>
    public async Task<long> OpenOf(long revisionId, CancellationToken cancel) =>
        await data.Query(CountOpen, r => r.GetInt64(0), cancel, revisionId).SingleAsync(cancel);

    /// <summary>False where there is one of this id already; that stays as it is.</summary>
    public Task<bool> Add(UnitOfWork work, Remark remark, CancellationToken cancel) => Change(work, remark.RevisionId, Insert, cancel,
        remark.Id, remark.RevisionId, remark.RowId, remark.RowName, remark.Text, remark.Person);

    /// <summary>False where there is one of this id already.</summary>
    public Task<bool> Answer(UnitOfWork work, Remark remark, string id, string text, string person, CancellationToken cancel) =>
        Change(work, remark.RevisionId, InsertAnswer, cancel, id, remark.Id, text, person);

    /// <summary>False where it was closed already.</summary>
    public Task<bool> Close(UnitOfWork work, Remark remark, string person, CancellationToken cancel) =>
        Change(work, remark.RevisionId, CloseOne, cancel, remark.Id, person);

    /// <summary>False where it is open already.</summary>
    public Task<bool> Reopen(UnitOfWork work, Remark remark, CancellationToken cancel) => Change(work, remark.RevisionId, ReopenOne, cancel, remark.Id);

    /// <summary>Tells whoever looks at the revision, once that is committed.</summary>
    private static async Task<bool> Change(UnitOfWork work, long revisionId, string text, CancellationToken cancel, params object?[] values)
    {
        await using var command = work.Connection.Command(text, values);
        if (await command.ExecuteNonQueryAsync(cancel) != 1)
            return false;
        await RevisionStore.TellOfState(work, revisionId, cancel);
        return true;
    }

    private static Remark Read(NpgsqlDataReader r) => new(r.GetString(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetString(5),
        r.GetDateTime(6), r.TextOrNull(7), r.IsDBNull(8) ? null : r.GetDateTime(8));
}
