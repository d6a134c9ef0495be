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
        public HashSet<Assigned> Seen { get; } = [];
        public bool Absent { get; set; }
        public int Numbers { get; private set; }

        public bool Has(in Assigned value) => value.Outcome == Outcomes.Absent ? Absent : Seen.Contains(value);

        public void Add(in Assigned value)
        {
            if (value.Outcome == Outcomes.Absent)
                Absent = true;
            else if (Seen.Add(value) && value.Outcome == Outcomes.Present)
                Numbers++;
        }
    }

    private static readonly Assigned NotThere = new(Outcomes.Absent, Exact.Zero, -1);

    private List<Wanted> Wanted(IEnumerable<Pick> picks) => [.. Known(picks).Select(k => new Wanted(k.Variable.Index, Assignment(k.Variable, k.Pick.Value) ?? NotThere))];

    /// <summary>One question: the values that the wanted variables can have beside the picks, which stand together.</summary>
    private Dictionary<int, Available> AvailableWith(Solver solver, PointEvaluator evaluator, ImmutableArray<Pick> picks, IReadOnlyCollection<Variable> wanted)
    {
        var result = new Dictionary<int, Available>();
        var conditions = Wanted(picks);
        solver.Push();
        try
        {
            foreach (var (node, to) in Contained(picks).Concat(_memory.NarrowedBy(conditions)))
                if (!solver.Restrict(node, to))
                    return wanted.ToDictionary(v => v.Index, _ => new Available([], false, null, null, true));
            if (!solver.Propagate())
                return wanted.ToDictionary(v => v.Index, _ => new Available([], false, null, null, true));
            var probe = new Probing(this, solver, evaluator, wanted);
            foreach (var solutions in _memory.Containing(conditions))
                probe.Mark(solutions);
            foreach (var variable in wanted)
                result[variable.Index] = probe.Probe(variable);
        }
        finally
        {
            solver.Pop();
        }
        _memory.Narrowed(conditions, [.. wanted.Select(v => (v.Node, Hull(v, result[v.Index])))]);
        return result;
    }

    /// <summary>The domain that holds what is available, and for numbers what lies between.</summary>
    private Domain Hull(Variable variable, Available available)
    {
        var outcomes = (available.MayBeAbsent ? Outcomes.Absent : 0) | (available.None ? Outcomes.None : 0);
        switch (_network.Initial[variable.Node].Kind)
        {
            case DomainKind.YesNo:
                foreach (var value in available.Values)
                    outcomes |= value.IsTrue ? Outcomes.True : Outcomes.False;
                return Domain.YesNo(outcomes);
            case DomainKind.Choice:
                var bits = new ulong[(variable.List!.Values.Length + 63) / 64];
                for (var i = 0; i < variable.List.Values.Length; i++)
                    if (available.Values.Contains(Value.Choice(variable.List.Values[i].Id)))
                        BitSet.Set(bits, i);
                return Domain.Choice(bits, outcomes | (available.Values.IsEmpty ? 0 : Outcomes.Present));
            default:
                return available.Values.IsEmpty ? _network.Initial[variable.Node] with { Outcomes = outcomes }
                    : Domain.Number(available.Lowest ?? available.Values[0].Number, available.Highest ?? available.Values[^1].Number, outcomes | Outcomes.Present);
        }
    }

    /// <summary>Asks for every value that is not yet known to be available.</summary>
    private sealed class Probing
    {
        private readonly Reasoner _reasoner;
        private readonly Solver _solver;
        private readonly PointEvaluator _evaluator;
        private readonly Dictionary<int, Marks> _marks;
        private readonly List<Assigned[]> _bases = [];
        private readonly Assigned?[] _suggested;
        private readonly Assigned[] _changed, _evaluated;

        public Probing(Reasoner reasoner, Solver solver, PointEvaluator evaluator, IReadOnlyCollection<Variable> wanted)
        {
            (_reasoner, _solver, _evaluator) = (reasoner, solver, evaluator);
            _marks = wanted.ToDictionary(v => v.Index, _ => new Marks());
            var variables = reasoner._network.Variables;
            _suggested = [.. variables.Select(v => reasoner.Suggestion(v) ?? FirstOf(v))];
            _changed = new Assigned[variables.Length];
            _evaluated = new Assigned[variables.Length];
        }

        private Assigned? FirstOf(Variable variable) => Candidates(variable, _solver[variable.Node]).Select(a => (Assigned?)a).FirstOrDefault();

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

        /// <summary>Changes one variable in the solutions at hand, and keeps what holds.</summary>
        private void Change(Variable variable, int last)
        {
            var marks = _marks[variable.Index];
            for (var b = _bases.Count - 1; b >= last; b--)
            {
                var from = _bases[b];
                from.CopyTo(_changed, 0);
                if (_evaluator.Evaluate(_changed, _suggested, _evaluated) != Verdict.Solution)
                    continue;
                var beside = new List<Assigned>();
                var domain = _solver[variable.Node];
                if (b == _bases.Count - 1 && domain.Kind == DomainKind.Number && (domain.Outcomes & Outcomes.Present) != 0 && marks.Numbers <= ListedMembers)
                {
                    Range(from, variable, domain.Low!.Value, domain.High!.Value, beside);
                    foreach (var value in beside)
                        marks.Add(value);
                }
                foreach (var candidate in Candidates(variable, domain))
                    if (!marks.Has(candidate) && (marks.Numbers <= ListedMembers || candidate.Number == domain.Low || candidate.Number == domain.High)
                        && Holds(from, variable, candidate, null) == Verdict.Solution)
                    {
                        marks.Add(candidate);
                        beside.Add(candidate);
                    }
                if (beside.Count > 0)
                    _reasoner._memory.Add(new(from, variable.Index, beside));
                if (IsComplete(variable, marks))
                    return;
            }
        }

        /// <summary>Whether a solution holds with another value of one variable, or with all from it up to another; what differs elsewhere too is kept by itself.</summary>
        private Verdict Holds(Assigned[] from, Variable variable, in Assigned value, Exact? upTo)
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
        private void Range(Assigned[] from, Variable variable, Exact low, Exact high, List<Assigned> beside)
        {
            var open = new Stack<(Exact Low, Exact High)>([(low, high)]);
            for (var evaluations = 0; evaluations < MostEvaluations && beside.Count <= ListedMembers && open.TryPop(out var at); evaluations++)
            {
                var (first, single) = (new Assigned(Outcomes.Present, at.Low, -1), at.Low == at.High);
                switch (Holds(from, variable, first, single ? null : at.High))
                {
                    case Verdict.Solution:
                        for (var number = at.Low; number <= at.High && beside.Count <= ListedMembers; number += variable.Step)
                            beside.Add(new(Outcomes.Present, number, -1));
                        break;
                    case Verdict.Undecided when !single:
                        var middle = at.Low + ((at.High - at.Low) / variable.Step / 2).Floor() * variable.Step;
                        open.Push((middle + variable.Step, at.High));
                        open.Push((at.Low, middle));
                        break;
                }
            }
        }

        /// <summary>What came to apply may have taken a value that the picks do not allow.</summary>
        private bool WithinDomains()
        {
            foreach (var variable in _reasoner._network.Variables)
                if (!_solver.Allows(variable, _evaluated[variable.Index]))
                    return false;
            return true;
        }

        private bool SameElsewhere(Assigned[] from, int except)
        {
            for (var i = 0; i < from.Length; i++)
                if (i != except && _evaluated[i] != from[i])
                    return false;
            return true;
        }

        private bool IsComplete(Variable variable, Marks marks)
        {
            var domain = _solver[variable.Node];
            if ((domain.Outcomes & Outcomes.Absent) != 0 && !marks.Absent)
                return false;
            if (domain.Kind == DomainKind.Number && (domain.Outcomes & Outcomes.Present) != 0 && marks.Seen.Count > ListedMembers)
                return marks.Has(new(Outcomes.Present, domain.Low!.Value, -1)) && marks.Has(new(Outcomes.Present, domain.High!.Value, -1));
            foreach (var candidate in Candidates(variable, domain))
                if (!marks.Has(candidate))
                    return false;
            return true;
        }

        public Available Probe(Variable variable)
        {
            var marks = _marks[variable.Index];
            var domain = _solver[variable.Node];
            if (!IsComplete(variable, marks))
                Change(variable, 0);
            if (_bases.Count > 0)
                for (var i = 0; i < _bases[^1].Length; i++)
                    _solver.Preferred[i] = _bases[^1][i];

            bool Ask(in Domain to)
            {
                if (Try(_solver, [(variable.Node, to)]) is not { } solution)
                    return false;
                Found(solution);
                // Its neighbours come almost for nothing.
                if (!IsComplete(variable, marks))
                    Change(variable, _bases.Count - 1);
                return true;
            }

            foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True, Outcomes.Absent })
                if ((domain.Outcomes & outcome) != 0 && !(outcome == Outcomes.Absent ? marks.Absent : marks.Seen.Any(s => s.Outcome == outcome)))
                    Ask(domain with { Outcomes = outcome });
            if ((domain.Outcomes & Outcomes.Present) != 0)
            {
                if (domain.Kind == DomainKind.Choice)
                {
                    foreach (var i in BitSet.Members(domain.Bits!))
                        if (!marks.Seen.Contains(new(Outcomes.Present, Exact.Zero, i)))
                            Ask(Domain.Choice(BitSet.Single(variable.List!.Values.Length, i)));
                }
                else
                    return ProbeNumbers(variable, domain, marks, (low, high) => Ask(Domain.Number(low, high))) with { MayBeAbsent = marks.Absent };
            }
            var values = marks.Seen.Where(s => s.Outcome is not Outcomes.None).OrderBy(s => s.Index).ThenBy(s => s.Outcome).Select(s => _reasoner.ToValue(variable, s)).ToImmutableArray();
            return new(values, marks.Seen.Any(s => s.Outcome == Outcomes.None), null, null, true) { MayBeAbsent = marks.Absent };
        }

        /// <summary>Walks upwards from one available number to the next; a gap costs one proof, however wide it is.</summary>
        private static Available ProbeNumbers(Variable variable, in Domain domain, Marks marks, Func<Exact, Exact, bool> ask)
        {
            var (bottom, top) = (domain.Low!.Value, domain.High!.Value);
            var known = new SortedSet<Exact>(marks.Seen.Where(s => s.Outcome == Outcomes.Present).Select(s => s.Number));
            void Refresh() => known.UnionWith(marks.Seen.Where(s => s.Outcome == Outcomes.Present).Select(s => s.Number));

            // The lowest number from a start on: tighten the upper end until nothing is left below.
            Exact? NextFrom(Exact start)
            {
                if (start > top)
                    return null;
                if (known.Contains(start))
                    return start;
                var above = known.GetViewBetween(start, top);
                Exact? best = above.Count > 0 ? above.Min : null;
                var ceiling = best is { } b ? b - variable.Step : top;
                while (start <= ceiling && ask(start, ceiling))
                {
                    Refresh();
                    var found = known.GetViewBetween(start, ceiling).Min;
                    best = found;
                    ceiling = found - variable.Step;
                }
                return best;
            }

            var none = marks.Seen.Any(s => s.Outcome == Outcomes.None);
            var members = new List<Exact>();
            var next = NextFrom(bottom);
            while (next is { } member && members.Count <= ListedMembers)
            {
                members.Add(member);
                // Enough is known to be available that the set will not be listed.
                if (known.Count > ListedMembers)
                    break;
                next = NextFrom(member + variable.Step);
            }
            if (members.Count == 0)
                return new([], none, null, null, true);
            if (known.Count <= ListedMembers && next is null)
                return new([.. members.Select(Value.Of)], none, members[0], members[^1], true);
            var highest = known.Max;
            if (highest < top && ask(top, top))
                highest = top;
            // Halve what is left above: each step either finds a higher one or rules the upper half out.
            for (var ceiling = top; highest < ceiling;)
            {
                var steps = ((ceiling - highest) / variable.Step / 2).Ceiling();
                var middle = highest + steps * variable.Step;
                if (ask(middle, ceiling))
                {
                    Refresh();
                    highest = known.Max;
                }
                else
                    ceiling = middle - variable.Step;
            }
            return new([.. known.Select(Value.Of)], none, members[0], highest, false);
        }

        /// <summary>The single values of a domain; of numbers the ends first, which matter most.</summary>
        private static IEnumerable<Assigned> Candidates(Variable variable, Domain domain)
        {
            foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True })
                if ((domain.Outcomes & outcome) != 0)
                    yield return new(outcome, Exact.Zero, -1);
            if ((domain.Outcomes & Outcomes.Present) == 0)
                yield break;
            if (domain.Kind == DomainKind.Choice)
            {
                foreach (var i in BitSet.Members(domain.Bits!))
                    yield return new(Outcomes.Present, Exact.Zero, i);
                yield break;
            }
            yield return new(Outcomes.Present, domain.Low!.Value, -1);
            if (domain.High != domain.Low)
                yield return new(Outcomes.Present, domain.High!.Value, -1);
            for (var (number, count) = (domain.Low.Value + variable.Step, 0); number < domain.High!.Value && count <= ListedMembers; number += variable.Step, count++)
                yield return new(Outcomes.Present, number, -1);
        }
    }
}
