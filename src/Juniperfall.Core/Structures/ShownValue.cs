using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Structures;

/// <summary>What an expression came to, as people read it.</summary>
public static class ShownValue
{
    /// <summary>An attribute as it is shown everywhere; other numbers in the unit of their dimension.</summary>
    public static string Of(BoundModel model, Bound expression, Value value, string language = "en")
    {
        if (value.IsNothing)
            return "–";
        if (value.Kind == ValueKind.Error)
            return "cannot be computed";
        var words = new ModelWording(model, language);
        var row = expression is BoundAttribute attribute ? model.Index.Rows.GetValueOrDefault(RowPath.RowId(attribute.Path)) : null;
        if (row is AttributeRow asked)
            return words.ValueOf(asked, value);
        if (row is ComputedAttribute computed)
            return words.ValueOf(computed, value);
        if (value.Kind == ValueKind.Choice)
            return model.Index.Values.TryGetValue(value.Text!, out var found) ? words.Text(found.Value.Label) is { Length: > 0 } label
                ? label : found.Value.Code : "–";
        if (value.Kind != ValueKind.Number)
            return value.ToString();
        var unit = Unit.ForDisplay(expression.Type.Dimension);
        return ModelWording.WithUnit(unit.FromBase(value.Number).ToDisplay(4), unit.Code);
    }
}
