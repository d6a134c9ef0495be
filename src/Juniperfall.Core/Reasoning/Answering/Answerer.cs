using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Explaining;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Answers a question: which picks stand, which clash, and what can be had of everything else.</summary>
internal sealed class Answerer(PreparedNetwork prepared, Reasons reasons)
{
    private readonly IAvailability _availability = prepared.Discrete is { } discrete
        ? new DiscreteAvailability(prepared, discrete) : new NumberAvailability(prepared);
    private readonly AnswerBuilder _builder = new(prepared, reasons);

    /// <summary>Everything the contract promises for a set of picks; what time did not allow for is not passed off as exact.</summary>
    /// <param name="watch">Told what is known until then, whenever that is more.</param>
    public Answer Answer(Question question, CancellationToken cancel, Action<Func<PartialAnswer>>? watch = null)
    {
        if (prepared.Start is null)
            return Impossible(cancel);
        try
        {
            return prepared.Searches.Warm(cancel, session => Answer(question, session, watch, cancel));
        }
        catch (SearchInterrupted)
        {
            // Not even a search was ready.
            return _builder.Build(SightOf(question), null, cancel);
        }
    }

    private Sight SightOf(Question question) => new()
    {
        Question = question,
        Picks = [.. prepared.OfVariables(question.Picks)],
        Availability = new(new Available?[prepared.Network.Variables.Length], []),
    };

    private Answer Answer(Question question, SearchSession session, Action<Func<PartialAnswer>>? watch, CancellationToken cancel)
    {
        var sight = SightOf(question);
        try
        {
            if (!Join(sight, session))
                return Impossible(cancel);
            if (!question.WithAvailability)
            {
                sight.IsExact = true;
                return _builder.Build(sight, session, cancel);
            }
            sight.Availability = sight.Picks.Count == 0 && prepared.Known.BesideNothing is { } known
                ? new([.. known], []) : _availability.Of(session, sight.Standing, sight.Witness!, sight.Question.WithAlternatives,
                    watch is null ? null : known => watch(() => _builder.Partial(sight, known())));
            sight.IsExact = true;
        }
        catch (SearchInterrupted)
        {
            // What is known until then is answered.
        }
        return _builder.Build(sight, session, cancel);
    }

    /// <summary>Finds the picks that can stand together, taken in order, and a configuration that contains them. False: nothing is possible at all.</summary>
    private bool Join(Sight sight, SearchSession session)
    {
        var picks = sight.Picks.Select(p => p.Pick).ToList();
        sight.Witness = Near(sight.Question) ?? WitnessOf(picks, session, isFirst: true);
        sight.Valid = sight.Witness is not null;
        if (sight.Witness is not null)
            sight.Standing.AddRange(sight.Picks);
        else
            foreach (var pick in sight.Picks)
                if (WitnessOf(sight.Standing.Select(s => s.Pick).Append(pick.Pick), session, isFirst: false) is { } found)
                {
                    sight.Standing.Add(pick);
                    sight.Witness = found;
                }
                else
                    sight.Clashing.Add([.. sight.Standing.Select(s => s.Pick), pick.Pick]);
        sight.Witness ??= WitnessOf([], session, isFirst: false);
        return sight.Witness is not null;
    }

    /// <summary>The configuration that the question takes for near, where it is one that contains the picks.</summary>
    private Assigned[]? Near(Question question)
    {
        if (question.Near.IsEmpty || prepared.Known.Near([.. question.Picks, .. question.Near]) is not { } near
            || !prepared.Wanted(question.Picks).TrueForAll(w => w.IsMetBy(near[w.Variable])))
            return null;
        return near;
    }

    /// <summary>A configuration that contains picks: of a diagram, a known one, or one that is searched for; null where there is none.</summary>
    /// <param name="isFirst">Whether instances that can change places may be put in order.</param>
    private Assigned[]? WitnessOf(IEnumerable<Pick> picks, SearchSession session, bool isFirst)
    {
        if (prepared is { Diagrams: { IsWhole: true } diagrams, Discrete: { } discrete })
            return prepared.Known.Slots(discrete, picks) is { } wanted && diagrams.Beside(wanted).Witness() is { } slots
                ? discrete.Slots.ToConfiguration(slots) : null;
        if (isFirst && prepared.Known.LatestContaining(picks) is { } known)
            return known;
        var found = session.Try(prepared.Containing(picks), isFirst ? InterchangeableInstances.Orders(prepared.Network, prepared.Wanted(picks), -1) : []);
        if (found is not null)
            prepared.Known.Add(found);
        return found;
    }

