using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Answering;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Networks.Building;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Enumerating;

/// <summary>How far numbers go over all that can still be picked, and completing so that one is the lowest or the highest possible.</summary>
internal sealed class Optima(PreparedNetwork prepared)
{
    private readonly Lazy<Network> _withGoals = new(() => NetworkBuilder.Build(prepared.Model, prepared.At, null, NetworkExtras.Goals));
    private Domain<ExactEnd>[]? _goalsExactly;

    /// <summary>The network with the roll-up of the structure in it.</summary>
    private Network WithGoals => _withGoals.Value;

    /// <summary>Its domains after all is propagated. Found once; two that find it at once find the same.</summary>
    private Domain<ExactEnd>[] GoalsExactly => _goalsExactly ??= FixedPoint<ExactEnd>.Of(WithGoals, WithGoals.InExactNumbers, withGroups: true)
        ?? WithGoals.InExactNumbers.Initial;

    /// <summary>The paths of the numbers, computed and asked, that can be brought to an end, and the <see cref="StructureGoals"/>.</summary>
    public IEnumerable<string> Goals => prepared.Network.Computed.Where(c => c.Type.Kind == TypeKind.Number).Select(c => c.Occurrence.Prefix + c.Row.Id)
        .Concat(prepared.Network.Variables.Where(v => v.Initial.Kind == DomainKind.Number).Select(v => v.Path))
        .Concat(WithGoals.Goals.Keys.Order());

    /// <summary>
    /// Keeps what is picked in an answer, what is given, and what is held, and fills in the rest so that a number is the lowest or highest possible.
    /// </summary>
    public Optimum Best(Answer answer, string path, bool highest, CancellationToken cancel, IProgress<Optimum>? progress, IReadOnlySet<string>? held)
    {
        try
        {
            return Found(answer, path, highest, cancel, progress, held);
        }
        catch (SearchInterrupted)
        {
            return new(null, null, null, false);
        }
    }

    /// <summary>What completion leaves where it is: picks and, at the values that they are suggested at, what is given and what is held.</summary>
    private static Dictionary<string, Value> Kept(Answer answer, Network network, IReadOnlySet<string>? held)
    {
        var given = network.Variables.Where(v => v.Row.AskedAs == AskedAs.Given).Select(v => v.Path).ToHashSet();
        return answer.Attributes.Where(a => a.Value is not null && (a.State is AttributeState.Picked or AttributeState.Resting
                || (a.State == AttributeState.Suggested && (given.Contains(a.Path) || held?.Contains(a.Path) == true))))
            .ToDictionary(a => a.Path, a => a.Value!.Value);
    }

    private Optimum Found(Answer answer, string path, bool highest, CancellationToken cancel, IProgress<Optimum>? progress, IReadOnlySet<string>? held)
    {
        var network = NetworkOf(path);
        if (answer.Valid != true || (NodeOf(network, path) ?? network.Variables.FirstOrDefault(v => v.Path == path)?.Node) is not { } node
            || prepared.SearchOver(network, cancel) is not { } session)
            return new(null, null, null, true);
        var kept = Kept(answer, network, held);
        var bound = new BranchAndBound(session.Search, network, node, highest);
        bound.Improved = () => progress?.Report(new(Values(), bound.Best, bound.Ceiling, false));
        try
        {
            var isPossible = session.Stand(network.Variables.Where(v => kept.ContainsKey(v.Path)).Select(v => (v, PickDomains.Containing(v, kept[v.Path]))));
            var limit = LimitOf(network, node, highest, kept.Select(k => new Pick(k.Key, k.Value)));
            var proven = isPossible ? bound.Prove(session.Standing, limit, byParts: true) : null;
            return new(Values(), proven, proven, true);
        }
        catch (SearchInterrupted)
        {
            return new(Values(), bound.Best, bound.Ceiling, false);
        }

        ImmutableArray<Pick>? Values() => bound.BestSolution is { } solution ? [.. PickDomains.PicksOf(network, solution)] : null;
    }

