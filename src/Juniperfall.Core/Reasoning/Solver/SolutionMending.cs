using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>What became of mending a solution.</summary>
internal enum Mending { Mended, Refuted, GivenUp }

/// <summary>
/// Mends a solution so that it meets what is assumed. What propagation leaves no room for changes to the nearest value that it allows;
/// as long as a rule fails by that, one more variable that the rule reads is decided, as it was where it can be, and conflicts are learned
/// from like in any search. So the work goes with what has to change, not with the size of the model (decision 0014).
/// </summary>
internal sealed class SolutionMending(Search search, Network network)
{
    /// <summary>How much of a solution may change, and how many steps are taken, before a search is the better way.</summary>
    private const int MostChanged = 60, MostSteps = 80;

    private readonly List<(int Variable, Assigned Value)> _changes = [];
    private readonly int[] _changedIn = new int[network.Variables.Length];
    private int _round;

    /// <param name="standing">How many levels were there when the solution was found.</param>
    /// <param name="failing">The variables of a rule that fails with some changes; null where all hold.</param>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Mending Mend(int standing, Assigned[] from, Func<List<(int Variable, Assigned Value)>, int[]?> failing)
    {
        for (var steps = 0; steps < MostSteps; steps++)
        {
            if (!search.SettleAll())
                return Mending.Refuted;
            FindChanges(standing, from);
            if (_changes.Count > MostChanged)
                return Mending.GivenUp;
            if (failing(_changes) is not { } variables)
                return Mending.Mended;
            if (ToDecide(variables, from) is not { } fact)
                return Mending.GivenUp;
            search.Decide(fact);
        }
        return Mending.GivenUp;
    }

    /// <summary>The variables whose value in a solution is no longer possible, with the nearest one that is.</summary>
    private void FindChanges(int standing, Assigned[] from)
    {
        _changes.Clear();
        _round++;
        var (trail, names) = (search.Store.Trail, search.Store.Names);
        for (var at = trail.StartAbove(standing); at < trail.Count; at++)
        {
            var entry = trail[at];
            if (entry.Node >= 0)
                Check(entry.Node);
            else
                for (var m = names.FirstMeaning(entry.Literal); m >= 0; m = names[m].Next)
                    Check(names[m].Node);
        }

        void Check(int node)
        {
            if (search.Store.Order.VariableOf(node) is not (>= 0 and var variable) || _changedIn[variable] == _round)
                return;
            var domain = search.Store.Of(network.Variables[variable]);
            if (domain.Allows(from[variable]))
                return;
            _changedIn[variable] = _round;
            _changes.Add((variable, Branching.Nearest(domain, from[variable])));
        }
    }

    /// <summary>What to decide for a rule that fails: first what can stay as it was, so that the rest has to give way.</summary>
    private Fact? ToDecide(int[] variables, Assigned[] from)
    {
        Fact? changed = null;
        foreach (var index in variables)
        {
            if (search.Branching.IsDecided(index))
                continue;
            var variable = network.Variables[index];
            if (_changedIn[index] != _round)
                return search.Branching.Decision(variable, from[index]);
            changed ??= search.Branching.Decision(variable, Branching.Nearest(search.Store.Of(variable), from[index]));
        }
        return changed;
    }
}
