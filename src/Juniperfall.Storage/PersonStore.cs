using System.Xml.Linq;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Someone who can sign in.</summary>
/// <param name="Name">The sign-in name, in lower case.</param>
/// <param name="Password">Its hash.</param>
public sealed record Person(string Name, string Display, string Role, string Password);

/// <summary>People, their attempts to sign in, and the keys that protect their cookies.</summary>
public sealed class PersonStore(NpgsqlDataSource data)
{
    private const string SelectPerson = """
        select name, display, role, password from person where name = $1 and active
        """;

    private const string InsertPerson = """
        insert into person (name, display, role, password) values ($1, $2, $3, $4) on conflict (name) do nothing
        """;

    private const string SelectPeople = """
        select name, display, role, '' from person where active order by display
        """;

    private const string InsertAttempt = """
        insert into sign_in_attempt (name, address) values ($1, $2)
        """;

    private const string CountAttempts = """
        select count(*) filter (where name = $1), count(*) filter (where address = $2)
        from sign_in_attempt where (name = $1 or address = $2) and at > now() - $3
        """;

    private const string DeleteAttempts = """
        delete from sign_in_attempt where name = $1 or at < now() - interval '1 day'
        """;

    public async Task<Person?> Find(string name, CancellationToken cancel) =>
        await data.Query(SelectPerson, Read, cancel, name.Trim().ToLowerInvariant()).FirstOrDefaultAsync(cancel);

    /// <summary>Everyone who can sign in, without their passwords.</summary>
    public async Task<IReadOnlyList<Person>> All(CancellationToken cancel) => await data.Query(SelectPeople, Read, cancel).ToListAsync(cancel);

    /// <summary>Adds a person; one with this name stays as they are.</summary>
    public Task Add(Person person, CancellationToken cancel) => data.Execute(InsertPerson, cancel, person.Name, person.Display, person.Role, person.Password);

    /// <summary>How often a name, and an address, failed to sign in within the window.</summary>
    public async Task<(long ByName, long ByAddress)> FailedAttempts(string name, string address, TimeSpan window, CancellationToken cancel) =>
        await data.Query(CountAttempts, r => (r.GetInt64(0), r.GetInt64(1)), cancel, name.Trim().ToLowerInvariant(), address, window).FirstAsync(cancel);

    public Task AddFailedAttempt(string name, string address, CancellationToken cancel) =>
        data.Execute(InsertAttempt, cancel, name.Trim().ToLowerInvariant(), address);

    /// <summary>Forgets a name's failed attempts after it has signed in, and everyone's old ones.</summary>
    public Task ForgetAttempts(string name, CancellationToken cancel) => data.Execute(DeleteAttempts, cancel, name.Trim().ToLowerInvariant());

    public IReadOnlyList<XElement> ProtectionKeys()
    {
        using var connection = data.OpenConnection();
        using var select = connection.Command("select xml from protection_key order by name");
        using var reader = select.ExecuteReader();
        var keys = new List<XElement>();
        while (reader.Read())
            keys.Add(XElement.Parse(reader.GetString(0)));
        return keys;
    }

    public void AddProtectionKey(XElement key, string name)
    {
        using var connection = data.OpenConnection();
        using var insert = connection.Command("insert into protection_key (name, xml) values ($1, $2) on conflict do nothing", name, key.ToString(SaveOptions.DisableFormatting));
        insert.ExecuteNonQuery();
    }

    private static Person Read(NpgsqlDataReader r) => new(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3));
}
