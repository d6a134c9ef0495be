using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>
/// Picks that cannot stand together, judged against the whole model: every rule, condition and bound holds, and only picks can be
/// left out.
/// </summary>
/// <param name="search">A search in which all groups hold.</param>
/// <param name="picks">The picks; a set of them is named by their places here.</param>
/// <param name="target">What is wanted beside them.</param>
internal sealed class PickConflicts(Search search, IReadOnlyList<(Variable Variable, Pick Pick)> picks,
    IReadOnlyList<(Variable Variable, VariableDomain To)> target)
{
    /// <summary>
    /// A conflict within some picks that cannot stand together, of which none can be left out: what a refutation did not use is
    /// left out at once, what it used is tried from the last to the first (Marques-Silva, “Minimal unsatisfiability: models,
    /// algorithms and applications”, 2010).
    /// </summary>
    /// <exception cref="ArgumentException">The picks can stand together.</exception>
    public HashSet<int> Minimal(IEnumerable<int> members)
    {
        var core = Refuted(members) ?? throw new ArgumentException("These picks can stand together.", nameof(members));
        foreach (var member in core.OrderDescending().ToList())
            if (core.Contains(member) && Refuted(core.Where(m => m != member).Order()) is { } without)
                core = without;
        return core;
    }

    /// <summary>The members that a refutation of some picks used; null where they can stand together.</summary>
    private HashSet<int>? Refuted(IEnumerable<int> members)
    {
        List<Fact> facts = [];
        List<int> memberOf = [];
        foreach (var member in members)
        {
            search.Within(picks[member].Variable, PickDomains.Containing(picks[member].Variable, picks[member].Pick.Value), facts);
            while (memberOf.Count < facts.Count)
                memberOf.Add(member);
        }
        foreach (var (variable, to) in target)
            search.Within(variable, to, facts);
        return search.Solve(facts) is not null ? null : [.. search.Core.Where(c => c < memberOf.Count).Select(c => memberOf[c])];
    }
}
