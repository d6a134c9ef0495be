using System.Numerics;
using Juniperfall.Core.Reasoning.Counting;

namespace Juniperfall.Core.Reasoning;

/// <summary>How many configurations there are.</summary>
public sealed partial class Reasoner
{
    public CountAnswer Count(Question question, CancellationToken cancel)
    {
        if (_start is null)
            return new(0, true);
        var picks = Known(question.Picks).Select(k => k.Pick).ToList();
        // What each case counts is divided by the same number of permutations only within the same instances that are there.
        var cases = InstanceSymmetry.Cases(Model, picks);
        var (numerator, denominator, atLeast) = (BigInteger.Zero, BigInteger.One, BigInteger.Zero);
        var exact = true;
        foreach (var one in cases)
        {
            if (!exact && !one.IsIdentity)
                continue;
            var network = one.Alike.There.IsEmpty && one.Alike.Same.IsEmpty ? _network : NetworkBuilder.Build(Model, _at, one.Alike);
            var variables = network.Variables.ToDictionary(v => v.Path);
            var (number, isExact) = new ModelCounter(network, cancel).Count(picks.Where(p => variables.ContainsKey(p.Path)).Select(p => (variables[p.Path], Containing(variables[p.Path], p.Value))));
            exact &= isExact;
            (numerator, denominator) = (numerator * one.Of + number * one.Permutations * denominator, denominator * one.Of);
            if (one.IsIdentity)
                atLeast += (number + one.Of - 1) / one.Of;
        }
        if (exact)
            return new(numerator / denominator, true);
        return new(BigInteger.Max(atLeast, KnownContaining(picks).Any() ? 1 : 0), false);
    }
}
