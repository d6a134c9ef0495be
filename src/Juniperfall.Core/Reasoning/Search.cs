namespace Juniperfall.Core.Reasoning;

/// <summary>Complete search for a solution.</summary>
internal sealed partial class Solver<T>
{
    private readonly double[] _weights;
    private PointEvaluator? _evaluator;

    /// <summary>The value tried first for each variable; null where there is no preference.</summary>
    public Assigned?[] Preferred { get; }

    /// <summary>
    /// The preferred values as far as the domains still allow them, the nearest others for the rest: that alone is often a
    /// solution, at the cost of one evaluation. Only for questions that restrict nothing but variables.
    /// </summary>
    public Assigned[]? Guess()
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
        if ((_evaluator ??= new(_network, _active)).Evaluate(wanted, applying, found) != Verdict.Solution)
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

    /// <summary>How many dead ends a search near a known solution may meet before the complete search takes over.</summary>
    private const int NearbyDeadEnds = 20;
    private int _deadEndsLeft = int.MaxValue;

    /// <summary>
    /// As <see cref="Search"/>, but first takes over as much of the preferred values as goes together, in halves that are
    /// propagated at once: near a known solution that decides most variables in a few steps.
    /// </summary>
    public bool SearchNear()
    {
        Push();
        TakePreferred(0, _network.Variables.Length);
        _deadEndsLeft = NearbyDeadEnds;
        var found = Search();
        _deadEndsLeft = int.MaxValue;
        if (found)
        {
            Merge();
            return true;
        }
        Pop();
        return Search();
    }

    private void TakePreferred(int from, int to)
    {
        Push();
        var stands = true;
        for (var i = from; i < to && stands; i++)
        {
            var variable = _network.Variables[i];
            if (Preferred[i] is { } wanted && Of(variable) is var domain && domain.Allows(wanted))
                stands = Restrict(variable, domain.Just(wanted));
        }
        if (stands && Propagate())
        {
            Merge();
            return;
        }
        Pop();
        if (to - from == 1)
            return;
        var middle = (from + to) / 2;
        TakePreferred(from, middle);
        TakePreferred(middle, to);
    }

    /// <summary>
    /// Finds a complete configuration within the present domains. True: the variables are points of a solution until the
    /// level is popped. False: there is none.
    /// </summary>
    public bool Search()
    {
        CheckCancelled();
        if (IsBeaten())
            return false;
        if (Choose() is not { } variable)
            return IsSolution();
        foreach (var branch in Branches(Of(variable), Preferred[variable.Index]))
        {
            Push();
            if (Restrict(variable, branch) && Propagate() && Search())
            {
                Merge();   // the caller undoes the whole solution
                return true;
            }
            Pop();
            _weights[variable.Index]++;
            if (--_deadEndsLeft < 0)
                return false;
        }
        return false;
    }

    /// <summary>Points are evaluated by themselves, with ties decided exactly, so that nothing rests on rounding.</summary>
    private bool IsSolution()
    {
        var solution = Solution();
        var evaluated = new Assigned[solution.Length];
        return (_evaluator ??= new(_network, _active)).Evaluate(solution, new Assigned?[solution.Length], evaluated) == Verdict.Solution
            && evaluated.AsSpan().SequenceEqual(solution);
    }

    private void CheckCancelled()
    {
        if (_cancel.IsCancellationRequested)
            throw new SearchInterrupted();
    }

    private Variable? Choose()
    {
        Variable? best = null;
        var bestScore = double.MaxValue;
        foreach (var variable in _network.Variables)
        {
            ref readonly var domain = ref _domains[variable.Node];
            if (domain.HasOneOutcome && (!domain.MayBePresent || (domain.Kind == DomainKind.Number && domain.First == domain.Last)))
                continue;
            var size = Of(variable).Size;
            if (size == 1)
                continue;
            var score = size / (1 + _weights[variable.Index]);
            if (score < bestScore)
                (best, bestScore) = (variable, score);
        }
        return best;
    }

    /// <summary>So many steps of a number are tried one by one; more are halved, so that a proof does not count them.</summary>
    private const int FewSteps = 8;

    /// <summary>Splits a domain into disjoint parts, the preferred value first.</summary>
    private static List<VariableDomain> Branches(VariableDomain domain, Assigned? preferred)
    {
        var branches = new List<VariableDomain>(4);
        var wish = preferred is { } w && domain.Allows(w) ? preferred : null;
        var wished = wish is { Outcome: Outcomes.Present } p ? p.Index : -1;
        if (domain.MayBePresent && domain.Kind == DomainKind.Number)
        {
            var (first, last) = (domain.First, domain.Last);
            if (wish is { Outcome: Outcomes.Present } || last - first < FewSteps)
            {
                var step = wish is { Outcome: Outcomes.Present } ? wished : first;
                branches.Add(domain.Steps(step, step));
                if (step > first)
                    branches.Add(domain.Steps(first, step - 1));
                if (step < last)
                    branches.Add(domain.Steps(step + 1, last));
            }
            else
            {
                var middle = first + (last - first) / 2;
                branches.Add(domain.Steps(first, middle));
                branches.Add(domain.Steps(middle + 1, last));
            }
        }
        else if (domain.MayBePresent)
        {
            var one = wished >= 0 ? (int)wished : BitSet.First(domain.Bits!);
            branches.Add(domain.Value(one));
            var rest = (ulong[])domain.Bits!.Clone();
            rest[one >> 6] &= ~(1UL << one);
            if (BitSet.First(rest) >= 0)
                branches.Add(domain.Values(rest));
        }
        foreach (var outcome in new[] { Outcomes.False, Outcomes.True, Outcomes.None, Outcomes.Absent })
            if ((domain.Outcomes & outcome) != 0)
                branches.Add(domain.Only(outcome));
        if (wish is { } first1 && branches.FindIndex(b => b.Outcomes == first1.Outcome) is var at and > 0)
        {
            var moved = branches[at];
            branches.RemoveAt(at);
            branches.Insert(0, moved);
        }
        return branches;
    }

    /// <summary>The values of the variables, which are points.</summary>
    public Assigned[] Solution() => [.. _network.Variables.Select(v => Of(v).Point)];
}
