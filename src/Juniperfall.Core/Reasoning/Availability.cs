using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>Which values can be had: from what is remembered, from solutions changed in one place, and by search for the rest.</summary>
public sealed partial class Reasoner
{
    /// <summary>How many solutions are tried with one value changed before a search.</summary>
    private const int MostBases = 16;

    /// <summary>How often a range of numbers is halved for one solution.</summary>
    private const int MostEvaluations = 40;

    /// <summary>What a variable is known to be able to be.</summary>
    private sealed class Marks
    {
        public Outcomes Outcomes { get; private set; }

        /// <summary>The steps of a number, or the indexes of values.</summary>
        public SortedSet<long> Indexes { get; } = [];

        public bool Has(in Assigned value) => (Outcomes & value.Outcome) != 0 && (value.Outcome != Outcomes.Present || Indexes.Contains(value.Index));

        public void Add(in Assigned value)
        {
            Outcomes |= value.Outcome;
            if (value.Outcome == Outcomes.Present)
                Indexes.Add(value.Index);
        }
    }

    private List<Wanted> Wanted(IEnumerable<Pick> picks) => [.. Known(picks).Select(k => new Wanted(k.Variable.Index, Assignment(k.Variable, k.Pick.Value) ?? Assigned.Absent))];

    /// <summary>One question: the values that the wanted variables can have beside the picks, which stand together.</summary>
    private Dictionary<int, Available> AvailableWith(Solver<DoubleEnd> solver, PointEvaluator evaluator, ImmutableArray<Pick> picks, IReadOnlyCollection<Variable> wanted)
    {
        var result = new Dictionary<int, Available>();
        var conditions = Wanted(picks);
        var narrowed = new List<(Variable, VariableDomain)>();
        solver.Push();
        try
        {
            var stands = true;
            foreach (var (variable, to) in Contained(picks).Concat(_memory.NarrowedBy(conditions)))
                stands = stands && solver.Restrict(variable, to);
            if (!stands || !solver.Propagate())
                return wanted.ToDictionary(v => v.Index, _ => new Available([], false, null, null, true));
            var probe = new Probing(this, solver, evaluator, wanted);
            foreach (var solutions in _memory.Containing(conditions))
                probe.Mark(solutions);
            foreach (var variable in wanted)
            {
                result[variable.Index] = probe.Probe(variable);
                narrowed.Add((variable, probe.Hull(variable)));
            }
        }
        finally
        {
            solver.Pop();
        }
        _memory.Narrowed(conditions, [.. narrowed]);
        return result;
    }

    /// <summary>Asks for every value that is not yet known to be available.</summary>
    private sealed class Probing
    {
        private readonly Reasoner _reasoner;
        private readonly Solver<DoubleEnd> _solver;
        private readonly PointEvaluator _evaluator;
        private readonly Dictionary<int, Marks> _marks;
        private readonly List<Assigned[]> _bases = [];
        private readonly Assigned?[] _suggested;
        private readonly Assigned[] _changed, _evaluated;

        public Probing(Reasoner reasoner, Solver<DoubleEnd> solver, PointEvaluator evaluator, IReadOnlyCollection<Variable> wanted)
        {
            (_reasoner, _solver, _evaluator) = (reasoner, solver, evaluator);
            _marks = wanted.ToDictionary(v => v.Index, _ => new Marks());
            var variables = reasoner._network.Variables;
            _suggested = [.. variables.Select(v => reasoner.Suggestion(v) ?? Candidates(_solver.Of(v)).Select(a => (Assigned?)a).FirstOrDefault())];
            _changed = new Assigned[variables.Length];
            _evaluated = new Assigned[variables.Length];
        }

        public void Mark(Solutions solutions)
        {
            foreach (var (index, marks) in _marks)
                marks.Add(solutions.Base[index]);
            if (solutions.Variable >= 0 && _marks.TryGetValue(solutions.Variable, out var own))
                foreach (var value in solutions.Values)
                    own.Add(value);
            if (_bases.Count < MostBases)
                _bases.Add(solutions.Base);
        }

