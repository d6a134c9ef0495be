using System.Numerics;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// Propagators of grids: rows as bit sets by column and value (Demeulenaere and others, “Compact-table: efficiently filtering table
/// constraints with reversible sparse bit-sets”, 2016). What it keeps is found from domains and tested before it is used, so that nothing
/// is undone.
/// </summary>
internal sealed class TablePropagator<T> : Propagator<T> where T : struct, IEnd<T>
{
    private struct Union
    {
        public ulong[] Values;
        public ulong[] Rows;
    }

    /// <summary>By node and column: the rows that were last found to have some value of the key.</summary>
    private readonly Union[]?[] _unions;

    /// <summary>By node, column and value: the word in which a row was found the last time, which mostly has one again.</summary>
    private readonly int[]?[]?[] _residues;

    private ulong[] _rows = [];

    /// <summary>The words of the rows last matched that are not empty.</summary>
    private int[] _wordsLeft = [];
    private int _wordsLeftCount;

    /// <param name="spent">One over a store that is not used any more.</param>
    public TablePropagator(DomainStore<T> store, TablePropagator<T>? spent) : base(store) =>
        (_residues, _unions) = (spent?._residues ?? new int[]?[]?[_domains.Length], spent?._unions ?? new Union[]?[_domains.Length]);

    public override bool Revise(int n, Node node) => node.Operator == Operator.Table
        ? ReviseTable(n, node.Children, node.Grid!) : ReviseFigure(n, node.Children, node);

    /// <summary>Whether some value of a key matches a cell, and whether every one does.</summary>
    private (bool May, bool Must) Match(CompiledCell cell, (Interval<T> Outer, Interval<T> Inner)[] ranges, int key)
    {
        ref readonly var domain = ref _domains[key];
        if (cell.Cell.Any)
            return (domain.MayHaveValue, true);
        if (domain.Kind == DomainKind.Choice)
            return (domain.MayBePresent && BitSet.Intersects(domain.Bits!, cell.Bits!), BitSet.IsSubset(domain.Bits!, cell.Bits!));
        if (domain.Kind == DomainKind.YesNo)
            return ((domain.Outcomes & cell.YesNo) != 0, (domain.Outcomes & Outcomes.Value & ~cell.YesNo) == 0);
        if (!domain.MayBePresent)
            return (false, false);
        var (may, must) = (false, false);
        foreach (var range in ranges)
        {
            may |= Interval<T>.Overlap(range.Outer, domain.Numbers);
            must |= range.Inner.Low <= domain.Numbers.Low && domain.Numbers.High <= range.Inner.High;
        }
        // Between inner and outer ends lies what only exact numbers tell.
        return may && !must && _store.IsDecided(key, out var number) ? cell.Cell.Matches(Value.Of(number)) ? (true, true) : (false, false) : (may, must);
    }

    private (bool May, bool Must) MatchRow(int n, int row, int[] keys)
    {
        var cells = _store.Nodes[n].Grid!.Rows[row];
        var ranges = _store.Ends.Cells[n]![row];
        var must = true;
        for (var c = 0; c < keys.Length; c++)
        {
            var match = Match(cells[c], ranges[c], keys[c]);
            if (!match.May)
                return (false, false);
            must &= match.Must;
        }
        return (true, must);
    }

    /// <summary>Whether some row may hold whatever the keys turn out to be: only where no key has more values left than any cell allows.</summary>
    private bool MayBeCertain(int[] keys, CompiledGrid grid)
    {
        for (var c = 0; c < keys.Length; c++)
            if (_domains[keys[c]] is var domain && (domain.Kind == DomainKind.Choice ? domain.MayBePresent && BitSet.Count(domain.Bits!) > grid.WidestCells[c]
                : domain.Kind == DomainKind.YesNo && (domain.Outcomes & (Outcomes.True | Outcomes.False)) == (Outcomes.True | Outcomes.False)
                    && grid.WidestCells[c] < 2))
                return false;
        return true;
    }

