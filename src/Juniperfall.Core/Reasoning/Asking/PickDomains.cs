using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>Values as people pick them, and as the variables of a network have them.</summary>
internal static class PickDomains
{
    /// <summary>A value as an assignment; null where the attribute's domain has no such value.</summary>
    public static Assigned? Assignment(Variable variable, Value value)
    {
        Assigned? assigned = value.Kind switch
        {
            ValueKind.Nothing => new(Outcomes.None, 0),
            ValueKind.YesNo when variable.Initial.Kind == DomainKind.YesNo => new(value.IsTrue ? Outcomes.True : Outcomes.False, 0),
            ValueKind.Number when variable.Initial.Kind == DomainKind.Number => variable.StepOf(value.Number) is { } step ? new(Outcomes.Present, step) : null,
            ValueKind.Choice when variable.Initial.Kind == DomainKind.Choice =>
                variable.IndexOf(value.Text!) is var index and >= 0 ? new(Outcomes.Present, index) : null,
            _ => null,
        };
        return assigned is { } found && variable.Initial.Allows(found) ? found : null;
    }

    /// <summary>Having exactly this value; null where the attribute's domain has no such value.</summary>
    public static VariableDomain? Having(Variable variable, Value value) =>
        Assignment(variable, value) is { } assigned ? variable.Initial.Just(assigned) : null;

    /// <summary>A pick is contained where the attribute has the value or does not apply.</summary>
    public static VariableDomain Containing(Variable variable, Value value) =>
        Having(variable, value) is { } having ? having with { Outcomes = having.Outcomes | Outcomes.Absent } : variable.Initial.Only(Outcomes.Absent);

    public static Value ToValue(Variable variable, in Assigned assigned) => assigned.Outcome switch
    {
        Outcomes.True => Value.Of(true),
        Outcomes.False => Value.Of(false),
        Outcomes.Present => variable.List is { } list ? Value.Choice(list.Values[(int)assigned.Index].Id) : Value.Of(variable.At(assigned.Index)),
        _ => Value.Nothing,
    };

    /// <summary>The values of a solution, of everything that applies.</summary>
    public static IEnumerable<Pick> PicksOf(Network network, Assigned[] solution) =>
        network.Variables.Where(v => solution[v.Index].Outcome != Outcomes.Absent).Select(v => new Pick(v.Path, ToValue(v, solution[v.Index])));

    /// <summary>The domain that holds what is available, and for numbers what lies between.</summary>
    public static VariableDomain Hull(Variable variable, Available available)
    {
        var hull = variable.Initial.Only((available.None ? Outcomes.None : 0) | (available.MayBeAbsent ? Outcomes.Absent : 0));
        if (available.Lowest is { } lowest)
            return hull with
            {
                Outcomes = hull.Outcomes | Outcomes.Present,
                First = variable.StepOf(lowest)!.Value,
                Last = variable.StepOf(available.Highest!.Value)!.Value
            };
        var bits = hull.Bits is null ? null : new ulong[hull.Bits.Length];
        foreach (var value in available.Values)
        {
            var assigned = Assignment(variable, value)!.Value;
            hull = hull with { Outcomes = hull.Outcomes | assigned.Outcome };
            if (bits is not null)
                BitSet.Set(bits, (int)assigned.Index);
        }
        return hull with { Bits = bits };
    }
}
