using System.Numerics;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Why a grid left out a value, or leaves no row: for each row that could have spoken for it, one key that rules the row out.
/// Keys that are decided come first, since one of them speaks for many rows; of the others only the values that are needed count
/// (Katsirelos and Bacchus, “Generalized nogoods in CSPs”, 2005, for the idea of short explanations of tables).
/// </summary>
internal sealed class TableExplanations(LiteralStore store, ConflictMarks marks)
{
    private ulong[] _rowsLeft = [];

    /// <summary>By literal: in which explanation it is part.</summary>
    private int[] _explainedIn = [];
    private int _explanation;

    /// <summary>Marks what led a grid to something. LiteralNames.False: that is not known in detail, as with columns of numbers.</summary>
    public bool Explain(int n, int[] keys, CompiledGrid grid, int of, int before)
    {
        foreach (var key in keys)
            if (store.Domains[key].Kind == DomainKind.Number)
                return false;
        if (!RowsConcerned(n, keys, grid, of, out var column))
            return false;
        if (_explainedIn.Length < store.LiteralCapacity)
            Array.Resize(ref _explainedIn, store.LiteralCapacity);
        _explanation++;
        marks.MarkOutcomes(n, before);
        for (var best = 0; best >= 0;)
        {
            (best, var most, var itsValue) = (-1, 0, -1);
            for (var c = 0; c < keys.Length; c++)
                if (c != column && OnlyValueBefore(keys[c], before) is >= 0 and var value && RowsWithout(grid, c, value) is var without && without > most)
                    (best, most, itsValue) = (c, without, value);
            if (best < 0)
                break;
            marks.MarkLiteral(LiteralOfValue(keys[best], itsValue));
            KeepOnly(itsValue < grid.Supports[best].Length ? grid.Supports[best][itsValue] : null);
        }
        return RuleOutRows(keys, grid, column, before);
    }

    /// <summary>The rows that could have spoken against what happened, and the column of the value that was left out, if any.</summary>
    private bool RowsConcerned(int n, int[] keys, CompiledGrid grid, int of, out int column)
    {
        var words = (grid.Rows.Length + 63) / 64;
        if (_rowsLeft.Length != words)
            _rowsLeft = new ulong[words];
        column = -1;
        if (of == store.Names.Of(n, Outcomes.False) || of == LiteralNames.Negated(store.Names.Of(n, Outcomes.True)))
        {
            _rowsLeft.AsSpan().Fill(ulong.MaxValue);
            if ((grid.Rows.Length & 63) is > 0 and var over)
                _rowsLeft[^1] = (1UL << over) - 1;
            return true;
        }
        for (var m = of < 0 ? -1 : store.Names.FirstMeaning(of); m >= 0; m = store.Names[m].Next)
        {
            ref readonly var meaning = ref store.Names[m];
            var value = meaning.RemovesValue >= 0 ? meaning.RemovesValue : meaning.Removes == Outcomes.True ? 1 : meaning.Removes == Outcomes.False ? 0 : -1;
            for (var c = 0; c < keys.Length; c++)
                if (keys[c] == meaning.Node)
                {
                    if (column >= 0 || value < 0 || value >= grid.Supports[c].Length)
                        return false;
                    column = c;
                    if (grid.Supports[c][value] is { } having)
                        having.CopyTo(_rowsLeft, 0);
                    else
                        Array.Clear(_rowsLeft);
                }
        }
        return column >= 0;
    }

    private int LiteralOfValue(int key, int value) => store.Names.OfValue(key, value, store.Domains[key].Kind);

    /// <summary>The value that a key was decided to have before a position; −1 where it was not.</summary>
    private int OnlyValueBefore(int key, int before) => store.Domains[key].OnlyValue is >= 0 and var value && LiteralOfValue(key, value) is var literal
        && store.IsTrue(literal)
        && (literal == LiteralNames.True || store.PositionOf(literal) < before) ? value : -1;

    /// <summary>How many of the rows left do not have a value.</summary>
    private int RowsWithout(CompiledGrid grid, int column, int value)
    {
        var supports = grid.Supports[column];
        if (supports.Length == 0)
            return 0;
        var having = value < supports.Length ? supports[value] : null;
        var count = 0;
        for (var w = 0; w < _rowsLeft.Length; w++)
            count += BitOperations.PopCount(having is null ? _rowsLeft[w] : _rowsLeft[w] & ~having[w]);
        return count;
    }

    private void KeepOnly(ulong[]? having)
    {
        if (having is null)
            Array.Clear(_rowsLeft);
        else
            BitSet.IntersectWith(_rowsLeft, having);
    }

    /// <summary>Marks, for each row that is left, the values of one key that are all ruled out. LiteralNames.False: some row has no such key.</summary>
    private bool RuleOutRows(int[] keys, CompiledGrid grid, int column, int before)
    {
        var values = grid.Values;
        for (var w = 0; w < _rowsLeft.Length; w++)
            for (; _rowsLeft[w] != 0; _rowsLeft[w] &= _rowsLeft[w] - 1)
            {
                var row = (w << 6) + BitOperations.TrailingZeroCount(_rowsLeft[w]);
                var (chosen, fewest) = (-1, int.MaxValue);
                for (var c = 0; c < keys.Length && fewest > 0; c++)
                    if (c != column && ValuesMissing(keys[c], values[row * keys.Length + c], before) is >= 0 and var missing && missing < fewest)
                        (chosen, fewest) = (c, missing);
                if (chosen < 0)
                    return false;
                if (fewest > 0)
                    foreach (var value in values[row * keys.Length + chosen])
                        if (LiteralOfValue(keys[chosen], value) is > LiteralNames.False and var literal && _explainedIn[literal] != _explanation)
                        {
                            _explainedIn[literal] = _explanation;
                            marks.MarkLiteral(LiteralNames.Negated(literal));
                        }
            }
        return true;
    }

    /// <summary>How many values of a row's cell are not yet part of the explanation, where all of them are ruled out; −1 otherwise.</summary>
    private int ValuesMissing(int key, int[] values, int before)
    {
        if (values.Length == 0)
            return -1;
        var missing = 0;
        foreach (var value in values)
            if (LiteralOfValue(key, value) is var literal && literal != LiteralNames.False)
            {
                if (!store.IsFalse(literal) || store.PositionOf(literal) >= before)
                    return -1;
                missing += _explainedIn[literal] == _explanation ? 0 : 1;
            }
        return missing;
    }
}