        private void Found(Assigned[] solution)
        {
            var found = new Solutions(solution, -1, []);
            _reasoner._memory.Add(found);
            Mark(found);
            // The latest are the likeliest to have what is still missing.
            if (_bases.Count == MostBases)
                _bases.RemoveAt(0);
        }

        /// <summary>The domain that holds what is available, and for numbers what lies between; after <see cref="Probe"/>.</summary>
        public VariableDomain Hull(Variable variable)
        {
            var marks = _marks[variable.Index];
            var hull = variable.Initial.Only(marks.Outcomes);
            if (marks.Indexes.Count == 0)
                return hull;
            if (variable.Initial.Kind == DomainKind.Number)
                return hull with { First = marks.Indexes.Min, Last = marks.Indexes.Max };
            var bits = new ulong[hull.Bits!.Length];
            foreach (var index in marks.Indexes)
                BitSet.Set(bits, (int)index);
            return hull with { Bits = bits };
        }

        // ---- Solutions changed in one place ---------------------------------------------------------------------

        /// <summary>Changes one variable in the solutions at hand, and keeps what holds.</summary>
        private void Change(Variable variable, int last)
        {
            var marks = _marks[variable.Index];
            var domain = _solver.Of(variable);
            for (var b = _bases.Count - 1; b >= last; b--)
            {
                var from = _bases[b];
                from.CopyTo(_changed, 0);
                if (_evaluator.Evaluate(_changed, _suggested, _evaluated) != Verdict.Solution)
                    continue;
                var beside = new List<Assigned>();
                if (b == _bases.Count - 1 && domain.Kind == DomainKind.Number && domain.MayBePresent && marks.Indexes.Count <= ListedMembers)
                {
                    Range(from, variable, domain.First, domain.Last, beside);
                    foreach (var value in beside)
                        marks.Add(value);
                }
                foreach (var candidate in Candidates(domain))
                    if (!marks.Has(candidate) && (marks.Indexes.Count <= ListedMembers || candidate.Index == domain.First || candidate.Index == domain.Last)
                        && Holds(from, variable, candidate, null) == Verdict.Solution)
                    {
                        marks.Add(candidate);
                        beside.Add(candidate);
                    }
                if (beside.Count > 0)
                    _reasoner._memory.Add(new(from, variable.Index, beside));
                if (IsComplete(domain, marks))
                    return;
            }
        }

        /// <summary>Whether a solution holds with another value of one variable, or with all from it up to another; what differs elsewhere too is kept by itself.</summary>
        private Verdict Holds(Assigned[] from, Variable variable, in Assigned value, long? upTo)
        {
            _changed[variable.Index] = value;
            var verdict = _evaluator.EvaluateChanged(variable, _changed, _suggested, _evaluated, upTo);
            if (verdict != Verdict.Solution)
                return verdict;
            if (_evaluated[variable.Index] != value || !WithinDomains())
                return Verdict.NoSolution;
            if (SameElsewhere(from, variable.Index))
                return Verdict.Solution;
            if (upTo is null)
                Found([.. _evaluated]);
            return Verdict.Undecided;
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

        /// <summary>What came to apply may have taken a value that the picks do not allow.</summary>
        private bool WithinDomains()
        {
            foreach (var variable in _reasoner._network.Variables)
                if (!_solver.Of(variable).Allows(_evaluated[variable.Index]))
                    return false;
            return true;
        }

        private bool SameElsewhere(Assigned[] from, int except) =>
            _evaluated.AsSpan(0, except).SequenceEqual(from.AsSpan(0, except)) && _evaluated.AsSpan(except + 1).SequenceEqual(from.AsSpan(except + 1));

        // ---- Search for the rest --------------------------------------------------------------------------------

        private static bool IsComplete(VariableDomain domain, Marks marks)
        {
            if ((domain.Outcomes & ~marks.Outcomes) != 0)
                return false;
            if (!domain.MayBePresent)
                return true;
            if (domain.Kind == DomainKind.Number && marks.Indexes.Count > ListedMembers)
                return marks.Indexes.Contains(domain.First) && marks.Indexes.Contains(domain.Last);
            return marks.Indexes.Count >= (domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) : (double)domain.Last - domain.First + 1);
        }

