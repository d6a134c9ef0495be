using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Measures;

/// <summary>Configurations one after the other, from a first to one that has what is wanted.</summary>
/// <param name="Configurations">The first and the last among them; null where there is no such way, or none was found.</param>
/// <param name="IsFinished">False where time or room ran out before it was known.</param>
public sealed record StepsFound(ImmutableArray<ImmutableArray<Pick>>? Configurations, bool IsFinished);

/// <summary>
/// Multi-step configuration (White, Galindo, Saxena, Dougherty, Benavides and Schmidt, “Evolving feature model configurations in software product
/// lines”, 2014): from one configuration to another over configurations that each stand, with at most so many answers changed in a step. An answer counts
/// as changed where it has another value, is new, or is no longer asked. A* over whole configurations; the fewest steps are found.
/// </summary>
public static class ConfigurationSteps
{
    /// <summary>How many configurations are kept before it is given up.</summary>
    public const int MostKept = 20_000;

    private sealed record Step(Dictionary<string, Value> Values, Step? Before, int Number);

    /// <param name="from">A complete configuration.</param>
    /// <param name="wanted">What the last one has.</param>
    /// <param name="changes">How many answers a step may change, from 1.</param>
    /// <param name="steps">How many steps there may be.</param>
    public static StepsFound Between(Reasoner reasoner, ImmutableArray<Pick> from, ImmutableArray<Pick> wanted, int changes, int steps,
        CancellationToken cancel)
    {
        var first = new Step(from.ToDictionary(p => p.Path, p => p.Value), null, 0);
        var open = new PriorityQueue<Step, (int Total, int Number)>();
        // By configuration, in how few steps it was reached so far; one that was reached by a longer way first is gone on from again.
        var reached = new Dictionary<string, int> { [KeyOf(first.Values)] = 0 };
        open.Enqueue(first, (Left(first.Values), 0));
        while (open.TryDequeue(out var at, out _))
        {
            if (Left(at.Values) == 0)
                return new(WayTo(at), true);
            if (at.Number == steps || reached[KeyOf(at.Values)] < at.Number)
                continue;
            foreach (var next in Beside(reasoner, at.Values, changes, cancel))
            {
                var (number, key) = (at.Number + 1, KeyOf(next));
                if (number + Left(next) > steps || (reached.TryGetValue(key, out var known) && known <= number))
                    continue;
                reached[key] = number;
                if (reached.Count > MostKept)
                    return new(null, false);
                open.Enqueue(new(next, at, number), (number + Left(next), -number));
            }
            if (cancel.IsCancellationRequested)
                return new(null, false);
        }
        return new(null, true);

        // No step changes more, so that this is never more than it takes: what A* asks of an estimate.
        int Left(Dictionary<string, Value> values) =>
            (wanted.Count(p => !values.TryGetValue(p.Path, out var value) || value != p.Value) + changes - 1) / changes;
    }

    private static string KeyOf(Dictionary<string, Value> values) =>
        string.Join('\n', values.OrderBy(v => v.Key, StringComparer.Ordinal).Select(v => $"{v.Key}={v.Value}"));

    private static ImmutableArray<ImmutableArray<Pick>> WayTo(Step last)
    {
        var way = new List<ImmutableArray<Pick>>();
        for (Step? at = last; at is not null; at = at.Before)
            way.Insert(0, [.. at.Values.Select(v => new Pick(v.Key, v.Value))]);
        return [.. way];
    }

    /// <summary>Every configuration that differs in at most so many answers.</summary>
    private static IEnumerable<Dictionary<string, Value>> Beside(Reasoner reasoner, Dictionary<string, Value> values, int changes, CancellationToken cancel)
    {
        foreach (var freed in Subsets([.. values.Keys.Order(StringComparer.Ordinal)], Math.Min(changes, values.Count)))
            foreach (var found in reasoner.Explore(new([.. values.Where(v => !freed.Contains(v.Key)).Select(v => new Pick(v.Key, v.Value))]), cancel))
            {
                var next = found.ToDictionary(p => p.Path, p => p.Value);
                if (Differences(values, next) <= changes)
                    yield return next;
            }
    }

    /// <summary>In how many answers two configurations differ.</summary>
    public static int Differences(IReadOnlyDictionary<string, Value> one, IReadOnlyDictionary<string, Value> other) =>
        one.Keys.Union(other.Keys).Count(path => !one.TryGetValue(path, out var a) || !other.TryGetValue(path, out var b) || a != b);

    private static IEnumerable<HashSet<string>> Subsets(ImmutableArray<string> of, int size)
    {
        var chosen = Enumerable.Range(0, size).ToArray();
        while (true)
        {
            yield return [.. chosen.Select(i => of[i])];
            var at = size - 1;
            while (at >= 0 && chosen[at] == of.Length - size + at)
                at--;
            if (at < 0)
                yield break;
            chosen[at]++;
            for (var i = at + 1; i < size; i++)
                chosen[i] = chosen[i - 1] + 1;
        }
    }
}
