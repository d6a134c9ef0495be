using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>A grid as a rule over variables, for finding the rows that are nearest to some values.</summary>
internal sealed class GridRule(Slots slots, CompiledGrid grid, int[] variables)
{
    /// <summary>By column: the variable.</summary>
    public int[] Variables => variables;
    public int RowCount => grid.Rows.Length;
    public int Words => (grid.Rows.Length + 63) / 64;

    /// <summary>Whether a row allows a slot in a column; what has no value is in no row.</summary>
    public bool Has(int row, int column, int slot) => slots[slot] is var value && (value.Outcome & Outcomes.NoValue) == 0
        && grid.Rows[row][column] is var cell
            && (cell.Cell.Any || (value.Outcome == Outcomes.Present ? BitSet.Has(cell.Bits!, (int)value.Index) : (cell.YesNo & value.Outcome) != 0));

    /// <summary>Whether some row has the values of all columns.</summary>
    /// <param name="withoutValues">Whether that counts as so where a variable has no value.</param>
    public bool Allows(int[] current, bool withoutValues)
    {
        foreach (var variable in variables)
            if ((slots[current[variable]].Outcome & Outcomes.NoValue) != 0)
                return withoutValues;
        var having = new ulong[]?[variables.Length];
        for (var c = 0; c < variables.Length; c++)
            if ((having[c] = RowsWith(c, current[variables[c]])) is null)
                return false;
        for (var w = 0; w < Words; w++)
        {
            var rows = w == Words - 1 && (RowCount & 63) is > 0 and var over ? (1UL << over) - 1 : ulong.MaxValue;
            for (var c = 0; c < having.Length && rows != 0; c++)
                rows &= having[c]![w];
            if (rows != 0)
                return true;
        }
        return false;
    }

    /// <summary>The rows that allow a slot in a column; null where none does.</summary>
    private ulong[]? RowsWith(int column, int slot)
    {
        var value = slots[slot];
        if ((value.Outcome & Outcomes.NoValue) != 0)
            return null;
        var supports = grid.Supports[column];
        return supports.Length == 0 ? BitSet
            .Full(RowCount) : supports[value.Outcome == Outcomes.Present ? value.Index : value.Outcome == Outcomes.True ? 1 : 0];
    }

    /// <summary>
    /// The rows that agree with the present values in all columns that are fixed, counted by how many others they agree in: the
    /// four planes hold the digits of that number, for all rows side by side.
    /// </summary>
    /// <param name="rows">Receives the rows that agree with what is fixed.</param>
    /// <param name="planes">Receives the digits, lowest first; each as long as <paramref name="rows"/>.</param>
    public void Agreement(int[] current, Func<int, bool> isFixed, ulong[] rows, ulong[][] planes)
    {
        var words = Words;
        rows.AsSpan(0, words).Fill(ulong.MaxValue);
        if ((RowCount & 63) is > 0 and var over)
            rows[words - 1] = (1UL << over) - 1;
        foreach (var plane in planes)
            plane.AsSpan(0, words).Clear();
        for (var c = 0; c < variables.Length; c++)
        {
            var having = RowsWith(c, current[variables[c]]);
            if (isFixed(variables[c]))
            {
                if (having is null)
                    rows.AsSpan(0, words).Clear();
                else
                    BitSet.IntersectWith(rows.AsSpan(0, words), having);
            }
            else if (having is not null)
                for (var w = 0; w < words; w++)
                {
                    var carry = having[w];
                    for (var p = 0; p < planes.Length && carry != 0; p++)
                        (planes[p][w], carry) = (planes[p][w] ^ carry, planes[p][w] & carry);
                }
        }
    }
}
