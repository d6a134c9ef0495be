using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Bounds on the partial sums of a sum, found one by one from the smallest, each with those before it (Verfaillie, Lemaître and Schiex, “Russian doll
/// search for solving constraint optimization problems”, 1996). Intervals add up what each summand could be by itself; a partial sum, such as all
/// that a door costs, is bounded by what its summands can be together.
/// </summary>
internal sealed class RussianDolls(Search search, Network network, bool highest)
{
    /// <summary>How many conflicts and steps one partial sum may cost, and how many conflicts all of them.</summary>
    private const int MostConflicts = 400, MostSteps = 12;
    private const long MostInAll = 4_000;

    /// <summary>After so many that cost too much the larger ones, which hold them, are left to the search for the whole.</summary>
    private const int MostGivenUp = 3;

    private readonly List<PointEvaluator> _solutions = [];

    /// <summary>What is known then of the partial sums of a number, as facts that every configuration with the given ones fulfils.</summary>
    /// <param name="solution">A configuration with the facts.</param>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public List<Fact> Bounds(int node, IReadOnlyList<Fact> facts, Assigned[] solution)
    {
        var (bounds, began, givenUp) = (new List<Fact>(), search.Conflicts, 0);
        Keep(solution);
        foreach (var sum in PartialSums(node).OrderBy(s => network.VariablesUnder(s).Length).ThenBy(s => s))
        {
            if (search.Conflicts - began > MostInAll || givenUp >= MostGivenUp || !search.Assume([.. facts, .. bounds]))
                break;
            if (!search.Store.Domains[sum].MustHaveValue || IsReached(sum, search.Store.Bounds.Of(sum, highest)))
                continue;
            var of = new BranchAndBound(search, network, sum, highest);
            if (of.Bound([.. facts, .. bounds], MostConflicts, MostSteps) is { } bound)
                bounds.Add(highest ? Fact.AtMost(sum, bound) : Fact.AtLeast(sum, bound));
            givenUp += !of.IsProven && search.HasGivenUp ? 1 : 0;
            if (of.BestSolution is { } best)
                Keep(best);
        }
        return bounds;
    }

    private const int MostSolutions = 12;

    private void Keep(Assigned[] solution)
    {
        var evaluator = _solutions.Count < MostSolutions ? new PointEvaluator(network) : _solutions[0];
        if (_solutions.Count == MostSolutions)
            _solutions.RemoveAt(0);
        if (evaluator.Evaluate(solution, new Assigned?[solution.Length], new Assigned[solution.Length]) == Verdict.Solution)
            _solutions.Add(evaluator);
        // What is good for a part is mostly good for the next larger one.
        for (var v = 0; v < solution.Length; v++)
            search.Preferred[v] = solution[v];
    }

    /// <summary>Whether some known configuration is as good already as the bound, so that there is none to be found.</summary>
    private bool IsReached(int sum, double bound) => _solutions.Exists(s => s.NumberOf(sum) is { } number
        && (highest ? number.ToDouble() >= bound - Slack(bound) : number.ToDouble() <= bound + Slack(bound)));

    /// <summary>A bound that is better by less than this part is not worth a search.</summary>
    private static double Slack(double bound) => 1e-6 * Math.Max(1, Math.Abs(bound));

    /// <summary>The sums that a number is made of by adding, leaving out, rounding and multiplying, without itself.</summary>
    private HashSet<int> PartialSums(int node)
    {
        var (sums, seen, open) = (new HashSet<int>(), new HashSet<int>(), new Stack<int>([node]));
        while (open.TryPop(out var at))
        {
            if (!seen.Add(at))
                continue;
            var of = network.Nodes[at];
            if (of.Operator == Operator.Add && at != node)
                sums.Add(at);
            if (of.Operator is Operator.Add or Operator.Else or Operator.Where or Operator.Ceiling or Operator.Floor or Operator.Round or Operator.Multiply)
                foreach (var child in of.Children)
                    open.Push(child);
        }
        return sums;
    }
}
