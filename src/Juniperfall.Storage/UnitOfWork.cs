using Npgsql;

namespace Juniperfall.Storage;

/// <summary>What one use case changes in several stores: all of it is kept, or nothing. What is not committed is taken back.</summary>
public sealed class UnitOfWork : IAsyncDisposable
{
    private readonly NpgsqlTransaction _transaction;

    private UnitOfWork(NpgsqlConnection connection, NpgsqlTransaction transaction) => (Connection, _transaction) = (connection, transaction);

    internal NpgsqlConnection Connection { get; }

    public static async Task<UnitOfWork> Begin(NpgsqlDataSource data, CancellationToken cancel)
    {
        var connection = await data.OpenConnectionAsync(cancel);
        try
        {
            return new(connection, await connection.BeginTransactionAsync(cancel));
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    public Task Commit(CancellationToken cancel) => _transaction.CommitAsync(cancel);

    public async ValueTask DisposeAsync()
    {
        await _transaction.DisposeAsync();
        await Connection.DisposeAsync();
    }
}
