using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Explaining;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Puts an answer together once it is known which values can be had: states, suggestions, what is still needed, figures and lines.</summary>
internal sealed class AnswerBuilder(PreparedNetwork prepared, Reasons reasons)
{
    private static readonly Available Unknown = new([], false, null, null, true);

    private readonly string[] _displayPaths = [.. prepared.Network.Variables.Select(v => v.DisplayPath(prepared.Model.Index))];

    /// <summary>What has to be answered where it applies, and may not apply.</summary>
    private readonly Variable[] _conditional = prepared.Start is { } start
        ? Array.FindAll(prepared.Network.Variables, v => v.IsRequired && (start[v.Node].Outcomes & Outcomes.Absent) != 0) : [];

    private readonly DecidedVariables _decided = new(prepared.Network);

    /// <summary>Whether there is anything that is computed or a line at all.</summary>
    private readonly bool _hasOutcome = prepared.Network.Computed.Length > 0 || prepared.Network.Lines.Length > 0;

    /// <summary>What counts in an answer beside the picks.</summary>
    private sealed class Counted
    {
        public Dictionary<int, Value> Picked { get; } = [];
        public HashSet<string> Skipped { get; init; } = [];
        public Dictionary<int, Value> Suggested { get; } = [];

        /// <summary>The one value that is left of what is not picked.</summary>
        public Dictionary<int, Value> Following { get; } = [];

        /// <summary>What may not apply but does wherever all that counts does.</summary>
        public HashSet<int> NeverAbsent { get; set; } = [];
        public bool IsExact { get; set; }
        public ImmutableArray<Pick> Stands { get; set; } = [];

        /// <summary>The configuration that stands, where nothing else is left open.</summary>
        public Assigned[]? Only { get; set; }

        /// <summary>Whether a value of it stands; a pick that clashes does not.</summary>
        public bool HasStandingValue(Variable variable) => IsSettled(variable) && !Skipped.Contains(variable.Path);

        public bool IsSettled(Variable variable) =>
            Picked.ContainsKey(variable.Index) || Following.ContainsKey(variable.Index) || Suggested.ContainsKey(variable.Index);
    }

    /// <param name="session">Null where time ran out before one was ready.</param>
    public Answer Build(Sight sight, SearchSession? session, CancellationToken cancel)
    {
        var counted = Count(sight, session);
        var isTold = sight.Question.WithAvailability;
        if (!isTold && sight is { Valid: not true, IsExact: true })
            return ClashesAlone(sight, cancel);
        var picksThatStand = sight.Standing.Select(s => s.Pick).ToImmutableArray();
        var outcome = new Lazy<(Outcome Open, Figures AsSuggested)>(() =>
        {
            var figures = new Figures(prepared, prepared.Network, prepared.ExactStart(cancel), picksThatStand,
                counted.IsExact && isTold ? sight.Availability.All : [], cancel);
            var open = isTold ? figures.Outcome() : new([], []);
            // Suggestions only narrow further, so that propagation goes on from there.
            figures.Restrict(counted.Stands);
            return (open, figures);
        });
        var attributes = ImmutableArray.CreateBuilder<AttributeAnswer>(prepared.Network.Variables.Length + prepared.Network.Texts.Length);
        var missing = new List<string>(prepared.Network.Variables.Length);
        foreach (var variable in prepared.Network.Variables)
            attributes.Add(AttributeOf(variable, sight, counted, () => outcome.Value.AsSuggested, missing));
        foreach (var (occurrence, row) in prepared.Network.Texts)
            attributes.Add(TextAnswer(sight.Question, outcome.Value.AsSuggested, occurrence, row, missing));
        var texts = sight.Question.Picks.Where(pick => Array.Exists(prepared.Network.Texts, t => t.Occurrence.Prefix + t.Row.Id == pick.Path)).ToList();
        return new()
        {
            Valid = sight.Valid,
            Attributes = attributes.MoveToImmutable(),
            // Last, so that all else is exact where there is no time left for reasons.
            Clashes = ClashesOf(sight, cancel),
            Missing = [.. missing],
            Advice = Broken(() => outcome.Value.AsSuggested),
            Open = _hasOutcome ? outcome.Value.Open : new([], []),
            AsSuggested = !_hasOutcome ? new([], []) : isTold && counted.Suggested.Count == 0 ? outcome.Value.Open : outcome.Value.AsSuggested.Outcome(),
            Exact = counted.IsExact,
            Standing = [.. counted.Stands, .. texts],
            StandingPicks = [.. picksThatStand, .. texts],
            Only = counted.Only is { } only ? [.. PickDomains.PicksOf(prepared.Network, only)] : null,
        };
    }

