using System.Collections.Immutable;
using System.Text.Json;
using Juniperfall.Core.Models;
using Npgsql;
using NpgsqlTypes;

namespace Juniperfall.Storage;

/// <summary>A revision as it stands: its document and the sequence of its last edit.</summary>
public sealed record StoredRevision(long Id, string ProductId, int Number, string State, string Author, long Head, ModelDocument Document);

/// <summary>One entry of the history.</summary>
public sealed record StoredEdit(long Sequence, string EditId, string Person, DateTime MadeAt, ImmutableArray<EditStep> Steps, long? Undoes);

/// <summary>What became of an edit: its place in the history, or why it was refused.</summary>
/// <param name="Repeated">It was stored before; nothing was done this time.</param>
public sealed record EditOutcome(long? Sequence, bool Repeated, EditRefusal? Refusal);

/// <summary>Revisions and their histories. Every edit is one transaction; edits of one revision queue behind its row.</summary>
public sealed class RevisionStore(NpgsqlDataSource data)
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

    private const string SelectRevision = """
        select id, product_id, number, state, author, head, content from revision where id = $1
        """;

    private const string SelectEdit = """
        select sequence from edit where revision_id = $1 and edit_id = $2
        """;

    private const string InsertEdit = """
        insert into edit (revision_id, sequence, edit_id, person, steps, inverse, undoes) values ($1, $2, $3, $4, $5, $6, $7)
        """;

    private const string UpdateContent = """
        update revision set content = $2, head = $3 where id = $1
        """;

    private const string SelectHistory = """
        select sequence, edit_id, person, made_at, steps, undoes from edit where revision_id = $1 and sequence > $2 order by sequence limit $3
        """;

    /// <summary>The person's own last edit that is neither an undo nor undone.</summary>
    private const string SelectLastOwn = """
        select sequence, inverse from edit e
        where revision_id = $1 and person = $2 and undoes is null
          and not exists (select 1 from edit u where u.revision_id = e.revision_id and u.undoes = e.sequence)
        order by sequence desc limit 1
        """;

    private const string MarkReleased = """
        update revision set state = 'released', released_by = $2, released_at = now()
        where id = $1 and state in ('draft', 'in review') and author <> $2
        """;

    /// <summary>Makes a product with its first draft. Null where the code is taken (case makes no difference).</summary>
    public async Task<long?> CreateProduct(ModelDocument document, string author, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await using var product = Command(connection, InsertProduct, document.Id, document.Code);
        if (await product.ExecuteNonQueryAsync(cancel) == 0)
            return null;
        await using var revision = Command(connection, InsertRevision, document.Id, Json(document), author);
        var id = (long)(await revision.ExecuteScalarAsync(cancel))!;
        await transaction.CommitAsync(cancel);
        return id;
    }

    public async Task<StoredRevision?> Load(long id, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        return await Load(connection, SelectRevision, id, cancel);
    }

    /// <summary>Stores an edit, once however often it arrives.</summary>
    public Task<EditOutcome> Apply(long revisionId, ModelEdit edit, string person, LibraryFacts facts, CancellationToken cancel) =>
        InTransaction(revisionId, edit.Id, person, facts, (_, _) => Task.FromResult<(ImmutableArray<EditStep>, long?)?>((edit.Steps, null)), cancel);

    /// <summary>Appends the inverse of the person's own last edit; refused, with what stands there now, if its fields have changed since.</summary>
    public Task<EditOutcome> Undo(long revisionId, string editId, string person, LibraryFacts facts, CancellationToken cancel) =>
        InTransaction(revisionId, editId, person, facts, async (connection, token) =>
        {
            await using var select = Command(connection, SelectLastOwn, revisionId, person);
            await using var reader = await select.ExecuteReaderAsync(token);
            return await reader.ReadAsync(token) ? (Steps(reader.GetString(1)), reader.GetInt64(0)) : null;
        }, cancel);

    public async Task<IReadOnlyList<StoredEdit>> History(long revisionId, long after, int most, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var select = Command(connection, SelectHistory, revisionId, after, most);
        await using var reader = await select.ExecuteReaderAsync(cancel);
        var edits = new List<StoredEdit>();
        while (await reader.ReadAsync(cancel))
            edits.Add(new(reader.GetInt64(0), reader.GetString(1), reader.GetString(2), reader.GetDateTime(3), Steps(reader.GetString(4)), reader.IsDBNull(5) ? null : reader.GetInt64(5)));
        return edits;
    }

    /// <summary>Releases a draft. False where it is not one, or where the person wrote it.</summary>
    public async Task<bool> Release(long revisionId, string approver, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var update = Command(connection, MarkReleased, revisionId, approver);
        return await update.ExecuteNonQueryAsync(cancel) == 1;
    }

    private delegate Task<(ImmutableArray<EditStep> Steps, long? Undoes)?> FindSteps(NpgsqlConnection connection, CancellationToken cancel);

    private async Task<EditOutcome> InTransaction(long revisionId, string editId, string person, LibraryFacts facts, FindSteps find, CancellationToken cancel)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        if (await Load(connection, SelectRevision + " for update", revisionId, cancel) is not { } revision)
            return new(null, false, new(EditFault.Gone, "There is no such revision."));
        await using var known = Command(connection, SelectEdit, revisionId, editId);
        if (await known.ExecuteScalarAsync(cancel) is long sequence)
            return new(sequence, true, null);
        if (revision.State != "draft")
            return new(null, false, new(EditFault.Changed, $"Revision {revision.Number} is {revision.State}; open the next revision to edit."));
        if (await find(connection, cancel) is not { } found)
            return new(null, false, new(EditFault.Gone, "There is nothing of yours left to undo."));
        var result = ModelEditor.Apply(revision.Document, new(editId, found.Steps), facts);
        if (result.Refusal is { } refusal)
            return new(null, false, refusal);
        var next = revision.Head + 1;
        await using var update = Command(connection, UpdateContent, revisionId, Json(result.Document), next);
        await update.ExecuteNonQueryAsync(cancel);
        await using var insert = Command(connection, InsertEdit, revisionId, next, editId, person, Json(found.Steps), Json(result.Inverse), found.Undoes is { } undone ? undone : DBNull.Value);
        await insert.ExecuteNonQueryAsync(cancel);
        await using var announce = Command(connection, "select pg_notify($1, $2)", Channel, $"{revisionId}:{next}");
        await announce.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
        return new(next, false, null);
    }

    private static async Task<StoredRevision?> Load(NpgsqlConnection connection, string query, long id, CancellationToken cancel)
    {
        await using var select = Command(connection, query, id);
        await using var reader = await select.ExecuteReaderAsync(cancel);
        return await reader.ReadAsync(cancel)
            ? new(reader.GetInt64(0), reader.GetString(1), reader.GetInt32(2), reader.GetString(3), reader.GetString(4), reader.GetInt64(5),
                JsonSerializer.Deserialize<ModelDocument>(reader.GetString(6), DocumentJson.Options)!)
            : null;
    }

    private static ImmutableArray<EditStep> Steps(string json) => JsonSerializer.Deserialize<ImmutableArray<EditStep>>(json, DocumentJson.Options);

    private static NpgsqlParameter Json<T>(T value) => new() { Value = JsonSerializer.Serialize(value, DocumentJson.Options), NpgsqlDbType = NpgsqlDbType.Jsonb };

    private static NpgsqlCommand Command(NpgsqlConnection connection, string text, params object[] values)
    {
        var command = new NpgsqlCommand(text, connection);
        foreach (var value in values)
            command.Parameters.Add(value as NpgsqlParameter ?? new NpgsqlParameter { Value = value });
        return command;
    }
}
