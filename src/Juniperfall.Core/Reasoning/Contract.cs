using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>A person's answer: a path and a value in base units; <see cref="Value.Nothing"/> is the answer "none".</summary>
public readonly record struct Pick(string Path, Value Value);

/// <summary>What is asked of a model: picks in the order they were made, of each attribute at most one.</summary>
public sealed record Question(ImmutableArray<Pick> Picks)
{
    /// <exception cref="ArgumentException">Two picks are of one attribute.</exception>
    public ImmutableArray<Pick> Picks { get; } = Repeated(Picks) is { } again
        ? throw new ArgumentException($"Pick {again} is of an attribute that is picked already.", nameof(Picks)) : Picks;

    /// <summary>
    /// What was filled in, by suggestions or for the best of a number: suggested before what the author suggests, and like that it yields to every
    /// pick and makes nothing unavailable.
    /// </summary>
    public ImmutableArray<Pick> FillIns { get; init; } = [];

    /// <summary>Whether it is told what each picked attribute could be with the other picks kept: as much work again for each pick.</summary>
    public bool WithAlternatives { get; init; } = true;

    /// <summary>
    /// Whether it is told what can be had: most of the work of an answer. Without it everything else is answered as exactly where the picks stand
    /// together, and otherwise the clashes; but nothing stands in <see cref="AttributeAnswer.Available"/>, and of the two outcomes only the one as
    /// suggested.
    /// </summary>
    public bool WithAvailability { get; init; } = true;

    /// <summary>
    /// Whether it is told why picks cannot join the earlier ones. Without it a clash is all that stood and the one that cannot join them, not finished.
    /// </summary>
    public bool WithReasons { get; init; } = true;

    /// <summary>A configuration that may be near what comes out, such as what came out of an earlier state of the model. It only saves searches.</summary>
    public ImmutableArray<Pick> Near { get; init; } = [];

    /// <summary>The place of the first pick of an attribute that is picked already; null where there is none.</summary>
    public static int? Repeated(IEnumerable<Pick> picks)
    {
        var seen = new HashSet<string>();
        foreach (var (pick, i) in picks.Select((p, i) => (p, i)))
            if (!seen.Add(pick.Path))
                return i;
        return null;
    }
}

public enum AttributeState { Picked, Follows, Suggested, Open, Clash, Resting, Absent }

/// <summary>Whether an attribute applies in every, some or no complete configuration with the present picks.</summary>
public enum Applicability { Always, Maybe, Never }

/// <summary>
/// Exactly the values that some complete configuration with the present picks has. For numbers <see cref="Values"/> is
/// complete only where <see cref="Listed"/>; lowest and highest are always exact.
/// </summary>
public sealed record Available(ImmutableArray<Value> Values, bool None, Exact? Lowest, Exact? Highest, bool Listed)
{
    /// <summary>Up to this many members the exact set of an asked number is listed.</summary>
    public const int MostListed = 200;

    public int Count => Values.Length + (None ? 1 : 0);
    /// <summary>Whether the attribute does not apply in some complete configuration with the present picks.</summary>
    public bool MayBeAbsent { get; init; }

    /// <summary>The one that is left; null where there are others, or none.</summary>
    public Value? Only => Count != 1 || !Listed ? null : None ? Value.Nothing : Values[0];

    public bool Has(Value value) => value.IsNothing ? None : Values.Contains(value);
}

public sealed record AttributeAnswer
{
    public required string Path { get; init; }
    public required string DisplayPath { get; init; }
    public required AttributeRow Row { get; init; }

    /// <summary>For one value of several choices: the value, which is answered by yes or no.</summary>
    public ListValue? Member { get; init; }
    public required AttributeState State { get; init; }
    public required Applicability Applies { get; init; }

    /// <summary>The value picked, following or suggested; null where there is none.</summary>
    public Value? Value { get; init; }
    public required Available Available { get; init; }

    /// <summary>For a picked attribute: what it could be with all other picks kept.</summary>
    public Available? Alternatives { get; init; }

    /// <summary>
    /// In a <see cref="PartialAnswer"/>: the values, of numbers none, of which it is not known yet whether they can be had. Null where
    /// everything of the attribute is known.
    /// </summary>
    public ImmutableArray<Value>? Undecided { get; init; }
}

/// <summary>
/// What is known of an answer while the rest of it is worked out: what is available in it was found in some configuration, what is neither
/// available nor undecided is proven to be ruled out. Texts are not in it.
/// </summary>
/// <param name="Valid">Whether some complete configuration contains all picks.</param>
public sealed record PartialAnswer(bool Valid, ImmutableArray<AttributeAnswer> Attributes);

