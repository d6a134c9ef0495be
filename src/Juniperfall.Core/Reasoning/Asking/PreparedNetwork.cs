using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning.Diagrams;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Networks.Building;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>A compiled model with what all questions to it share. Safe for concurrent use.</summary>
internal sealed class PreparedNetwork
{
    private readonly Dictionary<string, Variable> _variables;
    private readonly OnceBuilt<Domain<DoubleEnd>[]?> _startWithoutGroups;
    private readonly OnceBuilt<Domain<ExactEnd>[]> _exactStart;

    /// <exception cref="OperationCanceledException">Cancelled before it was prepared.</exception>
    public PreparedNetwork(BoundModel model, Effectivity at, CancellationToken cancel)
    {
        (Model, At) = (model, at);
        Network = NetworkBuilder.Build(model, at, cancel: cancel);
        _variables = Network.Variables.ToDictionary(v => v.Path);
        Suggestions = new(Network);
        _signature = new(() => NetworkSignature.Of(Network));
        Start = FixedPoint<DoubleEnd>.Of(Network, Network.InDoubles, withGroups: true, cancel);
        _startWithoutGroups = new(time => FixedPoint<DoubleEnd>.Of(Network, Network.InDoubles, withGroups: false, time));
        // Exact numbers may leave nothing where doubles still leave a tie; then there is no configuration, and search finds that.
        _exactStart = new(time => FixedPoint<ExactEnd>.Of(Network, Network.InExactNumbers, withGroups: true, time) ?? Network.InExactNumbers.Initial);
        Searches = new(Network, _ => Start!, GroupsHold.Always, Suggestions.Preferred);
        SearchesOfGroups = new(Network, time => StartWithoutGroups(time)!, GroupsHold.WhereAssumedOnly, new Assigned?[Network.Variables.Length]);
        Discrete = Start is null ? null : DiscreteNetwork.Of(Network, Start);
        Known = new(this);
    }

    public BoundModel Model { get; }

    /// <summary>The site and day that it answers for.</summary>
    public Effectivity At { get; }
    public Network Network { get; }
    public Suggestions Suggestions { get; }

    /// <summary>The same for all networks that give the same answers, computed values and lines that no rule reads aside.</summary>
    public string Signature => _signature.Value;

    private readonly Lazy<string> _signature;

    /// <summary>The domains after all is imposed and propagated; null where that leaves nothing.</summary>
    public Domain<DoubleEnd>[]? Start { get; }

    /// <summary>The domains after all but groups is imposed and propagated; null where that leaves nothing.</summary>
    /// <exception cref="OperationCanceledException">Cancelled before it was found.</exception>
    public Domain<DoubleEnd>[]? StartWithoutGroups(CancellationToken cancel) => _startWithoutGroups.Get(cancel);

    /// <summary>As <see cref="Start"/>, in exact numbers; where time runs out before it was found, those before anything is propagated.</summary>
    public Domain<ExactEnd>[] ExactStart(CancellationToken cancel)
    {
        try
        {
            return _exactStart.Get(cancel);
        }
        catch (OperationCanceledException)
        {
            return Network.InExactNumbers.Initial;
        }
    }

    /// <summary>Searches in which all groups hold; only where something is possible.</summary>
    public SearchPool Searches { get; }

    /// <summary>Searches in which groups hold where they are assumed.</summary>
    public SearchPool SearchesOfGroups { get; }

    /// <summary>The network as values that are numbered through; null where there are too many.</summary>
    public DiscreteNetwork? Discrete { get; }

    /// <summary>The independent parts of <see cref="Discrete"/> as decision diagrams; null until they were made.</summary>
    public PartDiagrams? Diagrams => _diagrams;

    private volatile PartDiagrams? _diagrams;

    /// <summary>Makes <see cref="Diagrams"/>, where there can be any; that may take long.</summary>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public void MakeDiagrams(CancellationToken cancel)
    {
        if (_diagrams is null && Discrete is { } discrete)
            _diagrams = PartDiagrams.Of(Network, discrete, cancel);
    }

    /// <summary>Takes over <see cref="Diagrams"/> that were kept; what cannot be of this network is left.</summary>
    public void TakeOver(ImmutableArray<WarmDiagram> kept) => _diagrams ??= Discrete is { } discrete ? PartDiagrams.Of(kept, discrete.Slots) : null;

    /// <summary>The configurations that earlier questions have found.</summary>
    public KnownConfigurations Known { get; }

    /// <summary>The variable at a path; null where none is asked there.</summary>
    public Variable? VariableAt(string path) => _variables.GetValueOrDefault(path);

    /// <summary>The picks of variables, each with its variable; of texts and of what is not asked there is none.</summary>
    public IEnumerable<(Variable Variable, Pick Pick)> OfVariables(IEnumerable<Pick> picks)
    {
        foreach (var pick in picks)
            if (_variables.TryGetValue(pick.Path, out var variable))
                yield return (variable, pick);
    }

    /// <summary>Picks as domains that contain them.</summary>
    public IEnumerable<(Variable, VariableDomain)> Containing(IEnumerable<Pick> picks) =>
        OfVariables(picks).Select(k => (k.Variable, PickDomains.Containing(k.Variable, k.Pick.Value)));

    /// <summary>Picks as tests on configurations.</summary>
    public List<Wanted> Wanted(IEnumerable<Pick> picks) =>
        [.. OfVariables(picks).Select(k => new Wanted(k.Variable.Index, PickDomains.Assignment(k.Variable, k.Pick.Value) ?? Assigned.Absent))];

    /// <summary>A search over another network of the same model; null where nothing is possible.</summary>
    /// <exception cref="SearchInterrupted">Cancelled before it was made.</exception>
    public SearchSession? SearchOver(Network network, CancellationToken cancel)
    {
        try
        {
            var start = network == Network ? Start : Start is null ? null : FixedPoint<DoubleEnd>.Of(network, network.InDoubles, withGroups: true, cancel);
            return start is null ? null : SearchPool.Over(network, start, cancel);
        }
        catch (OperationCanceledException)
        {
            throw new SearchInterrupted();
        }
    }
}
