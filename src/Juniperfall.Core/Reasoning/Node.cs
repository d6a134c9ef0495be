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

    public CompiledGrid? Grid { get; init; }

    /// <summary>For <see cref="Operator.Figure"/>: the figure in each row.</summary>
    public ImmutableArray<Value> Figures { get; init; }

    /// <summary>For <see cref="Operator.Variable"/>.</summary>
    public Variable? Variable { get; init; }

    /// <summary>The group whose inactivity switches this constraint off; −1 for background.</summary>
    public int Group { get; init; } = -1;
}

/// <summary>A grid with cells as tests on domains.</summary>
internal sealed record CompiledGrid(ImmutableArray<ImmutableArray<CompiledCell>> Rows);

internal sealed record CompiledCell(GridCell Cell, ulong[]? Bits, Outcomes YesNo)
{
    public bool MayMatch(in Domain domain) => Cell.Any ? domain.MayHaveValue : domain.Kind switch
    {
        DomainKind.Choice => (domain.Outcomes & Outcomes.Present) != 0 && BitSet.Intersects(domain.Bits!, Bits!),
        DomainKind.YesNo => (domain.Outcomes & YesNo) != 0,
        _ => (domain.Outcomes & Outcomes.Present) != 0 && MayMatchNumber(domain),
    };

    /// <summary>Whether every value that the domain holds matches.</summary>
    public bool MustMatch(in Domain domain) => Cell.Any || domain.Kind switch
    {
        DomainKind.Choice => BitSet.IsSubset(domain.Bits!, Bits!),
        DomainKind.YesNo => (domain.Outcomes & Outcomes.Value & ~YesNo) == 0,
        _ => MustMatchNumber(domain),
    };

    private bool MayMatchNumber(in Domain domain)
    {
        foreach (var value in Cell.Values)
            if (!(value.Number < domain.Low) && !(value.Number > domain.High))
                return true;
        foreach (var (low, high) in Cell.Ranges)
            if (!(high < domain.Low) && !(low > domain.High))
                return true;
        return false;
    }

    private bool MustMatchNumber(in Domain domain)
    {
        if (domain.Low is { } point && domain.High == point)
            return MayMatchNumber(domain);
        foreach (var (low, high) in Cell.Ranges)
            if ((low is null || low <= domain.Low) && (high is null || domain.High <= high))
                return true;
        return false;
    }
}

/// <summary>An asked attribute of the instantiated model as a decision variable.</summary>
internal sealed record Variable(int Index, int Node, string Path, Occurrence Occurrence, AttributeRow Row, ValueList? List, Unit Unit, Exact Step, Exact Origin)
{
    /// <summary>How many numbers a domain of this variable holds.</summary>
    public double CountOf(in Domain domain) => (domain.Outcomes & Outcomes.Present) == 0 ? 0
        : ((domain.High!.Value - domain.Low!.Value) / Step).ToDouble() + 1;
}

/// <summary>What can be part of a reason besides picks: a rule, a condition or an inner bound, of one occurrence.</summary>
public enum CauseKind { Rule, Condition, Bound }

internal sealed record Group(int Index, CauseKind Kind, Row Row, string Field, Occurrence Occurrence);
