using System.Runtime.CompilerServices;
using System.Text.Json;
using Juniperfall.Core.Models.Document;
using Npgsql;
using NpgsqlTypes;

namespace Juniperfall.Storage;

/// <summary>What every store needs of Npgsql: commands with positional parameters, and JSON columns.</summary>
internal static class Sql
{
    public static NpgsqlCommand Command(this NpgsqlConnection connection, string text, params object?[] values)
    {
        var command = new NpgsqlCommand(text, connection);
        foreach (var value in values)
            command.Parameters.Add(value as NpgsqlParameter ?? new NpgsqlParameter { Value = value ?? DBNull.Value });
        return command;
    }

    public static NpgsqlParameter Json<T>(T value) => new() { Value = Text(value), NpgsqlDbType = NpgsqlDbType.Jsonb };

    /// <summary>A text that may be null where its type cannot be told from its place.</summary>
    public static NpgsqlParameter NullableText(string? value) => new() { Value = value is null ? DBNull.Value : value, NpgsqlDbType = NpgsqlDbType.Text };

    public static string Text<T>(T value) => JsonSerializer.Serialize(value, DocumentJson.Options);

    public static T ReadJson<T>(this NpgsqlDataReader reader, int column) => JsonSerializer.Deserialize<T>(reader.GetString(column), DocumentJson.Options)!;

    public static string? TextOrNull(this NpgsqlDataReader reader, int column) => reader.IsDBNull(column) ? null : reader.GetString(column);

    public static DateOnly? DayOrNull(this NpgsqlDataReader reader, int column) => reader.IsDBNull(column) ? null : reader.GetFieldValue<DateOnly>(column);

    public static async Task<int> Execute(this NpgsqlDataSource data, string text, CancellationToken cancel, params object?[] values)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await using var command = connection.Command(text, values);
        return await command.ExecuteNonQueryAsync(cancel);
    }

    /// <summary>The rows of a query, each typed by <paramref name="read"/>.</summary>
    public static async IAsyncEnumerable<T> Query<T>(this NpgsqlDataSource data, string text, Func<NpgsqlDataReader, T> read,
        [EnumeratorCancellation] CancellationToken cancel, params object?[] values)
    {
        await using var connection = await data.OpenConnectionAsync(cancel);
        await foreach (var row in connection.Query(text, read, cancel, values))
            yield return row;
    }

    /// <summary>The same in a transaction that is open.</summary>
    public static async IAsyncEnumerable<T> Query<T>(this NpgsqlConnection connection, string text, Func<NpgsqlDataReader, T> read,
        [EnumeratorCancellation] CancellationToken cancel, params object?[] values)
    {
        await using var command = connection.Command(text, values);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
            yield return read(reader);
    }
}
