using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures;
using Juniperfall.Formats.Structures;
using Juniperfall.Server.Bench;

namespace Juniperfall.Server.Structures;

/// <summary>A step on the way to a price, with the formula it comes from and the values in it.</summary>
/// <param name="Number">EUR; of a factor the factor.</param>
/// <param name="After">The price after it, in EUR.</param>
/// <param name="Count">How many pieces of a subassembly were added.</param>
/// <param name="Steps">The formula worked out step by step.</param>
/// <param name="Below">How the price of one piece of the subassembly came about.</param>
/// <param name="RowId">Empty for the last rounding to whole cents, which no row asks for.</param>
public sealed record PriceStepView(PriceEffect Effect, string Name, string Number, string After, string Count, string Formula, string Condition,
    IReadOnlyList<BecauseView> Because,
    string RowId, string AssemblyId, string Prefix, IReadOnlyList<WorkingStepView> Steps, IReadOnlyList<PriceStepView>? Below);

/// <summary>What is left of what is paid for one piece once its cost is taken off.</summary>
/// <param name="Amount">EUR, cut to cents; negative where it is sold under cost.</param>
/// <param name="Percent">Of what is paid; null where nothing is.</param>
/// <param name="Least">What the product is to bring, in percent; null where that is not set.</param>
public sealed record MarginView(string Amount, string? Percent, string? Least, bool IsUnder)
{
    /// <summary>Null for who may not see it.</summary>
    internal static MarginView? Of(Audience audience, Exact paid, Exact cost, Exact? least)
    {
        var margin = Margin.Of(paid, cost);
        return audience.SeesCosts ? new(margin.Amount.ToDisplay(2), margin.Percent?.ToDisplay(1), least?.ToDisplay(2), margin.IsUnder(least)) : null;
    }
}

/// <summary>What one piece is sold for.</summary>
/// <param name="List">The list price, in EUR.</param>
/// <param name="Each">What the customer class pays, in EUR and whole cents.</param>
/// <param name="CustomerClass">The name of the class; null for list price.</param>
/// <param name="Fault">Why there is no price for the class that was asked for; the list price stands then.</param>
public sealed record PaidView(string List, string Each, string? CustomerClass, MarginView? Margin, string? Fault = null);

/// <summary>The list price of one piece with its steps, and what a customer class pays.</summary>
/// <param name="List">EUR; null where there is none because of the faults.</param>
/// <param name="CustomerClass">The name of the class whose discount holds; null for list price.</param>
/// <param name="Discount">In percent.</param>
/// <param name="Each">What is paid for one piece, in EUR and whole cents.</param>
/// <param name="Order">What is paid for the whole quantity.</param>
public sealed record PriceView(string? List, IReadOnlyList<PriceStepView> Steps, string? CustomerClass, string Discount, string Each, string Order,
    IReadOnlyList<FaultView> Faults)
{
    public static PriceView Of(PriceFile price) =>
        new(FileNumber.Show(price.List, 4), [.. price.Steps.Select(Of)], price.CustomerClass is { } code ? price.CustomerLabel.Or(code) : null,
        FileNumber.Show(price.Discount, 2), FileNumber.Show(price.Each, 4), FileNumber.Show(price.Order, 4), []);

    /// <summary>Without a price, because of its faults.</summary>
    /// <param name="assemblyOf">The id of the assembly that a row stands in.</param>
    public static PriceView Of(IEnumerable<StructureFault> faults, Func<string, string> assemblyOf) =>
        new(null, [], null, "0", "", "", [.. faults.Select(f => new FaultView(f.RowId, assemblyOf(f.RowId), f.Message))]);

    private static PriceStepView Of(PriceStepFile step) =>
        new(step.Effect, step.Name, FileNumber.Show(step.Number, 4), FileNumber.Show(step.After, 4), FileNumber.Show(step.Count, 4),
        step.Explanation?.Formula ?? "", step.Condition, BecauseView.Of(step.Explanation?.Because ?? []), step.Explanation?.Row
            ?? "", step.Explanation?.Assembly ?? "", step.Explanation?.Place ?? "",
        WorkingStepView.Of(step.Explanation) ?? [], step.Steps.Length > 0 ? [.. step.Steps.Select(Of)] : null);
}
