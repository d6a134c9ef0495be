using System.Collections.Immutable;
using System.Globalization;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Npgsql;
using NpgsqlTypes;

namespace Juniperfall.Storage;

/// <summary>The library as it stood at a version; the version counts up with every change.</summary>
public sealed record Library(long Version, LibraryFacts Facts);

/// <summary>Items, sites, stores, work centres and standard operations.</summary>
public sealed class LibraryStore(NpgsqlDataSource data)
{
    private volatile Library? _last;

    private const string SelectVersion = """
        select version from library_version
        """;

    private const string ItemColumns = """
        i.number, i.description, i.unit, i.kind, i.active, i.cost::text, i.weight::text,
        coalesce((select jsonb_object_agg(s.site, s.store) from item_store s where s.item = i.number), '{}'),
        i.costs, i.conversions, i.order_multiple::text, i.lead_time_days::text, i.properties, i.substitutes
        """;

    private const string SelectItems = $"""
        select {ItemColumns} from item i
        """;

    private const string SelectItem = $"""
        select {ItemColumns} from item i where i.number = $1
        """;

    private const string SelectWorkCentres = """
        select code, label, site, labour_rate::text, machine_rate::text, crew, hours_per_day::text, overhead::text from work_centre
        """;

    private const string SelectSites = """
        select code, label, coalesce((select jsonb_agg(name order by position) from store where site = code), '[]'), material_overhead::text from site
        """;

    private const string SelectCustomerClasses = """
        select code, label, discount::text, discounts from customer_class
        """;

    private const string SelectStandardOperations = """
        select code, label, work_centre, setup, run, instructions from standard_operation
        """;

    // The trigram index answers this one, the index by number the next.
    private const string SearchItems = $"""
        select {ItemColumns} from item i
        where $1 = '' or i.words ilike '%' || $1 || '%'
        order by i.number limit $2
        """;

    private const string SearchItemsByStart = $"""
        select {ItemColumns} from item i where lower(i.number) like lower($1) || '%' order by i.number limit $2
        """;

    private const string IncomingItems = """
        create temp table incoming (number text, description jsonb, unit text, kind text, active boolean, cost numeric, weight numeric,
            costs jsonb, conversions jsonb, order_multiple numeric, lead_time_days numeric, properties jsonb, substitutes jsonb, stores jsonb) on commit drop
        """;

    private const string CopyItems = """
        copy incoming (number, description, unit, kind, active, cost, weight, costs, conversions, order_multiple, lead_time_days, properties, substitutes,
            stores) from stdin (format binary)
        """;

    private const string MergeItems = """
        insert into item (number, description, unit, kind, active, cost, weight, costs, conversions, order_multiple, lead_time_days, properties, substitutes)
        select number, description, unit, kind, active, cost, weight, costs, conversions, order_multiple, lead_time_days, properties, substitutes from incoming
        on conflict (number) do update set description = excluded.description, unit = excluded.unit, kind = excluded.kind, active = excluded.active,
            cost = excluded.cost, weight = excluded.weight,
            costs = excluded.costs, conversions = excluded.conversions, order_multiple = excluded.order_multiple, lead_time_days = excluded.lead_time_days,
            properties = excluded.properties, substitutes = excluded.substitutes
        """;

    private const string ClearStores = """
        delete from item_store s using incoming i where s.item = i.number
        """;

    private const string MergeStores = """
        insert into item_store (item, site, store) select number, key, value from incoming, jsonb_each_text(stores)
        """;

    private const string MergeSite = """
        insert into site (code, label, material_overhead) values ($1, $2, $3)
        on conflict (code) do update set label = excluded.label, material_overhead = excluded.material_overhead
        """;

    private const string ClearStoresOfSite = """
        delete from store where site = $1
        """;

    private const string AddStore = """
        insert into store (site, name, position) values ($1, $2, $3) on conflict do nothing
        """;

    private const string MergeWorkCentre = """
        insert into work_centre (code, label, site, labour_rate, machine_rate, crew, hours_per_day, overhead) values ($1, $2, $3, $4, $5, $6, $7, $8)
        on conflict (code) do update set label = excluded.label, site = excluded.site, labour_rate = excluded.labour_rate,
            machine_rate = excluded.machine_rate, crew = excluded.crew,
            hours_per_day = excluded.hours_per_day, overhead = excluded.overhead
        """;

