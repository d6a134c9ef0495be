using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>
/// The nodes of lines of a structure whose values are still open, by the same formulas as those of a structure. A line whose items are
/// counted in different units is none that this can write.
/// </summary>
internal sealed class LineNodes(BoundModel model, Effectivity at, NodeWriter nodes, RowNodes rows, ExpressionNodes expressions)
{
    private readonly LineFormulas<int> _formulas = new(nodes);

    /// <summary>The formulas over nodes.</summary>
    public LineFormulas<int> Formulas => _formulas;

    /// <summary>Cost with overhead, and weight, of what a part line comes to for a lot.</summary>
    /// <param name="factor">How many occurrences go into one made item.</param>
    /// <param name="lot">How many of the made item there are.</param>
    /// <exception cref="NotSupportedException">Its items are counted in different units.</exception>
    public (int Cost, int Weight) Part(Occurrence occurrence, PartLine part, int factor, int lot)
    {
        var (each, cost, weight) = RatesOf(occurrence, part);
        var (net, gross) = _formulas.Quantities(nodes.Times(rows.Field(occurrence, part, "quantity", Exact.One), each), factor, part);
        int InAll(int number) => part.PerOrder ? number : nodes.Multiply(number, lot);
        return (nodes.Multiply(InAll(gross), cost), nodes.Multiply(InAll(net), weight));
    }

    /// <summary>How much of a line's item a quantity of one in base units is, and nodes of what one of it costs, overhead included, and weighs.</summary>
    private (Exact Each, int Cost, int Weight) RatesOf(Occurrence occurrence, PartLine part)
    {
        var dimension = model.Expression(part.Id, "quantity")?.Type.Dimension ?? Dimension.None;
        (Exact Each, Exact Cost, Exact Weight)? Of(string item) =>
            model.Facts.Items.TryGetValue(item, out var fact) && fact.InOwnUnit(Exact.One, dimension) is { } each
                && MaterialRates.Of(fact, SiteOf(occurrence), model.Facts) is var rates
                ? (each, rates.Cost + rates.Overhead, rates.Weight) : null;
        if (model.Expression(part.Id, "itemFrom") is not { } from)
            return Of(part.Item) is { } one ? (one.Each, nodes.Of(one.Cost), nodes.Of(one.Weight)) : throw new NotSupportedException();
        // What names no item cannot be built; it counts as nothing here.
        var items = ItemTexts.Of(model.Index, from, null, expressions.FactsAt(occurrence.Prefix)).Distinct()
            .Select(Of).OfType<(Exact Each, Exact, Exact)>().ToList();
        if (items.Select(i => i.Each).Distinct().ToList() is not [var same])
            throw new NotSupportedException();
        int Node(Func<(Exact, Exact Cost, Exact Weight), Exact> value) =>
            nodes.Else(expressions.LookedUp(occurrence.Prefix, from, number =>
                Of(number) is { } item ? Value.Of(value(item)) : Value.Nothing, DomainKind.Number), Exact.Zero);
        return (same, Node(i => i.Cost), Node(i => i.Weight));
    }

    /// <summary>Where the made item that an occurrence belongs to is made.</summary>
    private string? SiteOf(Occurrence occurrence) => occurrence is { Parent: { } parent, Place: { } place } ? SiteOfPlace.Of(place, SiteOf(parent)) : at.Site;

    /// <summary>The run time of an operation for so many pieces of the occurrence, in seconds.</summary>
    public int Run(Occurrence occurrence, OperationLine operation, int pieces)
    {
        var run = rows.Field(occurrence, operation, "run", Exact.Zero);
        return operation.Batch.Length == 0
            ? _formulas.RunTime(run, pieces) : _formulas.RunTime(run, pieces, rows.Field(occurrence, operation, "batch", Exact.One));
    }

    /// <summary>A time × what a second of it comes to at its work centre.</summary>
    public int AtWorkCentre(Occurrence occurrence, OperationLine operation, int time, Func<WorkRates, Exact> each)
    {
        Exact Of(string code) => each(WorkRates.Of(model.Facts.WorkCentres.GetValueOrDefault(code), operation.Crew));
        return model.Expression(operation.Id, "workCentreFrom") is { } from
            ? nodes.Multiply(time, nodes.Else(expressions.LookedUp(occurrence.Prefix, from, code => Value.Of(Of(code)), DomainKind.Number), Exact.Zero))
            : nodes.Times(time, Of(operation.WorkCentre));
    }

    /// <summary>How many of a subassembly go into one made item, and whether it is there.</summary>
    public (int Count, int IsThere) PiecesOf(Occurrence occurrence, Subassembly place, Occurrence below, int factor)
    {
        var each = rows.Field(occurrence, place, "quantity", Exact.One);
        return (nodes.Multiply(each, factor),
            nodes.Nodes[each].Operator == Operator.Constant ? rows.IsThere(below) : nodes.And(rows.IsThere(below), AboveZero(each)));
    }

    public int AboveZero(int number) => nodes.Make(Operator.Less, DomainKind.YesNo, nodes.Of(Exact.Zero), number);
}
