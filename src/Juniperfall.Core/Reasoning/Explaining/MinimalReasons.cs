using System.Collections.Concurrent;
using System.Collections.Immutable;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>
/// Minimal unsatisfiable subsets of picks and rules. Of what a refutation used, members are tried from the last to the first, and what
/// the next one did not use is left out at once (Marques-Silva, “Minimal unsatisfiability: models, algorithms and applications”, 2010);
/// one that is needed often shows at once that others are (<see cref="ModelRotation"/>). The search has no history, so that the set is the
/// same each time.
/// </summary>
internal sealed class MinimalReasons(PreparedNetwork prepared)
{
    private readonly ConcurrentBag<PointEvaluator> _evaluators = [];

    /// <summary>A minimal set of picks and groups under which none of the cases is possible; null where some case is possible.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Reason? Of(ImmutableArray<Pick> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases, CancellationToken cancel)
    {
        if (prepared.StartWithoutGroups is null)
            return new([], []);
        if (!_evaluators.TryTake(out var evaluator))
            evaluator = new(prepared.Network);
        try
        {
            return prepared.SearchesOfGroups.Fresh(cancel, session => Of(session.Search, evaluator, picks, cases));
        }
        finally
        {
            _evaluators.Add(evaluator);
        }
    }

    private Reason? Of(Search search, PointEvaluator evaluator, ImmutableArray<Pick> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases)
    {
        // Items 0 … p−1 are picks, the rest are groups.
        var known = prepared.OfVariables(picks).ToList();
        Assigned[]? possible = null;
        (Variable Variable, VariableDomain To)[] possibleCase = [];
        search.HeedOnly(prepared.Network.VariablesOf(-1));
        int[] nearest = [.. prepared.Network.GroupsByDistance(cases.SelectMany(c => c).Select(c => c.Variable.Index))];
        var core = default(HashSet<int>);
        foreach (var near in Network.Widening(nearest.Length))
        {
            search.HeedAlso(nearest.Take(near).SelectMany(prepared.Network.VariablesOf));
            if ((core = Refuted([.. Enumerable.Range(0, known.Count), .. nearest.Take(near).Select(g => known.Count + g)])) is not null)
                break;
        }
        for (var last = -1; core is not null && core.Count != last;)
            (last, core) = (core.Count, Refuted(core.Order())!);
        if (core is null)
            return null;
        search.HeedOnly(core.Where(i => i >= known.Count).Select(i => i - known.Count).Append(-1).SelectMany(prepared.Network.VariablesOf));
        var rotation = new ModelRotation(prepared.Network, evaluator, [.. known], core);
        var needed = new HashSet<int>();
        foreach (var item in core.OrderDescending().ToList())
            if (!core.Contains(item) || needed.Contains(item))
                continue;
            else if (Refuted(core.Where(i => i != item).Order()) is { } without)
                core = without;
            else
                rotation.Spread(item, core, possible!, possibleCase, needed);
        return new([.. core.Where(i => i < known.Count).Order().Select(i => known[i].Pick)],
            [.. core.Where(i => i >= known.Count).Order().Select(i => prepared.Network.Groups[i - known.Count]).Select(g => new Cause(g.Kind, g.Row.Id, g.Field, g.Occurrence.Prefix))]);

        // The items that refutations of all cases used; null where some case is possible.
        HashSet<int>? Refuted(IEnumerable<int> items)
        {
            List<Fact> facts = [];
            List<int> itemOf = [];
            foreach (var item in items)
            {
                if (item < known.Count)
                    search.Within(known[item].Variable, PickDomains.Containing(known[item].Variable, known[item].Pick.Value), facts);
                else
                    facts.Add(search.Holds(item - known.Count));
                while (itemOf.Count < facts.Count)
                    itemOf.Add(item);
            }
            var used = new HashSet<int>();
            foreach (var one in cases)
            {
                List<Fact> all = [.. facts];
                foreach (var (variable, to) in one)
                    search.Within(variable, to, all);
                if (search.Solve(all) is { } solution)
                {
                    (possible, possibleCase) = (solution, one);
                    return null;
                }
                used.UnionWith(search.Core.Where(c => c < itemOf.Count).Select(c => itemOf[c]));
            }
            return used;
        }
    }
}