/// <summary>
/// A pick that cannot join the earlier ones: a set of picks from which none can be left out, judged against the whole model, and a
/// smallest set of rules that keeps them apart. Where time ran out before that was found, all picks that stand and the one that
/// cannot join them, without rules.
/// </summary>
public sealed record ClashAnswer(ImmutableArray<Pick> Picks, ImmutableArray<Cause> Causes, bool Finished = true);

/// <summary>What can be part of a reason besides picks: a rule, a condition or an inner bound, of one occurrence.</summary>
public enum CauseKind { Rule, Condition, Bound }

/// <summary>A rule, condition or inner bound that takes part in a reason.</summary>
public sealed record Cause(CauseKind Kind, string RowId, string Field, string Prefix);

/// <summary>A computed value or a line's number: exact where it is determined, otherwise bounds that are never too narrow.</summary>
public sealed record NumberAnswer(Exact? Low, Exact? High, bool MayHaveNoValue)
{
    public bool IsFinal => !MayHaveNoValue && Low is not null && Low == High;
}

public sealed record ComputedAnswer(string Path, string DisplayPath, ComputedAttribute Row, NumberAnswer? Number, Value? Value);

public enum LineState { In, Out, Open }

public sealed record LineAnswer(string Path, string Prefix, Row Row, LineState State, ImmutableSortedDictionary<string, NumberAnswer> Numbers);

/// <summary>Computed values and lines: final where they are determined, otherwise with bounds that are never too narrow.</summary>
public sealed record Outcome(ImmutableArray<ComputedAnswer> Computed, ImmutableArray<LineAnswer> Lines);

/// <summary>One of the <see cref="StructureGoals"/>: over all that can still be picked, and as suggested now.</summary>
public sealed record TotalAnswer(NumberAnswer Open, NumberAnswer AsSuggested);

public sealed record Answer
{
    /// <summary>Whether some complete configuration contains all picks; null where time ran out before that was known.</summary>
    public required bool? Valid { get; init; }
    public required ImmutableArray<AttributeAnswer> Attributes { get; init; }
    public required ImmutableArray<ClashAnswer> Clashes { get; init; }

    /// <summary>Paths of required attributes that apply and have no value yet.</summary>
    public required ImmutableArray<string> Missing { get; init; }

    /// <summary>Advice rules that are broken, as row ids with their prefix.</summary>
    public required ImmutableArray<Cause> Advice { get; init; }

    /// <summary>The outcome over all that can still be picked: suggestions do not narrow it.</summary>
    public required Outcome Open { get; init; }

    /// <summary>The outcome as suggested now: where everything that is suggested is taken.</summary>
    public required Outcome AsSuggested { get; init; }

    /// <summary>False where the time limit cut something short; then nothing in this answer is passed off as exact.</summary>
    public required bool Exact { get; init; }

    /// <summary>The values that count for what is generated: picks that stand, what follows, and suggestions.</summary>
    public required ImmutableArray<Pick> Standing { get; init; }

    /// <summary>The picks that stand, without those that clash.</summary>
    public required ImmutableArray<Pick> StandingPicks { get; init; }

    /// <summary>The one complete configuration with the values that stand, texts aside, where it was seen that nothing else is left open.</summary>
    public ImmutableArray<Pick>? Only { get; init; }
}

/// <summary>Whether a line of the full structure can be there, and can be missing, beside some picks; null where time ran out.</summary>
public sealed record LinePossibility(bool? MayBeIn, bool? MayBeOut);

/// <summary>One smallest set that causes something: no member can be left out.</summary>
public sealed record Reason(ImmutableArray<Pick> Picks, ImmutableArray<Cause> Causes);

/// <summary>What came of asking for a reason: none where what is asked about is possible; not finished where time ran out.</summary>
public sealed record Explanation(Reason? Reason, bool Finished);

/// <summary>
/// The exact lowest and highest value of a number over all complete configurations with the picks that stand, in base units; none where
/// it never has a value. Not finished where time ran out: then what is there was reached, and may be passed.
/// </summary>
public sealed record TightBounds(Exact? Low, Exact? High, bool MayHaveNoValue, bool Finished);

/// <summary>
/// The configuration with the lowest or highest number that was found; proven where there is none better, otherwise
/// <see cref="Bound"/> says how much better there might be. Numbers are in base units.
/// </summary>
public sealed record Optimum(ImmutableArray<Pick>? Values, Exact? Number, Exact? Bound, bool Proven);

