using System.Collections.Immutable;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Answers questions by complete search over a propagated network. Each solution that is found marks all its values as
/// available, so that only the remaining ones are searched for.
/// </summary>
public sealed class Reasoner : IReasoner
{
    /// <summary>Up to this many members the exact set of an asked number is listed.</summary>
    public const int ListedMembers = 200;
    private const int MostWaysOut = 5;

    private readonly Network _network;
    private readonly Domain[]? _start;
    private readonly Dictionary<string, Variable> _variables;

    public Reasoner(BoundModel model, string? site = null, DateOnly? date = null)
    {
        _network = NetworkBuilder.Build(model, site, date);
        _variables = _network.Variables.ToDictionary(v => v.Path);
        var solver = new Solver(_network, (bool[]?)null, CancellationToken.None);
        _start = solver.Start() ? solver.Snapshot() : null;
    }

    public BoundModel Model => _network.Model;

    /// <summary>The paths that are asked, in the author's order, texts included.</summary>
    public IEnumerable<string> AskedPaths => _network.Variables.Select(v => v.Path).Concat(_network.Texts.Select(t => t.Occurrence.Prefix + t.Row.Id));

    // ---- Picks as domains ---------------------------------------------------------------------------------------

    /// <summary>Having exactly this value; null where the attribute's domain has no such value.</summary>
    private Domain? Having(Variable variable, Value value)
    {
        var initial = _network.Initial[variable.Node];
        switch (value.Kind)
        {
            case ValueKind.Nothing:
                return (initial.Outcomes & Outcomes.None) != 0 ? initial with { Outcomes = Outcomes.None } : null;
            case ValueKind.YesNo when initial.Kind == DomainKind.YesNo:
                return Domain.YesNo(value.IsTrue ? Outcomes.True : Outcomes.False);
            case ValueKind.Number when initial.Kind == DomainKind.Number:
                var onGrid = ((value.Number - variable.Origin) / variable.Step).IsWhole;
                return onGrid && value.Number >= initial.Low && value.Number <= initial.High ? Domain.Number(value.Number, value.Number) : null;
            case ValueKind.Choice when initial.Kind == DomainKind.Choice:
                var index = variable.List!.Values.ToList().FindIndex(v => v.Id == value.Text);
                return index >= 0 && BitSet.Has(initial.Bits!, index) ? Domain.Choice(BitSet.Single(variable.List.Values.Length, index)) : null;
            default:
                return null;
        }
    }

    /// <summary>A pick is contained where the attribute has the value or does not apply.</summary>
    private Domain Containing(Variable variable, Value value) =>
        Having(variable, value) is { } having ? having with { Outcomes = having.Outcomes | Outcomes.Absent }
            : _network.Initial[variable.Node] with { Outcomes = Outcomes.Absent };

    private Value ToValue(Variable variable, in Assigned assigned) => assigned.Outcome switch
    {
        Outcomes.True => Value.Of(true),
        Outcomes.False => Value.Of(false),
        Outcomes.Present => variable.List is { } list ? Value.Choice(list.Values[assigned.Index].Id) : Value.Of(assigned.Number),
        _ => Value.Nothing,
    };

    private IEnumerable<(Variable Variable, Pick Pick)> Known(IEnumerable<Pick> picks)
    {
        foreach (var pick in picks)
            if (_variables.TryGetValue(pick.Path, out var variable))
                yield return (variable, pick);
    }

    private Solver NewSolver(CancellationToken cancel)
    {
        var solver = new Solver(_network, _start!, cancel);
        foreach (var variable in _network.Variables)
            // What need not be answered is left out where nothing speaks for it.
            solver.Preferred[variable.Index] = (Suggested(variable) ?? (variable.Row.Required ? null : Value.Nothing)) is { } value && Having(variable, value) is { } domain
                ? new(domain.Outcomes, domain.Low ?? Exact.Zero, domain.Kind == DomainKind.Choice && domain.Outcomes == Outcomes.Present ? BitSet.First(domain.Bits!) : -1) : null;
        return solver;
    }

