using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Concessions;

/// <summary>Which rules are set aside today for a saved configuration, and what it is asked of then.</summary>
public sealed class HeldConcessions(ConcessionStore concessions, CompiledModels models, TimeProvider clock)
{
    public DateOnly Today => DateOnly.FromDateTime(clock.GetUtcNow().UtcDateTime);

    /// <summary>The revision of a configuration, less the rules that a concession sets aside for it, and less what is paused on its day; and that
    /// concession, where there is one.</summary>
    /// <param name="compiled">The revision that it is saved on.</param>
    public async Task<(CompiledModel Compiled, Concession? Concession)> Of(StoredConfiguration configuration, CompiledModel compiled,
        CancellationToken cancel)
    {
        var held = await concessions.Holding(configuration.Id, Today, cancel);
        return (await models.For(compiled, [.. held?.Rules.Select(r => r.Row) ?? []], configuration.At.Date, cancel), held);
    }
}
