using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Binds the expressions of a row as <see cref="RowKinds"/> lists them, and checks what more than one field decides.</summary>
internal sealed class RowBinder(BoundModel model)
{
    private readonly GridBinder _grids = new(model);

    public void Bind(AssemblyDefinition assembly, Row row)
    {
        // What it reads is typed before it.
        if (row is ComputedAttribute computed)
            model.TypeOf(computed);
        foreach (var (field, path, text) in RowKinds.Of(row).ExpressionsOf(row))
            if (field.Form == FieldForm.Template)
                foreach (var (piece, i) in Template.Split(text).Where(p => p.IsExpression).Select((p, i) => (p, i)))
                    model.BindField(assembly, row, $"{path}/{i}", piece.Text, null, field.Required);
            else if (row is Subassembly place && RowPath.InputIndex(path) is { } at)
                BindInput(assembly, place, path, text, place.Inputs[at].AttributeId);
            else if (field.Form != FieldForm.Parts && Expected(model, row, field, path) is { IsKnown: true } expected)
                model.BindField(assembly, row, path, text, expected.Type, field.Required);
        CheckWhole(assembly, row);
    }

    /// <summary>What an expression must come to; a null type is anything. It is not known where what decides it is missing or faulty.</summary>
    public static (bool IsKnown, ExpressionType? Type) Expected(BoundModel model, Row row, RowField field, string path) => field.Expects switch
    {
        Expectation.YesNo => (true, ExpressionType.YesNo),
        Expectation.Text => (true, ExpressionType.Text),
        Expectation.PlainNumber => (true, ExpressionType.PlainNumber),
        Expectation.Money => (true, ExpressionType.Number(Dimension.OfMoney)),
        Expectation.Time => (true, ExpressionType.Number(Dimension.OfTime)),
        Expectation.OwnType when row is AttributeRow { Kind: AttributeKind.Several } => (true, ExpressionType.PlainNumber),
        Expectation.OwnType => model.TypeOf((NamedRow)row) is { Kind: TypeKind.Number } own ? (true, own) : (false, null),
        Expectation.AsBeside => model.Expression(row.Id, field.Beside!)?.Type is { Kind: TypeKind.Number } beside ? (true, beside) : (false, null),
        // Where the item has conversions, a quantity may be of any dimension that one of them leads from.
        Expectation.ItemUnit => (true, row is PartLine part && model.Facts.Items.GetValueOrDefault(part.Item) is { Conversions.IsEmpty: true } item
            && Unit.TryParse(item.Unit) is { } unit ? ExpressionType.Number(unit.Dimension) : null),
        Expectation.OfPart => (true, OfPart(model, row, path)),
        _ => (true, null),
    };

    private static ExpressionType? OfPart(BoundModel model, Row row, string path) => row switch
    {
        PartLine part when path.Split('/') is [_, var at, _] && Unit.TryParse(part.Figures[Index(at)].Unit) is { Code.Length: > 0 } unit =>
            ExpressionType.Number(unit.Dimension),
        Subassembly place when RowPath.InputIndex(path) is { } at && model.Index.Rows.GetValueOrDefault(place.Inputs[at].AttributeId) is AttributeRow input =>
            model.TypeOf(input),
        _ => null,
    };

