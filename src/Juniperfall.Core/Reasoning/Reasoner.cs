using System.Collections.Concurrent;
using System.Collections.Immutable;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Answers questions by complete search over a propagated network. Each solution that is found marks all its values as
/// available, so that only the remaining ones are searched for.
/// </summary>
public sealed partial class Reasoner : IReasoner
{
    /// <summary>Up to this many members the exact set of an asked number is listed.</summary>
    public const int ListedMembers = 200;
    private const int MostWaysOut = 5;

    private readonly Network _network;
    private readonly Domain<DoubleEnd>[]? _start;
    private readonly Lazy<Domain<DoubleEnd>[]?> _startWithoutGroups;
    private readonly Lazy<Domain<ExactEnd>[]> _exactStart;

    /// <summary>Searches that are only copied, with all groups, and with groups that hold where they are assumed.</summary>
    private readonly Lazy<Search> _unasked, _unaskedOfGroups;
    private readonly ConcurrentBag<Search> _searches = [];
    private readonly Dictionary<string, Variable> _variables;
    private readonly string[] _displayPaths;

    /// <summary>By variable: what is tried first.</summary>
    private readonly Assigned?[] _suggestions;
    private readonly bool _isAnythingSuggested;

    /// <summary>What has to be answered where it applies, and may not apply.</summary>
    private readonly Variable[] _conditional;
    private readonly Memory _memory;
    private readonly Effectivity _at;

    /// <summary>The site and day that it answers for.</summary>
    public Effectivity At => _at;

    /// <param name="at">The site and day that it answers for.</param>
    /// <param name="previous">A reasoner over an earlier state of the model: its solutions that still hold save searches.</param>
    public Reasoner(BoundModel model, Effectivity at = default, Reasoner? previous = null)
    {
        _at = at;
        _network = NetworkBuilder.Build(model, at);
        _variables = _network.Variables.ToDictionary(v => v.Path);
        _memory = new(_network.Variables.Length);
        _lastAvailable = new LastAvailable?[_network.Variables.Length];
        _lastAnswers = new AttributeAnswer?[_network.Variables.Length];
        _suggestions = [.. _network.Variables.Select(Suggestion)];
        _isAnythingSuggested = SuggestedTogether(_ => false).Any();
        _displayPaths = [.. _network.Variables.Select(v => v.DisplayPath(Model.Index))];
        _start = Propagated(_network, _network.Rough, withGroups: true);
        _conditional = _start is { } start ? Array.FindAll(_network.Variables, v => v.IsRequired && (start[v.Node].Outcomes & Outcomes.Absent) != 0) : [];
        _startWithoutGroups = new(() => Propagated(_network, _network.Rough, withGroups: false));
        _unasked = new(() => new(_network, _start!, assumeGroups: false));
        _unaskedOfGroups = new(() => new(_network, _startWithoutGroups.Value!, assumeGroups: true));
        // Exact numbers may leave nothing where doubles still leave a tie; then there is no configuration, and search finds that.
        _exactStart = new(() => Propagated(_network, _network.Exactly, withGroups: true) ?? _network.Exactly.Initial);
        if (_start is not null && _network.IsDiscrete)
            _discrete = new(_network, _start);
        if (previous is not null && _start is not null)
            TakeOver(previous);
    }

    private const int MostTakenOver = 120;

    private void TakeOver(Reasoner previous)
    {
        var evaluator = new PointEvaluator(_network);
        foreach (var known in previous.KnownContaining([]).Take(MostTakenOver))
        {
            var wanted = new Assigned[_network.Variables.Length];
            foreach (var variable in _network.Variables)
                wanted[variable.Index] = previous._variables.TryGetValue(variable.Path, out var before) && Assignment(variable, ToValue(before, known[before.Index])) is { } value
                    && known[before.Index].Outcome != Outcomes.Absent ? value : Assigned.Absent;
            var solution = new Assigned[wanted.Length];
            if (evaluator.Evaluate(wanted, _suggestions, solution) == Verdict.Solution && _network.Variables.All(v => v.Initial.Allows(solution[v.Index])))
                Remember(solution);
        }
    }

    public BoundModel Model => _network.Model;

    /// <summary>The paths that are asked, in the author's order, texts included.</summary>
    public IEnumerable<string> AskedPaths => _network.Variables.Select(v => v.Path).Concat(_network.Texts.Select(t => t.Occurrence.Prefix + t.Row.Id));

