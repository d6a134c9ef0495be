using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Which values can be had: from what is remembered, from solutions changed in one place, and by search for the rest.</summary>
public sealed partial class Reasoner
{
    /// <summary>How many solutions are tried with one value changed before a search.</summary>
    private const int MostBases = 1;

    /// <summary>How often a range of numbers is halved for one solution.</summary>
    private const int MostEvaluations = 40;

    /// <summary>At how many solutions the steps of a number are tried one by one.</summary>
    private const int MostStepped = 1;

    /// <summary>After so many neighbours that bring nothing new a number is not followed further.</summary>
    private const int MostMisses = 4;

    /// <summary>What a variable is known to be able to be.</summary>
    private sealed class Marks
    {
        public Outcomes Outcomes { get; private set; }

        private SortedSet<long>? _indexes;

        /// <summary>The steps of a number, or the indexes of values.</summary>
        public SortedSet<long> Indexes => _indexes ??= [];

        public bool Has(in Assigned value) => (Outcomes & value.Outcome) != 0 && (value.Outcome != Outcomes.Present || Indexes.Contains(value.Index));

        public void Add(in Assigned value)
        {
            Outcomes |= value.Outcome;
            if (value.Outcome == Outcomes.Present)
                Indexes.Add(value.Index);
        }
    }

    private List<Wanted> Wanted(IEnumerable<Pick> picks) => [.. Known(picks).Select(k => new Wanted(k.Variable.Index, Assignment(k.Variable, k.Pick.Value) ?? Assigned.Absent))];

    /// <summary>
    /// The values that every variable can have beside picks that stand together, by variable, and those that each pick could
    /// change to with the others kept.
    /// </summary>
    private (Available?[] Available, Dictionary<int, Available> Alternatives) AllAvailable(Search search, IReadOnlyList<(Variable Variable, Pick Pick)> picks)
    {
        var wanted = Wanted(picks.Select(p => p.Pick));
        var changes = new Changes(this, wanted);
        var all = new Probing(this, search, changes, [.. picks.Select(p => p.Pick)], _network.Variables);
        Probing[] butOne = [.. picks.Select((p, i) => new Probing(this, search, changes, [.. picks.Where((_, k) => k != i).Select(k => k.Pick)], [p.Variable]))];
        var near = _memory.Near(wanted);
        foreach (var solutions in near.All)
            foreach (var question in butOne.Append(all))
                question.Mark(solutions);
        for (var i = 0; i < butOne.Length; i++)
            foreach (var solutions in near.ButOne[i])
                butOne[i].Mark(solutions);
        foreach (var solutions in near.All.Take(MostBases))
            foreach (var question in butOne.Append(all))
                question.Change(solutions.Base);
        // The picked ones first: what is found beside them is at hand for the rest.
        Dictionary<int, Available> alternatives = butOne.SelectMany(q => q.Answer()).ToDictionary();
        var available = all.Answer();
        return ([.. _network.Variables.Select(v => available[v.Index])], alternatives);
    }

    /// <summary>Solutions changed in one variable, evaluated without search.</summary>
    private sealed class Changes
    {
        private readonly PointEvaluator _evaluator;
        private readonly Assigned?[] _preferred;
        private readonly Assigned[] _changed;
        private readonly List<Wanted> _picks;
        private Assigned[]? _from;

        public Changes(Reasoner reasoner, List<Wanted> picks)
        {
            var variables = reasoner._network.Variables;
            (_evaluator, _picks) = (new(reasoner._network), picks);
            _preferred = [.. variables.Select(v => reasoner.Suggestion(v) ?? Candidates(v.Initial, 0).Select(a => (Assigned?)a).FirstOrDefault())];
            foreach (var pick in picks)
                _preferred[pick.Variable] = pick.Value;
            _changed = new Assigned[variables.Length];
            Evaluated = new Assigned[variables.Length];
        }

        /// <summary>What the last evaluation came to.</summary>
        public Assigned[] Evaluated { get; }

