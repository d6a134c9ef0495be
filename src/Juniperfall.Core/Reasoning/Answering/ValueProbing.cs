using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>One question: the values that some variables can have beside some picks. Asks for every value that is not yet known.</summary>
internal sealed class ValueProbing
{
    /// <summary>How often a range of numbers is halved for one solution.</summary>
    private const int MostEvaluations = 40;

    /// <summary>At how many solutions the steps of a number are tried one by one.</summary>
    private const int MostStepped = 1;

    /// <summary>After so many neighbours that bring nothing new a number is not followed further.</summary>
    private const int MostMisses = 4;

    private readonly PreparedNetwork _prepared;
    private readonly SearchSession _session;
    private readonly SolutionChanges _changes;
    private readonly ImmutableArray<Pick> _picks;
    private readonly List<Wanted> _wanted;
    private readonly IReadOnlyList<Variable> _variables;
    private readonly KnownValues[] _marks;
    private readonly VariableDomain[] _domains;
    private readonly int[] _at;
    private readonly int[] _stepped;

    /// <summary>Those of which not everything is known yet.</summary>
    private readonly List<int> _open;
    private readonly InterchangeableInstances? _alike;
    private readonly bool[] _isAnswered;
    private Assigned[]? _latest;

    public ValueProbing(PreparedNetwork prepared, SearchSession session, SolutionChanges changes, ImmutableArray<Pick> picks, IReadOnlyList<Variable> variables)
    {
        (_prepared, _session, _changes, _picks, _variables) = (prepared, session, changes, picks, variables);
        _wanted = prepared.Wanted(picks);
        _marks = [.. variables.Select(_ => new KnownValues())];
        _stepped = new int[_marks.Length];
        _domains = [.. variables.Select(v => v.Initial)];
        _at = new int[prepared.Network.Variables.Length];
        Array.Fill(_at, -1);
        for (var i = 0; i < variables.Count; i++)
            _at[variables[i].Index] = i;
        foreach (var pick in _wanted)
            if (_at[pick.Variable] is var at and >= 0)
                _domains[at] = variables[at].Initial.Just(pick.Value) is var just ? just with { Outcomes = just.Outcomes | Outcomes.Absent } : default;
        foreach (var (variable, to) in prepared.Known.Memory.NarrowedBy(_wanted))
            if (_at[variable.Index] is var at and >= 0)
                _domains[at] = _domains[at].And(to);
        _open = [.. Enumerable.Range(0, variables.Count)];
        _isAnswered = new bool[_marks.Length];
        // A single variable has nothing to be compared with.
        _alike = variables.Count > 1 ? InterchangeableInstances.Under(prepared.Network, _wanted) : null;
    }

    /// <summary>Called when more is known.</summary>
    public Action? Decided { get; set; }

