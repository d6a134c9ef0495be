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

    /// <summary>Whether there is anything that is computed or a line at all.</summary>
    private readonly bool _hasOutcome = prepared.Network.Computed.Length > 0 || prepared.Network.Lines.Length > 0;

    /// <summary>What counts in an answer beside the picks.</summary>
    private sealed class Counted
    {
        public Dictionary<int, Value> Picked { get; } = [];
        public HashSet<string> Skipped { get; init; } = [];
        public Dictionary<int, Value> Suggested { get; } = [];

        /// <summary>What may not apply but does wherever all that counts does.</summary>
        public HashSet<int> NeverAbsent { get; set; } = [];
        public bool IsExact { get; set; }
        public ImmutableArray<Pick> Stands { get; set; } = [];
    }

    /// <param name="session">Null where time ran out before one was ready.</param>
    public Answer Build(Sight sight, SearchSession? session, CancellationToken cancel)
    {
        var counted = Count(sight, session);
        var picksThatStand = sight.Standing.Select(s => s.Pick).ToImmutableArray();
        var outcome = new Lazy<(Outcome Open, Figures AsSuggested)>(() =>
        {
            var figures = new Figures(prepared, prepared.Network, prepared.ExactStart(cancel), picksThatStand,
                counted.IsExact ? sight.Availability.All : [], cancel);
            var open = figures.Outcome();
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
            Clashes = [.. sight.Clashing.Select(c => reasons.Clash(c, cancel))],
            Missing = [.. missing],
            Advice = [.. prepared.Network.Advice.Where(a => outcome.Value.AsSuggested[a.Node].Outcomes == Outcomes.False)
                .Select(a => new Cause(CauseKind.Rule, a.Row.Id, "", a.Occurrence.Prefix))],
            Open = _hasOutcome ? outcome.Value.Open : new([], []),
            AsSuggested = !_hasOutcome ? new([], []) : counted.Suggested.Count == 0 ? outcome.Value.Open : outcome.Value.AsSuggested.Outcome(),
            Exact = counted.IsExact,
            Standing = [.. counted.Stands, .. texts],
            StandingPicks = [.. picksThatStand, .. texts],
        };
    }

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
        var following = Array.FindAll(prepared.Network.Variables, v => Following(v, sight, counted) is not null);
        var stands = sight.Standing.Select(s => s.Pick).Concat(following.Select(v => new Pick(v.Path, sight.Availability.All[v.Index]!.Only!.Value))).ToList();
        var suggesting = sight.IsExact && (prepared.Suggestions.Any || sight.Question.FillIns.Length > 0)
            ? prepared.Suggestions.Together(v => counted.Picked.ContainsKey(v.Index) || Following(v, sight, counted) is not null, sight.Question.FillIns)
                .ToList() : [];
        // What may not apply may still have to be answered, where it is suggestions that make it apply.
        var conditional = sight.IsExact
            ? Array.FindAll(_conditional, v =>
            sight.Availability.All[v.Index] is { Count: > 0, MayBeAbsent: true } && Following(v, sight, counted) is null) : [];
        try
        {
            if (session is not null && (suggesting.Count > 0 || conditional.Length > 0))
            {
                // From here on the search stands at all that counts.
                session.Standing.Clear();
                if (!session.Stand(prepared.Containing(stands)))
                    throw new InvalidOperationException("What follows cannot stand together.");
                stands.AddRange(Suggested(session, suggesting, sight.Availability.All, sight.Witness!, counted.Suggested));
                counted.NeverAbsent = NeverAbsent(session, conditional);
            }
        }
        catch (SearchInterrupted)
        {
            counted.IsExact = false;
        }
        if (!counted.IsExact)
        {
            counted.Suggested.Clear();
            stands = [.. sight.Standing.Select(s => s.Pick)];
        }
        counted.Stands = [.. stands];
        return counted;
    }

    /// <summary>The one value that is left of what is not picked.</summary>
    private static Value? Following(Variable variable, Sight sight, Counted counted) =>
        counted.IsExact && !counted.Picked.ContainsKey(variable.Index) ? sight.Availability.All[variable.Index]?.Only : null;

    private AttributeAnswer AttributeOf(Variable variable, Sight sight, Counted counted, Func<Figures> asSuggested, List<string> missing)
    {
        var available = sight.Availability.All[variable.Index] ?? Unknown;
        var applies = available.Count == 0 && counted.IsExact ? Applicability.Never
            : counted.IsExact && !available.MayBeAbsent ? Applicability.Always : Applicability.Maybe;
        var isPicked = counted.Picked.TryGetValue(variable.Index, out var value);
        Value? settled = isPicked ? value : Following(variable, sight, counted) ?? (counted.Suggested.TryGetValue(variable.Index, out value) ? value : null);
        var state = isPicked && counted.Skipped.Contains(variable.Path) ? AttributeState.Clash
            : isPicked ? applies == Applicability.Never
                || (applies == Applicability.Maybe && asSuggested()[variable.Node].Outcomes == Outcomes.Absent) ? AttributeState.Resting : AttributeState.Picked
            : applies == Applicability.Never ? AttributeState.Absent
            : settled is null ? AttributeState.Open
            : available.Only is not null ? AttributeState.Follows : AttributeState.Suggested;
        if (counted.IsExact && state is AttributeState.Open or AttributeState.Clash && variable.IsRequired
            && (applies == Applicability.Always || counted.NeverAbsent.Contains(variable.Index)))
            missing.Add(variable.Path);
        return AnswerOf(variable, state, applies, settled, available, isPicked ? sight.Availability.Alternatives.GetValueOrDefault(variable.Index) : null);
    }

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

    /// <summary>
    /// The suggestions that can still be had, in the author's order, each together with the earlier ones; the search is
    /// narrowed to them.
    /// </summary>
    /// <param name="now">A configuration that contains what stands.</param>
    private List<Pick> Suggested(SearchSession session, List<(Variable Variable, Value Value)[]> suggesting, Available?[] availability, Assigned[] now,
        Dictionary<int, Value> suggested)
    {
        prepared.Suggestions.Preferred.CopyTo(session.Search.Preferred, 0);
        var taken = new List<Pick>();
        // What the solution at hand has already is narrowed to at once, before the next search.
        var waiting = new List<(Variable Variable, VariableDomain To)>();
        foreach (var group in suggesting)
        {
            var together = Array.FindAll(group, s => !suggested.ContainsKey(s.Variable.Index));
            if (together.Length == 0 || together.Any(s => availability[s.Variable.Index] is { Listed: true } available && !available.Has(s.Value)))
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
                suggested[variable.Index] = value;
                taken.Add(new(variable.Path, value));
                waiting.Add((variable, PickDomains.Containing(variable, value)));
            }
        }
        Settle();
        return taken;

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
