using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Bounds of numbers in a store of literals: events on the trail, which become literals only where a learned clause names them.
/// </summary>
internal sealed class BoundLiterals(LiteralStore store, BoundAtoms atoms)
{
    /// <summary>Literals of bounds that stood on the trail before they were named: they come back as long as the bound holds.</summary>
    private readonly List<int> _late = [];

    public BoundAtoms Atoms { get; } = atoms;

    /// <summary>A bound of a node: of an asked number a step, of a computed one a number.</summary>
    public double Of(int node, bool upper)
    {
        ref readonly var domain = ref store.Domains[node];
        return store.Nodes[node].Variable is not null ? upper ? domain.Last : domain.First : (upper ? domain.Numbers.High : domain.Numbers.Low).ToDouble();
    }

    /// <summary>Whether a bound is at least as tight as another one on the same side.</summary>
    public static bool Entails(double bound, double other, bool upper) => upper ? bound <= other : bound >= other;

    /// <summary>Writes a bound into the domain, without a trace of it.</summary>
    public void Set(int node, bool upper, double bound)
    {
        ref var domain = ref store.Domains[node];
        if (store.Nodes[node].Variable is { } variable)
        {
            (domain.First, domain.Last) = upper ? (domain.First, (long)bound) : ((long)bound, domain.Last);
            domain.Numbers = store.Ends.Between(variable.Index, domain.First, domain.Last);
        }
        else
            domain.Numbers = upper ? new(domain.Numbers.Low, new(bound)) : new(new(bound), domain.Numbers.High);
    }

    /// <summary>Takes over a tighter bound that leaves something, with the literals that name bounds of the node. False: a conflict.</summary>
    public bool Assign(int node, bool upper, double bound, long reason)
    {
        var before = Of(node, upper);
        var at = store.Trail.Count;
        store.Trail.PushBound(node, upper, bound, before, reason);
        Set(node, upper, bound);
        store.Queue.Changed(node);
        if (Atoms.On(node, upper) is { } named)
            foreach (var (known, literal) in named)
                if (Entails(bound, known, upper) && !Entails(before, known, upper) && !store.Assign(literal, Antecedent.ByEvent(at)))
                    return false;
        return !store.IsTrue(store.Names.Of(node, Outcomes.Present)) || RuleOutCrossed(node, !upper);
    }

    /// <summary>Rules out the named bounds that the opposite bound leaves no room for, of a node that certainly has a number.</summary>
    public bool RuleOutCrossed(int node) => RuleOutCrossed(node, false) && RuleOutCrossed(node, true);

    private bool RuleOutCrossed(int node, bool upper)
    {
        if (Atoms.On(node, upper) is not { } named)
            return true;
        var opposite = Of(node, !upper);
        foreach (var (bound, literal) in named)
            if ((upper ? opposite > bound : opposite < bound) && !store.Assign(LiteralNames.Negated(literal), Antecedent.NoRoom(node, upper)))
                return false;
        return true;
    }

    /// <summary>Channelling: what the literal of a bound means for its node, once it stands on the trail. False: a conflict.</summary>
    public bool Channel(int literal, in Atom atom)
    {
        var (node, upper, bound) = atom;
        if ((literal & 1) != 0)
        {
            // It applies, and lies on the other side.
            if (!store.Assign(store.Names.Of(node, Outcomes.Present), Antecedent.ByLiteral(literal)))
                return false;
            upper = !upper;
            if (store.Nodes[node].Variable is not null)
                bound += upper ? -1 : 1;
        }
        if (Entails(Of(node, upper), bound, upper))
            return true;
        return (upper ? bound < Of(node, false) : bound > Of(node, true))
            ? store.Assign(LiteralNames.Negated(store.Names.Of(node, Outcomes.Present)), Antecedent.Crossing(literal))
            : Assign(node, upper, bound, Antecedent.ByLiteral(literal));
    }

    // ---- Naming -------------------------------------------------------------------------------------------------

    /// <summary>The literal of a bound; made where there is none yet.</summary>
    public int Named(int node, bool upper, double bound)
    {
        if (Atoms.Find(node, upper, bound) is >= 0 and var known)
            return known;
        var literal = store.NewLiteral();
        Atoms.Add(literal, new(node, upper, bound));
        return literal;
    }

    /// <summary>The literal of a bound that holds now.</summary>
    public int NameTrue(in Fact fact)
    {
        var literal = Named(fact.Node, fact.Upper, fact.Bound);
        if (store.ValueOf(literal) == 0)
        {
            var at = store.Trail.LastEvent(fact.Node, fact.Upper);
            while (store.Trail[at].Previous >= 0 && Entails(store.Trail[at].Before, fact.Bound, fact.Upper))
                at = store.Trail[at].Previous;
            if (store.Trail.LevelOf(at) < store.Trail.Level)
                _late.Add(literal);
            store.Assign(literal, Antecedent.ByEvent(at));
        }
        return literal;
    }

    /// <summary>After going back: makes the names of bounds true again that stood before they were named.</summary>
    public void RestoreLate()
    {
        var kept = 0;
        for (var i = 0; i < _late.Count; i++)
        {
            var literal = _late[i];
            var (node, upper, bound) = Atoms.Of(literal);
            if (store.ValueOf(literal) == 0)
            {
                if (!Entails(Of(node, upper), bound, upper))
                    continue;
                var at = store.Trail.LastEvent(node, upper);
                while (at >= 0 && Entails(store.Trail[at].Before, bound, upper))
                    at = store.Trail[at].Previous;
                store.Assign(literal, at < 0 ? Antecedent.Decision : Antecedent.ByEvent(at));
            }
            if (store.Trail.Level > 0)
                _late[kept++] = literal;
        }
        _late.RemoveRange(kept, _late.Count - kept);
    }
}
