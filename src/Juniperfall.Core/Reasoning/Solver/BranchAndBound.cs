using System.Numerics;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Branch and bound for one number (Land and Doig, “An automatic method of solving discrete programming problems”, 1960):
/// what cannot be better than the best solution so far is a conflict like others.
/// </summary>
/// <param name="search">The search; it is to be asked nothing else meanwhile.</param>
/// <param name="network">What it searches.</param>
/// <param name="node">The number to improve.</param>
/// <param name="highest">Whether higher ones are better.</param>
internal sealed class BranchAndBound(Search search, Network network, int node, bool highest) : IObjective
{
    /// <summary>Ends of doubles that differ by less than this part of a number may be the same number.</summary>
    private const double Tie = 1e-9;

    /// <summary>How near, as part of the number, a bound comes to the best solution before it is asked whether any is better at all.</summary>
    private const double Near = 1e-5;

    private readonly LiteralStore _store = search.Store;
    private readonly bool _isAsked = network.Nodes[node].Variable is not null;

    /// <summary>The number of the solution found last.</summary>
    private Exact? _number;
    private double _ceiling = double.NaN;

    /// <summary>The domains of all nodes before anything is decided; found when a tie asks for them.</summary>
    private Domain<ExactEnd>[]? _exactDomains;

    public int Literal { get; } = search.Store.NewLiteral();

    /// <summary>Is called when a better solution or a tighter bound was found.</summary>
    public Action? Improved { get; set; }

    public Exact? Best { get; private set; }
    public Assigned[]? BestSolution { get; private set; }

    /// <summary>No solution is better than this; null where nothing is known.</summary>
    public Exact? Ceiling => Best is null || !double.IsFinite(_ceiling) ? null
        : Exact.Of(new BigInteger(_ceiling >= Best.Value.ToDouble() ? Math.Ceiling(Math.BitIncrement(_ceiling * 1e6))
            : Math.Floor(Math.BitDecrement(_ceiling * 1e6))), 1_000_000);

    /// <summary>The best number in any solution with the facts; null where it has none in any.</summary>
    /// <param name="limit">
    /// An exact bound that no number is beyond; null where none is known. Where a solution meets it, doubles, which are rounded
    /// outwards, need not prove what they cannot tell.
    /// </param>
    /// <exception cref="SearchInterrupted">Time ran out; <see cref="Best"/> holds what was found until then.</exception>
    /// <param name="byParts">Whether the partial sums of the number are bounded first.</param>
    public Exact? Prove(IReadOnlyList<Fact> facts, Exact? limit = null, bool byParts = false)
    {
        var preferred = byParts ? (Assigned?[])search.Preferred.Clone() : null;
        var best = Proven(facts, limit, byParts);
        if (preferred is not null && best is not null)
            Prefer(preferred, facts);
        return best;
    }

    /// <summary>
    /// Bounding partial sums leans towards what is good for them: of the configurations with the best number takes one that has as much as can be of
    /// what was preferred before, such as suggestions for what the number does not hang on.
    /// </summary>
    private void Prefer(Assigned?[] preferred, IReadOnlyList<Fact> facts)
    {
        preferred.CopyTo(search.Preferred, 0);
        var bound = (highest ? DoubleEnd.Down(Best!.Value) : DoubleEnd.Up(Best!.Value)).ToDouble();
        try
        {
            List<Fact> all = [.. facts, Fact.Of(_store.Names.Of(node, Outcomes.Present)), highest ? Fact.AtLeast(node, bound) : Fact.AtMost(node, bound)];
            var evaluator = new PointEvaluator(network);
            if (search.Solve(all, ConflictsToPrefer) is { } found
                && evaluator.Evaluate(found, new Assigned?[found.Length], new Assigned[found.Length]) == Verdict.Solution && evaluator.NumberOf(node) == Best)
                BestSolution = found;
        }
        catch (SearchInterrupted)
        {
            // The one that was found is as good.
        }
    }

    private const int ConflictsToPrefer = 2_000;

    private Exact? Proven(IReadOnlyList<Fact> facts, Exact? limit, bool byParts)
    {
        search.Objective = this;
        try
        {
            List<Fact> all = [.. facts, Fact.Of(_store.Names.Of(node, Outcomes.Present)), Fact.Of(Literal)];
            if (!Improve(all))
                return null;
            // Better by at least half of what is left, as long as that can be had; at last whether any is better at all.
            _ceiling = search.Assume(all) ? _store.Bounds.Of(node, highest) : Best!.Value.ToDouble();
            if (byParts && Best != limit)
            {
                while (Middle() is { } goal && Improve(Beyond(all, goal), ConflictsBeforeParts)) { }
                all = [.. all, .. new RussianDolls(search, network, highest).Bounds(node, facts, BestSolution!)];
                search.Objective = this;
                _ceiling = search.Assume(all) ? Nearer(_ceiling, _store.Bounds.Of(node, highest)) : Best!.Value.ToDouble();
                Improved?.Invoke();
            }
            while (Best != limit && search.Conflicts < _mostConflicts && --_mostSteps >= 0)
                if (Middle() is { } goal)
                {
                    if (!Improve(Beyond(all, goal)) && !search.HasGivenUp)
                    {
                        _ceiling = goal;
                        Improved?.Invoke();
                    }
                }
                else if (!Improve(all) && !search.HasGivenUp)
                {
                    _ceiling = Best!.Value.ToDouble();
                    IsProven = true;
                    return Best;
                }
            IsProven = Best == limit;
            return Best;
        }
        finally
        {
            search.Objective = null;
        }
    }

