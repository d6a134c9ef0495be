using System.Security.Claims;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Formats;
using Juniperfall.Formats.Library;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Storage;

namespace Juniperfall.Server.Library;

/// <param name="Cost">EUR per unit; empty for who may not see costs.</param>
public sealed record ItemView(string Number, string Description, string Unit, string Kind, bool Active, string Cost, string Weight)
{
    internal static ItemView Of(ItemFact item, ClaimsPrincipal user) =>
        new(item.Number, item.Description.In(), item.Unit, item.Kind, item.Active, user.Has(Right.SeeCosts) ? item.Cost : "", item.Weight);
}

public sealed record CodeView(string Code, string Label);

public sealed record StandardOperationView(string Code, string Label, string WorkCentre, string Setup, string Run, string Instructions);

public sealed record LibraryView(IReadOnlyList<CodeView> Sites, IReadOnlyList<CodeView> WorkCentres, IReadOnlyList<string> Units,
    IReadOnlyList<StandardOperationView> StandardOperations, IReadOnlyList<CodeView> CustomerClasses);

/// <summary>A table of the library as it is shown and edited: the first column says which one a row is about.</summary>
/// <param name="NumberColumns">Those of the columns whose cells are numbers.</param>
/// <param name="Found">How many rows are wanted; those beyond what is listed are on other pages.</param>
public sealed record LibraryTableView(IReadOnlyList<string> Columns, IReadOnlyList<string> NumberColumns, IReadOnlyList<IReadOnlyList<string>> Rows,
    long Found);

/// <summary>Cells that were typed or pasted: some columns of some rows, the key among them.</summary>
/// <param name="Before">What stood in them when they were seen; what was changed since is not overwritten. Null: it does not matter.</param>
public sealed record LibraryRows(IReadOnlyList<string> Columns, IReadOnlyList<IReadOnlyList<string>> Rows, IReadOnlyList<IReadOnlyList<string>>? Before = null);

/// <param name="Key">The number or code of the row that is taken out.</param>
public sealed record RemovedRow(string Key);

/// <param name="IsStale">Whether someone else has changed the cell since it was seen.</param>
public sealed record CellFaultView(int Row, string Column, string Text, string Sentence, bool IsStale);

/// <summary>What a table does to one cell, or would do.</summary>
/// <param name="Key">Which thing the row is about.</param>
/// <param name="IsNew">Whether the thing is not there yet.</param>
public sealed record CellChangeView(int Row, string Key, string Column, string Before, string After, bool IsNew);

/// <summary>A sheet of the workbook that was loaded.</summary>
public sealed record SheetNameView(string Name, bool Hidden);

/// <summary>How a file was read.</summary>
/// <param name="Sheets">The sheets of a workbook; empty for a text.</param>
/// <param name="Sheet">The sheet that was read; null for a text.</param>
/// <param name="Separator">What stands between the cells of a text: “,”, “;” or a tab; null for a workbook.</param>
/// <param name="DecimalComma">Whether the numbers of a text are read with a decimal comma.</param>
public sealed record ReadAsView(IReadOnlyList<SheetNameView> Sheets, string? Sheet, string? Separator, bool DecimalComma);

/// <summary>What a table does to the library, or would do.</summary>
/// <param name="Faults">The first of them; <paramref name="FaultCount"/> says how many there are.</param>
/// <param name="Stored">Whether it was done.</param>
/// <param name="Cells">The first cells that change or are filled; <paramref name="CellCount"/> says how many there are.</param>
/// <param name="ReadAs">How the file was read; null for what was typed.</param>
public sealed record LoadView(int Rows, int Added, int Changed, int Same, int FaultyRows, int FaultCount, IReadOnlyList<CellFaultView> Faults, bool Stored,
    IReadOnlyList<CellChangeView> Cells, int CellCount, ReadAsView? ReadAs = null);

/// <summary>The library: items, work centres, sites, standard operations and customer classes, as tables that are searched, edited, loaded and taken
/// out.</summary>
public static class LibraryEndpoints
{
    private const int MostListed = 200, MostFaults = 500, MostFilters = 40, LongestFilter = 200;

