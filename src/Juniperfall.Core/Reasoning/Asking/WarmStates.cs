using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>Takes what is known of a prepared network out, and into another one of the same model.</summary>
internal static class WarmStates
{
    /// <param name="toNothing">The exact answer to no picks.</param>
    public static WarmState Of(PreparedNetwork prepared, Answer toNothing)
    {
        var variables = prepared.Network.Variables;
        var available = toNothing.Attributes.ToDictionary(a => a.Path, a => a.Available);
        var (values, places) = (variables.Select(_ => ImmutableArray.CreateBuilder<Value>()).ToArray(),
            variables.Select(_ => new Dictionary<Assigned, int>()).ToArray());
        var configurations = Chosen(prepared).Select(c => c.Select((assigned, v) => assigned.Outcome switch
        {
            Outcomes.Absent => WarmState.Absent,
            Outcomes.None => WarmState.None,
            _ => PlaceOf(v, assigned),
        }).ToImmutableArray()).ToImmutableArray();
        return new([.. variables.Select(v => new WarmVariable(v.Path, values[v.Index].ToImmutable(), available[v.Path]))], configurations,
            prepared.Diagrams?.ToKept() ?? []);

        int PlaceOf(int variable, Assigned assigned)
        {
            if (places[variable].TryGetValue(assigned, out var known))
                return known;
            values[variable].Add(PickDomains.ToValue(variables[variable], assigned));
            return places[variable][assigned] = values[variable].Count - 1;
        }
    }

    /// <summary>Of the known configurations first those that have a value that no other one of them has, then the latest.</summary>
    private static List<Assigned[]> Chosen(PreparedNetwork prepared)
    {
        var known = prepared.Known.Containing([]).ToList();
        var (chosen, others, covered) = (new List<Assigned[]>(), new List<Assigned[]>(), new HashSet<(int, Assigned)>());
        foreach (var configuration in known)
        {
            var isNew = false;
            for (var v = 0; v < configuration.Length; v++)
                isNew |= covered.Add((v, configuration[v]));
            (isNew ? chosen : others).Add(configuration);
        }
        // The latest is to be the latest again.
        return [.. chosen.Concat(others).Take(WarmState.MostConfigurations).Reverse()];
    }

    /// <summary>Takes over a state, unless it is of another model. False: it is.</summary>
    public static bool TakeOver(PreparedNetwork prepared, WarmState state)
    {
        var variables = prepared.Network.Variables;
        if (prepared.Start is null || state.Variables.Length != variables.Length
            || (state.Configurations.IsEmpty && state.Diagrams.IsEmpty)
            || !variables.All(v => state.Variables[v.Index].Path == v.Path))
            return false;
        var configurations = new List<Assigned[]>(state.Configurations.Length);
        var (evaluator, evaluated) = (new PointEvaluator(prepared.Network), new Assigned[variables.Length]);
        foreach (var places in state.Configurations)
        {
            // One that does not hold here shows that the state is of something else.
            if (ToConfiguration(variables, state, places) is not { } configuration
                || evaluator.Evaluate(configuration, new Assigned?[variables.Length], evaluated) != Verdict.Solution
                    || !evaluated.AsSpan().SequenceEqual(configuration))
                return false;
            configurations.Add(configuration);
        }
        if (!state.Variables.All(v => IsOf(prepared.VariableAt(v.Path)!, v.Available)))
            return false;
        foreach (var configuration in configurations)
            prepared.Known.Add(configuration);
        prepared.TakeOver(state.Diagrams);
        prepared.Known.NarrowedByNothing([.. state.Variables.Select(v => v.Available)]);
        return true;
    }

    private static bool IsOf(Variable variable, Available available) =>
        available.Values.All(v => PickDomains.Assignment(variable, v) is not null)
        && (available.Lowest is not { } lowest
            || (variable.StepOf(lowest) is not null && available.Highest is { } highest && variable.StepOf(highest) is not null));

    private static Assigned[]? ToConfiguration(Variable[] variables, WarmState state, ImmutableArray<int> places)
    {
        if (places.Length != variables.Length)
            return null;
        var configuration = new Assigned[variables.Length];
        for (var v = 0; v < configuration.Length; v++)
        {
            var values = state.Variables[v].Values;
            Assigned? assigned = places[v] switch
            {
                WarmState.Absent => Assigned.Absent,
                WarmState.None => PickDomains.Assignment(variables[v], Value.Nothing),
                var place when place >= 0 && place < values.Length => PickDomains.Assignment(variables[v], values[place]),
                _ => null,
            };
            if (assigned is not { } found || !variables[v].Initial.Allows(found))
                return null;
            configuration[v] = found;
        }
        return configuration;
    }
}
