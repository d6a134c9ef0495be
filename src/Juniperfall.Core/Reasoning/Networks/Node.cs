using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning.Networks;

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