    private bool ReviseTable(int n, int[] keys, CompiledGrid grid)
    {
        if (!Strict(n, keys, Outcomes.True | Outcomes.False))
            return false;
        if (!AllMayHaveValue(keys))
            return true;
        var onlyTrue = (_domains[n].Outcomes & Outcomes.False) == 0;
        var rows = MatchingRows(n, keys, grid);
        var (some, certain) = (false, false);
        some = _wordsLeftCount > 0;
        if (!onlyTrue && MayBeCertain(keys, grid))
            for (var i = 0; i < _wordsLeftCount && !certain; i++)
                for (var word = rows[_wordsLeft[i]]; word != 0 && !certain; word &= word - 1)
                    certain = MatchRow(n, (_wordsLeft[i] << 6) + BitOperations.TrailingZeroCount(word), keys).Must;
        if (!SetOutcomes(n, Outcomes.NoValue | (some ? Outcomes.True : 0) | (certain ? 0 : Outcomes.False)))
            return false;
        if (!onlyTrue || !some)
            return true;
        for (var c = 0; c < keys.Length; c++)
            if (Binds(keys, keys[c]) && !NarrowToRows(n, keys[c], c, grid, rows))
                return false;
        return true;
    }

    /// <summary>
    /// The rows that some values of the keys match, as a bit set that is good until the next call. Decided keys come first: after
    /// them few words are left, and only these are looked at (the sparse sets of Compact-table).
    /// </summary>
    private Span<ulong> MatchingRows(int n, int[] keys, CompiledGrid grid)
    {
        var words = (grid.Rows.Length + 63) / 64;
        if (_rows.Length < words)
            (_rows, _wordsLeft) = (new ulong[words], new int[words]);
        var rows = _rows.AsSpan(0, words);
        rows.Fill(ulong.MaxValue);
        if ((grid.Rows.Length & 63) is > 0 and var over)
            rows[^1] = (1UL << over) - 1;
        for (var c = 0; c < keys.Length; c++)
            if (grid.Supports[c] is { Length: > 0 } supports && _domains[keys[c]].OnlyValue is >= 0 and var value)
            {
                if (supports[value] is not { } having)
                {
                    rows.Clear();
                    _wordsLeftCount = 0;
                    return rows;
                }
                BitSet.IntersectWith(rows, having);
            }
        CountWordsLeft(rows);
        for (var c = 0; c < keys.Length; c++)
        {
            var supports = grid.Supports[c];
            if (supports.Length == 0)
            {
                var ranges = _store.Ends.Cells[n]!;
                for (var w = 0; w < words; w++)
                    for (var word = rows[w]; word != 0; word &= word - 1)
                        if ((w << 6) + BitOperations.TrailingZeroCount(word) is var r && !Match(grid.Rows[r][c], ranges[r][c], keys[c]).May)
                            rows[w] &= ~(word & (ulong)-(long)word);
                continue;
            }
            if (_domains[keys[c]].OnlyValue >= 0 || (grid.IsCovered[c] && MayBeAll(keys[c], supports)))
                continue;
            if (_wordsLeftCount * 4 < words)
                for (var i = 0; i < _wordsLeftCount; i++)
                {
                    var w = _wordsLeft[i];
                    var any = 0UL;
                    for (var v = 0; v < supports.Length && (rows[w] & ~any) != 0; v++)
                        if (supports[v] is { } having && MayBe(keys[c], v))
                            any |= having[w];
                    rows[w] &= any;
                }
            else
                BitSet.IntersectWith(rows, HavingAny(n, c, keys[c], supports, words));
        }
        CountWordsLeft(rows);
        return rows;
    }

    /// <summary>
    /// The rows that have some value of a key in a column. Kept with the values that it was found for, since mostly one key
    /// changes at a time; being found from the values alone, it needs no undoing.
    /// </summary>
    private ulong[] HavingAny(int n, int column, int key, ulong[]?[] supports, int words)
    {
        ref var known = ref (_unions[n] ??= new Union[_store.Nodes[n].Children.Length])[column];
        ref readonly var domain = ref _domains[key];
        var (isYesNo, size) = (domain.Kind == DomainKind.YesNo, domain.Kind == DomainKind.YesNo ? 1 : domain.Bits!.Length);
        if (known.Rows is null)
            known = new() { Values = new ulong[size], Rows = new ulong[words] };
        else if (isYesNo ? known.Values[0] == (ulong)(domain.Outcomes & Outcomes.Value) : known.Values.AsSpan().SequenceEqual(domain.Bits))
            return known.Rows;
        if (isYesNo)
            known.Values[0] = (ulong)(domain.Outcomes & Outcomes.Value);
        else
            domain.Bits!.CopyTo(known.Values, 0);
        Array.Clear(known.Rows);
        for (var v = 0; v < supports.Length; v++)
            if (supports[v] is { } having && MayBe(key, v))
                BitSet.UniteWith(known.Rows, having);
        return known.Rows;
    }