    private Answer ClashesAlone(Sight sight, CancellationToken cancel) => new()
    {
        Valid = sight.Valid,
        Attributes = [],
        Clashes = ClashesOf(sight, cancel),
        Missing = [],
        Advice = [],
        Open = new([], []),
        AsSuggested = new([], []),
        Exact = sight.IsExact,
        Standing = [],
        StandingPicks = [.. sight.Standing.Select(s => s.Pick)],
    };

    private ImmutableArray<ClashAnswer> ClashesOf(Sight sight, CancellationToken cancel) =>
        [.. sight.Clashing.Select(c => sight.Question.WithReasons ? reasons.Clash(c, cancel) : new(c, [], Finished: false))];

    /// <summary>An answer of a network that asks the same, with what is computed in this one.</summary>
    public Answer Again(Answer known, CancellationToken cancel)
    {
        var rows = prepared.Network.Variables.ToDictionary(v => v.Path, v => v.Row);
        foreach (var (occurrence, row) in prepared.Network.Texts)
            rows[occurrence.Prefix + row.Id] = row;
        var figures = new Lazy<Figures>(() => new(prepared, prepared.Network, prepared.ExactStart(cancel), known.Standing, [], cancel));
        return known with
        {
            Attributes = [.. known.Attributes.Select(a => a with { Row = rows[a.Path] })],
            AsSuggested = known.Valid == true && _hasOutcome ? figures.Value.Outcome() : new([], []),
            Advice = known.Valid == true ? Broken(() => figures.Value) : [],
            Exact = !cancel.IsCancellationRequested,
        };
    }

    /// <summary>The advice that is broken; figures are asked for only where there is any advice.</summary>
    private ImmutableArray<Cause> Broken(Func<Figures> figures) => [.. prepared.Network.Advice
        .Where(a => figures()[a.Node].Outcomes == Outcomes.False).Select(a => new Cause(CauseKind.Rule, a.Row.Id, "", a.Occurrence.Prefix))];

    /// <summary>What is known while the rest is worked out. Suggestions are not in it.</summary>
    public PartialAnswer Partial(Sight sight, PartialAvailabilities known)
    {
        var picked = sight.Picks.ToDictionary(p => p.Variable.Index, p => p.Pick.Value);
        HashSet<string> clashing = [.. sight.Clashing.Select(c => c[^1].Path)];
        return new(sight.Valid == true, [.. prepared.Network.Variables.Select(Of)]);

        AttributeAnswer Of(Variable variable)
        {
            var (all, undecided) = known.All[variable.Index];
            var isPicked = picked.TryGetValue(variable.Index, out var pick);
            var applies = undecided is not null ? Applicability.Maybe : all.Count == 0 ? Applicability.Never
                : all.MayBeAbsent ? Applicability.Maybe : Applicability.Always;
            var only = isPicked || undecided is not null ? null : all.Only;
            var others = isPicked && known.Alternatives.TryGetValue(variable.Index, out var found) ? found : new(all, undecided);
            return new()
            {
                Path = variable.Path,
                DisplayPath = _displayPaths[variable.Index],
                Row = variable.Row,
                Member = variable.Member,
                State = isPicked ? clashing.Contains(variable.Path) ? AttributeState.Clash
                    : applies == Applicability.Never ? AttributeState.Resting : AttributeState.Picked
                    : applies == Applicability.Never ? AttributeState.Absent : only is null ? AttributeState.Open : AttributeState.Follows,
                Applies = applies,
                Value = isPicked ? pick : only,
                Available = all,
                Alternatives = isPicked ? others.Known : null,
                Undecided = others.Undecided,
            };
        }
    }

    /// <summary>What counts: the picks that stand, what follows from them, and what is suggested beside them.</summary>
    private Counted Count(Sight sight, SearchSession? session)
    {
        var counted = new Counted { IsExact = sight.IsExact, Skipped = [.. sight.Clashing.Select(c => c[^1].Path)] };
        foreach (var (variable, pick) in sight.Picks)
            counted.Picked[variable.Index] = pick.Value;
        try
        {
            if (!sight.Question.WithAvailability)
            {
                if (sight.IsExact && session is not null)
                    CountBySearching(sight, session, counted);
            }
            else if (sight.IsExact)
                CountByAvailability(sight, session, counted);
        }
        catch (SearchInterrupted)
        {
            counted.IsExact = false;
        }
        if (!counted.IsExact)
        {
            counted.Suggested.Clear();
            counted.Following.Clear();
            counted.Stands = [.. sight.Standing.Select(s => s.Pick)];
        }
        return counted;
    }

