using System.Collections.Immutable;
using Juniperfall.Core.Reasoning;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>A value, or a whole product, that is not to be had for a time.</summary>
/// <param name="ValueId">The lasting id of a value; null for the product.</param>
/// <param name="To">The last day; null until it is ended.</param>
public sealed record Pause(string Id, string? ValueId, DateOnly From, DateOnly? To, string Reason)
{
    public bool IsOn(DateOnly day) => From <= day && (To is null || day <= To);

    /// <summary>From when until when, in words.</summary>
    public string Period => $"from {From:yyyy-MM-dd}{(To is { } to ? $" until {to:yyyy-MM-dd}" : " on")}";
}

/// <summary>A pause as it is listed, those that were ended too.</summary>
/// <param name="ValueName">What the value was called when it was paused; empty for the product.</param>
public sealed record PauseEntry(Pause Pause, string ValueName, string Person, DateTime MadeAt, string? EndedBy, DateTime? EndedAt);

/// <summary>Something saved that a pause meets.</summary>
public sealed record PausedConfiguration(string Id, string Name, DateOnly? Date);

/// <summary>What is not to be had for a time.</summary>
public sealed class PauseStore(NpgsqlDataSource data)
{
    private const string Insert = """
        insert into pause (id, product_id, value_id, value_name, "from", "to", reason, person) values ($1, $2, $3, $4, $5, $6, $7, $8)
        on conflict (id) do nothing
        """;

    private const string MarkEnded = """
        update pause set ended_by = $3, ended_at = now() where id = $1 and product_id = $2 and ended_at is null
        """;

    private const string SelectOfProduct = """
        select id, value_id, "from", "to", reason, value_name, person, made_at, ended_by, ended_at from pause
        where product_id = $1 order by ended_at is not null, "from", number limit $2
        """;

    /// <summary>Those without a day are meant for any.</summary>
    private const string SelectMet = """
        select c.id, c.name, c.date from configuration c join revision r on r.id = c.revision_id
        where r.product_id = $1 and ($2::jsonb is null or c.picks @> $2) and (c.date is null or (c.date >= $3 and ($4 is null or c.date <= $4)))
        order by c.changed_at desc, c.id limit $5
        """;

    /// <summary>False where there is one of this id.</summary>
    public async Task<bool> Add(UnitOfWork work, string productId, Pause pause, string valueName, string person, CancellationToken cancel)
    {
        await using var insert = work.Connection.Command(Insert, pause.Id, productId, Sql.NullableText(pause.ValueId), valueName, pause.From, pause.To,
            pause.Reason, person);
        return await insert.ExecuteNonQueryAsync(cancel) == 1;
    }

    /// <summary>False where there is none that goes on.</summary>
    public async Task<bool> End(UnitOfWork work, string id, string productId, string person, CancellationToken cancel)
    {
        await using var end = work.Connection.Command(MarkEnded, id, productId, person);
        return await end.ExecuteNonQueryAsync(cancel) == 1;
    }

    /// <summary>Those of a product, those that go on first.</summary>
    public async Task<IReadOnlyList<PauseEntry>> Of(string productId, int most, CancellationToken cancel) =>
        await data.Query(SelectOfProduct, r => new PauseEntry(
            new(r.GetString(0), r.TextOrNull(1), r.GetFieldValue<DateOnly>(2), r.DayOrNull(3), r.GetString(4)),
            r.GetString(5), r.GetString(6), r.GetDateTime(7), r.TextOrNull(8), r.IsDBNull(9) ? null : r.GetDateTime(9)), cancel, productId, most)
            .ToListAsync(cancel);

    /// <summary>What is saved of a product and picks the value, or anything of a product that is paused as a whole, for a day within the pause.</summary>
    public async Task<IReadOnlyList<PausedConfiguration>> Met(string productId, Pause pause, int most, CancellationToken cancel) =>
        await data.Query(SelectMet, r => new PausedConfiguration(r.GetString(0), r.GetString(1), r.DayOrNull(2)), cancel, productId,
            new NpgsqlParameter
            {
                NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Jsonb,
                Value = pause.ValueId is { } value ? Sql.Text(new[] { new { Kind = "Choice", Text = value } }) : DBNull.Value,
            },
            pause.From, new NpgsqlParameter { NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Date, Value = pause.To is { } to ? to : DBNull.Value }, most)
            .ToListAsync(cancel);
}
