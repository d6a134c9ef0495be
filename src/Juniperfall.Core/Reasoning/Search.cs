using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Thrown when the caller's cancellation reaches into a search.</summary>
internal sealed class SearchInterrupted : Exception;

/// <summary>When what a group asks for holds in a search.</summary>
internal enum GroupsHold
{
    Always,
    /// <summary>Where the group is assumed. Nodes can be asked for by themselves, too.</summary>
    WhereAssumed,
    /// <summary>Where the group is assumed, and no node is asked for: what only a group reads is not looked at before.</summary>
    WhereAssumedOnly,
}

/// <summary>
/// Complete search for a configuration under assumptions, with propagation, learning from conflicts and restarts. What is
/// learned holds for good, so that one search serves question after question; what is assumed in common stays on the trail.
/// Not safe for concurrent use.
/// </summary>
internal sealed partial class Search : Propagation<DoubleEnd>
{
    private bool _isDead;
    private readonly List<Fact> _assumed = [];
    private readonly List<(int Node, Outcomes Allowed)>[] _rootsOf;
    private readonly List<int>[] _wokenBy;
    private readonly PointEvaluator _evaluator;
    private readonly HashSet<int> _rootNodes;

    /// <summary>Whether there are no numbers, so that propagation decides everything and nothing is left to verify.</summary>
    private readonly bool _isDiscrete;
    private readonly VariableHeap _heap;
    private readonly int[] _variableOf;

    /// <summary>By variable: its literal where it is only ever yes or no, otherwise −1.</summary>
    private readonly int[] _truths;
    private readonly Assigned?[] _phases;

    /// <summary>The value tried first for each variable; null where there is no preference.</summary>
    public Assigned?[] Preferred { get; }
    public CancellationToken Cancel { get; set; }

    /// <param name="state">Propagated domains, with all groups or with none.</param>
    public Search(Network network, Domain<DoubleEnd>[] state, GroupsHold groups) : base(network, network.Rough, state)
    {
        var count = _nodes.Length;
        _outcomeLiterals = new int[count * Outcomes6];
        _valueLiterals = new int[count][];
        _cones = new int[count][];
        _atomsOf = new List<(double, int)>[count * 2];
        _lastEvents = new int[count * 2];
        Array.Fill(_lastEvents, -1);
        _groupLiterals = new int[network.Groups.Length];
        _rootsOf = [.. network.Groups.Select(_ => new List<(int, Outcomes)>())];
        _wokenBy = [.. network.Groups.Select(_ => new List<int>())];
        _evaluator = new(network);
        _phases = new Assigned?[network.Variables.Length];
        Preferred = new Assigned?[network.Variables.Length];
        _heap = new(network.Variables.Length);
        _changedIn = new int[network.Variables.Length];
        _variableOf = [.. _nodes.Select(n => n.Variable?.Index ?? -1)];
        (_values[True], _values[False]) = (1, -1);
        (_firstMeaning[True], _firstMeaning[False]) = (-1, -1);
        _atoms[0] = new(Nothing, false, 0);
        _isPlain = new bool[count];
        _isAbsorbed = new bool[count];
        _rootNodes = [.. network.Roots.Select(r => r.Node)];
        _isDiscrete = network.HasNoNumbers;
        FindPlain();
        _sleepsUntil = groups == GroupsHold.WhereAssumedOnly ? OnlyReadByGroups() : null;
        // Before anything is written, since that may decide something already.
        for (var n = 0; n < count; n++)
            _isSettledByOthers[n] |= _isPlain[n] || IsAlwaysThere(n);
        for (var n = 0; n < count; n++)
        {
            if (!_isPlain[n])
                NameDomain(n);
            else if (!_isAbsorbed[n])
                Clausify(n);
        }
        _truths = [.. network.Variables.Select(v => IsTwoValued(v.Node) ? Literal(v.Node, Outcomes.True) : -1)];
        for (var n = 0; n < count; n++)
            if (!_isSettledByOthers[n])
                Enqueue(n);
        ForgetSettled();
        if (groups != GroupsHold.Always)
            NameGroups();
        _variablesAtFirst = _variableCount;
    }

