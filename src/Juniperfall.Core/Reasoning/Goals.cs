using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures;

namespace Juniperfall.Core.Reasoning;

/// <summary>What a structure comes to as a whole, as goals to bring to their lowest or highest.</summary>
public static class StructureGoals
{
    /// <summary>Material, labour and machine cost of one piece, as <see cref="RollUp"/> adds them up.</summary>
    public const string Cost = "#cost";

    /// <summary>Net weight of one piece.</summary>
    public const string Weight = "#weight";

    /// <summary>Set-up and run times of one piece.</summary>
    public const string Work = "#work";

    public static readonly IReadOnlyList<string> All = [Cost, Weight, Work];
}

/// <summary>
/// Writes the roll-up of a structure as nodes: the arithmetic of <see cref="StructureBuilder"/> and <see cref="RollUp"/> over
/// lines whose values are still open. A line whose item is told by more than a property of a choice is none that this can write.
/// </summary>
internal sealed partial class NetworkBuilder
{
    private readonly Dictionary<string, int> _goals = [];

    private void AddGoals(Occurrence root)
    {
        try
        {
            var (cost, weight, work) = Total(root, Constant(Value.Of(Exact.One)));
            (_goals[StructureGoals.Cost], _goals[StructureGoals.Weight], _goals[StructureGoals.Work]) = (cost, weight, work);
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

    /// <summary>Cost, weight and work of an occurrence, per piece of the made item that it belongs to.</summary>
    /// <param name="factor">How many of it go into one made item.</param>
    private (int Cost, int Weight, int Work) Total(Occurrence at, int factor)
    {
        var (cost, weight, work) = (Number(Exact.Zero), Number(Exact.Zero), Number(Exact.Zero));
        foreach (var row in Rows(at))
            switch (row)
            {
                case PartLine part:
                    var (ofPart, heavy) = Part(at, part, factor);
                    (cost, weight) = (Sum(cost, OrNothing(Condition(at, row), ofPart)), Sum(weight, OrNothing(Condition(at, row), heavy)));
                    break;
                case OperationLine operation:
                    var time = OrNothing(Condition(at, row), Sum(Field(at, row, "setup", Exact.Zero), Product(Field(at, row, "run", Exact.Zero), factor)));
                    work = Sum(work, time);
                    if (_model.Facts.WorkCentres.TryGetValue(operation.WorkCentre, out var centre))
                        cost = Sum(cost, Times(time, (Exact.Parse(centre.LabourRate) * centre.Crew + Exact.Parse(centre.MachineRate)) / 3600));
                    break;
                case Subassembly place:
                    foreach (var below in _occurrences.Values.Where(o => o.Parent == at && o.Place == place))
                    {
                        var count = Product(Field(at, place, "quantity", Exact.One), factor);
                        var inner = place.Make == SubassemblyKind.Phantom ? Total(below, count) : Total(below, Number(Exact.One));
                        int Counted(int number) => OrNothing(IsThere(below), place.Make == SubassemblyKind.Phantom ? number : Product(number, count));
                        (cost, weight, work) = (Sum(cost, Counted(inner.Cost)), Sum(weight, Counted(inner.Weight)), Sum(work, Counted(inner.Work)));
                    }
                    break;
            }
        return (cost, weight, work);
    }

    private int Field(Occurrence at, Row row, string field, Exact whenEmpty) =>
        _model.Expression(row.Id, field) is { } expression ? Expression(at.Prefix, expression) : Number(whenEmpty);

    private (int Cost, int Weight) Part(Occurrence at, PartLine part, int factor)
    {
        var (unit, cost, weight) = Prices(at, part);
        var net = Times(Field(at, part, "quantity", Exact.One), Exact.One / unit.Factor);
        if (!part.PerOrder)
            net = Product(net, factor);
        var step = Exact.TryParse(part.Step, out var s) && s.Sign > 0 ? s : Exact.Zero;
        int Rounded(int number) => step.IsZero ? number : Make(Operator.Ceiling, DomainKind.Number, number, Number(step));
        net = Rounded(net);
        var gross = Exact.TryParse(part.Scrap, out var scrap) && !scrap.IsZero ? Rounded(Times(net, 1 + scrap / 100)) : net;
        return (Product(gross, cost), Product(net, weight));
    }

    /// <summary>The unit of a line's item, and nodes of its cost and weight.</summary>
    private (Unit Unit, int Cost, int Weight) Prices(Occurrence at, PartLine part)
    {
        (Unit, Exact Cost, Exact Weight)? Of(string item) => _model.Facts.Items.TryGetValue(item, out var fact) && Unit.TryParse(fact.Unit) is { } u ? (u, Exact.Parse(fact.Cost), Exact.Parse(fact.Weight)) : null;
        var from = _model.Expression(part.Id, "itemFrom");
        if (from is null or BoundLiteral)
            return Of(from is BoundLiteral literal ? literal.Value.Text ?? "" : part.Item) is { } one ? (one.Item1, Number(one.Cost), Number(one.Weight)) : throw new NotSupportedException();
        if (from is not BoundProperty property)
            throw new NotSupportedException();
        // Values without an item cannot be built; they count as nothing here.
        var items = _model.Index.Lists[property.ListId].Values.Select(v => Of(v.Properties.GetValueOrDefault(property.PropertyId, ""))).ToList();
        if (items.OfType<(Unit Unit, Exact, Exact)>().Select(i => i.Unit).Distinct().ToList() is not [var unit])
            throw new NotSupportedException();
        var choice = Expression(at.Prefix, property.Choice);
        int Node(Func<(Unit, Exact Cost, Exact Weight), Exact> value) =>
            Make(new Node(Operator.Property, [choice]) { PropertyValues = [.. items.Select(i => i is { } item ? Value.Of(value(item)) : Value.Of(Exact.Zero))] }, DomainKind.Number);
        return (unit, Node(i => i.Cost), Node(i => i.Weight));
    }
}