    public static void MapLibrary(this IEndpointRouteBuilder api)
    {
        api.MapGet("/items", async (string? search, ClaimsPrincipal user, LibraryStore library, CancellationToken cancel) =>
            (await library.Find(search ?? "", MostListed, cancel)).Select(i => ItemView.Of(i, user)).ToList()).Needs(Right.Read).WithName("items")
                .WithSummary("Items of the register that a search finds");
        api.MapGet("/library", async (LibraryStore library, CancellationToken cancel) =>
        {
            var facts = (await library.Load(cancel)).Facts;
            return new LibraryView([.. facts.Sites.Values.Select(s => new CodeView(s.Code, s.Label.Or(s.Code)))],
                [.. facts.WorkCentres.Values.Select(w => new CodeView(w.Code, w.Label.Or(w.Code)))], [.. Core.Quantities.Unit.Common],
                [.. facts.StandardOperations.Values
                    .Select(o => new StandardOperationView(o.Code, o.Label.Or(o.Code), o.WorkCentre, o.Setup, o.Run, o.Instructions.In()))],
                [.. facts.CustomerClasses.Values.Select(c => new CodeView(c.Code, c.Label.Or(c.Code)))]);
        }).Needs(Right.Read).WithName("library").WithSummary("Sites, work centres, units, standard operations and customer classes");
        var tables = api.MapGroup("/library/{table}").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        tables.MapGet("", Show).Needs(Right.Read).WithName("libraryTable").WithSummary("A table of the library, or what a search finds in it")
            .Produces<LibraryTableView>();
        tables.MapPost("/rows", Edit).Needs(Right.EditLibrary).WithName("editLibrary").WithSummary("Stores cells of a table of the library")
            .Produces<LoadView>();
        tables.MapPost("/removed", Remove).Needs(Right.EditLibrary).WithName("removeFromLibrary")
            .WithSummary("Takes a row that nothing uses out of the library").Produces(204);
        tables.MapPost("/load", LoadFile).Needs(Right.EditLibrary).TakesUpTo(RequestSizes.Table).WithName("loadLibrary")
            .WithSummary("Looks through a CSV or XLSX file, and loads it when told to").Produces<LoadView>();
        tables.MapGet("/file.{format}", TakeOut).Needs(Right.Read).WithName("unloadLibrary").WithSummary("A table of the library as a file")
            .Produces<Stream>(200, "text/csv", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet");
    }

    /// <summary>A page of a table.</summary>
    /// <param name="from">The row of those wanted with which the page begins.</param>
    /// <param name="sort">The column to sort by.</param>
    /// <param name="where">Filters of columns, each as “column:filter”.</param>
    private static async Task<IResult> Show(string table, string? search, int? from, string? sort, bool? descending, string[]? where, ClaimsPrincipal user,
        LibraryStore library, ArrangedLibrary arranged, CancellationToken cancel)
    {
        var filters = (where ?? []).Select(w => w.Split(':', 2)).ToList();
        if (filters.Count > MostFilters || filters.Exists(f => f.Length < 2 || f[1].Length > LongestFilter) || search?.Length > LongestFilter)
            return Problems.Wrong("/where", $"A filter is written “column:text”; there are at most {MostFilters} of at most {LongestFilter} characters.");
        if (from < 0)
            return Problems.Wrong("/from", "A page begins with row 0 or a later one.");
        var wanted = new Arrangement(search?.Trim() ?? "", sort, descending == true, [.. filters.Select(f => (f[0], f[1]))]);
        var live = await library.Load(cancel);
        var facts = live.Facts;
        return table switch
        {
            "items" => Page(LibraryTables.Items([.. facts.Sites.Keys]), facts.Items.Values),
            "work-centres" => Page(LibraryTables.WorkCentres, facts.WorkCentres.Values),
            "sites" => Page(LibraryTables.Sites, facts.Sites.Values),
            "customer-classes" => Page(LibraryTables.CustomerClasses, facts.CustomerClasses.Values),
            "standard-operations" => Page(LibraryTables.StandardOperations, facts.StandardOperations.Values),
            _ => Problems.Gone("table of the library"),
        };

        IResult Page<T>(LibraryTable<T> whole, IEnumerable<T> all) where T : class
        {
            var of = Seen(user, whole);
            if (wanted.UnknownColumn(of) is { } unknown)
                return Problems.Wrong("/where", $"There is no column “{unknown}”.");
            var page = arranged.Page(user.Has(Right.SeeCosts) ? table : $"{table} without costs", live.Version, of,
                all as IReadOnlyCollection<T> ?? [.. all], wanted, from ?? 0, MostListed);
            return TypedResults.Ok(new LibraryTableView(page.Columns, page.NumberColumns, page.Rows, page.Found));
        }
    }

    /// <summary>A table as somebody may see it.</summary>
    private static LibraryTable<T> Seen<T>(ClaimsPrincipal user, LibraryTable<T> table) where T : class =>
        user.Has(Right.SeeCosts) ? table : table.WithoutCosts();

    private static Table? Whole(string table, LibraryFacts facts, ClaimsPrincipal user) => table switch
    {
        "items" => Seen(user, LibraryTables.Items([.. facts.Sites.Keys])).Write([.. facts.Items.Values]),
        "work-centres" => Seen(user, LibraryTables.WorkCentres).Write([.. facts.WorkCentres.Values]),
        "sites" => Seen(user, LibraryTables.Sites).Write([.. facts.Sites.Values]),
        "customer-classes" => Seen(user, LibraryTables.CustomerClasses).Write([.. facts.CustomerClasses.Values]),
        "standard-operations" => Seen(user, LibraryTables.StandardOperations).Write([.. facts.StandardOperations.Values]),
        _ => null,
    };

    private static async Task<IResult> Edit(string table, LibraryRows request, LibraryRemoval removal, LibraryStore library, CancellationToken cancel) =>
        await Take(table, new([.. request.Columns.Select(c => c.Trim())], [.. request.Rows.Select(r => r.ToArray())], FirstRow: 1), "all", removal, library,
            cancel, request.Before?.Select(r => r.ToArray()).ToList());

    private static async Task<IResult> Remove(string table, RemovedRow request, LibraryRemoval removal, CancellationToken cancel)
    {
        if (!LibraryRemoval.Knows(table))
            return Problems.Gone("table of the library");
        return await removal.Remove(table, request.Key, cancel) is { } user
            ? Problems.Conflict($"“{request.Key}” is in use: {user}. "
                + $"{(table == "items" ? "Set it inactive instead; then nothing new can take it." : "Take it out there first.")}") : TypedResults.NoContent();
    }

    /// <summary>The library as it would be with some cells otherwise, or what is wrong with them; nothing is stored.</summary>
    internal static async Task<(LibraryFacts? Before, LibraryFacts? After, IResult? Problem)> Supposed(string table, LibraryRows request,
        LibraryRemoval removal, LibraryStore library, CancellationToken cancel)
    {
        var live = await library.Load(cancel);
        LibraryFacts? changed = null;
        var sheet = new Sheet([.. request.Columns.Select(c => c.Trim())], [.. request.Rows.Select(r => r.ToArray())], FirstRow: 1);
        var looked = await Take(table, sheet, "check", live, removal, library, null, cancel, c => changed = c);
        return looked is Microsoft.AspNetCore.Http.HttpResults.Ok<LoadView> { Value: { } view }
            ? view.Faults is [var fault, ..] ? (null, null, Problems.Wrong($"/rows/{fault.Row - 1}", fault.Sentence))
                : (live.Facts, live.Facts.With(changed!), null)
            : (null, null, looked);
    }

    /// <summary>A file: looked at only (check), taken as a whole or not at all (all), or as far as its rows are sound (good).</summary>
    /// <param name="sheet">The name of the sheet of a workbook; the first that can be seen where none is named.</param>
    /// <param name="separator">What stands between the cells of a text: comma, semicolon or tab; it is recognised where none is named.</param>
    /// <param name="decimalComma">Whether the numbers of a text have a decimal comma; it is recognised where that is not said.</param>
    private static async Task<IResult> LoadFile(string table, string mode, string? sheet, string? separator, bool? decimalComma, HttpRequest request,
        LibraryRemoval removal, LibraryStore library,
        CancellationToken cancel)
    {
        if (separator is not (null or "comma" or "semicolon" or "tab"))
            return Problems.Wrong("/separator", "Between cells stand a comma, a semicolon or a tab.");
        if (mode is not ("check" or "all" or "good"))
            return Problems.Wrong("/mode", "A file is checked, loaded as a whole (all), or as far as its rows are sound (good).");
        using var memory = new MemoryStream();
        await request.Body.CopyToAsync(memory, cancel);
        var (read, error) = SheetReader
            .Read(memory.ToArray(), new(sheet, separator switch { "comma" => ',', "semicolon" => ';', "tab" => '\t', _ => null }, decimalComma), cancel);
        return read is null ? Problems.Wrong("", error!) : await Take(table, read, mode, removal, library, cancel);
    }

    /// <param name="seen">What stood in the cells when they were seen.</param>
    private static async Task<IResult> Take(string table, Sheet sheet, string mode, LibraryRemoval removal, LibraryStore library, CancellationToken cancel,
        List<string[]>? seen = null)
    {
        while (true)
        {
            var live = await library.Load(cancel);
            if (await Take(table, sheet, mode, live, removal, library, seen, cancel) is { } done)
                return done;
            // Someone was quicker; what they wrote is looked at first.
        }
    }

    /// <summary>Null where the library changed while this was looked at.</summary>
    private static async Task<IResult?> Take(string table, Sheet sheet, string mode, Storage.Library live, LibraryRemoval removal, LibraryStore library,
        List<string[]>? seen, CancellationToken cancel, Action<LibraryFacts>? suppose = null)
    {
        var facts = live.Facts;
        switch (table)
        {
            case "items":
                return await Finish(LibraryTables.Items([.. facts.Sites.Keys]), facts.Items.GetValueOrDefault, ItemCheck(facts, sheet), i =>
                    i.Number, (f, items) => f with { Items = items });
            case "work-centres":
                return await Finish(LibraryTables.WorkCentres, facts.WorkCentres.GetValueOrDefault, w =>
                    w.Site.Length > 0 && !facts.Sites.ContainsKey(w.Site)
                    ? ("site", $"There is no site “{w.Site}”; there are {string.Join(", ", facts.Sites.Keys)}.") : null,
                    w => w.Code, (f, centres) => f with { WorkCentres = centres });
            case "sites":
                var kept = await KeptOnLines(facts, LibraryTables.Sites.Read(sheet, facts.Sites.GetValueOrDefault, null).Good, removal, cancel);
                return await Finish(LibraryTables.Sites, facts.Sites.GetValueOrDefault, s => SiteCheck(facts, s, kept), s => s.Code, (f, sites) =>
                    f with { Sites = sites });
            case "standard-operations":
                return await Finish(LibraryTables.StandardOperations, facts.StandardOperations.GetValueOrDefault, o =>
                    o.WorkCentre.Length > 0 && !facts.WorkCentres.ContainsKey(o.WorkCentre)
                    ? ("work centre", $"There is no work centre “{o.WorkCentre}”.") : null,
                    o => o.Code, (f, operations) => f with { StandardOperations = operations });
            case "customer-classes":
                return await Finish(LibraryTables.CustomerClasses, facts.CustomerClasses.GetValueOrDefault, null, c => c.Code, (f, classes) =>
                    f with { CustomerClasses = classes });
            default:
                return Problems.Gone("table of the library");
        }

        async Task<IResult?> Finish<T>(LibraryTable<T> of, Func<string, T?> existing, Func<T, (string, string)?>? check, Func<T, string> keyOf,
            Func<LibraryFacts, System.Collections.Immutable.ImmutableSortedDictionary<string, T>, LibraryFacts> with) where T : class
        {
            var change = of.Read(sheet, existing, check);
            if (seen is not null && of.Stale(sheet, seen, existing) is { Count: > 0 } stale)
                change = change with
                {
                    Faults = [.. stale, .. change.Faults],
                    FaultyRows = stale.Select(f => f.Row).Concat(change.Faults.Select(f => f.Row)).Distinct().Count()
                };
            // What stands in the head of a table, or nothing sound in it, is never half done.
            var stored = mode != "check" && (mode == "good" || change.Faults.Count == 0);
            var changed = with(LibraryFacts.Empty,
                System.Collections.Immutable.ImmutableSortedDictionary.CreateRange(change.Good.Select(g => KeyValuePair.Create(keyOf(g), g))));
            suppose?.Invoke(changed);
            if (stored && change.Good.Count > 0 && !await library.Merge(changed, cancel, live.Version))
                return null;
            return TypedResults.Ok(new LoadView(change.Rows, change.Added, change.Changed, change.Same, change.FaultyRows, change.Faults.Count,
                [.. change.Faults.Take(MostFaults).Select(f => new CellFaultView(f.Row, f.Column, f.Text, f.Sentence, f.IsStale))], stored,
                [.. change.Cells.Select(c => new CellChangeView(c.Row, c.Key, c.Column, c.Before, c.After, c.IsNew))], change.CellCount, ReadAs(sheet)));
        }
    }

    private static ReadAsView? ReadAs(Sheet sheet) => sheet.Sheets.Count == 0 && sheet.Read.Separator is null ? null
        : new([.. sheet.Sheets.Select(s => new SheetNameView(s.Name, s.Hidden))], sheet.Read.Sheet, sheet.Read.Separator?.ToString(),
            sheet.Read.DecimalComma == true);

    private static IEnumerable<string> TakenAway(LibraryFacts facts, SiteFact site) =>
        facts.Sites.GetValueOrDefault(site.Code)?.Stores.Where(s => !site.Stores.Contains(s, StringComparer.OrdinalIgnoreCase)) ?? [];

    /// <summary>Site and store that would be taken away → the revision of which a part line is kept there.</summary>
    private static async Task<Dictionary<(string, string), string>> KeptOnLines(LibraryFacts facts, IEnumerable<SiteFact> sites, LibraryRemoval removal,
        CancellationToken cancel)
    {
        var kept = new Dictionary<(string, string), string>();
        foreach (var (site, store) in sites.SelectMany(s => TakenAway(facts, s).Select(store => (s.Code, store))))
            if (await removal.KeptOnALine(site, store, cancel) is { } revision)
                kept[(site, store)] = revision;
        return kept;
    }

    /// <summary>A store that items are kept in, by the library or on a part line, cannot be taken away.</summary>
    private static (string, string)? SiteCheck(LibraryFacts facts, SiteFact site, Dictionary<(string, string), string> keptOnLines)
    {
        foreach (var store in TakenAway(facts, site))
        {
            var kept = facts.Items.Values.Where(i => store.Equals(i.Stores.GetValueOrDefault(site.Code), StringComparison.OrdinalIgnoreCase))
                .Select(i => i.Number).ToList();
            if (kept.Count > 0)
                return ("stores", $"{kept.Count} items are kept in the store “{store}”, {kept[0]} among them. Keep them elsewhere first, then take it away.");
            if (keptOnLines.TryGetValue((site.Code, store), out var revision))
                return ("stores", $"Part lines of {revision} are kept in the store “{store}”. Keep them elsewhere first, then take it away.");
        }
        return null;
    }

    /// <summary>Stores and substitutes have to be there, or come with the same table.</summary>
    private static Func<ItemFact, (string, string)?> ItemCheck(LibraryFacts facts, Sheet sheet)
    {
        var key = sheet.Columns.ToList().FindIndex(c => c.Equals("number", StringComparison.OrdinalIgnoreCase));
        var incoming = key < 0 ? [] : sheet.Rows.Where(r => r.Length > key).Select(r => r[key].Trim()).ToHashSet();
        return item =>
        {
            foreach (var (site, store) in item.Stores)
                if (facts.Sites.TryGetValue(site, out var at) && !at.Stores.Contains(store, StringComparer.OrdinalIgnoreCase))
                    return ($"store {site}", $"There is no store “{store}” at {site}; there are {string.Join(", ", at.Stores)}.");
            foreach (var substitute in item.Substitutes)
                if (!facts.Items.ContainsKey(substitute.Item) && !incoming.Contains(substitute.Item))
                    return ("substitutes", $"There is no item “{substitute.Item}”.");
                else if (substitute.Item == item.Number)
                    return ("substitutes", "An item cannot stand in for itself.");
            return null;
        };
    }

    private static async Task<IResult> TakeOut(string table, string format, ClaimsPrincipal user, LibraryStore library, CancellationToken cancel)
    {
        var facts = (await library.Load(cancel)).Facts;
        if (Whole(table, facts, user) is not { } whole)
            return Problems.Gone("table of the library");
        return format switch
        {
            "csv" => TypedResults.File(Tables.Csv(whole), "text/csv; charset=utf-8", $"{table}.csv"),
            "xlsx" => TypedResults.File(await Tables.Xlsx([new(table, whole)], cancel), "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
                $"{table}.xlsx"),
            _ => Problems.Gone("format"),
        };
    }
}
