using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Propagators of what stands for one of several values, by a condition or by whether it has one.</summary>
internal sealed class ConditionalPropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
    {
        var c = node.Children;
        return node.Operator switch
        {
            Operator.If => ReviseIf(n, c[0], c[1], c[2], hasElse: true),
            Operator.Where => ReviseIf(n, c[0], c[1], -1, hasElse: false),
            _ => ReviseElse(n, c[0], c[1]),
        };
    }

    /// <summary>Makes the node and the child that it stands for agree. None of the child is no value of the node.</summary>
    private bool Agree(int n, int child)
    {
        var back = (_domains[n].Outcomes & Outcomes.Absent) != 0 ? _domains[n].Outcomes | Outcomes.None : _domains[n].Outcomes;
        return SetOutcomes(n, Folded(_domains[child].Outcomes)) && SetOutcomes(child, back) && SameValues(n, child) && SameValues(child, n);
    }

    private bool SameValues(int to, int from)
    {
        ref readonly var domain = ref _domains[from];
        if (!domain.MayBePresent)
            return true;
        return domain.Kind == DomainKind.Choice ? SetBits(to, domain.Bits!) : SetBounds(to, domain.Numbers);
    }

    private bool ReviseIf(int n, int condition, int then, int otherwise, bool hasElse)
    {
        var truth = _domains[condition].Outcomes;
        var mayThen = (truth & Outcomes.True) != 0 && Overlap(_domains[n], _domains[then]);
        var mayElse = (truth & Outcomes.False) != 0 && (hasElse ? Overlap(_domains[n], _domains[otherwise]) : (_domains[n].Outcomes & Outcomes.Absent) != 0);
        var mayNothing = (truth & (Outcomes.Absent | Outcomes.None)) != 0 && (_domains[n].Outcomes & Outcomes.Absent) != 0;
        var mayFail = (truth & Outcomes.Error) != 0 && (_domains[n].Outcomes & Outcomes.Error) != 0;
        if (!SetOutcomes(condition, (mayThen ? Outcomes.True : 0) | (mayElse ? Outcomes.False : 0) | (mayNothing
            ? Outcomes.Absent | Outcomes.None : 0) | (mayFail ? Outcomes.Error : 0)))
            return false;
        if (mayThen && !mayElse && !mayNothing && !mayFail)
            return Agree(n, then);
        if (mayElse && hasElse && !mayThen && !mayNothing && !mayFail)
            return Agree(n, otherwise);
        var hull = new Domain<T> { Kind = _domains[n].Kind };
        if (mayThen)
            Join(ref hull, _domains[then]);
        if (mayElse && hasElse)
            Join(ref hull, _domains[otherwise]);
        if (mayNothing || (mayElse && !hasElse))
            hull.Outcomes |= Outcomes.Absent;
        if (mayFail)
            hull.Outcomes |= Outcomes.Error;
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull);
    }

    private bool ReviseElse(int n, int value, int fallback)
    {
        var outcomes = _domains[value].Outcomes;
        var mayFall = (outcomes & (Outcomes.Absent | Outcomes.None)) != 0;
        if (mayFall && !Overlap(_domains[n], _domains[fallback]))
        {
            if (!SetOutcomes(value, ~(Outcomes.Absent | Outcomes.None)))
                return false;
            mayFall = false;
        }
        if (!mayFall)
            return Agree(n, value);
        var hull = _domains[value];
        hull.Outcomes &= ~(Outcomes.Absent | Outcomes.None);
        Join(ref hull, _domains[fallback]);
        return SetOutcomes(n, hull.Outcomes) && NarrowTo(n, hull);
    }
}