        /// <summary>
        /// Whether a solution holds with another value of one variable, or with all steps from it up to another one. Undecided
        /// also where others changed with it: then <see cref="Evaluated"/> is a solution of its own.
        /// </summary>
        public (Verdict Verdict, bool IsOther) Holds(Assigned[] from, Variable variable, in Assigned value, long? upTo)
        {
            Settle(from, variable);
            _changed[variable.Index] = value;
            var verdict = _evaluator.EvaluateChanged(variable, _changed, _preferred, Evaluated, upTo);
            if (verdict != Verdict.Solution)
                return (verdict, false);
            if (Evaluated[variable.Index] != value || !_picks.TrueForAll(p => p.Variable == variable.Index || p.IsMetBy(Evaluated[p.Variable])))
                return (Verdict.NoSolution, false);
            return SameElsewhere(from, variable.Index) ? (Verdict.Solution, false) : (Verdict.Undecided, upTo is null);
        }

        /// <summary>The variable that may still be evaluated with another value than the solution has.</summary>
        private Variable? _stale;

        /// <summary>Evaluates the solution that others are to come of as it is, but for one variable that changes next.</summary>
        private void Settle(Assigned[] from, Variable touched)
        {
            if (_from != from)
            {
                from.CopyTo(_changed, 0);
                _from = from;
                if (_evaluator.Evaluate(_changed, _preferred, Evaluated) != Verdict.Solution)
                    throw new InvalidOperationException("A remembered solution is none.");
            }
            else if (_stale is { } stale && stale != touched)
            {
                _changed[stale.Index] = from[stale.Index];
                _evaluator.EvaluateChanged(stale, _changed, _preferred, Evaluated, null);
            }
            _stale = touched;
        }

        private bool SameElsewhere(Assigned[] from, int except) =>
            Evaluated.AsSpan(0, except).SequenceEqual(from.AsSpan(0, except)) && Evaluated.AsSpan(except + 1).SequenceEqual(from.AsSpan(except + 1));
    }

    /// <summary>One question: the values that some variables can have beside some picks. Asks for every value that is not yet known.</summary>
    private sealed class Probing
    {
        private readonly Reasoner _reasoner;
        private readonly Search _search;
        private readonly Changes _changes;
        private readonly ImmutableArray<Pick> _picks;
        private readonly List<Wanted> _wanted;
        private readonly IReadOnlyList<Variable> _variables;
        private readonly Marks[] _marks;
        private readonly VariableDomain[] _domains;
        private readonly int[] _at;
        private readonly int[] _stepped;

        /// <summary>Those of which not everything is known yet.</summary>
        private readonly List<int> _open;
        private readonly InterchangeableInstances? _alike;
        private readonly bool[] _isAnswered;
        private Assigned[]? _latest;

        public Probing(Reasoner reasoner, Search search, Changes changes, ImmutableArray<Pick> picks, IReadOnlyList<Variable> variables)
        {
            (_reasoner, _search, _changes, _picks, _variables) = (reasoner, search, changes, picks, variables);
            _wanted = reasoner.Wanted(picks);
            _marks = [.. variables.Select(_ => new Marks())];
            _stepped = new int[_marks.Length];
            _domains = [.. variables.Select(v => v.Initial)];
            _at = new int[reasoner._network.Variables.Length];
            Array.Fill(_at, -1);
            for (var i = 0; i < variables.Count; i++)
                _at[variables[i].Index] = i;
            foreach (var pick in _wanted)
                if (_at[pick.Variable] is var at and >= 0)
                    _domains[at] = variables[at].Initial.Just(pick.Value) is var just ? just with { Outcomes = just.Outcomes | Outcomes.Absent } : default;
            foreach (var (variable, to) in reasoner._memory.NarrowedBy(_wanted))
                if (_at[variable.Index] is var at and >= 0)
                    _domains[at] = _domains[at].And(to);
            _open = [.. Enumerable.Range(0, variables.Count)];
            _isAnswered = new bool[_marks.Length];
            // A single variable has nothing to be compared with.
            _alike = variables.Count > 1 ? InterchangeableInstances.Under(reasoner._network, _wanted) : null;
        }

