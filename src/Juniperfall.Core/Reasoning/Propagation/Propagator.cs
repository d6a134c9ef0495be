using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// A family of propagators over one store: for each of its operators, what the children allow the node and what the node allows the
/// children. None ever removes what a solution has. Strict operators have no value where a child has none.
/// </summary>
internal abstract class Propagator<T>(DomainStore<T> store) where T : struct, IEnd<T>
{
    protected readonly DomainStore<T> _store = store;
    protected readonly Domain<T>[] _domains = store.Domains;

    /// <summary>Narrows a node and its children to what they allow each other. False: nothing is left.</summary>
    public abstract bool Revise(int n, Node node);

    protected bool SetOutcomes(int node, Outcomes keep) => _store.SetOutcomes(node, keep);
    protected bool SetBits(int node, ulong[] mask) => _store.SetBits(node, mask);
    protected bool SetBounds(int node, Interval<T> to, bool strictLow = false, bool strictHigh = false) => _store.SetBounds(node, to, strictLow, strictHigh);
    protected Interval<T> Numbers(int node) => _domains[node].Numbers;

    protected bool AllMayHaveValue(int[] children)
    {
        foreach (var child in children)
            if (!_domains[child].MayHaveValue)
                return false;
        return true;
    }

    /// <summary>Outcomes of a strict operator: an error dominates, then no value; otherwise the operator computes.</summary>
    protected bool Strict(int n, int[] children, Outcomes computed)
    {
        var may = Outcomes.Impossible;
        var all = true;
        foreach (var child in children)
        {
            var outcomes = _domains[child].Outcomes;
            if ((outcomes & (Outcomes.Absent | Outcomes.None)) != 0)
                may |= Outcomes.Absent;
            may |= outcomes & Outcomes.Error;
            all &= (outcomes & Outcomes.Value) != 0;
        }
        var childMayFail = (may & Outcomes.Error) != 0;
        if (all)
            may |= computed;
        if (!SetOutcomes(n, may))
            return false;
        var left = _domains[n].Outcomes;
        foreach (var child in children)
        {
            if ((left & Outcomes.Error) == 0 && !SetOutcomes(child, ~Outcomes.Error))
                return false;
            if ((left & Outcomes.Absent) == 0 && (!childMayFail || (left & Outcomes.Error) == 0) && !SetOutcomes(child, Outcomes.Value))
                return false;
        }
        return left != Outcomes.Absent || OnlyWithoutSureValue(children) is not { } one || SetOutcomes(one, ~Outcomes.Value);
    }

    /// <summary>The one child that may have no value; null where there is none or more than one.</summary>
    private int? OnlyWithoutSureValue(int[] children)
    {
        int? found = null;
        foreach (var child in children)
            if (!_domains[child].MustHaveValue)
            {
                if (found is not null)
                    return null;
                found = child;
            }
        return found;
    }

    /// <summary>Whether the node's value binds this child: only where every other child certainly has a value.</summary>
    protected bool Binds(int[] children, int child)
    {
        foreach (var other in children)
            if (other != child && !_domains[other].MustHaveValue)
                return false;
        return true;
    }

    /// <summary>Whether the node certainly has to do with this child: it may have a value, and the others do.</summary>
    protected bool BindsFrom(int n, int[] children, int child) => _domains[n].MayHaveValue && Binds(children, child);

    // ---- Hulls --------------------------------------------------------------------------------------------------

    /// <summary>Outcomes of a node that stands for another one: to have been left without a value is to have none.</summary>
    protected static Outcomes Folded(Outcomes o) => (o & Outcomes.None) != 0 ? o & ~Outcomes.None | Outcomes.Absent : o;

    protected static bool Overlap(in Domain<T> a, in Domain<T> b)
    {
        var common = Folded(a.Outcomes) & Folded(b.Outcomes);
        if ((common & ~Outcomes.Present) != 0)
            return true;
        return (common & Outcomes.Present) != 0
            && (a.Kind == DomainKind.Choice ? BitSet.Intersects(a.Bits!, b.Bits!) : Interval<T>.Overlap(a.Numbers, b.Numbers));
    }

    /// <summary>Widens a hull by what another domain holds.</summary>
    protected static void Join(ref Domain<T> hull, in Domain<T> other)
    {
        if (other.MayBePresent)
        {
            if (other.Kind == DomainKind.Choice)
                hull.Bits = hull.MayBePresent ? BitSet.Union(hull.Bits!, other.Bits!) : other.Bits;
            else
                hull.Numbers = hull.MayBePresent ? Interval<T>.Hull(hull.Numbers, other.Numbers) : other.Numbers;
        }
        hull.Outcomes |= Folded(other.Outcomes);
    }

    /// <summary>Narrows the values of a node to those of a hull.</summary>
    protected bool NarrowTo(int n, in Domain<T> hull) =>
        !hull.MayBePresent || (hull.Kind == DomainKind.Choice ? SetBits(n, hull.Bits!) : SetBounds(n, hull.Numbers));
}
