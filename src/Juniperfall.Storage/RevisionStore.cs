using System.Collections.Immutable;
using System.Text.Json;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Npgsql;
using static Juniperfall.Storage.Sql;

namespace Juniperfall.Storage;

/// <summary>A revision as it stands: its document and the sequence of its last edit.</summary>
/// <param name="Facts">The library as it was at release; null while the live one holds.</param>
public sealed record StoredRevision(long Id, string ProductId, int Number, string State, string Author, long Head, ModelDocument Document)
{
    public required DateTime ChangedAt { get; init; }
    public string? ReleasedBy { get; init; }
    public DateTime? ReleasedAt { get; init; }
    public LibraryFacts? Facts { get; init; }

    /// <summary>What its product is to bring at the least, in percent of the price; null where that is not set.</summary>
    public string? LeastMargin { get; init; }

    /// <summary>What of its product is not to be had for a time, as JSON in the order it was said.</summary>
    public string PausesText { get; init; } = "[]";

    private ImmutableArray<Pause>? _pauses;

    /// <summary>What of its product is not to be had for a time.</summary>
    public ImmutableArray<Pause> Pauses => _pauses ??= JsonSerializer.Deserialize<ImmutableArray<Pause>>(PausesText, DocumentJson.Options);

    public RevisionMark Mark => new(Head, State, LeastMargin, PausesText);
}

/// <summary>What of a revision changes without its document: enough to know whether a copy is still the latest.</summary>
public sealed record RevisionMark(long Head, string State, string? LeastMargin, string Pauses);

/// <summary>One entry of the history.</summary>
/// <param name="Kind">edit, undo or redo.</param>
/// <param name="Undoes">The entry that an undo or a redo takes back.</param>
public sealed record StoredEdit(long Sequence, string EditId, string Person, DateTime MadeAt, string Kind, ImmutableArray<EditStep> Steps,
    ImmutableArray<EditStep> Inverse, long? Undoes);

/// <summary>What became of an edit: its place in the history, or why it was refused.</summary>
/// <param name="Repeated">It was stored before; nothing was done this time.</param>
public sealed record EditOutcome(long? Sequence, bool Repeated, EditRefusal? Refusal)
{
    /// <summary>The revision as the edit has left it, where this time it was stored.</summary>
    public StoredRevision? After { get; init; }

    /// <summary>The same with its expressions bound to the library that the edit was worked out with, where that had to be worked out already.</summary>
    public BoundModel? Model { get; init; }
}

/// <summary>Works out what an edit makes of a document: where and when it is done is for the caller to say.</summary>
public delegate Task<EditResult> ApplyEdit(ModelDocument document, ModelEdit edit, LibraryFacts facts, CancellationToken cancel);

/// <summary>
/// Revisions and their histories. Every edit is one transaction. It is worked out before, on the revision as it was read, and stored only
/// if that is still the latest; otherwise it is worked out again on what has come meanwhile.
/// </summary>
/// <param name="apply">Null: on the thread that asks.</param>
public sealed class RevisionStore(NpgsqlDataSource data, ApplyEdit? apply = null)
{
    /// <summary>The channel on which every edit is announced, as <c>revision:sequence</c>.</summary>
    public const string Channel = "revision_edited";

    private const string InsertProduct = """
        insert into product (id, code) values ($1, $2) on conflict do nothing
        """;

    private const string InsertRevision = """
        insert into revision (product_id, number, content, author)
        values ($1, (select coalesce(max(number), 0) + 1 from revision where product_id = $1), $2, $3)
        returning id
        """;

    private const string Pauses = """
        (select coalesce(json_agg(json_build_object('id', s.id, 'valueId', s.value_id, 'from', s."from", 'to', s."to", 'reason', s.reason) order by s.number),
            '[]')::text from pause s where s.product_id = p.id and s.ended_at is null)
        """;

    private const string SelectRevision = $"""
        select r.id, r.product_id, r.number, r.state, r.author, r.head, r.content, r.changed_at, r.released_by, r.released_at, r.facts, p.least_margin::text,
               {Pauses}
        from revision r join product p on p.id = r.product_id where r.id = $1
        """;

