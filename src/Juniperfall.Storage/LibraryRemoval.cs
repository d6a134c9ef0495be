using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Takes rows out of the library that nothing uses, and says what uses one.</summary>
public sealed class LibraryRemoval(NpgsqlDataSource data)
{
    /// <summary>A query for what uses a row, of which $1 is its key; what takes it out; and whether a model uses it.</summary>
    private sealed record Table(string UsedBy, Func<ModelDocument, string, bool>? InModel, params string[] Delete);

    /// <summary>Revisions in whose content a text stands somewhere, which then are looked through.</summary>
    private const string RevisionsWith = """
        select 'revision ' || r.number || ' of ' || p.code, r.content from revision r join product p on p.id = r.product_id
        where r.state <> 'withdrawn' and r.content::text ilike '%' || $1 || '%' order by p.code, r.number
        """;

    public static bool Knows(string table) => Tables.ContainsKey(table);

    private static readonly Dictionary<string, Table> Tables = new()
    {
        ["items"] = new("""
            select coalesce((select 'the structure “' || s.configuration_name || '”' from structure_item u
                join structure s on s.id = u.structure_id where u.item = $1 limit 1),
                (select 'item ' || i.number || ', which it can stand in for' from item i
                where i.number <> $1 and i.substitutes @> jsonb_build_array(jsonb_build_object('item', $1)) limit 1))
            """, LibraryUses.OfItem, "delete from item_store where item = $1", "delete from item where number = $1"),
        ["work-centres"] = new("""
            select 'standard operation ' || code from standard_operation where work_centre = $1 limit 1
            """, LibraryUses.OfWorkCentre, "delete from work_centre where code = $1"),
        ["sites"] = new("""
            select coalesce((select 'work centre ' || code from work_centre where site = $1 limit 1),
                (select 'item ' || item from item_store where site = $1 limit 1),
                (select 'item ' || number from item where costs ? $1 limit 1),
                (select 'configuration “' || name || '”' from configuration where site = $1 limit 1))
            """, LibraryUses.OfSite, "delete from store where site = $1", "delete from site where code = $1"),
        ["standard-operations"] = new("select null::text", null, "delete from standard_operation where code = $1"),
        ["customer-classes"] = new("""
            select 'configuration “' || name || '”' from configuration where customer_class = $1 limit 1
            """, null, "delete from customer_class where code = $1"),
    };

    private const string LockLibrary = """
        select version from library_version for update
        """;

    /// <summary>Takes a row out.</summary>
    /// <returns>What uses it, where something does: then it stays. Null where it is gone.</returns>
    /// <exception cref="ArgumentException">There is no such table.</exception>
    public async Task<string?> Remove(string table, string key, CancellationToken cancel)
    {
        var of = Tables.GetValueOrDefault(table) ?? throw new ArgumentException("There is no such table.", nameof(table));
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using (var version = connection.Command(LockLibrary))
            await version.ExecuteScalarAsync(cancel);
        if (of.InModel is { } isUsed && await RevisionWhere(connection, key, document => isUsed(document, key), cancel) is { } revision)
            return revision;
        await using (var used = of.UsedBy.Contains("$1", StringComparison.Ordinal) ? connection.Command(of.UsedBy, key) : connection.Command(of.UsedBy))
            if (await used.ExecuteScalarAsync(cancel) is string user)
                return user;
        foreach (var sql in of.Delete)
            await using (var delete = connection.Command(sql, key))
                await delete.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return null;
    }

    /// <summary>The first revision of which a part line is kept in a store of a site; null where there is none.</summary>
    public async Task<string?> KeptOnALine(string site, string store, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        return await RevisionWhere(connection, store, document => LibraryUses.OfStore(document, site, store), cancel);
    }

    private static async Task<string?> RevisionWhere(NpgsqlConnection connection, string text, Func<ModelDocument, bool> isUsed, CancellationToken cancel)
    {
        await using var revisions = connection.Command(RevisionsWith, Like.Escape(text));
        await using var reader = await revisions.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            if (isUsed(reader.ReadJson<ModelDocument>(1)))
                return reader.GetString(0);
        return null;
    }
}