    private static Value? Suggested(Variable variable) => variable.Row.Suggestion is not { Length: > 0 } text ? null : variable.Row.Type switch
    {
        AttributeType.YesNo => Value.Of(text == "yes"),
        AttributeType.Choice => Value.Choice(text),
        _ => Exact.TryParse(text, out var number) ? Value.Of(variable.Unit.ToBase(number)) : null,
    };

    /// <summary>Whether some configuration lies within the solver's domains and the given ones; its values if so.</summary>
    private static Assigned[]? Try(Solver solver, IEnumerable<(int Node, Domain To)> restrictions)
    {
        solver.Push();
        try
        {
            foreach (var (node, to) in restrictions)
                if (!solver.Restrict(node, to))
                    return null;
            return solver.Propagate() && solver.SearchNear() ? solver.Solution() : null;
        }
        finally
        {
            solver.Pop();
        }
    }

    private IEnumerable<(int, Domain)> Contained(IEnumerable<Pick> picks) => Known(picks).Select(k => (k.Variable.Node, Containing(k.Variable, k.Pick.Value)));

    // ---- The answer ---------------------------------------------------------------------------------------------

    public Answer Answer(Question question, CancellationToken cancel)
    {
        var picks = Known(question.Picks).GroupBy(k => k.Pick.Path).Select(g => g.Last()).OrderBy(k => question.Picks.IndexOf(k.Pick)).ToList();
        if (_start is null)
            return Impossible(question);
        var exact = true;
        var solver = NewSolver(cancel);
        var clashes = ImmutableArray.CreateBuilder<ClashAnswer>();
        var standing = new List<(Variable Variable, Pick Pick)>();
        var skipped = new HashSet<string>();
        var availability = new Dictionary<int, Available>();
        var alternatives = new Dictionary<int, Available>();
        Assigned[]? witness = null;
        try
        {
            witness = Try(solver, Contained(picks.Select(p => p.Pick)));
            if (witness is not null)
                standing.AddRange(picks);
            else
                foreach (var pick in picks)
                {
                    if (Try(solver, Contained(standing.Select(s => s.Pick).Append(pick.Pick))) is { } found)
                    {
                        standing.Add(pick);
                        witness = found;
                        continue;
                    }
                    skipped.Add(pick.Pick.Path);
                    if (Explain([.. standing.Select(s => s.Pick), pick.Pick], [[]], cancel) is { } reason)
                        clashes.Add(new(reason.Picks, reason.Causes));
                }
            witness ??= Try(solver, []);
            if (witness is null)
                return Impossible(question);
            var pool = new List<Assigned[]> { witness };
            foreach (var variable in standing.Select(s => s.Variable).Where(v => !skipped.Contains(v.Path)))
                alternatives[variable.Index] = AvailableWith(solver, [.. standing.Where(s => s.Variable != variable).Select(s => s.Pick)], [variable], [witness])[variable.Index];
            foreach (var (index, available) in AvailableWith(solver, [.. standing.Select(s => s.Pick)], _network.Variables, pool))
                availability[index] = available;
        }
        catch (SearchInterrupted)
        {
            exact = false;
        }
        return Assemble(question, solver, picks, standing, skipped, clashes.ToImmutable(), availability, alternatives, exact);
    }

    /// <summary>Marks of what a variable is known to be able to be.</summary>
    private sealed class Marks
    {
        public HashSet<Assigned> Seen { get; } = [];
        public bool Absent { get; set; }
    }

