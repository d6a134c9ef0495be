using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Questions to a search in terms of variables and what they may be.</summary>
internal sealed partial class Search
{
    /// <summary>What stands for all questions until something else does.</summary>
    public List<Fact> Standing { get; } = [];

    /// <summary>Lets variables stand within domains, beside what stands already. False: they leave nothing.</summary>
    public bool Stand(IEnumerable<(Variable Variable, VariableDomain To)> restrictions)
    {
        foreach (var (variable, to) in restrictions)
            Within(variable, to, Standing);
        return Assume(Standing);
    }

    private List<Fact> BesideStanding(IEnumerable<(Variable Variable, VariableDomain To)> restrictions)
    {
        List<Fact> facts = [.. Standing];
        foreach (var (variable, to) in restrictions)
            Within(variable, to, facts);
        return facts;
    }

    /// <summary>Whether some configuration lies within the given domains beside what stands; its values if so.</summary>
    /// <param name="orders">What may be assumed beside, since with any solution there is one of which it is so.</param>
    public Assigned[]? Try(IEnumerable<(Variable Variable, VariableDomain To)> restrictions, params ReadOnlySpan<int> orders)
    {
        var facts = BesideStanding(restrictions);
        if (!Assume(facts))
            return null;
        if (!_isDiscrete && Guess() is { } guessed)
            return guessed;
        if (orders.IsEmpty)
            return Solve(facts);
        // Orders cost the freedom to find what is near; they pay where much has to be refuted.
        if (Solve(facts, MostUnordered) is var found && !HasGivenUp)
            return found;
        InOrder(orders, facts);
        return Solve(facts);
    }

    /// <summary>That instances stand in order, by the nodes that say so.</summary>
    public void InOrder(ReadOnlySpan<int> orders, List<Fact> facts)
    {
        foreach (var node in orders)
            facts.Add(Fact.Of(Negated(Literal(node, Outcomes.False))));
    }

    /// <summary>After how many conflicts it is time to look at instances in one order only.</summary>
    private const int MostUnordered = 100;

    /// <summary>How much of a solution may change, and how often it is tried again, before a search is the better way.</summary>
    private const int MostChanged = 60, MostMendings = 80;

    private readonly List<(int Variable, Assigned Value)> _changes = [];
    private readonly int[] _changedIn;
    private int _mending;

    /// <summary>
    /// Mends a solution so that it lies within some domains beside what stands. What propagation leaves no room for changes to
    /// the nearest value that it allows; as long as a rule fails by that, one more variable that the rule reads is decided, as it
    /// was where it can be, and conflicts are learned from like in any search. So the work goes with what has to change, not with
    /// the size of the model.
    /// </summary>
    /// <param name="failing">The variables of a rule that fails with some changes; null where all hold.</param>
    public Mending Mend(IEnumerable<(Variable Variable, VariableDomain To)> restrictions, Assigned[] from, Func<List<(int Variable, Assigned Value)>, int[]?> failing)
    {
        if (!Assume(BesideStanding(restrictions)))
            return Mending.Refuted;
        for (var mendings = 0; mendings < MostMendings && !_isDead; mendings++)
        {
            if (!PropagateAll())
            {
                CheckCancelled();
                LearnFromConflict();
                continue;
            }
            if (_level < _assumed.Count)
            {
                if (!AssumeNext())
                    return Mending.Refuted;
                continue;
            }
            FindChanges(from);
            if (_changes.Count > MostChanged)
                return Mending.GivenUp;
            if (failing(_changes) is not { } variables)
                return Mending.Mended;
            if (ToDecide(variables, from) is not { } fact)
                return Mending.GivenUp;
            NewLevel();
            Decide(fact);
        }
        return _isDead ? Mending.Refuted : Mending.GivenUp;
    }

