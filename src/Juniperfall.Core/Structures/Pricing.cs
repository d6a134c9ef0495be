using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Structures;

/// <summary>One step on the way to a price.</summary>
/// <param name="Row">The price line, attribute, part line, operation line or subassembly it comes from; null for the last rounding to whole cents.</param>
/// <param name="Effect">How it changes the price.</param>
/// <param name="Number">The amount, in EUR; of a factor the factor.</param>
/// <param name="After">The price after it.</param>
/// <param name="Count">How many pieces of the subassembly were added.</param>
/// <param name="Below">The price of one piece of the subassembly.</param>
public sealed record PriceStep(Row? Row, PriceEffect Effect, Exact Number, Exact After, Exact Count, PriceSheet? Below = null);

/// <summary>The price of one piece of an assembly at one place, step by step.</summary>
/// <param name="At">Where the assembly stands.</param>
/// <param name="Price">In EUR, exact; that of the product in whole cents.</param>
public sealed record PriceSheet(Occurrence At, IReadOnlyList<PriceStep> Steps, Exact Price);

/// <summary>A list price, or what stands against it; a model without prices has neither.</summary>
public sealed record PriceResult(PriceSheet? Sheet, IReadOnlyList<StructureFault> Faults);

/// <summary>What a customer pays for a quantity, in EUR and whole cents.</summary>
/// <param name="Discount">In percent.</param>
/// <param name="Each">The list price less the discount, rounded to whole cents; halves up.</param>
public sealed record Offer(Exact List, Exact Discount, Exact Each, Exact Order);

/// <summary>
/// The price of a complete configuration. Each assembly has a price of its own: first all amounts are added (price lines,
/// surcharges of values, parts and operations, and the prices of its subassemblies), then come the factors, the least prices and
/// the roundings, each in the author's order. An amount without a value adds nothing, a factor or bound without one changes nothing.
/// </summary>
public sealed class Pricing
{
    internal static readonly Exact Cent = Exact.Of(1, 100);

    private readonly BoundModel _model;
    private readonly Evaluator _evaluator;
    private readonly List<StructureFault> _faults = [];

    private Pricing(BoundModel model, Evaluator evaluator) => (_model, _evaluator) = (model, evaluator);

    /// <param name="values">Path → value in base units, as the reasoner completes them.</param>
    public static PriceResult Of(BoundModel model, IReadOnlyDictionary<string, Value> values, Effectivity at = default)
    {
        if (!PriceFields.AreIn(model.Document))
            return new(null, []);
        var pricing = new Pricing(model, new(model, values, at));
        if (pricing._evaluator.Occurrences.FirstOrDefault(o => o.Parent is null) is not { } root)
            return new(null, []);
        var sheet = pricing.Sheet(root);
        var whole = (sheet.Price / Cent).Round() * Cent;
        if (whole != sheet.Price)
            sheet = sheet with { Steps = [.. sheet.Steps, new(null, PriceEffect.Rounds, Cent, whole, Exact.One)], Price = whole };
        if (sheet.Price.Sign < 0)
            pricing._faults.Add(new("", "", $"The price comes to {sheet.Price.ToDisplay(2)} EUR; it cannot be negative."));
        return pricing._faults.Count == 0 ? new(sheet, []) : new(null, pricing._faults);
    }

    /// <param name="list">The price of one piece, in EUR.</param>
    /// <param name="customers">Whose discount holds; null: none.</param>
    /// <param name="quantity">How many are ordered, above zero.</param>
    public static Offer OfferFor(Exact list, CustomerClassFact? customers, string product, Exact quantity)
    {
        var discount = customers?.DiscountOn(product) ?? Exact.Zero;
        var each = (list * (1 - discount / 100) / Cent).Round() * Cent;
        return new(list, discount, each, each * quantity);
    }

    private PriceSheet Sheet(Occurrence at)
    {
        var (steps, price) = (new List<PriceStep>(), Exact.Zero);
        foreach (var row in PriceFields.InOrder(at.Assembly.Rows).Where(r => _evaluator.Applies(at, r)))
            if (row is Subassembly place)
                foreach (var below in _evaluator.Occurrences.Where(o => o.Parent == at && o.Place == place && _evaluator.IsThere(o)))
                    Add(place, below);
            // That a value has no surcharge is no step.
            else if (Stands(at, row) && Number(at, row, PriceFields.Of(row)!) is { } number && !(row is AttributeRow && number.IsZero))
                Step(row, row is PriceLine line ? line : null, number);
        return new(at, steps, price);

        void Add(Subassembly place, Occurrence below)
        {
            var sheet = Sheet(below);
            var count = Number(at, place, "quantity") ?? Exact.One;
            if (sheet.Steps.Count == 0 || count.Sign <= 0)
                return;
            price += count * sheet.Price;
            steps.Add(new(place, PriceEffect.Adds, count * sheet.Price, price, count, sheet));
        }

        void Step(Row row, PriceLine? line, Exact number)
        {
            var effect = line?.Effect ?? PriceEffect.Adds;
            if (effect == PriceEffect.Rounds && number.Sign <= 0)
            {
                _faults.Add(new(row.Id, at.Prefix, $"The step that the price is rounded to comes to {number.ToDisplay()} EUR; it must be above zero."));
                return;
            }
            price = line is null ? price + number : KnownNumbers.Formulas.PriceAfter(price, line, number);
            steps.Add(new(row, effect, number, price, Exact.One));
        }
    }

    /// <summary>A part line of which nothing is needed adds nothing.</summary>
    private bool Stands(Occurrence at, Row row) => row is not PartLine || Number(at, row, "quantity") is { Sign: > 0 };

    private Exact? Number(Occurrence at, Row row, string field)
    {
        if (_model.Expression(row.Id, field) is not { } expression)
            return null;
        var value = _evaluator.Evaluate(expression, at.Prefix);
        if (value.Kind == ValueKind.Error)
            _faults.Add(new(row.Id, at.Prefix,
                "The price cannot be computed in this configuration: it divides by zero, takes the root of a negative number, or becomes too large."));
        return value.Kind == ValueKind.Number ? value.Number : null;
    }
}
