namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// The order in which variables are taken out of the graph of what clauses join, each time one whose neighbours, which are joined then, lack fewest
/// edges among them (Kjærulff, “Triangulation of graphs – algorithms giving small total state space”, 1990). What goes last holds the graph together.
/// </summary>
internal sealed class EliminationOrder
{
    /// <summary>With more neighbours, missing edges are not counted: those go last in any case.</summary>
    private const int MostCounted = 40;

    private readonly HashSet<int>[] _neighbours;

    private EliminationOrder(int variables, IReadOnlyList<SlotClause> clauses)
    {
        _neighbours = [.. Enumerable.Range(0, variables).Select(_ => new HashSet<int>())];
        foreach (var clause in clauses)
            foreach (var (one, _) in clause.Literals)
                foreach (var (other, _) in clause.Literals)
                    if (one != other)
                        _neighbours[one].Add(other);
    }

    /// <param name="variables">How many variables there are.</param>
    /// <param name="mostNeighbours">Where more are to be joined, it is given up.</param>
    /// <returns>By variable, its place; null where it was given up.</returns>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static int[]? Of(int variables, IReadOnlyList<SlotClause> clauses, int mostNeighbours, CancellationToken cancel) =>
        new EliminationOrder(variables, clauses).Places(mostNeighbours, cancel);

    private int[]? Places(int mostNeighbours, CancellationToken cancel)
    {
        var (places, waiting, touched) = (new int[_neighbours.Length], new PriorityQueue<int, (int, int)>(), new HashSet<int>());
        Array.Fill(places, -1);
        for (var v = 0; v < places.Length; v++)
            waiting.Enqueue(v, (MissingAround(v), v));
        for (var place = 0; waiting.TryDequeue(out var variable, out var rank);)
        {
            if (places[variable] >= 0 || rank.Item1 != MissingAround(variable))
                continue;
            cancel.ThrowIfCancellationRequested();
            var around = _neighbours[variable];
            if (around.Count > mostNeighbours)
                return null;
            places[variable] = place++;
            foreach (var one in around)
            {
                _neighbours[one].UnionWith(around);
                _neighbours[one].ExceptWith([one, variable]);
                touched.Add(one);
            }
            foreach (var one in around)
                touched.UnionWith(_neighbours[one]);
            foreach (var one in touched)
                waiting.Enqueue(one, (MissingAround(one), one));
            touched.Clear();
        }
        return places;
    }

    private int MissingAround(int variable)
    {
        var around = _neighbours[variable];
        if (around.Count > MostCounted)
            return (MostCounted * MostCounted) + around.Count;
        var missing = 0;
        foreach (var one in around)
            foreach (var other in around)
                if (one < other && !_neighbours[one].Contains(other))
                    missing++;
        return missing;
    }
}
