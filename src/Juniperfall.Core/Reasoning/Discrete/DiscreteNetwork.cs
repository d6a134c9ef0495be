using System.Collections.Concurrent;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>What all questions to one network share whose variables have few enough values to number them through. Safe for concurrent use.</summary>
internal sealed class DiscreteNetwork
{
    private readonly ConcurrentBag<Repair> _repairs = [];

    /// <summary>
    /// How many steps a number may have, since each open one costs a look at its rules, and how many values all variables together.
    /// </summary>
    private const int MostSteps = 1 << 10, MostInAll = 1 << 18;

    private DiscreteNetwork(Network network, VariableDomain[] domains)
    {
        Rules = new(network, domains);
        Pool = new(Slots);
    }

    /// <summary>Null where some number has too many steps, or all variables too many values.</summary>
    /// <param name="start">What propagation leaves of the variables before any pick, by node.</param>
    public static DiscreteNetwork? Of(Network network, Domain<DoubleEnd>[] start)
    {
        var domains = Array.ConvertAll(network.Variables, v => v.Initial with
        {
            Outcomes = start[v.Node].Outcomes,
            First = start[v.Node].First,
            Last = start[v.Node].Last,
            Bits = start[v.Node].Bits,
        });
        return domains.Any(d => d.Kind == DomainKind.Number && d.MayBePresent && d.Last - d.First >= MostSteps) || domains.Sum(d => d.Size) > MostInAll
            ? null : new DiscreteNetwork(network, domains);
    }

    public RuleTables Rules { get; }
    public Slots Slots => Rules.Slots;
    public WitnessPool Pool { get; }

    public TResult Repairing<TResult>(Func<Repair, TResult> ask)
    {
        if (!_repairs.TryTake(out var repair))
            repair = new(Rules, Rules.NewEvaluator());
        var result = ask(repair);
        _repairs.Add(repair);
        return result;
    }
}
