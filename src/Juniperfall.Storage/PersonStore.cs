using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Someone who can sign in.</summary>
/// <param name="Name">The sign-in name, in lower case.</param>
/// <param name="Password">Its hash; empty where none was chosen yet.</param>
public sealed record Person(string Name, string Display, string Role, string Password)
{
    /// <summary>Where links for a new password are sent.</summary>
    public string Mail { get; init; } = "";
}

/// <summary>A person as an administrator sees them.</summary>
/// <param name="HasPassword">Whether they have chosen one.</param>
/// <param name="SignedInAt">When they signed in last.</param>
public sealed record PersonEntry(string Name, string Display, string Role, string Mail, bool Active, bool HasPassword, DateTime? SignedInAt);

/// <summary>People, and the links through which they choose their passwords.</summary>
public sealed class PersonStore(NpgsqlDataSource data)
{
    private const string SelectPerson = """
        select name, display, role, password, mail from person where name = $1 and active
        """;

    private const string InsertPerson = """
        insert into person (name, display, role, password, mail, demo) values ($1, $2, $3, $4, $5, $6) on conflict (name) do nothing
        """;

    private const string SelectEntries = """
        select p.name, p.display, p.role, p.mail, p.active, p.password <> '', (select max(s.began_at) from session s where s.person = p.name)
        from person p where p.name = $1 or $1 is null order by not p.active, lower(p.display)
        """;

    private const string UpdatePerson = """
        update person set display = $2, role = $3, mail = $4, active = $5 where name = $1
        """;

    private const string UpdatePassword = """
        update person set password = $2, demo = false where name = $1
        """;

    private const string InsertLink = """
        insert into password_link (token_hash, person, expires_at) select $1, name, now() + $3 from person where name = $2 and active
        """;

    /// <summary>Only the latest link of a person works.</summary>
    private const string EndLinks = """
        delete from password_link where person = $1 or expires_at < now() - interval '30 days'
        """;

    private const string SelectLink = """
        select p.name, p.display, p.role, '', p.mail from password_link l join person p on p.name = l.person
        where l.token_hash = $1 and l.used_at is null and l.expires_at > now() and p.active
        """;

    private const string UseLink = """
        update password_link set used_at = now() where token_hash = $1 and used_at is null and expires_at > now() returning person
        """;

    /// <summary>Holds whoever else changes people until this is through.</summary>
    private const string LockPeople = """
        lock table person in share row exclusive mode
        """;

    private const string CountAdministrators = """
        select count(*) from person where active and role = 'administrator' and name <> $1
        """;

    /// <summary>Nobody is called by more than so many characters.</summary>
    public const int LongestName = 60;

    /// <summary>Someone who can sign in; null where there is nobody of that name, or they no longer may.</summary>
    public async Task<Person?> Find(string name, CancellationToken cancel) =>
        name.Length > LongestName || name.Contains('\0')
            ? null : await data.Query(SelectPerson, Read, cancel, name.Trim().ToLowerInvariant()).FirstOrDefaultAsync(cancel);

    /// <summary>Everyone, those who no longer may sign in last.</summary>
    public async Task<IReadOnlyList<PersonEntry>> All(CancellationToken cancel) =>
        await data.Query(SelectEntries, ReadEntry, cancel, Sql.NullableText(null)).ToListAsync(cancel);

    public async Task<PersonEntry?> Entry(UnitOfWork work, string name, CancellationToken cancel) =>
        await work.Connection.Query(SelectEntries, ReadEntry, cancel, Sql.NullableText(name)).FirstOrDefaultAsync(cancel);

    /// <summary>Adds a person. False where there is one of this name; that one stays as they are.</summary>
    public async Task<bool> Add(UnitOfWork work, Person person, bool isDemo, CancellationToken cancel)
    {
        await using var insert = work.Connection.Command(InsertPerson, person.Name, person.Display, person.Role, person.Password, person.Mail, isDemo);
        return await insert.ExecuteNonQueryAsync(cancel) == 1;
    }

    /// <summary>From here to the end of the work, nobody else changes people.</summary>
    public async Task Lock(UnitOfWork work, CancellationToken cancel)
    {
        await using var hold = work.Connection.Command(LockPeople);
        await hold.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Whether someone else than this person is an administrator who may sign in.</summary>
    public async Task<bool> HasOtherAdministrator(UnitOfWork work, string name, CancellationToken cancel) =>
        await work.Connection.Query(CountAdministrators, r => r.GetInt64(0), cancel, name).FirstAsync(cancel) > 0;

    /// <summary>A changed role, or no longer being active, ends what is open of the person.</summary>
    public async Task Change(UnitOfWork work, PersonEntry person, CancellationToken cancel)
    {
        await using var update = work.Connection.Command(UpdatePerson, person.Name, person.Display, person.Role, person.Mail, person.Active);
        await update.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Ends what is open of the person, as any new password does.</summary>
    public async Task SetPassword(UnitOfWork work, string name, string hash, CancellationToken cancel)
    {
        await using var update = work.Connection.Command(UpdatePassword, name, hash);
        await update.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>Keeps a link's hash; earlier ones of the person no longer work. False where there is nobody of that name who may sign in.</summary>
    public async Task<bool> AddLink(UnitOfWork work, string name, byte[] tokenHash, TimeSpan lasts, CancellationToken cancel)
    {
        await using var end = work.Connection.Command(EndLinks, name);
        await end.ExecuteNonQueryAsync(cancel);
        await using var insert = work.Connection.Command(InsertLink, tokenHash, name, lasts);
        return await insert.ExecuteNonQueryAsync(cancel) == 1;
    }

    /// <summary>Whose link it is; null where it is none, was used, or is too old.</summary>
    public async Task<Person?> OfLink(byte[] tokenHash, CancellationToken cancel) =>
        await data.Query(SelectLink, Read, cancel, tokenHash).FirstOrDefaultAsync(cancel);

    /// <summary>Uses a link up. Null where that was not possible any more.</summary>
    public async Task<string?> TakeLink(UnitOfWork work, byte[] tokenHash, CancellationToken cancel)
    {
        await using var update = work.Connection.Command(UseLink, tokenHash);
        return (string?)await update.ExecuteScalarAsync(cancel);
    }

    private static Person Read(NpgsqlDataReader r) => new(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3)) { Mail = r.GetString(4) };

    private static PersonEntry ReadEntry(NpgsqlDataReader r) =>
        new(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetBoolean(4), r.GetBoolean(5), r.IsDBNull(6) ? null : r.GetDateTime(6));
}
