using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures;

namespace Juniperfall.Core.Reasoning;

/// <summary>What a structure comes to as a whole, as goals to bring to their lowest or highest.</summary>
public static class StructureGoals
{
    /// <summary>The cost of one piece, overhead included, as <see cref="RollUp"/> adds it up.</summary>
    public const string Cost = "#cost";

    /// <summary>Net weight of one piece.</summary>
    public const string Weight = "#weight";

    /// <summary>Set-up and run times of one piece.</summary>
    public const string Work = "#work";

    /// <summary>The list price of one piece, as <see cref="Pricing"/> works it out; only where the model has prices.</summary>
    public const string Price = "#price";

    /// <summary>Working days until one piece is ready, as <see cref="Structures.LeadTime"/> has them.</summary>
    public const string LeadTime = "#leadTime";

    public static readonly IReadOnlyList<string> All = [Cost, Weight, Work, LeadTime, Price];
}

/// <summary>
/// Writes the roll-up of a structure as nodes: the arithmetic of <see cref="StructureBuilder"/> and <see cref="RollUp"/> over
/// lines whose values are still open. A line whose items are counted in different units is none that this can write.
/// </summary>
internal sealed partial class NetworkBuilder
{
    private readonly Dictionary<string, int> _goals = [];

    private void AddGoals(Occurrence root)
    {
        if (PriceFields.AreIn(_model.Document))
            _goals[StructureGoals.Price] = Rounded(Operator.Round, PriceOf(root), Number(Pricing.Cent));
        try
        {
            var (cost, weight, work) = Total(root, Constant(Value.Of(Exact.One)), Constant(Value.Of(Exact.One)));
            (_goals[StructureGoals.Cost], _goals[StructureGoals.Weight], _goals[StructureGoals.Work]) = (cost, weight, work);
            _goals[StructureGoals.LeadTime] = LeadTimeOf(root, Number(Exact.One));
        }
        catch (NotSupportedException)
        {
            // Then these goals are not offered.
        }
    }

    private int Number(Exact number) => Constant(Value.Of(number));
    private int Sum(int a, int b) => Make(Operator.Add, DomainKind.Number, a, b);
    private int Product(int a, int b) => Make(Operator.Multiply, DomainKind.Number, a, b);
    private int Times(int a, Exact number) => number == Exact.One ? a : Product(a, Number(number));

    /// <summary>A number where a condition holds, nothing otherwise.</summary>
    private int OrNothing(int condition, int number) =>
        Make(Operator.Else, DomainKind.Number, condition == _true ? number : Make(Operator.Where, DomainKind.Number, condition, number), Number(Exact.Zero));

    /// <summary>Cost, weight and work of an occurrence in all the made items that it belongs to.</summary>
    /// <param name="factor">How many of it go into one made item.</param>
    /// <param name="lot">How many of the made item there are.</param>
    private (int Cost, int Weight, int Work) Total(Occurrence at, int factor, int lot)
    {
        var (cost, weight, work) = (Number(Exact.Zero), Number(Exact.Zero), Number(Exact.Zero));
        foreach (var row in Rows(at))
            switch (row)
            {
                case PartLine part:
                    var (ofPart, heavy) = Part(at, part, factor, lot);
                    (cost, weight) = (Sum(cost, OrNothing(Condition(at, row), ofPart)), Sum(weight, OrNothing(Condition(at, row), heavy)));
                    break;
                case OperationLine operation:
                    var time = OrNothing(Condition(at, row), Sum(Field(at, row, "setup", Exact.Zero), Run(at, operation, Product(factor, lot))));
                    work = Sum(work, time);
                    cost = Sum(cost, AtWorkCentre(at, operation, time, centre => centre is null ? Exact.Zero
                        : (Exact.Parse(centre.LabourRate) * (operation.Crew > 0 ? operation.Crew : centre.Crew) + Exact.Parse(centre.MachineRate)) * (1 + Exact.Parse(centre.Overhead) / 100) / 3600));
                    break;
                case Subassembly place:
                    foreach (var below in _occurrences.Values.Where(o => o.Parent == at && o.Place == place))
                    {
                        var (count, isThere) = PiecesOf(at, place, below, factor);
                        var inner = place.Make == SubassemblyKind.Phantom ? Total(below, count, lot) : Total(below, Number(Exact.One), Product(count, lot));
                        (cost, weight, work) = (Sum(cost, OrNothing(isThere, inner.Cost)), Sum(weight, OrNothing(isThere, inner.Weight)), Sum(work, OrNothing(isThere, inner.Work)));
                    }
                    break;
            }
        return (cost, weight, work);
    }

    private int Rounded(Operator way, int number, int step) => Make(way, DomainKind.Number, number, step);

    /// <summary>The price of one piece of an assembly at a place, as <see cref="Pricing"/> works it out.</summary>
    private int PriceOf(Occurrence at)
    {
        var price = Number(Exact.Zero);
        foreach (var row in PriceFields.InOrder(Rows(at)))
            if (row is Subassembly place)
                foreach (var below in _occurrences.Values.Where(o => o.Parent == at && o.Place == place))
                    price = Sum(price, OrNothing(IsThere(below), Product(Field(at, place, "quantity", Exact.One), PriceOf(below))));
            else if (_model.Expression(row.Id, PriceFields.Of(row)!) is { } expression)
            {
                var number = Where(Condition(at, row), Expression(at.Prefix, expression));
                price = row is PriceLine line ? Changed(price, line, number) : Sum(price, OrNothing(Stands(at, row), number));
            }
        return price;
    }

    private int Where(int condition, int number) => condition == _true ? number : Make(Operator.Where, DomainKind.Number, condition, number);

