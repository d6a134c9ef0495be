using System.Globalization;

namespace Juniperfall.Server.Solving;

/// <summary>How much the caches may hold: the setting CacheMegabytes, otherwise a quarter of the memory; what is idle goes after CacheMinutes.</summary>
internal static class Caches
{
    private const double UsualMinutes = 20;

    /// <exception cref="InvalidOperationException">A setting is no number above zero.</exception>
    public static CacheBudget BudgetOf(IConfiguration configuration, TimeProvider clock) => new(
        Number(configuration, "CacheMegabytes") is { } megabytes ? (long)(megabytes * 1024 * 1024) : GC.GetGCMemoryInfo().TotalAvailableMemoryBytes / 4,
        TimeSpan.FromMinutes(Number(configuration, "CacheMinutes") ?? UsualMinutes), clock);

    private static double? Number(IConfiguration configuration, string setting) => configuration[setting] is not { Length: > 0 } text ? null
        : double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && number is > 0 and < 1e9 ? number
        : throw new InvalidOperationException($"The setting {setting} is “{text}”, which is no number above zero.");
}
