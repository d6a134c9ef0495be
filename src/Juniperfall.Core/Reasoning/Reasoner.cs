using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Answering;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Enumerating;
using Juniperfall.Core.Reasoning.Explaining;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Answers questions by complete search over a propagated network. Each solution that is found marks all its values as
/// available, so that only the remaining ones are searched for. It wires the rooms below; <c>docs/reasoning.md</c> walks through them.
/// </summary>
public sealed class Reasoner : IReasoner
{
    private readonly Answerer _answerer;
    private readonly Reasons _reasons;
    private readonly WaysOutSearch _waysOut;
    private readonly Optima _optima;
    private readonly LinePossibilities _lines;

    /// <param name="at">The site and day that it answers for.</param>
    /// <param name="previous">A reasoner over an earlier state of the model: its solutions that still hold save searches.</param>
    /// <param name="warm">What another process has found out of the same model; what is of another one is left.</param>
    /// <exception cref="OperationCanceledException">Cancelled before it was built.</exception>
    public Reasoner(BoundModel model, Effectivity at = default, Reasoner? previous = null, CancellationToken cancel = default, WarmState? warm = null)
    {
        Prepared = new(model, at, cancel);
        (_reasons, _waysOut, _optima, _lines) = (new(Prepared), new(Prepared), new(Prepared), new(Prepared));
        _answerer = new(Prepared, _reasons);
        if (previous is not null && Prepared.Start is not null)
            Prepared.Known.TakeOver(previous.Prepared);
        IsWarm = warm is not null && WarmStates.TakeOver(Prepared, warm);
    }

    /// <summary>Whether it has taken over what another process has found out.</summary>
    public bool IsWarm { get; }

    /// <summary>What is known of the model where nothing is picked; null where time runs out, or no configuration is possible.</summary>
    public WarmState? ToWarmState(CancellationToken cancel)
    {
        if (Answer(new([]), cancel) is not { Exact: true, Valid: true } answer)
            return null;
        try
        {
            MakeDiagrams(cancel);
        }
        catch (OperationCanceledException)
        {
            // The rest is worth being kept without them.
        }
        return WarmStates.Of(Prepared, answer);
    }

    /// <summary>
    /// Works out, once, what makes later answers quick and changes none of them: decision diagrams of the parts of the model that stay small. It may take
    /// long; others may ask meanwhile.
    /// </summary>
    /// <exception cref="OperationCanceledException">Cancelled; then nothing has come of it.</exception>
    public void MakeDiagrams(CancellationToken cancel) => Prepared.MakeDiagrams(cancel);

    /// <summary>What all questions share.</summary>
    internal PreparedNetwork Prepared { get; }

    /// <summary>The site and day that it answers for.</summary>
    public Effectivity At => Prepared.At;

    public BoundModel Model => Prepared.Model;

    /// <summary>The paths that are asked, in the author's order, texts included.</summary>
    public IEnumerable<string> AskedPaths =>
        Prepared.Network.Variables.Select(v => v.Path).Concat(Prepared.Network.Texts.Select(t => t.Occurrence.Prefix + t.Row.Id));

    public Answer Answer(Question question, CancellationToken cancel, Action<Func<PartialAnswer>>? watch = null) =>
        _answerer.Answer(question, cancel, watch);

    /// <summary>
    /// The same for two reasoners that give the same answers, computed values and lines that no rule reads aside: <see cref="Again"/>.
    /// </summary>
    public string Signature => Prepared.Signature;

    /// <summary>
    /// What a reasoner of the same <see cref="Signature"/> has answered without availability, with what is computed anew. Null where that is not enough:
    /// time ran out, or the answer leaves something open.
    /// </summary>
    public Answer? Again(Answer known, CancellationToken cancel) => _answerer.Again(known, cancel);

    public ImmutableArray<Pick>? Complete(Answer answer, CancellationToken cancel) => _answerer.Complete(answer, cancel);

    /// <summary>The rules, conditions and inner bounds that a whole configuration breaks; null where it is none for another reason.</summary>
    /// <param name="values">A value of everything that applies.</param>
    public ImmutableArray<Cause>? BrokenBy(IReadOnlyCollection<Pick> values) => Prepared.Start is null ? null : BrokenGroups.Of(Prepared, values);

    public Explanation WhyNot(Question question, string path, Value? value, CancellationToken cancel) => _reasons.WhyNot(question, path, value, cancel);

    public Explanation WhyFollows(Question question, string path, Value value, CancellationToken cancel) => _reasons.WhyFollows(question, path, value, cancel);

    public WaysOut WaysOut(Question question, Pick? wanted, CancellationToken cancel) => _waysOut.Of(question, wanted, cancel);

    public TightBounds? Tight(Answer answer, string path, string? number, CancellationToken cancel) => _optima.Tight(answer, path, number, cancel);

    public IReadOnlyDictionary<string, TotalAnswer> Totals(Answer answer) => _optima.Totals(answer);

    public IEnumerable<string> Goals => _optima.Goals;

    public Optimum Best(Answer answer, string path, bool highest, CancellationToken cancel, IProgress<Optimum>? progress = null,
        IReadOnlySet<string>? held = null) => _optima.Best(answer, path, highest, cancel, progress, held);

    public IEnumerable<ImmutableArray<Pick>> Explore(Question question, CancellationToken cancel) => new Enumeration(Prepared).Of(question, cancel);

    public PairSample CoverPairs(Question question, CancellationToken cancel) => new PairCover(Prepared, _answerer).Of(question, cancel);

    public CountAnswer Count(Question question, CancellationToken cancel) => new Counts(Prepared).Of(question, cancel);

    /// <summary>Which lines some complete configuration with the picks has, and which some lacks. Suggestions do not count.</summary>
    /// <param name="question">Picks that cannot join the earlier ones are left out.</param>
    /// <returns>By the path of each part and operation line.</returns>
    public IReadOnlyDictionary<string, LinePossibility> Lines(Question question, CancellationToken cancel) => _lines.Of(question, cancel);
}
