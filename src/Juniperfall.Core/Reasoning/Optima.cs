using System.Collections.Immutable;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>How far numbers go over all that can still be picked, and completing so that one is the lowest or the highest possible.</summary>
public sealed partial class Reasoner
{
    private Network? _withGoals;

    /// <summary>The network with the roll-up of the structure in it. Built once; two that build it at once build the same.</summary>
    private Network WithGoals => _withGoals ??= NetworkBuilder.Build(Model, _at, null, NetworkExtras.Goals);

    private Domain<ExactEnd>[]? _goalsExactly;
    private Domain<ExactEnd>[] GoalsExactly => _goalsExactly ??= Propagated(WithGoals, WithGoals.Exactly, withGroups: true) ?? WithGoals.Exactly.Initial;

    public IEnumerable<string> Goals => _network.Computed.Where(c => c.Type.Kind == Language.TypeKind.Number).Select(c => c.Occurrence.Prefix + c.Row.Id)
        .Concat(_network.Variables.Where(v => v.Initial.Kind == DomainKind.Number).Select(v => v.Path))
        .Concat(WithGoals.Goals.Keys.Order());

    public Optimum Best(Answer answer, string path, bool highest, CancellationToken cancel, IProgress<Optimum>? progress = null)
    {
        var network = NetworkOf(path);
        if (answer.Valid != true || (NodeOf(network, path) ?? network.Variables.FirstOrDefault(v => v.Path == path)?.Node) is not { } node || NewSearch(network, cancel) is not { } search)
            return new(null, null, null, true);
        PreferSuggestions(search, network);
        var kept = answer.Attributes.Where(a => a.State is AttributeState.Picked or AttributeState.Resting && a.Value is not null).ToDictionary(a => a.Path, a => a.Value!.Value);
        search.Improved = () => progress?.Report(new(Values(), search.BestSoFar, search.Ceiling, false));
        try
        {
            var proven = search.Stand(network.Variables.Where(v => kept.ContainsKey(v.Path)).Select(v => (v, Containing(v, kept[v.Path])))) ? search.Extreme(search.Standing, node, highest, LimitOf(network, node, highest, kept.Select(k => new Pick(k.Key, k.Value)))) : null;
            return new(Values(), proven, proven, true);
        }
        catch (SearchInterrupted)
        {
            return new(Values(), search.BestSoFar, search.Ceiling, false);
        }

        ImmutableArray<Pick>? Values() => search.BestSolution is { } solution ? PicksOf(network, solution) : null;
    }

    public TightBounds? Tight(Answer answer, string path, string? number, CancellationToken cancel)
    {
        var network = NetworkOf(path);
        if (_start is null || (NodeOf(network, path) ?? network.Lines.FirstOrDefault(l => l.Occurrence.Prefix + l.Row.Id == path)?.Numbers.Where(n => n.Key == number).Select(n => (int?)n.Value).FirstOrDefault()) is not { } node
            || network.Initial[node].Kind != DomainKind.Number)
            return null;
        return network == _network ? Searching(cancel, search => Tight(search, network, node, answer)) : NewSearch(network, cancel) is { } other ? Tight(other, network, node, answer) : null;
    }

    private TightBounds? Tight(Search search, Network network, int node, Answer answer)
    {
        var (low, high, mayHaveNone) = ((Exact?)null, (Exact?)null, true);
        try
        {
            if (!search.Stand(Contained(answer.StandingPicks).Select(c => (network.Variables[c.Item1.Index], c.Item2))))
                return null;
            mayHaveNone = search.MayHaveNoNumber(search.Standing, node);
            low = search.Extreme(search.Standing, node, highest: false, LimitOf(network, node, highest: false, answer.StandingPicks));
            high = search.Extreme(search.Standing, node, highest: true, LimitOf(network, node, highest: true, answer.StandingPicks));
            return new TightBounds(low, high, mayHaveNone, true);
        }
        catch (SearchInterrupted)
        {
            return new(low ?? search.BestSoFar, high ?? search.BestSoFar, mayHaveNone, false);
        }
    }

    public IReadOnlyDictionary<string, TotalAnswer> Totals(Answer answer)
    {
        if (_start is null || answer.Valid != true)
            return new Dictionary<string, TotalAnswer>();
        // Of all that is not picked no more than what can be had is left.
        var available = new Available?[_network.Variables.Length];
        foreach (var attribute in answer.Attributes)
            if (attribute.State is not (AttributeState.Picked or AttributeState.Resting) && _variables.TryGetValue(attribute.Path, out var variable))
                available[variable.Index] = attribute.Available;
        var goals = WithGoals.Goals;
        var figures = Figures(WithGoals, GoalsExactly, answer.StandingPicks, available);
        var open = goals.Where(g => figures[g.Value].MayHaveValue).ToDictionary(g => g.Key, g => Number(figures[g.Value]));
        Restrict(figures, WithGoals, answer.Standing);
        return open.ToDictionary(g => g.Key, g => new TotalAnswer(g.Value, Number(figures[goals[g.Key]])));
    }

    /// <summary>An exact bound on a number with some picks, by propagation alone; null where there is none.</summary>
    private Exact? LimitOf(Network network, int node, bool highest, IEnumerable<Pick> picks) =>
        Figures(network, network == _network ? _exactStart.Value : GoalsExactly, picks, [])[node].Numbers is var numbers && highest ? numbers.High.Number : numbers.Low.Number;

    /// <summary>The network that a number is asked of: totals of the structure stand in one of their own.</summary>
    private Network NetworkOf(string path) => StructureGoals.All.Contains(path) ? WithGoals : _network;

    /// <summary>The node of a total or of a computed attribute.</summary>
    private static int? NodeOf(Network network, string path) => network.Goals.TryGetValue(path, out var goal) ? goal : network.Computed.FirstOrDefault(c => c.Occurrence.Prefix + c.Row.Id == path)?.Node;

    /// <summary>A search over a network of its own; null where nothing is possible.</summary>
    private Search? NewSearch(Network network, CancellationToken cancel) =>
        _start is not null && (network == _network ? _start : Propagated(network, network.Rough, withGroups: true)) is { } start ? new Search(network, start, GroupsHold.Always) { Cancel = cancel } : null;
}