    /// <summary>A number that none in any solution with the facts is better than; null where nothing was found.</summary>
    /// <param name="mostConflicts">How many conflicts it may cost.</param>
    /// <param name="mostSteps">How often a better one is looked for.</param>
    /// <exception cref="SearchInterrupted">Time ran out.</exception>
    public double? Bound(IReadOnlyList<Fact> facts, int mostConflicts, int mostSteps)
    {
        (_mostConflicts, _mostSteps) = (search.Conflicts + mostConflicts, mostSteps);
        var best = Prove(facts);
        return IsProven && best is { } number ? (highest ? DoubleEnd.Up(number) : DoubleEnd.Down(number)).ToDouble()
            : best is not null && double.IsFinite(_ceiling) ? _ceiling : null;
    }

    /// <summary>Whether it was proven that no number is better than the best one.</summary>
    public bool IsProven { get; private set; }

    private const int ConflictsBeforeParts = 200;

    private long _mostConflicts = long.MaxValue;
    private int _mostSteps = int.MaxValue;

    private List<Fact> Beyond(List<Fact> facts, double goal) => [.. facts, highest ? Fact.AtLeast(node, goal) : Fact.AtMost(node, goal)];

    private double Nearer(double one, double other) => highest ? Math.Min(one, other) : Math.Max(one, other);

    private bool Improve(List<Fact> facts, int mostConflicts = int.MaxValue)
    {
        if (search.Solve(facts, (int)Math.Min(mostConflicts, _mostConflicts - search.Conflicts)) is not { } solution)
            return false;
        (BestSolution, Best) = (solution, _number);
        Improved?.Invoke();
        return true;
    }

    /// <summary>The number half way between the best one and the bound; null where they are next to each other.</summary>
    private double? Middle()
    {
        var best = Best!.Value.ToDouble();
        var gap = Math.Abs(_ceiling - best);
        return !double.IsFinite(gap) || gap <= Near * Math.Max(1, Math.Abs(best)) || _isAsked ? null : (best + _ceiling) / 2;
    }

    public bool IsBeaten()
    {
        if (Best is not { } best)
            return false;
        var numbers = _store.Domains[node].Numbers;
        if (highest ? numbers.High <= DoubleEnd.Down(best) : numbers.Low >= DoubleEnd.Up(best))
        {
            if (_isAsked)
                search.Marks.MarkBoundNow(node, highest, _store.Trail.Count);
            else
                search.Marks.MarkBound(node, highest, (highest ? DoubleEnd.Down(best) : DoubleEnd.Up(best)).ToDouble(), _store.Trail.Count);
        }
        else if (_store.IsDecided(node, out var exactly) && (highest ? exactly <= best : exactly >= best))
            search.MarkCone(node);
        else if (!_isAsked && IsTie(highest ? numbers.High.ToDouble() : numbers.Low.ToDouble(), best) && ExactLimit() is { } end
            && (highest ? end <= best : end >= best))
            foreach (var variable in network.VariablesUnder(node))
                search.Marks.MarkDomain(network.Variables[variable].Node);
        else
            return false;
        search.Marks.MarkLiteral(Literal);
        return true;
    }

    /// <summary>Whether a solution has no number or none that is better than the best so far: doubles can leave that open when all is decided.</summary>
    public bool IsNoBetter(PointEvaluator evaluated)
    {
        _number = evaluated.NumberOf(node);
        return _number is not { } number || (Best is { } best && (highest ? number <= best : number >= best));
    }

    /// <summary>Whether doubles, which are rounded outwards, cannot tell a bound from the best number so far.</summary>
    private static bool IsTie(double bound, Exact best) => best.ToDouble() is var number && Math.Abs(bound - number) <= Tie * Math.Max(1, Math.Abs(number));

    /// <summary>How far the number can go with what is left of its variables, in exact numbers; null where nothing is told.</summary>
    private Exact? ExactLimit()
    {
        if (_exactDomains is null)
        {
            var all = new FixedPoint<ExactEnd>(network, network.InExactNumbers, network.InExactNumbers.Initial);
            _exactDomains = all.Evaluate() ? all.Snapshot() : network.InExactNumbers.Initial;
        }
        var now = new FixedPoint<ExactEnd>(network, network.InExactNumbers, _exactDomains);
        foreach (var variable in network.VariablesUnder(node))
            if (!now.Restrict(network.Variables[variable], _store.Of(network.Variables[variable])))
                return null;
        return !now.Propagate() ? null : highest ? now[node].Numbers.High.Number : now[node].Numbers.Low.Number;
    }

    /// <summary>Whether a solution with the facts has no number at a node.</summary>
    public static bool MayHaveNoNumber(Search search, IReadOnlyList<Fact> facts, int node) =>
        search.Store.Names.Of(node, Outcomes.Present) != LiteralNames.True
            && new[] { Outcomes.Absent, Outcomes.None, Outcomes.Error }.Any(outcome => search.SolveFor(node, outcome, facts) is not null);
}