    private Dictionary<int, Available> AvailableWith(Solver solver, ImmutableArray<Pick> picks, IReadOnlyCollection<Variable> wanted, List<Assigned[]> pool)
    {
        var result = new Dictionary<int, Available>();
        var marks = wanted.ToDictionary(v => v.Index, _ => new Marks());
        solver.Push();
        try
        {
            foreach (var (node, to) in Contained(picks))
                if (!solver.Restrict(node, to))
                    return wanted.ToDictionary(v => v.Index, _ => new Available([], false, null, null, true));
            if (!solver.Propagate())
                return wanted.ToDictionary(v => v.Index, _ => new Available([], false, null, null, true));
            foreach (var solution in pool)
                Mark(marks, solution);
            if (pool.Count > 0)
                foreach (var variable in _network.Variables)
                    solver.Preferred[variable.Index] = pool[0][variable.Index];
            foreach (var variable in wanted)
                result[variable.Index] = Probe(solver, variable, marks, pool);
        }
        finally
        {
            solver.Pop();
        }
        return result;
    }

    private static void Mark(Dictionary<int, Marks> marks, Assigned[] solution)
    {
        foreach (var (index, mark) in marks)
            if (solution[index].Outcome == Outcomes.Absent)
                mark.Absent = true;
            else
                mark.Seen.Add(solution[index]);
    }

