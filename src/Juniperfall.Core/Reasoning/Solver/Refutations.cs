using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Why values that intervals of doubles could not tell apart from a solution are none: only what the exact evaluation read
/// until it failed, so that the same is not refuted again with everything else in another way.
/// </summary>
internal sealed class Refutations(LiteralStore store, ConflictMarks marks, PointEvaluator evaluator)
{
    /// <summary>Marks what of a refuted assignment cannot stand together, after it was evaluated.</summary>
    /// <param name="wantedOutcome">What a node is to come out as; null where nothing is asked of one.</param>
    /// <param name="objectiveLiteral">The literal under which what is learned of an objective holds; true where there is none.</param>
    public void Mark(Assigned[] solution, Assigned[] evaluated, Verdict verdict, (int Node, Outcomes Outcome)? wantedOutcome, int objectiveLiteral)
    {
        var failed = evaluator.FailedAt;
        foreach (var n in verdict == Verdict.Undecided ? [] : store.Network.Order)
        {
            // One that applies though its condition does not hold, or the other way round; all before it are as they were assigned.
            if (store.Network.Nodes[n].Variable is { } variable && (n == failed || evaluated[variable.Index] != solution[variable.Index]))
            {
                marks.MarkDomain(n);
                if (store.Network.PresenceOf[n] is >= 0 and var presence)
                {
                    MarkUnder(store.Network.ConditionOf[n]);
                    marks.MarkGroup(store.Network.Nodes[presence].Group);
                }
                MarkRootsAt(n);
                return;
            }
            if (n == failed)
            {
                MarkUnder(n);
                MarkRootsAt(n);
                return;
            }
        }
        if (verdict == Verdict.Solution && wantedOutcome is { } wanted && evaluator.OutcomeOf(wanted.Node) != wanted.Outcome)
        {
            MarkUnder(wanted.Node);
            marks.MarkLiteral(store.Names.Of(wanted.Node, wanted.Outcome));
            return;
        }
        foreach (var variable in store.Network.Variables)
            marks.MarkDomain(variable.Node);
        for (var group = 0; group < store.Network.Groups.Length; group++)
            marks.MarkGroup(group);
        if (wantedOutcome is { } asked)
            marks.MarkLiteral(store.Names.Of(asked.Node, asked.Outcome));
        marks.MarkLiteral(objectiveLiteral);
    }

    private void MarkUnder(int node)
    {
        foreach (var n in store.Network.Under(node))
            if (store.Network.Nodes[n].Variable is not null)
                marks.MarkDomain(n);
    }

    private void MarkRootsAt(int node)
    {
        foreach (var (root, _, group) in store.Network.Roots)
            if (root == node)
                marks.MarkGroup(group);
    }
}
