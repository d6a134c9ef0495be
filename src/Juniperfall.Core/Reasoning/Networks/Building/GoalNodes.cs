using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>The nodes of what a structure comes to as a whole, by the names of <see cref="StructureGoals"/>.</summary>
internal static class GoalNodes
{
    private static readonly Exact Cent = Exact.Of(1, 100);

    public static Dictionary<string, int> Of(BoundModel model, Effectivity at, NodeWriter nodes, RowNodes rows, ExpressionNodes expressions, Occurrence root)
    {
        var goals = new Dictionary<string, int>();
        var lines = new LineNodes(model, at, nodes, rows, expressions);
        if (PriceFields.AreIn(model.Document))
            goals[StructureGoals.Price] = nodes.Rounded(new PriceNodes(model, nodes, rows, expressions, lines).Of(root), nodes.Of(Cent), PriceRounding.Nearest);
        try
        {
            var all = new RollUpNodes(nodes, rows, lines).Of(root);
            (goals[StructureGoals.Cost], goals[StructureGoals.Weight], goals[StructureGoals.Work]) = (all.Cost, all.Weight, all.Work);
            goals[StructureGoals.LeadTime] = new LeadTimeNodes(nodes, rows, lines).Of(root, nodes.Of(Exact.One));
        }
        catch (NotSupportedException)
        {
            // Then these goals are not offered.
        }
        return goals;
    }

    /// <summary>Whether one piece can be listed for less than it costs, asked at the first row that makes up the price.</summary>
    public static IEnumerable<Probe> Probes(BoundModel model, NodeWriter nodes, List<Occurrence> occurrences, Dictionary<string, int> goals)
    {
        if (goals.TryGetValue(StructureGoals.Price, out var price) && goals.TryGetValue(StructureGoals.Cost, out var cost)
            && PriceFields.FirstRow(model.Document) is { } row)
            yield return new(ProbeKind.PriceUnderCost, row, occurrences[0], "", nodes.Make(Operator.Less, DomainKind.YesNo, price, cost), Outcomes.True);
    }
}
