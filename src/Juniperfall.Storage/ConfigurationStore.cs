using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>What completion filled in, which nobody picked, and for what.</summary>
public sealed record FilledIn(Pick Pick, string For);

/// <summary>A pick as it is kept: numbers exact in base units, choices by the lasting id of their value.</summary>
/// <param name="FilledIn">Where completion filled it in: for what.</param>
public sealed record StoredPick(string Path, string Kind, string Text,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)] string? FilledIn = null)
{
    /// <summary>The picks of a person and what was filled in beside them, as they are kept.</summary>
    internal static IEnumerable<StoredPick> All(ImmutableArray<Pick> picks, ImmutableArray<FilledIn> fillIns) =>
        picks.Select(Of).Concat(fillIns.Select(f => Of(f.Pick) with { FilledIn = f.For }));

    public static StoredPick Of(Pick pick) => new(pick.Path, pick.Value.Kind.ToString(), pick.Value.Kind switch
    {
        ValueKind.Nothing => "",
        ValueKind.YesNo => pick.Value.IsTrue ? "yes" : "no",
        ValueKind.Number => pick.Value.Number.ToString(),
        _ => pick.Value.Text ?? "",
    });

    public Pick ToPick() => new(Path, Kind switch
    {
        nameof(ValueKind.YesNo) => Value.Of(Text == "yes"),
        nameof(ValueKind.Number) => Value.Of(Exact.Parse(Text)),
        nameof(ValueKind.Choice) => Value.Choice(Text),
        nameof(ValueKind.Text) => Value.OfText(Text),
        _ => Value.Nothing,
    });
}

/// <summary>A saved set of picks on one revision.</summary>
/// <param name="CustomerClass">The code of the customer class that it is priced for; null for list price.</param>
/// <param name="ChangedBy">Who changed it last.</param>
/// <param name="Version">Counts up with every change, so that nobody overwrites unseen.</param>
public sealed record StoredConfiguration(string Id, string Name, long RevisionId, ImmutableArray<Pick> Picks, Effectivity At, string? CustomerClass,
    string Author, string ChangedBy, int Version, DateTime ChangedAt)
{
    /// <summary>What completion filled in beside the picks.</summary>
    public ImmutableArray<FilledIn> FillIns { get; init; } = [];
}

/// <summary>A configuration as lists show it.</summary>
/// <param name="StructureId">The latest structure generated from it.</param>
/// <param name="Answers">What was picked as people read it, one in a line.</param>
public sealed record ConfigurationEntry(string Id, string Name, long RevisionId, string ProductCode, LocalText ProductLabel, int RevisionNumber,
    string RevisionState, string Author, string ChangedBy, DateTime ChangedAt, string? StructureId, string Answers);

/// <summary>What is generated from a configuration.</summary>
/// <param name="Content">The structure file, as JSON text.</param>
/// <param name="Items">All items of it, for where-used.</param>
/// <param name="Quantity">How many it is for.</param>
/// <param name="ConcessionId">The concession that it is generated under; null for none.</param>
public sealed record NewStructure(string Id, string Content, IReadOnlyCollection<string> Items, long Quantity, string? ConcessionId = null);

/// <summary>What was generated from a configuration, as it was then.</summary>
/// <param name="Content">JSON text of the whole result.</param>
/// <param name="RevisionState">What the revision is by now.</param>
/// <param name="Content">The structure file.</param>
public sealed record StoredStructure(string Id, string ConfigurationId, string ConfigurationName, string ProductId, long RevisionId, string RevisionState,
    string Content, string Author, DateTime MadeAt);

