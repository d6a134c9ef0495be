using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// Instances in lexicographic order: by the first of their variables in which they differ (Frisch, Hnich, Kiziltan, Miguel and Walsh,
/// “Propagation algorithms for lexicographic ordering constraints”, 2006; here up to the first variable that is not decided).
/// </summary>
internal sealed class LexicographicPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node) => (_domains[n].Outcomes & Outcomes.False) != 0 || ReviseInOrder(node.Children);

    private bool ReviseInOrder(int[] children)
    {
        var half = children.Length / 2;
        for (var place = 0; place < half; place++)
        {
            var (first, second) = (children[place], children[place + half]);
            if (!KeepUpTo(first, Ranks(second).High) || !KeepFrom(second, Ranks(first).Low))
                return false;
            if (Ranks(first) is var a && (a.Low != a.High || Ranks(second) != a))
                return true;
        }
        return true;
    }

    /// <summary>The first and the last place in the order that a variable may still have.</summary>
    private (long Low, long High) Ranks(int node)
    {
        ref readonly var domain = ref _domains[node];
        var (low, high) = (LexicographicRank.Absent, -1L);
        for (var left = domain.Outcomes; left != 0; left &= left - 1)
        {
            var outcome = left & ~(left - 1);
            var (first, last) = outcome != Outcomes.Present ? (0, 0) : domain.Kind == DomainKind.Choice
                ? (BitSet.First(domain.Bits!), BitSet.Last(domain.Bits!)) : (domain.First, domain.Last);
            (low, high) = (Math.Min(low, LexicographicRank.Of(outcome, first)), Math.Max(high, LexicographicRank.Of(outcome, last)));
        }
        return (low, high);
    }

    private bool KeepUpTo(int node, long rank) => Keep(node, 0, rank);

    private bool KeepFrom(int node, long rank) => Keep(node, rank, LexicographicRank.Absent);

    private bool Keep(int node, long from, long upTo)
    {
        var keep = Outcomes.Impossible;
        for (var left = _domains[node].Outcomes; left != 0; left &= left - 1)
        {
            var outcome = left & ~(left - 1);
            if (outcome == Outcomes.Present ? from != LexicographicRank.Absent
                && upTo >= LexicographicRank.FirstValue : LexicographicRank.Of(outcome, 0) is var rank && from <= rank && rank <= upTo)
                keep |= outcome;
        }
        if (!SetOutcomes(node, keep))
            return false;
        if (!_domains[node].MayBePresent)
            return true;
        var (first, last) = (Math.Max(from - LexicographicRank.FirstValue, 0),
            upTo == LexicographicRank.Absent ? long.MaxValue : upTo - LexicographicRank.FirstValue);
        if (_domains[node].Kind == DomainKind.Number)
            return _store.SetSteps(node, from <= LexicographicRank.FirstValue ? _domains[node].First : first, last);
        var bits = _domains[node].Bits!;
        if (BitSet.First(bits) >= first && BitSet.Last(bits) <= last)
            return true;
        var mask = new ulong[bits.Length];
        foreach (var value in BitSet.Members(bits))
            if (first <= value && value <= last)
                BitSet.Set(mask, value);
        return SetBits(node, mask);
    }
}
