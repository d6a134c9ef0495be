using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>Writes the lead time of one piece as a node: the arithmetic of <see cref="Structures.LeadTime"/> over lines that are still open.</summary>
internal sealed partial class NetworkBuilder
{
    /// <summary>An operation of a made item, that of phantoms below it among them.</summary>
    /// <param name="There">Whether it is there.</param>
    /// <param name="Days">How long it takes where it is.</param>
    private sealed record Step(OperationLine Operation, int There, int Days);

    /// <summary>Working days until a made item is ready.</summary>
    /// <param name="lot">How many pieces of it are made in one lot.</param>
    private int LeadTimeOf(Occurrence made, int lot)
    {
        var (steps, below) = (new List<Step>(), new List<int>());
        Gather(made, _true, lot, Number(Exact.One), steps, below);
        // What is made below is ready before the first operation.
        var end = below.Aggregate(Number(Exact.Zero), (a, b) => Make(Operator.Maximum, DomainKind.Number, a, b));
        var groupStart = end;
        // By the name of each parallel group, whether the last operation that is there belongs to it.
        var current = new Dictionary<string, int>(StringComparer.OrdinalIgnoreCase);
        foreach (var step in steps.OrderBy(s => s.Operation.Sequence))
        {
            var group = step.Operation.Parallel.Trim();
            var takes = OrNothing(step.There, step.Days);
            var joins = current.GetValueOrDefault(group, -1);
            var start = group.Length == 0 || joins < 0 ? end : Choose(joins, groupStart, end);
            if (group.Length > 0)
                groupStart = joins < 0 ? Choose(step.There, end, groupStart) : Choose(Both(step.There, Opposite(joins)), end, groupStart);
            end = group.Length == 0 ? Sum(end, takes) : Make(Operator.Maximum, DomainKind.Number, end, Sum(start, takes));
            foreach (var other in current.Keys.ToList())
                current[other] = other.Equals(group, StringComparison.OrdinalIgnoreCase) ? Make(Operator.Or, DomainKind.YesNo, step.There, current[other]) : Both(Opposite(step.There), current[other]);
            if (group.Length > 0 && joins < 0)
                current[group] = step.There;
        }
        return end;
    }

    private int Both(int a, int b) => Make(Operator.And, DomainKind.YesNo, a, b);
    private int Opposite(int a) => Make(Operator.Not, DomainKind.YesNo, a);
    private int Choose(int condition, int then, int otherwise) => condition == _true ? then : Make(Operator.If, DomainKind.Number, condition, then, otherwise);

    /// <summary>Collects the operations of a made item, and the lead times of what is made below it.</summary>
    /// <param name="there">Whether the occurrence is there within its made item.</param>
    /// <param name="lot">How many of the made item there are in a lot.</param>
    /// <param name="factor">How many of the occurrence go into one made item.</param>
    private void Gather(Occurrence at, int there, int lot, int factor, List<Step> steps, List<int> below)
    {
        foreach (var row in Rows(at))
            switch (row)
            {
                case OperationLine operation:
                    var seconds = Sum(Field(at, row, "queue", Exact.Zero), Sum(Field(at, row, "setup", Exact.Zero), Run(at, operation, Product(factor, lot))));
                    steps.Add(new(operation, there == _true ? Condition(at, row) : Both(there, Condition(at, row)), AtWorkCentre(at, operation, seconds, centre =>
                        centre is not null && Exact.TryParse(centre.HoursPerDay, out var perDay) && perDay.Sign > 0 ? 1 / (3600 * perDay) : Exact.Of(1, 8 * 3600))));
                    break;
                case Subassembly place:
                    foreach (var inner in _occurrences.Values.Where(o => o.Parent == at && o.Place == place))
                    {
                        var (count, isThere) = PiecesOf(at, place, inner, factor);
                        if (place.Make == SubassemblyKind.Phantom)
                            Gather(inner, there == _true ? isThere : Both(there, isThere), lot, count, steps, below);
                        else
                            below.Add(OrNothing(there == _true ? isThere : Both(there, isThere), LeadTimeOf(inner, Product(count, lot))));
                    }
                    break;
            }
    }
}