/// <summary>Configurations and the structures generated from them.</summary>
public sealed class ConfigurationStore(NpgsqlDataSource data)
{
    /// <summary>Each word is a condition of its own: the index on what a configuration is found by serves these, not a list of them.</summary>
    private static string SelectEntries(int words) => $"""
        select c.id, c.name, c.revision_id, p.code, r.label, r.number, r.state, c.author, c.changed_by, c.changed_at,
               (select s.id from structure s where s.configuration_id = c.id order by s.made_at desc limit 1), c.answers
        from configuration c join revision r on r.id = c.revision_id join product p on p.id = r.product_id
        where ($2 is null or p.id = $2){string.Concat(Enumerable.Range(3, words).Select(i => $" and c.found_by ilike ${i}"))}
        order by c.changed_at desc, c.id limit $1
        """;

    private const string SelectOne = """
        select id, name, revision_id, picks, site, date, customer_class, author, changed_by, version, changed_at from configuration where id = $1
        """;

    private const string Insert = """
        insert into configuration (id, name, revision_id, picks, site, date, customer_class, author, changed_by, answers)
        values ($1, $2, $3, $4, $5, $6, $7, $8, $8, $9) on conflict (id) do nothing
        """;

    /// <summary>As it reads at the time of saving: what a product or a person is called later, it is not found by.</summary>
    private const string UpdateFoundBy = """
        update configuration c set found_by = concat_ws(' ', c.name, p.code, r.label::text, c.author, a.display, c.changed_by, b.display,
            to_char(c.changed_at, 'YYYY-MM-DD DD Mon YYYY'), c.answers)
        from revision r join product p on p.id = r.product_id,
            configuration x left join person a on a.name = x.author left join person b on b.name = x.changed_by
        where c.id = $1 and x.id = c.id and r.id = c.revision_id
        """;

    private const string Update = """
        update configuration set name = $2, revision_id = $3, picks = $4, site = $5, date = $6, customer_class = $7, changed_by = $9, answers = $10,
            version = version + 1, changed_at = now()
        where id = $1 and version = $8
        """;

    private const string InsertStructure = """
        insert into structure (id, configuration_id, configuration_name, revision_id, picks, site, date, content, author, quantity, concession_id)
        values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) on conflict (id) do nothing
        """;

    /// <summary>Whoever generates under a concession at the same time waits, so that no more than it allows are generated.</summary>
    private const string LockConcession = """
        select quantity from concession where id = $1 and outcome = 'signed' and withdrawn_at is null for update
        """;

    private const string SelectUsed = """
        select coalesce(sum(quantity), 0)::bigint from structure where concession_id = $1
        """;

    private const string SelectStructure = """
        select s.id, s.configuration_id, s.configuration_name, r.product_id, s.revision_id, r.state, s.content, s.author, s.made_at
        from structure s join revision r on r.id = s.revision_id where s.id = $1
        """;

    /// <summary>
    /// Configurations that have every word of a search in their name, product, people, day or answers, in any case; those changed last first.
    /// </summary>
    /// <param name="productId">Null for those of all products.</param>
    public async Task<IReadOnlyList<ConfigurationEntry>> Find(string search, int most, CancellationToken cancel, string? productId = null)
    {
        object[] words = [.. Words(search).Select(w => $"%{Like.Escape(w)}%")];
        return await data.Query(SelectEntries(words.Length), r => new ConfigurationEntry(r.GetString(0), r.GetString(1), r.GetInt64(2), r.GetString(3),
            r.ReadJson<LocalText>(4), r.GetInt32(5), r.GetString(6), r.GetString(7), r.GetString(8), r.GetDateTime(9), r.TextOrNull(10), r.GetString(11)),
            cancel, [most, Sql.NullableText(productId), .. words]).ToListAsync(cancel);
    }

    private const int MostWords = 20;

    /// <summary>The words of a search.</summary>
    public static IEnumerable<string> Words(string search) =>
        search.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Distinct(StringComparer.OrdinalIgnoreCase).Take(MostWords);

    public async Task<StoredConfiguration?> Load(string id, CancellationToken cancel) =>
        await data.Query(SelectOne, Read, cancel, id).FirstOrDefaultAsync(cancel);

