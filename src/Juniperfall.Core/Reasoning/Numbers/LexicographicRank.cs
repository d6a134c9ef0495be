namespace Juniperfall.Core.Reasoning.Numbers;

/// <summary>
/// The order of values by which instances are put in lexicographic order: none, no, yes, and those of a list or a step as they are; last
/// comes what does not apply, so that instances that are not there come last.
/// </summary>
internal static class LexicographicRank
{
    /// <summary>The rank of what does not apply, and of the first value of a list or a number.</summary>
    public const long Absent = long.MaxValue, FirstValue = 3;

    public static long Of(Outcomes outcome, long index) => outcome switch
    {
        Outcomes.None => 0,
        Outcomes.False => 1,
        Outcomes.True => 2,
        Outcomes.Absent => Absent,
        _ => FirstValue + index,
    };
}
