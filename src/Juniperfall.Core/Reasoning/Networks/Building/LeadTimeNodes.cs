using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>
/// The nodes of a lead time whose operations are still open: <see cref="Structures.LeadTime"/> with operations that may be there or not.
/// </summary>
internal sealed class LeadTimeNodes(NodeWriter nodes, RowNodes rows, LineNodes lines)
{
    /// <summary>An operation of a made item, that of phantoms below it among them.</summary>
    /// <param name="There">Whether it is there.</param>
    /// <param name="Days">How long it takes where it is.</param>
    private sealed record Step(OperationLine Operation, int There, int Days);

    /// <summary>What is made below.</summary>
    /// <param name="Sequence">That of the operation that consumes it; null for the first one.</param>
    /// <param name="Ready">When it is ready; nothing where it is not there.</param>
    private sealed record Supply(int? Sequence, int Ready);

    private static bool Consumes(Step step, Supply supply) => step.Operation.Sequence == supply.Sequence;

    private int NoneOf(IEnumerable<Step> steps) => steps.Aggregate(nodes.True, (none, step) => nodes.And(none, nodes.Not(step.There)));

    /// <summary>Working days until a made item is ready.</summary>
    /// <param name="lot">How many pieces of it are made in one lot.</param>
    public int Of(Occurrence made, int lot)
    {
        var (steps, below) = (new List<Step>(), new List<Supply>());
        Gather(made, nodes.True, lot, nodes.Of(Exact.One), steps, below);
        // What is made below is ready before the operation that consumes it; before the first one where none does, or that one is not there.
        var end = below.Select(b => nodes.OrNothing(NoneOf(steps.Where(s => Consumes(s, b))), b.Ready)).Aggregate(nodes.Of(Exact.Zero), nodes.Greatest);
        var groupStart = end;
        // By the name of each parallel group, whether the last operation that is there belongs to it.
        var current = new Dictionary<string, int>(StringComparer.OrdinalIgnoreCase);
        foreach (var step in steps.OrderBy(s => s.Operation.Sequence))
        {
            var group = step.Operation.Parallel.Trim();
            var takes = nodes.OrNothing(step.There, step.Days);
            var joins = current.GetValueOrDefault(group, -1);
            var follows = group.Length == 0 || joins < 0 ? end : nodes.Choose(joins, groupStart, end);
            var start = below.Where(b => Consumes(step, b)).Select(b => nodes.OrNothing(step.There, b.Ready)).Aggregate(follows, nodes.Greatest);
            if (group.Length > 0)
                groupStart = joins < 0 ? nodes.Choose(step.There, end, groupStart) : nodes.Choose(nodes.And(step.There, nodes.Not(joins)), end, groupStart);
            end = group.Length == 0 ? nodes.Add(start, takes) : nodes.Greatest(end, nodes.Add(start, takes));
            foreach (var other in current.Keys.ToList())
                current[other] = other.Equals(group, StringComparison.OrdinalIgnoreCase)
                    ? nodes.Make(Operator.Or, DomainKind.YesNo, step.There, current[other]) : nodes.And(nodes.Not(step.There), current[other]);
            if (group.Length > 0 && joins < 0)
                current[group] = step.There;
        }
        return end;
    }

    /// <summary>Collects the operations of a made item, and the lead times of what is made below it.</summary>
    /// <param name="there">Whether the occurrence is there within its made item.</param>
    /// <param name="lot">How many of the made item there are in a lot.</param>
    /// <param name="factor">How many of the occurrence go into one made item.</param>
    private void Gather(Occurrence at, int there, int lot, int factor, List<Step> steps, List<Supply> below)
    {
        foreach (var row in rows.Rows(at))
            switch (row)
            {
                case OperationLine operation:
                    var seconds = nodes.Add(rows.Field(at, row, "queue", Exact.Zero),
                        nodes.Add(rows.Field(at, row, "setup", Exact.Zero), lines.Run(at, operation, nodes.Multiply(factor, lot))));
                    steps.Add(new(operation, nodes.And(there, rows.Condition(at, row)), lines.AtWorkCentre(at, operation, seconds, rates => rates.Days)));
                    break;
                case Subassembly place:
                    foreach (var inner in rows.Below(at, place))
                    {
                        var (count, isThere) = lines.PiecesOf(at, place, inner, factor);
                        if (place.Make == SubassemblyKind.Phantom)
                            Gather(inner, nodes.And(there, isThere), lot, count, steps, below);
                        else
                            below.Add(new(rows.Operation(place.OperationId)?.Sequence,
                                nodes.OrNothing(nodes.And(there, isThere), Of(inner, nodes.Multiply(count, lot)))));
                    }
                    break;
            }
    }
}