    private const string MergeStandardOperation = """
        insert into standard_operation (code, label, work_centre, setup, run, instructions) values ($1, $2, $3, $4, $5, $6)
        on conflict (code) do update set label = excluded.label, work_centre = excluded.work_centre, setup = excluded.setup, run = excluded.run,
            instructions = excluded.instructions
        """;

    private const string MergeCustomerClass = """
        insert into customer_class (code, label, discount, discounts) values ($1, $2, $3, $4)
        on conflict (code) do update set label = excluded.label, discount = excluded.discount, discounts = excluded.discounts
        """;

    private const string RenewStatistics = """
        analyze item
        """;

    private const string UsedInStructures = """
        select s.id, s.configuration_name, p.code, r.number, s.made_at
        from structure_item u join structure s on s.id = u.structure_id join revision r on r.id = s.revision_id join product p on p.id = r.product_id
        where u.item = $1 order by s.made_at desc limit $2
        """;

    // Only revisions that are worked on or in use: what was withdrawn no longer counts.
    private const string RevisionsNaming = """
        select r.id from revision r where r.state <> 'withdrawn' and (r.content::text like '%' || $1 || '%'
            or r.content::text ~ '"drawnFrom": "[^"]') order by r.product_id, r.number desc limit $2
        """;

    /// <summary>Everything, read again only after it has changed, and once for all who ask meanwhile.</summary>
    public async Task<Library> Load(CancellationToken cancel)
    {
        var version = await data.Query(SelectVersion, r => r.GetInt64(0), cancel).FirstAsync(cancel);
        while (true)
        {
            if (_last is { } last && last.Version >= version)
                return last;
            Task<Library> reading;
            lock (_lock)
                reading = _reading is { IsCompleted: false } underWay ? underWay : _reading = Read();
            // What was begun before may have seen an earlier state.
            if (await reading.WaitAsync(cancel) is var read && read.Version >= version)
                return read;
        }
    }

    private readonly object _lock = new();
    private Task<Library>? _reading;

