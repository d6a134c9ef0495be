using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>
/// Finds further members of a refuted set that are needed, from one that is: a configuration that breaks that member alone is
/// changed in one attribute, and where it then breaks another member alone, that one is needed too (Belov and Marques-Silva,
/// “Accelerating MUS extraction with recursive model rotation”, 2011). Along a chain of rules each member costs an evaluation
/// instead of a search.
/// </summary>
/// <param name="evaluator">One over the network, for the time being.</param>
/// <param name="picks">The picks, whose places are the first of the members; groups follow.</param>
/// <param name="members">What the set is part of.</param>
internal sealed class ModelRotation(Network network, PointEvaluator evaluator, (Variable Variable, Pick Pick)[] picks, IEnumerable<int> members)
{
    /// <summary>How many values of a choice are tried in place of the one it has.</summary>
    private const int MostValues = 8;

    private readonly Assigned?[] _unwanted = new Assigned?[network.Variables.Length];
    private readonly Assigned[] _evaluated = new Assigned[network.Variables.Length];

    /// <summary>By node: whether any of the members, or what holds in any case, reads it.</summary>
    private readonly bool[] _read =
        NodesRead(network, [.. members.Select(m => m < picks.Length ? (picks[m].Variable.Node, -1) : (-1, m - picks.Length)), (-1, -1)]);

    private static bool[] NodesRead(Network network, IEnumerable<(int Node, int Group)> from)
    {
        var (read, open) = (new bool[network.Nodes.Length], new Stack<int>());
        foreach (var (node, group) in from)
            if (node >= 0)
                open.Push(node);
            else
                foreach (var root in network.RootsOf(group))
                    open.Push(root.Node);
        while (open.TryPop(out var node))
        {
            if (read[node])
                continue;
            read[node] = true;
            foreach (var child in network.Nodes[node].Children)
                open.Push(child);
            if (network.ConditionOf[node] is >= 0 and var condition)
                open.Push(condition);
        }
        return read;
    }

    /// <summary>Adds to the needed ones what a configuration without one member shows to be needed as well.</summary>
    /// <param name="item">The member that the configuration breaks.</param>
    /// <param name="core">All members.</param>
    /// <param name="within">Domains that the configuration lies in.</param>
    public void Spread(int item, HashSet<int> core, Assigned[] configuration, (Variable Variable, VariableDomain To)[] within, HashSet<int> needed)
    {
        needed.Add(item);
        if (IsCondition(item))
            return;
        var current = (Assigned[])configuration.Clone();
        evaluator.Activate(group => core.Contains(group + picks.Length) && network.IsCondition(group), _read);
        if (evaluator.Evaluate(current, _unwanted, _evaluated) != Verdict.Solution)
            return;
        for (int? at = item; at is { } broken;)
            at = Step(broken, core, current, within, needed);
    }

    /// <summary>The member that is needed next to one that is broken; null where none shows.</summary>
    private int? Step(int broken, HashSet<int> core, Assigned[] current, (Variable Variable, VariableDomain To)[] within, HashSet<int> needed)
    {
        foreach (var variable in VariablesOf(broken))
        {
            var (before, tried) = (current[variable.Index], 0);
            foreach (var value in ValuesOf(variable.Initial))
            {
                if (value == before || tried++ == MostValues || within.Any(w => w.Variable == variable && !w.To.Allows(value)))
                    continue;
                current[variable.Index] = value;
                if (evaluator.EvaluateChanged(variable, current, _unwanted, _evaluated, null) == Verdict.Solution && _evaluated[variable.Index] == value
                    && OnlyBroken(core) is { } other && needed.Add(other))
                {
                    if (!IsCondition(other))
                        return other;
                }
            }
            current[variable.Index] = before;
            evaluator.EvaluateChanged(variable, current, _unwanted, _evaluated, null);
        }
        return null;
    }

    private bool IsCondition(int item) => item >= picks.Length && network.IsCondition(item - picks.Length);

    private IEnumerable<Variable> VariablesOf(int item) => item < picks.Length ? [picks[item].Variable]
        : network.RootsOf(item - picks.Length).SelectMany(r => network.VariablesUnder(r.Node)).Distinct().Select(v => network.Variables[v]);

    private static IEnumerable<Assigned> ValuesOf(VariableDomain domain)
    {
        foreach (var outcome in new[] { Outcomes.False, Outcomes.True, Outcomes.None })
            if ((domain.Outcomes & outcome) != 0)
                yield return new(outcome, 0);
        if (domain.MayBePresent && domain.Kind == DomainKind.Choice)
            foreach (var value in BitSet.Members(domain.Bits!))
                yield return new(Outcomes.Present, value);
    }

    /// <summary>The one member that the evaluated configuration breaks; null where it breaks none or several.</summary>
    private int? OnlyBroken(HashSet<int> core)
    {
        int? found = null;
        foreach (var item in core)
            if (Breaks(item))
            {
                if (found is not null)
                    return null;
                found = item;
            }
        return found;
    }

    private bool Breaks(int item)
    {
        if (item < picks.Length)
            return !PickDomains.Containing(picks[item].Variable, picks[item].Pick.Value).Allows(_evaluated[picks[item].Variable.Index]);
        foreach (var (node, allowed) in network.RootsOf(item - picks.Length))
            if ((evaluator.OutcomeOf(node) & allowed) == 0)
                return true;
        return false;
    }
}
