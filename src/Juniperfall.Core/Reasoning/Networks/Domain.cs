using System.Numerics;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks;

internal enum DomainKind : byte { YesNo, Number, Choice }

/// <summary>
/// What a node may be: outcomes, and for numbers the lowest and highest, for choices a bit for each value of the list.
/// Bit arrays are never changed in place, so that copies on the trail stay as they were.
/// </summary>
internal struct Domain<T> where T : struct, IEnd<T>
{
    public DomainKind Kind;
    public Outcomes Outcomes;
    public Interval<T> Numbers;

    /// <summary>For asked numbers: the first and last step that may be taken.</summary>
    public long First, Last;
    public ulong[]? Bits;

    public static Domain<T> YesNo(Outcomes outcomes) => new() { Kind = DomainKind.YesNo, Outcomes = outcomes };
    public static Domain<T> Number(Interval<T> numbers, Outcomes outcomes = Outcomes.Present) =>
        new() { Kind = DomainKind.Number, Outcomes = outcomes, Numbers = numbers };
    public static Domain<T> Choice(ulong[] bits, Outcomes outcomes = Outcomes.Present) =>
        new() { Kind = DomainKind.Choice, Outcomes = outcomes, Bits = bits };

    public readonly bool MayHaveValue => (Outcomes & Outcomes.Value) != 0;
    public readonly bool MustHaveValue => (Outcomes & Outcomes.NoValue) == 0;
    public readonly bool MayBePresent => (Outcomes & Outcomes.Present) != 0;
    public readonly bool HasOneOutcome => (Outcomes & (Outcomes - 1)) == 0;

    /// <summary>The place of the only value that a choice, or a yes/no (0 no, 1 yes), may have; −1 where there are several.</summary>
    public readonly int OnlyValue => Kind == DomainKind.YesNo ? (Outcomes & Outcomes.Value) switch { Outcomes.False => 0, Outcomes.True => 1, _ => -1 }
        : MayBePresent && BitSet.Count(Bits!) == 1 ? BitSet.First(Bits!) : -1;
}

/// <summary>What an asked attribute may be: outcomes, and the steps of a number from first to last, or the values of a choice.</summary>
internal readonly record struct VariableDomain(DomainKind Kind, Outcomes Outcomes, long First, long Last, ulong[]? Bits)
{
    public bool MayBePresent => (Outcomes & Outcomes.Present) != 0;

    public VariableDomain Only(Outcomes outcomes) => this with { Outcomes = outcomes };
    public VariableDomain Steps(long first, long last) => this with { Outcomes = Outcomes.Present, First = first, Last = last };
    public VariableDomain Value(int index) => Values(BitSet.Single(Bits!.Length << 6, index));
    public VariableDomain Values(ulong[] bits) => this with { Outcomes = Outcomes.Present, Bits = bits };

    /// <summary>Just one value.</summary>
    public VariableDomain Just(in Assigned value) => value.Outcome != Outcomes.Present ? Only(value.Outcome)
        : Kind == DomainKind.Choice ? Value((int)value.Index) : Steps(value.Index, value.Index);

    public bool Allows(in Assigned value) => (Outcomes & value.Outcome) != 0 && (value.Outcome != Outcomes.Present
        || (Kind == DomainKind.Choice ? BitSet.Has(Bits!, (int)value.Index) : First <= value.Index && value.Index <= Last));

    /// <summary>What is in both.</summary>
    public VariableDomain And(in VariableDomain other)
    {
        var both = this with { Outcomes = Outcomes & other.Outcomes };
        if (!both.MayBePresent)
            return both;
        if (Kind == DomainKind.Number)
            both = both with { First = Math.Max(First, other.First), Last = Math.Min(Last, other.Last) };
        else
            both = both with { Bits = [.. Bits!.Zip(other.Bits!, (a, b) => a & b)] };
        return both.Size > BitOperations.PopCount((uint)(both.Outcomes & ~Outcomes.Present)) ? both : both.Only(both.Outcomes & ~Outcomes.Present);
    }

    /// <summary>Everything but one value that is in it, in pieces.</summary>
    public IEnumerable<VariableDomain> Without(Assigned value)
    {
        var others = this with { Outcomes = Outcomes & ~value.Outcome };
        if (value.Outcome == Outcomes.Present && Kind == DomainKind.Choice)
        {
            ulong[] bits = [.. Bits!];
            BitSet.Clear(bits, (int)value.Index);
            if (BitSet.Count(bits) > 0)
                others = this with { Bits = bits };
        }
        else if (value.Outcome == Outcomes.Present)
        {
            if (First < value.Index)
                yield return Steps(First, value.Index - 1);
            if (value.Index < Last)
                yield return Steps(value.Index + 1, Last);
        }
        if (others.Outcomes != Outcomes.Impossible)
            yield return others;
    }

    /// <summary>How many values there are.</summary>
    public double Size => BitOperations.PopCount((uint)(Outcomes & ~Outcomes.Present))
        + (!MayBePresent ? 0 : Kind == DomainKind.Choice ? BitSet.Count(Bits!) : (double)Last - First + 1);

    public bool IsPoint => (Outcomes & (Outcomes - 1)) == 0 && (!MayBePresent || (Kind == DomainKind.Choice ? BitSet.Count(Bits!) == 1 : First == Last));

    /// <summary>The value that is left.</summary>
    public Assigned Point => new(Outcomes, !MayBePresent ? 0 : Kind == DomainKind.Choice ? BitSet.First(Bits!) : First);
}

/// <summary>The value of one variable: absent, none, yes, no, the step of a number, or the index of a value in its list.</summary>
internal readonly record struct Assigned(Outcomes Outcome, long Index)
{
    public static readonly Assigned Absent = new(Outcomes.Absent, 0);
}
