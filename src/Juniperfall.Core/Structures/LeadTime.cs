using System.Collections.Immutable;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Structures;

/// <summary>An operation in time. Days are working days of its work centre from the start of everything, exact.</summary>
/// <param name="Depth">The level of the made item; 0 for the product.</param>
/// <param name="IsCritical">Whether the whole takes longer if this does.</param>
public sealed record ScheduledOperation(string Item, int Depth, RoutingOperation Operation, Exact Start, Exact End, bool IsCritical);

/// <param name="Days">How long the whole takes, in working days.</param>
/// <param name="LongestBought">The bought item that takes longest to get, with its days; null where none says.</param>
public sealed record Schedule(Exact Days, ImmutableArray<ScheduledOperation> Operations, (string Item, Exact Days)? LongestBought);

/// <summary>
/// The lead time of a lot by critical path across levels (Kelley and Walker, “Critical-path planning and scheduling”, 1959):
/// operations follow each other, those of a parallel group run together, and what is made below is ready before the operation
/// that consumes it. Times turn into days by the hours that a work centre works. Capacity is not looked at: the lots of several
/// instances run side by side, whether they come out equal or not.
/// </summary>
public static class LeadTime
{
    private sealed class Task(string item, int depth, RoutingOperation operation, Exact days)
    {
        public readonly List<Task> After = [];
        public string Item => item;
        public int Depth => depth;
        public RoutingOperation Operation => operation;
        public Exact Days => days;
        public Exact Start, End, LatestEnd;
    }

    /// <param name="lot">How many are made, above zero.</param>
    public static Schedule Of(Structure structure, LibraryFacts facts, Exact lot)
    {
        var tasks = new List<Task>();
        (string Item, Exact Days)? longest = null;
        Add(structure, 0, lot, 1);
        // Each task stands after those that it waits for.
        foreach (var task in tasks)
        {
            task.Start = task.After.Aggregate(Exact.Zero, (at, before) => Exact.Max(at, before.End));
            task.End = task.Start + task.Days;
        }
        var days = tasks.Aggregate(Exact.Zero, (at, task) => Exact.Max(at, task.End));
        foreach (var task in tasks)
            task.LatestEnd = days;
        for (var i = tasks.Count - 1; i >= 0; i--)
            foreach (var before in tasks[i].After)
                before.LatestEnd = Exact.Min(before.LatestEnd, tasks[i].LatestEnd - tasks[i].Days);
        return new(days, [.. tasks.Select(t => new ScheduledOperation(t.Item, t.Depth, t.Operation, t.Start, t.End, t.LatestEnd == t.End))], longest);

        // The tasks that the made item is ready after.
        List<Task> Add(Structure at, int depth, Exact size, int lots)
        {
            var ready = new List<(int? Operation, List<Task> Tasks)>();
            foreach (var line in at.Bom)
                if (line.Below is { } below)
                    ready.Add((line.Operation, Add(below, depth + 1, size * line.Gross, lots * line.Lots)));
                else if (facts.Items.GetValueOrDefault(line.Item) is { Kind: "bought" } item && Exact.TryParse(item.LeadTimeDays, out var wait)
                    && (longest is null || wait > longest.Value.Days))
                    longest = (line.Item, wait);
            var before = new List<Task>();
            var isFirst = true;
            for (var i = 0; i < at.Routing.Length;)
            {
                var group = i + 1;
                while (group < at.Routing.Length && at.Routing[i].Parallel.Length > 0
                    && at.Routing[group].Parallel.Equals(at.Routing[i].Parallel, StringComparison.OrdinalIgnoreCase))
                    group++;
                var now = new List<Task>();
                for (; i < group; i++)
                {
                    var task = new Task(at.Item, depth, at.Routing[i], Days(at.Routing[i], facts, size, lots));
                    task.After.AddRange(before);
                    foreach (var (operation, waited) in ready)
                        if (operation == at.Routing[i].Sequence || (isFirst && (operation is null || at.Routing.All(o => o.Sequence != operation))))
                            task.After.AddRange(waited);
                    tasks.Add(task);
                    now.Add(task);
                }
                isFirst = false;
                before = now;
            }
            return at.Routing.IsEmpty ? [.. ready.SelectMany(r => r.Tasks)] : before;
        }
    }

    private static Exact Days(RoutingOperation operation, LibraryFacts facts, Exact lot, int lots) =>
        (operation.Queue + operation.Setup + operation.RunOf(lot / lots)) * WorkRates
            .Of(facts.WorkCentres.GetValueOrDefault(operation.WorkCentre), operation.Crew).Days;
}