    // ---- Picks as domains ---------------------------------------------------------------------------------------

    /// <summary>A value as an assignment; null where the attribute's domain has no such value.</summary>
    private static Assigned? Assignment(Variable variable, Value value)
    {
        Assigned? assigned = value.Kind switch
        {
            ValueKind.Nothing => new(Outcomes.None, 0),
            ValueKind.YesNo when variable.Initial.Kind == DomainKind.YesNo => new(value.IsTrue ? Outcomes.True : Outcomes.False, 0),
            ValueKind.Number when variable.Initial.Kind == DomainKind.Number => variable.StepOf(value.Number) is { } step ? new(Outcomes.Present, step) : null,
            ValueKind.Choice when variable.Initial.Kind == DomainKind.Choice => variable.IndexOf(value.Text!) is var index and >= 0 ? new(Outcomes.Present, index) : null,
            _ => null,
        };
        return assigned is { } found && variable.Initial.Allows(found) ? found : null;
    }

    /// <summary>Having exactly this value; null where the attribute's domain has no such value.</summary>
    private static VariableDomain? Having(Variable variable, Value value) => Assignment(variable, value) is { } assigned ? variable.Initial.Just(assigned) : null;

    /// <summary>A pick is contained where the attribute has the value or does not apply.</summary>
    internal static VariableDomain Containing(Variable variable, Value value) =>
        Having(variable, value) is { } having ? having with { Outcomes = having.Outcomes | Outcomes.Absent } : variable.Initial.Only(Outcomes.Absent);

    private static Value ToValue(Variable variable, in Assigned assigned) => assigned.Outcome switch
    {
        Outcomes.True => Value.Of(true),
        Outcomes.False => Value.Of(false),
        Outcomes.Present => variable.List is { } list ? Value.Choice(list.Values[(int)assigned.Index].Id) : Value.Of(variable.At(assigned.Index)),
        _ => Value.Nothing,
    };

    private IEnumerable<(Variable Variable, Pick Pick)> Known(IEnumerable<Pick> picks)
    {
        foreach (var pick in picks)
            if (_variables.TryGetValue(pick.Path, out var variable))
                yield return (variable, pick);
    }

    /// <summary>The domains after everything is imposed and propagated; null where that leaves nothing.</summary>
    private static Domain<T>[]? Propagated<T>(Network network, NetworkEnds<T> ends, bool withGroups) where T : struct, IEnd<T>
    {
        var propagation = new Propagation<T>(network, ends, ends.Initial, withGroups);
        return propagation.Start() ? propagation.Snapshot() : null;
    }

    /// <summary>
    /// Lends a search, which knows what it has learned from earlier questions; one that was interrupted is not taken back.
    /// </summary>
    private TResult Searching<TResult>(CancellationToken cancel, Func<Search, TResult> ask)
    {
        if (!_searches.TryTake(out var search))
            search = NewSearch(cancel);
        search.Cancel = cancel;
        search.Standing.Clear();
        PreferSuggestions(search);
        var result = ask(search);
        if (!search.IsSpent)
            _searches.Add(search);
        return result;
    }

    /// <summary>A search without history: what it finds first is the same each time.</summary>
    private Search NewSearch(CancellationToken cancel)
    {
        var search = _unasked.Value.Copy();
        search.Cancel = cancel;
        PreferSuggestions(search);
        return search;
    }

    /// <summary>The solutions that earlier questions have found.</summary>
    internal IEnumerable<Assigned[]> KnownSolutions => KnownContaining([]);

    /// <summary>Lets a search over a network of the same model try what is suggested first.</summary>
    internal void PreferSuggestions(Search search, Network network)
    {
        foreach (var variable in network.Variables)
            search.Preferred[variable.Index] = Suggestion(variable);
    }

    private void PreferSuggestions(Search search) => _suggestions.CopyTo(search.Preferred, 0);

    /// <summary>What is suggested; what need not be answered is left out where nothing speaks for it.</summary>
    private Assigned? Suggestion(Variable variable) =>
        (Suggested(variable) ?? (variable.IsRequired ? variable.Member is null ? null : Value.Of(false) : Value.Nothing)) is { } value ? Assignment(variable, value) : null;

