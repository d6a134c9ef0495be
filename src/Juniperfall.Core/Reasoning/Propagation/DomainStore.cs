using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// The domains of a network's nodes, and the ways in which propagators narrow them. Bounds of numbers are as in Lhomme, “Consistency
/// techniques for numeric CSPs” (1993). What narrowing means beyond the domains, such as a trail or literals, is up to each store.
/// </summary>
internal abstract class DomainStore<T> where T : struct, IEnd<T>
{
    private readonly DecidedNumbers<T> _decided;

    /// <summary>The domains, by node. Only the store itself writes them.</summary>
    public readonly Domain<T>[] Domains;
    public readonly Node[] Nodes;

    /// <param name="state">The domains to start from; they are not changed.</param>
    protected DomainStore(Network network, NetworkEnds<T> ends, Domain<T>[] state)
    {
        (Network, Ends, Nodes) = (network, ends, network.Nodes);
        Domains = [.. state];
        Queue = new(network);
        Limit = new(Domains.Length);
        _decided = new(this);
    }

    /// <summary>A copy with domains of its own.</summary>
    /// <param name="spent">An earlier copy that is not used any more.</param>
    protected DomainStore(DomainStore<T> of, DomainStore<T>? spent)
    {
        (Network, Ends, Nodes) = (of.Network, of.Ends, of.Nodes);
        Domains = spent?.Domains ?? new Domain<T>[of.Domains.Length];
        for (var n = 0; n < Domains.Length; n++)
        {
            var bits = Domains[n].Bits;
            Domains[n] = of.Domains[n];
            if (Domains[n].Bits is { } own)
                Domains[n].Bits = ReusedArrays.Copied(own, bits);
        }
        (Queue, Limit) = (new(of.Queue, spent?.Queue), new(of.Limit, spent?.Limit));
        _decided = new(this);
    }

    public Network Network { get; }
    public NetworkEnds<T> Ends { get; }
    public RevisionQueue Queue { get; }
    public NarrowingLimit Limit { get; }

    /// <summary>Whether the propagator at work has decided something by exact numbers, so by all that these stem from.</summary>
    public bool UsedExactNumbers { get; set; }

    /// <summary>Whether what belongs to a group holds; −1 is what holds in any case.</summary>
    public abstract bool IsActive(int group);

    /// <summary>Keeps only some outcomes of a node. False: none is left.</summary>
    public abstract bool SetOutcomes(int node, Outcomes keep);

    /// <summary>Keeps only some values of a choice; where none is left it has no value. False: nothing is left at all.</summary>
    public abstract bool SetBits(int node, ulong[] mask);

    /// <summary>Takes over tighter bounds of a computed number.</summary>
    protected abstract bool Narrow(int node, Interval<T> numbers);

    /// <summary>Takes over tighter bounds of an asked number, in steps.</summary>
    protected abstract bool Narrow(int node, long first, long last);

    /// <summary>Keeps only the numbers of an interval. False: nothing is left.</summary>
    /// <param name="strictLow">Whether the lower end itself is left out; of asked numbers only.</param>
    public bool SetBounds(int node, Interval<T> to, bool strictLow = false, bool strictHigh = false)
    {
        ref var domain = ref Domains[node];
        if (!domain.MayBePresent)
            return true;
        if (Nodes[node].Variable is { } variable)
            return SetSteps(node, FirstFrom(variable.Index, domain, to.Low, strictLow), LastUpTo(variable.Index, domain, to.High, strictHigh));
        var (low, high) = to.IsPoint ? (to.Low, to.High) : (T.Shorten(to.Low, up: false), T.Shorten(to.High, up: true));
        var (tighterLow, tighterHigh) = (low > domain.Numbers.Low, high < domain.Numbers.High);
        if (!tighterLow && !tighterHigh)
            return true;
        var numbers = new Interval<T>(tighterLow ? low : domain.Numbers.Low, tighterHigh ? high : domain.Numbers.High);
        if (numbers.Low > numbers.High)
            return SetOutcomes(node, ~Outcomes.Present);
        return (!numbers.IsPoint && Limit.IsReached(node)) || Narrow(node, numbers);
    }

    /// <summary>Keeps only the steps from a first to a last one. False: nothing is left.</summary>
    public bool SetSteps(int node, long first, long last)
    {
        ref var domain = ref Domains[node];
        (first, last) = (Math.Max(first, domain.First), Math.Min(last, domain.Last));
        if (first == domain.First && last == domain.Last)
            return true;
        if (first > last)
            return SetOutcomes(node, ~Outcomes.Present);
        return (first != last && Limit.IsReached(node)) || Narrow(node, first, last);
    }

    /// <summary>The first step that is not surely below a bound.</summary>
    private long FirstFrom(int variable, in Domain<T> domain, T low, bool strict)
    {
        if (low < domain.Numbers.Low || (low == domain.Numbers.Low && !strict))
            return domain.First;
        var step = Math.Max(domain.First, Ends.Near(variable, low) - 1);
        while (step <= domain.Last && (strict ? Ends.HighAt(variable, step) <= low : Ends.HighAt(variable, step) < low))
            step++;
        return step;
    }

    private long LastUpTo(int variable, in Domain<T> domain, T high, bool strict)
    {
        if (high > domain.Numbers.High || (high == domain.Numbers.High && !strict))
            return domain.Last;
        var step = Math.Min(domain.Last, Ends.Near(variable, high) + 2);
        while (step >= domain.First && (strict ? Ends.LowAt(variable, step) >= high : Ends.LowAt(variable, step) > high))
            step--;
        return step;
    }

    /// <summary>Narrows a variable to a domain, outcome by outcome. False: nothing is left.</summary>
    public bool Restrict(Variable variable, in VariableDomain to)
    {
        if (!SetOutcomes(variable.Node, to.Outcomes))
            return false;
        if (!to.MayBePresent || !Domains[variable.Node].MayBePresent)
            return true;
        return to.Kind switch
        {
            DomainKind.Number => SetSteps(variable.Node, to.First, to.Last),
            DomainKind.Choice => SetBits(variable.Node, to.Bits!),
            _ => true,
        };
    }

    /// <summary>What a variable may still be.</summary>
    public VariableDomain Of(Variable variable)
    {
        ref readonly var domain = ref Domains[variable.Node];
        return new(domain.Kind, domain.Outcomes, domain.First, domain.Last, domain.Bits);
    }

    /// <summary>The exact number of a node; false where something that it stems from is still open.</summary>
    public bool IsKnown(int node, out Exact number)
    {
        if (!_decided.TryGet(node, out number))
            return false;
        UsedExactNumbers = true;
        return true;
    }

    /// <summary>The exact number of a node whose interval is narrow because it is decided.</summary>
    public bool IsDecided(int node, out Exact number)
    {
        ref readonly var domain = ref Domains[node];
        number = default;
        return T.IsNarrow(domain.Numbers.Low, domain.Numbers.High) && IsKnown(node, out number);
    }
}

/// <summary>Exact numbers of nodes whose variables are all decided in a store.</summary>
internal sealed class DecidedNumbers<T>(DomainStore<T> store) : ExactNumbers(store.Network) where T : struct, IEnd<T>
{
    protected override Outcomes OutcomeOf(int node) => store.Domains[node] is { HasOneOutcome: true } domain ? domain.Outcomes : Outcomes.Impossible;

    protected override long IndexOf(int node)
    {
        ref readonly var domain = ref store.Domains[node];
        return domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) == 1 ? BitSet.First(domain.Bits!) : Undecided
            : domain.First == domain.Last ? domain.First : Undecided;
    }
}
