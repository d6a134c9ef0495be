using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>Questions to one search in terms of variables and what they may be, beside what stands for all of them.</summary>
internal sealed class SearchSession(Search search, Network network)
{
    /// <summary>After how many conflicts it is time to look at instances in one order only.</summary>
    private const int MostUnordered = 100;

    private readonly SolutionMending _mending = new(search, network);

    public Search Search { get; } = search;

    /// <summary>What stands for all questions until something else does.</summary>
    public List<Fact> Standing { get; } = [];

    /// <summary>Lets variables stand within domains, beside what stands already. False: they leave nothing.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public bool Stand(IEnumerable<(Variable Variable, VariableDomain To)> restrictions)
    {
        foreach (var (variable, to) in restrictions)
            Search.Within(variable, to, Standing);
        return Search.Assume(Standing);
    }

    private List<Fact> BesideStanding(IEnumerable<(Variable Variable, VariableDomain To)> restrictions)
    {
        List<Fact> facts = [.. Standing];
        foreach (var (variable, to) in restrictions)
            Search.Within(variable, to, facts);
        return facts;
    }

    /// <summary>Whether some configuration lies within the given domains beside what stands; its values if so.</summary>
    /// <param name="orders">What may be assumed beside, since with any solution there is one of which it is so.</param>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Assigned[]? Try(IEnumerable<(Variable Variable, VariableDomain To)> restrictions, params ReadOnlySpan<int> orders)
    {
        var facts = BesideStanding(restrictions);
        if (!Search.Assume(facts))
            return null;
        if (!network.HasNoNumbers && Guess() is { } guessed)
            return guessed;
        if (orders.IsEmpty)
            return Search.Solve(facts);
        // Orders cost the freedom to find what is near; they pay where much has to be refuted.
        if (Search.Solve(facts, MostUnordered) is var found && !Search.HasGivenUp)
            return found;
        Search.InOrder(orders, facts);
        return Search.Solve(facts);
    }

    /// <summary>
    /// The preferred values as far as the domains still allow them, the nearest others for the rest; null where they are no solution.
    /// </summary>
    private Assigned[]? Guess()
    {
        var variables = network.Variables;
        var (wanted, applying) = (new Assigned[variables.Length], new Assigned?[variables.Length]);
        foreach (var variable in variables)
        {
            var domain = Search.Store.Of(variable);
            var preferred = Search.Preferred[variable.Index];
            wanted[variable.Index] = preferred is { } p && domain.Allows(p) ? p : Branching.Nearest(domain, preferred);
            var having = domain.Only(domain.Outcomes & ~Outcomes.Absent);
            applying[variable.Index] = having.Outcomes == Outcomes.Impossible ? null
                : wanted[variable.Index].Outcome != Outcomes.Absent ? wanted[variable.Index] : Branching.Nearest(having, preferred);
        }
        return Search.Evaluated(wanted, applying);
    }

    /// <summary>Mends a solution so that it lies within some domains beside what stands (<see cref="SolutionMending"/>).</summary>
    /// <param name="failing">The variables of a rule that fails with some changes; null where all hold.</param>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Mending Mend(IEnumerable<(Variable Variable, VariableDomain To)> restrictions, Assigned[] from,
        Func<List<(int Variable, Assigned Value)>, int[]?> failing) =>
        Search.Assume(BesideStanding(restrictions)) ? _mending.Mend(Standing.Count, from, failing) : Mending.Refuted;

    /// <summary>What the variables may be, as far as propagation of what stands tells.</summary>
    public VariableDomain[] Domains()
    {
        var domains = new VariableDomain[network.Variables.Length];
        LookAtDomains((variable, domain) => domains[variable.Index] = domain.Bits is { } bits ? domain with { Bits = [.. bits] } : domain);
        return domains;
    }

    /// <summary>As <see cref="Domains"/>, without keeping any: they are what they are only while they are looked at.</summary>
    public void LookAtDomains(Action<Variable, VariableDomain> look)
    {
        if (!Search.Assume(Standing))
            throw new InvalidOperationException("What stands leaves nothing.");
        foreach (var variable in network.Variables)
            look(variable, Search.Store.Of(variable));
    }
}
