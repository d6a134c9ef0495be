using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures.Formulas;

/// <summary>
/// What the fields of a line come to, written once: a structure uses it with the numbers of a configuration, bounds and optima with
/// nodes that stand for all that is still open.
/// </summary>
internal sealed class LineFormulas<T>(IArithmetic<T> arithmetic)
{
    /// <summary>The net and gross quantity of a part line in one made item.</summary>
    /// <param name="each">How much goes into one occurrence, in the unit of the item.</param>
    /// <param name="factor">How many occurrences go into one made item; what is issued per order does not depend on it.</param>
    public (T Net, T Gross) Quantities(T each, T factor, PartLine part)
    {
        var step = Exact.TryParse(part.Step, out var s) && s.Sign > 0 ? s : Exact.Zero;
        var net = Stepped(part.PerOrder ? each : arithmetic.Multiply(each, factor), step);
        var isScrapped = Exact.TryParse(part.Scrap, out var scrap) && !scrap.IsZero;
        return (net, isScrapped ? Stepped(arithmetic.Multiply(net, arithmetic.Of(1 + scrap / 100)), step) : net);
    }

    private T Stepped(T number, Exact step) => step.IsZero ? number : arithmetic.Rounded(number, arithmetic.Of(step), PriceRounding.Up);

    /// <summary>The run time of so many pieces, in seconds.</summary>
    /// <param name="run">That of one piece, or of one batch.</param>
    public T RunTime(T run, T pieces) => arithmetic.Multiply(run, pieces);

    /// <summary>The run time of so many pieces in batches, of which a last one that is not full takes as long as the others.</summary>
    public T RunTime(T run, T pieces, T batch) =>
        arithmetic.Multiply(run, arithmetic.Rounded(arithmetic.Divide(pieces, batch), arithmetic.Of(Exact.One), PriceRounding.Up));

    /// <summary>A price after a line that has a number.</summary>
    /// <param name="number">An amount in EUR, a factor, or the step that is rounded to, which is above zero.</param>
    public T PriceAfter(T price, PriceLine line, T number) => line.Effect switch
    {
        PriceEffect.Adds => arithmetic.Add(price, number),
        PriceEffect.Times => arithmetic.Multiply(price, number),
        PriceEffect.AtLeast => arithmetic.Greatest(price, number),
        _ => arithmetic.Rounded(price, number, line.Rounding),
    };
}
