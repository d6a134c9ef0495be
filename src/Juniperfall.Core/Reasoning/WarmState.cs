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
public sealed record WarmState(ImmutableArray<WarmVariable> Variables, ImmutableArray<ImmutableArray<int>> Configurations)
{
    public const int None = -1, Absent = -2;

    /// <summary>How many configurations are kept at most.</summary>
    public const int MostConfigurations = 250;
}
