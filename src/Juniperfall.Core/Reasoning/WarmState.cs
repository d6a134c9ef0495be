using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>What one variable of a <see cref="WarmState"/> can be.</summary>
/// <param name="Values">The values that configurations of the state have.</param>
/// <param name="Available">What it can be in any configuration, exactly.</param>
public sealed record WarmVariable(string Path, ImmutableArray<Value> Values, Available Available);

/// <summary>
/// What was found out of a model, for one site and day, before anything is picked: for a reasoner of another process, which then answers its
/// first question like its hundredth. It is of use only to the same model and the same program.
/// </summary>
/// <param name="Configurations">For each variable the place of its value; <see cref="None"/> and <see cref="Absent"/> where it has none.</param>
/// <param name="Diagrams">The parts of the model that are small as decision diagrams.</param>
public sealed record WarmState(ImmutableArray<WarmVariable> Variables, ImmutableArray<ImmutableArray<int>> Configurations,
    ImmutableArray<WarmDiagram> Diagrams)
{
    public const int None = -1, Absent = -2;

    /// <summary>How many configurations are kept at most.</summary>
    public const int MostConfigurations = 250;
}

/// <summary>A part of a model as a decision diagram, of no use to any other build of the program.</summary>
/// <param name="Variables">The places of its variables.</param>
/// <param name="Slots">By leaf, the value among all of the model.</param>
/// <param name="First">By node behind the leaves, its first child; at the end how many children there are.</param>
/// <param name="IsAll">By node behind the leaves, whether all children hold.</param>
public sealed record WarmDiagram(ImmutableArray<int> Variables, ImmutableArray<int> Slots, ImmutableArray<int> First, ImmutableArray<int> Children,
    ImmutableArray<bool> IsAll);