    private async Task<Library> Read()
    {
        var cancel = CancellationToken.None;
        // All tables as they stood at one moment, whatever is loaded meanwhile.
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var snapshot = await connection.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead, cancel);
        var version = await connection.Query(SelectVersion, r => r.GetInt64(0), cancel).FirstAsync(cancel);
        var items = await connection.Query(SelectItems, ReadItem, cancel).ToListAsync(cancel);
        var workCentres = await connection.Query(SelectWorkCentres, r => new WorkCentreFact
        {
            Code = r.GetString(0),
            Label = r.ReadJson<LocalText>(1),
            Site = r.GetString(2),
            LabourRate = r.GetString(3),
            MachineRate = r.GetString(4),
            Crew = r.GetInt32(5),
            HoursPerDay = r.GetString(6),
            Overhead = r.GetString(7),
        }, cancel).ToListAsync(cancel);
        var sites = await connection.Query(SelectSites, r =>
            new SiteFact
            {
                Code = r.GetString(0),
                Label = r.ReadJson<LocalText>(1),
                Stores = r.ReadJson<ImmutableArray<string>>(2),
                MaterialOverhead = r.GetString(3)
            }, cancel).ToListAsync(cancel);
        var operations = await connection.Query(SelectStandardOperations, r => new StandardOperationFact
        {
            Code = r.GetString(0),
            Label = r.ReadJson<LocalText>(1),
            WorkCentre = r.GetString(2),
            Setup = r.GetString(3),
            Run = r.GetString(4),
            Instructions = r.ReadJson<LocalText>(5),
        }, cancel).ToListAsync(cancel);
        var customers = await connection.Query(SelectCustomerClasses, r => new CustomerClassFact
        {
            Code = r.GetString(0),
            Label = r.ReadJson<LocalText>(1),
            Discount = r.GetString(2),
            Discounts = r.ReadJson<ImmutableSortedDictionary<string, string>>(3),
        }, cancel).ToListAsync(cancel);
        return _last = new(version, new()
        {
            Items = items.ToImmutableSortedDictionary(i => i.Number, i => i),
            WorkCentres = workCentres.ToImmutableSortedDictionary(w => w.Code, w => w),
            Sites = sites.ToImmutableSortedDictionary(s => s.Code, s => s),
            StandardOperations = operations.ToImmutableSortedDictionary(o => o.Code, o => o),
            CustomerClasses = customers.ToImmutableSortedDictionary(c => c.Code, c => c),
        });
    }

    /// <summary>Items whose number or description holds the text: first those whose number begins with it.</summary>
    public async Task<IReadOnlyList<ItemFact>> Find(string search, int most, CancellationToken cancel)
    {
        var (like, items) = (Like.Escape(search), new List<ItemFact>());
        if (search.Length > 0)
            items.AddRange(await data.Query(SearchItemsByStart, ReadItem, cancel, like, most).ToListAsync(cancel));
        if (items.Count < most)
        {
            var known = items.Select(i => i.Number).ToHashSet();
            items.AddRange((await data.Query(SearchItems, ReadItem, cancel, like, most).ToListAsync(cancel)).Where(i => !known.Contains(i.Number))
                .Take(most - items.Count));
        }
        return items;
    }

    public async Task<ItemFact?> Item(string number, CancellationToken cancel) =>
        await data.Query(SelectItem, ReadItem, cancel, number).FirstOrDefaultAsync(cancel);

    /// <summary>Generated structures that hold an item, the latest first.</summary>
    public async Task<IReadOnlyList<(string Id, string Name, string Product, int Revision, DateTime MadeAt)>> StructuresWith(string item, int most,
        CancellationToken cancel) =>
        await data.Query(UsedInStructures, r => (r.GetString(0), r.GetString(1), r.GetString(2), r.GetInt32(3), r.GetDateTime(4)), cancel, item, most)
            .ToListAsync(cancel);

    /// <summary>Revisions in whose content a text stands somewhere, or that draw from the register what is not written in them, to be looked through.</summary>
    public async Task<IReadOnlyList<long>> RevisionsWith(string text, int most, CancellationToken cancel) =>
        await data.Query(RevisionsNaming, r => r.GetInt64(0), cancel, Like.Escape(text), most).ToListAsync(cancel);

    /// <summary>Adds what is not there yet; what is there stays as it is.</summary>
    public async Task AddMissing(UnitOfWork work, LibraryFacts facts, CancellationToken cancel)
    {
        var known = (await Load(cancel)).Facts;
        await Merge(work, new()
        {
            Items = facts.Items.RemoveRange(known.Items.Keys),
            WorkCentres = facts.WorkCentres.RemoveRange(known.WorkCentres.Keys),
            Sites = facts.Sites.RemoveRange(known.Sites.Keys),
            StandardOperations = facts.StandardOperations.RemoveRange(known.StandardOperations.Keys),
            CustomerClasses = facts.CustomerClasses.RemoveRange(known.CustomerClasses.Keys),
        }, null, cancel);
    }

    private const string LockVersion = """
        select version from library_version for update
        """;

    /// <summary>Adds what is new and replaces what is there, all in one go.</summary>
    /// <param name="expected">The version that it was worked out from; null: whatever it is by now.</param>
    /// <returns>False where the library is no longer at that version; then nothing was done.</returns>
    public async Task<bool> Merge(LibraryFacts facts, CancellationToken cancel, long? expected = null)
    {
        await using (var work = await UnitOfWork.Begin(data, cancel))
        {
            if (!await Merge(work, facts, expected, cancel))
                return false;
            await work.Commit(cancel);
        }
        // Without new statistics a search in what was just loaded is planned for the table as it was before.
        if (facts.Items.Count > ManyItems)
            await data.Execute(RenewStatistics, cancel);
        return true;
    }

    private static async Task<bool> Merge(UnitOfWork work, LibraryFacts facts, long? expected, CancellationToken cancel)
    {
        await using (var version = work.Connection.Command(LockVersion))
            if ((long)(await version.ExecuteScalarAsync(cancel))! is var now && expected is { } wanted && now != wanted)
                return false;
        await using var batch = new NpgsqlBatch(work.Connection);
        void Add(string sql, params object?[] values)
        {
            var command = new NpgsqlBatchCommand(sql);
            foreach (var value in values)
                command.Parameters.Add(value as NpgsqlParameter ?? new NpgsqlParameter { Value = value });
            batch.BatchCommands.Add(command);
        }

        foreach (var site in facts.Sites.Values)
        {
            Add(MergeSite, site.Code, Sql.Json(site.Label), Number(site.MaterialOverhead));
            Add(ClearStoresOfSite, site.Code);
            foreach (var (name, i) in site.Stores.Select((s, i) => (s, i)))
                Add(AddStore, site.Code, name, i);
        }
        foreach (var w in facts.WorkCentres.Values)
            Add(MergeWorkCentre, w.Code, Sql.Json(w.Label), w.Site, Number(w.LabourRate), Number(w.MachineRate), w.Crew, Number(w.HoursPerDay),
                Number(w.Overhead));
        foreach (var o in facts.StandardOperations.Values)
            Add(MergeStandardOperation, o.Code, Sql.Json(o.Label), o.WorkCentre, o.Setup, o.Run, Sql.Json(o.Instructions));
        foreach (var c in facts.CustomerClasses.Values)
            Add(MergeCustomerClass, c.Code, Sql.Json(c.Label), Number(c.Discount), Sql.Json(c.Discounts));
        if (batch.BatchCommands.Count > 0)
            await batch.ExecuteNonQueryAsync(cancel);
        if (facts.Items.Count > 0)
            await MergeAll(work.Connection, facts.Items.Values, cancel);
        return true;
    }

    private const int ManyItems = 1_000;

    private static async Task MergeAll(NpgsqlConnection connection, IEnumerable<ItemFact> items, CancellationToken cancel)
    {
        await using (var incoming = connection.Command(IncomingItems))
            await incoming.ExecuteNonQueryAsync(cancel);
        await using (var copy = await connection.BeginBinaryImportAsync(CopyItems, cancel))
        {
            foreach (var item in items)
            {
                await copy.StartRowAsync(cancel);
                await copy.WriteAsync(item.Number, NpgsqlDbType.Text, cancel);
                await copy.WriteAsync(Sql.Text(item.Description), NpgsqlDbType.Jsonb, cancel);
                await copy.WriteAsync(item.Unit, NpgsqlDbType.Text, cancel);
                await copy.WriteAsync(item.Kind, NpgsqlDbType.Text, cancel);
                await copy.WriteAsync(item.Active, NpgsqlDbType.Boolean, cancel);
                await copy.WriteAsync(Number(item.Cost), NpgsqlDbType.Numeric, cancel);
                await copy.WriteAsync(Number(item.Weight), NpgsqlDbType.Numeric, cancel);
                await copy.WriteAsync(Sql.Text(item.Costs), NpgsqlDbType.Jsonb, cancel);
                await copy.WriteAsync(Sql.Text(item.Conversions), NpgsqlDbType.Jsonb, cancel);
                await WriteOptional(item.OrderMultiple);
                await WriteOptional(item.LeadTimeDays);
                await copy.WriteAsync(Sql.Text(item.Properties), NpgsqlDbType.Jsonb, cancel);
                await copy.WriteAsync(Sql.Text(item.Substitutes), NpgsqlDbType.Jsonb, cancel);
                await copy.WriteAsync(Sql.Text(item.Stores), NpgsqlDbType.Jsonb, cancel);
            }
            await copy.CompleteAsync(cancel);

            Task WriteOptional(string number) => number.Length == 0
                ? copy.WriteNullAsync(cancel) : copy.WriteAsync(Number(number), NpgsqlDbType.Numeric, cancel);
        }
        foreach (var sql in new[] { MergeItems, ClearStores, MergeStores })
            await using (var merge = connection.Command(sql))
                await merge.ExecuteNonQueryAsync(cancel);
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
        Costs = r.ReadJson<ImmutableSortedDictionary<string, string>>(8),
        Conversions = r.ReadJson<ImmutableSortedDictionary<string, string>>(9),
        OrderMultiple = r.TextOrNull(10) ?? "",
        LeadTimeDays = r.TextOrNull(11) ?? "",
        Properties = r.ReadJson<ImmutableSortedDictionary<string, string>>(12),
        Substitutes = r.ReadJson<ImmutableArray<ItemSubstitute>>(13),
    };
}
