using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Measures;

/// <summary>
/// Which features are in every configuration, in some or in none, and which imply or exclude one another. Where a pick makes its attribute apply, its
/// answer says all of it; where the pick may rest, configurations that were found answer most, and what none of them refutes is searched for.
/// </summary>
internal sealed class FeatureRelations
{
    /// <param name="In">What the attribute may be where the feature is there.</param>
    /// <param name="Out">The same where it is not.</param>
    private sealed record Asked(Feature Feature, Variable Variable, VariableDomain In, VariableDomain Out);

    private readonly Reasoner _reasoner;
    private readonly Question _question;
    private readonly CancellationToken _cancel;
    private readonly List<(Variable, VariableDomain)> _picks;
    private readonly List<Asked> _asked;
    private readonly List<Assigned[]> _found = [];
    private readonly SearchSession? _session;

    /// <param name="question">Only configurations with these picks count.</param>
    public FeatureRelations(Reasoner reasoner, Question question, CancellationToken cancel)
    {
        (_reasoner, _question, _cancel) = (reasoner, question with { WithAlternatives = false }, cancel);
        var prepared = reasoner.Prepared;
        _picks = [.. prepared.Containing(question.Picks)];
        _asked = [.. prepared.Network.Variables.SelectMany(Features)];
        try
        {
            _session = prepared.Start is null ? null : prepared.Searches.New(cancel);
        }
        catch (SearchInterrupted)
        {
            IsFinished = false;
        }
    }

    public bool IsFinished { get; private set; } = true;

    private static IEnumerable<Asked> Features(Variable variable)
    {
        var initial = variable.Initial;
        if (initial.Kind == DomainKind.YesNo)
            foreach (var (value, outcome) in new[] { (true, Outcomes.True), (false, Outcomes.False) })
                yield return new(new(variable.Path, Value.Of(value)), variable, initial.Only(outcome), initial.Only(initial.Outcomes & ~outcome));
        else if (variable.List is { } list)
            foreach (var at in BitSet.Members(initial.Bits!))
            {
                var rest = (ulong[])initial.Bits!.Clone();
                BitSet.Clear(rest, at);
                var others = BitSet.Any(rest) ? initial with { Bits = rest } : initial.Only(initial.Outcomes & ~Outcomes.Present);
                yield return new(new(variable.Path, Value.Choice(list.Values[at].Id)), variable, initial.Value(at), others);
            }
    }

    /// <summary>All features in the order of the attributes, not counted.</summary>
    public ImmutableArray<FeatureMeasure> Measured()
    {
        var measured = ImmutableArray.CreateBuilder<FeatureMeasure>();
        try
        {
            if (_session is null || !Is(_picks))
                return [];
            var beside = AvailableBeside(_question);
            var presence = _asked.ToDictionary(a => a, a => beside is null ? PresenceOf(a) : PresenceIn(beside, a.Feature));
            // What each is in is told of all, before it is found out of each what goes with it.
            measured.AddRange(_asked.Select(a => new FeatureMeasure(a.Feature, presence[a], null, [], [])));
            var (variant, possible) = (_asked.Where(a => presence[a] == FeaturePresence.Variant).ToList(),
                _asked.Where(a => presence[a] != FeaturePresence.Dead).ToList());
            for (var i = 0; i < _asked.Count; i++)
                if (presence[_asked[i]] == FeaturePresence.Variant)
                    measured[i] = Related(_asked[i], variant, possible, beside);
        }
        catch (SearchInterrupted)
        {
            IsFinished = false;
        }
        return measured.ToImmutable();
    }

    private FeatureMeasure Related(Asked one, List<Asked> variant, List<Asked> possible, Dictionary<string, Available>? beside)
    {
        var rests = beside is null || beside[one.Feature.Path].MayBeAbsent;
        var with = rests ? null : AvailableBeside(new([.. _question.Picks.Where(p => p.Path != one.Feature.Path), new(one.Feature.Path, one.Feature.Value)])
        {
            WithAlternatives = false,
        });
        bool IsImplied(Asked other) => with is null ? !Is(Both(one, other, other.Out)) : PresenceIn(with, other.Feature) == FeaturePresence.Core;
        bool IsExcluded(Asked other) => with is null ? !Is(Both(one, other, other.In)) : PresenceIn(with, other.Feature) == FeaturePresence.Dead;
        return new(one.Feature, FeaturePresence.Variant, null, [.. variant.Where(o => o != one && IsImplied(o)).Select(o => o.Feature)],
            [.. possible.Where(o => o != one && IsExcluded(o)).Select(o => o.Feature)]);
    }

    /// <summary>What can be had of each attribute; null where it is not known of all.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    private Dictionary<string, Available>? AvailableBeside(Question question)
    {
        var answer = _reasoner.Answer(question, _cancel);
        if (_cancel.IsCancellationRequested)
            throw new SearchInterrupted();
        return answer is { Exact: true, Valid: true } ? answer.Attributes.ToDictionary(a => a.Path, a => a.Available) : null;
    }

    private static FeaturePresence PresenceIn(Dictionary<string, Available> beside, Feature feature) => beside[feature.Path] is var at
        && !at.Has(feature.Value) ? FeaturePresence.Dead
        : at is { MayBeAbsent: false, Only: { } only } && only == feature.Value ? FeaturePresence.Core : FeaturePresence.Variant;

    private FeaturePresence PresenceOf(Asked one) => !Is([.. _picks, (one.Variable, one.In)]) ? FeaturePresence.Dead
        : Is([.. _picks, (one.Variable, one.Out)]) ? FeaturePresence.Variant : FeaturePresence.Core;

    /// <summary>One feature, and another one in or out; of one attribute in both at once.</summary>
    private List<(Variable, VariableDomain)> Both(Asked one, Asked other, VariableDomain domain) => one.Variable == other.Variable
        ? [.. _picks, (one.Variable, one.In.And(domain))] : [.. _picks, (one.Variable, one.In), (other.Variable, domain)];

    /// <summary>Whether there is a configuration of this kind.</summary>
    /// <exception cref="SearchInterrupted">Cancelled before it was known.</exception>
    private bool Is(List<(Variable Variable, VariableDomain Domain)> wanted)
    {
        if (wanted.Exists(w => w.Domain.Outcomes == Outcomes.Impossible))
            return false;
        if (_found.Exists(f => wanted.TrueForAll(w => w.Domain.Allows(f[w.Variable.Index]))))
            return true;
        if (_cancel.IsCancellationRequested)
            throw new SearchInterrupted();
        if (_session!.Try(wanted) is not { } found)
            return false;
        _found.Add([.. found]);
        return true;
    }
}
