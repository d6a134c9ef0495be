using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Propagation;

/// <summary>Propagators of choices: comparisons of them and the properties of the chosen value.</summary>
internal sealed class ChoicePropagator<T>(DomainStore<T> store) : Propagator<T>(store) where T : struct, IEnd<T>
{
    public override bool Revise(int n, Node node)
    {
        var c = node.Children;
        return node.Operator == Operator.Property ? ReviseProperty(n, c[0], node)
            : Strict(n, c, Outcomes.True | Outcomes.False) && (!AllMayHaveValue(c) || ReviseChoices(n, node.Operator == Operator.SameChoice, c, c[0], c[1]));
    }

    private bool ReviseChoices(int n, bool same, int[] children, int a, int b)
    {
        var (left, right) = (_domains[a].Bits!, _domains[b].Bits!);
        var may = Outcomes.NoValue;
        if (BitSet.Intersects(left, right))
            may |= same ? Outcomes.True : Outcomes.False;
        if (BitSet.Count(left) > 1 || BitSet.Count(right) > 1 || BitSet.First(left) != BitSet.First(right))
            may |= same ? Outcomes.False : Outcomes.True;
        if (!SetOutcomes(n, may))
            return false;
        var truth = _domains[n].Outcomes & Outcomes.Value;
        if (truth == (same ? Outcomes.True : Outcomes.False))
            return (!Binds(children, a) || SetBits(a, right)) && (!Binds(children, b) || SetBits(b, _domains[a].Bits!));
        return truth != (same ? Outcomes.False : Outcomes.True) || (Exclude(children, a, b) && Exclude(children, b, a));
    }

    private bool Exclude(int[] children, int from, int single)
    {
        var bits = _domains[single].Bits!;
        return !Binds(children, from) || BitSet.Count(bits) != 1 || SetBits(from, [.. bits.Select(word => ~word)]);
    }

    private bool ReviseProperty(int n, int choice, Node node)
    {
        var values = node.PropertyValues!;
        ref readonly var domain = ref _domains[choice];
        var hull = new Domain<T> { Kind = _domains[n].Kind, Outcomes = domain.Outcomes & Outcomes.Error };
        if ((domain.Outcomes & (Outcomes.Absent | Outcomes.None)) != 0)
            hull.Outcomes |= Outcomes.Absent;
        if (domain.MayBePresent)
        {
            var keep = new ulong[domain.Bits!.Length];
            for (var i = 0; i < values.Length; i++)
            {
                if (!BitSet.Has(domain.Bits, i))
                    continue;
                var one = values[i].Kind switch
                {
                    ValueKind.Number => Domain<T>.Number(_store.Ends.Properties[n]![i]),
                    ValueKind.YesNo => Domain<T>.YesNo(values[i].IsTrue ? Outcomes.True : Outcomes.False),
                    ValueKind.Choice => Domain<T>.Choice(node.Choices![i]!),
                    _ => new() { Kind = hull.Kind, Outcomes = Outcomes.Absent },
                };
                if (!Overlap(one, _domains[n]))
                    continue;
                BitSet.Set(keep, i);
                Join(ref hull, one);
            }
            if (!SetBits(choice, keep))
                return false;
        }
        if (!SetOutcomes(n, hull.Outcomes) || !NarrowTo(n, hull))
            return false;
        return (_domains[n].Outcomes & Outcomes.Absent) != 0 || SetOutcomes(choice, ~(Outcomes.Absent | Outcomes.None));
    }
}
