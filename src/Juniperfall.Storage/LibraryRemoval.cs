using System.Text.RegularExpressions;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Takes rows out of the library that nothing uses.</summary>
public sealed partial class LibraryRemoval(NpgsqlDataSource data)
{
    /// <summary>A query for what uses a row, of which $1 is its key and $2 a pattern that finds it in the content of revisions; and what takes it out.</summary>
    private sealed record Table(string UsedBy, params string[] Delete);

    // Of a code of a few letters a revision may hold a word that only looks like it; then it stays, which does no harm.
    private const string InRevisions = "select 'revision ' || r.number || ' of ' || p.code from revision r join product p on p.id = r.product_id where r.state <> 'withdrawn' and r.content::text ~ $2 order by p.code, r.number limit 1";

    private static readonly Dictionary<string, Table> Tables = new()
    {
        ["items"] = new($"""
            select coalesce(({InRevisions}),
                (select 'the structure “' || s.configuration_name || '”' from structure_item u join structure s on s.id = u.structure_id where u.item = $1 limit 1),
                (select 'item ' || i.number || ', which it can stand in for' from item i where i.number <> $1 and i.substitutes @> jsonb_build_array(jsonb_build_object('item', $1)) limit 1))
            """, "delete from item_store where item = $1", "delete from item where number = $1"),
        ["work-centres"] = new($"""
            select coalesce(({InRevisions}), (select 'standard operation ' || code from standard_operation where work_centre = $1 limit 1))
            """, "delete from work_centre where code = $1"),
        ["sites"] = new($"""
            select coalesce(({InRevisions}), (select 'work centre ' || code from work_centre where site = $1 limit 1), (select 'item ' || item from item_store where site = $1 limit 1),
                (select 'item ' || number from item where costs ? $1 limit 1), (select 'configuration “' || name || '”' from configuration where site = $1 limit 1))
            """, "delete from store where site = $1", "delete from site where code = $1"),
        ["standard-operations"] = new("select null::text", "delete from standard_operation where code = $1"),
        ["customer-classes"] = new("""
            select 'configuration “' || name || '”' from configuration where customer_class = $1 limit 1
            """, "delete from customer_class where code = $1"),
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
        var pattern = $"(^|[^[:alnum:]_-]){Special().Replace(key, @"\$0")}($|[^[:alnum:]_-])";
        await using (var used = of.UsedBy.Contains("$2", StringComparison.Ordinal) ? connection.Command(of.UsedBy, key, pattern) : of.UsedBy.Contains("$1", StringComparison.Ordinal) ? connection.Command(of.UsedBy, key) : connection.Command(of.UsedBy))
            if (await used.ExecuteScalarAsync(cancel) is string user)
                return user;
        foreach (var sql in of.Delete)
            await using (var delete = connection.Command(sql, key))
                await delete.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return null;
    }

    /// <summary>What has a meaning of its own in a regular expression of PostgreSQL.</summary>
    [GeneratedRegex(@"[\\^$.|?*+()\[\]{}]")]
    private static partial Regex Special();
}
