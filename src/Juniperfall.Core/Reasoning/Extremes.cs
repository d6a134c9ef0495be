using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Branch and bound for one number (Land and Doig, “An automatic method of solving discrete programming problems”, 1960):
/// what cannot be better than the best solution so far is not searched.
/// </summary>
internal sealed partial class Solver<T>
{
    private (int Node, bool Highest)? _objective;
    private Exact? _best;

    /// <summary>
    /// The lowest or highest number that a node has in any solution within the present domains; null where it has none in any.
    /// </summary>
    /// <exception cref="SearchInterrupted">Time ran out; <see cref="BestSoFar"/> holds what was found until then.</exception>
    public Exact? Extreme(int node, bool highest)
    {
        (_objective, _best) = ((node, highest), null);
        Push();
        try
        {
            if (!SetOutcomes(node, Outcomes.Present) || !Propagate())
            {
                Fail();
                return null;
            }
            while (Improve(null))
                // Better by at least half of what is left, as long as that can be had.
                while (Middle(node, highest) is { } goal && Improve(goal) is var better)
                    if (!better && (!SetBounds(node, highest ? new(T.NegativeInfinity, T.Up(goal)) : new(T.Down(goal), T.PositiveInfinity)) || !Propagate()))
                    {
                        Fail();
                        return _best;
                    }
            return _best;
        }
        finally
        {
            Pop();
            _objective = null;
        }
    }

    public Exact? BestSoFar => _best;

    private bool Improve(Exact? goal)
    {
        var (node, highest) = _objective!.Value;
        Push();
        try
        {
            if (goal is { } end && (!SetBounds(node, highest ? new(T.Down(end), T.PositiveInfinity) : new(T.NegativeInfinity, T.Up(end))) || !Propagate()))
            {
                Fail();
                return false;
            }
            if (!SearchNear())
                return false;
            _best = _exactly.TryGet(node, out var number) ? number : throw new InvalidOperationException("A solution leaves a number open.");
            return true;
        }
        finally
        {
            Pop();
        }
    }

    /// <summary>The number half way between the best one and the bound; null where they are next to each other.</summary>
    private Exact? Middle(int node, bool highest)
    {
        var end = (highest ? Numbers(node).High : Numbers(node).Low).ToDouble();
        var best = _best!.Value.ToDouble();
        var gap = Math.Abs(end - best);
        if (!double.IsFinite(gap) || gap <= 1e-5 * Math.Max(1, Math.Abs(best)))
            return null;
        // Any number well between them will do; it is kept short.
        return Exact.Of(new System.Numerics.BigInteger(Math.Round((best + end) / 2 * 1e6)), 1_000_000);
    }

    /// <summary>Whether nothing within the present domains is better than the best so far.</summary>
    private bool IsBeaten()
    {
        if (_objective is not { } objective || _best is not { } best)
            return false;
        var numbers = Numbers(objective.Node);
        if (objective.Highest ? numbers.High <= T.Down(best) : numbers.Low >= T.Up(best))
            return true;
        return IsDecided(objective.Node, out var exactly) && (objective.Highest ? exactly <= best : exactly >= best);
    }

    /// <summary>Whether a solution within the present domains has no number at a node.</summary>
    public bool MayHaveNoNumber(int node)
    {
        Push();
        try
        {
            return SetOutcomes(node, ~Outcomes.Present) ? Propagate() && SearchNear() : Fail();
        }
        finally
        {
            Pop();
        }
    }
}