    private static StoredConfiguration Read(NpgsqlDataReader r)
    {
        var kept = r.ReadJson<ImmutableArray<StoredPick>>(3);
        return new(r.GetString(0), r.GetString(1), r.GetInt64(2), [.. kept.Where(p => p.FilledIn is null).Select(p => p.ToPick())],
            new(r.TextOrNull(4), r.DayOrNull(5)), r.TextOrNull(6), r.GetString(7), r.GetString(8), r.GetInt32(9), r.GetDateTime(10))
        {
            FillIns = [.. kept.Where(p => p.FilledIn is not null).Select(p => new FilledIn(p.ToPick(), p.FilledIn!))],
        };
    }

    /// <summary>Stores a new one under the id its maker gave it. False where there is one of this id; that stays as it is.</summary>
    /// <param name="answers">What was picked as people read it, one in a line: it is found by that.</param>
    public async Task<bool> Add(string id, string name, long revisionId, ImmutableArray<Pick> picks, Effectivity at, string? customerClass, string author,
        CancellationToken cancel, ImmutableArray<FilledIn>? fillIns = null, string answers = "") =>
        await Write(id, Insert, cancel, id, name, revisionId, Sql.Json(StoredPick.All(picks, fillIns ?? [])), at.Site, at.Date, customerClass, author, answers);

    /// <summary>False where someone else has changed it since <paramref name="version"/>.</summary>
    /// <param name="answers">What was picked as people read it, one in a line.</param>
    public async Task<bool> Change(string id, string name, long revisionId, ImmutableArray<Pick> picks, Effectivity at, string? customerClass, int version,
        string person, CancellationToken cancel, ImmutableArray<FilledIn>? fillIns = null, string answers = "") =>
        await Write(id, Update, cancel, id, name, revisionId, Sql.Json(StoredPick.All(picks, fillIns ?? [])), at.Site, at.Date, customerClass, version, person,
            answers);

    private async Task<bool> Write(string id, string text, CancellationToken cancel, params object?[] values)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var write = connection.Command(text, values);
        if (await write.ExecuteNonQueryAsync(cancel) == 0)
            return false;
        await using var found = connection.Command(UpdateFoundBy, id);
        await found.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return true;
    }

    private const string InsertItems = """
        insert into structure_item (structure_id, item) select $1, unnest($2::text[]) on conflict do nothing
        """;

    /// <summary>Keeps what was generated. False where its concession allows no more of it, or is withdrawn meanwhile; then nothing is kept.</summary>
    public async Task<bool> AddStructure(NewStructure structure, StoredConfiguration configuration, string author, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        if (structure.ConcessionId is { } concession)
        {
            await using var locking = connection.Command(LockConcession, concession);
            if (await locking.ExecuteScalarAsync(cancel) is not long allowed)
                return false;
            await using var counting = connection.Command(SelectUsed, concession);
            if ((long)(await counting.ExecuteScalarAsync(cancel))! + structure.Quantity > allowed)
                return false;
        }
        await using var insert = connection
            .Command(InsertStructure, structure.Id, configuration.Id, configuration.Name, configuration.RevisionId,
            Sql.Json(StoredPick.All(configuration.Picks, configuration.FillIns)), configuration.At.Site, configuration.At.Date,
            new NpgsqlParameter { Value = structure.Content, NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Jsonb }, author, structure.Quantity,
            Sql.NullableText(structure.ConcessionId));
        await insert.ExecuteNonQueryAsync(cancel);
        await using var used = connection.Command(InsertItems, structure.Id, structure.Items.ToArray());
        await used.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return true;
    }

    public async Task<StoredStructure?> Structure(string id, CancellationToken cancel) =>
        await data.Query(SelectStructure, r =>
            new StoredStructure(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetInt64(4), r.GetString(5), r.GetString(6), r.GetString(7),
            r.GetDateTime(8)), cancel, id).FirstOrDefaultAsync(cancel);
}