    /// <summary>Whether a node only says of a variable that it applies, which it does in any case.</summary>
    private bool IsAlwaysThere(int n) => _nodes[n].Operator == Operator.Presence && _domains[_nodes[n].Children[0]].Outcomes == Outcomes.True
        && (_domains[_nodes[n].Children[1]].Outcomes & Outcomes.Absent) == 0;

    private void NameGroups()
    {
        for (var group = 0; group < _groupLiterals.Length; group++)
        {
            _groupLiterals[group] = NewLiteral();
            _atoms[_groupLiterals[group] >> 1] = new(FirstGroup - group, false, 0);
        }
        foreach (var (node, allowed, group) in _network.Roots)
            if (group >= 0)
                _rootsOf[group].Add((node, allowed));
        for (var n = 0; n < _nodes.Length; n++)
            if (_nodes[n].Operator == Operator.Presence && _nodes[n].Group >= 0)
                _wokenBy[_nodes[n].Group].Add(n);
        for (var n = 0; _sleepsUntil is not null && n < _nodes.Length; n++)
            if (_sleepsUntil[n] >= 0 && !_isSettledByOthers[n])
                _wokenBy[_sleepsUntil[n]].Add(n);
    }

    /// <summary>
    /// By node: the group that it does not count without, −1 where it does. Of the rules and grids of a large model a reason reads a
    /// few; the others need not be propagated.
    /// </summary>
    private readonly int[]? _sleepsUntil;

    private bool Sleeps(int node) => _sleepsUntil is { } until && until[node] is >= 0 and var group && !IsTrue(_groupLiterals[group]);

    private int[] OnlyReadByGroups()
    {
        var until = new int[_nodes.Length];
        Array.Fill(until, -1);
        foreach (var roots in _network.Roots.GroupBy(r => r.Node))
            if (roots.ToList() is [{ Group: >= 0 } only] && _network.Parents[only.Node].Length == 0)
                until[only.Node] = only.Group;
        return until;
    }

    // ---- Facts --------------------------------------------------------------------------------------------------

    /// <summary>That a group holds.</summary>
    public Fact Holds(int group) => Fact.Of(_groupLiterals[group]);

    /// <summary>That a variable lies within a domain, fact by fact.</summary>
    public void Within(Variable variable, in VariableDomain to, List<Fact> facts)
    {
        for (var o = 0; o < Outcomes6; o++)
            if (_outcomeLiterals[variable.Node * Outcomes6 + o] is var literal && literal != False && ((int)to.Outcomes >> o & 1) == 0)
                facts.Add(Fact.Of(Negated(literal)));
        if (!to.MayBePresent || (variable.Initial.Outcomes & Outcomes.Present) == 0)
            return;
        if (to.Kind == DomainKind.Number)
        {
            if (to.First > variable.Initial.First)
                facts.Add(Fact.AtLeast(variable.Node, to.First));
            if (to.Last < variable.Initial.Last)
                facts.Add(Fact.AtMost(variable.Node, to.Last));
        }
        else if (to.Kind == DomainKind.Choice)
        {
            var literals = _valueLiterals[variable.Node]!;
            if (to.Outcomes == Outcomes.Present && BitSet.Count(to.Bits!) == 1)
                facts.Add(Fact.Of(literals[BitSet.First(to.Bits!)]));
            else
                for (var i = 0; i < literals.Length; i++)
                    if (literals[i] != False && !BitSet.Has(to.Bits!, i))
                        facts.Add(Fact.Of(Negated(literals[i])));
        }
    }

    private bool IsTrue(in Fact fact) => fact.IsBound ? Entails(BoundOf(fact.Node, fact.Upper), fact.Bound, fact.Upper) : IsTrue(fact.Literal);

