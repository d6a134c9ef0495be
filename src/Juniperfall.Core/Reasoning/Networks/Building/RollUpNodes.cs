using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>The nodes of cost, weight and work of a structure whose lines are still open, as <see cref="Structures.RollUp"/> adds them up.</summary>
internal sealed class RollUpNodes(NodeWriter nodes, RowNodes rows, LineNodes lines)
{
    /// <param name="Cost">In EUR, overhead included.</param>
    /// <param name="Weight">In kg.</param>
    /// <param name="Work">In seconds.</param>
    public readonly record struct Sums(int Cost, int Weight, int Work);

    /// <summary>One piece of the product.</summary>
    public Sums Of(Occurrence root) => Of(root, nodes.Of(Exact.One), nodes.Of(Exact.One));

    /// <summary>An occurrence in all the made items that it belongs to.</summary>
    /// <param name="factor">How many of it go into one made item.</param>
    /// <param name="lot">How many of the made item there are.</param>
    private Sums Of(Occurrence at, int factor, int lot)
    {
        var (cost, weight, work) = (nodes.Of(Exact.Zero), nodes.Of(Exact.Zero), nodes.Of(Exact.Zero));
        foreach (var row in rows.Rows(at))
            switch (row)
            {
                case PartLine part:
                    var (ofPart, heavy) = lines.Part(at, part, factor, lot);
                    (cost, weight) = (nodes.Add(cost, nodes.OrNothing(rows.Condition(at, row), ofPart)),
                        nodes.Add(weight, nodes.OrNothing(rows.Condition(at, row), heavy)));
                    break;
                case OperationLine operation:
                    var time = nodes.OrNothing(rows.Condition(at, row),
                        nodes.Add(rows.Field(at, row, "setup", Exact.Zero), lines.Run(at, operation, nodes.Multiply(factor, lot))));
                    work = nodes.Add(work, time);
                    cost = nodes.Add(cost, lines.AtWorkCentre(at, operation, time, rates => rates.Cost));
                    break;
                case Subassembly place:
                    foreach (var below in rows.Below(at, place))
                    {
                        var (count, isThere) = lines.PiecesOf(at, place, below, factor);
                        var inner = place.Make == SubassemblyKind.Phantom ? Of(below, count, lot) : Of(below, nodes.Of(Exact.One), nodes.Multiply(count, lot));
                        (cost, weight, work) = (nodes.Add(cost, nodes.OrNothing(isThere, inner.Cost)),
                            nodes.Add(weight, nodes.OrNothing(isThere, inner.Weight)),
                            nodes.Add(work, nodes.OrNothing(isThere, inner.Work)));
                    }
                    break;
            }
        return new(cost, weight, work);
    }
}