    private const string SelectReleased = $"""
        select r.id, r.product_id, r.number, r.state, r.author, r.head, r.content, r.changed_at, r.released_by, r.released_at, r.facts, p.least_margin::text,
               {Pauses}
        from revision r join product p on p.id = r.product_id where r.product_id = $1 and r.number = $2 and r.state = 'released'
        """;

    /// <summary>The revisions of other products that reuse some revision of a product, with its number.</summary>
    private const string SelectReusers = """
        select r.product_id, p.code, r.label, r.id, r.number, r.state, (e->>'revision')::int
        from revision r join product p on p.id = r.product_id, jsonb_array_elements(r.content->'reused') e
        where r.reuses ? $1 and e->>'productId' = $1 order by lower(p.code), r.number desc
        """;

    private const string SelectEdit = """
        select sequence from edit where revision_id = $1 and edit_id = $2
        """;

    private const string InsertEdit = """
        insert into edit (revision_id, sequence, edit_id, person, steps, inverse, undoes, kind) values ($1, $2, $3, $4, $5, $6, $7, $8)
        """;

    private const string UpdateContent = """
        update revision set content = $2, head = head + 1, changed_at = now() where id = $1 and head = $3 and state = 'draft' returning changed_at
        """;

    private const string SelectHistory = """
        select sequence, edit_id, person, made_at, kind, steps, inverse, undoes from edit
        where revision_id = $1 and sequence < $2 order by sequence desc limit $3
        """;

    /// <summary>The person's own last entry that stands: an edit, or a redo, that was not undone.</summary>
    private const string SelectLastStanding = """
        select sequence, inverse from edit e
        where revision_id = $1 and person = $2 and kind <> 'undo'
          and not exists (select 1 from edit u where u.revision_id = e.revision_id and u.undoes = e.sequence)
        order by sequence desc limit 1
        """;

    /// <summary>The person's own last undo that was not taken back; none once they have made another edit since.</summary>
    private const string SelectLastUndone = """
        select sequence, inverse from edit e
        where revision_id = $1 and person = $2 and kind = 'undo'
          and not exists (select 1 from edit r where r.revision_id = e.revision_id and r.undoes = e.sequence)
          and not exists (select 1 from edit n where n.revision_id = e.revision_id and n.person = e.person and n.kind = 'edit' and n.sequence > e.sequence)
        order by sequence desc limit 1
        """;

    /// <summary>One entry of the person's own that stands: any but an undo to take back, or an undo to apply again.</summary>
    private const string SelectStanding = """
        select sequence, inverse from edit e
        where revision_id = $1 and person = $2 and edit_id = $3 and (kind = 'undo') = $4
          and not exists (select 1 from edit u where u.revision_id = e.revision_id and u.undoes = e.sequence)
        """;

    private const string MarkReleased = """
        update revision set state = 'released', released_by = $2, released_at = now(), changed_at = now(), facts = $3, release_note = $5
        where id = $1 and state in ('draft', 'in review') and author <> $2 and head = $4
        """;

    private const string MarkWithdrawn = """
        update revision set state = 'withdrawn', withdrawn_by = $2, withdrawn_at = now(), withdrawn_why = $3 where id = $1 and state = 'released'
        """;

    private const string SelectMark = $"""
        select r.head, r.state, p.least_margin::text, {Pauses} from revision r join product p on p.id = r.product_id where r.id = $1
        """;

    private const string SelectRevisionsOfProduct = """
        select r.id, r.number, r.state, r.author, r.changed_at, r.released_by, r.released_at, (select count(*) from configuration c where c.revision_id = r.id),
               r.head, r.release_note, r.withdrawn_by, r.withdrawn_at, r.withdrawn_why
        from revision r where r.product_id = $1 order by r.number desc
        """;