    /// <summary>A part line of which nothing is needed does not stand.</summary>
    private int Stands(Occurrence at, Row row) => row is PartLine && _model.Expression(row.Id, "quantity") is { } quantity
        ? Make(Operator.And, DomainKind.YesNo, Condition(at, row), Make(Operator.Less, DomainKind.YesNo, Number(Exact.Zero), Expression(at.Prefix, quantity))) : Condition(at, row);

    /// <summary>A price after a line that has a number where it applies.</summary>
    private int Changed(int price, PriceLine line, int number) => line.Effect switch
    {
        PriceEffect.Adds => Sum(price, OrNothing(_true, number)),
        PriceEffect.Times => Product(price, Make(Operator.Else, DomainKind.Number, number, Number(Exact.One))),
        PriceEffect.AtLeast => Make(Operator.GreatestOf, DomainKind.Number, price, number),
        _ => Make(Operator.Else, DomainKind.Number,
            Rounded(line.Rounding switch { PriceRounding.Up => Operator.Ceiling, PriceRounding.Down => Operator.Floor, _ => Operator.Round }, price, number), price),
    };

    /// <summary>How many of a subassembly go into one made item, and whether it is there.</summary>
    private (int Count, int IsThere) PiecesOf(Occurrence at, Subassembly place, Occurrence below, int factor)
    {
        var each = Field(at, place, "quantity", Exact.One);
        return (Product(each, factor), _nodes[each].Operator == Operator.Constant ? IsThere(below)
            : Make(Operator.And, DomainKind.YesNo, IsThere(below), Make(Operator.Less, DomainKind.YesNo, Number(Exact.Zero), each)));
    }

    /// <summary>A time × what a second of it comes to at its work centre.</summary>
    private int AtWorkCentre(Occurrence at, OperationLine operation, int time, Func<WorkCentreFact?, Exact> each) => _model.Expression(operation.Id, "workCentreFrom") is { } from
        ? Product(time, OrNothing(_true, LookedUp(at.Prefix, from, code => Value.Of(each(_model.Facts.WorkCentres.GetValueOrDefault(code))), DomainKind.Number)))
        : Times(time, each(_model.Facts.WorkCentres.GetValueOrDefault(operation.WorkCentre)));

    private int Run(Occurrence at, OperationLine operation, int pieces)
    {
        var run = Field(at, operation, "run", Exact.Zero);
        return operation.Batch.Length == 0 ? Product(run, pieces)
            : Product(run, Make(Operator.Ceiling, DomainKind.Number, Make(Operator.Divide, DomainKind.Number, pieces, Field(at, operation, "batch", Exact.One)), Number(Exact.One)));
    }

    /// <summary>Where the made item that an occurrence belongs to is made.</summary>
    private string? SiteOf(Occurrence at) => at is { Parent: { } parent, Place: { } place } ? StructureBuilder.SiteOf(place, SiteOf(parent)) : _at.Site;

    private int Field(Occurrence at, Row row, string field, Exact whenEmpty) =>
        _model.Expression(row.Id, field) is { } expression ? Expression(at.Prefix, expression) : Number(whenEmpty);

    private (int Cost, int Weight) Part(Occurrence at, PartLine part, int factor, int lot)
    {
        var (each, cost, weight) = Prices(at, part);
        var net = Times(Field(at, part, "quantity", Exact.One), each);
        if (!part.PerOrder)
            net = Product(net, factor);
        var step = Exact.TryParse(part.Step, out var s) && s.Sign > 0 ? s : Exact.Zero;
        int Rounded(int number) => step.IsZero ? number : Make(Operator.Ceiling, DomainKind.Number, number, Number(step));
        int InAll(int number) => part.PerOrder ? number : Product(number, lot);
        net = Rounded(net);
        var gross = Exact.TryParse(part.Scrap, out var scrap) && !scrap.IsZero ? Rounded(Times(net, 1 + scrap / 100)) : net;
        var overhead = _model.Facts.SiteAt(SiteOf(at)) is { } there ? 1 + Exact.Parse(there.MaterialOverhead) / 100 : Exact.One;
        return (Times(Product(InAll(gross), cost), overhead), Product(InAll(net), weight));
    }

    /// <summary>How much of a line's item a quantity of one in base units is, and nodes of its cost and weight.</summary>
    private (Exact Each, int Cost, int Weight) Prices(Occurrence at, PartLine part)
    {
        var dimension = _model.Expression(part.Id, "quantity")?.Type.Dimension ?? Dimension.None;
        (Exact Each, Exact Cost, Exact Weight)? Of(string item) =>
            _model.Facts.Items.TryGetValue(item, out var fact) && fact.InOwnUnit(Exact.One, dimension) is { } each ? (each, fact.CostAt(SiteOf(at)), Exact.Parse(fact.Weight)) : null;
        if (_model.Expression(part.Id, "itemFrom") is not { } from)
            return Of(part.Item) is { } one ? (one.Each, Number(one.Cost), Number(one.Weight)) : throw new NotSupportedException();
        // What names no item cannot be built; it counts as nothing here.
        var items = ItemReading.TextsOf(_model.Index, from, null, FactsAt(at.Prefix)).Distinct().Select(Of).OfType<(Exact Each, Exact, Exact)>().ToList();
        if (items.Select(i => i.Each).Distinct().ToList() is not [var same])
            throw new NotSupportedException();
        int Node(Func<(Exact, Exact Cost, Exact Weight), Exact> value) => OrNothing(_true, LookedUp(at.Prefix, from, number => Of(number) is { } item ? Value.Of(value(item)) : Value.Nothing, DomainKind.Number));
        return (same, Node(i => i.Cost), Node(i => i.Weight));
    }
}