    /// <summary>No configuration at all: everything in clash with the rules themselves.</summary>
    private Answer Impossible(CancellationToken cancel)
    {
        var explained = Reasons.Finishing(() => reasons.Explain([], [[]], cancel));
        return new()
        {
            Valid = false,
            Attributes = [],
            Missing = [],
            Advice = [],
            Open = new([], []),
            AsSuggested = new([], []),
            Exact = explained.Finished,
            Standing = [],
            StandingPicks = [],
            Clashes = explained.Reason is null ? [] : [new([], explained.Reason.Causes)],
        };
    }

    /// <summary>What another network of the same signature has answered, with what is computed anew; null where the answer leaves something open.</summary>
    public Answer? Again(Answer known, CancellationToken cancel) => !known.Exact || prepared.Start is null || (known.Valid == true && known.Only is null) ? null
        : _builder.Again(known, cancel);

    /// <summary>Fills in everything that an answer leaves open, keeping what stands in it; null where its picks do not stand together.</summary>
    public ImmutableArray<Pick>? Complete(Answer answer, CancellationToken cancel)
    {
        if (answer.Valid != true || prepared.Start is null)
            return null;
        if (answer.Only is { } only)
            return [.. only, .. TextsOf(answer)];
        try
        {
            return prepared.Searches.Fresh<ImmutableArray<Pick>?>(cancel, session => session.Try(prepared.Containing(answer.Standing)) is { } solution
                ? [.. PickDomains.PicksOf(prepared.Network, solution), .. TextsOf(answer)] : null);
        }
        catch (SearchInterrupted)
        {
            return null;
        }
    }

    private static IEnumerable<Pick> TextsOf(Answer answer) =>
        answer.Attributes.Where(a => a.Row.Kind == AttributeKind.Text && a.Value is not null && a.Applies != Applicability.Never)
            .Select(a => new Pick(a.Path, a.Value!.Value));
}

/// <summary>What is found out for an answer before it is put together.</summary>
internal sealed class Sight
{
    public required Question Question { get; init; }

    /// <summary>The picks of variables.</summary>
    public required List<(Variable Variable, Pick Pick)> Picks { get; init; }

    /// <summary>Those that can stand together, taken in order.</summary>
    public List<(Variable Variable, Pick Pick)> Standing { get; } = [];

    /// <summary>For each of the others: those that stood when it was refused, and itself.</summary>
    public List<ImmutableArray<Pick>> Clashing { get; } = [];

    /// <summary>A configuration that contains what stands.</summary>
    public Assigned[]? Witness { get; set; }
    public bool? Valid { get; set; }
    public required Availabilities Availability { get; set; }

    /// <summary>Whether all of it was found out in time.</summary>
    public bool IsExact { get; set; }
}

/// <summary>What can be had beside picks that stand together.</summary>
/// <param name="All">By variable; null where it is not known.</param>
/// <param name="Alternatives">By picked variable: what it could be with the other picks kept.</param>
internal sealed record Availabilities(Available?[] All, Dictionary<int, Available> Alternatives);

/// <summary>Finds which values can be had, exactly.</summary>
internal interface IAvailability
{
    /// <param name="picks">Picks that stand together.</param>
    /// <param name="witness">A configuration that contains them.</param>
    /// <param name="alternatives">Whether each pick is to be asked for what else it could be.</param>
    /// <param name="watch">Told, whenever more is known, what tells what is known until then.</param>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    Availabilities Of(SearchSession session, IReadOnlyList<(Variable Variable, Pick Pick)> picks, Assigned[] witness, bool alternatives,
        Action<Func<PartialAvailabilities>>? watch);
}

/// <summary>What is known of a variable until now.</summary>
/// <param name="Known">What some configuration has.</param>
/// <param name="Undecided">The values, of numbers none, that some configuration may have; null where everything is known.</param>
internal readonly record struct PartialAvailable(Available Known, ImmutableArray<Value>? Undecided);

/// <summary>What is known until now of what can be had beside picks that stand together.</summary>
/// <param name="All">By variable.</param>
/// <param name="Alternatives">By picked variable: what it could be with the other picks kept.</param>
internal sealed record PartialAvailabilities(PartialAvailable[] All, Dictionary<int, PartialAvailable> Alternatives);
