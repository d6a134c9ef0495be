using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures;

/// <summary>
/// Turns a complete configuration into a multi-level bill of materials and routings. Lines of phantoms move up into the
/// nearest made item, their quantities and run times multiplied by how many there are. The same input gives the same
/// structure.
/// </summary>
public sealed class StructureBuilder
{
    private readonly BoundModel _model;
    private readonly Evaluator _evaluator;
    private readonly string? _site;
    private readonly List<StructureFault> _faults = [];

    private StructureBuilder(BoundModel model, Evaluator evaluator, string? site) => (_model, _evaluator, _site) = (model, evaluator, site);

    /// <param name="values">Path → value in base units, as the reasoner completes them.</param>
    /// <param name="at">The site and day that it is made for.</param>
    public static StructureResult Build(BoundModel model, IReadOnlyDictionary<string, Value> values, Effectivity at = default)
    {
        var builder = new StructureBuilder(model, new(model, values, at), at.Site);
        var root = builder._evaluator.Occurrences.FirstOrDefault(o => o.Parent is null);
        if (root is null)
            return new(null, [new("", "", "The model has no assembly that is the product itself.")]);
        var structure = builder.Made(root, model.Document.Code, model.Document.Label);
        return builder._faults.Count == 0 ? new(structure, []) : new(null, [.. builder._faults]);
    }

    private void Fault(Occurrence at, Row row, string message) => _faults.Add(new(row.Id, at.Prefix, message));

    private Structure Made(Occurrence occurrence, string item, LocalText description)
    {
        var lines = new List<BomLine>();
        var operations = new List<RoutingOperation>();
        Collect(occurrence, Exact.One, lines, operations);
        var routing = operations.OrderBy(o => o.Sequence).ToImmutableArray();
        return new()
        {
            Item = item,
            Description = description,
            Routing = routing,
            Bom = [.. lines.Select((line, i) => line with { Position = (i + 1) * 10 })],
        };
    }

    /// <summary>Adds an occurrence's lines to the made item it belongs to.</summary>
    /// <param name="factor">How many of this occurrence go into one made item.</param>
    private void Collect(Occurrence occurrence, Exact factor, List<BomLine> lines, List<RoutingOperation> operations)
    {
        foreach (var row in occurrence.Assembly.Rows.Where(r => r is PartLine or OperationLine or Subassembly && _evaluator.Applies(occurrence, r)))
            switch (row)
            {
                case PartLine part when Part(occurrence, part, factor) is { } line:
                    lines.Add(line);
                    break;
                case OperationLine operation when Operation(occurrence, operation, factor) is { } step:
                    operations.Add(step);
                    break;
                case Subassembly place:
                    foreach (var below in _evaluator.Occurrences.Where(o => o.Parent == occurrence && o.Place == place && _evaluator.IsThere(o)))
                        Below(occurrence, place, below, factor, lines, operations);
                    break;
            }
    }

    private void Below(Occurrence occurrence, Subassembly place, Occurrence below, Exact factor, List<BomLine> lines, List<RoutingOperation> operations)
    {
        if (Number(occurrence, place, "quantity", Exact.One) is not { } count)
            return;
        if (count.Sign < 0 || !count.IsWhole)
            Fault(occurrence, place, $"The number of “{place.Name}” comes to {count.ToDisplay()}; it must be a whole number.");
        else if (count.IsZero)
            return;
        else if (place.Make == SubassemblyKind.Phantom)
            Collect(below, factor * count, lines, operations);
        else
        {
            var item = place.Item.Length > 0 ? place.Item : below.Assembly.Name;
            var fact = _model.Facts.Items.GetValueOrDefault(place.Item);
            lines.Add(new()
            {
                Position = 0,
                Item = item,
                Description = fact?.Description ?? below.Assembly.Label,
                Unit = "",
                Net = count * factor,
                Gross = count * factor,
                PerOrder = false,
                Issue = IssueMethod.Hand,
                Store = "",
                Operation = null,
                Reason = Reason(occurrence, place),
                RowId = place.Id,
                Prefix = occurrence.Prefix,
                Below = Made(below, item, fact?.Description ?? below.Assembly.Label),
            });
        }
    }

    private Exact? Number(Occurrence at, Row row, string field, Exact whenEmpty)
    {
        if (_model.Expression(row.Id, field) is not { } expression)
            return whenEmpty;
        try
        {
            var value = _evaluator.Evaluate(expression, at.Prefix);
            if (!value.IsNothing)
                return value.Number;
            Fault(at, row, $"The {field} of {NameOf(row)} has no value in this configuration.");
        }
        catch (ArithmeticException)
        {
            Fault(at, row, $"The {field} of {NameOf(row)} cannot be computed in this configuration: it divides by zero or takes the root of a negative number.");
        }
        return null;
    }