    private static Value? Suggested(Variable variable) => variable.Member is { } member ? variable.Row.SuggestedMembers.Contains(member.Id) ? Value.Of(true) : null
        : variable.Row.Suggestion is not { Length: > 0 } text ? null : variable.Row.Type switch
        {
            AttributeType.YesNo => Value.Of(text == "yes"),
            AttributeType.Choice => Value.Choice(text),
            _ => Exact.TryParse(text, out var number) ? Value.Of(variable.Unit.ToBase(number)) : null,
        };

    private IEnumerable<(Variable, VariableDomain)> Contained(IEnumerable<Pick> picks) => Known(picks).Select(k => (k.Variable, Containing(k.Variable, k.Pick.Value)));

    // ---- The answer ---------------------------------------------------------------------------------------------

    public Answer Answer(Question question, CancellationToken cancel) =>
        _start is null ? Impossible(question, cancel) : Searching(cancel, search => Answer(question, search, cancel));

    private Answer Answer(Question question, Search search, CancellationToken cancel)
    {
        var picks = Known(question.Picks).GroupBy(k => k.Pick.Path).Select(g => g.Last()).OrderBy(k => question.Picks.IndexOf(k.Pick)).ToList();
        var exact = true;
        var clashing = new List<ImmutableArray<Pick>>();
        var standing = new List<(Variable Variable, Pick Pick)>();
        var skipped = new HashSet<string>();
        var availability = new Available?[_network.Variables.Length];
        var alternatives = new Dictionary<int, Available>();
        Assigned[]? witness = null;
        try
        {
            witness = KnownContaining(picks.Select(p => p.Pick)).FirstOrDefault() ?? search.Try(Contained(picks.Select(p => p.Pick)));
            if (witness is not null)
                standing.AddRange(picks);
            else
                foreach (var pick in picks)
                {
                    if (search.Try(Contained(standing.Select(s => s.Pick).Append(pick.Pick))) is { } found)
                    {
                        standing.Add(pick);
                        witness = found;
                        continue;
                    }
                    skipped.Add(pick.Pick.Path);
                    clashing.Add([.. standing.Select(s => s.Pick), pick.Pick]);
                }
            witness ??= search.Try([]);
            if (witness is null)
                return Impossible(question, cancel);
            Remember(witness);
            (availability, alternatives) = _discrete is { } discrete ? AllAvailable(discrete, search, standing, witness) : AllAvailable(search, standing);
        }
        catch (SearchInterrupted)
        {
            exact = false;
        }
        return Assemble(question, search, picks, standing, skipped, clashing, availability, alternatives, witness, exact);
    }

    private const int MostClashes = 200;

    /// <summary>By the picks that were looked at, in order: the reason found. What is picked after a clash leaves it as it is.</summary>
    private readonly ConcurrentDictionary<string, ClashAnswer> _clashes = [];

    private ClashAnswer Clash(ImmutableArray<Pick> picks, CancellationToken cancel)
    {
        var key = string.Join('\n', picks.Select(p => $"{p.Path} {p.Value.Kind} {p.Value}"));
        if (_clashes.TryGetValue(key, out var known))
            return known;
        var clash = NewClash(picks, cancel);
        if (_clashes.Count >= MostClashes)
            _clashes.Clear();
        if (clash.Finished)
            _clashes[key] = clash;
        return clash;
    }

    private ClashAnswer NewClash(ImmutableArray<Pick> picks, CancellationToken cancel)
    {
        var (reason, finished) = Finishing(() => Explain(picks, [[]], cancel));
        return reason is null ? new(picks, [], finished) : new(reason.Picks, reason.Causes);
    }

