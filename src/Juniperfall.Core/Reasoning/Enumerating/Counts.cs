using System.Numerics;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Counting;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Networks.Building;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Enumerating;

/// <summary>How many configurations there are.</summary>
internal sealed class Counts(PreparedNetwork prepared)
{
    /// <summary>How many complete configurations contain all picks; at least so many where time ran out.</summary>
    /// <param name="applying">The path of a pick that rests nowhere: only configurations count where its attribute applies. Null: of none.</param>
    public CountAnswer Of(Question question, CancellationToken cancel, string? applying = null)
    {
        if (prepared.Start is null)
            return new(0, true);
        var picks = prepared.OfVariables(question.Picks).Select(k => k.Pick).ToList();
        // What each case counts is divided by the same number of permutations only within the same instances that are there.
        var cases = InstanceSymmetry.Cases(prepared.Model, picks);
        if (applying is null
            && cases is [{ IsIdentity: true, Of: var of }] && of.IsOne && prepared is { Diagrams: { IsWhole: true } diagrams, Discrete: { } discrete })
            return new(prepared.Known.Slots(discrete, picks) is { } wanted ? diagrams.Beside(wanted).Count() : 0, true);
        var (numerator, denominator, atLeast) = (BigInteger.Zero, BigInteger.One, BigInteger.Zero);
        var exact = true;
        foreach (var one in cases)
        {
            if (!exact && !one.IsIdentity)
                continue;
            var network = one.Alike.There.IsEmpty && one.Alike.Same.IsEmpty ? prepared.Network : NetworkBuilder.Build(prepared.Model, prepared.At, one.Alike);
            var variables = network.Variables.ToDictionary(v => v.Path);
            var (number, isExact) = new ModelCounter(network, cancel)
                .Count(picks.Where(p => variables.ContainsKey(p.Path)).Select(p => (variables[p.Path], Domain(variables[p.Path], p.Value))));
            exact &= isExact;
            (numerator, denominator) = (numerator * one.Of + number * one.Permutations * denominator, denominator * one.Of);
            if (one.IsIdentity)
                atLeast += (number + one.Of - 1) / one.Of;
        }
        if (exact)
            return new(numerator / denominator, true);
        return new(BigInteger.Max(atLeast, applying is null && prepared.Known.Containing(picks).Any() ? 1 : 0), false);

        VariableDomain Domain(Variable variable, Value value) => variable.Path != applying ? PickDomains.Containing(variable, value)
            : PickDomains.Having(variable, value) ?? variable.Initial.Only(Outcomes.Impossible);
    }
}