    /// <summary>Tight bounds of a number beside the picks that stand in an answer; null where there is no such number.</summary>
    public TightBounds? Tight(Answer answer, string path, string? number, CancellationToken cancel)
    {
        var network = NetworkOf(path);
        if (prepared.Start is null || (NodeOf(network, path)
            ?? network.Lines.FirstOrDefault(l => l.Occurrence.Prefix + l.Row.Id == path)?.Numbers.Where(n => n.Key == number).Select(n => (int?)n.Value)
            .FirstOrDefault()) is not { } node
            || network.Initial[node].Kind != DomainKind.Number)
            return null;
        try
        {
            return network == prepared.Network ? prepared.Searches.Warm(cancel, session => Tight(session, network, node, answer))
                : prepared.SearchOver(network, cancel) is { } other ? Tight(other, network, node, answer) : null;
        }
        catch (SearchInterrupted)
        {
            return new(null, null, true, false);
        }
    }

    private TightBounds? Tight(SearchSession session, Network network, int node, Answer answer)
    {
        var (low, high) = (new BranchAndBound(session.Search, network, node, highest: false), new BranchAndBound(session.Search, network, node, highest: true));
        var mayHaveNone = true;
        try
        {
            if (!session.Stand(prepared.Containing(answer.StandingPicks).Select(c => (network.Variables[c.Item1.Index], c.Item2))))
                return null;
            mayHaveNone = BranchAndBound.MayHaveNoNumber(session.Search, session.Standing, node);
            return new(low.Prove(session.Standing, LimitOf(network, node, highest: false, answer.StandingPicks), byParts: true),
                high.Prove(session.Standing, LimitOf(network, node, highest: true, answer.StandingPicks), byParts: true), mayHaveNone, true);
        }
        catch (SearchInterrupted)
        {
            return new(low.Best, high.Best ?? low.Best, mayHaveNone, false);
        }
    }

    /// <summary>The <see cref="StructureGoals"/>: bounds that are never too narrow. Empty while picks clash.</summary>
    public IReadOnlyDictionary<string, TotalAnswer> Totals(Answer answer)
    {
        if (prepared.Start is null || answer.Valid != true)
            return new Dictionary<string, TotalAnswer>();
        // Of all that is not picked no more than what can be had is left.
        var available = new Available?[prepared.Network.Variables.Length];
        foreach (var attribute in answer.Attributes)
            if (attribute.State is not (AttributeState.Picked or AttributeState.Resting) && prepared.VariableAt(attribute.Path) is { } variable)
                available[variable.Index] = attribute.Available;
        var goals = WithGoals.Goals;
        var figures = new Figures(prepared, WithGoals, GoalsExactly, answer.StandingPicks, available);
        var open = goals.Where(g => figures[g.Value].MayHaveValue).ToDictionary(g => g.Key, g => figures.Number(g.Value));
        figures.Restrict(answer.Standing);
        return open.ToDictionary(g => g.Key, g => new TotalAnswer(g.Value, figures.Number(goals[g.Key])));
    }

    /// <summary>An exact bound on a number with some picks, by propagation alone; null where there is none.</summary>
    private Exact? LimitOf(Network network, int node, bool highest, IEnumerable<Pick> picks) =>
        new Figures(prepared, network, network == prepared.Network ? prepared.ExactStart(default) : GoalsExactly, picks, [])[node].Numbers is var numbers
            && highest ? numbers.High.Number : numbers.Low.Number;

    /// <summary>The network that a number is asked of: totals of the structure stand in one of their own.</summary>
    private Network NetworkOf(string path) => StructureGoals.All.Contains(path) ? WithGoals : prepared.Network;

    /// <summary>The node of a total or of a computed attribute.</summary>
    private static int? NodeOf(Network network, string path) => network.Goals.TryGetValue(path, out var goal)
        ? goal : network.Computed.FirstOrDefault(c => c.Occurrence.Prefix + c.Row.Id == path)?.Node;
}
