using System.Reflection;
using DbUp;
using DbUp.Engine;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>Brings a database up to the present form. Migrations only go forward.</summary>
public static class Database
{
    /// <exception cref="InvalidOperationException">A migration failed; nothing of it was kept.</exception>
    public static void Migrate(string connection)
    {
        DatabaseUpgradeResult result = DeployChanges.To.PostgresqlDatabase(connection)
            .WithScriptsEmbeddedInAssembly(Assembly.GetExecutingAssembly())
            .WithTransactionPerScript().LogToNowhere().Build().PerformUpgrade();
        if (!result.Successful)
            throw new InvalidOperationException($"The migration {result.ErrorScript?.Name} failed.", result.Error);
    }

    /// <summary>How many connections one server uses at most: PostgreSQL has 100 for all of them, and more than some tens do not make it quicker.</summary>
    private const int MostConnections = 40;

    /// <summary>On a busy day one waits for a connection that long, in turn, before the database counts as out of reach; in seconds.</summary>
    private const int LongestWait = 60;

    /// <summary>Connections to the database, bounded unless the connection string itself says how many.</summary>
    public static NpgsqlDataSource Open(string connection)
    {
        var given = new NpgsqlConnectionStringBuilder(connection);
        if (!given.ShouldSerialize("Maximum Pool Size"))
            given.MaxPoolSize = MostConnections;
        if (!given.ShouldSerialize("Timeout"))
            given.Timeout = LongestWait;
        return new NpgsqlDataSourceBuilder(given.ConnectionString).Build();
    }

    /// <summary>How the database is just now.</summary>
    public sealed class State(NpgsqlDataSource data)
    {
        private static readonly int Migrations = Assembly.GetExecutingAssembly().GetManifestResourceNames()
            .Count(n => n.EndsWith(".sql", StringComparison.Ordinal));

        /// <summary>What is wrong with it; null where nothing is.</summary>
        public async Task<string?> Find(CancellationToken cancel)
        {
            try
            {
                var done = await data.Query("select count(*) from schemaversions", r => r.GetInt64(0), cancel).FirstAsync(cancel);
                return done < Migrations ? $"{Migrations - done} migrations are missing" : null;
            }
            catch (Exception e) when (e is NpgsqlException or OperationCanceledException or TimeoutException or System.Net.Sockets.SocketException)
            {
                return "cannot be reached";
            }
        }
    }
}