    private const string SelectProducts = """
        select p.id, p.code, r.label, r.id, r.number, r.state, r.author, r.changed_at,
               (select max(number) from revision x where x.product_id = p.id and x.state = 'released'), p.least_margin::text
        from product p
        join lateral (select * from revision where product_id = p.id order by number desc limit 1) r on true
        where (p.id = $3 or $3 is null) and ($1 = '' or p.code ilike '%' || $1 || '%' or exists (select 1 from jsonb_each_text(r.label) l where l.value ilike '%' || $1 || '%'))
        order by lower(p.code) limit $2
        """;

    private const string InsertNextRevision = """
        insert into revision (product_id, number, content, author)
        select product_id, (select max(number) + 1 from revision n where n.product_id = r.product_id), content, $2 from revision r
        where product_id = $1 and state in ('released', 'withdrawn') order by number desc limit 1
        on conflict do nothing
        returning id
        """;

    /// <summary>Products whose code or label in any language holds the text, in the order of their codes.</summary>
    public async Task<IReadOnlyList<ProductEntry>> Products(string search, int most, CancellationToken cancel) => await Products(search, most, null, cancel);

    public async Task<ProductEntry?> Product(string productId, CancellationToken cancel) => (await Products("", 1, productId, cancel)).FirstOrDefault();

    private async Task<IReadOnlyList<ProductEntry>> Products(string search, int most, string? productId, CancellationToken cancel) =>
        await data.Query(SelectProducts, r =>
            new ProductEntry(r.GetString(0), r.GetString(1), r.ReadJson<LocalText>(2), r.GetInt64(3), r.GetInt32(4), r.GetString(5),
            r.GetString(6), r.GetDateTime(7), r.IsDBNull(8) ? null : r.GetInt32(8), r.TextOrNull(9)), cancel, Like.Escape(search), most, Sql.NullableText(productId))
                .ToListAsync(cancel);

    private const string UpdateLeastMargin = """
        update product set least_margin = $2 where id = $1
        """;

    /// <summary>Sets what a product is to bring at the least. False where there is no such product.</summary>
    /// <param name="percent">Of the price, from 0 to below 100, two decimals are kept; null: nothing is asked.</param>
    public async Task<bool> SetLeastMargin(string productId, decimal? percent, CancellationToken cancel) =>
        await data.Execute(UpdateLeastMargin, cancel, productId, percent) == 1;

    /// <summary>A product's revisions, the latest first.</summary>
    public async Task<IReadOnlyList<RevisionEntry>> RevisionsOf(string productId, CancellationToken cancel) =>
        await data.Query(SelectRevisionsOfProduct, r =>
            new RevisionEntry(r.GetInt64(0), r.GetInt32(1), r.GetString(2), r.GetString(3), r.GetDateTime(4), r.TextOrNull(5),
            r.IsDBNull(6) ? null : r.GetDateTime(6), r.GetInt64(7), r.GetInt64(8), r.GetString(9),
            r.IsDBNull(11) ? null : new(r.GetString(10), r.GetDateTime(11), r.GetString(12))), cancel, productId).ToListAsync(cancel);

    /// <summary>Opens the next draft from the latest released revision. Null where there is none, or a draft is open already.</summary>
    public async Task<long?> OpenNext(string productId, string author, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var insert = connection.Command(InsertNextRevision, productId, author);
        return (long?)await insert.ExecuteScalarAsync(cancel);
    }

    /// <summary>Opens the next draft with a given content: an import over a product that is there.</summary>
    public async Task<long?> OpenNextWith(UnitOfWork work, string productId, ModelDocument document, string author, CancellationToken cancel)
    {
        await using var insert = work.Connection.Command(InsertRevision, productId, Json(document), author);
        try
        {
            return (long)(await insert.ExecuteScalarAsync(cancel))!;
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.UniqueViolation)
        {
            return null;
        }
    }

    public async Task<RevisionMark?> Mark(long id, CancellationToken cancel) =>
        await data.Query(SelectMark, ReadMark, cancel, id).FirstOrDefaultAsync(cancel);

    private static RevisionMark ReadMark(NpgsqlDataReader r) => new(r.GetInt64(0), r.GetString(1), r.TextOrNull(2), r.GetString(3));

