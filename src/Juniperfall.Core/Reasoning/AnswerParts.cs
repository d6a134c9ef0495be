using System.Collections.Immutable;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>What an answer is put together of, once it is known which values can be had: states, suggestions, what is still needed, figures and lines.</summary>
public sealed partial class Reasoner
{
    private Answer Assemble(Question question, Search search, List<(Variable Variable, Pick Pick)> picks, List<(Variable Variable, Pick Pick)> standing,
        HashSet<string> skipped, List<ImmutableArray<Pick>> clashing, Available?[] availability, Dictionary<int, Available> alternatives, Assigned[]? witness, bool? valid, bool exact)
    {
        var empty = new Available([], false, null, null, true);
        // Of most variables there is none of these; values of thousands would be large arrays, and collected as such.
        var (picked, suggested) = (new Dictionary<int, Value>(), new Dictionary<int, Value>());
        foreach (var (variable, pick) in picks)
            picked[variable.Index] = pick.Value;
        var following = Array.FindAll(_network.Variables, v => Following(v) is not null);
        var counted = ImmutableArray.CreateBuilder<Pick>(standing.Count + following.Length);
        foreach (var (_, pick) in standing)
            counted.Add(pick);
        foreach (var variable in following)
            counted.Add(new(variable.Path, availability[variable.Index]!.Only!.Value));
        var suggesting = exact && _isAnythingSuggested ? SuggestedTogether(v => picked.ContainsKey(v.Index) || Following(v) is not null).ToList() : [];
        // What may not apply may still have to be answered, where it is suggestions that make it apply.
        var conditional = exact ? Array.FindAll(_conditional, v => availability[v.Index] is { Count: > 0, MayBeAbsent: true } && Following(v) is null) : [];
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
            suggested.Clear();
            counted.Count = standing.Count;
        }
        var stands = counted.DrainToImmutable();
        var picksThatStand = standing.Select(s => s.Pick).ToImmutableArray();
        var outcome = new Lazy<(Outcome Open, Propagation<ExactEnd> AsSuggested)>(() =>
        {
            var figures = Figures(picksThatStand, exact ? availability : []);
            var open = OutcomeOf(figures);
            // Suggestions only narrow further, so that propagation goes on from there.
            Restrict(figures, _network, stands);
            return (open, figures);
        });
        var attributes = ImmutableArray.CreateBuilder<AttributeAnswer>(_network.Variables.Length + _network.Texts.Length);
        var missing = new List<string>(_network.Variables.Length);
        foreach (var variable in _network.Variables)
        {
            var available = availability[variable.Index] ?? empty;
            var applies = available.Count == 0 && exact ? Applicability.Never
                : exact && !available.MayBeAbsent ? Applicability.Always : Applicability.Maybe;
            var isPicked = picked.TryGetValue(variable.Index, out var value);
            Value? settled = isPicked ? value : Following(variable) ?? (suggested.TryGetValue(variable.Index, out value) ? value : null);
            var state = isPicked && skipped.Contains(variable.Path) ? AttributeState.Clash
                : isPicked ? applies == Applicability.Never || (applies == Applicability.Maybe && outcome.Value.AsSuggested[variable.Node].Outcomes == Outcomes.Absent) ? AttributeState.Resting : AttributeState.Picked
                : applies == Applicability.Never ? AttributeState.Absent
                : settled is null ? AttributeState.Open
                : available.Only is not null ? AttributeState.Follows : AttributeState.Suggested;
            if (exact && state is AttributeState.Open or AttributeState.Clash && variable.IsRequired && (applies == Applicability.Always || never.Contains(variable.Index)))
                missing.Add(variable.Path);
            attributes.Add(AnswerOf(variable, state, applies, settled, available, isPicked ? alternatives.GetValueOrDefault(variable.Index) : null));
        }
        foreach (var (occurrence, row) in _network.Texts)
            attributes.Add(TextAnswer(question, outcome.Value.AsSuggested, occurrence, row, missing));
        return new()
        {
            Valid = valid,
            Attributes = attributes.MoveToImmutable(),
            // Last, so that all else is exact where there is no time left for reasons.
            Clashes = [.. clashing.Select(c => Clash(c, search.Cancel))],
            Missing = [.. missing],
            Advice = [.. _network.Advice.Where(a => outcome.Value.AsSuggested[a.Node].Outcomes == Outcomes.False).Select(a => new Cause(CauseKind.Rule, a.Row.Id, "", a.Occurrence.Prefix))],
            Open = HasOutcome ? outcome.Value.Open : new([], []),
            AsSuggested = !HasOutcome ? new([], []) : suggested.Count == 0 ? outcome.Value.Open : OutcomeOf(outcome.Value.AsSuggested),
            Exact = exact,
            Standing = [.. stands, .. Texts()],
            StandingPicks = [.. picksThatStand, .. Texts()],
        };

        IEnumerable<Pick> Texts() => question.Picks.Where(pick => Array.Exists(_network.Texts, t => t.Occurrence.Prefix + t.Row.Id == pick.Path));

        // The one value that is left of what is not picked.
        Value? Following(Variable variable) => exact && !picked.ContainsKey(variable.Index) ? availability[variable.Index]?.Only : null;
    }

    /// <summary>By variable and state, what the latest answer said: the next one mostly says the same.</summary>
    private readonly AttributeAnswer?[,] _lastAnswers;

    private AttributeAnswer AnswerOf(Variable variable, AttributeState state, Applicability applies, Value? value, Available available, Available? alternatives)
    {
        ref var latest = ref _lastAnswers[variable.Index, (int)state];
        if (latest is { } last && last.Applies == applies && ReferenceEquals(last.Available, available) && ReferenceEquals(last.Alternatives, alternatives) && last.Value == value)
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
    private Propagation<ExactEnd> Figures(IEnumerable<Pick> counted, Available?[] availability) =>
        Figures(_network, _exactStart.Value, counted, availability);

    private Propagation<ExactEnd> Figures(Network network, Domain<ExactEnd>[] start, IEnumerable<Pick> counted, Available?[] availability)
    {
        var figures = new Propagation<ExactEnd>(network, network.Exactly, start);
        foreach (var variable in network.Variables)
            if (variable.Index < availability.Length && availability[variable.Index] is { } available)
                figures.Restrict(variable, Hull(variable, available));
        Restrict(figures, network, counted);
        return figures;
    }

    private void Restrict(Propagation<ExactEnd> figures, Network network, IEnumerable<Pick> counted)
    {
        foreach (var (variable, to) in Contained(counted))
            figures.Restrict(network.Variables[variable.Index], to);
        figures.Propagate();
    }

    /// <summary>Whether there is anything that is computed or a line at all.</summary>
    private bool HasOutcome => _network.Computed.Length > 0 || _network.Lines.Length > 0;

    private Outcome OutcomeOf(Propagation<ExactEnd> figures) => new([.. _network.Computed.Select(c => Computed(figures, c))], [.. _network.Lines.Select(l => Line(figures, l))]);

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
}