    private Answer Assemble(Question question, Search search, List<(Variable Variable, Pick Pick)> picks, List<(Variable Variable, Pick Pick)> standing,
        HashSet<string> skipped, List<ImmutableArray<Pick>> clashing, Available?[] availability, Dictionary<int, Available> alternatives, Assigned[]? witness, bool exact)
    {
        var empty = new Available([], false, null, null, true);
        // Of most variables there is none of these; values of thousands would be large arrays, and collected as such.
        var (picked, follows, suggested) = (new Dictionary<int, Value>(), new Dictionary<int, Value>(), new Dictionary<int, Value>());
        foreach (var (variable, pick) in picks)
            picked[variable.Index] = pick.Value;
        if (exact)
            foreach (var variable in _network.Variables)
                if (availability[variable.Index] is { Count: 1, Listed: true } only && !picked.ContainsKey(variable.Index))
                    follows[variable.Index] = only.None ? Value.Nothing : only.Values[0];
        var counted = new List<Pick>(standing.Count + follows.Count);
        counted.AddRange(standing.Select(s => s.Pick));
        counted.AddRange(follows.OrderBy(f => f.Key).Select(f => new Pick(_network.Variables[f.Key].Path, f.Value)));
        var suggesting = exact && _isAnythingSuggested ? SuggestedTogether(v => picked.ContainsKey(v.Index) || follows.ContainsKey(v.Index)).ToList() : [];
        // What may not apply may still have to be answered, where it is suggestions that make it apply.
        var conditional = exact ? Array.FindAll(_conditional, v => availability[v.Index] is { Count: > 0, MayBeAbsent: true } && !follows.ContainsKey(v.Index)) : [];
        var never = new HashSet<int>();
        try
        {
            if (suggesting.Count > 0 || conditional.Length > 0)
            {
                // From here on the search stands at all that counts.
                search.Standing.Clear();
                if (!search.Stand(Contained(counted)))
                    throw new InvalidOperationException("What follows cannot stand together.");
                counted.AddRange(Suggestions(search, suggesting, availability, witness!, suggested));
                never = NeverAbsent(search, conditional);
            }
        }
        catch (SearchInterrupted)
        {
            exact = false;
        }
        if (!exact)
        {
            follows.Clear();
            suggested.Clear();
        }
        var figures = new Lazy<Propagation<ExactEnd>>(() => Figures(counted, exact ? availability : []));
        var attributes = ImmutableArray.CreateBuilder<AttributeAnswer>(_network.Variables.Length + _network.Texts.Length);
        var missing = new List<string>(_network.Variables.Length);
        foreach (var variable in _network.Variables)
        {
            var available = availability[variable.Index] ?? empty;
            var applies = available.Count == 0 && exact ? Applicability.Never
                : exact && !available.MayBeAbsent ? Applicability.Always : Applicability.Maybe;
            var isPicked = picked.TryGetValue(variable.Index, out var value);
            var hasValue = isPicked || follows.TryGetValue(variable.Index, out value) || suggested.TryGetValue(variable.Index, out value);
            var state = isPicked && skipped.Contains(variable.Path) ? AttributeState.Clash
                : isPicked ? applies == Applicability.Never || (applies == Applicability.Maybe && figures.Value[variable.Node].Outcomes == Outcomes.Absent) ? AttributeState.Resting : AttributeState.Picked
                : applies == Applicability.Never ? AttributeState.Absent
                : !hasValue ? AttributeState.Open
                : follows.ContainsKey(variable.Index) ? AttributeState.Follows : AttributeState.Suggested;
            if (exact && state is AttributeState.Open or AttributeState.Clash && variable.IsRequired && (applies == Applicability.Always || never.Contains(variable.Index)))
                missing.Add(variable.Path);
            attributes.Add(AnswerOf(variable, state, applies, hasValue ? value : null, available, isPicked ? alternatives.GetValueOrDefault(variable.Index) : null));
        }
        foreach (var (occurrence, row) in _network.Texts)
            attributes.Add(TextAnswer(question, figures.Value, occurrence, row, missing));
        return new()
        {
            Valid = skipped.Count == 0 && exact,
            Attributes = attributes.MoveToImmutable(),
            // Last, so that all else is exact where there is no time left for reasons.
            Clashes = [.. clashing.Select(c => Clash(c, search.Cancel))],
            Missing = [.. missing],
            Advice = [.. _network.Advice.Where(a => figures.Value[a.Node].Outcomes == Outcomes.False).Select(a => new Cause(CauseKind.Rule, a.Row.Id, "", a.Occurrence.Prefix))],
            Computed = [.. _network.Computed.Select(c => Computed(figures.Value, c))],
            Lines = [.. _network.Lines.Select(l => Line(figures.Value, l))],
            Exact = exact,
            Standing = [.. counted, .. question.Picks.Where(pick => _network.Texts.Any(t => t.Occurrence.Prefix + t.Row.Id == pick.Path))],
        };
    }

    /// <summary>By variable, what the latest answer said: the next one mostly says the same.</summary>
    private readonly AttributeAnswer?[] _lastAnswers;

