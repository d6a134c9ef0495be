using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// The next decision: of the variable that took part in most of the latest conflicts, the value that is preferred, or that it had in
/// the last solution (phase saving: Pipatsrisawat and Darwiche, “A lightweight component caching scheme for satisfiability solvers”, 2007).
/// </summary>
internal sealed class Branching
{
    private readonly LiteralStore _store;
    private readonly Variable[] _variables;

    /// <summary>By variable: its literal where it is only ever yes or no, otherwise −1.</summary>
    private readonly int[] _truths;
    private readonly Assigned?[] _phases;

    public Branching(LiteralStore store)
    {
        (_store, _variables) = (store, store.Network.Variables);
        _truths = [.. _variables.Select(v => ClauseEncoding.IsTwoValued(store.Domains[v.Node]) ? store.Names.Of(v.Node, Outcomes.True) : -1)];
        (_phases, Preferred) = (new Assigned?[_variables.Length], new Assigned?[_variables.Length]);
    }

    /// <summary>A copy without phases.</summary>
    /// <param name="spent">An earlier copy that is not used any more.</param>
    public Branching(Branching of, LiteralStore store, Branching? spent)
    {
        (_store, _variables, _truths) = (store, of._variables, of._truths);
        (_phases, Preferred) = (ReusedArrays.Cleared(of._phases.Length, spent?._phases), ReusedArrays.Copied(of.Preferred, spent?.Preferred));
    }

    /// <summary>By variable: the value that is tried first; null where there is no preference.</summary>
    public Assigned?[] Preferred { get; }

    /// <summary>The next decision; null where every variable is decided.</summary>
    public Fact? Choose()
    {
        var order = _store.Order;
        // Mostly all is decided by what was preferred: then nothing is taken out that would have to go back in.
        while (order.DecidedUpTo < _truths.Length && IsDecided(order.DecidedUpTo))
            order.DecidedUpTo++;
        if (order.DecidedUpTo == _truths.Length)
            return null;
        while (order.TryTake(out var index))
        {
            if (_truths[index] is var truth and >= 0)
            {
                if (_store.ValueOf(truth) != 0)
                    continue;
                order.PutBack(index);
                return Fact.Of(YesOrNo(index, truth));
            }
            var variable = _variables[index];
            if (_store.Of(variable).IsPoint)
                continue;
            var fact = Decision(variable, WishFor(variable));
            // It may need more than one decision.
            order.PutBack(index);
            return fact;
        }
        return null;
    }

    /// <summary>Whether a variable is decided, or need not be.</summary>
    public bool IsDecided(int variable) => !_store.Order.IsProjected(variable)
        || (_truths[variable] is var truth and >= 0 ? _store.ValueOf(truth) != 0 : _store.Of(_variables[variable]).IsPoint);

    private int YesOrNo(int variable, int truth) =>
        (Preferred[variable] ?? _phases[variable])?.Outcome == Outcomes.True ? truth : LiteralNames.Negated(truth);

    /// <summary>The preferred value, or that of the last solution, if it can still be had.</summary>
    private Assigned? WishFor(Variable variable)
    {
        var domain = _store.Of(variable);
        return Preferred[variable.Index] is { } preferred && domain.Allows(preferred) ? preferred
            : _phases[variable.Index] is { } phase && domain.Allows(phase) ? phase : null;
    }

    /// <summary>A decision that brings a variable nearer to a value; where none is wished for, the first one or the lower half.</summary>
    public Fact Decision(Variable variable, Assigned? wish)
    {
        ref readonly var domain = ref _store.Domains[variable.Node];
        if (!domain.HasOneOutcome)
            return Fact.Of(_store.Names.Of(variable.Node, wish?.Outcome ?? FirstOf(domain.Outcomes)));
        if (domain.Kind == DomainKind.Choice)
            return Fact.Of(_store.Names.ValuesOf(variable.Node)[wish is { } w ? (int)w.Index : BitSet.First(domain.Bits!)]);
        if (wish is { } number)
            return number.Index > domain.First ? Fact.AtLeast(variable.Node, number.Index) : Fact.AtMost(variable.Node, number.Index);
        // Halved, so that a proof does not count the steps.
        return Fact.AtMost(variable.Node, domain.First + (domain.Last - domain.First) / 2);
    }

    private static Outcomes FirstOf(Outcomes outcomes)
    {
        foreach (var outcome in new[] { Outcomes.Present, Outcomes.False, Outcomes.True, Outcomes.None })
            if ((outcomes & outcome) != 0)
                return outcome;
        return Outcomes.Absent;
    }

    /// <summary>The values of all variables where each is decided; what need not be decided gets the nearest value to the preferred one.</summary>
    public Assigned[] Decided()
    {
        var values = new Assigned[_truths.Length];
        for (var i = 0; i < values.Length; i++)
            values[i] = _truths[i] >= 0 ? new(_store.IsTrue(_truths[i]) ? Outcomes.True : Outcomes.False, 0)
                : _store.Of(_variables[i]) is var domain && domain.IsPoint ? domain.Point : Nearest(domain, Preferred[i]);
        return values;
    }

    /// <summary>Remembers the values of a solution for the decisions to come.</summary>
    public void Remember(Assigned[] solution)
    {
        for (var i = 0; i < solution.Length; i++)
            _phases[i] = solution[i];
    }

    /// <summary>A value of a domain: the number next to the one that was wished for, otherwise the first.</summary>
    public static Assigned Nearest(in VariableDomain domain, Assigned? wish)
    {
        if (domain.MayBePresent)
            return new(Outcomes.Present, domain.Kind == DomainKind.Choice ? BitSet.First(domain.Bits!)
                : wish is { Outcome: Outcomes.Present, Index: var index } ? Math.Clamp(index, domain.First, domain.Last) : domain.First);
        foreach (var outcome in new[] { Outcomes.False, Outcomes.True, Outcomes.None })
            if ((domain.Outcomes & outcome) != 0)
                return new(outcome, 0);
        return Assigned.Absent;
    }
}
