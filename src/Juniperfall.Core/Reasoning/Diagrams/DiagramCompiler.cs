using System.Numerics;
using System.Runtime.CompilerServices;

namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// Makes a <see cref="DecisionDiagram"/> of clauses: a variable is decided, what follows is propagated, what then falls apart is done part by part, and
/// a part that was met before is the same node (Huang and Darwiche, “The language of search”, 2007). Decided is the variable that holds a part
/// together: the last in the order of elimination.
/// </summary>
internal sealed class DiagramCompiler
{
    /// <summary>How many edges a diagram may have, how much may be looked at for it, how much of parts is remembered, and how deep it may be.</summary>
    public const int MostEdges = 600_000;
    private const long MostWork = 200_000_000;
    private const int MostRemembered = 30_000_000, MostDepth = 2_000, MostNeighbours = 120;

    private readonly ClausePropagation _clauses;
    private readonly int[] _places, _leafOf;
    private readonly int[] _slots;
    private readonly CancellationToken _cancel;

    private readonly List<int> _first = [0], _children = [];
    private readonly List<bool> _isAll = [];
    private readonly Dictionary<Key, int> _nodes = [], _parts = [];
    private readonly int[] _seen, _seenClause;
    private int _visit, _depth;
    private long _work, _remembered;
    private bool _isGivenUp;

    private const int None = -1;
    private const ulong YesAndNo = 3;

    private DiagramCompiler(int[] variables, ulong[] all, IReadOnlyList<SlotClause> clauses, Func<int, int> firstSlot, int[] places, CancellationToken cancel)
    {
        (_places, _cancel) = (places, cancel);
        _clauses = new(all, clauses);
        (_seen, _seenClause, _leafOf) = (new int[all.Length], new int[clauses.Count], new int[all.Length]);
        var slots = new List<int>();
        for (var v = 0; v < all.Length; v++)
        {
            _leafOf[v] = slots.Count;
            for (var value = 0; value < BitOperations.PopCount(all[v]); value++)
                slots.Add(firstSlot(variables[v]) + value);
        }
        _slots = [.. slots];
    }

    /// <param name="variables">The variables of the network that are decided.</param>
    /// <param name="all">By place among them: the values, as bits from the lowest on.</param>
    /// <param name="clauses">What has to hold, with variables by their place.</param>
    /// <param name="firstSlot">The slot of the first value of a variable of the network.</param>
    /// <returns>Null where it was given up because it became too large, or where no configuration is left.</returns>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static DecisionDiagram? Of(int[] variables, ulong[] all, IReadOnlyList<SlotClause> clauses, Func<int, int> firstSlot, CancellationToken cancel)
    {
        if (EliminationOrder.Of(all.Length, clauses, MostNeighbours, cancel) is not { } places)
            return null;
        var compiler = new DiagramCompiler(variables, all, clauses, firstSlot, places, cancel);
        if (!compiler._clauses.Propagate())
            return null;
        var root = compiler.All([.. Enumerable.Range(0, all.Length)]);
        if (root == None || compiler._isGivenUp)
            return null;
        // Its root stands last, and is no leaf.
        compiler._nodes.Clear();
        compiler.Node(isAll: true, [root]);
        return new(variables, compiler._slots, [.. compiler._first], [.. compiler._children], [.. compiler._isAll]);
    }

    /// <summary>Everything that is left of some variables; all that follows is propagated.</summary>
    private int All(ReadOnlySpan<int> variables)
    {
        var (visit, parts, children) = (++_visit, new List<int[]>(), new List<int>());
        foreach (var variable in variables)
        {
            if (_seen[variable] == visit)
                continue;
            if (_clauses.IsDecided(variable))
            {
                _seen[variable] = visit;
                children.Add(Values(variable, _clauses.Left(variable)));
            }
            else if (PartOf(variable, visit) is { Length: > 1 } part)
                parts.Add(part);
            else
                // A clause that is open only here would have narrowed it: it is free.
                children.Add(Values(variable, _clauses.Left(variable)));
        }
        // What is decided or free often is the same beside different parts.
        if (children.Count > 1 && parts.Count > 0)
            children = [Node(isAll: true, [.. children])];
        parts.Sort((a, b) => a.Length - b.Length);
        foreach (var part in parts)
        {
            if (Part(part) is not (>= 0 and var node))
                return None;
            children.Add(node);
        }
        return children.Count == 1 ? children[0] : Node(isAll: true, [.. children]);
    }

    private readonly Stack<int> _open = new();

