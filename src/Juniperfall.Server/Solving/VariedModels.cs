using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Storage;

namespace Juniperfall.Server.Solving;

/// <summary>How a revision is asked otherwise than it stands.</summary>
/// <param name="Rules">The ids of rules that are at rest: as a concession sets them aside, or as somebody tries out.</param>
/// <param name="Paused">Values that are not to be had, with why.</param>
public sealed record Variation(ImmutableHashSet<string> Rules, ImmutableSortedDictionary<string, string> Paused)
{
    public static readonly Variation None = new([], ImmutableSortedDictionary<string, string>.Empty);

    public bool IsNone => Rules.IsEmpty && Paused.IsEmpty;

    public ModelDocument Of(ModelDocument document)
    {
        if (!Rules.IsEmpty)
            document = document.WithRulesAtRest(Rules);
        return Paused.IsEmpty ? document : document.WithPaused(Paused);
    }
}

/// <summary>Revisions with some of their rules at rest or some of their values paused. Compiled once for all who ask.</summary>
internal sealed class VariedModels(Scheduler scheduler, Askers askers, CacheBudget budget)
{
    private sealed record Key(long RevisionId, RevisionMark Mark, long Library, string Rules, string Paused);

    private readonly ConcurrentDictionary<Key, Task<(CompiledModel Model, CacheBudget.Entry Entry)>> _kept = new();

    private static readonly IReadOnlyDictionary<Effectivity, byte[]> NothingKnown = new Dictionary<Effectivity, byte[]>();

    public async Task<CompiledModel> Of(CompiledModel whole, Variation variation, CancellationToken cancel)
    {
        var key = new Key(whole.Revision.Id, whole.Revision.Mark, whole.LibraryVersion, string.Join('\n', variation.Rules.Order(StringComparer.Ordinal)),
            string.Join('\n', variation.Paused.Select(p => $"{p.Key} {p.Value}")));
        var (model, entry) = await _kept.GetOrAdd(key, _ => Compile(key, whole, variation)).WaitAsync(cancel);
        budget.Use(entry);
        return model;
    }

    private async Task<(CompiledModel Model, CacheBudget.Entry Entry)> Compile(Key key, CompiledModel whole, Variation variation)
    {
        try
        {
            var began = Stopwatch.GetTimestamp();
            // Much of what the whole model's reasoners have found out goes on being of use: what stands with all rules stands without some.
            var model = await scheduler.Run(askers.Person, Urgency.Answer, CompiledModel.TimeLimit, time =>
            {
                var revision = whole.Revision with { Document = variation.Of(whole.Revision.Document) };
                return new CompiledModel(revision, new BoundModel(revision.Document, whole.Model.Facts, time), whole, NothingKnown, scheduler, askers, budget)
                { LibraryVersion = whole.LibraryVersion };
            }, CancellationToken.None);
            return (model, budget.Keep("varied models", model.EstimatedBytes, Stopwatch.GetElapsedTime(began), () =>
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
