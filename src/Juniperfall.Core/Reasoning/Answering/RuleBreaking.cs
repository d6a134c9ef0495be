using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Configurations that break one rule alone.</summary>
internal static class RuleBreaking
{
    /// <summary>
    /// A configuration that breaks what a group asks for and nothing else, as far as changing known ones finds it; null otherwise,
    /// and where the values are too many to be numbered through.
    /// </summary>
    public static Assigned[]? BreakingOnly(PreparedNetwork prepared, Group group)
    {
        if (prepared.Discrete is not { } discrete
            || Array.Find(prepared.Network.Groups, g =>
            g.Kind == group.Kind && g.Row.Id == group.Row.Id && g.Field == group.Field && g.Occurrence.Prefix == group.Occurrence.Prefix) is not { } own
            || discrete.Rules.RuleOf(own.Index) is not (>= 0 and var rule))
            return null;
        return discrete.Repairing(repair =>
        {
            foreach (var witness in discrete.Pool.Containing([]).AsEnumerable().Reverse().Take(MostTried))
                if (repair.Break(rule, witness, discrete.Slots.Full()))
                    return discrete.Slots.ToConfiguration(repair.Found.Slots);
            return null;
        });
    }

    private const int MostTried = 8;
}
