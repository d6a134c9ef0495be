using Juniperfall.Core.Language;

namespace Juniperfall.Core.Reasoning.Numbers;

/// <summary>Kleene's logic with a fourth value for what cannot be computed; that one yields only to what decides alone.</summary>
internal static class Kleene
{
    public static Outcomes Not(Outcomes x) => x switch { Outcomes.True => Outcomes.False, Outcomes.False => Outcomes.True, _ => x };

    public static Outcomes And(Outcomes x, Outcomes y) =>
        x == Outcomes.False || y == Outcomes.False ? Outcomes.False
        : x == Outcomes.Error || y == Outcomes.Error ? Outcomes.Error
        : x == Outcomes.Absent || y == Outcomes.Absent ? Outcomes.Absent : Outcomes.True;

    public static Outcomes Or(Outcomes x, Outcomes y) => Not(And(Not(x), Not(y)));

    public static Outcomes Same(Outcomes x, Outcomes y) =>
        x == Outcomes.Error || y == Outcomes.Error ? Outcomes.Error
        : x == Outcomes.Absent || y == Outcomes.Absent ? Outcomes.Absent
        : x == y ? Outcomes.True : Outcomes.False;

    public static Outcomes Other(Outcomes x, Outcomes y) => Not(Same(x, y));

    /// <summary>Not having been given a value is having none.</summary>
    public static Outcomes Plain(Outcomes outcome) => outcome == Outcomes.None ? Outcomes.Absent : outcome;

    /// <summary>A condition without a value does not hold.</summary>
    public static Outcomes Holds(Outcomes x) => x == Outcomes.Absent ? Outcomes.False : x;

    /// <summary>A counting condition over conditions that all can be computed; those without a value might be either.</summary>
    /// <param name="yes">How many are true.</param>
    /// <param name="open">How many have no value.</param>
    public static Outcomes Counting(CountingKind kind, int count, int yes, int open) => kind switch
    {
        CountingKind.Exactly => yes > count || yes + open < count ? Outcomes.False : open > 0 ? Outcomes.Absent : Outcomes.True,
        CountingKind.AtMost => yes + open <= count ? Outcomes.True : yes > count ? Outcomes.False : Outcomes.Absent,
        _ => yes >= count ? Outcomes.True : yes + open < count ? Outcomes.False : Outcomes.Absent,
    };
}

/// <summary>A symmetric operation on outcomes, tabulated for sets of them.</summary>
internal sealed class BinaryLogic
{
    private const int Sets = 32;
    private static readonly Outcomes[] All = [Outcomes.Absent, Outcomes.None, Outcomes.Error, Outcomes.False, Outcomes.True];

    public static readonly BinaryLogic And = new(Kleene.And), Or = new(Kleene.Or), Same = new(Kleene.Same), Other = new(Kleene.Other);

    private readonly Outcomes[] _results = new Outcomes[Sets * Sets], _operands = new Outcomes[Sets * Sets];

    private BinaryLogic(Func<Outcomes, Outcomes, Outcomes> operation)
    {
        for (var a = 0; a < Sets; a++)
            for (var b = 0; b < Sets; b++)
                foreach (var x in All)
                    foreach (var y in All)
                    {
                        var result = operation(Kleene.Plain(x), Kleene.Plain(y));
                        if ((a & (int)x) != 0 && (b & (int)y) != 0)
                            _results[a * Sets + b] |= result;
                        if ((a & (int)result) != 0 && (b & (int)y) != 0)
                            _operands[a * Sets + b] |= x;
                    }
    }

    private static int At(Outcomes a, Outcomes b) => ((int)a & (Sets - 1)) * Sets + ((int)b & (Sets - 1));

    /// <summary>What comes out of two sets of outcomes.</summary>
    public Outcomes Results(Outcomes a, Outcomes b) => _results[At(a, b)];

    /// <summary>What gives one of some results with one of the other operand's outcomes.</summary>
    public Outcomes Operands(Outcomes result, Outcomes other) => _operands[At(result, other)];
}

/// <summary>An operation on one outcome, tabulated for sets of them.</summary>
internal sealed class UnaryLogic
{
    private static readonly Outcomes[] All = [Outcomes.Absent, Outcomes.None, Outcomes.Error, Outcomes.False, Outcomes.True, Outcomes.Present];

    public static readonly UnaryLogic Not = new(x => Kleene.Not(Kleene.Plain(x))), Holds = new(x => Kleene.Holds(Kleene.Plain(x))),
        IsNone = new(x => x switch { Outcomes.Absent or Outcomes.Error => x, Outcomes.None => Outcomes.True, _ => Outcomes.False });

    private readonly Outcomes[] _results = new Outcomes[64], _operands = new Outcomes[64];

    private UnaryLogic(Func<Outcomes, Outcomes> operation)
    {
        for (var a = 0; a < _results.Length; a++)
            foreach (var x in All)
            {
                if ((a & (int)x) != 0)
                    _results[a] |= operation(x);
                if ((a & (int)operation(x)) != 0)
                    _operands[a] |= x;
            }
    }

    public Outcomes Results(Outcomes a) => _results[(int)a & 63];
    public Outcomes Operands(Outcomes result) => _operands[(int)result & 63];
}