    private void CountWordsLeft(Span<ulong> rows)
    {
        _wordsLeftCount = 0;
        for (var w = 0; w < rows.Length; w++)
            if (rows[w] != 0)
                _wordsLeft[_wordsLeftCount++] = w;
    }

    private bool MayBeAll(int key, ulong[]?[] supports)
    {
        for (var v = 0; v < supports.Length; v++)
            if (supports[v] is not null && !MayBe(key, v))
                return false;
        return true;
    }

    /// <summary>Whether a choice may have a value, or a yes/no be no (0) or yes (1).</summary>
    private bool MayBe(int key, int value)
    {
        ref readonly var domain = ref _domains[key];
        return domain.Kind == DomainKind.YesNo ? (domain.Outcomes & (value == 1 ? Outcomes.True : Outcomes.False)) != 0
            : domain.MayBePresent && value < domain.Bits!.Length << 6 && BitSet.Has(domain.Bits, value);
    }

    private bool NarrowToRows(int n, int key, int column, CompiledGrid grid, Span<ulong> rows)
    {
        var supports = grid.Supports[column];
        if (supports.Length == 0)
        {
            var hull = default(Domain<T>);
            for (var w = 0; w < rows.Length; w++)
                for (var word = rows[w]; word != 0; word &= word - 1)
                    if ((w << 6) + BitOperations.TrailingZeroCount(word) is var r)
                        JoinCell(ref hull, grid.Rows[r][column], _store.Ends.Cells[n]![r][column], _domains[key]);
            return _domains[key].Kind == DomainKind.YesNo ? SetOutcomes(key, hull.Outcomes | Outcomes.NoValue) : NarrowTo(key, hull);
        }
        if (_domains[key].Kind == DomainKind.YesNo)
            return (HasRow(n, column, 0, supports, rows) || SetOutcomes(key, ~Outcomes.False))
                && (HasRow(n, column, 1, supports, rows) || SetOutcomes(key, ~Outcomes.True));
        var keep = new ulong[_domains[key].Bits!.Length];
        for (var v = 0; v < supports.Length; v++)
            if (MayBe(key, v) && HasRow(n, column, v, supports, rows))
                BitSet.Set(keep, v);
        return SetBits(key, keep);
    }

    private bool HasRow(int n, int column, int value, ulong[]?[] supports, Span<ulong> rows)
    {
        if (supports[value] is not { } having)
            return false;
        var residues = (_residues[n] ??= new int[]?[_store.Nodes[n].Children.Length])[column] ??= new int[supports.Length];
        var last = residues[value];
        if ((rows[last] & having[last]) != 0)
            return true;
        for (var i = 0; i < _wordsLeftCount; i++)
            if (_wordsLeft[i] is var w && (rows[w] & having[w]) != 0)
            {
                residues[value] = w;
                return true;
            }
        return false;
    }

    private static void JoinCell(ref Domain<T> hull, CompiledCell cell, (Interval<T> Outer, Interval<T> Inner)[] ranges, in Domain<T> key)
    {
        hull.Kind = key.Kind;
        if (cell.Cell.Any)
            Join(ref hull, key);
        else if (key.Kind == DomainKind.Choice)
            Join(ref hull, Domain<T>.Choice(cell.Bits!));
        else if (key.Kind == DomainKind.YesNo)
            hull.Outcomes |= cell.YesNo;
        else
            foreach (var range in ranges)
                if (Interval<T>.Overlap(range.Outer, key.Numbers))
                    Join(ref hull, Domain<T>.Number(range.Outer));
    }

    private bool ReviseFigure(int n, int[] keys, Node node)
    {
        var hull = new Domain<T> { Kind = DomainKind.Number };
        var mayNothing = false;
        foreach (var key in keys)
        {
            hull.Outcomes |= _domains[key].Outcomes & Outcomes.Error;
            mayNothing |= (_domains[key].Outcomes & (Outcomes.Absent | Outcomes.None)) != 0;
        }
        var decided = false;
        if (AllMayHaveValue(keys))
            for (var r = 0; r < node.Grid!.Rows.Length && !decided; r++)
            {
                var (may, must) = MatchRow(n, r, keys);
                if (!may)
                    continue;
                if (node.Figures[r].IsNothing)
                    mayNothing = true;
                else
                    Join(ref hull, Domain<T>.Number(_store.Ends.Figures[n]![r]));
                decided = must;
            }
        if (mayNothing || !decided)
            hull.Outcomes |= Outcomes.Absent;
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull);
    }
}
