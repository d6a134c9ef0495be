using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>The nodes of a price whose lines are still open, as <see cref="Structures.Pricing"/> works it out.</summary>
internal sealed class PriceNodes(BoundModel model, NodeWriter nodes, RowNodes rows, ExpressionNodes expressions, LineNodes lines)
{
    /// <summary>The price of one piece of an assembly at a place, in EUR.</summary>
    public int Of(Occurrence at)
    {
        var price = nodes.Of(Exact.Zero);
        foreach (var row in PriceFields.InOrder(rows.Rows(at)))
            if (row is Subassembly place)
                foreach (var below in rows.Below(at, place))
                    price = nodes.Add(price, nodes.OrNothing(rows.IsThere(below), nodes.Multiply(rows.Field(at, place, "quantity", Exact.One), Of(below))));
            else if (model.Expression(row.Id, PriceFields.Of(row)!) is { } expression)
            {
                var number = nodes.Where(rows.Condition(at, row), expressions.Of(at.Prefix, expression));
                price = row is PriceLine line ? After(price, line, number) : nodes.Add(price, nodes.OrNothing(Stands(at, row), number));
            }
        return price;
    }

    /// <summary>A part line of which nothing is needed does not stand.</summary>
    private int Stands(Occurrence at, Row row) => row is PartLine && model.Expression(row.Id, "quantity") is { } quantity
        ? nodes.And(rows.Condition(at, row), lines.AboveZero(expressions.Of(at.Prefix, quantity))) : rows.Condition(at, row);

    /// <summary>A price after a line that may have no number: then it changes nothing.</summary>
    private int After(int price, PriceLine line, int number) => line.Effect switch
    {
        PriceEffect.Adds => lines.Formulas.PriceAfter(price, line, nodes.Else(number, Exact.Zero)),
        PriceEffect.Times => lines.Formulas.PriceAfter(price, line, nodes.Else(number, Exact.One)),
        _ => nodes.Make(Operator.Else, DomainKind.Number, lines.Formulas.PriceAfter(price, line, number), price),
    };
}
