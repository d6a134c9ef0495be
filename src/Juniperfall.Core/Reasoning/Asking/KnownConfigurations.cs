using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>
/// The configurations that earlier questions have found, which answer later ones: as values that are numbered through where the network
/// has few enough, otherwise as they are. Safe for concurrent use.
/// </summary>
internal sealed class KnownConfigurations(PreparedNetwork prepared)
{
    private const int MostTakenOver = 120;

    /// <summary>What is remembered of a network whose values are too many to be numbered through.</summary>
    public SolutionMemory Memory { get; } = new(prepared.Network.Variables.Length);

    /// <summary>Those that contain some picks, the latest first.</summary>
    public IEnumerable<Assigned[]> Containing(IEnumerable<Pick> picks) => prepared.Discrete is { } discrete
        ? Slots(discrete, picks) is { } wanted
            ? discrete.Pool.Containing(wanted).AsEnumerable().Reverse().Select(w => discrete.Slots.ToConfiguration(w.Slots)) : []
        : Memory.Containing(prepared.Wanted(picks)).Select(s => s.Base);

    /// <summary>The latest that contains some picks; null where there is none.</summary>
    public Assigned[]? LatestContaining(IEnumerable<Pick> picks) => prepared.Discrete is { } discrete
        ? Slots(discrete, picks) is { } wanted && discrete.Pool.LatestContaining(wanted) is { } latest ? discrete.Slots.ToConfiguration(latest.Slots) : null
        : Containing(picks).FirstOrDefault();

    /// <summary>The slots that picks ask for; null where some pick can never be kept.</summary>
    public int[]? Slots(DiscreteNetwork discrete, IEnumerable<Pick> picks)
    {
        // What no configuration has is kept where its variable does not apply.
        int[] wanted = [.. prepared.Wanted(picks)
            .Select(w => discrete.Slots.Of(w.Variable, w.Value) is >= 0 and var slot ? slot : discrete.Slots.AbsentOf(w.Variable))];
        return Array.Exists(wanted, w => w < 0) ? null : wanted;
    }

    public void Add(Assigned[] configuration)
    {
        if (prepared.Discrete is not { } discrete)
            Memory.Add(new(configuration, -1, []));
        else
            discrete.Pool.Add(new(discrete.Slots.Of(configuration)!, discrete.Slots.Words));
    }

    /// <summary>By variable, what can be had where nothing is picked, exactly; null where that was not found out yet.</summary>
    public Available[]? BesideNothing { get; private set; }

    /// <summary>Keeps to what can be had of all variables where nothing is picked, exactly.</summary>
    /// <param name="available">By variable.</param>
    public void NarrowedByNothing(Available[] available)
    {
        BesideNothing = available;
        var variables = prepared.Network.Variables;
        if (prepared.Discrete is not { } discrete)
        {
            Memory.Narrowed([], [.. variables.Select(v => (v, PickDomains.Hull(v, available[v.Index])))]);
            return;
        }
        var left = discrete.Slots.Full();
        foreach (var variable in variables)
        {
            var hull = PickDomains.Hull(variable, available[variable.Index]);
            discrete.Slots.Restrict(left, variable.Index, hull);
            if (variable.Initial.Kind == DomainKind.Number && available[variable.Index].Listed)
                discrete.Slots.KeepSteps(left, variable.Index, [.. available[variable.Index].Values.Select(v => variable.StepOf(v.Number)!.Value)]);
        }
        discrete.Pool.Narrowed([], left);
    }

    /// <summary>Takes over configurations of an earlier state of the model that still hold.</summary>
    public void TakeOver(PreparedNetwork previous)
    {
        var evaluator = new PointEvaluator(prepared.Network);
        foreach (var known in previous.Known.Containing([]).Take(MostTakenOver))
            if (Evaluated(evaluator, Wanted(variable => previous.VariableAt(variable.Path) is { } before && known[before.Index].Outcome != Outcomes.Absent
                ? PickDomains.ToValue(before, known[before.Index]) : null)) is { } solution)
                Add(solution);
    }

    /// <summary>The configuration that has these values wherever it can, the preferred ones elsewhere; null where that is none.</summary>
    public Assigned[]? Near(IReadOnlyCollection<Pick> picks) => Evaluated(new(prepared.Network), Wanted(picks));

    /// <summary>By variable, the value that is wanted of it; absent where none is, or it has no such value.</summary>
    public Assigned[] Wanted(IReadOnlyCollection<Pick> picks)
    {
        var values = picks.DistinctBy(p => p.Path).ToDictionary(p => p.Path, p => p.Value);
        return Wanted(variable => values.TryGetValue(variable.Path, out var value) ? value : null);
    }

    private Assigned[] Wanted(Func<Variable, Value?> valueOf) => [.. prepared.Network.Variables.Select(variable =>
        valueOf(variable) is { } value && PickDomains.Assignment(variable, value) is { } assigned ? assigned : Assigned.Absent)];

    private Assigned[]? Evaluated(PointEvaluator evaluator, Assigned[] wanted)
    {
        var variables = prepared.Network.Variables;
        var solution = new Assigned[wanted.Length];
        return evaluator.Evaluate(wanted, prepared.Suggestions.Preferred, solution) == Verdict.Solution
            && Array.TrueForAll(variables, v => v.Initial.Allows(solution[v.Index])) ? solution : null;
    }
}
