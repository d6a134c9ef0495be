using System.Collections.Immutable;

namespace Juniperfall.Core.Reasoning;

/// <summary>Completing so that a number is the lowest or the highest possible.</summary>
public sealed partial class Reasoner
{
    private Network? _withGoals;

    /// <summary>The network with the roll-up of the structure in it. Built once; two that build it at once build the same.</summary>
    private Network WithGoals => _withGoals ??= NetworkBuilder.Build(Model, _at, null, NetworkExtras.Goals);

    public IEnumerable<string> Goals => _network.Computed.Where(c => c.Type.Kind == Language.TypeKind.Number).Select(c => c.Occurrence.Prefix + c.Row.Id)
        .Concat(_network.Variables.Where(v => v.Initial.Kind == DomainKind.Number).Select(v => v.Path))
        .Concat(WithGoals.Goals.Keys.Order());

    public Optimum Best(Answer answer, string path, bool highest, CancellationToken cancel, IProgress<Optimum>? progress = null)
    {
        var network = StructureGoals.All.Contains(path) ? WithGoals : _network;
        int? found = network.Goals.TryGetValue(path, out var goal) ? goal : network.Computed.FirstOrDefault(c => c.Occurrence.Prefix + c.Row.Id == path)?.Node ?? network.Variables.FirstOrDefault(v => v.Path == path)?.Node;
        if (!answer.Valid || _start is null || found is not { } node || (network == _network ? _start : Propagated(network)) is not { } start)
            return new(null, null, null, true);
        var search = new Search(network, start, assumeGroups: false) { Cancel = cancel };
        PreferSuggestions(search, network);
        var kept = answer.Attributes.Where(a => a.State is AttributeState.Picked or AttributeState.Resting && a.Value is not null).ToDictionary(a => a.Path, a => a.Value!.Value);
        search.Improved = () => progress?.Report(new(Values(), search.BestSoFar, search.Ceiling, false));
        try
        {
            var proven = search.Stand(network.Variables.Where(v => kept.ContainsKey(v.Path)).Select(v => (v, Containing(v, kept[v.Path])))) ? search.Extreme(search.Standing, node, highest) : null;
            return new(Values(), proven, proven, true);
        }
        catch (SearchInterrupted)
        {
            return new(Values(), search.BestSoFar, search.Ceiling, false);
        }

        ImmutableArray<Pick>? Values() => search.BestSolution is { } solution ? PicksOf(network, solution) : null;
    }

    private static Domain<DoubleEnd>[]? Propagated(Network network)
    {
        var propagation = new Propagation<DoubleEnd>(network, network.Rough, network.Rough.Initial, withGroups: true);
        return propagation.Start() ? propagation.Snapshot() : null;
    }
}