        /// <summary>Takes over what a solution tells.</summary>
        public void Mark(Solutions solutions)
        {
            _latest ??= solutions.Base;
            var kept = 0;
            for (var o = 0; o < _open.Count; o++)
            {
                var i = _open[o];
                var index = _variables[i].Index;
                var isNew = !_marks[i].Has(solutions.Base[index]);
                if (isNew)
                    _marks[i].Add(solutions.Base[index]);
                if (index == solutions.Variable)
                    foreach (var value in solutions.Values)
                    {
                        _marks[i].Add(value);
                        isNew = true;
                    }
                if (!isNew || !IsComplete(i))
                    _open[kept++] = i;
            }
            _open.RemoveRange(kept, _open.Count - kept);
            if (_alike is not null && _open.Count > 0)
                MarkExchanged(_alike, solutions);
        }

        /// <summary>Takes over what a solution tells with the values of instances exchanged.</summary>
        private void MarkExchanged(InterchangeableInstances alike, Solutions solutions)
        {
            foreach (var (variable, like) in alike.Exchanged(v => solutions.Base[v].Outcome == Outcomes.Absent))
            {
                var marks = _marks[_at[variable]];
                marks.Add(solutions.Base[like]);
                if (like == solutions.Variable)
                    foreach (var value in solutions.Values)
                        marks.Add(value);
            }
            _open.RemoveAll(IsComplete);
        }

        private void Found(Assigned[] solution)
        {
            var found = new Solutions(solution, -1, []);
            _reasoner._memory.Add(found);
            _latest = solution;
            Mark(found);
        }

        private bool IsComplete(int i)
        {
            var (domain, marks) = (_domains[i], _marks[i]);
            if ((domain.Outcomes & ~marks.Outcomes) != 0)
                return false;
            if (!domain.MayBePresent)
                return true;
            if (domain.Kind == DomainKind.Number && marks.Indexes.Count > ListedMembers)
                return marks.Indexes.Contains(domain.First) && marks.Indexes.Contains(domain.Last);
            return marks.Indexes.Count >= (domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) : (double)domain.Last - domain.First + 1);
        }

        // ---- Solutions changed in one place ---------------------------------------------------------------------

        /// <summary>
        /// Changes a solution in each variable that is not yet known in full, and keeps what holds; left to asking where that
        /// changes what a value forces along with it.
        /// </summary>
        public void Change(Assigned[] from)
        {
            for (var i = 0; i < _marks.Length; i++)
                if (!IsComplete(i))
                    Change(i, from);
        }

        private void Change(int i, Assigned[] from)
        {
            var (variable, marks, domain) = (_variables[i], _marks[i], _domains[i]);
            var beside = new List<Assigned>();
            if (domain.Kind == DomainKind.Number && domain.MayBePresent && marks.Indexes.Count <= ListedMembers)
                Range(from, variable, domain.First, domain.Last, beside);
            foreach (var value in beside)
                marks.Add(value);
            // What a stretch as a whole left open is tried step by step, but not at every solution.
            var steps = domain.Kind == DomainKind.Number && domain.MayBePresent && _stepped[i]++ < MostStepped;
            foreach (var candidate in Candidates(domain, steps ? ListedMembers : 0))
                if (!marks.Has(candidate) && marks.Indexes.Count <= ListedMembers + 1 && Holds(from, variable, candidate, null) == Verdict.Solution)
                    beside.Add(candidate);
            foreach (var value in beside)
                marks.Add(value);
            if (beside.Count > 0)
                _reasoner._memory.Add(new(from, variable.Index, beside));
        }

        /// <summary>Goes up and down from the number that a solution has, while its neighbours hold with all else as it is.</summary>
        private void Widen(int i, Assigned[] solution)
        {
            var (variable, marks) = (_variables[i], _marks[i]);
            var beside = new List<Assigned>();
            foreach (var by in new[] { 1, -1 })
                for (var (step, misses) = (solution[variable.Index].Index + by, 0); _domains[i].First <= step && step <= _domains[i].Last && misses < MostMisses && marks.Indexes.Count <= ListedMembers; step += by)
                {
                    var neighbour = new Assigned(Outcomes.Present, step);
                    if (marks.Has(neighbour))
                        misses++;
                    else if (Holds(solution, variable, neighbour, null) == Verdict.Solution)
                    {
                        misses = 0;
                        marks.Add(neighbour);
                        beside.Add(neighbour);
                    }
                    else
                        misses++;
                }
            if (beside.Count > 0)
                _reasoner._memory.Add(new(solution, variable.Index, beside));
        }

