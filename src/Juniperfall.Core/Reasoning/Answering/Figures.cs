using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>
/// Everything that values leave of a network, in exact numbers, by propagation of what is available and what counts: so it is the same
/// whatever was asked before.
/// </summary>
internal sealed class Figures
{
    private readonly PreparedNetwork _prepared;
    private readonly Network _network;
    private readonly FixedPoint<ExactEnd> _domains;
    private readonly CancellationToken _cancel;

    /// <param name="network">The network of the model, or another one of the same model.</param>
    /// <param name="start">Its domains after all is propagated.</param>
    /// <param name="available">By variable, what can be had of it; null, and beyond the end, where that is not to count.</param>
    /// <param name="cancel">Where it is cancelled, domains are left wider than they could be.</param>
    public Figures(PreparedNetwork prepared, Network network, Domain<ExactEnd>[] start, IEnumerable<Pick> counted, Available?[] available,
        CancellationToken cancel = default)
    {
        (_prepared, _network, _domains, _cancel) = (prepared, network, new(network, network.InExactNumbers, start), cancel);
        foreach (var variable in network.Variables)
            if (variable.Index < available.Length && available[variable.Index] is { } one)
                _domains.Restrict(variable, PickDomains.Hull(variable, one));
        Restrict(counted);
    }

    public ref readonly Domain<ExactEnd> this[int node] => ref _domains[node];

    /// <summary>Goes on from here with more that counts.</summary>
    public void Restrict(IEnumerable<Pick> counted)
    {
        foreach (var (variable, to) in _prepared.Containing(counted))
            _domains.Restrict(_network.Variables[variable.Index], to);
        try
        {
            _domains.Propagate(_cancel);
        }
        catch (OperationCanceledException)
        {
            // What was narrowed until then holds; the rest is left wider.
        }
    }

    /// <summary>A number as it stands; it is never too narrow.</summary>
    public NumberAnswer Number(int node)
    {
        ref readonly var domain = ref _domains[node];
        return new(domain.Numbers.Low.Number, domain.Numbers.High.Number, !domain.MustHaveValue);
    }

    /// <summary>All that is computed, and all lines.</summary>
    public Outcome Outcome() => new([.. _network.Computed.Select(Computed)], [.. _network.Lines.Select(Line)]);

    private ComputedAnswer Computed(CompiledComputed computed)
    {
        ref readonly var domain = ref _domains[computed.Node];
        var display = computed.Occurrence.DisplayPath(_prepared.Model.Index, computed.Row.Id);
        var path = computed.Occurrence.Prefix + computed.Row.Id;
        if (domain.Kind == DomainKind.Number)
            return new(path, display, computed.Row, domain.MayHaveValue ? Number(computed.Node) : null, null);
        Value? value = !domain.HasOneOutcome || !domain.MayHaveValue || (domain.Kind == DomainKind.Choice && BitSet.Count(domain.Bits!) > 1) ? null
            : domain.Kind == DomainKind.YesNo ? Value.Of(domain.Outcomes == Outcomes.True)
            : Value.Choice(_prepared.Model.Index.Lists[computed.Type.ListId!].Values[BitSet.First(domain.Bits!)].Id);
        return new(path, display, computed.Row, null, value);
    }

    private LineAnswer Line(CompiledLine line)
    {
        var truth = _domains[line.Condition].Outcomes;
        var state = truth == Outcomes.True ? LineState.In : (truth & Outcomes.True) == 0 ? LineState.Out : LineState.Open;
        return new(line.Occurrence.Prefix + line.Row.Id, line.Occurrence.Prefix, line.Row, state,
            line.Numbers.ToImmutableSortedDictionary(n => n.Key, n => Number(n.Value)));
    }
}
