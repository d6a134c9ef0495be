using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures;

/// <summary>What is left of a price once the cost is taken off.</summary>
/// <param name="Amount">In EUR, exact; negative where it is sold under cost.</param>
/// <param name="Percent">In percent of the price; null where nothing is paid.</param>
public sealed record Margin(Exact Amount, Exact? Percent)
{
    /// <param name="paid">What is paid for one piece, in EUR.</param>
    /// <param name="cost">What one piece costs, in EUR.</param>
    public static Margin Of(Exact paid, Exact cost) => new(paid - cost, paid.IsZero ? null : (paid - cost) / paid * 100);

    /// <summary>Whether it is less than a product is to bring; given away, it is where there is a cost.</summary>
    /// <param name="least">In percent of the price; null: nothing is asked.</param>
    public bool IsUnder(Exact? least) => least is { } wanted && (Percent is { } percent ? percent < wanted : Amount.Sign < 0);
}
