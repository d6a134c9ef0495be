using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// The propagators: for each operator, what the children allow the node and what the node allows the children. None ever
/// removes what a solution has. Strict operators have no value where a child has none.
/// </summary>
internal partial class Propagation<T>
{
    protected bool Revise(int n)
    {
        var node = _nodes[n];
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Variable or Operator.Constant:
                return true;
            case Operator.Presence:
                return !IsActive(node.Group) || RevisePresence(c[0], c[1]);
            case Operator.InOrder:
                return (_domains[n].Outcomes & Outcomes.False) != 0 || ReviseInOrder(c);
            case Operator.And:
                return ReviseLogic(n, c[0], c[1], BinaryLogic.And);
            case Operator.Or:
                return ReviseLogic(n, c[0], c[1], BinaryLogic.Or);
            case Operator.SameYesNo:
                return ReviseLogic(n, c[0], c[1], BinaryLogic.Same);
            case Operator.OtherYesNo:
                return ReviseLogic(n, c[0], c[1], BinaryLogic.Other);
            case Operator.Not:
                return ReviseLogic(n, c[0], UnaryLogic.Not);
            case Operator.Holds:
                return ReviseLogic(n, c[0], UnaryLogic.Holds);
            case Operator.IsNone:
                return ReviseLogic(n, c[0], UnaryLogic.IsNone);
            case Operator.If:
                return ReviseIf(n, c[0], c[1], c[2], hasElse: true);
            case Operator.Where:
                return ReviseIf(n, c[0], c[1], -1, hasElse: false);
            case Operator.Else:
                return ReviseElse(n, c[0], c[1]);
            case Operator.ToNumber:
                return ReviseToNumber(n, c);
            case Operator.Counting:
                return ReviseCounting(n, node);
            case Operator.LeastOf or Operator.GreatestOf:
                return ReviseExtremeOf(n, c, node.Operator == Operator.LeastOf);
            case Operator.Property:
                return ReviseProperty(n, c[0], node);
            case Operator.Table:
                return ReviseTable(n, c, node.Grid!);
            case Operator.Figure:
                return ReviseFigure(n, c, node);
            case Operator.Less or Operator.LessOrEqual or Operator.Equal or Operator.NotEqual:
                return Strict(n, c, Outcomes.True | Outcomes.False) && (!AllMayHaveValue(c) || ReviseComparison(n, node.Operator, c, c[0], c[1]));
            case Operator.SameChoice or Operator.OtherChoice:
                return Strict(n, c, Outcomes.True | Outcomes.False) && (!AllMayHaveValue(c) || ReviseChoices(n, node.Operator == Operator.SameChoice, c, c[0], c[1]));
            default:
                var ownError = node.Operator is Operator.Divide or Operator.SquareRoot or Operator.Power or Operator.Ceiling or Operator.Floor or Operator.Round ? Outcomes.Error : 0;
                return Strict(n, c, Outcomes.Present | ownError) && (!AllMayHaveValue(c) || ReviseArithmetic(n, node));
        }
    }

    private bool AllMayHaveValue(int[] children)
    {
        foreach (var child in children)
            if (!_domains[child].MayHaveValue)
                return false;
        return true;
    }

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

    /// <summary>Outcomes of a strict operator: an error dominates, then no value; otherwise the operator computes.</summary>
    private bool Strict(int n, int[] children, Outcomes computed)
    {
        var may = Outcomes.Impossible;
        var all = true;
        foreach (var child in children)
        {
            var outcomes = _domains[child].Outcomes;
            if ((outcomes & (Outcomes.Absent | Outcomes.None)) != 0)
                may |= Outcomes.Absent;
            may |= outcomes & Outcomes.Error;
            all &= (outcomes & Outcomes.Value) != 0;
        }
        var childMayFail = (may & Outcomes.Error) != 0;
        if (all)
            may |= computed;
        if (!SetOutcomes(n, may))
            return false;
        var left = _domains[n].Outcomes;
        foreach (var child in children)
        {
            if ((left & Outcomes.Error) == 0 && !SetOutcomes(child, ~Outcomes.Error))
                return false;
            if ((left & Outcomes.Absent) == 0 && (!childMayFail || (left & Outcomes.Error) == 0) && !SetOutcomes(child, Outcomes.Value))
                return false;
        }
        return left != Outcomes.Absent || OnlyWithoutSureValue(children) is not { } one || SetOutcomes(one, ~Outcomes.Value);
    }

    /// <summary>The one child that may have no value; null where there is none or more than one.</summary>
    private int? OnlyWithoutSureValue(int[] children)
    {
        int? found = null;
        foreach (var child in children)
            if (!_domains[child].MustHaveValue)
            {
                if (found is not null)
                    return null;
                found = child;
            }
        return found;
    }

    /// <summary>Whether the node's value binds this child: only where every other child certainly has a value.</summary>
    private bool Binds(int[] children, int child)
    {
        foreach (var other in children)
            if (other != child && !_domains[other].MustHaveValue)
                return false;
        return true;
    }
}
