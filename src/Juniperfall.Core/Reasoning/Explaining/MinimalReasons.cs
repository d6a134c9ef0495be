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
        if (!IsPossibleWithoutRules(cancel))
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

    private bool IsPossibleWithoutRules(CancellationToken cancel)
    {
        try
        {
            return prepared.StartWithoutGroups(cancel) is not null;
        }
        catch (OperationCanceledException)
        {
            throw new SearchInterrupted();
        }
    }

    private Reason? Of(Search search, PointEvaluator evaluator, ImmutableArray<Pick> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases)
    {
        var (network, known) = (prepared.Network, prepared.OfVariables(picks).ToList());
        var refuter = new Refuter(search, known, cases);
        if (FirstCore(search, refuter, known.Count, cases) is not { } core)
            return null;
        search.ProjectTo(core.Where(i => i >= known.Count).Select(i => i - known.Count).Append(-1).SelectMany(network.VariablesOf));
        var rotation = new ModelRotation(network, evaluator, [.. known], core);
        var needed = new HashSet<int>();
        foreach (var item in core.OrderDescending().ToList())
            if (!core.Contains(item) || needed.Contains(item))
                continue;
            else if (refuter.Refuted(core.Where(i => i != item).Order()) is { } without)
                core = without;
            else
                rotation.Spread(item, core, refuter.Possible!, refuter.PossibleCase, needed);
        return new([.. core.Where(i => i < known.Count).Order().Select(i => known[i].Pick)],
            [.. core.Where(i => i >= known.Count).Order().Select(i => network.Groups[i - known.Count])
                .Select(g => new Cause(g.Kind, g.Row.Id, g.Field, g.Occurrence.Prefix))]);
    }

    /// <summary>What refutations used of the nearest rules, or of all; null where some case is possible.</summary>
    private HashSet<int>? FirstCore(Search search, Refuter refuter, int picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases)
    {
        search.ProjectTo(prepared.Network.VariablesOf(-1));
        int[] nearest = [.. prepared.Network.GroupsByDistance(cases.SelectMany(c => c).Select(c => c.Variable.Index))];
        var core = default(HashSet<int>);
        foreach (var near in Network.Widening(nearest.Length))
        {
            search.ProjectAlsoTo(nearest.Take(near).SelectMany(prepared.Network.VariablesOf));
            if ((core = refuter.Refuted([.. Enumerable.Range(0, picks), .. nearest.Take(near).Select(g => picks + g)])) is not null)
                break;
        }
        for (var last = -1; core is not null && core.Count != last;)
            (last, core) = (core.Count, refuter.Refuted(core.Order())!);
        return core;
    }

    /// <summary>Refutes cases under some items. Items 0 … p−1 are picks, the rest are groups.</summary>
    private sealed class Refuter(Search search, List<(Variable Variable, Pick Pick)> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases)
    {
        /// <summary>A configuration of the case that was found possible last.</summary>
        public Assigned[]? Possible { get; private set; }
        public (Variable Variable, VariableDomain To)[] PossibleCase { get; private set; } = [];

        /// <summary>The items that refutations of all cases used; null where some case is possible.</summary>
        public HashSet<int>? Refuted(IEnumerable<int> items)
        {
            List<Fact> facts = [];
            List<int> itemOf = [];
            foreach (var item in items)
            {
                if (item < picks.Count)
                    search.Within(picks[item].Variable, PickDomains.Containing(picks[item].Variable, picks[item].Pick.Value), facts);
                else
                    facts.Add(search.Holds(item - picks.Count));
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
                    (Possible, PossibleCase) = (solution, one);
                    return null;
                }
                used.UnionWith(search.Core.Where(c => c < itemOf.Count).Select(c => itemOf[c]));
            }
            return used;
        }
    }
}