    private string NameOf(Row row) => row switch
    {
        PartLine { Item.Length: > 0 } part => part.Item,
        OperationLine operation => $"“{operation.Label.Or(operation.Name)}”",
        NamedRow named => $"“{named.Label.Or(named.Name)}”",
        _ => "this line",
    };

    private BomLine? Part(Occurrence at, PartLine part, Exact factor)
    {
        var item = part.Item;
        if (_model.Expression(part.Id, "itemFrom") is { } from)
            item = _evaluator.Evaluate(from, at.Prefix) is { Kind: ValueKind.Text, Text: { Length: > 0 } number } ? number : "";
        if (!_model.Facts.Items.TryGetValue(item, out var fact))
        {
            Fault(at, part, item.Length == 0 ? "No item number comes out for this line." : $"There is no item “{item}” in the register.");
            return null;
        }
        if (Number(at, part, "quantity", Exact.One) is not { } quantity)
            return null;
        var unit = Unit.TryParse(fact.Unit) ?? Unit.One;
        if (_model.Expression(part.Id, "quantity") is { } expression && expression.Type.Dimension != unit.Dimension)
        {
            Fault(at, part, $"The quantity is {expression.Type.Dimension.Describe()}, but {item} is kept in {(unit.Code.Length == 0 ? "pieces" : unit.Code)}.");
            return null;
        }
        var net = unit.FromBase(quantity) * (part.PerOrder ? Exact.One : factor);
        if (net.Sign < 0)
            Fault(at, part, $"The quantity of {item} comes to {net.ToDisplay()}; it cannot be negative.");
        if (net.Sign <= 0)
            return null;
        var step = Exact.TryParse(part.Step, out var s) ? s : Exact.Zero;
        var scrap = Exact.TryParse(part.Scrap, out var percent) ? percent / 100 : Exact.Zero;
        Exact Rounded(Exact number) => step.Sign > 0 ? (number / step).Ceiling() * step : number;
        net = Rounded(net);
        var consumer = part.OperationId is { Length: > 0 } id && _model.Index.Rows.GetValueOrDefault(id) is OperationLine operation ? operation : null;
        if (consumer is not null && !_evaluator.Applies(at, consumer))
            Fault(at, part, $"{item} is consumed at operation {consumer.Sequence} “{consumer.Label.Or(consumer.Name)}”, which does not apply in this configuration.");
        return new()
        {
            Position = 0,
            Item = item,
            Description = fact.Description,
            Unit = unit.Code,
            Net = net,
            Gross = Rounded(net * (1 + scrap)),
            PerOrder = part.PerOrder,
            Issue = part.Issue,
            // A line without a store of its own is taken from where the item is kept at the site.
            Store = part.Store.Length > 0 || _site is null ? part.Store : fact.Stores.GetValueOrDefault(_site, ""),
            Operation = consumer?.Sequence,
            Reason = Reason(at, part),
            RowId = part.Id,
            Prefix = at.Prefix,
        };
    }

    private RoutingOperation? Operation(Occurrence at, OperationLine operation, Exact factor)
    {
        if (Number(at, operation, "setup", Exact.Zero) is not { } setup || Number(at, operation, "run", Exact.Zero) is not { } run || Number(at, operation, "queue", Exact.Zero) is not { } queue)
            return null;
        foreach (var (name, time) in new[] { ("set-up", setup), ("run", run), ("queue", queue) })
            if (time.Sign < 0)
                Fault(at, operation, $"The {name} time comes to {time.ToDisplay()} s; it cannot be negative.");
        return new()
        {
            Sequence = operation.Sequence,
            Name = operation.Name,
            Label = operation.Label,
            WorkCentre = operation.WorkCentre,
            Setup = setup,
            Run = run * factor,
            Queue = queue,
            Instructions = operation.Instructions,
            Reason = Reason(at, operation),
            RowId = operation.Id,
            Prefix = at.Prefix,
        };
    }

    /// <summary>The line's own condition and those of the subassemblies above it, with the values that make them true.</summary>
    private LineReason Reason(Occurrence at, Row row)
    {
        var texts = new List<string>();
        var because = new List<(string, Value)>();
        for (var (occurrence, current) = (at, row); ; (occurrence, current) = (occurrence.Parent!, occurrence.Place!))
        {
            if (_model.Expression(current.Id, "appliesWhen") is { } condition)
            {
                texts.Insert(0, StoredText.Show(current.AppliesWhen, _model.Index));
                foreach (var attribute in condition.All().OfType<BoundAttribute>())
                    because.Add((occurrence.Prefix + attribute.Path, _evaluator[occurrence.Prefix + attribute.Path]));
            }
            if (occurrence.Parent is null)
                break;
        }
        return new(string.Join(" and ", texts), [.. because.Distinct()]);
    }
}