    private static int Index(string at) => int.Parse(at, System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>What no single field decides.</summary>
    private void CheckWhole(AssemblyDefinition assembly, Row row)
    {
        switch (row)
        {
            case AttributeRow { SurchargeColumn.Length: > 0 } attribute when model.IsSound(attribute):
                model.Keep(row.Id, PriceFields.SurchargeColumn, SurchargeOf(attribute, model.Index.Lists[attribute.ListId!]));
                break;
            case ComputedAttribute computed:
                if (model.TypeOf(computed) is { } type && computed.Unit.Length > 0 && Unit.TryParse(computed.Unit) is { } unit
                    && type.Dimension != unit.Dimension)
                    model.Add(row.Id, "unit", new(Fault.UnitMismatch, default,
                        $"{unit.Code} is the unit of {unit.Dimension.Describe()}; the expression gives {type.Describe()}."));
                break;
            case LimitRule rule:
                var of = model.Expression(row.Id, "of");
                if (of is { Type.Kind: not TypeKind.Number })
                    model.Add(row.Id, "of", new(Fault.NotANumber, default, $"A limit needs a number; this is {of.Type.Describe()}."));
                else if (of is not null && rule.Lower.Length == 0 && rule.Upper.Length == 0)
                    model.Add(row.Id, "upper", new(Fault.MissingExpression, default, "A limit needs a lower or an upper bound."));
                break;
            case CombinationGrid grid:
                _grids.Bind(assembly, grid);
                break;
            case PartLine part:
                CheckNumbers(part);
                break;
        }
    }

    private void CheckNumbers(PartLine part)
    {
        const string quantityField = "quantity";
        var item = model.Facts.Items.GetValueOrDefault(part.Item);
        var quantity = model.Expression(part.Id, quantityField);
        if (quantity is { Type.Kind: not TypeKind.Number })
            model.Add(part.Id, quantityField, new(Fault.NotANumber, default, $"A quantity is a number; this is {quantity.Type.Describe()}."));
        else if (quantity is not null && item is { Conversions.IsEmpty: false } && item.InOwnUnit(Exact.One, quantity.Type.Dimension) is null)
            model.Add(part.Id, quantityField, new(Fault.UnitMismatch, default,
                $"The quantity is {quantity.Type.Describe()}; {item.Number} is kept in {(item.Unit.Length == 0 ? "pieces" : item.Unit)} and has no "
                    + "conversion from that."));
        foreach (var (field, path, _) in RowKinds.Of(part).ExpressionsOf(part))
            if (field.Form == FieldForm.Figures && model.Expression(part.Id, path) is { Type.Kind: not TypeKind.Number } other)
                model.Add(part.Id, path, new(Fault.NotANumber, default, $"A figure is a number; this is {other.Type.Describe()}."));
    }

    private void BindInput(AssemblyDefinition assembly, Row row, string field, string stored, string attributeId)
    {
        if (model.Index.Rows.GetValueOrDefault(attributeId) is not AttributeRow target)
            return;
        if (string.IsNullOrWhiteSpace(stored) || model.CheckInput(assembly, stored, target).Expression is not BoundRecoded recoded)
        {
            model.BindField(assembly, row, field, stored, model.TypeOf(target), true);
            return;
        }
        var (from, to) = (model.Index.Lists[recoded.Choice.Type.ListId!], model.Index.Lists[recoded.Type.ListId!]);
        var without = from.Values.Where(v => !recoded.Values.ContainsKey(v.Id)).Select(v => $"“{v.Code}”").ToList();
        if (recoded.Values.IsEmpty)
            model.Add(row.Id, field, new(Fault.NoCounterpart, default, $"No value of “{from.Name}” has the code of one of “{to.Name}”."));
        else if (without.Count > 0)
            model.Note(row.Id, field, new(Fault.NoCounterpart, default,
                $"“{to.Name}” has no {string.Join(" and no ", without)}, so {(without.Count == 1 ? "that" : "these")} cannot be had together with "
                    + $"{model.Index.NameOf(row.Id)}."));
        model.Keep(row.Id, field, recoded);
    }

    /// <summary>What the chosen values of a choice, or of several choices together, add to the price.</summary>
    private static Bound SurchargeOf(AttributeRow row, ValueList list)
    {
        var (money, choice) = (ExpressionType.Number(Dimension.OfMoney), ExpressionType.Choice(list.Id));
        if (row.Kind == AttributeKind.Choice)
            return new BoundProperty(money, new BoundAttribute(choice, row.Id), list.Id, row.SurchargeColumn);
        return new BoundTotal(money, TotalKind.Sum, [row.Id], [.. list.Values.Select(v => new BoundTotalMember(
            new BoundProperty(money, new BoundLiteral(choice, Value.Choice(v.Id)), list.Id, row.SurchargeColumn),
            new BoundAttribute(ExpressionType.YesNo, RowPath.OfMember(row.Id, v.Id))))]);
    }
}
