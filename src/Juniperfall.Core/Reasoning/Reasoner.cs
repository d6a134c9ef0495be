using System.Collections.Concurrent;
using System.Collections.Immutable;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Evaluation;

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

    /// <summary>Copies of them that are not asked any more.</summary>
    private readonly ConcurrentBag<Search> _spent = [], _spentOfGroups = [];
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
    /// <exception cref="OperationCanceledException">Cancelled before it was built.</exception>
    public Reasoner(BoundModel model, Effectivity at = default, Reasoner? previous = null, CancellationToken cancel = default)
    {
        _at = at;
        _network = NetworkBuilder.Build(model, at, cancel: cancel);
        _variables = _network.Variables.ToDictionary(v => v.Path);
        _memory = new(_network.Variables.Length);
        _lastAvailable = new LastAvailable?[_network.Variables.Length * LastAvailables];
        _lastAnswers = new AttributeAnswer?[_network.Variables.Length, Enum.GetValues<AttributeState>().Length];
        _suggestions = [.. _network.Variables.Select(Suggestion)];
        _isAnythingSuggested = SuggestedTogether(_ => false).Any();
        _displayPaths = [.. _network.Variables.Select(v => v.DisplayPath(Model.Index))];
        _start = Propagated(_network, _network.Rough, withGroups: true, cancel);
        _conditional = _start is { } start ? Array.FindAll(_network.Variables, v => v.IsRequired && (start[v.Node].Outcomes & Outcomes.Absent) != 0) : [];
        _startWithoutGroups = new(() => Propagated(_network, _network.Rough, withGroups: false));
        _unasked = new(() => new(_network, _start!, GroupsHold.Always));
        _unaskedOfGroups = new(() => new(_network, _startWithoutGroups.Value!, GroupsHold.WhereAssumedOnly));
        // Exact numbers may leave nothing where doubles still leave a tie; then there is no configuration, and search finds that.
        _exactStart = new(() => Propagated(_network, _network.Exactly, withGroups: true) ?? _network.Exactly.Initial);
        if (_start is not null)
            _discrete = DiscreteNetwork.Of(_network, _start);
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
    private static Domain<T>[]? Propagated<T>(Network network, NetworkEnds<T> ends, bool withGroups, CancellationToken cancel = default) where T : struct, IEnd<T>
    {
        var propagation = new Propagation<T>(network, ends, ends.Initial, withGroups);
        return propagation.Start(cancel) ? propagation.Snapshot() : null;
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
        (search.IsSpent ? _spent : _searches).Add(search);
        return result;
    }

    /// <summary>A search without history: what it finds first is the same each time.</summary>
    private Search NewSearch(CancellationToken cancel)
    {
        var search = _unasked.Value.Copy(_spent.TryTake(out var spent) ? spent : null);
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
        var picks = Known(question.Picks).ToList();
        var exact = true;
        bool? valid = null;
        var clashing = new List<ImmutableArray<Pick>>();
        var standing = new List<(Variable Variable, Pick Pick)>();
        var skipped = new HashSet<string>();
        var availability = new Available?[_network.Variables.Length];
        var alternatives = new Dictionary<int, Available>();
        Assigned[]? witness = null;
        try
        {
            var known = LatestContaining(picks.Select(p => p.Pick));
            witness = known ?? search.Try(Contained(picks.Select(p => p.Pick)), InterchangeableInstances.Orders(_network, Wanted(picks.Select(p => p.Pick)), -1));
            valid = witness is not null;
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
            if (!ReferenceEquals(witness, known))
                Remember(witness);
            (availability, alternatives) = _discrete is { } discrete ? AllAvailable(discrete, search, standing, witness) : AllAvailable(search, standing);
        }
        catch (SearchInterrupted)
        {
            exact = false;
        }
        return Assemble(question, search, picks, standing, skipped, clashing, availability, alternatives, witness, valid, exact);
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
        // Whatever rules keep these picks apart, all of them are needed: less of them can stand together.
        var (reason, finished) = Finishing(() => Explain(MinimalConflict(picks, cancel), [[]], cancel));
        return reason is null ? new(picks, [], finished) : new(reason.Picks, reason.Causes);
    }

    private ImmutableArray<Pick> MinimalConflict(ImmutableArray<Pick> picks, CancellationToken cancel)
    {
        var search = NewSearch(cancel);
        try
        {
            var known = Known(picks).ToList();
            return [.. new PickConflicts(search, known, []).Minimal(Enumerable.Range(0, known.Count)).Order().Select(i => known[i].Pick)];
        }
        finally
        {
            _spent.Add(search);
        }
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
            Open = new([], []),
            AsSuggested = new([], []),
            Exact = explained,
            Standing = [],
            StandingPicks = [],
            Clashes = reason is null ? [] : [new([], reason.Causes)],
        };
    }

    /// <summary>The values of a solution, of everything that applies.</summary>
    internal ImmutableArray<Pick> PicksOf(Network network, Assigned[] solution) =>
        [.. network.Variables.Where(v => solution[v.Index].Outcome != Outcomes.Absent).Select(v => new Pick(v.Path, ToValue(v, solution[v.Index])))];

    public ImmutableArray<Pick>? Complete(Answer answer, CancellationToken cancel)
    {
        if (answer.Valid != true || _start is null)
            return null;
        var search = NewSearch(cancel);
        try
        {
            var solution = search.Try(Contained(answer.Standing));
            return solution is null ? null : [.. PicksOf(_network, solution),
                .. answer.Attributes.Where(a => a.Row.Type == AttributeType.Text && a.Value is not null && a.Applies != Applicability.Never).Select(a => new Pick(a.Path, a.Value!.Value))];
        }
        catch (SearchInterrupted)
        {
            return null;
        }
        finally
        {
            _spent.Add(search);
        }
    }
}
