using System.Collections.Immutable;
using System.Globalization;
using Juniperfall.Core.Models;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>The library as it stood at a version; the version counts up with every change.</summary>
public sealed record Library(long Version, LibraryFacts Facts);

/// <summary>Items, sites, stores and work centres.</summary>
public sealed class LibraryStore(NpgsqlDataSource data)
{
    private volatile Library? _last;

    private const string SelectVersion = """
        select version from library_version
        """;

    private const string SelectItems = """
        select i.number, i.description, i.unit, i.kind, i.active, i.cost::text, i.weight::text,
               coalesce((select jsonb_object_agg(s.site, s.store) from item_store s where s.item = i.number), '{}')
        from item i
        """;

    private const string SelectWorkCentres = """
        select code, label, site, labour_rate::text, machine_rate::text, crew, hours_per_day::text from work_centre
        """;

    private const string SelectSites = """
        select code, label, coalesce((select jsonb_agg(name order by position) from store where site = code), '[]') from site
        """;

    private const string SearchItems = """
        select number, description, unit, kind, active, cost::text, weight::text, '{}'::jsonb from item
        where $1 = '' or number ilike '%' || $1 || '%' or exists (select 1 from jsonb_each_text(description) d where d.value ilike '%' || $1 || '%')
        order by (number ilike $1 || '%') desc, number limit $2
        """;

    private const string UpsertItem = """
        insert into item (number, description, unit, kind, active, cost, weight) values ($1, $2, $3, $4, $5, $6, $7)
        on conflict (number) do nothing
        """;

    private const string UpsertItemStore = """
        insert into item_store (item, site, store) values ($1, $2, $3) on conflict do nothing
        """;

    private const string UpsertSite = """
        insert into site (code, label) values ($1, $2) on conflict (code) do nothing
        """;

    private const string UpsertStore = """
        insert into store (site, name, position) values ($1, $2, $3) on conflict do nothing
        """;

    private const string UpsertWorkCentre = """
        insert into work_centre (code, label, site, labour_rate, machine_rate, crew, hours_per_day) values ($1, $2, $3, $4, $5, $6, $7)
        on conflict (code) do nothing
        """;

    /// <summary>Everything, read again only after it has changed.</summary>
    public async Task<Library> Load(CancellationToken cancel)
    {
        var version = await data.Query(SelectVersion, r => r.GetInt64(0), cancel).FirstAsync(cancel);
        if (_last is { } last && last.Version == version)
            return last;
        var items = await data.Query(SelectItems, ReadItem, cancel).ToListAsync(cancel);
        var workCentres = await data.Query(SelectWorkCentres, r => new WorkCentreFact
        {
            Code = r.GetString(0),
            Label = r.ReadJson<LocalText>(1),
            Site = r.GetString(2),
            LabourRate = r.GetString(3),
            MachineRate = r.GetString(4),
            Crew = r.GetInt32(5),
            HoursPerDay = r.GetString(6),
        }, cancel).ToListAsync(cancel);
        var sites = await data.Query(SelectSites, r => new SiteFact { Code = r.GetString(0), Label = r.ReadJson<LocalText>(1), Stores = r.ReadJson<ImmutableArray<string>>(2) }, cancel).ToListAsync(cancel);
        return _last = new(version, new()
        {
            Items = items.ToImmutableSortedDictionary(i => i.Number, i => i),
            WorkCentres = workCentres.ToImmutableSortedDictionary(w => w.Code, w => w),
            Sites = sites.ToImmutableSortedDictionary(s => s.Code, s => s),
        });
    }

    /// <summary>Items whose number or description holds the text, those that begin with it first.</summary>
    public async Task<IReadOnlyList<ItemFact>> Find(string search, int most, CancellationToken cancel) =>
        await data.Query(SearchItems, ReadItem, cancel, Like.Escape(search), most).ToListAsync(cancel);

    /// <summary>Adds what is not there yet; what is there stays as it is.</summary>
    public async Task AddMissing(LibraryFacts facts, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var batch = new NpgsqlBatch(connection, transaction);
        void Add(string sql, params object?[] values)
        {
            var command = new NpgsqlBatchCommand(sql);
            foreach (var value in values)
                command.Parameters.Add(value as NpgsqlParameter ?? new NpgsqlParameter { Value = value });
            batch.BatchCommands.Add(command);
        }

        foreach (var site in facts.Sites.Values)
        {
            Add(UpsertSite, site.Code, Sql.Json(site.Label));
            foreach (var (name, i) in site.Stores.Select((s, i) => (s, i)))
                Add(UpsertStore, site.Code, name, i);
        }
        foreach (var w in facts.WorkCentres.Values)
            Add(UpsertWorkCentre, w.Code, Sql.Json(w.Label), w.Site, Number(w.LabourRate), Number(w.MachineRate), w.Crew, Number(w.HoursPerDay));
        foreach (var item in facts.Items.Values)
        {
            Add(UpsertItem, item.Number, Sql.Json(item.Description), item.Unit, item.Kind, item.Active, Number(item.Cost), Number(item.Weight));
            foreach (var (site, store) in item.Stores)
                Add(UpsertItemStore, item.Number, site, store);
        }
        if (batch.BatchCommands.Count > 0)
            await batch.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    private static decimal Number(string text) => decimal.Parse(text, NumberStyles.Number, CultureInfo.InvariantCulture);

    private static ItemFact ReadItem(NpgsqlDataReader r) => new()
    {
        Number = r.GetString(0),
        Description = r.ReadJson<LocalText>(1),
        Unit = r.GetString(2),
        Kind = r.GetString(3),
        Active = r.GetBoolean(4),
        Cost = r.GetString(5),
        Weight = r.GetString(6),
        Stores = r.ReadJson<ImmutableSortedDictionary<string, string>>(7),
    };
}
