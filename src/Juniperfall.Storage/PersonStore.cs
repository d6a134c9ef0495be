using System.Xml.Linq;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Someone who can sign in.</summary>
/// <param name="Name">The sign-in name, in lower case.</param>
/// <param name="Password">Its hash.</param>
public sealed record Person(string Name, string Display, string Role, string Password);

/// <summary>People, and the keys that protect their cookies.</summary>
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

    public async Task<Person?> Find(string name, CancellationToken cancel) =>
        name.Length > LongestName || name.Contains('\0') ? null : await data.Query(SelectPerson, Read, cancel, name.Trim().ToLowerInvariant()).FirstOrDefaultAsync(cancel);

    /// <summary>Nobody is called by more than so many characters.</summary>
    public const int LongestName = 60;

    /// <summary>Everyone who can sign in, without their passwords.</summary>
    public async Task<IReadOnlyList<Person>> All(CancellationToken cancel) => await data.Query(SelectPeople, Read, cancel).ToListAsync(cancel);

    /// <summary>Adds a person; one with this name stays as they are.</summary>
    public Task Add(Person person, CancellationToken cancel) => data.Execute(InsertPerson, cancel, person.Name, person.Display, person.Role, person.Password);

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
