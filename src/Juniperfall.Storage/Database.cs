using System.Reflection;
using DbUp;
using DbUp.Engine;

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
}