    /// <summary>Makes an assumption or a decision true at the present level. False: it cannot be.</summary>
    private bool Decide(in Fact fact)
    {
        if (!fact.IsBound)
            return Assign(fact.Literal, Antecedent.Decision);
        // Where nothing would be left between the bounds, the named one says that the node does not apply.
        return (fact.Upper ? fact.Bound < BoundOf(fact.Node, false) : fact.Bound > BoundOf(fact.Node, true))
            ? Assign(Named(fact.Node, fact.Upper, fact.Bound), Antecedent.Decision)
            : AssignBound(fact.Node, fact.Upper, fact.Bound, Antecedent.Decision);
    }

    // ---- Propagation --------------------------------------------------------------------------------------------

    /// <summary>Propagates clauses and nodes to a fixed point. False: a conflict.</summary>
    private bool PropagateAll()
    {
        StartRound();
        _reviser = -1;
        while (true)
        {
            while (_head < _trailCount)
            {
                // It counts as looked at only afterwards: where a conflict leaves it standing, the rest of it is still to come.
                var literal = _trail[_head].Literal;
                if (literal >= 0 && (!Attend(literal) || !VisitClauses(Negated(literal))))
                    return false;
                _head++;
            }
            if (!TryDequeue(out var node))
            {
                _settled = _trailCount;
                return true;
            }
            if (Sleeps(node))
                continue;
            (_reviser, _byExactNumbers) = (node, false);
            if (!Revise(node))
                return false;
            _reviser = -1;
        }
    }

    // ---- Search -------------------------------------------------------------------------------------------------

    private const int ConflictsPerRestart = 64;

    /// <summary>
    /// Makes the facts hold and propagates, without search. False: they leave nothing; <see cref="Core"/> says which of them.
    /// </summary>
    public bool Assume(List<Fact> facts)
    {
        CheckCancelled();
        GoBackTo(CommonLevels(facts));
        _assumed.Clear();
        _assumed.AddRange(facts);
        while (!_isDead)
            if (!PropagateAll())
                LearnFromConflict();
            else if (_level == _assumed.Count)
                return true;
            else if (!AssumeNext())
                return false;
        Core = [];
        return false;
    }

    /// <summary>Which of the facts last assumed cannot stand together, by their place; set where there was no solution.</summary>
    public List<int> Core { get; private set; } = [];

    /// <summary>Whether the last question was left open since it met as many conflicts as it might.</summary>
    public bool HasGivenUp { get; private set; }

    /// <summary>How many conflicts all questions together have met.</summary>
    public long Conflicts { get; private set; }

    /// <summary>Finds a solution within the facts; null where there is none, and where it has given up.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Assigned[]? Solve(List<Fact> facts, int mostConflicts = int.MaxValue)
    {
        var (conflicts, limit, round, met) = (0, ConflictsPerRestart, 1, 0);
        HasGivenUp = false;
        if (_learned.Count >= _mostLearned)
        {
            GoBackTo(0);
            ForgetClauses();
        }
        if (!Assume(facts))
            return null;
        while (!_isDead)
            if (!PropagateAll())
            {
                CheckCancelled();
                LearnFromConflict();
                Conflicts++;
                if (++met >= mostConflicts)
                {
                    HasGivenUp = true;
                    return null;
                }
                if (++conflicts >= limit)
                {
                    (conflicts, limit) = (0, ConflictsPerRestart * Luby(++round));
                    GoBackTo(Math.Min(_level, _assumed.Count));
                }
            }
            else if (_level < _assumed.Count)
            {
                if (!AssumeNext())
                    return null;
            }
            else if (IsBeaten())
                LearnFromMarked();
            else if (Choose() is { } fact)
            {
                CheckCancelled();
                NewLevel();
                Decide(fact);
            }
            else if (!TakeUpRefused() && Verified() is { } solution)
                return solution;
        Core = [];
        return null;
    }

    private void LearnFromConflict()
    {
        ClearQueue();
        ExplainConflict();
        LearnFromMarked();
    }

    private int CommonLevels(List<Fact> facts)
    {
        var common = 0;
        while (common < _assumed.Count && common < facts.Count && common < _level && _assumed[common] == facts[common])
            common++;
        return common;
    }

