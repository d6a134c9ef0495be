using Juniperfall.Core.Language;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Propagators of logic and counting.</summary>
internal partial class Propagation<T>
{
    private bool ReviseLogic(int n, int a, int b, BinaryLogic logic) =>
        SetOutcomes(n, logic.Results(_domains[a].Outcomes, _domains[b].Outcomes))
        && SetOutcomes(a, logic.Operands(_domains[n].Outcomes, _domains[b].Outcomes))
        && SetOutcomes(b, logic.Operands(_domains[n].Outcomes, _domains[a].Outcomes));

    private bool ReviseLogic(int n, int a, UnaryLogic logic) =>
        SetOutcomes(n, logic.Results(_domains[a].Outcomes)) && SetOutcomes(a, logic.Operands(_domains[n].Outcomes));

    private bool ReviseCounting(int n, Node node)
    {
        var (sureTrue, mayTrue, sureNotFalse, mayNotFalse, mayNothing, mustNothing) = (0, 0, 0, 0, false, false);
        var mustFail = false;
        Outcomes errors = 0;
        foreach (var child in node.Children)
        {
            var outcomes = _domains[child].Outcomes;
            var nothing = outcomes & (Outcomes.Absent | Outcomes.None);
            if (outcomes == Outcomes.True) sureTrue++;
            if ((outcomes & Outcomes.True) != 0) mayTrue++;
            if ((outcomes & Outcomes.False) == 0) sureNotFalse++;
            if ((outcomes & ~Outcomes.False & ~Outcomes.Error) != 0) mayNotFalse++;
            mayNothing |= nothing != 0;
            mustNothing |= nothing != 0 && nothing == outcomes;
            errors |= outcomes & Outcomes.Error;
            mustFail |= outcomes == Outcomes.Error;
        }
        var k = node.Count;
        var (isTrue, isFalse, isNothing) = node.CountingKind switch
        {
            CountingKind.Exactly => (sureTrue <= k && k <= mayTrue && !mustNothing, mayTrue > k || sureNotFalse < k, mayNothing && sureTrue <= k && k <= mayNotFalse),
            CountingKind.AtMost => (sureNotFalse <= k, mayTrue > k, mayNothing && sureTrue <= k && k < mayNotFalse),
            _ => (mayTrue >= k, sureNotFalse < k, mayNothing && sureTrue < k && k <= mayNotFalse),
        };
        var may = mustFail ? Outcomes.Error : errors | (isTrue ? Outcomes.True : 0) | (isFalse ? Outcomes.False : 0) | (isNothing ? Outcomes.Absent : 0);
        if (!SetOutcomes(n, may))
            return false;
        if ((_domains[n].Outcomes & ~Outcomes.Absent) != Outcomes.True || mayNothing || errors != 0)
            return true;
        foreach (var child in node.Children)
        {
            if (_domains[child].Outcomes == Outcomes.True)
                continue;
            if (node.CountingKind != CountingKind.AtLeast && sureTrue == k && !SetOutcomes(child, ~Outcomes.True))
                return false;
            if (node.CountingKind != CountingKind.AtMost && mayTrue == k && (_domains[child].Outcomes & Outcomes.True) != 0 && !SetOutcomes(child, Outcomes.True))
                return false;
        }
        return true;
    }
}
