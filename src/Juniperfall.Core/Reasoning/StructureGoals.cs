using Juniperfall.Core.Structures;

namespace Juniperfall.Core.Reasoning;

/// <summary>What a structure comes to as a whole, as goals to bring to their lowest or highest.</summary>
public static class StructureGoals
{
    /// <summary>The cost of one piece, overhead included, as <see cref="RollUp"/> adds it up.</summary>
    public const string Cost = "#cost";

    /// <summary>Net weight of one piece.</summary>
    public const string Weight = "#weight";

    /// <summary>Set-up and run times of one piece.</summary>
    public const string Work = "#work";

    /// <summary>The list price of one piece, as <see cref="Pricing"/> works it out; only where the model has prices.</summary>
    public const string Price = "#price";

    /// <summary>Working days until one piece is ready, as <see cref="Structures.LeadTime"/> has them.</summary>
    public const string LeadTime = "#leadTime";

    public static readonly IReadOnlyList<string> All = [Cost, Weight, Work, LeadTime, Price];
}
