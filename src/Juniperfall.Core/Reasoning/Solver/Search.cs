using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>Thrown when the caller's cancellation reaches into a search.</summary>
internal sealed class SearchInterrupted : Exception;

/// <summary>What a search is to improve on.</summary>
internal interface IObjective
{
    /// <summary>The literal under which what is learned of the objective holds.</summary>
    int Literal { get; }

    /// <summary>Whether nothing is left that is better than the best so far; then what makes it so is marked.</summary>
    bool IsBeaten();

    /// <summary>Whether the solution just evaluated is no better than the best so far.</summary>
    bool IsNoBetter(PointEvaluator evaluated);
}

/// <summary>
/// Complete search for a configuration under assumptions: propagation of clauses and nodes, learning from conflicts, restarts. What is
/// learned holds for good, so that one search serves question after question; what is assumed in common stays on the trail.
/// Not safe for concurrent use.
/// </summary>
internal sealed class Search
{
    private const int ConflictsPerRestart = 64;
    private const int ChecksBetweenPauses = 63, RevisionsBetweenChecks = 255;

    /// <summary>After so many named bounds a new search is quicker.</summary>
    private const int MostNamedBounds = 10_000;

    private readonly Network _network;
    private readonly ClauseDatabase _clauses;
    private readonly Propagators<DoubleEnd> _propagators;
    private readonly Explanations _explanations;
    private readonly ConflictAnalysis _analysis;
    private readonly Refutations _refutations;
    private readonly PointEvaluator _evaluator;
    private readonly int _variablesAtFirst;
    private readonly List<Fact> _assumed = [];
    private (int Node, Outcomes Outcome)? _wanted;
    private bool _isInterrupted;
    private uint _checks, _revisions;

    /// <param name="state">Propagated domains, with all groups or with none.</param>
    /// <exception cref="OperationCanceledException">Cancelled before the network was written as clauses.</exception>
    public Search(Network network, Domain<DoubleEnd>[] state, GroupsHold groups, CancellationToken cancel = default)
    {
        _network = network;
        Store = new(network, state, groups);
        _clauses = new(Store);
        ClauseEncoding.Write(Store, _clauses, cancel);
        Branching = new(Store);
        if (groups != GroupsHold.Always)
            Store.Groups.Name(network, Store.NewLiteral, Store.Queue.IsSettled);
        _variablesAtFirst = Store.VariableCount;
        (_propagators, _evaluator, Marks) = (new(Store), new(network), new(Store));
        _explanations = new(Store, _clauses, Marks, null);
        (_analysis, _refutations) = (new(Store, _clauses, Marks, _explanations), new(Store, Marks, _evaluator));
    }

    private Search(Search of, Search? spent)
    {
        (_network, _variablesAtFirst) = (of._network, of._variablesAtFirst);
        Store = new(of.Store, spent?.Store);
        _clauses = new(of._clauses, Store, spent?._clauses);
        Branching = new(of.Branching, Store, spent?.Branching);
        (_propagators, Marks) = (new(Store, spent?._propagators), new(Store));
        _evaluator = _network.HasNoNumbers ? of._evaluator : new(_network);
        _explanations = new(Store, _clauses, Marks, spent?._explanations);
        (_analysis, _refutations) = (new(Store, _clauses, Marks, _explanations), new(Store, Marks, _evaluator));
    }

    /// <summary>
    /// A search that gives the same answers as this one would, if nothing has been asked of this one yet: writing a network as clauses
    /// takes longer than most questions to it. Safe for concurrent use.
    /// </summary>
    /// <param name="spent">An earlier copy that is not asked any more: its arrays are used again, which spares collecting megabytes.</param>
    public Search Copy(Search? spent) => new(this, spent);

    /// <summary>Literals, domains and the trail.</summary>
    public LiteralStore Store { get; }

    public ConflictMarks Marks { get; }
    public Branching Branching { get; }

    /// <summary>The value tried first for each variable; null where there is no preference.</summary>
    public Assigned?[] Preferred => Branching.Preferred;

    public CancellationToken Cancel { get; set; }

    /// <summary>What solutions are to improve on; null where any will do.</summary>
    public IObjective? Objective { get; set; }

    /// <summary>Which of the facts last assumed cannot stand together, by their place; set where there was no solution.</summary>
    public List<int> Core { get; private set; } = [];

