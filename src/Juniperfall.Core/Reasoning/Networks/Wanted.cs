using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

/// <summary>A pick as a test on solutions: the value, or that the attribute does not apply.</summary>
internal readonly record struct Wanted(int Variable, Assigned Value)
{
    public bool IsMetBy(in Assigned value) => value.Outcome == Outcomes.Absent || value == Value;
}
