using Juniperfall.Core.Language;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>
/// Cardinality: how many of the children are true, whatever their number, by counting those that are and those that may be (Régin,
/// “Generalized arc consistency for global cardinality constraint”, 1996, for one value).
/// </summary>
internal sealed class CountingPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
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
            CountingKind.Exactly => (sureTrue <= k && k <= mayTrue && !mustNothing, mayTrue > k || sureNotFalse < k,
                mayNothing && sureTrue <= k && k <= mayNotFalse),
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
            if (node.CountingKind != CountingKind.AtMost && mayTrue == k && (_domains[child].Outcomes & Outcomes.True) != 0
                && !SetOutcomes(child, Outcomes.True))
                return false;
        }
        return true;
    }
}
