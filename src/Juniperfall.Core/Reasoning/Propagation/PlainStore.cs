using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Domains that narrow in place; either all groups hold or none does.</summary>
/// <param name="state">The domains to start from; they are not changed.</param>
/// <param name="trail">Where domains are kept before they change; null where nothing is undone.</param>
internal sealed class PlainStore<T>(Network network, NetworkEnds<T> ends, Domain<T>[] state, bool withGroups, DomainTrail<T>? trail)
    : DomainStore<T>(network, ends, state) where T : struct, IEnd<T>
{
    public override bool IsActive(int group) => group < 0 || withGroups;

    public override bool SetOutcomes(int node, Outcomes keep)
    {
        var left = Domains[node].Outcomes & keep;
        if (left == Domains[node].Outcomes)
            return true;
        trail?.Keep(node, Domains[node]);
        Domains[node].Outcomes = left;
        Queue.Changed(node);
        return left != Outcomes.Impossible;
    }

    public override bool SetBits(int node, ulong[] mask)
    {
        var bits = Domains[node].Bits!;
        if (BitSet.IsSubset(bits, mask))
            return true;
        trail?.Keep(node, Domains[node]);
        var left = new ulong[bits.Length];
        var any = 0UL;
        for (var i = 0; i < bits.Length; i++)
            any |= left[i] = bits[i] & mask[i];
        Domains[node].Bits = left;
        if (any == 0)
            return SetOutcomes(node, ~Outcomes.Present);
        Queue.Changed(node);
        return true;
    }

    protected override bool Narrow(int node, Interval<T> numbers)
    {
        trail?.Keep(node, Domains[node]);
        Domains[node].Numbers = numbers;
        Queue.Changed(node);
        return true;
    }

    protected override bool Narrow(int node, long first, long last)
    {
        trail?.Keep(node, Domains[node]);
        ref var domain = ref Domains[node];
        (domain.First, domain.Last, domain.Numbers) = (first, last, Ends.Between(Nodes[node].Variable!.Index, first, last));
        Queue.Changed(node);
        return true;
    }
}

/// <summary>Domains as they were before they changed, the latest last.</summary>
internal sealed class DomainTrail<T> where T : struct, IEnd<T>
{
    private readonly List<(int Node, Domain<T> Before)> _kept = [];

    /// <summary>A mark to come back to.</summary>
    public int Mark => _kept.Count;

    public void Keep(int node, in Domain<T> before) => _kept.Add((node, before));

    /// <summary>Puts domains back to what they were at a mark.</summary>
    public void UndoTo(int mark, Domain<T>[] domains)
    {
        for (var i = _kept.Count - 1; i >= mark; i--)
            domains[_kept[i].Node] = _kept[i].Before;
        _kept.RemoveRange(mark, _kept.Count - mark);
    }

    /// <summary>The nodes whose domains changed since a mark; one may come more than once.</summary>
    public IEnumerable<int> Since(int mark)
    {
        for (var i = mark; i < _kept.Count; i++)
            yield return _kept[i].Node;
    }
}