    /// <summary>What follows is what has one value that can be had.</summary>
    private void CountByAvailability(Sight sight, SearchSession? session, Counted counted)
    {
        var all = sight.Availability.All;
        foreach (var variable in prepared.Network.Variables)
            if (!counted.Picked.ContainsKey(variable.Index) && all[variable.Index]?.Only is { } only)
                counted.Following[variable.Index] = only;
        var stands = sight.Standing.Select(s => s.Pick).ToList();
        stands.AddRange(counted.Following.Select(f => new Pick(prepared.Network.Variables[f.Key].Path, f.Value)));
        var suggesting = prepared.Suggestions.Any || sight.Question.FillIns.Length > 0
            ? prepared.Suggestions.Together(counted.IsSettled, sight.Question.FillIns).ToList() : [];
        // What may not apply may still have to be answered, where it is suggestions that make it apply.
        var conditional = Array.FindAll(_conditional, v =>
            all[v.Index] is { Count: > 0, MayBeAbsent: true } && !counted.Following.ContainsKey(v.Index));
        if (session is not null && (suggesting.Count > 0 || conditional.Length > 0))
        {
            session.Standing.Clear();
            stands.AddRange(Suggested(session, stands, suggesting, all, sight.Witness!, counted).Taken);
            if (conditional.Length > 0)
            {
                StandAt(session, stands);
                counted.NeverAbsent = NeverAbsent(session, conditional);
            }
        }
        counted.Stands = [.. stands];
    }

    /// <summary>
    /// The same without knowing what can be had. What follows from picks is in every configuration with them, so that suggestions come out the same
    /// when it is asked only of what they leave open.
    /// </summary>
    private void CountBySearching(Sight sight, SearchSession session, Counted counted)
    {
        var picks = sight.Standing.Select(s => s.Pick).ToList();
        var suggesting = prepared.Suggestions.Together(counted.IsSettled, sight.Question.FillIns).ToList();
        session.Standing.Clear();
        var (taken, now) = Suggested(session, picks, suggesting, new Available?[prepared.Network.Variables.Length], sight.Witness!, counted);
        var open = Array.FindAll(prepared.Network.Variables, v => !counted.IsSettled(v));
        var there = Array.FindAll(open, v => now[v.Index].Outcome != Outcomes.Absent);
        var wanted = prepared.Wanted(sight.Standing.Select(s => s.Pick));
        // Mostly another value can be had beside all else, which is seen without search.
        var unclear = Array.FindAll(there, v => !HasAnother(session, v, now, wanted));
        if (there.Length > 0)
            StandAt(session, sight.Standing.Select(s => s.Pick));
        Follow(unclear);
        // Where all that applies is settled nothing else can come to apply.
        if (Array.TrueForAll(there, v => counted.Following.ContainsKey(v.Index)))
            counted.Only = now;
        else
        {
            StandAt(session, Stands());
            counted.NeverAbsent = NeverAbsent(session, Array.FindAll(there, v => v.IsRequired && !counted.Following.ContainsKey(v.Index)));
            // Where something is missing nothing is built, and it makes no difference what follows where it does not apply.
            if (counted.NeverAbsent.Count == 0)
            {
                StandAt(session, sight.Standing.Select(s => s.Pick));
                Follow(Array.FindAll(open, v => now[v.Index].Outcome == Outcomes.Absent));
            }
        }
        counted.Stands = [.. Stands()];

        IEnumerable<Pick> Stands() => sight.Standing.Select(s => s.Pick)
            .Concat(counted.Following.Select(f => new Pick(prepared.Network.Variables[f.Key].Path, f.Value))).Concat(taken);

        void Follow(Variable[] variables)
        {
            foreach (var variable in variables)
                if (OnlyValue(session, variable, now[variable.Index]) is { } only)
                    counted.Following[variable.Index] = only;
        }
    }

    /// <summary>From here on the search stands at these picks.</summary>
    private void StandAt(SearchSession session, IEnumerable<Pick> picks)
    {
        session.Standing.Clear();
        if (!session.Stand(prepared.Containing(picks)))
            throw new InvalidOperationException("What follows cannot stand together.");
    }