    /// <summary>What is known until now of one of the variables.</summary>
    /// <param name="i">Its place among them.</param>
    public PartialAvailable PartOf(int i)
    {
        if (_isAnswered[i] || IsComplete(i))
            return new(Known(i), null);
        var (variable, domain, marks) = (_variables[i], _domains[i], _marks[i]);
        var undecided = ImmutableArray.CreateBuilder<Value>();
        foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True })
            if ((domain.Outcomes & ~marks.Outcomes & outcome) != 0)
                undecided.Add(PickDomains.ToValue(variable, new(outcome, 0)));
        if (domain is { Kind: DomainKind.Choice, MayBePresent: true })
            foreach (var index in BitSet.Members(domain.Bits!))
                if (!marks.Indexes.Contains(index))
                    undecided.Add(PickDomains.ToValue(variable, new(Outcomes.Present, index)));
        return new(Known(i), undecided.ToImmutable());
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
        _prepared.Known.Memory.Add(found);
        _latest = solution;
        Mark(found);
        Decided?.Invoke();
    }

    private bool IsComplete(int i)
    {
        var (domain, marks) = (_domains[i], _marks[i]);
        if ((domain.Outcomes & ~marks.Outcomes) != 0)
            return false;
        if (!domain.MayBePresent)
            return true;
        if (domain.Kind == DomainKind.Number && marks.Indexes.Count > Available.MostListed)
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
            {
                Change(i, from);
                Decided?.Invoke();
            }
    }

    private void Change(int i, Assigned[] from)
    {
        var (variable, marks, domain) = (_variables[i], _marks[i], _domains[i]);
        var beside = new List<Assigned>();
        if (domain.Kind == DomainKind.Number && domain.MayBePresent && marks.Indexes.Count <= Available.MostListed)
            Range(from, variable, domain.First, domain.Last, beside);
        foreach (var value in beside)
            marks.Add(value);
        // What a stretch as a whole left open is tried step by step, but not at every solution.
        var steps = domain.Kind == DomainKind.Number && domain.MayBePresent && _stepped[i]++ < MostStepped;
        foreach (var candidate in SolutionChanges.Candidates(domain, steps ? Available.MostListed : 0))
            if (!marks.Has(candidate) && marks.Indexes.Count <= Available.MostListed + 1 && Holds(from, variable, candidate, null) == Verdict.Solution)
                beside.Add(candidate);
        foreach (var value in beside)
            marks.Add(value);
        if (beside.Count > 0)
            _prepared.Known.Memory.Add(new(from, variable.Index, beside));
    }

    /// <summary>Goes up and down from the number that a solution has, while its neighbours hold with all else as it is.</summary>
    private void Widen(int i, Assigned[] solution)
    {
        var (variable, marks) = (_variables[i], _marks[i]);
        var beside = new List<Assigned>();
        foreach (var by in new[] { 1, -1 })
            for (var (step, misses) = (solution[variable.Index].Index + by, 0); _domains[i].First <= step && step <= _domains[i].Last && misses < MostMisses
                && marks.Indexes.Count <= Available.MostListed; step += by)
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
            _prepared.Known.Memory.Add(new(solution, variable.Index, beside));
    }

    private Verdict Holds(Assigned[] from, Variable variable, in Assigned value, long? upTo)
    {
        _session.Search.CheckCancelled();
        var (verdict, isOther) = _changes.Holds(from, variable, value, upTo);
        if (isOther)
            Found([.. _changes.Evaluated]);
        return verdict;
    }

    /// <summary>Takes over whole stretches of numbers that hold, and halves those of which that is not known.</summary>
    private void Range(Assigned[] from, Variable variable, long first, long last, List<Assigned> beside)
    {
        var open = new Stack<(long First, long Last)>([(first, last)]);
        for (var evaluations = 0; evaluations < MostEvaluations && beside.Count <= Available.MostListed && open.TryPop(out var at); evaluations++)
        {
            var single = at.First == at.Last;
            switch (Holds(from, variable, new(Outcomes.Present, at.First), single ? null : at.Last))
            {
                case Verdict.Solution:
                    for (var step = at.First; step <= at.Last && beside.Count <= Available.MostListed; step++)
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
                Decided?.Invoke();
            }
        }
        var known = _variables.Select((v, i) => (Variable: v, Available: Known(i))).ToList();
        if (asked)
            _prepared.Known.Memory.Narrowed(_wanted, [.. known.Select(k => (k.Variable, PickDomains.Hull(k.Variable, k.Available)))]);
        return known.ToDictionary(k => k.Variable.Index, k => k.Available);
    }

    /// <summary>Lets the picks stand and takes over what propagation makes of them.</summary>
    private void Enter()
    {
        _session.Standing.Clear();
        if (!_session.Stand(_prepared.Containing(_picks)))
            throw new InvalidOperationException("Picks that stand together leave nothing.");
        var domains = _session.Domains();
        for (var i = 0; i < _domains.Length; i++)
            _domains[i] = _domains[i].And(domains[_variables[i].Index]);
    }

    /// <summary>Whether a variable can lie within a domain beside the picks: by search, which stays near the latest solution.</summary>
    private bool Ask(int i, in VariableDomain to)
    {
        for (var v = 0; v < _session.Search.Preferred.Length; v++)
            _session.Search.Preferred[v] = _latest?[v];
        if (_session.Try([(_variables[i], to)], InterchangeableInstances.Orders(_prepared.Network, _wanted, _variables[i].Index)) is not { } solution)
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
            if (marks.Indexes.Count <= Available.MostListed && (domain.Outcomes & ~_marks[i].Outcomes) == 0 && marks.Indexes.IsSubsetOf(_marks[i].Indexes))
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
                values.Add(PickDomains.ToValue(variable, new(outcome, 0)));
        values.AddRange(marks.Indexes.Select(step => PickDomains.ToValue(variable, new(Outcomes.Present, step))));
        var isNumber = variable.Initial.Kind == DomainKind.Number && marks.Indexes.Count > 0;
        return new(values.ToImmutable(), (marks.Outcomes & Outcomes.None) != 0, isNumber ? variable.At(marks.Indexes.Min) : null,
            isNumber ? variable.At(marks.Indexes.Max) : null,
            !isNumber || marks.Indexes.Count <= Available.MostListed)
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
            if (known.Count > Available.MostListed)
                break;
        if (known.Count <= Available.MostListed)
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