    /// <summary>The variables whose value in a solution is no longer possible, with the nearest one that is.</summary>
    private void FindChanges(Assigned[] from)
    {
        _changes.Clear();
        _mending++;
        for (var at = Standing.Count < _level ? _levelStarts[Standing.Count] : _trailCount; at < _trailCount; at++)
        {
            var entry = _trail[at];
            if (entry.Node >= 0)
                Check(entry.Node);
            else
                for (var m = _firstMeaning[entry.Literal]; m >= 0; m = _meanings[m].Next)
                    Check(_meanings[m].Node);
        }

        void Check(int node)
        {
            if (_variableOf[node] is not (>= 0 and var variable) || _changedIn[variable] == _mending)
                return;
            var domain = Of(_network.Variables[variable]);
            if (domain.Allows(from[variable]))
                return;
            _changedIn[variable] = _mending;
            _changes.Add((variable, Nearest(domain, from[variable])));
        }
    }

    /// <summary>What to decide for a rule that fails: first what can stay as it was, so that the rest has to give way.</summary>
    private Fact? ToDecide(int[] variables, Assigned[] from)
    {
        Fact? changed = null;
        foreach (var index in variables)
        {
            if (IsDecided(index))
                continue;
            var variable = _network.Variables[index];
            ref readonly var domain = ref _domains[variable.Node];
            if (_changedIn[index] != _mending)
                return Decision(variable, domain, from[index]);
            changed ??= Decision(variable, domain, Nearest(Of(variable), from[index]));
        }
        return changed;
    }

    private (int Node, Outcomes Outcome)? _wanted;

    /// <summary>A solution within some facts in which a node comes out in a way, exactly; null where there is none.</summary>
    public Assigned[]? SolveFor(int node, Outcomes outcome, IEnumerable<Fact> facts)
    {
        Core = [];
        if (Literal(node, outcome) is var literal && literal == False)
            return null;
        _wanted = (node, outcome);
        try
        {
            return Solve([.. facts, Fact.Of(literal)]);
        }
        finally
        {
            _wanted = null;
        }
    }

    /// <summary>What the variables may be, as far as propagation of what stands tells.</summary>
    public VariableDomain[] Domains()
    {
        var domains = new VariableDomain[_network.Variables.Length];
        LookAtDomains((variable, domain) => domains[variable.Index] = domain.Bits is { } bits ? domain with { Bits = [.. bits] } : domain);
        return domains;
    }

    /// <summary>As <see cref="Domains"/>, without keeping any: they are what they are only while they are looked at.</summary>
    public void LookAtDomains(Action<Variable, VariableDomain> look)
    {
        if (!Assume(Standing))
            throw new InvalidOperationException("What stands leaves nothing.");
        foreach (var variable in _network.Variables)
            look(variable, Of(variable));
    }

    /// <summary>
    /// The preferred values as far as the domains still allow them, the nearest others for the rest: that alone is often a
    /// solution, at the cost of one evaluation.
    /// </summary>
    private Assigned[]? Guess()
    {
        var variables = _network.Variables;
        var (wanted, applying, found) = (new Assigned[variables.Length], new Assigned?[variables.Length], new Assigned[variables.Length]);
        foreach (var variable in variables)
        {
            var domain = Of(variable);
            var preferred = Preferred[variable.Index];
            wanted[variable.Index] = preferred is { } p && domain.Allows(p) ? p : Nearest(domain, preferred);
            var having = domain.Only(domain.Outcomes & ~Outcomes.Absent);
            applying[variable.Index] = having.Outcomes == Outcomes.Impossible ? null : wanted[variable.Index].Outcome != Outcomes.Absent ? wanted[variable.Index] : Nearest(having, preferred);
        }
        if (_evaluator.Evaluate(wanted, applying, found) != Verdict.Solution)
            return null;
        foreach (var variable in variables)
            if (!Of(variable).Allows(found[variable.Index]))
                return null;
        return found;
    }

    /// <summary>A value of a domain: the number next to the one that was wished for, otherwise the first.</summary>
    private static Assigned Nearest(in VariableDomain domain, Assigned? wish)
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

/// <summary>What became of mending a solution.</summary>
internal enum Mending { Mended, Refuted, GivenUp }