    private const int MostTried = 6;

    /// <summary>Whether a configuration that contains picks has another value of a variable and else, as far as they apply, the same values.</summary>
    private static bool HasAnother(SearchSession session, Variable variable, Assigned[] now, List<Wanted> picks)
    {
        Assigned[] changed = [.. now];
        foreach (var other in Others(variable, now[variable.Index]).Take(MostTried))
        {
            changed[variable.Index] = other;
            if (session.Search.Configuration(changed, session.Search.Preferred) is { } found && found[variable.Index] == other
                && picks.TrueForAll(p => p.IsMetBy(found[p.Variable])))
                return true;
        }
        return false;
    }

    /// <summary>Values beside the one that a variable has, the nearest first.</summary>
    private static IEnumerable<Assigned> Others(Variable variable, Assigned now)
    {
        var domain = variable.Initial;
        foreach (var outcome in new[] { Outcomes.None, Outcomes.True, Outcomes.False })
            if (now.Outcome != outcome && (domain.Outcomes & outcome) != 0)
                yield return new(outcome, 0);
        if (!domain.MayBePresent)
            yield break;
        var (first, last) = domain.Kind == DomainKind.Number ? (domain.First, domain.Last) : (0, variable.List!.Values.Length - 1);
        for (var off = 1; off < MostTried; off++)
            foreach (var index in new[] { now.Index + off, now.Index - off })
                if (index >= first && index <= last && domain.Allows(new(Outcomes.Present, index)))
                    yield return new(Outcomes.Present, index);
    }

    /// <summary>The one value that a variable has in the configurations left to a session; null where it has others, or never applies.</summary>
    /// <param name="now">What it is in one of them.</param>
    private static Value? OnlyValue(SearchSession session, Variable variable, Assigned now)
    {
        var having = variable.Initial.Only(variable.Initial.Outcomes & ~Outcomes.Absent);
        if (now.Outcome == Outcomes.Absent)
        {
            if (having.Outcomes == Outcomes.Impossible || session.Try([(variable, having)]) is not { } found)
                return null;
            now = found[variable.Index];
        }
        return having.Without(now).All(others => session.Try([(variable, others)]) is null) ? PickDomains.ToValue(variable, now) : null;
    }

    private AttributeAnswer AttributeOf(Variable variable, Sight sight, Counted counted, Func<Figures> asSuggested, List<string> missing)
    {
        var available = sight.Availability.All[variable.Index] ?? Unknown;
        var applies = !sight.Question.WithAvailability ? AppliesAsSuggested(asSuggested()[variable.Node].Outcomes)
            : available.Count == 0 && counted.IsExact ? Applicability.Never
            : counted.IsExact && !available.MayBeAbsent ? Applicability.Always : Applicability.Maybe;
        var isPicked = counted.Picked.TryGetValue(variable.Index, out var value);
        var follows = !isPicked && counted.Following.TryGetValue(variable.Index, out value);
        Value? settled = isPicked || follows || counted.Suggested.TryGetValue(variable.Index, out value) ? value : null;
        var state = isPicked && counted.Skipped.Contains(variable.Path) ? AttributeState.Clash
            : isPicked ? applies == Applicability.Never
                || (applies == Applicability.Maybe && asSuggested()[variable.Node].Outcomes == Outcomes.Absent) ? AttributeState.Resting : AttributeState.Picked
            : applies == Applicability.Never ? AttributeState.Absent
            : settled is null ? AttributeState.Open
            : follows ? AttributeState.Follows : AttributeState.Suggested;
        if (counted.IsExact && state is AttributeState.Open or AttributeState.Clash && variable.IsRequired
            && (applies == Applicability.Always || counted.NeverAbsent.Contains(variable.Index)))
            missing.Add(variable.Path);
        return AnswerOf(variable, state, applies, settled, available, isPicked ? sight.Availability.Alternatives.GetValueOrDefault(variable.Index) : null);
    }

    private static Applicability AppliesAsSuggested(Outcomes outcomes) => outcomes == Outcomes.Absent ? Applicability.Never
        : (outcomes & Outcomes.Absent) == 0 ? Applicability.Always : Applicability.Maybe;

    /// <summary>By variable and state, what the latest answer said: the next one mostly says the same.</summary>
    private readonly AttributeAnswer?[,] _lastAnswers = new AttributeAnswer?[prepared.Network.Variables.Length, Enum.GetValues<AttributeState>().Length];

