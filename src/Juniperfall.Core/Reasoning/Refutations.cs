using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Why values that intervals of doubles could not tell apart from a solution are none: only what the exact evaluation read
/// until it failed, so that the same is not refuted again with everything else in another way.
/// </summary>
internal sealed partial class Search
{
    /// <summary>Marks what of a refuted assignment cannot stand together, after it was evaluated.</summary>
    private void MarkRefuted(Assigned[] solution, Assigned[] evaluated, Verdict verdict)
    {
        var failed = _evaluator.FailedAt;
        foreach (var n in verdict == Verdict.Undecided ? [] : _network.Order)
        {
            // One that applies though its condition does not hold, or the other way round; all before it are as they were assigned.
            if (_network.Nodes[n].Variable is { } variable && (n == failed || evaluated[variable.Index] != solution[variable.Index]))
            {
                MarkDomain(n, _trailCount);
                if (_network.PresenceOf[n] is >= 0 and var presence)
                {
                    MarkUnder(_network.ConditionOf[n]);
                    MarkGroup(_network.Nodes[presence].Group);
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
        if (verdict == Verdict.Solution && _wanted is { } wanted && _evaluator.OutcomeOf(wanted.Node) != wanted.Outcome)
        {
            MarkUnder(wanted.Node);
            MarkLiteral(Literal(wanted.Node, wanted.Outcome));
            return;
        }
        foreach (var variable in _network.Variables)
            MarkDomain(variable.Node, _trailCount);
        for (var group = 0; group < _groupLiterals.Length; group++)
            MarkGroup(group);
        if (_wanted is { } asked)
            MarkLiteral(Literal(asked.Node, asked.Outcome));
        if (_objective is { } objective)
            MarkLiteral(objective.Literal);
    }

    private void MarkUnder(int node)
    {
        foreach (var n in _network.Under(node))
            if (_network.Nodes[n].Variable is not null)
                MarkDomain(n, _trailCount);
    }

    private void MarkRootsAt(int node)
    {
        foreach (var (root, _, group) in _network.Roots)
            if (root == node)
                MarkGroup(group);
    }

    private void MarkGroup(int group)
    {
        if (group >= 0 && IsTrue(_groupLiterals[group]))
            MarkLiteral(_groupLiterals[group]);
    }
}
