using System.Collections.Immutable;
using System.Numerics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>A grid with cells as tests on domains.</summary>
internal sealed record CompiledGrid(ImmutableArray<ImmutableArray<CompiledCell>> Rows)
{
    private ulong[]?[][]? _supports;

    /// <summary>
    /// By column and value of a choice (0 no and 1 yes of a yes/no column): the rows that have it, as a bit set; none where no
    /// row has. Empty for columns of numbers (Demeulenaere and others, “Compact-table”, 2016).
    /// </summary>
    public ulong[]?[][] Supports => _supports ??= [.. Enumerable.Range(0, Rows.IsEmpty ? 0 : Rows[0].Length).Select(SupportsOf)];

    /// <summary>By column: whether each row is among those that some value has.</summary>
    public bool[] IsCovered => _isCovered ??= [.. Supports.Select(IsCover)];

    private bool[]? _isCovered;

    /// <summary>Row by row and column by column: the values of choices, or 0 no and 1 yes, that the cell allows; none for a cell of any value and for
    /// numbers.</summary>
    public int[][] Values => _values ??= [.. Rows.SelectMany(row => row.Select(ValuesOf))];

    private int[][]? _values;

    /// <summary>By column: how many values the cell that allows most of them allows; of numbers, as many as you like.</summary>
    public int[] WidestCells => _widestCells ??= [.. Enumerable.Range(0, Rows.IsEmpty ? 0 : Rows[0].Length).Select(c => Rows.Max(r => WidthOf(r[c])))];

    private int[]? _widestCells;

    private static int WidthOf(CompiledCell cell) => cell.Cell.Any || (cell.Bits is null && cell.YesNo == 0) ? int.MaxValue : ValuesOf(cell).Length;

    private static int[] ValuesOf(CompiledCell cell) => cell.Cell.Any ? [] : cell.Bits is { } bits ? [.. BitSet.Members(bits)]
        : [.. new[] { Outcomes.False, Outcomes.True }.Select((outcome, value) => (outcome, value)).Where(v => (cell.YesNo & v.outcome) != 0)
            .Select(v => v.value)];

    private bool IsCover(ulong[]?[] supports)
    {
        var covered = new ulong[(Rows.Length + 63) / 64];
        foreach (var having in supports)
            if (having is not null)
                BitSet.UniteWith(covered, having);
        return covered.Sum(BitOperations.PopCount) == Rows.Length;
    }

    private ulong[]?[] SupportsOf(int column)
    {
        // Wildcards say nothing of the kind of a column; one of nothing but wildcards supports everything alike.
        var words = Rows.Select(r => r[column]).FirstOrDefault(c => !c.Cell.Any)?.Bits?.Length;
        var isYesNo = words is null && Rows.Any(r => r[column].YesNo != 0);
        if (words is null && !isYesNo)
            return [];
        var supports = new ulong[]?[isYesNo ? 2 : words!.Value << 6];
        for (var r = 0; r < Rows.Length; r++)
            for (var v = 0; v < supports.Length; v++)
                if (Rows[r][column] is var cell
                    && (cell.Cell.Any || (isYesNo ? (cell.YesNo & (v == 1 ? Outcomes.True : Outcomes.False)) != 0 : BitSet.Has(cell.Bits!, v))))
                    BitSet.Set(supports[v] ??= new ulong[(Rows.Length + 63) / 64], r);
        return supports;
    }
}

/// <summary>A cell: any value, or some values of a choice, yes or no, or numbers in some ranges.</summary>
internal sealed record CompiledCell(GridCell Cell, ulong[]? Bits, Outcomes YesNo);
