using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Networks.Building;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Which lines some complete configuration with picks has, and which some lacks. Suggestions do not count.</summary>
internal sealed class LinePossibilities(PreparedNetwork prepared)
{
    /// <summary>The network with nodes that say whether lines are there.</summary>
    private readonly Lazy<Network> _withOutcomes = new(() => NetworkBuilder.Build(prepared.Model, prepared.At, null, NetworkExtras.Outcomes));

    /// <param name="question">Picks that cannot join the earlier ones are left out.</param>
    /// <returns>By the path of each part and operation line.</returns>
    public IReadOnlyDictionary<string, LinePossibility> Of(Question question, CancellationToken cancel)
    {
        var network = _withOutcomes.Value;
        var probes = network.Probes.Where(p => p.Kind == ProbeKind.LineIn).ToList();
        try
        {
            return prepared.SearchOver(network, cancel) is { } session ? Of(session, network, probes, question)
                : probes.ToDictionary(PathOf, _ => new LinePossibility(false, true));
        }
        catch (SearchInterrupted)
        {
            return probes.ToDictionary(PathOf, _ => new LinePossibility(null, null));
        }
    }

    private Dictionary<string, LinePossibility> Of(SearchSession session, Network network, List<Probe> probes, Question question)
    {
        var (canBeIn, canBeOut, evaluator) = (new bool?[probes.Count], new bool?[probes.Count], new PointEvaluator(network));
        try
        {
            var standing = new List<(Variable, VariableDomain)>();
            Assigned[]? containing = null;
            foreach (var (variable, pick) in prepared.OfVariables(question.Picks))
            {
                standing.Add((variable, PickDomains.Containing(variable, pick.Value)));
                if (session.Try(standing) is { } found)
                    containing = found;
                else
                    standing.RemoveAt(standing.Count - 1);
            }
            if (containing is not null)
                Note(containing);
            foreach (var solution in prepared.Known.Containing(question.Picks))
                Note(solution);
            session.Standing.Clear();
            session.Stand(standing);
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
        return probes.Select((p, i) => (Path: PathOf(p), Possibility: new LinePossibility(canBeIn[i], canBeOut[i])))
            .ToDictionary(x => x.Path, x => x.Possibility);

        bool Ask(int node, Outcomes outcome)
        {
            if (session.Search.SolveFor(node, outcome, session.Standing) is not { } solution)
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

    private static string PathOf(Probe probe) => probe.Occurrence.Prefix + probe.Row.Id;
}