    private AttributeAnswer AnswerOf(Variable variable, AttributeState state, Applicability applies, Value? value, Available available, Available? alternatives)
    {
        if (_lastAnswers[variable.Index] is { } last && last.State == state && last.Applies == applies && ReferenceEquals(last.Available, available) && ReferenceEquals(last.Alternatives, alternatives) && last.Value == value)
            return last;
        return _lastAnswers[variable.Index] = new()
        {
            Path = variable.Path,
            DisplayPath = _displayPaths[variable.Index],
            Row = variable.Row,
            Member = variable.Member,
            State = state,
            Applies = applies,
            Value = value,
            Available = available,
            Alternatives = alternatives,
        };
    }

    /// <summary>
    /// The suggestions that can still be had, in the author's order, each together with the earlier ones; the search is
    /// narrowed to them.
    /// </summary>
    /// <param name="now">A configuration that contains what stands.</param>
    private List<Pick> Suggestions(Search search, List<(Variable Variable, Value Value)[]> suggesting, Available?[] availability, Assigned[] now, Dictionary<int, Value> suggested)
    {
        PreferSuggestions(search);
        var taken = new List<Pick>();
        // What the solution at hand has already is narrowed to at once, before the next search.
        var waiting = new List<(Variable Variable, VariableDomain To)>();
        foreach (var together in suggesting)
        {
            if (together.Any(s => availability[s.Variable.Index] is { Listed: true } available && !available.Has(s.Value)))
                continue;
            // The values themselves must be possible, not only the picks contained.
            if (!Array.TrueForAll(together, s => ToValue(s.Variable, now[s.Variable.Index]).Equals(s.Value)))
            {
                var having = together.Select(s => (s.Variable, To: Having(s.Variable, s.Value))).ToList();
                if (having.Any(h => h.To is null) || !Settle() || search.Try(having.Select(h => (h.Variable, h.To!.Value))) is not { } found)
                    continue;
                now = found;
            }
            foreach (var (variable, value) in together)
            {
                suggested[variable.Index] = value;
                taken.Add(new(variable.Path, value));
                waiting.Add((variable, Containing(variable, value)));
            }
        }
        Settle();
        return taken;

        bool Settle()
        {
            var stands = search.Stand(waiting);
            waiting.Clear();
            return stands;
        }
    }

    /// <summary>
    /// What is suggested, in the author's order. Of several choices the values that are suggested come one by one; the others
    /// are suggested to be left out, all of them or none: otherwise some would be chosen only because others were not.
    /// </summary>
    private IEnumerable<(Variable Variable, Value Value)[]> SuggestedTogether(Func<Variable, bool> isSettled)
    {
        for (var i = 0; i < _network.Variables.Length; i++)
        {
            var variable = _network.Variables[i];
            if (variable.Member is null)
            {
                if (!isSettled(variable) && Suggested(variable) is { } value)
                    yield return [(variable, value)];
                continue;
            }
            var members = _network.Variables.Skip(i).TakeWhile(v => v.Row == variable.Row && v.Occurrence == variable.Occurrence).ToList();
            foreach (var member in members.Where(m => !isSettled(m) && Suggested(m) is not null))
                yield return [(member, Value.Of(true))];
            if (members.Where(m => !isSettled(m) && Suggested(m) is null).ToArray() is { Length: > 0 } others)
                yield return [.. others.Select(m => (m, Value.Of(false)))];
            i += members.Count - 1;
        }
    }

    /// <summary>
    /// Everything that the values leave of the network, in exact numbers, by propagation of what is available and what counts:
    /// so it is the same whatever was asked before.
    /// </summary>
    private Propagation<ExactEnd> Figures(List<Pick> counted, Available?[] availability) =>
        Figures(_network, _exactStart.Value, counted, availability);

    private Propagation<ExactEnd> Figures(Network network, Domain<ExactEnd>[] start, IEnumerable<Pick> counted, Available?[] availability)
    {
        var figures = new Propagation<ExactEnd>(network, network.Exactly, start);
        foreach (var variable in network.Variables)
            if (variable.Index < availability.Length && availability[variable.Index] is { } available)
                figures.Restrict(variable, Hull(variable, available));
        foreach (var (variable, to) in Contained(counted))
            figures.Restrict(network.Variables[variable.Index], to);
        figures.Propagate();
        return figures;
    }