    /// <summary>Makes a product with its first draft. Null where the code is taken (case makes no difference).</summary>
    public async Task<long?> CreateProduct(ModelDocument document, string author, CancellationToken cancel)
    {
        await using var work = await UnitOfWork.Begin(data, cancel);
        var made = await CreateProduct(work, document, author, cancel);
        await work.Commit(cancel);
        return made;
    }

    /// <summary>The same as part of more.</summary>
    public async Task<long?> CreateProduct(UnitOfWork work, ModelDocument document, string author, CancellationToken cancel)
    {
        await using var product = work.Connection.Command(InsertProduct, document.Id, document.Code);
        if (await product.ExecuteNonQueryAsync(cancel) == 0)
            return null;
        await using var revision = work.Connection.Command(InsertRevision, document.Id, Json(document), author);
        return (long)(await revision.ExecuteScalarAsync(cancel))!;
    }

    public async Task<StoredRevision?> Load(long id, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        return await Load(connection, SelectRevision, cancel, id);
    }

    /// <summary>A released revision by its number; null where there is none.</summary>
    public async Task<StoredRevision?> LoadReleased(string productId, int number, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        return await Load(connection, SelectReleased, cancel, productId, number);
    }

    /// <summary>The revisions of other products that reuse a product, by code, the latest first.</summary>
    public async Task<IReadOnlyList<ReuserEntry>> ReusersOf(string productId, CancellationToken cancel) =>
        await data.Query(SelectReusers, r =>
            new ReuserEntry(r.GetString(0), r.GetString(1), r.ReadJson<LocalText>(2), r.GetInt64(3), r.GetInt32(4), r.GetString(5), r.GetInt32(6)), cancel,
            productId).ToListAsync(cancel);

    /// <summary>Stores an edit, once however often it arrives.</summary>
    /// <param name="seen">The revision as it was known last; it is read only where that is no longer how it stands.</param>
    public Task<EditOutcome> Apply(StoredRevision seen, ModelEdit edit, string person, LibraryFacts facts, CancellationToken cancel) =>
        InTransaction(seen, edit.Id, "edit", person, facts, (_, _) => Task.FromResult<(ImmutableArray<EditStep>, long?)?>((edit.Steps, null)), cancel);

    /// <summary>Appends the inverse of an edit of the person's own; refused, with what stands there now, if its fields have changed since.</summary>
    /// <param name="of">The id of that edit, or of a redo; null for the last one that stands.</param>
    public Task<EditOutcome> Undo(StoredRevision seen, string editId, string? of, string person, LibraryFacts facts, CancellationToken cancel) =>
        InTransaction(seen, editId, "undo", person, facts, of is null ? Inverse(SelectLastStanding, seen.Id, person)
            : Inverse(SelectStanding, seen.Id, person, of, false), cancel);

    /// <summary>Appends the inverse of an undo of the person's own.</summary>
    /// <param name="of">The id of that undo; null for the last one, as long as they have made no other edit since.</param>
    public Task<EditOutcome> Redo(StoredRevision seen, string editId, string? of, string person, LibraryFacts facts, CancellationToken cancel) =>
        InTransaction(seen, editId, "redo", person, facts, of is null ? Inverse(SelectLastUndone, seen.Id, person)
            : Inverse(SelectStanding, seen.Id, person, of, true), cancel);

