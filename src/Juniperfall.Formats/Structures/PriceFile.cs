using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;

namespace Juniperfall.Formats.Structures;

/// <param name="List">The list price of one piece, in EUR.</param>
/// <param name="Discount">In percent.</param>
/// <param name="Each">What is paid for one piece, in whole cents.</param>
/// <param name="Order">What is paid for the whole quantity.</param>
/// <param name="Steps">How the list price came about.</param>
public sealed record PriceFile(string List, string Discount, string Each, string Order, ImmutableArray<PriceStepFile> Steps)
{
    /// <summary>The code of the class whose discount holds; null for list price.</summary>
    public string? CustomerClass { get; init; }

    /// <summary>What the customer class is called.</summary>
    public LocalText CustomerLabel { get; init; } = LocalText.Empty;

    /// <summary>Null for a model without prices.</summary>
    /// <param name="customers">Whose discount holds; null: list price.</param>
    /// <param name="explainer">Null: without explanations.</param>
    public static PriceFile? Of(BoundModel model, PriceResult price, CustomerClassFact? customers, Exact quantity, StructureExplainer? explainer = null)
    {
        if (price.Sheet is not { } sheet)
            return null;
        var words = new ModelWording(model);
        var offer = Pricing.OfferFor(sheet.Price, customers, model.Document.Code, quantity);
        return new(StructureWriter.Text(offer.List), StructureWriter.Text(offer.Discount), StructureWriter.Text(offer.Each),
            StructureWriter.Text(offer.Order), Steps(sheet))
        {
            CustomerClass = customers?.Code,
            CustomerLabel = customers?.Label ?? LocalText.Empty,
        };

        ImmutableArray<PriceStepFile> Steps(PriceSheet of) => [.. of.Steps.Select(s => new PriceStepFile(s.Effect, NameOf(s, of.At),
            StructureWriter.Text(s.Number), StructureWriter.Text(s.After), StructureWriter.Text(s.Count), s.Below is { } below ? Steps(below) : [])
        {
            Condition = s.Row is { } row ? StoredText.Show(row.AppliesWhen, model.Index) : "",
            Explanation = s.Row is { } explained ? explainer?.OfPrice(explained, of.At) : null,
        })];

        string NameOf(PriceStep step, Occurrence at) =>
            step.Row is null ? "whole cents" : step.Below is { } below ? words.PlaceOf(at, (Subassembly)step.Row, below.At) : words.NameOf(step.Row);
    }
}

/// <param name="Number">EUR; of a factor the factor.</param>
/// <param name="After">The price after the step, in EUR.</param>
/// <param name="Count">How many pieces of a subassembly were added.</param>
/// <param name="Steps">How the price of one piece of the subassembly came about.</param>
public sealed record PriceStepFile(PriceEffect Effect, string Name, string Number, string After, string Count, ImmutableArray<PriceStepFile> Steps)
{
    public string Condition { get; init; } = "";

    /// <summary>Where it comes from; null for the last rounding, and in files that were written before that was told.</summary>
    public ExplanationFile? Explanation { get; init; }
}
