using System.Collections.Concurrent;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>What all questions to one network without numbers share. Safe for concurrent use.</summary>
internal sealed class DiscreteNetwork
{
    private readonly ConcurrentBag<Repair> _repairs = [];

    /// <param name="start">What propagation leaves of the variables before any pick, by node.</param>
    public DiscreteNetwork(Network network, Domain<DoubleEnd>[] start)
    {
        Rules = new(network, [.. network.Variables.Select(v => v.Initial with { Outcomes = start[v.Node].Outcomes, Bits = start[v.Node].Bits })]);
        Pool = new(Slots);
    }

    public RuleTables Rules { get; }
    public Slots Slots => Rules.Slots;
    public WitnessPool Pool { get; }

    public TResult Repairing<TResult>(Func<Repair, TResult> ask)
    {
        if (!_repairs.TryTake(out var repair))
            repair = new(Rules);
        var result = ask(repair);
        _repairs.Add(repair);
        return result;
    }
}
