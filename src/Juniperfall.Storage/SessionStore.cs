using Npgsql;

namespace Juniperfall.Storage;

/// <summary>What is open of a person's signing in.</summary>
public sealed record OpenSession(Guid Id, Person Person, DateTime BeganAt);

/// <summary>Sessions of people who have signed in.</summary>
public sealed class SessionStore(NpgsqlDataSource data)
{
    private const string InsertSession = """
        insert into session (id, person, stamp) select $1, name, stamp from person where name = $2 and active
        """;

    /// <summary>Open: not ended, not older than it may be, and the person still the same in password and role.</summary>
    private const string SelectOpen = """
        select s.id, p.name, p.display, p.role, '', s.began_at from session s join person p on p.name = s.person
        where s.id = $1 and s.ended_at is null and s.began_at > now() - $2 and s.stamp = p.stamp and p.active
        """;

    private const string EndSession = """
        update session set ended_at = now() where id = $1 and ended_at is null
        """;

    private const string ForgetOld = """
        delete from session where began_at < now() - $1
        """;

    /// <summary>Null where the person is gone meanwhile.</summary>
    /// <param name="longest">How long sessions last at most; those that are over are forgotten.</param>
    public async Task<Guid?> Begin(string person, TimeSpan longest, CancellationToken cancel)
    {
        var id = Guid.NewGuid();
        await data.Execute(ForgetOld, cancel, longest);
        return await data.Execute(InsertSession, cancel, id, person) == 1 ? id : null;
    }

    public async Task<OpenSession?> Find(Guid id, TimeSpan longest, CancellationToken cancel) =>
        await data.Query(SelectOpen, r =>
            new OpenSession(r.GetGuid(0), new(r.GetString(1), r.GetString(2), r.GetString(3), r.GetString(4)), r.GetDateTime(5)), cancel, id, longest)
            .FirstOrDefaultAsync(cancel);

    public Task End(Guid id, CancellationToken cancel) => data.Execute(EndSession, cancel, id);
}