    private static FindSteps Inverse(string query, params object[] parameters) => async (connection, cancel) =>
    {
        await using var select = connection.Command(query, parameters);
        await using var reader = await select.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel) ? (Steps(reader.GetString(1)), reader.GetInt64(0)) : null;
    };

    /// <summary>Entries of the history before a sequence, the latest first.</summary>
    public async Task<IReadOnlyList<StoredEdit>> History(long revisionId, long before, int most, CancellationToken cancel) =>
        await data.Query(SelectHistory, r =>
            new StoredEdit(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetDateTime(3), r.GetString(4), Steps(r.GetString(5)),
            Steps(r.GetString(6)), r.IsDBNull(7) ? null : r.GetInt64(7)), cancel, revisionId, before, most).ToListAsync(cancel);

    /// <summary>Releases a draft with the facts its rules read. False where it is not one, where the person wrote it, or where it has changed since
    /// <paramref name="head"/>.</summary>
    public async Task<bool> Release(UnitOfWork work, long revisionId, long head, string approver, LibraryFacts facts, CancellationToken cancel,
        string note = "")
    {
        await using var release = work.Connection.Command(MarkReleased, revisionId, approver, Json(facts), head, note);
        if (await release.ExecuteNonQueryAsync(cancel) != 1)
            return false;
        await TellOfState(work, revisionId, cancel);
        return true;
    }

    /// <summary>Withdraws a released revision: what is saved on it can be read and moved, nothing new is saved on it or generated. False where it is not
    /// released.</summary>
    public async Task<bool> Withdraw(UnitOfWork work, long revisionId, string person, string why, CancellationToken cancel)
    {
        await using var withdraw = work.Connection.Command(MarkWithdrawn, revisionId, person, why);
        if (await withdraw.ExecuteNonQueryAsync(cancel) != 1)
            return false;
        await TellOfState(work, revisionId, cancel);
        return true;
    }

    /// <summary>Tells whoever looks at a revision that its state has changed, once that is committed.</summary>
    internal static async Task TellOfState(UnitOfWork work, long revisionId, CancellationToken cancel)
    {
        await using var announce = work.Connection.Command("select pg_notify($1, $2)", Channel, $"{revisionId}:0");
        await announce.ExecuteNonQueryAsync(cancel);
    }

    private delegate Task<(ImmutableArray<EditStep> Steps, long? Undoes)?> FindSteps(NpgsqlConnection connection, CancellationToken cancel);

    /// <summary>After so many edits of others came first, one keeps them waiting while it is worked out.</summary>
    private const int MostTries = 6;

    private async Task<EditOutcome> InTransaction(StoredRevision seen, string editId, string kind, string person, LibraryFacts facts, FindSteps find,
        CancellationToken cancel)
    {
        for (var tries = 1; ; tries++)
            if (await Try(seen, editId, kind, person, facts, find, tries > MostTries, cancel) is { } outcome)
                return outcome;
    }

    /// <summary>Null where another edit was stored meanwhile.</summary>
    /// <param name="locks">Whether the row is locked from the start.</param>
    private async Task<EditOutcome?> Try(StoredRevision seen, string editId, string kind, string person, LibraryFacts facts, FindSteps find, bool locks,
        CancellationToken cancel)
    {
        StoredRevision? revision;
        (ImmutableArray<EditStep> Steps, long? Undoes)? found;
        await using (var connection = await data.OpenConnectionAsync(cancel))
        {
            var mark = await connection.Query(SelectMark, ReadMark, cancel, seen.Id).FirstOrDefaultAsync(cancel);
            if ((revision = mark == seen.Mark ? seen : await Load(connection, SelectRevision, cancel, seen.Id)) is null)
                return new(null, false, new(EditFault.Gone, "There is no such revision."));
            await using var known = connection.Command(SelectEdit, revision.Id, editId);
            if (await known.ExecuteScalarAsync(cancel) is long sequence)
                return new(sequence, true, null);
            if (revision.State != "draft")
                return new(null, false, new(EditFault.Changed, $"Revision {revision.Number} is {revision.State}; "
                    + (revision.State == "in review" ? "take it back to edit it." : "open the next revision to edit.")));
            if ((found = await find(connection, cancel)) is null)
                return new(null, false, new(EditFault.Gone, $"There is nothing of yours left here to {kind}."));
        }
        if (locks)
            return await StoreLocked(revision, editId, kind, person, facts, find, cancel);
        var edit = new ModelEdit(editId, found.Value.Steps);
        var result = await (apply?.Invoke(revision.Document, edit, facts, cancel) ?? Task.FromResult(ModelEditor.Apply(revision.Document, edit, facts)));
        if (result.Refusal is { } refusal)
            return new(null, false, refusal);
        await using var storing = await data.OpenConnectionAsync(cancel);
        await using var transaction = await storing.BeginTransactionAsync(cancel);
        return await Store(storing, transaction, revision, editId, kind, person, result, found.Value, cancel);
    }

    /// <summary>Under a lock nothing else is stored meanwhile. It is worked out at once, since whoever else edits waits for it.</summary>
    private async Task<EditOutcome?> StoreLocked(StoredRevision seen, string editId, string kind, string person, LibraryFacts facts, FindSteps find,
        CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        if (await Load(connection, SelectRevision + " for update", cancel, seen.Id) is not { State: "draft" } revision
            || await find(connection, cancel) is not { } found)
            return null;
        await using var known = connection.Command(SelectEdit, seen.Id, editId);
        if (await known.ExecuteScalarAsync(cancel) is long sequence)
            return new(sequence, true, null);
        var result = ModelEditor.Apply(revision.Document, new(editId, found.Steps), facts);
        return result.Refusal is { } refusal
            ? new(null, false, refusal) : await Store(connection, transaction, revision, editId, kind, person, result, found, cancel);
    }

    private static async Task<EditOutcome?> Store(NpgsqlConnection connection, NpgsqlTransaction transaction, StoredRevision revision, string editId,
        string kind, string person, EditResult result,
        (ImmutableArray<EditStep> Steps, long? Undoes) found, CancellationToken cancel)
    {
        await using var update = connection.Command(UpdateContent, revision.Id, Json(result.Document), revision.Head);
        if (await update.ExecuteScalarAsync(cancel) is not DateTime changedAt)
            return null;
        var next = revision.Head + 1;
        await using var insert = connection.Command(InsertEdit, revision.Id, next, editId, person, Json(found.Steps), Json(result.Inverse), found.Undoes, kind);
        await insert.ExecuteNonQueryAsync(cancel);
        await using var announce = connection.Command("select pg_notify($1, $2)", Channel, $"{revision.Id}:{next}");
        await announce.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return new(next, false, null) { After = revision with { Head = next, Document = result.Document, ChangedAt = changedAt }, Model = result.Model };
    }

    private static async Task<StoredRevision?> Load(NpgsqlConnection connection, string query, CancellationToken cancel, params object[] parameters)
    {
        await using var select = connection.Command(query, parameters);
        await using var reader = await select.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel)
            ? new(reader.GetInt64(0), reader.GetString(1), reader.GetInt32(2), reader.GetString(3), reader.GetString(4), reader.GetInt64(5),
                reader.ReadJson<ModelDocument>(6))
            {
                ChangedAt = reader.GetDateTime(7),
                ReleasedBy = reader.TextOrNull(8),
                ReleasedAt = reader.IsDBNull(9) ? null : reader.GetDateTime(9),
                LeastMargin = reader.TextOrNull(11),
                PausesText = reader.GetString(12),
                Facts = reader.IsDBNull(10) ? null : reader.ReadJson<LibraryFacts>(10),
            }
            : null;
    }

    private static ImmutableArray<EditStep> Steps(string json) =>
        System.Text.Json.JsonSerializer.Deserialize<ImmutableArray<EditStep>>(json, DocumentJson.Options);
}

/// <summary>A product as lists show it: its latest revision, and the number of the latest released one.</summary>
public sealed record ProductEntry(string Id, string Code, LocalText Label, long RevisionId, int Number, string State, string Author, DateTime ChangedAt,
    int? Released, string? LeastMargin);

/// <summary>A revision as lists show it.</summary>
/// <param name="ReleaseNote">What was said of it at its release.</param>
/// <param name="Withdrawn">Null where it is not.</param>
public sealed record RevisionEntry(long Id, int Number, string State, string Author, DateTime ChangedAt, string? ReleasedBy, DateTime? ReleasedAt,
    long Configurations, long Head, string ReleaseNote, Withdrawal? Withdrawn);

/// <summary>That a released revision is not to be used any more.</summary>
public sealed record Withdrawal(string By, DateTime At, string Why);

/// <summary>A revision that reuses one of another product, with the number of that.</summary>
public sealed record ReuserEntry(string ProductId, string Code, LocalText Label, long RevisionId, int Number, string State, int Reuses);

/// <summary>Texts that are searched for as they stand.</summary>
internal static class Like
{
    public static string Escape(string text) =>
        text.Trim().Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal);
}