    /// <summary>The variables that hang together with one by what clauses are open.</summary>
    private int[] PartOf(int start, int visit)
    {
        var part = new List<int>();
        _open.Push(start);
        _seen[start] = visit;
        while (_open.TryPop(out var variable))
        {
            part.Add(variable);
            foreach (var (clause, _) in _clauses.LiteralsOf(variable))
            {
                _work++;
                if (_seenClause[clause] == visit)
                    continue;
                _seenClause[clause] = visit;
                if (_clauses.IsMet(clause))
                    continue;
                foreach (var other in _clauses.VariablesOf(clause))
                    if (_seen[other] != visit && !_clauses.IsDecided(other))
                    {
                        _seen[other] = visit;
                        _open.Push(other);
                    }
            }
        }
        return [.. part];
    }

    /// <summary>What is left of a part whose variables hang together; −1 where nothing is, or it was given up.</summary>
    private int Part(int[] variables)
    {
        _cancel.ThrowIfCancellationRequested();
        Array.Sort(variables);
        var key = KeyOf(variables);
        if (_parts.TryGetValue(key, out var known))
            return known;
        _isGivenUp |= _children.Count > MostEdges || _work > MostWork || _depth > MostDepth || !RuntimeHelpers.TryEnsureSufficientExecutionStack();
        if (_isGivenUp)
            return None;
        _depth++;
        var chosen = variables[0];
        foreach (var variable in variables)
            if (_places[variable] > _places[chosen])
                chosen = variable;
        // Values that leave the rest alike are one branch.
        var branches = new Dictionary<int, ulong>();
        int[] others = [.. variables.Where(v => v != chosen)];
        for (var values = _clauses.Left(chosen); values != 0 && !_isGivenUp; values &= values - 1)
        {
            var (mark, value) = (_clauses.Mark, values & (~values + 1));
            if (_clauses.Keep(chosen, value) && All(others) is >= 0 and var rest)
                branches[rest] = branches.GetValueOrDefault(rest) | value;
            _clauses.BackTo(mark);
        }
        _depth--;
        if (_isGivenUp)
            return None;
        int[] nodes = [.. branches.Select(b => Node(isAll: true, [Values(chosen, b.Value), b.Key]))];
        var node = nodes.Length == 0 ? None : nodes.Length == 1 ? nodes[0] : Node(isAll: false, nodes);
        if ((_remembered += key.Parts.Length) > MostRemembered)
        {
            _parts.Clear();
            _remembered = 0;
        }
        return _parts[key] = node;
    }

    /// <summary>What tells a part: its variables, with what is left of those that have been narrowed, and the clauses that are open in it.</summary>
    private Key KeyOf(int[] variables)
    {
        var (key, visit) = (new List<int>(variables.Length * 2) { variables.Length }, ++_visit);
        foreach (var variable in variables)
        {
            var left = _clauses.Left(variable);
            key.Add((variable << 1) | (left == YesAndNo ? 0 : 1));
            if (left != YesAndNo)
            {
                key.Add((int)left);
                key.Add((int)(left >> 32));
            }
        }
        foreach (var variable in variables)
            foreach (var (clause, _) in _clauses.LiteralsOf(variable))
                if (_seenClause[clause] != visit)
                {
                    _seenClause[clause] = visit;
                    if (!_clauses.IsMet(clause))
                        key.Add(clause);
                }
        _work += key.Count;
        return new([.. key]);
    }

    /// <summary>One of some values of a variable.</summary>
    private int Values(int variable, ulong values)
    {
        if (BitOperations.IsPow2(values))
            return _leafOf[variable] + BitOperations.TrailingZeroCount(values);
        var leaves = new int[BitOperations.PopCount(values)];
        for (var i = 0; values != 0; values &= values - 1)
            leaves[i++] = _leafOf[variable] + BitOperations.TrailingZeroCount(values);
        return Node(isAll: false, leaves);
    }

    /// <summary>The node with these children: one and the same for the same.</summary>
    private int Node(bool isAll, int[] children)
    {
        Array.Sort(children);
        var key = new Key([isAll ? 1 : 0, .. children]);
        if (_nodes.TryGetValue(key, out var known))
            return known;
        _children.AddRange(children);
        _first.Add(_children.Count);
        _isAll.Add(isAll);
        return _nodes[key] = _slots.Length + _isAll.Count - 1;
    }

    private readonly struct Key(int[] parts) : IEquatable<Key>
    {
        private readonly int _hash = HashOf(parts);
        public int[] Parts { get; } = parts;
        public bool Equals(Key other) => _hash == other._hash && Parts.AsSpan().SequenceEqual(other.Parts);
        public override bool Equals(object? other) => other is Key key && Equals(key);
        public override int GetHashCode() => _hash;

        private static int HashOf(int[] parts)
        {
            var hash = new HashCode();
            hash.AddBytes(System.Runtime.InteropServices.MemoryMarshal.AsBytes(parts.AsSpan()));
            return hash.ToHashCode();
        }
    }
}
