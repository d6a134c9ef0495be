using System.Xml.Linq;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>The keys that protect cookies, shared by every instance of the server; they arrive encrypted.</summary>
public sealed class ProtectionKeyStore(NpgsqlDataSource data)
{
    private const string SelectKeys = """
        select xml from protection_key order by name
        """;

    private const string InsertKey = """
        insert into protection_key (name, xml) values ($1, $2) on conflict do nothing
        """;

    // The framework asks for keys where it cannot wait.
    public IReadOnlyList<XElement> All()
    {
        using var connection = data.OpenConnection();
        using var select = connection.Command(SelectKeys);
        using var reader = select.ExecuteReader();
        var keys = new List<XElement>();
        while (reader.Read())
            keys.Add(XElement.Parse(reader.GetString(0)));
        return keys;
    }

    public void Add(XElement key, string name)
    {
        using var connection = data.OpenConnection();
        using var insert = connection.Command(InsertKey, name, key.ToString(SaveOptions.DisableFormatting));
        insert.ExecuteNonQuery();
    }
}
