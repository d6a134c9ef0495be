using Npgsql;

namespace Juniperfall.Storage;

/// <summary>What the audit tells of.</summary>
public enum AuditKind
{
    SignedIn,
    SignInFailed,
    SignInBarred,
    SignedOut,
    Forbidden,
    PersonAdded,
    RoleChanged,
    PersonDeactivated,
    PersonActivated,
    PersonChanged,
    LinkSent,
    PasswordSet,
    PasswordChanged,
    RevisionReleased,
    ReleaseAskedFor,
    ReviewTakenBack,
    RevisionSentBack,
    RevisionWithdrawn,
    RemarkMade,
    RemarkClosed,
    BaselineMade,
    Paused,
    PauseEnded,
    ConcessionAskedFor,
    ConcessionSigned,
    ConcessionRefused,
    ConcessionTakenBack,
    ConcessionWithdrawn,
}

/// <summary>One event.</summary>
/// <param name="Person">Who did it; of a failed attempt, whose name was given, and empty where nobody has it.</param>
/// <param name="Subject">What or whom it was about.</param>
/// <param name="Detail">What else there is to say: a role before and after, the number of a revision.</param>
/// <param name="Address">Where the request came from.</param>
public sealed record AuditEvent(AuditKind Kind, string Person, string Subject, string Detail, string Address);

/// <summary>An event as it was kept.</summary>
public sealed record AuditEntry(long Id, DateTime At, AuditEvent Event);

/// <summary>Security events and releases: added to, read, never changed.</summary>
public sealed class AuditStore(NpgsqlDataSource data)
{
    private const string InsertEvent = """
        insert into audit (kind, person, subject, detail, address) values ($1, $2, $3, $4, $5)
        """;

    private const string SelectBefore = """
        select id, at, kind, person, subject, detail, address from audit where id < $1 order by id desc limit $2
        """;

    private const string SelectOfName = """
        select id, at, kind, person, subject, detail, address from audit where id < $1 and (person = $3 or subject = $3) order by id desc limit $2
        """;

    private const string InsertUnlessJustThere = """
        insert into audit (kind, person, subject, detail, address) select $1, $2, $3, $4, $5
        where not exists (select 1 from (select kind, subject, detail, address, at from audit where person = $2 order by id desc limit 50) last
            where last.kind = $1 and last.subject = $3 and last.detail = $4 and last.address = $5 and last.at > now() - interval '1 minute')
        """;

    /// <summary>The same happening again within a minute is told once: what anyone can bring about at will does not fill the database.</summary>
    public Task AddOnceAMinute(AuditEvent happened, CancellationToken cancel) => data.Execute(InsertUnlessJustThere, cancel, Values(happened));

    public Task Add(AuditEvent happened, CancellationToken cancel) => data.Execute(InsertEvent, cancel, Values(happened));

    /// <summary>Kept together with what happened, or not at all.</summary>
    public async Task Add(UnitOfWork work, AuditEvent happened, CancellationToken cancel)
    {
        await using var insert = work.Connection.Command(InsertEvent, Values(happened));
        await insert.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Events before one, the latest first.</summary>
    /// <param name="name">Only those that a person did or that were about them; empty for all.</param>
    public async Task<IReadOnlyList<AuditEntry>> Before(long id, string name, int most, CancellationToken cancel) =>
        await (name.Length == 0 ? data.Query(SelectBefore, Read, cancel, id, most) : data.Query(SelectOfName, Read, cancel, id, most, name))
            .ToListAsync(cancel);

    private static object?[] Values(AuditEvent happened) => [happened.Kind.ToString(), happened.Person, happened.Subject, happened.Detail, happened.Address];

    private static AuditEntry Read(NpgsqlDataReader r) =>
        new(r.GetInt64(0), r.GetDateTime(1), new(Enum.Parse<AuditKind>(r.GetString(2)), r.GetString(3), r.GetString(4), r.GetString(5), r.GetString(6)));
}
