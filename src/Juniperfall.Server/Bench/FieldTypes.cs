using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Server.Bench;

/// <summary>What a field of a row asks of its expression, and how an example of it is written.</summary>
internal static class FieldTypes
{
    /// <summary>Binds a text as if it stood in a field.</summary>
    public static BindResult Check(BoundModel model, AssemblyDefinition assembly, string rowId, string field, string text) =>
        model.Index.Rows.GetValueOrDefault(rowId) is Subassembly place && RowPath.InputIndex(field) is { } i && i < place.Inputs.Length
            && model.Index.Rows.GetValueOrDefault(place.Inputs[i].AttributeId) is AttributeRow input
            ? model.CheckInput(assembly, text, input) : model.Check(assembly, text, model.Index.Rows.GetValueOrDefault(rowId) is { } row ? model.Expected(row, field) : RowKinds.ExpectedOfAny(field));

    public static string Write(BoundModel model, Bound expression, Value value)
    {
        if (value.IsNothing)
            return "no value";
        if (value.Kind == ValueKind.Error)
            return "cannot be computed with these picks";
        if (value.Kind == ValueKind.Choice)
            return model.Index.Values.TryGetValue(value.Text!, out var found) ? found.Value.Label.Or(found.Value.Code) : "no value";
        if (value.Kind != ValueKind.Number)
            return value.ToString();
        var unit = Unit.ForDisplay(expression.Type.Dimension);
        return ModelWording.WithUnit(unit.FromBase(value.Number).ToDisplay(4), unit.Code);
    }
}
