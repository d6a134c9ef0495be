using System.Collections.Concurrent;
using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Reasons and ways out.</summary>
public sealed partial class Reasoner
{
    // ---- Why ----------------------------------------------------------------------------------------------------

    public Explanation WhyNot(Question question, string path, Value? value, CancellationToken cancel) => Finishing(() =>
    {
        if (!_variables.TryGetValue(path, out var variable))
            return null;
        var target = value is { } wanted ? Having(variable, wanted) : variable.Initial.Only(variable.Initial.Outcomes & ~Outcomes.Absent);
        if (target is not { } domain)
            return new Reason([], []);
        return Explain([.. Standing(question, cancel).Where(p => p.Path != path || value is null)], [[(variable, domain)]], cancel);
    });

    public Explanation WhyFollows(Question question, string path, Value value, CancellationToken cancel) => Finishing(() =>
    {
        if (!_variables.TryGetValue(path, out var variable) || Having(variable, value) is not { } domain)
            return null;
        return Explain([.. Standing(question, cancel).Where(p => p.Path != path)], [.. Others(variable, domain).Select(d => new[] { (variable, d) })], cancel);
    });

    private static Explanation Finishing(Func<Reason?> explain)
    {
        try
        {
            return new(explain(), true);
        }
        catch (SearchInterrupted)
        {
            return new(null, false);
        }
    }

    /// <summary>The attribute's other values, as domains.</summary>
    private static IEnumerable<VariableDomain> Others(Variable variable, VariableDomain value)
    {
        var initial = variable.Initial;
        if ((initial.Outcomes & ~Outcomes.Absent & ~value.Outcomes & ~Outcomes.Present) is var rest and not Outcomes.Impossible)
            yield return initial.Only(rest);
        if (!initial.MayBePresent)
            yield break;
        if (!value.MayBePresent)
            yield return initial.Only(Outcomes.Present);
        else if (initial.Kind == DomainKind.Choice)
        {
            ulong[] others = [.. initial.Bits!.Zip(value.Bits!, (all, one) => all & ~one)];
            if (BitSet.Count(others) > 0)
                yield return initial.Values(others);
        }
        else
        {
            if (value.First > initial.First)
                yield return initial.Steps(initial.First, value.First - 1);
            if (value.First < initial.Last)
                yield return initial.Steps(value.First + 1, initial.Last);
        }
    }

    /// <summary>The picks that can stand together, taken in order.</summary>
    private List<Pick> Standing(Question question, CancellationToken cancel)
    {
        if (_start is null)
            return [];
        return Searching(cancel, search =>
        {
            if (search.Try(Contained(question.Picks)) is not null)
                return [.. Known(question.Picks).Select(k => k.Pick)];
            var standing = new List<Pick>();
            foreach (var (_, pick) in Known(question.Picks))
                if (search.Try(Contained(standing.Append(pick))) is not null)
                    standing.Add(pick);
            return standing;
        });
    }

    private readonly ConcurrentBag<PointEvaluator> _evaluators = [];

    /// <summary>
    /// A minimal set of picks and groups under which none of the cases is possible; null where some case is possible. Of what
    /// a refutation used, members are tried from the last to the first, and what the next one did not use is left out at once
    /// (Marques-Silva, “Minimal unsatisfiability: models, algorithms and applications”, 2010); one that is needed often shows at
    /// once that others are (<see cref="Rotation"/>). The search has no history, so that the set is the same each time.
    /// </summary>
    private Reason? Explain(ImmutableArray<Pick> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases, CancellationToken cancel)
    {
        if (_startWithoutGroups.Value is null)
            return new([], []);
        var search = _unaskedOfGroups.Value.Copy(_spentOfGroups.TryTake(out var spent) ? spent : null);
        if (!_evaluators.TryTake(out var evaluator))
            evaluator = new(_network);
        search.Cancel = cancel;
        try
        {
            return Explain(search, evaluator, picks, cases);
        }
        finally
        {
            _spentOfGroups.Add(search);
            _evaluators.Add(evaluator);
        }
    }