        public Available Probe(Variable variable)
        {
            var marks = _marks[variable.Index];
            var domain = _solver.Of(variable);
            if (!IsComplete(domain, marks))
                Change(variable, 0);
            if (_bases.Count > 0)
                for (var i = 0; i < _bases[^1].Length; i++)
                    _solver.Preferred[i] = _bases[^1][i];

            bool Ask(in VariableDomain to)
            {
                if (Try(_solver, [(variable, to)]) is not { } solution)
                    return false;
                Found(solution);
                // Its neighbours come almost for nothing.
                if (!IsComplete(domain, marks))
                    Change(variable, _bases.Count - 1);
                return true;
            }

            foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True, Outcomes.Absent })
                if ((domain.Outcomes & ~marks.Outcomes & outcome) != 0)
                    Ask(domain.Only(outcome));
            var none = (marks.Outcomes & Outcomes.None) != 0;
            if (domain.MayBePresent && domain.Kind == DomainKind.Number)
                return ProbeNumbers(variable, domain, marks.Indexes, none, (first, last) => Ask(domain.Steps(first, last))) with { MayBeAbsent = (marks.Outcomes & Outcomes.Absent) != 0 };
            if (domain.MayBePresent)
                foreach (var i in BitSet.Members(domain.Bits!))
                    if (!marks.Indexes.Contains(i))
                        Ask(domain.Value(i));
            var values = ImmutableArray.CreateBuilder<Value>();
            foreach (var outcome in new[] { Outcomes.False, Outcomes.True })
                if ((marks.Outcomes & outcome) != 0)
                    values.Add(ToValue(variable, new(outcome, 0)));
            values.AddRange(marks.Indexes.Select(i => ToValue(variable, new(Outcomes.Present, i))));
            return new(values.ToImmutable(), none, null, null, true) { MayBeAbsent = (marks.Outcomes & Outcomes.Absent) != 0 };
        }

        /// <summary>Walks upwards from one available number to the next; a gap costs one proof, however wide it is.</summary>
        private static Available ProbeNumbers(Variable variable, in VariableDomain domain, SortedSet<long> known, bool none, Func<long, long, bool> ask)
        {
            var top = domain.Last;

            // The lowest number from a start on: tighten the upper end until nothing is left below.
            long? NextFrom(long start)
            {
                if (start > top)
                    return null;
                if (known.Contains(start))
                    return start;
                var above = known.GetViewBetween(start, top);
                long? best = above.Count > 0 ? above.Min : null;
                var ceiling = best - 1 ?? top;
                while (start <= ceiling && ask(start, ceiling))
                {
                    best = known.GetViewBetween(start, ceiling).Min;
                    ceiling = best.Value - 1;
                }
                return best;
            }

            var members = new List<long>();
            var next = NextFrom(domain.First);
            while (next is { } member && members.Count <= ListedMembers)
            {
                members.Add(member);
                // Enough is known to be available that the set will not be listed.
                if (known.Count > ListedMembers)
                    break;
                next = NextFrom(member + 1);
            }
            if (members.Count == 0)
                return new([], none, null, null, true);
            if (known.Count <= ListedMembers && next is null)
                return new([.. members.Select(m => Value.Of(variable.At(m)))], none, variable.At(members[0]), variable.At(members[^1]), true);
            var highest = known.Max;
            if (highest < top && ask(top, top))
                highest = top;
            // Halve what is left above: each step either finds a higher one or rules the upper half out.
            for (var ceiling = top; highest < ceiling;)
            {
                var middle = highest + (ceiling - highest + 1) / 2;
                if (ask(middle, ceiling))
                    highest = known.Max;
                else
                    ceiling = middle - 1;
            }
            return new([.. known.Select(m => Value.Of(variable.At(m)))], none, variable.At(members[0]), variable.At(highest), false);
        }

        /// <summary>The single values of a domain; of numbers the ends first, which matter most.</summary>
        private static IEnumerable<Assigned> Candidates(VariableDomain domain)
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
            for (var (step, count) = (domain.First + 1, 0); step < domain.Last && count <= ListedMembers; step++, count++)
                yield return new(Outcomes.Present, step);
        }
    }
}