    private AttributeAnswer AnswerOf(Variable variable, AttributeState state, Applicability applies, Value? value, Available available, Available? alternatives)
    {
        ref var latest = ref _lastAnswers[variable.Index, (int)state];
        if (latest is { } last && last.Applies == applies && ReferenceEquals(last.Available, available) && ReferenceEquals(last.Alternatives, alternatives)
            && last.Value == value)
            return last;
        return latest = new()
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

    /// <summary>The suggestions that can still be had, in the author's order, each together with the earlier ones.</summary>
    /// <param name="standing">What stands before any suggestion; the search comes to stand at it only where there is something to search for.</param>
    /// <param name="witness">A configuration that contains what stands.</param>
    /// <returns>What is taken, and a configuration that contains it, too.</returns>
    private (List<Pick> Taken, Assigned[] Now) Suggested(SearchSession session, List<Pick> standing, List<(Variable Variable, Value Value)[]> suggesting,
        Available?[] availability, Assigned[] witness, Counted counted)
    {
        var now = witness;
        prepared.Suggestions.Preferred.CopyTo(session.Search.Preferred, 0);
        var taken = new List<Pick>();
        // What the solution at hand has already is narrowed to at once, before the next search.
        var waiting = prepared.Containing(standing).ToList();
        var decided = _decided.Beside(v => counted.HasStandingValue(prepared.Network.Variables[v]));
        foreach (var group in suggesting)
        {
            var together = Array.FindAll(group, s => !counted.Suggested.ContainsKey(s.Variable.Index));
            if (together.Length == 0 || together.Any(s => availability[s.Variable.Index] is { Listed: true } available && !available.Has(s.Value)
                || decided.IsAbsent(s.Variable.Index, now)))
                continue;
            // The values themselves must be possible, not only the picks contained.
            if (!Array.TrueForAll(together, s => PickDomains.ToValue(s.Variable, now[s.Variable.Index]).Equals(s.Value)))
            {
                var having = together.Select(s => (s.Variable, To: PickDomains.Having(s.Variable, s.Value))).ToList();
                if (having.Any(h => h.To is null) || !Settle() || session.Try(having.Select(h => (h.Variable, h.To!.Value))) is not { } found)
                    continue;
                now = found;
            }
            foreach (var (variable, value) in together)
            {
                counted.Suggested[variable.Index] = value;
                taken.Add(new(variable.Path, value));
                waiting.Add((variable, PickDomains.Containing(variable, value)));
            }
        }
        return (taken, now);

        bool Settle()
        {
            var stands = session.Stand(waiting);
            waiting.Clear();
            return stands;
        }
    }

    /// <summary>Those that apply in every configuration left to the session.</summary>
    private static HashSet<int> NeverAbsent(SearchSession session, Variable[] variables)
    {
        if (variables.Length == 0)
            return [];
        var domains = session.Domains();
        return [.. variables.Where(v => (domains[v.Index].Outcomes & Outcomes.Absent) == 0 || session.Try([(v, v.Initial.Only(Outcomes.Absent))]) is null)
            .Select(v => v.Index)];
    }

    private AttributeAnswer TextAnswer(Question question, Figures figures, Occurrence occurrence, AttributeRow row, List<string> missing)
    {
        var path = occurrence.Prefix + row.Id;
        var truth = figures[prepared.Network.ConditionOfPath[path]].Outcomes;
        var applies = truth == Outcomes.True ? Applicability.Always : (truth & Outcomes.True) == 0 ? Applicability.Never : Applicability.Maybe;
        Value? value = question.Picks.LastOrDefault(p => p.Path == path) is { Path: not null } pick ? pick.Value
            : question.FillIns.LastOrDefault(p => p.Path == path) is { Path: not null } filled ? filled.Value
            : row.Suggestion is { Length: > 0 } suggestion ? Value.OfText(suggestion) : null;
        var isPicked = question.Picks.Any(p => p.Path == path);
        if (value is null && row.Required && applies == Applicability.Always)
            missing.Add(path);
        return new()
        {
            Path = path,
            DisplayPath = occurrence.DisplayPath(prepared.Model.Index, row.Id),
            Row = row,
            Applies = applies,
            Value = value,
            State = applies == Applicability.Never ? isPicked ? AttributeState.Resting : AttributeState.Absent
                : isPicked ? AttributeState.Picked : value is not null ? AttributeState.Suggested : AttributeState.Open,
            Available = new([], !row.Required, null, null, false),
        };
    }
}