    private Reason? Explain(Search search, PointEvaluator evaluator, ImmutableArray<Pick> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases)
    {
        // Items 0 … p−1 are picks, the rest are groups.
        var known = Known(picks).ToList();
        Assigned[]? possible = null;
        (Variable Variable, VariableDomain To)[] possibleCase = [];
        search.Heed(_network.VariablesOf(-1));
        int[] nearest = [.. _network.GroupsByDistance(cases.SelectMany(c => c).Select(c => c.Variable.Index))];
        var core = default(HashSet<int>);
        foreach (var near in Network.Widening(nearest.Length))
        {
            search.HeedAlso(nearest.Take(near).SelectMany(_network.VariablesOf));
            if ((core = Refuted([.. Enumerable.Range(0, known.Count), .. nearest.Take(near).Select(g => known.Count + g)])) is not null)
                break;
        }
        for (var last = -1; core is not null && core.Count != last;)
            (last, core) = (core.Count, Refuted(core.Order())!);
        if (core is null)
            return null;
        search.Heed(core.Where(i => i >= known.Count).Select(i => i - known.Count).Append(-1).SelectMany(_network.VariablesOf));
        var rotation = new Rotation(_network, evaluator, [.. known], core);
        var needed = new HashSet<int>();
        foreach (var item in core.OrderDescending().ToList())
            if (!core.Contains(item) || needed.Contains(item))
                continue;
            else if (Refuted(core.Where(i => i != item).Order()) is { } without)
                core = without;
            else
                rotation.Spread(item, core, possible!, possibleCase, needed);
        return new([.. core.Where(i => i < known.Count).Order().Select(i => known[i].Pick)],
            [.. core.Where(i => i >= known.Count).Order().Select(i => _network.Groups[i - known.Count]).Select(g => new Cause(g.Kind, g.Row.Id, g.Field, g.Occurrence.Prefix))]);

        // The items that refutations of all cases used; null where some case is possible.
        HashSet<int>? Refuted(IEnumerable<int> items)
        {
            List<Fact> facts = [];
            List<int> itemOf = [];
            foreach (var item in items)
            {
                if (item < known.Count)
                    search.Within(known[item].Variable, Containing(known[item].Variable, known[item].Pick.Value), facts);
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

    // ---- Ways out -----------------------------------------------------------------------------------------------

    /// <summary>
    /// Minimal sets of picks to give up, as minimal hitting sets of the conflicts met so far (Reiter, “A theory of diagnosis
    /// from first principles”, 1987): the smallest candidate is tried; it stands, or shows one more conflict.
    /// </summary>
    public WaysOut WaysOut(Question question, Pick? wanted, CancellationToken cancel)
    {
        if (_start is null)
            return new([], true);
        var target = new List<(Variable, VariableDomain)>();
        if (wanted is { } wish)
        {
            if (!_variables.TryGetValue(wish.Path, out var variable) || Having(variable, wish.Value) is not { } having)
                return new([], true);
            target.Add((variable, having));
        }
        var picks = Known(question.Picks).Where(k => k.Pick.Path != wanted?.Path).ToList();
        var search = NewSearch(cancel);
        var conflictsOf = new PickConflicts(search, picks, target);
        var conflicts = new List<HashSet<int>>();
        var found = new List<HashSet<int>>();
        var result = ImmutableArray.CreateBuilder<WayOut>();
        try
        {
            for (var size = 0; size <= picks.Count; size++)
                while (MinimalHittingSets.Next(conflicts, found, size) is { } dropped)
                {
                    var kept = picks.Where((_, i) => !dropped.Contains(i)).Select(k => k.Pick).ToImmutableArray();
                    if (search.Try(Contained(kept).Concat(target)) is { } solution)
                    {
                        if (dropped.Count == 0)
                            return new([], true);
                        if (result.Count == MostWaysOut)
                            return new(result.ToImmutable(), true) { More = true };
                        found.Add(dropped);
                        result.Add(new([.. dropped.Order().Select(i => new Change(picks[i].Pick,
                            solution[picks[i].Variable.Index].Outcome == Outcomes.Absent ? null : ToValue(picks[i].Variable, solution[picks[i].Variable.Index])))]));
                    }
                    else
                    {
                        var conflict = conflictsOf.Minimal(Enumerable.Range(0, picks.Count).Where(i => !dropped.Contains(i)));
                        if (conflict.Count == 0)
                            return new([], true);
                        conflicts.Add(conflict);
                    }
                }
        }
        catch (SearchInterrupted)
        {
            return new(result.ToImmutable(), false);
        }
        finally
        {
            _spent.Add(search);
        }
        return new(result.ToImmutable(), true);
    }
}