        private Verdict Holds(Assigned[] from, Variable variable, in Assigned value, long? upTo)
        {
            _search.CheckCancelled();
            var (verdict, isOther) = _changes.Holds(from, variable, value, upTo);
            if (isOther)
                Found([.. _changes.Evaluated]);
            return verdict;
        }

        /// <summary>Takes over whole stretches of numbers that hold, and halves those of which that is not known.</summary>
        private void Range(Assigned[] from, Variable variable, long first, long last, List<Assigned> beside)
        {
            var open = new Stack<(long First, long Last)>([(first, last)]);
            for (var evaluations = 0; evaluations < MostEvaluations && beside.Count <= ListedMembers && open.TryPop(out var at); evaluations++)
            {
                var single = at.First == at.Last;
                switch (Holds(from, variable, new(Outcomes.Present, at.First), single ? null : at.Last))
                {
                    case Verdict.Solution:
                        for (var step = at.First; step <= at.Last && beside.Count <= ListedMembers; step++)
                            beside.Add(new(Outcomes.Present, step));
                        break;
                    case Verdict.Undecided when !single:
                        var middle = at.First + (at.Last - at.First) / 2;
                        open.Push((middle + 1, at.Last));
                        open.Push((at.First, middle));
                        break;
                }
            }
        }

        // ---- Search for the rest --------------------------------------------------------------------------------

        /// <summary>What each variable can be, exactly.</summary>
        public Dictionary<int, Available> Answer()
        {
            var asked = !Array.TrueForAll([.. Enumerable.Range(0, _marks.Length)], IsComplete);
            if (asked)
            {
                Enter();
                for (var i = 0; i < _marks.Length; i++)
                {
                    if (!NarrowByEarlier(i))
                        Probe(i);
                    _isAnswered[i] = true;
                }
            }
            var known = _variables.Select((v, i) => (Variable: v, Available: Known(i))).ToList();
            if (asked)
                _reasoner._memory.Narrowed(_wanted, [.. known.Select(k => (k.Variable, Hull(k.Variable, k.Available)))]);
            return known.ToDictionary(k => k.Variable.Index, k => k.Available);
        }

        /// <summary>Lets the picks stand and takes over what propagation makes of them.</summary>
        private void Enter()
        {
            _search.Standing.Clear();
            if (!_search.Stand(_reasoner.Contained(_picks)))
                throw new InvalidOperationException("Picks that stand together leave nothing.");
            var domains = _search.Domains();
            for (var i = 0; i < _domains.Length; i++)
                _domains[i] = _domains[i].And(domains[_variables[i].Index]);
        }

        /// <summary>Whether a variable can lie within a domain beside the picks: by search, which stays near the latest solution.</summary>
        private bool Ask(int i, in VariableDomain to)
        {
            for (var v = 0; v < _search.Preferred.Length; v++)
                _search.Preferred[v] = _latest?[v];
            if (_search.Try([(_variables[i], to)], InterchangeableInstances.Orders(_reasoner._network, _wanted, _variables[i].Index)) is not { } solution)
                return false;
            Found(solution);
            // Its neighbours come almost for nothing.
            if (to.Kind == DomainKind.Number && to.MayBePresent)
                Widen(i, solution);
            else if (!IsComplete(i))
                Change(i, solution);
            return true;
        }

        /// <summary>Leaves out what the same variable of an earlier instance cannot have. True where nothing is left to ask.</summary>
        private bool NarrowByEarlier(int i)
        {
            foreach (var before in _alike?.Before(_variables[i].Index) ?? [])
            {
                if (!_isAnswered[_at[before]])
                    continue;
                var (marks, domain) = (_marks[_at[before]], _domains[i]);
                var bits = domain.Kind == DomainKind.Choice ? new ulong[domain.Bits!.Length] : null;
                if (bits is not null)
                    foreach (var index in marks.Indexes)
                        BitSet.Set(bits, (int)index);
                domain = domain.And(new(domain.Kind, marks.Outcomes | Outcomes.Absent, marks.Indexes.Min, marks.Indexes.Max, bits));
                _domains[i] = domain;
                // All that it could have is known already: no gap is left to be proven.
                if (marks.Indexes.Count <= ListedMembers && (domain.Outcomes & ~_marks[i].Outcomes) == 0 && marks.Indexes.IsSubsetOf(_marks[i].Indexes))
                    return true;
            }
            return false;
        }

