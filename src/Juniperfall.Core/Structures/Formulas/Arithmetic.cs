using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures.Formulas;

/// <summary>Arithmetic on numbers that are known, or on nodes of a network that stand for numbers that are still open.</summary>
internal interface IArithmetic<T>
{
    T Of(Exact number);
    T Add(T a, T b);
    T Multiply(T a, T b);
    T Divide(T a, T b);
    T Greatest(T a, T b);

    /// <summary>Rounded to a multiple of a step above zero.</summary>
    T Rounded(T number, T step, PriceRounding way);
}

/// <summary>Arithmetic on known numbers.</summary>
internal sealed class KnownNumbers : IArithmetic<Exact>
{
    public static readonly LineFormulas<Exact> Formulas = new(new KnownNumbers());

    public Exact Of(Exact number) => number;
    public Exact Add(Exact a, Exact b) => a + b;
    public Exact Multiply(Exact a, Exact b) => a * b;
    public Exact Divide(Exact a, Exact b) => a / b;
    public Exact Greatest(Exact a, Exact b) => Exact.Max(a, b);

    public Exact Rounded(Exact number, Exact step, PriceRounding way) =>
        way switch { PriceRounding.Up => (number / step).Ceiling(), PriceRounding.Down => (number / step).Floor(), _ => (number / step).Round() } * step;
}
