using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Structures;

/// <summary>A step on the way to a price, with the formula it comes from and the values in it.</summary>
/// <param name="Number">EUR; of a factor the factor.</param>
/// <param name="After">The price after it, in EUR.</param>
/// <param name="Count">How many pieces of a subassembly were added.</param>
/// <param name="Steps">The formula worked out step by step.</param>
/// <param name="Below">How the price of one piece of the subassembly came about.</param>
/// <param name="RowId">Empty for the last rounding to whole cents, which no row asks for.</param>
public sealed record PriceStepView(PriceEffect Effect, string Name, string Number, string After, string Count, string Formula, string Condition, IReadOnlyList<BecauseView> Because,
    string RowId, string AssemblyId, string Prefix, IReadOnlyList<WorkingStepView> Steps, IReadOnlyList<PriceStepView>? Below);

/// <summary>The list price of one piece with its steps, and what a customer class pays.</summary>
/// <param name="List">EUR; null where there is none because of the faults.</param>
/// <param name="CustomerClass">The name of the class whose discount holds; null for list price.</param>
/// <param name="Discount">In percent.</param>
/// <param name="Each">What is paid for one piece, in EUR and whole cents.</param>
/// <param name="Order">What is paid for the whole quantity.</param>
public sealed record PriceView(string? List, IReadOnlyList<PriceStepView> Steps, string? CustomerClass, string Discount, string Each, string Order, IReadOnlyList<FaultView> Faults);

/// <summary>Writes prices in the words of their model.</summary>
internal sealed class PriceWords(CompiledModel compiled, IReadOnlyDictionary<string, Value> values, Effectivity at)
{
    private readonly BoundModel _model = compiled.Model;
    private readonly Evaluator _evaluator = new(compiled.Model, values, at);

    /// <summary>Null for a model without prices.</summary>
    /// <param name="customers">Whose discount holds; null: list price.</param>
    public PriceView? Of(PriceResult price, CustomerClassFact? customers, Exact quantity)
    {
        if (price.Sheet is not { } sheet)
            return price.Faults.Count == 0 ? null : new(null, [], null, "0", "", "", [.. price.Faults.Select(f => new FaultView(f.RowId, _model.Index.AssemblyOfRow.GetValueOrDefault(f.RowId)?.Id ?? "", f.Message))]);
        var offer = Pricing.OfferFor(sheet.Price, customers, _model.Document.Code, quantity);
        return new(Money(offer.List), Steps(sheet), customers?.Label.Or(customers.Code), offer.Discount.ToDisplay(2), Money(offer.Each), Money(offer.Order), []);
    }

    /// <summary>An amount to the cent, or as many decimals as it takes on the way there.</summary>
    private static string Money(Exact amount) => amount.ToDisplay(4);

    private List<PriceStepView> Steps(PriceSheet sheet) => [.. sheet.Steps.Select(s => Of(s, sheet.At))];

    private PriceStepView Of(PriceStep step, Occurrence at)
    {
        if (step.Row is not { } row)
            return new(step.Effect, "whole cents", Money(step.Number), Money(step.After), "1", "", "", [], "", "", "", [], null);
        var formula = StructureWords.FormulaOf(row, PriceFields.Of(row) ?? "quantity");
        var named = new[] { PriceFields.Of(row) ?? "quantity", "appliesWhen" }.Select(f => _model.Expression(row.Id, f)).OfType<Bound>().SelectMany(e => e.All()).OfType<BoundAttribute>();
        return new(step.Effect, step.Below is { } below ? compiled.Words.PlaceOf(at, (Subassembly)row, below.At) : compiled.Words.NameOf(row), Money(step.Number), Money(step.After), step.Count.ToDisplay(4),
            StoredText.Show(formula, _model.Index), StoredText.Show(row.AppliesWhen, _model.Index),
            [.. named.Select(a => at.Prefix + a.Path).Distinct().Where(p => !_evaluator[p].IsNothing).Select(p => new BecauseView(p, compiled.LabelOf(p), compiled.ValueAt(p, _evaluator[p])))],
            row.Id, _model.Index.AssemblyOfRow[row.Id].Id, at.Prefix, StructureWords.Steps(_model, _evaluator, at, formula), step.Below is { } sheet ? Steps(sheet) : null);
    }
}
