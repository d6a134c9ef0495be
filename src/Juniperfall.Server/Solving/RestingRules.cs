using System.Collections.Concurrent;
using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>Revisions with some of their rules taken to rest: as a concession sets them aside, or as somebody tries out. Compiled once for all who ask.</summary>
internal sealed class RestingRules(Scheduler scheduler, Askers askers, CacheBudget budget)
{
    private sealed record Key(long RevisionId, RevisionMark Mark, long Library, string Rules);

    private readonly ConcurrentDictionary<Key, Task<(CompiledModel Model, CacheBudget.Entry Entry)>> _kept = new();

    private static readonly IReadOnlyDictionary<Effectivity, byte[]> NothingKnown = new Dictionary<Effectivity, byte[]>();

    /// <param name="rules">The ids of rules of the revision.</param>
    public async Task<CompiledModel> Of(CompiledModel whole, IReadOnlyCollection<string> rules, CancellationToken cancel)
    {
        var resting = rules.ToHashSet();
        var key = new Key(whole.Revision.Id, whole.Revision.Mark, whole.LibraryVersion, string.Join('\n', resting.Order(StringComparer.Ordinal)));
        var (model, entry) = await _kept.GetOrAdd(key, _ => Compile(key, whole, resting)).WaitAsync(cancel);
        budget.Use(entry);
        return model;
    }

    private async Task<(CompiledModel Model, CacheBudget.Entry Entry)> Compile(Key key, CompiledModel whole, IReadOnlySet<string> rules)
    {
        try
        {
            var began = Stopwatch.GetTimestamp();
            // What stands with all rules stands without some: what the whole model's reasoners have found out goes on being of use.
            var model = await scheduler.Run(askers.Person, Urgency.Answer, CompiledModel.TimeLimit, time =>
            {
                var revision = whole.Revision with { Document = whole.Revision.Document.WithRulesAtRest(rules) };
                return new CompiledModel(revision, new BoundModel(revision.Document, whole.Model.Facts, time), whole, NothingKnown, scheduler, askers, budget)
                { LibraryVersion = whole.LibraryVersion };
            }, CancellationToken.None);
            return (model, budget.Keep("models with rules at rest", model.EstimatedBytes, Stopwatch.GetElapsedTime(began), () =>
            {
                _kept.TryRemove(key, out _);
                model.Forget();
            }));
        }
        catch
        {
            // The next who asks tries again.
            _kept.TryRemove(key, out _);
            throw;
        }
    }
}