    /// <summary>Asks for every value that is not yet known to be available: first beside the last solution, then by search.</summary>
    private Available Probe(Solver solver, Variable variable, Dictionary<int, Marks> marks, List<Assigned[]> pool)
    {
        var mark = marks[variable.Index];
        var domain = solver[variable.Node];
        if (pool.Count > 0)
            Sweep(solver, variable, pool[0], mark);

        bool Ask(in Domain to)
        {
            if (Try(solver, [(variable.Node, to)]) is not { } solution)
                return false;
            Mark(marks, solution);
            pool.Add(solution);
            // Its neighbours come almost for nothing.
            Sweep(solver, variable, solution, mark);
            return true;
        }

        foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True, Outcomes.Absent })
            if ((domain.Outcomes & outcome) != 0 && !(outcome == Outcomes.Absent ? mark.Absent : mark.Seen.Any(s => s.Outcome == outcome)))
                Ask(domain with { Outcomes = outcome });
        if ((domain.Outcomes & Outcomes.Present) != 0)
        {
            if (domain.Kind == DomainKind.Choice)
            {
                foreach (var i in BitSet.Members(domain.Bits!))
                    if (!mark.Seen.Contains(new(Outcomes.Present, Exact.Zero, i)))
                        Ask(Domain.Choice(BitSet.Single(variable.List!.Values.Length, i)));
            }
            else
                return ProbeNumbers(variable, domain, mark, (low, high) => Ask(Domain.Number(low, high))) with { MayBeAbsent = mark.Absent };
        }
        var values = mark.Seen.Where(s => s.Outcome is not Outcomes.None).OrderBy(s => s.Index).ThenBy(s => s.Outcome).Select(s => ToValue(variable, s)).ToImmutableArray();
        return new(values, mark.Seen.Any(s => s.Outcome == Outcomes.None), null, null, true) { MayBeAbsent = mark.Absent };
    }

    /// <summary>Walks upwards from one available number to the next; a gap costs one proof, however wide it is.</summary>
    private static Available ProbeNumbers(Variable variable, in Domain domain, Marks mark, Func<Exact, Exact, bool> ask)
    {
        var (bottom, top) = (domain.Low!.Value, domain.High!.Value);
        HashSet<Exact> known = [.. mark.Seen.Where(s => s.Outcome == Outcomes.Present).Select(s => s.Number)];
        void Refresh() => known.UnionWith(mark.Seen.Where(s => s.Outcome == Outcomes.Present).Select(s => s.Number));

        // The lowest number from a start on: tighten the upper end until nothing is left below.
        Exact? NextFrom(Exact start)
        {
            if (start > top)
                return null;
            if (known.Contains(start))
                return start;
            Exact? best = known.Where(k => k >= start).Select(k => (Exact?)k).Min();
            var ceiling = best is { } b ? b - variable.Step : top;
            while (start <= ceiling && ask(start, ceiling))
            {
                Refresh();
                var found = known.Where(k => k >= start && k <= ceiling).Min();
                best = found;
                ceiling = found - variable.Step;
            }
            return best;
        }

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
        var none = mark.Seen.Any(s => s.Outcome == Outcomes.None);
        if (members.Count == 0)
            return new([], none, null, null, true);
        if (known.Count <= ListedMembers && next is null)
            return new([.. members.Select(Value.Of)], none, members[0], members[^1], true);
        var highest = known.Max();
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
                highest = known.Max();
            }
            else
                ceiling = middle - variable.Step;
        }
        return new([.. known.Order().Select(Value.Of)], none, members[0], highest, false);
    }

    /// <summary>With every other variable as in a known solution, each value of this one is a solution or not by propagation alone.</summary>
    private void Sweep(Solver solver, Variable variable, Assigned[] solution, Marks mark)
    {
        solver.Push();
        var possible = true;
        foreach (var other in _network.Variables)
            if (possible && other != variable)
                possible = solver.Restrict(other.Node, solver.DomainOf(other, solution[other.Index]));
        if (possible && solver.Propagate())
        {
            var domain = solver[variable.Node];
            foreach (var candidate in Candidates(variable, domain))
            {
                if (mark.Seen.Contains(candidate))
                    continue;
                if (mark.Seen.Count > ListedMembers)
                    break;
                if (Try(solver, [(variable.Node, solver.DomainOf(variable, candidate))]) is not null)
                    mark.Seen.Add(candidate);
            }
        }
        solver.Pop();
    }

    private static IEnumerable<Assigned> Candidates(Variable variable, Domain domain)
    {
        foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True })
            if ((domain.Outcomes & outcome) != 0)
                yield return new(outcome, Exact.Zero, -1);
        if ((domain.Outcomes & Outcomes.Present) == 0)
            yield break;
        if (domain.Kind == DomainKind.Choice)
            foreach (var i in BitSet.Members(domain.Bits!))
                yield return new(Outcomes.Present, Exact.Zero, i);
        else
            for (var (number, count) = (domain.Low!.Value, 0); number <= domain.High!.Value && count <= ListedMembers; number += variable.Step, count++)
                yield return new(Outcomes.Present, number, -1);
    }

    private Answer Assemble(Question question, Solver solver, List<(Variable Variable, Pick Pick)> picks, List<(Variable Variable, Pick Pick)> standing,
        HashSet<string> skipped, ImmutableArray<ClashAnswer> clashes, Dictionary<int, Available> availability, Dictionary<int, Available> alternatives, bool exact)
    {
        var empty = new Available([], false, null, null, true);
        var picked = picks.ToDictionary(p => p.Variable.Index, p => p.Pick.Value);
        var follows = new Dictionary<int, Value>();
        var suggested = new Dictionary<int, Value>();
        var counted = standing.Select(s => s.Pick).ToList();
        if (exact)
            foreach (var variable in _network.Variables)
                if (!picked.ContainsKey(variable.Index) && availability[variable.Index] is { Count: 1, Listed: true } only)
                {
                    follows[variable.Index] = only.None ? Value.Nothing : only.Values[0];
                    counted.Add(new(variable.Path, follows[variable.Index]));
                }
        try
        {
            var now = exact ? Try(solver, Contained(counted)) : null;
            foreach (var variable in _network.Variables)
            {
                if (!exact || picked.ContainsKey(variable.Index) || follows.ContainsKey(variable.Index) || Suggested(variable) is not { } value || !availability[variable.Index].Has(value))
                    continue;
                var pick = new Pick(variable.Path, value);
                // Available together with the earlier ones: the value itself must be possible, not only the pick contained.
                if (now is null || !ToValue(variable, now[variable.Index]).Equals(value))
                {
                    if (Having(variable, value) is not { } having || Try(solver, Contained(counted).Append((variable.Node, having))) is not { } found)
                        continue;
                    now = found;
                }
                suggested[variable.Index] = value;
                counted.Add(pick);
            }
        }
        catch (SearchInterrupted)
        {
            exact = false;
        }
        var needed = Needed(solver, counted, exact);

        solver.Push();
        foreach (var (node, to) in Contained(counted))
            solver.Restrict(node, to);
        solver.Propagate();
        var attributes = ImmutableArray.CreateBuilder<AttributeAnswer>();
        var missing = ImmutableArray.CreateBuilder<string>();
        foreach (var variable in _network.Variables)
        {
            var available = availability.GetValueOrDefault(variable.Index, empty);
            var outcomes = solver[variable.Node].Outcomes;
            var applies = available.Count == 0 && exact ? Applicability.Never
                : exact && !available.MayBeAbsent ? Applicability.Always : Applicability.Maybe;
            var state = skipped.Contains(variable.Path) ? AttributeState.Clash
                : picked.ContainsKey(variable.Index) ? applies == Applicability.Never || outcomes == Outcomes.Absent ? AttributeState.Resting : AttributeState.Picked
                : applies == Applicability.Never ? AttributeState.Absent
                : follows.ContainsKey(variable.Index) ? AttributeState.Follows
                : suggested.ContainsKey(variable.Index) ? AttributeState.Suggested : AttributeState.Open;
            Value? value = picked.TryGetValue(variable.Index, out var p) ? p : follows.TryGetValue(variable.Index, out var f) ? f
                : suggested.TryGetValue(variable.Index, out var s) ? s : null;
            if (state is AttributeState.Open or AttributeState.Clash && variable.Row.Required && needed.Contains(variable.Index))
                missing.Add(variable.Path);
            attributes.Add(new()
            {
                Path = variable.Path,
                DisplayPath = variable.Occurrence.DisplayPath(Model.Index, variable.Row.Id),
                Row = variable.Row,
                State = state,
                Applies = applies,
                Value = value,
                Available = available,
                Alternatives = alternatives.GetValueOrDefault(variable.Index),
            });
        }
        foreach (var (occurrence, row) in _network.Texts)
            attributes.Add(TextAnswer(question, solver, occurrence, row, missing));
        var answer = new Answer
        {
            Valid = skipped.Count == 0 && exact,
            Attributes = attributes.ToImmutable(),
            Clashes = clashes,
            Missing = missing.ToImmutable(),
            Advice = [.. _network.Advice.Where(a => solver[a.Node].Outcomes == Outcomes.False).Select(a => new Cause(CauseKind.Rule, a.Row.Id, "", a.Occurrence.Prefix))],
            Computed = [.. _network.Computed.Select(c => Computed(solver, c))],
            Lines = [.. _network.Lines.Select(l => Line(solver, l))],
            Exact = exact,
            Standing = [.. counted, .. question.Picks.Where(pick => _network.Texts.Any(t => t.Occurrence.Prefix + t.Row.Id == pick.Path))],
        };
        solver.Pop();
        return answer;
    }

    /// <summary>The attributes that apply in every configuration with the given values; where time ran out, those known to.</summary>
    private HashSet<int> Needed(Solver solver, List<Pick> counted, bool exact)
    {
        var needed = new HashSet<int>();
        try
        {
            foreach (var variable in exact ? _network.Variables : [])
                if (counted.All(p => p.Path != variable.Path) && variable.Row.Required
                    && Try(solver, Contained(counted).Append((variable.Node, _network.Initial[variable.Node] with { Outcomes = Outcomes.Absent }))) is null)
                    needed.Add(variable.Index);
        }
        catch (SearchInterrupted)
        {
            // The rest is not known to be needed.
        }
        return needed;
    }

    private AttributeAnswer TextAnswer(Question question, Solver solver, Occurrence occurrence, AttributeRow row, ImmutableArray<string>.Builder missing)
    {
        var path = occurrence.Prefix + row.Id;
        var truth = solver[_network.ConditionOfPath[path]].Outcomes;
        var applies = truth == Outcomes.True ? Applicability.Always : (truth & Outcomes.True) == 0 ? Applicability.Never : Applicability.Maybe;
        Value? value = question.Picks.LastOrDefault(p => p.Path == path) is { Path: not null } pick ? pick.Value
            : row.Suggestion is { Length: > 0 } suggestion ? Value.OfText(suggestion) : null;
        var isPicked = question.Picks.Any(p => p.Path == path);
        if (value is null && row.Required && applies == Applicability.Always)
            missing.Add(path);
        return new()
        {
            Path = path,
            DisplayPath = occurrence.DisplayPath(Model.Index, row.Id),
            Row = row,
            Applies = applies,
            Value = value,
            State = applies == Applicability.Never ? isPicked ? AttributeState.Resting : AttributeState.Absent
                : isPicked ? AttributeState.Picked : value is not null ? AttributeState.Suggested : AttributeState.Open,
            Available = new([], !row.Required, null, null, false),
        };
    }

    private static NumberAnswer Number(in Domain domain) => new(domain.Low, domain.High, !domain.MustHaveValue);

    private ComputedAnswer Computed(Solver solver, CompiledComputed computed)
    {
        var domain = solver[computed.Node];
        var display = computed.Occurrence.DisplayPath(Model.Index, computed.Row.Id);
        var path = computed.Occurrence.Prefix + computed.Row.Id;
        if (domain.Kind == DomainKind.Number)
            return new(path, display, computed.Row, domain.MayHaveValue ? Number(domain) : null, null);
        Value? value = !domain.IsPoint || !domain.MayHaveValue ? null
            : domain.Kind == DomainKind.YesNo ? Value.Of(domain.Outcomes == Outcomes.True)
            : Value.Choice(Model.Index.Lists[computed.Type.ListId!].Values[BitSet.First(domain.Bits!)].Id);
        return new(path, display, computed.Row, null, value);
    }

    private static LineAnswer Line(Solver solver, CompiledLine line)
    {
        var truth = solver[line.Condition].Outcomes;
        var state = truth == Outcomes.True ? LineState.In : (truth & Outcomes.True) == 0 ? LineState.Out : LineState.Open;
        return new(line.Occurrence.Prefix + line.Row.Id, line.Occurrence.Prefix, line.Row, state,
            line.Numbers.ToImmutableSortedDictionary(n => n.Key, n => Number(solver[n.Value])));
    }

    /// <summary>No configuration at all: everything in clash with the rules themselves.</summary>
    private Answer Impossible(Question question)
    {
        var reason = Explain([], [[]], CancellationToken.None);
        return new()
        {
            Valid = false,
            Attributes = [],
            Missing = [],
            Advice = [],
            Computed = [],
            Lines = [],
            Exact = true,
            Standing = [.. question.Picks],
            Clashes = reason is null ? [] : [new([], reason.Causes)],
        };
    }

    // ---- Why ----------------------------------------------------------------------------------------------------

    public Reason? WhyNot(Question question, string path, Value? value, CancellationToken cancel)
    {
        if (!_variables.TryGetValue(path, out var variable))
            return null;
        var initial = _network.Initial[variable.Node];
        var target = value is { } wanted ? Having(variable, wanted) : initial with { Outcomes = initial.Outcomes & ~Outcomes.Absent };
        if (target is not { } domain)
            return new([], []);
        return Explain([.. Standing(question, cancel).Where(p => p.Path != path || value is null)], [[(variable.Node, domain)]], cancel);
    }

    public Reason? WhyFollows(Question question, string path, Value value, CancellationToken cancel)
    {
        if (!_variables.TryGetValue(path, out var variable) || Having(variable, value) is not { } domain)
            return null;
        return Explain([.. Standing(question, cancel).Where(p => p.Path != path)], [.. Others(variable, domain).Select(d => new[] { (variable.Node, d) })], cancel);
    }

    /// <summary>The attribute's other values, as domains.</summary>
    private IEnumerable<Domain> Others(Variable variable, Domain value)
    {
        var initial = _network.Initial[variable.Node];
        var outcomes = initial.Outcomes & ~Outcomes.Absent;
        if ((outcomes & ~value.Outcomes & ~Outcomes.Present) is var rest and not Outcomes.Impossible)
            yield return initial with { Outcomes = rest };
        if ((outcomes & Outcomes.Present) == 0)
            yield break;
        if (value.Outcomes != Outcomes.Present)
            yield return initial with { Outcomes = Outcomes.Present };
        else if (initial.Kind == DomainKind.Choice)
        {
            ulong[] others = [.. initial.Bits!.Zip(value.Bits!, (all, one) => all & ~one)];
            if (BitSet.Count(others) > 0)
                yield return Domain.Choice(others);
        }
        else
        {
            if (value.Low > initial.Low)
                yield return Domain.Number(initial.Low, value.Low!.Value - variable.Step);
            if (value.Low < initial.High)
                yield return Domain.Number(value.Low!.Value + variable.Step, initial.High);
        }
    }

    /// <summary>The picks that can stand together, taken in order.</summary>
    private List<Pick> Standing(Question question, CancellationToken cancel)
    {
        if (_start is null)
            return [];
        var solver = NewSolver(cancel);
        if (Try(solver, Contained(question.Picks)) is not null)
            return [.. Known(question.Picks).Select(k => k.Pick)];
        var standing = new List<Pick>();
        foreach (var (_, pick) in Known(question.Picks))
            if (Try(solver, Contained(standing.Append(pick))) is not null)
                standing.Add(pick);
        return standing;
    }

    /// <summary>
    /// A minimal set of picks and groups under which none of the cases is possible, by QuickXplain (Junker, “QuickXplain:
    /// preferred explanations and relaxations for over-constrained problems”, 2004); null where some case is possible.
    /// </summary>
    private Reason? Explain(ImmutableArray<Pick> picks, IReadOnlyList<(int Node, Domain To)[]> cases, CancellationToken cancel)
    {
        // Items 0 … p−1 are picks, the rest are groups.
        var known = Known(picks).ToList();
        var items = Enumerable.Range(0, known.Count + _network.Groups.Length).ToList();
        try
        {
            if (!Refuted(items))
                return null;
            var core = Refuted([]) ? [] : QuickXplain([], false, items);
            return new([.. core.Where(i => i < known.Count).Order().Select(i => known[i].Pick)],
                [.. core.Where(i => i >= known.Count).Order().Select(i => _network.Groups[i - known.Count]).Select(g => new Cause(g.Kind, g.Row.Id, g.Field, g.Occurrence.Prefix))]);
        }
        catch (SearchInterrupted)
        {
            return null;
        }

        bool Refuted(IReadOnlyCollection<int> subset)
        {
            var active = new bool[_network.Groups.Length];
            foreach (var item in subset)
                if (item >= known.Count)
                    active[item - known.Count] = true;
            var solver = new Solver(_network, active, cancel);
            if (!solver.Start())
                return true;
            var contained = subset.Where(i => i < known.Count).Select(i => (known[i].Variable.Node, Containing(known[i].Variable, known[i].Pick.Value))).ToList();
            return cases.All(c => Try(solver, contained.Concat(c)) is null);
        }

        List<int> QuickXplain(List<int> background, bool changed, List<int> candidates)
        {
            if (changed && Refuted(background))
                return [];
            if (candidates.Count == 1)
                return candidates;
            var (first, second) = (candidates[..(candidates.Count / 2)], candidates[(candidates.Count / 2)..]);
            var fromSecond = QuickXplain([.. background, .. first], first.Count > 0, second);
            var fromFirst = QuickXplain([.. background, .. fromSecond], fromSecond.Count > 0, first);
            return [.. fromFirst, .. fromSecond];
        }
    }

    // ---- Ways out -----------------------------------------------------------------------------------------------

    /// <summary>
    /// Minimal sets of picks to give up, as minimal hitting sets of the conflicts met so far (Reiter, “A theory of diagnosis
    /// from first principles”, 1987): the smallest candidate is tried; it stands, or shows one more conflict.
    /// </summary>
    public ImmutableArray<WayOut> WaysOut(Question question, Pick? wanted, CancellationToken cancel)
    {
        if (_start is null)
            return [];
        var target = new List<(int, Domain)>();
        if (wanted is { } wish)
        {
            if (!_variables.TryGetValue(wish.Path, out var variable) || Having(variable, wish.Value) is not { } having)
                return [];
            target.Add((variable.Node, having));
        }
        var picks = Known(question.Picks).Where(k => k.Pick.Path != wanted?.Path).ToList();
        var solver = NewSolver(cancel);
        var conflicts = new List<HashSet<int>>();
        var found = new List<HashSet<int>>();
        var result = ImmutableArray.CreateBuilder<WayOut>();
        try
        {
            for (var size = 0; size <= picks.Count && result.Count < MostWaysOut; size++)
                while (result.Count < MostWaysOut && Candidate(conflicts, found, size) is { } dropped)
                {
                    var kept = picks.Where((_, i) => !dropped.Contains(i)).Select(k => k.Pick).ToImmutableArray();
                    if (Try(solver, Contained(kept).Concat(target)) is { } solution)
                    {
                        found.Add(dropped);
                        if (dropped.Count == 0)
                            return [];
                        result.Add(new([.. dropped.Order().Select(i => new Change(picks[i].Pick,
                            solution[picks[i].Variable.Index].Outcome == Outcomes.Absent ? null : ToValue(picks[i].Variable, solution[picks[i].Variable.Index])))]));
                    }
                    else
                    {
                        var conflict = MinimalConflict(solver, picks, dropped, target);
                        if (conflict.Count == 0)
                            return [];
                        conflicts.Add(conflict);
                    }
                }
        }
        catch (SearchInterrupted)
        {
            // What was verified stands; the rest was not reached.
        }
        return result.ToImmutable();
    }

    /// <summary>A hitting set of the given size that no known way out is part of; the latest picks first.</summary>
    private static HashSet<int>? Candidate(List<HashSet<int>> conflicts, List<HashSet<int>> found, int size)
    {
        int[] members = [.. conflicts.SelectMany(c => c).Distinct().OrderDescending()];
        return Extend([], 0);

        HashSet<int>? Extend(List<int> chosen, int from)
        {
            if (found.Any(f => f.IsSubsetOf(chosen)))
                return null;
            if (chosen.Count == size)
                return conflicts.All(c => c.Overlaps(chosen)) ? [.. chosen] : null;
            for (var i = from; i < members.Length; i++)
            {
                chosen.Add(members[i]);
                if (Extend(chosen, i + 1) is { } hit)
                    return hit;
                chosen.RemoveAt(chosen.Count - 1);
            }
            return null;
        }
    }

    private HashSet<int> MinimalConflict(Solver solver, List<(Variable Variable, Pick Pick)> picks, HashSet<int> dropped, List<(int, Domain)> target)
    {
        var conflict = Enumerable.Range(0, picks.Count).Where(i => !dropped.Contains(i)).ToList();
        foreach (var i in conflict.ToList())
        {
            var without = conflict.Where(x => x != i).ToList();
            if (Try(solver, Contained(without.Select(x => picks[x].Pick)).Concat(target)) is null)
                conflict = without;
        }
        return [.. conflict];
    }

    public ImmutableArray<Pick>? Complete(Answer answer, CancellationToken cancel)
    {
        if (!answer.Valid || _start is null)
            return null;
        try
        {
            var solution = Try(NewSolver(cancel), Contained(answer.Standing));
            return solution is null ? null : [.. _network.Variables.Where(v => solution[v.Index].Outcome != Outcomes.Absent).Select(v => new Pick(v.Path, ToValue(v, solution[v.Index]))),
                .. answer.Attributes.Where(a => a.Row.Type == AttributeType.Text && a.Value is not null && a.Applies != Applicability.Never).Select(a => new Pick(a.Path, a.Value!.Value))];
        }
        catch (SearchInterrupted)
        {
            return null;
        }
    }
}
