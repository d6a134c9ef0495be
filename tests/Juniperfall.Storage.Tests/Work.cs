using Npgsql;

namespace Juniperfall.Storage.Tests;

internal static class Work
{
    /// <summary>Something done as a whole use case.</summary>
    public static async Task<T> Do<T>(this NpgsqlDataSource data, Func<UnitOfWork, Task<T>> part)
    {
        await using var work = await UnitOfWork.Begin(data, default);
        var done = await part(work);
        await work.Commit(default);
        return done;
    }
}
