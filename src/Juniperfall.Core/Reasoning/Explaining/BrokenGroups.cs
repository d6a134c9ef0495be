using System.Collections.Immutable;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>What a whole configuration breaks, by evaluation alone.</summary>
internal static class BrokenGroups
{
    /// <summary>
    /// The rules, conditions and inner bounds that do not hold with these values; what comes to apply without a value has the one that is preferred.
    /// Null where it is no configuration for another reason: a value beyond the outermost bounds, a missing one, something that cannot be computed.
    /// </summary>
    public static ImmutableArray<Cause>? Of(PreparedNetwork prepared, IReadOnlyCollection<Pick> values)
    {
        var network = prepared.Network;
        var evaluator = new PointEvaluator(network);
        var (wanted, result) = (prepared.Known.Wanted(values), new Assigned[network.Variables.Length]);
        var broken = new List<int>();
        while (true)
        {
            evaluator.Activate(g => !broken.Contains(g));
            if (evaluator.Evaluate(wanted, prepared.Suggestions.Preferred, result) == Verdict.Solution)
                return [.. broken.Order().Select(g => network.Groups[g]).Select(g => new Cause(g.Kind, g.Row.Id, g.Field, g.Occurrence.Prefix))];
            var failing = network.Roots.Where(r => r.Node == evaluator.FailedAt && r.Group >= 0 && !broken.Contains(r.Group)).Select(r => r.Group).ToList();
            if (failing.Count == 0)
                return null;
            broken.AddRange(failing);
        }
    }
}
