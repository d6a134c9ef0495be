using System.Collections.Immutable;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

internal enum Operator : byte
{
    /// <summary>An asked attribute: a decision.</summary>
    Variable,
    Constant,
    Add, Subtract, Negate, Multiply, Divide, Power, Ceiling, Floor, Round, Absolute, Minimum, Maximum, SquareRoot,
    Less, LessOrEqual, Equal, NotEqual, SameChoice, OtherChoice, SameYesNo, OtherYesNo,
    And, Or, Not, If, Counting,

    /// <summary>Whether an optional attribute has no value.</summary>
    IsNone,

    /// <summary>No value counts as false: conditions.</summary>
    Holds,

    /// <summary>No value counts as the constant (second child): sums and totals over what is not there.</summary>
    Else,

    /// <summary>The second child where the first is true, no value otherwise.</summary>
    Where,

    /// <summary>1 for true, 0 for false.</summary>
    ToNumber,

    /// <summary>The least or greatest of those that have a value.</summary>
    LeastOf, GreatestOf,

    /// <summary>A property of the chosen value.</summary>
    Property,

    /// <summary>Whether the children's values are a row of a grid.</summary>
    Table,

    /// <summary>The figure of the first row of a grid that matches.</summary>
    Figure,

    /// <summary>
    /// Whether the first half of the children, which are variables, comes before the second half in the order of words, or is the
    /// same. It is only ever assumed, and never found out by propagation.
    /// </summary>
    InOrder,

    /// <summary>A constraint without a value: the second child applies if and only if the first holds.</summary>
    Presence,
}

/// <summary>One node of the network: an operator over other nodes. Nodes come after their children.</summary>
internal sealed record Node(Operator Operator, int[] Children)
{
    /// <summary>For counting: how many; for powers: the exponent.</summary>
    public int Count { get; init; }
    public Language.CountingKind CountingKind { get; init; }

    /// <summary>For <see cref="Operator.Property"/>: the property of each value of the list.</summary>
    public Value[]? PropertyValues { get; init; }

    /// <summary>For a <see cref="Operator.Property"/> that is a choice itself: that of each value of the list, as bits.</summary>
    public ulong[]?[]? Choices { get; init; }

    public CompiledGrid? Grid { get; init; }

    /// <summary>For <see cref="Operator.Figure"/>: the figure in each row.</summary>
    public ImmutableArray<Value> Figures { get; init; }

    /// <summary>For <see cref="Operator.Variable"/>.</summary>
    public Variable? Variable { get; init; }

    /// <summary>The group whose inactivity switches this constraint off; −1 for background.</summary>
    public int Group { get; init; } = -1;
}

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

    /// <summary>Row by row and column by column: the values of choices, or 0 no and 1 yes, that the cell allows; none for a cell of any value and for numbers.</summary>
    public int[][] Values => _values ??= [.. Rows.SelectMany(row => row.Select(ValuesOf))];

    private int[][]? _values;

    /// <summary>By column: how many values the cell that allows most of them allows; of numbers, as many as you like.</summary>
    public int[] WidestCells => _widestCells ??= [.. Enumerable.Range(0, Rows.IsEmpty ? 0 : Rows[0].Length).Select(c => Rows.Max(r => WidthOf(r[c])))];

    private int[]? _widestCells;

    private static int WidthOf(CompiledCell cell) => cell.Cell.Any || (cell.Bits is null && cell.YesNo == 0) ? int.MaxValue : ValuesOf(cell).Length;

    private static int[] ValuesOf(CompiledCell cell) => cell.Cell.Any ? [] : cell.Bits is { } bits ? [.. BitSet.Members(bits)]
        : [.. new[] { Outcomes.False, Outcomes.True }.Select((outcome, value) => (outcome, value)).Where(v => (cell.YesNo & v.outcome) != 0).Select(v => v.value)];

    private bool IsCover(ulong[]?[] supports)
    {
        var covered = new ulong[(Rows.Length + 63) / 64];
        foreach (var having in supports)
            if (having is not null)
                BitSet.UniteWith(covered, having);
        return covered.Sum(System.Numerics.BitOperations.PopCount) == Rows.Length;
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
                if (Rows[r][column] is var cell && (cell.Cell.Any || (isYesNo ? (cell.YesNo & (v == 1 ? Outcomes.True : Outcomes.False)) != 0 : BitSet.Has(cell.Bits!, v))))
                    BitSet.Set(supports[v] ??= new ulong[(Rows.Length + 63) / 64], r);
        return supports;
    }
}

/// <summary>A cell: any value, or some values of a choice, yes or no, or numbers in some ranges.</summary>
internal sealed record CompiledCell(GridCell Cell, ulong[]? Bits, Outcomes YesNo);

/// <summary>An asked attribute of the instantiated model as a decision variable; numbers go in steps, counted from an origin.</summary>
internal sealed record Variable(int Index, int Node, string Path, Occurrence Occurrence, AttributeRow Row, ValueList? List, Unit Unit, Exact Step, Exact Origin, VariableDomain Initial)
{
    /// <summary>For one value of several choices: the value.</summary>
    public ListValue? Member { get; init; }

    /// <summary>Whether it cannot be left without a value where it applies.</summary>
    public bool IsRequired => Row.Required || Member is not null;

    /// <summary>How people write its path.</summary>
    public string DisplayPath(ModelIndex index) => Occurrence.DisplayPath(index, Row.Id) + (Member is null ? "" : $".{Member.Code}");

    /// <summary>The number at a step, in base units.</summary>
    public Exact At(long step) => Origin + step * Step;

    /// <summary>The index of a value in the list by its id; −1 where the list has none such.</summary>
    public int IndexOf(string valueId)
    {
        for (var i = 0; i < List!.Values.Length; i++)
            if (List.Values[i].Id == valueId)
                return i;
        return -1;
    }

    private static readonly Exact FarthestStep = (long)NetworkEnds<DoubleEnd>.MostSteps;

    /// <summary>The step of a number in base units; null where it lies between steps or beyond all.</summary>
    public long? StepOf(Exact number) => (number - Origin) / Step is { IsWhole: true } step && step.Abs() <= FarthestStep ? (long)step.Numerator : null;
}

/// <summary>What can be part of a reason besides picks: a rule, a condition or an inner bound, of one occurrence.</summary>
public enum CauseKind { Rule, Condition, Bound }

internal sealed record Group(int Index, CauseKind Kind, Row Row, string Field, Occurrence Occurrence);
