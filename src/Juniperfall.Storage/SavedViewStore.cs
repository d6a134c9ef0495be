using Npgsql;

namespace Juniperfall.Storage;

/// <summary>How a page was narrowed, under a name.</summary>
/// <param name="Place">Which list or page it is of.</param>
/// <param name="State">What the page makes of it; nothing else reads it.</param>
public sealed record SavedView(string Id, string Place, string Name, string State, string Person, bool IsForAll);

/// <summary>Narrowings of pages that people keep.</summary>
public sealed class SavedViewStore(NpgsqlDataSource data)
{
    private const string Select = """
        select id, place, name, state, person, is_for_all from saved_view where place = $1 and (person = $2 or is_for_all) order by lower(name), id limit $3
        """;

    /// <summary>What somebody else saved stays as it is.</summary>
    private const string Upsert = """
        insert into saved_view (id, place, name, state, person, is_for_all) values ($1, $2, $3, $4, $5, $6)
        on conflict (id) do update set name = excluded.name, state = excluded.state, is_for_all = excluded.is_for_all
        where saved_view.person = excluded.person and saved_view.place = excluded.place
        """;

    private const string Delete = """
        delete from saved_view where id = $1 and person = $2
        """;

    /// <summary>One's own and those for all, by name.</summary>
    public async Task<IReadOnlyList<SavedView>> Of(string place, string person, int most, CancellationToken cancel) =>
        await data.Query(Select, r => new SavedView(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetString(4), r.GetBoolean(5)), cancel,
            place, person, most).ToListAsync(cancel);

    /// <summary>False where there is one of this id that somebody else saved.</summary>
    public async Task<bool> Keep(SavedView view, CancellationToken cancel) =>
        await data.Execute(Upsert, cancel, view.Id, view.Place, view.Name, view.State, view.Person, view.IsForAll) == 1;

    /// <summary>False where there is none of one's own.</summary>
    public async Task<bool> Forget(string id, string person, CancellationToken cancel) => await data.Execute(Delete, cancel, id, person) == 1;
}
