using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Branch and bound for one number (Land and Doig, “An automatic method of solving discrete programming problems”, 1960):
/// what cannot be better than the best solution so far is a conflict like others.
/// </summary>
internal sealed partial class Search
{
    /// <summary>The number to improve, and the literal under which what is learned of it holds.</summary>
    private (int Node, bool Highest, int Literal)? _objective;
    private Exact? _best;

    /// <summary>The lowest or highest number that a node has in any solution with the facts; null where it has none in any.</summary>
    /// <param name="limit">
    /// An exact bound that no number is beyond; null where none is known. Where a solution meets it, doubles, which are rounded
    /// outwards, need not prove what they cannot tell.
    /// </param>
    /// <exception cref="SearchInterrupted">Time ran out; <see cref="BestSoFar"/> holds what was found until then.</exception>
    public Exact? Extreme(IReadOnlyList<Fact> facts, int node, bool highest, Exact? limit = null)
    {
        var literal = NewLiteral();
        (_objective, _best, _ceiling, BestSolution) = ((node, highest, literal), null, double.NaN, null);
        try
        {
            List<Fact> all = [.. facts, Fact.Of(Literal(node, Outcomes.Present)), Fact.Of(literal)];
            if (!Improve(all))
                return null;
            // Better by at least half of what is left, as long as that can be had; at last whether any is better at all.
            _ceiling = Assume(all) ? BoundOf(node, highest) : _best!.Value.ToDouble();
            while (true)
                if (_best == limit)
                    return _best;
                else if (Middle() is { } goal)
                {
                    if (!Improve([.. all, highest ? Fact.AtLeast(node, goal) : Fact.AtMost(node, goal)]))
                    {
                        _ceiling = goal;
                        Improved?.Invoke();
                    }
                }
                else if (!Improve(all))
                    return _best;
        }
        finally
        {
            _objective = null;
        }
    }

    public Exact? BestSoFar => _best;
    public Assigned[]? BestSolution { get; private set; }

    /// <summary>No solution is better than this; null where nothing is known.</summary>
    public Exact? Ceiling => _best is null || !double.IsFinite(_ceiling) ? null
        : Exact.Of(new System.Numerics.BigInteger(_ceiling >= _best.Value.ToDouble() ? Math.Ceiling(Math.BitIncrement(_ceiling * 1e6)) : Math.Floor(Math.BitDecrement(_ceiling * 1e6))), 1_000_000);

    private double _ceiling;

    /// <summary>Is called when a better solution or a tighter bound was found.</summary>
    public Action? Improved { get; set; }

    private bool Improve(List<Fact> facts)
    {
        if (Solve(facts) is not { } solution)
            return false;
        BestSolution = solution;
        _best = _number;
        Improved?.Invoke();
        return true;
    }

    /// <summary>The number half way between the best one and the bound; null where they are next to each other.</summary>
    private double? Middle()
    {
        var best = _best!.Value.ToDouble();
        var gap = Math.Abs(_ceiling - best);
        if (!double.IsFinite(gap) || gap <= 1e-5 * Math.Max(1, Math.Abs(best)))
            return null;
        var middle = (best + _ceiling) / 2;
        return _nodes[_objective!.Value.Node].Variable is null ? middle : null;
    }

    /// <summary>Whether nothing is left that is better than the best so far; then what makes it so is marked.</summary>
    private bool IsBeaten()
    {
        if (_objective is not { } objective || _best is not { } best)
            return false;
        var numbers = _domains[objective.Node].Numbers;
        var (node, upper) = (objective.Node, objective.Highest);
        if (upper ? numbers.High <= DoubleEnd.Down(best) : numbers.Low >= DoubleEnd.Up(best))
        {
            if (_nodes[node].Variable is null)
                MarkBound(node, upper, (upper ? DoubleEnd.Down(best) : DoubleEnd.Up(best)).ToDouble(), _trailCount);
            else
                MarkBoundNow(node, upper, _trailCount);
        }
        else if (IsDecided(node, out var exactly) && (upper ? exactly <= best : exactly >= best))
            foreach (var one in _cones[node] ??= ConeOf(node))
                MarkDomain(one, _trailCount);
        else if (_nodes[node].Variable is null && IsTie(upper ? numbers.High.ToDouble() : numbers.Low.ToDouble(), best) && ExactEndOf(node, upper) is { } end && (upper ? end <= best : end >= best))
            foreach (var variable in _network.VariablesUnder(node))
                MarkDomain(_network.Variables[variable].Node, _trailCount);
        else
            return false;
        MarkLiteral(objective.Literal);
        return true;
    }

    /// <summary>
    /// Whether the solution just evaluated has no number or none that is better than the best so far: doubles can leave that open
    /// when all is decided.
    /// </summary>
    private bool IsNoBetter()
    {
        if (_objective is not { } objective)
            return false;
        _number = _evaluator.NumberOf(objective.Node);
        return _number is not { } number || (_best is { } best && (objective.Highest ? number <= best : number >= best));
    }

    /// <summary>The number of the solution found last.</summary>
    private Exact? _number;

    /// <summary>Whether doubles, which are rounded outwards, cannot tell a bound from the best number so far.</summary>
    private static bool IsTie(double bound, Exact best) => best.ToDouble() is var number && Math.Abs(bound - number) <= 1e-9 * Math.Max(1, Math.Abs(number));

    /// <summary>How far a number can go with what is left of its variables, in exact numbers; null where nothing is told.</summary>
    private Exact? ExactEndOf(int node, bool highest)
    {
        if (_exactDomains is null)
        {
            var all = new Propagation<ExactEnd>(_network, _network.Exactly, _network.Exactly.Initial);
            _exactDomains = all.Evaluate() ? all.Snapshot() : _network.Exactly.Initial;
        }
        var now = new Propagation<ExactEnd>(_network, _network.Exactly, _exactDomains);
        foreach (var variable in _network.VariablesUnder(node))
            if (!now.Restrict(_network.Variables[variable], Of(_network.Variables[variable])))
                return null;
        return !now.Propagate() ? null : highest ? now[node].Numbers.High.Number : now[node].Numbers.Low.Number;
    }

    /// <summary>The domains of all nodes before anything is decided.</summary>
    private Domain<ExactEnd>[]? _exactDomains;

    /// <summary>Whether a solution with the facts has no number at a node.</summary>
    public bool MayHaveNoNumber(IReadOnlyList<Fact> facts, int node) =>
        Literal(node, Outcomes.Present) != True && new[] { Outcomes.Absent, Outcomes.None, Outcomes.Error }.Any(outcome => SolveFor(node, outcome, facts) is not null);
}