    /// <summary>Assumes the next fact at a level of its own. False: it cannot hold beside the earlier ones.</summary>
    private bool AssumeNext()
    {
        var fact = _assumed[_level];
        if (WhatStandsAgainst(fact))
        {
            Core = [.. AssumptionsBehind(), _level];
            return false;
        }
        NewLevel();
        if (!IsTrue(fact))
            Decide(fact);
        return true;
    }

    /// <summary>Whether a fact is false now; then what makes it so is marked.</summary>
    private bool WhatStandsAgainst(in Fact fact)
    {
        if (!fact.IsBound)
        {
            if (!IsFalse(fact.Literal))
                return false;
            MarkLiteral(Negated(fact.Literal));
            return true;
        }
        var (node, upper, bound) = (fact.Node, fact.Upper, fact.Bound);
        var present = Literal(node, Outcomes.Present);
        if (IsTrue(present) && (upper ? bound < BoundOf(node, false) : bound > BoundOf(node, true)))
        {
            MarkLiteral(present);
            MarkBoundNow(node, !upper, _trailCount);
            return true;
        }
        foreach (var (known, variable) in _atomsOf[node * 2 + (upper ? 1 : 0)] ?? [])
            if (Entails(bound, known, upper) && IsFalse(variable * 2))
            {
                MarkLiteral(variable * 2 + 1);
                return true;
            }
        return false;
    }

    /// <summary>The values of the variables, if they are a solution: where numbers take part, that is evaluated by itself.</summary>
    private Assigned[]? Verified()
    {
        var solution = new Assigned[_truths.Length];
        for (var i = 0; i < solution.Length; i++)
            solution[i] = _truths[i] >= 0 ? new(IsTrue(_truths[i]) ? Outcomes.True : Outcomes.False, 0)
                : Of(_network.Variables[i]) is var domain && domain.IsPoint ? domain.Point : Nearest(domain, Preferred[i]);
        var evaluated = _isDiscrete ? solution : new Assigned[solution.Length];
        if (!_isDiscrete)
            _evaluator.Activate(IsActive);
        var verdict = _isDiscrete ? Verdict.Solution : _evaluator.Evaluate(solution, new Assigned?[solution.Length], evaluated);
        if (_isDiscrete || verdict == Verdict.Solution && evaluated.AsSpan().SequenceEqual(solution)
            && (_wanted is not { } wanted || _evaluator.OutcomeOf(wanted.Node) == wanted.Outcome) && !IsNoBetter())
        {
            for (var i = 0; i < solution.Length; i++)
                _phases[i] = solution[i];
            return solution;
        }
        // Doubles could not tell; these values are none.
        MarkRefuted(solution, evaluated, verdict);
        LearnFromMarked();
        return null;
    }

    /// <exception cref="SearchInterrupted">Time has run out.</exception>
    public void CheckCancelled()
    {
        if ((++_checks & ChecksBetweenPauses) == 0)
            SearchPause.Now();
        if (!Cancel.IsCancellationRequested)
            return;
        _isInterrupted = true;
        throw new SearchInterrupted();
    }

    private const int ChecksBetweenPauses = 63;
    private uint _checks;

    private const int MostNamedBounds = 10_000;
    private bool _isInterrupted;
    private readonly int _variablesAtFirst;

    /// <summary>
    /// Whether it was interrupted in the middle of something, or has named so many bounds that a new search is quicker: then it
    /// is not to be asked again.
    /// </summary>
    public bool IsSpent => _isInterrupted || _variableCount - _variablesAtFirst > MostNamedBounds;

    /// <summary>The next decision; null where every variable is decided.</summary>
    private Fact? Choose()
    {
        // Mostly all is decided by what was preferred: then nothing is taken out that would have to go back in.
        while (_decidedUpTo < _truths.Length && IsDecided(_decidedUpTo))
            _decidedUpTo++;
        if (_decidedUpTo == _truths.Length)
            return null;
        while (_heap.TryTake(out var index))
        {
            if (_truths[index] is var truth and >= 0)
            {
                if (_values[truth] != 0)
                    continue;
                _heap.Insert(index);
                return Fact.Of(YesOrNo(index, truth));
            }
            var variable = _network.Variables[index];
            ref readonly var domain = ref _domains[variable.Node];
            if (Of(variable).IsPoint)
                continue;
            var fact = Decision(variable, domain, WishFor(variable));
            // It may need more than one decision.
            _heap.Insert(index);
            return fact;
        }
        return null;
    }