        private void Probe(int i)
        {
            var (marks, domain) = (_marks[i], _domains[i]);
            foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True, Outcomes.Absent })
                if ((domain.Outcomes & ~marks.Outcomes & outcome) != 0)
                    Ask(i, domain.Only(outcome));
            if (!domain.MayBePresent || IsComplete(i))
                return;
            if (domain.Kind == DomainKind.Number)
                ProbeNumbers(i, domain, marks.Indexes);
            else
                foreach (var value in BitSet.Members(domain.Bits!))
                    if (!marks.Indexes.Contains(value))
                        Ask(i, domain.Value(value));
        }

        private Available Known(int i)
        {
            var (variable, marks) = (_variables[i], _marks[i]);
            var values = ImmutableArray.CreateBuilder<Value>();
            foreach (var outcome in new[] { Outcomes.False, Outcomes.True })
                if ((marks.Outcomes & outcome) != 0)
                    values.Add(ToValue(variable, new(outcome, 0)));
            values.AddRange(marks.Indexes.Select(step => ToValue(variable, new(Outcomes.Present, step))));
            var isNumber = variable.Initial.Kind == DomainKind.Number && marks.Indexes.Count > 0;
            return new(values.ToImmutable(), (marks.Outcomes & Outcomes.None) != 0, isNumber ? variable.At(marks.Indexes.Min) : null, isNumber ? variable.At(marks.Indexes.Max) : null,
                !isNumber || marks.Indexes.Count <= ListedMembers)
            { MayBeAbsent = (marks.Outcomes & Outcomes.Absent) != 0 };
        }

        /// <summary>
        /// Walks upwards from one available number to the next, until all are known or more than are listed; a gap costs one
        /// proof, however wide it is. The ends are found in any case.
        /// </summary>
        private void ProbeNumbers(int i, VariableDomain domain, SortedSet<long> known)
        {
            bool Between(long first, long last) => Ask(i, domain.Steps(first, last));

            // The lowest number from a start on: tighten the upper end until nothing is left below.
            long? NextFrom(long start)
            {
                if (start > domain.Last)
                    return null;
                if (known.Contains(start))
                    return start;
                var above = known.GetViewBetween(start, domain.Last);
                long? best = above.Count > 0 ? above.Min : null;
                var ceiling = best - 1 ?? domain.Last;
                while (start <= ceiling && Between(start, ceiling))
                {
                    best = known.GetViewBetween(start, ceiling).Min;
                    ceiling = best.Value - 1;
                }
                return best;
            }

            for (var next = NextFrom(domain.First); next is { } member; next = NextFrom(member + 1))
                if (known.Count > ListedMembers)
                    break;
            if (known.Count <= ListedMembers)
                return;
            var highest = known.Max;
            if (highest < domain.Last && Between(domain.Last, domain.Last))
                return;
            // Halve what is left above: each step either finds a higher one or rules the upper half out.
            for (var ceiling = domain.Last; highest < ceiling;)
            {
                var middle = highest + (ceiling - highest + 1) / 2;
                if (Between(middle, ceiling))
                    highest = known.Max;
                else
                    ceiling = middle - 1;
            }
        }
    }

    /// <summary>The single values of a domain; of numbers the ends and at most so many steps from below.</summary>
    private static IEnumerable<Assigned> Candidates(VariableDomain domain, int steps)
    {
        foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True })
            if ((domain.Outcomes & outcome) != 0)
                yield return new(outcome, 0);
        if (!domain.MayBePresent)
            yield break;
        if (domain.Kind == DomainKind.Choice)
        {
            foreach (var i in BitSet.Members(domain.Bits!))
                yield return new(Outcomes.Present, i);
            yield break;
        }
        yield return new(Outcomes.Present, domain.First);
        if (domain.Last != domain.First)
            yield return new(Outcomes.Present, domain.Last);
        for (var step = domain.First + 1; step < domain.Last && step <= domain.First + steps; step++)
            yield return new(Outcomes.Present, step);
    }
}
