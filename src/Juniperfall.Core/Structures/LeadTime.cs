using System.Collections.Immutable;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Structures;

/// <summary>An operation in time. Days are working days of its work centre from the start of everything, exact.</summary>
/// <param name="Depth">The level of the made item; 0 for the product.</param>
/// <param name="IsCritical">Whether the whole takes longer if this does.</param>
public sealed record ScheduledOperation(string Item, int Depth, RoutingOperation Operation, Exact Start, Exact End, bool IsCritical);

/// <summary>When an item that is not made here is needed first, in working days from the start of everything.</summary>
/// <param name="Unit">UCUM code; empty for pieces.</param>
public sealed record MaterialNeed(string Item, string Unit, Exact At);

/// <param name="Days">How long the whole takes, in working days.</param>
/// <param name="LongestBought">The bought item that takes longest to get, with its days; null where none says.</param>
/// <param name="Needs">One for each item and unit: at the first operation that consumes it.</param>
public sealed record Schedule(Exact Days, ImmutableArray<ScheduledOperation> Operations, (string Item, Exact Days)? LongestBought,
    ImmutableArray<MaterialNeed> Needs);

/// <summary>
/// The lead time of a lot by critical path across levels (Kelley and Walker, “Critical-path planning and scheduling”, 1959):
/// operations follow each other, those of a parallel group run together, and what is made below is ready before the operation
/// that consumes it. Times turn into days by the hours that a work centre works. Capacity is not looked at: the lots of several
/// instances run side by side, whether they come out equal or not.
/// </summary>
public sealed class LeadTime
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

    private readonly LibraryFacts _facts;

    /// <summary>Each stands after those that it waits for.</summary>
    private readonly List<Task> _tasks = [];

    /// <summary>The lines of what is not made here, each with the operations that consume it.</summary>
    private readonly List<(BomLine Line, List<Task> At)> _needs = [];

    private LeadTime(LibraryFacts facts) => _facts = facts;

    /// <param name="lot">How many are made, above zero.</param>
    public static Schedule Of(Structure structure, LibraryFacts facts, Exact lot)
    {
        var plan = new LeadTime(facts);
        plan.Add(structure, 0, lot, 1);
        return plan.Schedule();
    }

    private Schedule Schedule()
    {
        foreach (var task in _tasks)
        {
            task.Start = task.After.Aggregate(Exact.Zero, (at, before) => Exact.Max(at, before.End));
            task.End = task.Start + task.Days;
        }
        var days = _tasks.Aggregate(Exact.Zero, (at, task) => Exact.Max(at, task.End));
        foreach (var task in _tasks)
            task.LatestEnd = days;
        for (var i = _tasks.Count - 1; i >= 0; i--)
            foreach (var before in _tasks[i].After)
                before.LatestEnd = Exact.Min(before.LatestEnd, _tasks[i].LatestEnd - _tasks[i].Days);
        return new(days, [.. _tasks.Select(t => new ScheduledOperation(t.Item, t.Depth, t.Operation, t.Start, t.End, t.LatestEnd == t.End))], LongestBought(),
            [.. _needs.GroupBy(n => (n.Line.Item, n.Line.Unit)).Select(g => new MaterialNeed(g.Key.Item, g.Key.Unit,
                g.SelectMany(n => n.At.Select(t => t.Start).DefaultIfEmpty(Exact.Zero)).Aggregate(Exact.Min)))]);
    }

    private (string Item, Exact Days)? LongestBought()
    {
        (string Item, Exact Days)? longest = null;
        foreach (var (line, _) in _needs)
            if (_facts.Items.GetValueOrDefault(line.Item) is { Kind: "bought" } item && Exact.TryParse(item.LeadTimeDays, out var wait)
                && (longest is null || wait > longest.Value.Days))
                longest = (line.Item, wait);
        return longest;
    }

    /// <summary>Adds the tasks of a made item and of all below it; the tasks that it is ready after.</summary>
    private List<Task> Add(Structure at, int depth, Exact size, int lots)
    {
        var ready = at.Bom.Where(l => l.Below is not null)
            .Select(l => (l.Operation, Tasks: Add(l.Below!, depth + 1, size * l.Gross, lots * l.Lots))).ToList();
        var (own, first, before) = (new List<Task>(), new List<Task>(), new List<Task>());
        for (var i = 0; i < at.Routing.Length;)
        {
            var group = i + 1;
            while (group < at.Routing.Length && at.Routing[i].Parallel.Length > 0
                && at.Routing[group].Parallel.Equals(at.Routing[i].Parallel, StringComparison.OrdinalIgnoreCase))
                group++;
            var now = new List<Task>();
            for (; i < group; i++)
            {
                var task = new Task(at.Item, depth, at.Routing[i], Days(at.Routing[i], _facts, size, lots));
                task.After.AddRange(before);
                foreach (var (operation, waited) in ready)
                    if (operation == at.Routing[i].Sequence || (own.Count == 0 && (operation is null || at.Routing.All(o => o.Sequence != operation))))
                        task.After.AddRange(waited);
                now.Add(task);
            }
            first = own.Count == 0 ? now : first;
            own.AddRange(now);
            before = now;
        }
        _tasks.AddRange(own);
        foreach (var line in at.Bom.Where(l => l.Below is null))
            _needs.Add((line, own.FindAll(t => t.Operation.Sequence == line.Operation) is { Count: > 0 } consumers ? consumers : first));
        return at.Routing.IsEmpty ? [.. ready.SelectMany(r => r.Tasks)] : before;
    }

    private static Exact Days(RoutingOperation operation, LibraryFacts facts, Exact lot, int lots) =>
        (operation.Queue + operation.Setup + operation.RunOf(lot / lots)) * WorkRates
            .Of(facts.WorkCentres.GetValueOrDefault(operation.WorkCentre), operation.Crew).Days;
}
