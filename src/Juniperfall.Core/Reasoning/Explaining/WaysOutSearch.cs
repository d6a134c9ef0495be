using System.Collections.Immutable;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>Smallest sets of picks to change so that all stand together.</summary>
internal sealed class WaysOutSearch(PreparedNetwork prepared)
{
    private const int MostWaysOut = 5;

    /// <summary>
    /// Minimal sets of picks to give up, as minimal hitting sets of the conflicts met so far (Reiter, “A theory of diagnosis
    /// from first principles”, 1987): the smallest candidate is tried; it stands, or shows one more conflict.
    /// </summary>
    public WaysOut Of(Question question, Pick? wanted, CancellationToken cancel)
    {
        if (prepared.Start is null)
            return new([], true);
        var target = new List<(Variable, VariableDomain)>();
        if (wanted is { } wish)
        {
            if (prepared.VariableAt(wish.Path) is not { } variable || PickDomains.Having(variable, wish.Value) is not { } having)
                return new([], true);
            target.Add((variable, having));
        }
        var picks = prepared.OfVariables(question.Picks).Where(k => k.Pick.Path != wanted?.Path).ToList();
        try
        {
            return prepared.Searches.Fresh(cancel, session => Of(session, picks, target));
        }
        catch (SearchInterrupted)
        {
            return new([], false);
        }
    }

    private WaysOut Of(SearchSession session, List<(Variable Variable, Pick Pick)> picks, List<(Variable, VariableDomain)> target)
    {
        var conflictsOf = new PickConflicts(session.Search, picks, target);
        var conflicts = new List<HashSet<int>>();
        var found = new List<HashSet<int>>();
        var result = ImmutableArray.CreateBuilder<WayOut>();
        try
        {
            for (var size = 0; size <= picks.Count; size++)
                while (MinimalHittingSets.Next(conflicts, found, size) is { } dropped)
                {
                    var kept = picks.Where((_, i) => !dropped.Contains(i)).Select(k => k.Pick).ToImmutableArray();
                    if (session.Try(prepared.Containing(kept).Concat(target)) is { } solution)
                    {
                        if (dropped.Count == 0)
                            return new([], true);
                        if (result.Count == MostWaysOut)
                            return new(result.ToImmutable(), true) { More = true };
                        found.Add(dropped);
                        result.Add(new([.. dropped.Order().Select(i => new Change(picks[i].Pick,
                            solution[picks[i].Variable.Index].Outcome == Outcomes.Absent
                                ? null : PickDomains.ToValue(picks[i].Variable, solution[picks[i].Variable.Index])))]));
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
        return new(result.ToImmutable(), true);
    }
}