    /// <summary>The domain that holds what is available, and for numbers what lies between.</summary>
    private static VariableDomain Hull(Variable variable, Available available)
    {
        var hull = variable.Initial.Only((available.None ? Outcomes.None : 0) | (available.MayBeAbsent ? Outcomes.Absent : 0));
        if (available.Lowest is { } lowest)
            return hull with { Outcomes = hull.Outcomes | Outcomes.Present, First = variable.StepOf(lowest)!.Value, Last = variable.StepOf(available.Highest!.Value)!.Value };
        var bits = hull.Bits is null ? null : new ulong[hull.Bits.Length];
        foreach (var value in available.Values)
        {
            var assigned = Assignment(variable, value)!.Value;
            hull = hull with { Outcomes = hull.Outcomes | assigned.Outcome };
            if (bits is not null)
                BitSet.Set(bits, (int)assigned.Index);
        }
        return hull with { Bits = bits };
    }

    /// <summary>Those that apply in every configuration left to the search.</summary>
    private static HashSet<int> NeverAbsent(Search search, Variable[] variables)
    {
        if (variables.Length == 0)
            return [];
        var domains = search.Domains();
        return [.. variables.Where(v => (domains[v.Index].Outcomes & Outcomes.Absent) == 0 || search.Try([(v, v.Initial.Only(Outcomes.Absent))]) is null).Select(v => v.Index)];
    }

    private AttributeAnswer TextAnswer(Question question, Propagation<ExactEnd> figures, Occurrence occurrence, AttributeRow row, List<string> missing)
    {
        var path = occurrence.Prefix + row.Id;
        var truth = figures[_network.ConditionOfPath[path]].Outcomes;
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

    private static NumberAnswer Number(in Domain<ExactEnd> domain) => new(domain.Numbers.Low.Number, domain.Numbers.High.Number, !domain.MustHaveValue);

    private ComputedAnswer Computed(Propagation<ExactEnd> figures, CompiledComputed computed)
    {
        var domain = figures[computed.Node];
        var display = computed.Occurrence.DisplayPath(Model.Index, computed.Row.Id);
        var path = computed.Occurrence.Prefix + computed.Row.Id;
        if (domain.Kind == DomainKind.Number)
            return new(path, display, computed.Row, domain.MayHaveValue ? Number(domain) : null, null);
        Value? value = !domain.HasOneOutcome || !domain.MayHaveValue || (domain.Kind == DomainKind.Choice && BitSet.Count(domain.Bits!) > 1) ? null
            : domain.Kind == DomainKind.YesNo ? Value.Of(domain.Outcomes == Outcomes.True)
            : Value.Choice(Model.Index.Lists[computed.Type.ListId!].Values[BitSet.First(domain.Bits!)].Id);
        return new(path, display, computed.Row, null, value);
    }

    private static LineAnswer Line(Propagation<ExactEnd> figures, CompiledLine line)
    {
        var truth = figures[line.Condition].Outcomes;
        var state = truth == Outcomes.True ? LineState.In : (truth & Outcomes.True) == 0 ? LineState.Out : LineState.Open;
        return new(line.Occurrence.Prefix + line.Row.Id, line.Occurrence.Prefix, line.Row, state,
            line.Numbers.ToImmutableSortedDictionary(n => n.Key, n => Number(figures[n.Value])));
    }

    /// <summary>No configuration at all: everything in clash with the rules themselves.</summary>
    private Answer Impossible(Question question, CancellationToken cancel)
    {
        var (reason, explained) = Finishing(() => Explain([], [[]], cancel));
        return new()
        {
            Valid = false,
            Attributes = [],
            Missing = [],
            Advice = [],
            Computed = [],
            Lines = [],
            Exact = explained,
            Standing = [.. question.Picks],
            Clashes = reason is null ? [] : [new([], reason.Causes)],
        };
    }

    /// <summary>The values of a solution, of everything that applies.</summary>
    internal ImmutableArray<Pick> PicksOf(Network network, Assigned[] solution) =>
        [.. network.Variables.Where(v => solution[v.Index].Outcome != Outcomes.Absent).Select(v => new Pick(v.Path, ToValue(v, solution[v.Index])))];

    public ImmutableArray<Pick>? Complete(Answer answer, CancellationToken cancel)
    {
        if (!answer.Valid || _start is null)
            return null;
        try
        {
            var solution = NewSearch(cancel).Try(Contained(answer.Standing));
            return solution is null ? null : [.. PicksOf(_network, solution),
                .. answer.Attributes.Where(a => a.Row.Type == AttributeType.Text && a.Value is not null && a.Applies != Applicability.Never).Select(a => new Pick(a.Path, a.Value!.Value))];
        }
        catch (SearchInterrupted)
        {
            return null;
        }
    }
}