    /// <summary>Variables before this one are decided.</summary>
    private int _decidedUpTo;

    /// <summary>By variable: whether anything that is assumed reads it; null: that is so of all.</summary>
    private bool[]? _isHeeded;

    /// <summary>
    /// From now on only some variables are decided, since nothing that will be assumed reads the others: those can have any value
    /// that is left of them. Only where there are no numbers.
    /// </summary>
    public void Heed(IEnumerable<int> variables)
    {
        if (!_isDiscrete)
            return;
        GoBackTo(0);
        _isHeeded ??= new bool[_truths.Length];
        Array.Clear(_isHeeded);
        _heap.Clear();
        HeedAlso(variables);
    }

    /// <summary>From now on all variables are decided again.</summary>
    public void HeedAll()
    {
        if (_isHeeded is null)
            return;
        GoBackTo(0);
        HeedAlso(Enumerable.Range(0, _truths.Length));
        _isHeeded = null;
    }

    /// <summary>Adds variables to those that are decided; only after <see cref="Heed"/>.</summary>
    public void HeedAlso(IEnumerable<int> variables)
    {
        if (_isHeeded is null)
            return;
        foreach (var variable in variables)
            if (!_isHeeded[variable])
            {
                _isHeeded[variable] = true;
                _heap.Insert(variable);
            }
        _decidedUpTo = 0;
    }

    private bool IsDecided(int variable) => (_isHeeded is not null && !_isHeeded[variable]) || (_truths[variable] is var truth and >= 0 ? _values[truth] != 0 : Of(_network.Variables[variable]).IsPoint);

    private int YesOrNo(int variable, int truth) =>
        (Preferred[variable] ?? _phases[variable])?.Outcome == Outcomes.True ? truth : Negated(truth);

    /// <summary>The preferred value, or that of the last solution, if it can still be had.</summary>
    private Assigned? WishFor(Variable variable)
    {
        var domain = Of(variable);
        return Preferred[variable.Index] is { } preferred && domain.Allows(preferred) ? preferred
            : _phases[variable.Index] is { } phase && domain.Allows(phase) ? phase : null;
    }

    private Fact Decision(Variable variable, in Domain<DoubleEnd> domain, Assigned? wish)
    {
        if (!domain.HasOneOutcome)
        {
            var outcome = wish?.Outcome ?? FirstOf(domain.Outcomes);
            return Fact.Of(Literal(variable.Node, outcome));
        }
        if (domain.Kind == DomainKind.Choice)
            return Fact.Of(_valueLiterals[variable.Node]![wish is { } w ? (int)w.Index : BitSet.First(domain.Bits!)]);
        if (wish is { } number)
            return number.Index > domain.First ? Fact.AtLeast(variable.Node, number.Index) : Fact.AtMost(variable.Node, number.Index);
        // Halved, so that a proof does not count the steps.
        return Fact.AtMost(variable.Node, domain.First + (domain.Last - domain.First) / 2);
    }

    private static Outcomes FirstOf(Outcomes outcomes)
    {
        foreach (var outcome in new[] { Outcomes.Present, Outcomes.False, Outcomes.True, Outcomes.None })
            if ((outcomes & outcome) != 0)
                return outcome;
        return Outcomes.Absent;
    }

    /// <summary>The sequence 1 1 2 1 1 2 4 … (Luby, Sinclair and Zuckerman, “Optimal speedup of Las Vegas algorithms”, 1993).</summary>
    private static int Luby(int i)
    {
        var k = 1;
        while ((1 << k) - 1 < i)
            k++;
        return (1 << k) - 1 == i ? 1 << (k - 1) : Luby(i - (1 << (k - 1)) + 1);
    }
}
