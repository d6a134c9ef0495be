using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Checks of attributes: lists, bounds, steps, suggestions.</summary>
internal sealed class AttributeChecks(ModelIndex index, Report report)
{
    /// <summary>Steps are counted in numbers that a double holds exactly.</summary>
    private static readonly Exact MostSteps = Exact.Parse("1000000000000");

    public void Check(AttributeRow a)
    {
        if (a.Kind is AttributeKind.Choice or AttributeKind.Several)
        {
            if (a.ListId is null || !index.Lists.TryGetValue(a.ListId, out var list))
                report(a.Id, "listId", Fault.MissingList, "Choose the value list.");
            else if (list.Values.IsDefaultOrEmpty)
                report(a.Id, "listId", Fault.EmptyList, $"The list “{list.Label.Or(list.Name)}” has no values yet.");
            else if ((a.Kind == AttributeKind.Several ? a.SuggestedMembers : a.Suggestion is { Length: > 0 } id ? [id] : [])
                .Any(s => list.Values.All(v => v.Id != s)))
                report(a.Id, "suggestion", Fault.BadSuggestion, "The suggested value is not in the list.");
            else if (a is { Kind: AttributeKind.Several, Input: true })
                report(a.Id, "input", Fault.TypeMismatch,
                    "Several choices cannot be given from above; let the assembly above ask them, or give what follows from them as yes/no.");
            else if (a.Kind == AttributeKind.Several)
                HowMany(a, list);
            if (a.SurchargeColumn.Length > 0 && a.ListId is { } of && index.Lists.TryGetValue(of, out var priced))
                Surcharge(a, priced);
            return;
        }
        if (a.Kind == AttributeKind.YesNo && a.Suggestion is { Length: > 0 } answer && answer is not ("yes" or "no"))
            report(a.Id, "suggestion", Fault.BadSuggestion, "Suggest yes or no.");
        if (a.Kind is not (AttributeKind.Whole or AttributeKind.Quantity))
            return;
        if (a.Kind == AttributeKind.Quantity && a.Unit.Length == 0)
            report(a.Id, "unit", Fault.UnknownUnit, "A quantity needs a unit.");
        var sound = Number("min", a.Min, out var min) & Number("max", a.Max, out var max) & Number("step",
            a.Kind == AttributeKind.Whole ? a.Step ?? "1" : a.Step, out var step);
        if (!sound)
            return;
        if (step.Sign <= 0)
            report(a.Id, "step", Fault.StepNotPositive, "The step must be more than zero.");
        else if (a.Kind == AttributeKind.Whole && !step.IsWhole)
            report(a.Id, "step", Fault.StepNotPositive, "The step of a whole number is a whole number.");
        else if (min > max)
            report(a.Id, "min", Fault.BoundsReversed, $"The lowest value {min} is above the highest {max}.");
        else if ((max / step).Floor() < (min / step).Ceiling())
            report(a.Id, "step", Fault.OffStep, $"No multiple of the step {step} lies between {min} and {max}.");
        else if (Exact.Max(min.Abs(), max.Abs()) / step > MostSteps)
            report(a.Id, "step", Fault.OffStep,
                $"The step {step} is too fine for numbers up to {Exact.Max(min.Abs(), max.Abs())}: at most {MostSteps} steps can be counted.");
        else if (a.Suggestion is { Length: > 0 } suggestion
            && (!Exact.TryParse(suggestion, out var s) || s < min || s > max || !(s / step).IsWhole))
            report(a.Id, "suggestion", Fault.BadSuggestion, $"Suggest a multiple of {step} from {min} to {max}.");

        bool Number(string field, string? text, out Exact number)
        {
            if (Exact.TryParse(text, out number))
                return true;
            report(a.Id, field, Fault.BadNumber, string.IsNullOrEmpty(text) ? "A number is needed here." : text.Contains(',')
                ? $"“{text}” is not a number; decimals are written with a point." : $"“{text}” is not a number.");
            return false;
        }
    }

    private void Surcharge(AttributeRow a, ValueList list)
    {
        if (list.Properties.FirstOrDefault(p => p.Id == a.SurchargeColumn) is not { } column)
            report(a.Id, "surchargeColumn", Fault.UnknownProperty, $"The list “{list.Label.Or(list.Name)}” has no such column.");
        else if (column.Type != PropertyType.Number || Unit.TryParse(column.Unit)?.Dimension != Dimension.OfMoney)
            report(a.Id, "surchargeColumn", Fault.UnitMismatch, $"The column “{column.Name}” holds no money; give it the unit {Unit.Euro.Code}.");
    }

    private void HowMany(AttributeRow a, ValueList list)
    {
        bool Whole(string field, string? text, int otherwise, out Exact number)
        {
            number = otherwise;
            if (string.IsNullOrEmpty(text) || (Exact.TryParse(text, out number) && number.IsWhole && number.Sign >= 0))
                return true;
            report(a.Id, field, Fault.BadNumber, $"“{text}” is not a whole number of values.");
            return false;
        }

        if (!(Whole("min", a.Min, 0, out var least) & Whole("max", a.Max, list.Values.Length, out var most)))
            return;
        if (least > most)
            report(a.Id, "min", Fault.BoundsReversed, $"At least {least} and at most {most} values cannot be met.");
        else if (least > list.Values.Length)
            report(a.Id, "min", Fault.BoundsReversed,
                $"At least {least} are wanted; the list “{list.Label.Or(list.Name)}” has {list.Values.Length} values.");
    }
}