    /// <summary>Whether the last question was left open since it met as many conflicts as it might.</summary>
    public bool HasGivenUp { get; private set; }

    /// <summary>How many conflicts all questions together have met.</summary>
    public long Conflicts { get; private set; }

    /// <summary>Whether nothing is possible, whatever is assumed.</summary>
    public bool IsContradictory => _clauses.IsContradictory;

    /// <summary>
    /// Whether it was interrupted in the middle of something, or has named so many bounds that a new search is quicker: then it
    /// is not to be asked again.
    /// </summary>
    public bool IsSpent => _isInterrupted || Store.VariableCount - _variablesAtFirst > MostNamedBounds;

    // ---- Facts --------------------------------------------------------------------------------------------------

    /// <summary>That a group holds.</summary>
    public Fact Holds(int group) => Fact.Of(Store.Groups[group]);

    /// <summary>That instances stand in lexicographic order, by the nodes that say so.</summary>
    public void InOrder(ReadOnlySpan<int> orders, List<Fact> facts)
    {
        foreach (var node in orders)
            facts.Add(Fact.Of(LiteralNames.Negated(Store.Names.Of(node, Outcomes.False))));
    }

    /// <summary>That a variable lies within a domain, fact by fact.</summary>
    public void Within(Variable variable, in VariableDomain to, List<Fact> facts)
    {
        for (var o = 0; o < LiteralNames.OutcomeCount; o++)
            if (Store.Names.Of(variable.Node, o) is var literal && literal != LiteralNames.False && ((int)to.Outcomes >> o & 1) == 0)
                facts.Add(Fact.Of(LiteralNames.Negated(literal)));
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
            var literals = Store.Names.ValuesOf(variable.Node);
            if (to.Outcomes == Outcomes.Present && BitSet.Count(to.Bits!) == 1)
                facts.Add(Fact.Of(literals[BitSet.First(to.Bits!)]));
            else
                for (var i = 0; i < literals.Length; i++)
                    if (literals[i] != LiteralNames.False && !BitSet.Has(to.Bits!, i))
                        facts.Add(Fact.Of(LiteralNames.Negated(literals[i])));
        }
    }

    private bool IsTrue(in Fact fact) => fact.IsBound
        ? BoundLiterals.Entails(Store.Bounds.Of(fact.Node, fact.Upper), fact.Bound, fact.Upper) : Store.IsTrue(fact.Literal);

    /// <summary>Decides a fact at a level of its own.</summary>
    public void Decide(in Fact fact)
    {
        Store.Trail.NewLevel();
        MakeTrue(fact);
    }

    private void MakeTrue(in Fact fact)
    {
        if (!fact.IsBound)
            Store.Assign(fact.Literal, Antecedent.Decision);
        // Where nothing would be left between the bounds, the named one says that the node does not apply.
        else if (fact.Upper ? fact.Bound < Store.Bounds.Of(fact.Node, false) : fact.Bound > Store.Bounds.Of(fact.Node, true))
            Store.Assign(Store.Bounds.Named(fact.Node, fact.Upper, fact.Bound), Antecedent.Decision);
        else
            Store.Bounds.Assign(fact.Node, fact.Upper, fact.Bound, Antecedent.Decision);
    }

    // ---- Propagation --------------------------------------------------------------------------------------------

    /// <summary>Propagates clauses and nodes to a fixed point. False: a conflict.</summary>
    private bool Propagate()
    {
        var (trail, queue) = (Store.Trail, Store.Queue);
        queue.StartRound();
        Store.Limit.StartRound();
        queue.Reviser = -1;
        while (true)
        {
            while (trail.Head < trail.Count)
            {
                // It counts as looked at only afterwards: where a conflict leaves it standing, the rest of it is still to come.
                var literal = trail[trail.Head].Literal;
                if (literal >= 0 && (!Store.Channel(literal) || !_clauses.Visit(LiteralNames.Negated(literal))))
                    return false;
                trail.Head++;
            }
            if (!queue.TryDequeue(out var node))
            {
                trail.Settled = trail.Count;
                return true;
            }
            if (Sleeps(node))
                continue;
            if ((++_revisions & RevisionsBetweenChecks) == 0)
                CheckCancelled();
            (queue.Reviser, Store.UsedExactNumbers) = (node, false);
            if (!_propagators.Revise(node))
                return false;
            queue.Reviser = -1;
        }
    }

    private bool Sleeps(int node) => Store.Groups.SleepsUntil(node) is >= 0 and var group && !Store.IsTrue(Store.Groups[group]);

    // ---- Assumptions --------------------------------------------------------------------------------------------

    /// <summary>
    /// Makes the facts hold and propagates, without search. False: they leave nothing; <see cref="Core"/> says which of them.
    /// </summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public bool Assume(List<Fact> facts)
    {
        CheckCancelled();
        Store.GoBackTo(CommonLevels(facts));
        _assumed.Clear();
        _assumed.AddRange(facts);
        return SettleAll();
    }

    /// <summary>
    /// Propagates and learns until all that is assumed stands. False: the facts cannot hold together; <see cref="Core"/> says which of them.
    /// </summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public bool SettleAll()
    {
        while (!IsContradictory)
            if (!Propagate())
            {
                CheckCancelled();
                _analysis.LearnFromConflict();
            }
            else if (Store.Trail.Level >= _assumed.Count)
                return true;
            else if (!AssumeNext())
                return false;
        Core = [];
        return false;
    }

    private int CommonLevels(List<Fact> facts)
    {
        var common = 0;
        while (common < _assumed.Count && common < facts.Count && common < Store.Trail.Level && _assumed[common] == facts[common])
            common++;
        return common;
    }

    /// <summary>Assumes the next fact at a level of its own. False: it cannot hold beside the earlier ones.</summary>
    private bool AssumeNext()
    {
        var fact = _assumed[Store.Trail.Level];
        if (MarkWhatRefutes(fact))
        {
            Core = [.. _analysis.AssumptionsBehind(), Store.Trail.Level];
            return false;
        }
        Store.Trail.NewLevel();
        if (!IsTrue(fact))
            MakeTrue(fact);
        return true;
    }

    /// <summary>Whether a fact is false now; then what makes it so is marked.</summary>
    private bool MarkWhatRefutes(in Fact fact)
    {
        if (!fact.IsBound)
        {
            if (!Store.IsFalse(fact.Literal))
                return false;
            Marks.MarkLiteral(LiteralNames.Negated(fact.Literal));
            return true;
        }
        var (node, upper, bound) = (fact.Node, fact.Upper, fact.Bound);
        var present = Store.Names.Of(node, Outcomes.Present);
        if (Store.IsTrue(present) && (upper ? bound < Store.Bounds.Of(node, false) : bound > Store.Bounds.Of(node, true)))
        {
            Marks.MarkLiteral(present);
            Marks.MarkBoundNow(node, !upper, Store.Trail.Count);
            return true;
        }
        foreach (var (known, literal) in Store.Bounds.Atoms.On(node, upper) ?? [])
            if (BoundLiterals.Entails(bound, known, upper) && Store.IsFalse(literal))
            {
                Marks.MarkLiteral(LiteralNames.Negated(literal));
                return true;
            }
        return false;
    }

    // ---- Search -------------------------------------------------------------------------------------------------

    /// <summary>Finds a solution within the facts; null where there is none, and where it has given up.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Assigned[]? Solve(List<Fact> facts, int mostConflicts = int.MaxValue)
    {
        HasGivenUp = false;
        if (_clauses.IsFull)
        {
            Store.GoBackTo(0);
            _clauses.Forget();
        }
        if (!Assume(facts))
            return null;
        var (restarts, met) = (new RestartSchedule(), 0);
        while (!IsContradictory)
        {
            if (met >= mostConflicts)
            {
                HasGivenUp = true;
                return null;
            }
            if (!Propagate())
            {
                CheckCancelled();
                _analysis.LearnFromConflict();
                Conflicts++;
                met++;
                if (restarts.IsDue())
                    Store.GoBackTo(Math.Min(Store.Trail.Level, _assumed.Count));
            }
            else if (Store.Trail.Level < _assumed.Count)
            {
                if (!AssumeNext())
                    return null;
            }
            else if (Objective?.IsBeaten() ?? false)
            {
                CheckCancelled();
                _analysis.LearnFromMarked();
                Conflicts++;
                met++;
            }
            else if (Branching.Choose() is { } fact)
            {
                CheckCancelled();
                Decide(fact);
            }
            else if (!Store.Limit.TakeUpRefused(Store.Queue))
                if (Verified() is { } solution)
                    return solution;
                else
                    // What it learns from a solution that is none is a conflict like others.
                    met++;
        }
        Core = [];
        return null;
    }

    /// <summary>A solution within some facts in which a node comes out in a way, exactly; null where there is none.</summary>
    public Assigned[]? SolveFor(int node, Outcomes outcome, IEnumerable<Fact> facts)
    {
        Core = [];
        if (Store.Names.Of(node, outcome) is var literal && literal == LiteralNames.False)
            return null;
        _wanted = (node, outcome);
        try
        {
            return Solve([.. facts, Fact.Of(literal)]);
        }
        finally
        {
            _wanted = null;
        }
    }

    /// <summary>The values of the variables, if they are a solution: where numbers take part, that is evaluated by itself.</summary>
    private Assigned[]? Verified()
    {
        var solution = Branching.Decided();
        if (!_network.HasNoNumbers)
        {
            var evaluated = new Assigned[solution.Length];
            _evaluator.Activate(Store.IsActive);
            var verdict = _evaluator.Evaluate(solution, new Assigned?[solution.Length], evaluated);
            if (verdict != Verdict.Solution || !evaluated.AsSpan().SequenceEqual(solution)
                || (_wanted is { } wanted && _evaluator.OutcomeOf(wanted.Node) != wanted.Outcome) || (Objective?.IsNoBetter(_evaluator) ?? false))
            {
                // Doubles could not tell; these values are none.
                _refutations.Mark(solution, evaluated, verdict, _wanted, Objective?.Literal ?? LiteralNames.True);
                _analysis.LearnFromMarked();
                return null;
            }
        }
        Branching.Remember(solution);
        return solution;
    }

    /// <summary>Marks everything that a node stems from.</summary>
    public void MarkCone(int node)
    {
        foreach (var one in _explanations.ConeOf(node))
            Marks.MarkDomain(one);
    }

    /// <summary>
    /// Values as they are wished for, evaluated at once: often a solution, at the cost of one evaluation; null where they are none, or leave
    /// what propagation allows.
    /// </summary>
    /// <param name="applying">By variable: what it has where it turns out to apply though it is wished not to.</param>
    public Assigned[]? Evaluated(Assigned[] wanted, Assigned?[] applying) =>
        Configuration(wanted, applying) is { } found && Array.TrueForAll(_network.Variables, v => Store.Of(v).Allows(found[v.Index])) ? found : null;

    /// <summary>The same whatever is assumed: it may not be what was asked for.</summary>
    public Assigned[]? Configuration(Assigned[] wanted, Assigned?[] applying)
    {
        var found = new Assigned[wanted.Length];
        return _evaluator.Evaluate(wanted, applying, found) == Verdict.Solution
            && Array.TrueForAll(_network.Variables, v => v.Initial.Allows(found[v.Index])) ? found : null;
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

    /// <summary>
    /// Projection: from now on only some variables are decided, since nothing that will be assumed reads the others: those can have any value
    /// that is left of them. Only where there are no numbers.
    /// </summary>
    public void ProjectTo(IEnumerable<int> variables)
    {
        if (!_network.HasNoNumbers)
            return;
        Store.GoBackTo(0);
        Store.Order.ProjectTo(variables);
    }

    /// <summary>Ends the projection: all variables are decided again.</summary>
    public void ProjectToAll()
    {
        Store.GoBackTo(0);
        Store.Order.ProjectToAll();
    }

    /// <summary>Widens the projection by variables; only after <see cref="ProjectTo"/>.</summary>
    public void ProjectAlsoTo(IEnumerable<int> variables) => Store.Order.ProjectAlsoTo(variables);

    /// <summary>When to begin anew: the sequence 1 1 2 1 1 2 4 … (Luby, Sinclair and Zuckerman, “Optimal speedup of Las Vegas algorithms”, 1993).</summary>
    private struct RestartSchedule()
    {
        private int _conflicts, _limit = ConflictsPerRestart, _round = 1;

        /// <summary>Counts a conflict; whether it is time.</summary>
        public bool IsDue()
        {
            if (++_conflicts < _limit)
                return false;
            (_conflicts, _limit) = (0, ConflictsPerRestart * Luby(++_round));
            return true;
        }

        private static int Luby(int i)
        {
            var k = 1;
            while ((1 << k) - 1 < i)
                k++;
            return (1 << k) - 1 == i ? 1 << (k - 1) : Luby(i - (1 << (k - 1)) + 1);
        }
    }
}
