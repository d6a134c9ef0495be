using System.Collections.Concurrent;
using System.Collections.Immutable;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Impacts;

/// <summary>What things are asked again of, and the same with the rules at rest that concessions set aside for some of them.</summary>
internal sealed class Resting(CompiledModels models, CompiledModel target) : IAsyncDisposable
{
    private readonly ConcurrentDictionary<string, Task<CompiledModel>> _without = new();

    public Task<CompiledModel> Without(ImmutableArray<string> rules, CancellationToken cancel) => rules.Length == 0 ? Task.FromResult(target)
        : _without.GetOrAdd(string.Join('\n', rules), _ => models.Supposed(
            target.Revision with { Document = target.Revision.Document.WithRulesAtRest(rules.ToHashSet()) }, target.Model.Facts, cancel));

    public async ValueTask DisposeAsync()
    {
        foreach (var model in _without.Values.Where(m => m.IsCompletedSuccessfully))
            (await model).Forget();
    }
}
