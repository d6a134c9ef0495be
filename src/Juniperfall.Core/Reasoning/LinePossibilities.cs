using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Whether a line of the full structure can be there, and can be missing, beside some picks; null where time ran out.</summary>
public sealed record LinePossibility(bool? MayBeIn, bool? MayBeOut);

/// <summary>Which lines some complete configuration with the picks has, and which some lacks. Suggestions do not count.</summary>
public sealed partial class Reasoner
{
    private Network? _withOutcomes;

    /// <summary>The network with nodes that say whether lines are there. Built once; two that build it at once build the same.</summary>
    private Network WithOutcomes => _withOutcomes ??= NetworkBuilder.Build(Model, _at, null, NetworkExtras.Outcomes);

    /// <param name="picks">Picks that stand together; those that cannot join the earlier ones are left out.</param>
    /// <returns>By the path of each part and operation line.</returns>
    public IReadOnlyDictionary<string, LinePossibility> Lines(Question question, CancellationToken cancel)
    {
        var network = WithOutcomes;
        var probes = network.Probes.Where(p => p.Kind == ProbeKind.LineIn).ToList();
        var (canBeIn, canBeOut) = (new bool?[probes.Count], new bool?[probes.Count]);
        if (_start is null || Propagated(network, network.Rough, withGroups: true) is not { } start)
            return probes.ToDictionary(p => p.Occurrence.Prefix + p.Row.Id, _ => new LinePossibility(false, true));
        var (search, evaluator) = (new Search(network, start, GroupsHold.Always) { Cancel = cancel }, new PointEvaluator(network));
        PreferSuggestions(search, network);
        try
        {
            var standing = new List<(Variable, VariableDomain)>();
            Assigned[]? containing = null;
            foreach (var (variable, pick) in Known(question.Picks))
            {
                standing.Add((variable, Containing(variable, pick.Value)));
                if (search.Try(standing) is { } found)
                    containing = found;
                else
                    standing.RemoveAt(standing.Count - 1);
            }
            if (containing is not null)
                Note(containing);
            foreach (var solution in KnownContaining(question.Picks))
                Note(solution);
            search.Standing.Clear();
            search.Stand(standing);
            for (var i = 0; i < probes.Count; i++)
            {
                canBeIn[i] ??= Ask(probes[i].Node, Outcomes.True);
                canBeOut[i] ??= Ask(probes[i].Node, Outcomes.False);
            }
        }
        catch (SearchInterrupted)
        {
            // What is not known yet is left open.
        }
        return probes.Select((p, i) => (Path: p.Occurrence.Prefix + p.Row.Id, Possibility: new LinePossibility(canBeIn[i], canBeOut[i]))).ToDictionary(x => x.Path, x => x.Possibility);

        bool Ask(int node, Outcomes outcome)
        {
            if (search.SolveFor(node, outcome, search.Standing) is not { } solution)
                return false;
            Note(solution);
            return true;
        }

        void Note(Assigned[] solution)
        {
            if (evaluator.Evaluate(solution, new Assigned?[solution.Length], new Assigned[solution.Length]) != Verdict.Solution)
                return;
            for (var i = 0; i < probes.Count; i++)
                if (evaluator.OutcomeOf(probes[i].Node) == Outcomes.True)
                    canBeIn[i] = true;
                else
                    canBeOut[i] = true;
        }
    }
}
