using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// Every value that a variable of a network may have, numbered through: yes, no, none, absent, the values of choices, and the steps of
/// numbers. So a set of values of all variables is one bit set, and a configuration a slot for each variable.
/// </summary>
internal sealed class Slots
{
    private const int OutcomeCount = 6;

    private readonly Assigned[] _values;
    private readonly int[] _ofOutcome;
    private readonly int[]?[] _ofValue;

    /// <summary>By variable: what its first step is counted as; zero for choices.</summary>
    private readonly long[] _firstStep;
    private readonly bool[] _isNumber;

    /// <param name="domains">What the variables may be before any pick.</param>
    public Slots(VariableDomain[] domains)
    {
        First = new int[domains.Length + 1];
        (_ofOutcome, _ofValue, _firstStep) = (new int[domains.Length * OutcomeCount], new int[]?[domains.Length], new long[domains.Length]);
        _isNumber = Array.ConvertAll(domains, d => d.Kind == DomainKind.Number);
        Array.Fill(_ofOutcome, -1);
        var (values, owners) = (new List<Assigned>(), new List<int>());
        for (var v = 0; v < domains.Length; v++)
        {
            First[v] = values.Count;
            var initial = domains[v];
            foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True, Outcomes.Absent })
                if ((initial.Outcomes & outcome) != 0)
                    Add(v, new(outcome, 0));
            if (!initial.MayBePresent)
                continue;
            if (initial.Kind == DomainKind.Number)
            {
                _firstStep[v] = initial.First;
                _ofValue[v] = new int[initial.Last - initial.First + 1];
                for (var step = initial.First; step <= initial.Last; step++)
                    Add(v, new(Outcomes.Present, step));
                continue;
            }
            _ofValue[v] = new int[initial.Bits!.Length << 6];
            Array.Fill(_ofValue[v]!, -1);
            foreach (var index in BitSet.Members(initial.Bits))
                Add(v, new(Outcomes.Present, index));
        }
        First[domains.Length] = values.Count;
        (_values, Owner) = ([.. values], [.. owners]);

        void Add(int variable, in Assigned value)
        {
            if (value.Outcome == Outcomes.Present)
                _ofValue[variable]![value.Index - _firstStep[variable]] = values.Count;
            else
                _ofOutcome[variable * OutcomeCount + IndexOf(value.Outcome)] = values.Count;
            values.Add(value);
            owners.Add(variable);
        }
    }

    private static int IndexOf(Outcomes outcome) => System.Numerics.BitOperations.TrailingZeroCount((uint)outcome);

    /// <summary>By variable: its first slot; behind the last one: how many slots there are.</summary>
    public int[] First { get; }

    /// <summary>By slot: the variable.</summary>
    public int[] Owner { get; }

    /// <summary>Whether a variable has steps of a number.</summary>
    public bool IsNumber(int variable) => _isNumber[variable];

    public int Count => _values.Length;
    public int Words => (_values.Length + 63) / 64;
    public int Variables => First.Length - 1;

    public Assigned this[int slot] => _values[slot];

    /// <summary>The slot of a value; −1 where the variable never has it.</summary>
    public int Of(int variable, in Assigned value) =>
        value.Outcome == Outcomes.Present ? value.Index - _firstStep[variable] is var place && _ofValue[variable] is { } known
            && (ulong)place < (ulong)known.Length ? known[place] : -1 : _ofOutcome[variable * OutcomeCount + IndexOf(value.Outcome)];

    public int SizeOf(int variable) => First[variable + 1] - First[variable];

    /// <summary>What a set has of a variable of at most 64 slots, the first one in the lowest bit.</summary>
    public ulong OfVariable(ulong[] set, int variable)
    {
        var (first, size) = (First[variable], SizeOf(variable));
        var (word, shift) = (first >> 6, first & 63);
        var bits = set[word] >> shift;
        if (shift + size > 64)
            bits |= set[word + 1] << (64 - shift);
        return size == 64 ? bits : bits & ((1UL << size) - 1);
    }

    /// <summary>All slots.</summary>
    public ulong[] Full() => BitSet.Full(Count);

    /// <summary>The slot in which a variable does not apply; −1 where it always does.</summary>
    public int AbsentOf(int variable) => Of(variable, Assigned.Absent);

    /// <summary>Keeps of a set those slots of a variable that a domain allows.</summary>
    public void Restrict(ulong[] set, int variable, in VariableDomain to)
    {
        for (var slot = First[variable]; slot < First[variable + 1]; slot++)
            if (!to.Allows(_values[slot]))
                set[slot >> 6] &= ~(1UL << slot);
    }

    /// <summary>Keeps of a set only some steps of a number.</summary>
    public void KeepSteps(ulong[] set, int variable, HashSet<long> steps)
    {
        for (var slot = First[variable]; slot < First[variable + 1]; slot++)
            if (_values[slot].Outcome == Outcomes.Present && !steps.Contains(_values[slot].Index))
                BitSet.Clear(set, slot);
    }

    /// <summary>A configuration as a slot for each variable; null where some value has none.</summary>
    public int[]? Of(Assigned[] configuration)
    {
        var slots = new int[configuration.Length];
        for (var v = 0; v < slots.Length; v++)
            if ((slots[v] = Of(v, configuration[v])) < 0)
                return null;
        return slots;
    }

    public Assigned[] ToConfiguration(int[] slots)
    {
        var configuration = new Assigned[slots.Length];
        for (var v = 0; v < slots.Length; v++)
            configuration[v] = _values[slots[v]];
        return configuration;
    }
}

/// <summary>A configuration that keeps every rule, as a slot for each variable and as a set.</summary>
internal sealed class Witness
{
    public Witness(int[] slots, int words)
    {
        (Slots, Set) = (slots, new ulong[words]);
        foreach (var slot in slots)
            BitSet.Set(Set, slot);
    }

    public int[] Slots { get; }
    public ulong[] Set { get; }
}