/// <summary>
/// How many complete configurations there are over the asked attributes, texts aside; instances that can change places count
/// once. Where it is not exact, time ran out and there are at least so many.
/// </summary>
public sealed record CountAnswer(System.Numerics.BigInteger Number, bool Exact);

/// <summary>Configurations in which every pair of values that can stand together does; of numbers the lowest and the highest count.</summary>
/// <param name="Pairs">How many pairs there are.</param>
/// <param name="Finished">False where time ran out; then not all pairs are covered.</param>
public sealed record PairSample(ImmutableArray<ImmutableArray<Pick>> Configurations, int Pairs, bool Finished);

/// <summary>A pick to change; <see cref="To"/> null means to drop it.</summary>
public sealed record Change(Pick From, Value? To);

public sealed record WayOut(ImmutableArray<Change> Changes);

/// <summary>The ways out that were found, each verified; there may be more where time ran out.</summary>
public sealed record WaysOut(ImmutableArray<WayOut> Found, bool Finished)
{
    /// <summary>Whether there are more than those that were asked for.</summary>
    public bool More { get; init; }
}

/// <summary>
/// The narrow door to reasoning over one compiled model, for one site and date. Safe for concurrent use. Answers are
/// exact and the same on every run.
/// </summary>
public interface IReasoner
{
    /// <summary>Everything the contract promises for a set of picks.</summary>
    /// <param name="watch">
    /// Called, often and by the thread that works, whenever more is known; given what tells what is known by then, for as long as it is called.
    /// </param>
    Answer Answer(Question question, CancellationToken cancel, Action<Func<PartialAnswer>>? watch = null);

    /// <summary>
    /// Why a path cannot have a value (or, with <paramref name="value"/> null, why it does not apply).
    /// </summary>
    Explanation WhyNot(Question question, string path, Value? value, CancellationToken cancel);

    /// <summary>Why a path has the one value that is left.</summary>
    Explanation WhyFollows(Question question, string path, Value value, CancellationToken cancel);

    /// <summary>
    /// Smallest sets of picks to change so that the picks stand together and, where given, the wanted pick with them: at most
    /// five, fewest changes first, then latest picks first.
    /// </summary>
    WaysOut WaysOut(Question question, Pick? wanted, CancellationToken cancel);

    /// <summary>
    /// Tight bounds of a computed attribute, of one of the <see cref="StructureGoals"/>, or of a line's number (“quantity”, “setup”,
    /// “run”, “queue”), over all that can still be picked beside the picks that stand in an answer; null where there is no such number.
    /// </summary>
    TightBounds? Tight(Answer answer, string path, string? number, CancellationToken cancel);

    /// <summary>The <see cref="StructureGoals"/>: bounds that are never too narrow. Empty while picks clash.</summary>
    IReadOnlyDictionary<string, TotalAnswer> Totals(Answer answer);

    /// <summary>The paths of the numbers, computed and asked, that <see cref="Best"/> can bring to an end, and the <see cref="StructureGoals"/>.</summary>
    IEnumerable<string> Goals { get; }

    /// <summary>
    /// Keeps what is picked in an answer and fills in the rest so that a number is the lowest or highest possible. What is given (<see cref="AskedAs"/>)
    /// and was not answered stands at the value that it is suggested at.
    /// </summary>
    /// <param name="progress">Is told of each better one that is found, and of each tighter bound.</param>
    /// <param name="held">Paths that keep the value that they are suggested at, too.</param>
    Optimum Best(Answer answer, string path, bool highest, CancellationToken cancel, IProgress<Optimum>? progress = null,
        IReadOnlySet<string>? held = null);

    /// <summary>
    /// The complete configurations that contain all picks, one after the other: in the order of the attributes as they are
    /// written, of each first what does not apply, then none, no, yes, and values in their order. Each is
    /// searched for when it is taken; where it is cancelled, there come no more.
    /// </summary>
    IEnumerable<ImmutableArray<Pick>> Explore(Question question, CancellationToken cancel);

    /// <summary>A few configurations that contain all picks and cover every pair of values that can stand together with them.</summary>
    PairSample CoverPairs(Question question, CancellationToken cancel);

    /// <summary>How many complete configurations contain all picks.</summary>
    CountAnswer Count(Question question, CancellationToken cancel);

    /// <summary>Fills in everything that an answer leaves open, keeping what stands in it; null where its picks do not stand together.</summary>
    ImmutableArray<Pick>? Complete(Answer answer, CancellationToken cancel);
}
