using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Propagators of Kleene's logic, and of what applies exactly where a condition holds.</summary>
internal sealed class LogicPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
    {
        var c = node.Children;
        return node.Operator switch
        {
            Operator.And => ReviseLogic(n, c[0], c[1], BinaryLogic.And),
            Operator.Or => ReviseLogic(n, c[0], c[1], BinaryLogic.Or),
            Operator.SameYesNo => ReviseLogic(n, c[0], c[1], BinaryLogic.Same),
            Operator.OtherYesNo => ReviseLogic(n, c[0], c[1], BinaryLogic.Other),
            Operator.Not => ReviseLogic(n, c[0], UnaryLogic.Not),
            Operator.Holds => ReviseLogic(n, c[0], UnaryLogic.Holds),
            Operator.IsNone => ReviseLogic(n, c[0], UnaryLogic.IsNone),
            _ => !_store.IsActive(node.Group) || RevisePresence(c[0], c[1]),
        };
    }

    private bool ReviseLogic(int n, int a, int b, BinaryLogic logic) =>
        SetOutcomes(n, logic.Results(_domains[a].Outcomes, _domains[b].Outcomes))
        && SetOutcomes(a, logic.Operands(_domains[n].Outcomes, _domains[b].Outcomes))
        && SetOutcomes(b, logic.Operands(_domains[n].Outcomes, _domains[a].Outcomes));

    private bool ReviseLogic(int n, int a, UnaryLogic logic) =>
        SetOutcomes(n, logic.Results(_domains[a].Outcomes)) && SetOutcomes(a, logic.Operands(_domains[n].Outcomes));

    private bool RevisePresence(int condition, int variable)
    {
        var truth = _domains[condition].Outcomes;
        if ((truth & Outcomes.True) == 0 && !SetOutcomes(variable, Outcomes.Absent))
            return false;
        if ((truth & (Outcomes.False | Outcomes.Absent)) == 0 && !SetOutcomes(variable, ~Outcomes.Absent))
            return false;
        var outcomes = _domains[variable].Outcomes;
        if ((outcomes & Outcomes.Absent) == 0 && !SetOutcomes(condition, Outcomes.True))
            return false;
        return outcomes != Outcomes.Absent || SetOutcomes(condition, ~Outcomes.True);
    }
}
