using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Clauses with two watched literals each (Moskewicz and others, “Chaff: engineering an efficient SAT solver”, 2001), in one
/// array; a watch carries a literal that often settles the clause unread (Eén and Sörensson, “An extensible SAT-solver”, 2003).
/// </summary>
internal sealed class ClauseDatabase
{
    private readonly LiteralStore _store;

    private readonly record struct Watch(int Clause, int Blocker);

    private struct WatchList
    {
        public Watch[]? Items;
        public int Count;

        /// <summary>Whether another search has the same items, so that they are copied before they change.</summary>
        public bool IsShared;

        public readonly WatchList Shared() => new() { Items = Items, Count = Count, IsShared = true };

        public void Own()
        {
            if (IsShared)
                (Items, IsShared) = (Count == 0 ? null : Items!.AsSpan(0, Count).ToArray(), false);
        }

        public void Add(Watch watch)
        {
            Own();
            Items ??= new Watch[4];
            if (Count == Items.Length)
                Array.Resize(ref Items, Count * 2);
            Items[Count++] = watch;
        }
    }

    // A clause: its length, how many levels it spanned when it was learned (0: part of the model), its literals.
    private const int Header = 2;
    private int[] _clauses;
    private int _end = 1;
    private WatchList[] _watches;
    private readonly List<int> _learned = [];
    private int _mostLearned = FirstMostLearned;
    private const int FirstMostLearned = 4000, MoreEachTime = 500;

    public ClauseDatabase(LiteralStore store) => (_store, _clauses, _watches) = (store, new int[1024], new WatchList[store.LiteralCapacity]);

    /// <summary>A copy of what is part of the model; nothing was learned yet.</summary>
    /// <param name="spent">An earlier copy that is not used any more.</param>
    public ClauseDatabase(ClauseDatabase of, LiteralStore store, ClauseDatabase? spent)
    {
        (_store, IsContradictory, _end) = (store, of.IsContradictory, of._end);
        (_clauses, _watches) = (ReusedArrays.Copied(of._clauses, spent?._clauses), ReusedArrays.Copied(of._watches, spent?._watches));
        for (var literal = 0; literal < of._watches.Length; literal++)
            _watches[literal] = of._watches[literal].Shared();
    }

    /// <summary>Whether the clauses leave nothing, for good.</summary>
    public bool IsContradictory { get; set; }

    /// <summary>Whether so much was learned that the worse half is to be forgotten.</summary>
    public bool IsFull => _learned.Count >= _mostLearned;

    public Span<int> LiteralsOf(int clause) => _clauses.AsSpan(clause + Header, _clauses[clause]);

    /// <summary>Learns a clause of at least two literals, of which the first two are watched; its place.</summary>
    /// <param name="levels">How many levels it spans.</param>
    public int Learn(ReadOnlySpan<int> literals, int levels)
    {
        var clause = Add(literals, levels);
        _learned.Add(clause);
        return clause;
    }

    /// <summary>Adds a clause of at least two literals, of which the first two are watched; its place.</summary>
    /// <param name="levels">How many levels it spanned when it was learned; 0 for a part of the model.</param>
    public int Add(ReadOnlySpan<int> literals, int levels)
    {
        var clause = _end;
        if (clause + Header + literals.Length > _clauses.Length)
            Array.Resize(ref _clauses, Math.Max(_clauses.Length * 2, clause + Header + literals.Length));
        (_clauses[clause], _clauses[clause + 1]) = (literals.Length, levels);
        literals.CopyTo(_clauses.AsSpan(clause + Header));
        _end += Header + literals.Length;
        if (_watches.Length < _store.LiteralCapacity)
            Array.Resize(ref _watches, _store.LiteralCapacity);
        _watches[literals[0]].Add(new(clause, literals[1]));
        _watches[literals[1]].Add(new(clause, literals[0]));
        return clause;
    }

    /// <summary>Visits the clauses that watch a literal which has become false. False: a conflict.</summary>
    public bool Visit(int falsified)
    {
        if (falsified >= _watches.Length)
            return true;
        ref var list = ref _watches[falsified];
        list.Own();
        var items = list.Items;
        var kept = 0;
        for (var i = 0; i < list.Count; i++)
        {
            var watch = items![i];
            if (_store.IsTrue(watch.Blocker))
            {
                items[kept++] = watch;
                continue;
            }
            var literals = LiteralsOf(watch.Clause);
            if (literals[0] == falsified)
                (literals[0], literals[1]) = (literals[1], falsified);
            var first = literals[0];
            if (first != watch.Blocker && _store.IsTrue(first))
            {
                items[kept++] = new(watch.Clause, first);
                continue;
            }
            var moved = false;
            for (var k = 2; k < literals.Length; k++)
                if (!_store.IsFalse(literals[k]))
                {
                    (literals[1], literals[k]) = (literals[k], falsified);
                    _watches[literals[1]].Add(new(watch.Clause, first));
                    moved = true;
                    break;
                }
            if (moved)
                continue;
            items[kept++] = new(watch.Clause, first);
            if (_store.Assign(first, Antecedent.ByClause(watch.Clause)))
                continue;
            for (i++; i < list.Count; i++)
                items[kept++] = items[i];
            list.Count = kept;
            return false;
        }
        list.Count = kept;
        return true;
    }

    /// <summary>
    /// Forgets the worse half of what was learned: the clauses that span most levels (Audemard and Simon, “Predicting learnt
    /// clauses quality in modern SAT solvers”, 2009). Only where nothing is assumed, so that none of them is a reason.
    /// </summary>
    public void Forget()
    {
        _mostLearned += MoreEachTime;
        var inOrder = _learned.OrderBy(c => _clauses[c + 1]).ThenByDescending(c => c).ToList();
        var keep = inOrder.Take(inOrder.Count / 2).Union(inOrder.Where(c => _clauses[c + 1] <= 2)).ToHashSet();
        var (old, end) = (_clauses, _end);
        (_clauses, _end) = (new int[old.Length], 1);
        _learned.Clear();
        for (var literal = 0; literal < _watches.Length; literal++)
            _watches[literal] = default;
        for (var clause = 1; clause < end; clause += Header + old[clause])
        {
            var levels = old[clause + 1];
            if (levels > 0 && !keep.Contains(clause))
                continue;
            var copy = Add(old.AsSpan(clause + Header, old[clause]), levels);
            if (levels > 0)
                _learned.Add(copy);
        }
    }
}
