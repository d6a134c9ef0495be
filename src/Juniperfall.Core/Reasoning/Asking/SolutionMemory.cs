using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>
/// A solution, and further values that one of its variables can have with all others as they are (none where
/// <see cref="Variable"/> is −1).
/// </summary>
internal sealed record Solutions(Assigned[] Base, int Variable, List<Assigned> Values)
{
    /// <summary>The solution with another value of its variable.</summary>
    public Assigned[] With(in Assigned value)
    {
        var other = (Assigned[])Base.Clone();
        other[Variable] = value;
        return other;
    }
}

/// <summary>
/// What earlier questions have found, for later ones: a solution answers every question whose picks it contains, and what
/// some picks leave no room for, more picks do not either. Safe for concurrent use. What is forgotten is found again.
/// </summary>
/// <param name="variables">How many variables a solution has; all solutions together have at most some two million values, and
/// of more than that the oldest quarter is forgotten.</param>
internal sealed class SolutionMemory(int variables)
{
    private const int MostValues = 2_000_000, MostNarrowings = 200;
    private readonly int _mostSolutions = Math.Clamp(MostValues / Math.Max(1, variables), 100, 1200);

    private readonly Lock _lock = new();
    private readonly List<Solutions> _solutions = [];
    private readonly List<(Wanted[] Picks, (Variable Variable, VariableDomain To)[] Domains)> _narrowings = [];

    public void Add(Solutions solutions)
    {
        lock (_lock)
        {
            if (_solutions.Count >= _mostSolutions)
                _solutions.RemoveRange(0, _mostSolutions / 4);
            _solutions.Add(solutions);
        }
    }

    /// <summary>
    /// The solutions that contain all picks, the latest first, and for each pick those that contain all others; those kept
    /// beside a solution are cut to the ones that do too.
    /// </summary>
    public (List<Solutions> All, List<Solutions>[] ButOne) Near(IReadOnlyList<Wanted> picks)
    {
        var (all, butOne) = (new List<Solutions>(), new List<Solutions>[picks.Count]);
        for (var i = 0; i < butOne.Length; i++)
            butOne[i] = [];
        lock (_lock)
            for (var s = _solutions.Count - 1; s >= 0; s--)
            {
                var (missed, own, solutions) = (-1, -1, _solutions[s]);
                var near = true;
                for (var i = 0; i < picks.Count && near; i++)
                    if (picks[i].Variable == solutions.Variable)
                        own = i;
                    else if (!picks[i].IsMetBy(solutions.Base[picks[i].Variable]))
                        (near, missed) = (missed < 0, i);
                if (!near)
                    continue;
                if (missed < 0 && own >= 0)
                    butOne[own].Add(solutions);
                if (Cut(solutions, picks, own) is { } cut)
                    (missed < 0 ? all : butOne[missed]).Add(cut);
            }
        return (all, butOne);
    }

    /// <summary>The solutions that contain all picks, the latest first.</summary>
    public List<Solutions> Containing(IReadOnlyList<Wanted> picks) => Near(picks).All;

    private static Solutions? Cut(Solutions solutions, IReadOnlyList<Wanted> picks, int own)
    {
        if (own < 0)
            return solutions;
        if (picks[own].IsMetBy(solutions.Base[solutions.Variable]))
            return new(solutions.Base, -1, []);
        foreach (var value in solutions.Values)
            if (picks[own].IsMetBy(value))
                return new(solutions.With(value), -1, []);
        return null;
    }

    /// <summary>Keeps to what some picks were found to narrow the variables, exactly.</summary>
    public void Narrowed(IEnumerable<Wanted> picks, (Variable Variable, VariableDomain To)[] domains)
    {
        lock (_lock)
        {
            if (_narrowings.Count >= MostNarrowings)
                _narrowings.RemoveRange(0, MostNarrowings / 4);
            _narrowings.Add(([.. picks], domains));
        }
    }

    private const int MostNarrowingsUsed = 2;

    /// <summary>What is known to be narrowed by some of the picks: by the sets that leave out fewest of them.</summary>
    public List<(Variable Variable, VariableDomain To)> NarrowedBy(IReadOnlyList<Wanted> picks)
    {
        var found = new List<(Wanted[] Picks, (Variable, VariableDomain)[] Domains)>();
        lock (_lock)
            foreach (var narrowing in _narrowings)
                if (narrowing.Picks.Length <= picks.Count && Array.TrueForAll(narrowing.Picks, picks.Contains))
                    found.Add(narrowing);
        return [.. found.OrderByDescending(f => f.Picks.Length).Take(MostNarrowingsUsed).SelectMany(f => f.Domains)];
    }
}
