using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures.Formulas;

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

    /// <summary>Where the made item at work is made.</summary>
    private string? _site;
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
        return new()
        {
            Item = item,
            Description = description,
            Site = _site,
            Routing = [.. operations.OrderBy(o => o.Sequence)],
            Bom = Numbered(_model.Document.SumLines ? Summed(lines) : lines),
        };
    }

    /// <summary>Lines with a position of their own keep it where it is still free; the others take the next ten above the line before.</summary>
    private static ImmutableArray<BomLine> Numbered(List<BomLine> lines)
    {
        var taken = new HashSet<int>();
        foreach (var line in lines)
            taken.Add(line.Position);
        var (numbered, used, last) = (ImmutableArray.CreateBuilder<BomLine>(lines.Count), new HashSet<int>(), 0);
        foreach (var line in lines)
        {
            var position = line.Position;
            if (position == 0 || !used.Add(position))
            {
                for (position = last / 10 * 10 + 10; taken.Contains(position) || used.Contains(position);)
                    position += 10;
                used.Add(position);
            }
            numbered.Add(line with { Position = position });
            last = position;
        }
        return numbered.MoveToImmutable();
    }

    /// <summary>One line for all with the same item, operation, figures and handling; what a line stands below stays by itself.</summary>
    private static List<BomLine> Summed(List<BomLine> lines)
    {
        var summed = new List<BomLine>();
        foreach (var line in lines)
        {
            var same = line.Below is null
                ? summed.FindIndex(l => l.Below is null && l.Item == line.Item && l.Unit == line.Unit && l.Operation == line.Operation
                && l.PerOrder == line.PerOrder
                && l.Issue == line.Issue && l.Store == line.Store && l.From == line.From && l.To == line.To && l.Figures.SequenceEqual(line.Figures)) : -1;
            if (same < 0)
                summed.Add(line);
            else
                summed[same] = summed[same] with
                {
                    Net = summed[same].Net + line.Net,
                    Gross = summed[same].Gross + line.Gross,
                    Also = [.. summed[same].Also, new(line.RowId, line.Prefix)]
                };
        }
        return summed;
    }

    /// <summary>Adds an occurrence's lines to the made item it belongs to.</summary>
    /// <param name="factor">How many of this occurrence go into one made item.</param>
    private void Collect(Occurrence occurrence, Exact factor, List<BomLine> lines, List<RoutingOperation> operations)
    {
        CheckExclusive(occurrence);
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
                    Place(occurrence, place, factor, lines, operations);
                    break;
            }
    }

    /// <summary>Of lines that answer the same question exactly one has to stand.</summary>
    private void CheckExclusive(Occurrence occurrence)
    {
        foreach (var (question, rows) in ExclusiveGroups.Of(occurrence.Assembly, _model.IsSound))
        {
            var standing = rows.Where(r => _evaluator.Applies(occurrence, r)).ToList();
            if (standing.Count == 0)
                Fault(occurrence, rows[0], $"No line answers “{question}” in this configuration; one of {string.Join(", ", rows.Select(NameOf))} has to.");
            else if (standing.Count > 1)
                Fault(occurrence, standing[1],
                    $"“{question}” is answered by {standing.Count} lines at once: {string.Join(", ", standing.Select(NameOf))}. Exactly one has to stand.");
        }
    }

    private void Place(Occurrence occurrence, Subassembly place, Exact factor, List<BomLine> lines, List<RoutingOperation> operations)
    {
        if (Number(occurrence, place, "quantity", Exact.One) is not { } count)
            return;
        if (count.Sign < 0 || !count.IsWhole)
        {
            Fault(occurrence, place, $"The number of “{place.Name}” comes to {count.ToDisplay()}; it must be a whole number.");
            return;
        }
        if (count.IsZero)
            return;
        var made = new List<(string Content, BomLine Line)>();
        foreach (var below in _evaluator.Occurrences.Where(o => o.Parent == occurrence && o.Place == place && _evaluator.IsThere(o)))
        {
            if (place.Make == SubassemblyKind.Phantom)
            {
                Collect(below, factor * count, lines, operations);
                continue;
            }
            var line = OwnItem(occurrence, place, below, factor * count);
            var content = StructureContent.Of(line.Below!);
            // Equal instances are one structure with a quantity.
            if (made.FindIndex(m => m.Content == content) is var same and >= 0)
                made[same] = (content, made[same].Line with
                {
                    Net = made[same].Line.Net + line.Net,
                    Gross = made[same].Line.Gross + line.Gross,
                    Instances = [.. made[same].Line.Instances, below.Number]
                });
            else
                made.Add((content, line with { Instances = ModelIndex.InstancesOf(place).Length > 1 ? [below.Number] : [] }));
        }
        // Where only one is there, its number says nothing.
        lines.AddRange(made is [var (_, only)] && only.Instances.Length == 1 ? [only with { Instances = [] }] : made.Select(m => m.Line));
    }

    private BomLine OwnItem(Occurrence occurrence, Subassembly place, Occurrence below, Exact quantity)
    {
        var item = place.Item.Length > 0 ? place.Item : below.Assembly.Name;
        var fact = _model.Facts.Items.GetValueOrDefault(place.Item);
        var (site, madeAt) = (_site, SiteOfPlace.Of(place, _site));
        _site = madeAt;
        var made = Made(below, item, fact?.Description ?? below.Assembly.Label);
        _site = site;
        return new()
        {
            Position = 0,
            Item = item,
            Description = fact?.Description ?? below.Assembly.Label,
            Unit = "",
            Net = quantity,
            Gross = quantity,
            PerOrder = false,
            Issue = IssueMethod.Hand,
            Store = madeAt is null ? "" : fact?.Stores.GetValueOrDefault(madeAt, "") ?? "",
            Operation = Consumer(occurrence, place, place.OperationId, item)?.Sequence,
            Reason = Reason(occurrence, place),
            RowId = place.Id,
            Prefix = occurrence.Prefix,
            From = place.From,
            To = place.To,
            Below = made,
        };
    }

    private Exact? Number(Occurrence at, Row row, string field, Exact whenEmpty, string? called = null)
    {
        if (_model.Expression(row.Id, field) is not { } expression)
            return whenEmpty;
        var value = _evaluator.Evaluate(expression, at.Prefix);
        if (value.Kind == ValueKind.Number)
            return value.Number;
        Fault(at, row, $"The {called ?? field} of {NameOf(row)} {(value.IsNothing ? "has no value in this configuration" : CannotBeComputed)}.");
        return null;
    }

    private const string CannotBeComputed =
        "cannot be computed in this configuration: it divides by zero, takes the root of a negative number, or becomes too large";

    /// <summary>The code that an expression comes to; empty, and a fault, where it comes to none.</summary>
    private string Code(Occurrence at, Row row, Bound from, string called)
    {
        var value = _evaluator.Evaluate(from, at.Prefix);
        if (value is { Kind: ValueKind.Text, Text: { Length: > 0 } code })
            return code;
        Fault(at, row, value.Kind == ValueKind.Error ? $"The {called} for {NameOf(row)} {CannotBeComputed}." : $"No {called} comes out for {NameOf(row)}.");
        return "";
    }

    private string NameOf(Row row) => row switch
    {
        PartLine { Item.Length: > 0 } part => part.Item,
        OperationLine operation => $"“{operation.Label.Or(operation.Name)}”",
        NamedRow named => $"“{named.Label.Or(named.Name)}”",
        _ => "this line",
    };

    /// <summary>The operation that consumes what a row adds, which has to be there with it; null for the first one of the routing.</summary>
    private OperationLine? Consumer(Occurrence at, Row row, string? operationId, string item)
    {
        if (operationId is not { Length: > 0 } id || _model.Index.Rows.GetValueOrDefault(id) is not OperationLine consumer)
            return null;
        if (!_evaluator.Applies(at, consumer))
            Fault(at, row, $"{item} is consumed at operation {consumer.Sequence} “{consumer.Label.Or(consumer.Name)}”, which does not apply in this "
                + $"configuration.");
        return consumer;
    }

    private BomLine? Part(Occurrence at, PartLine part, Exact factor)
    {
        var item = part.Item;
        if (_model.Expression(part.Id, "itemFrom") is { } from)
            item = Code(at, part, from, "item number");
        if (!_model.Facts.Items.TryGetValue(item, out var fact))
        {
            if (item.Length > 0)
                Fault(at, part, $"There is no item “{item}” in the register.");
            return null;
        }
        if (Number(at, part, "quantity", Exact.One) is not { } quantity)
            return null;
        var unit = Unit.TryParse(fact.Unit) ?? Unit.One;
        var dimension = _model.Expression(part.Id, "quantity")?.Type.Dimension ?? Dimension.None;
        if (fact.InOwnUnit(quantity, dimension) is not { } own)
        {
            Fault(at, part, $"The quantity is {dimension.Describe()}, but {item} is kept in {(unit.Code.Length == 0 ? "pieces" : unit.Code)} and has no "
                + $"conversion from that.");
            return null;
        }
        if (own.Sign < 0)
            Fault(at, part, $"The quantity of {item} comes to {own.ToDisplay()}; it cannot be negative.");
        if (own.Sign <= 0 || factor.Sign <= 0)
            return null;
        var (net, gross) = KnownNumbers.Formulas.Quantities(own, factor, part);
        var consumer = Consumer(at, part, part.OperationId, item);
        return new()
        {
            Position = part.Position,
            Item = item,
            Description = fact.Description,
            Unit = unit.Code,
            Net = net,
            Gross = gross,
            PerOrder = part.PerOrder,
            Issue = part.Issue,
            // A line without a store of its own is taken from where the item is kept at the site.
            Store = part.Store.Length > 0 || _site is null ? part.Store : fact.Stores.GetValueOrDefault(_site, ""),
            Operation = consumer?.Sequence,
            Reason = Reason(at, part),
            RowId = part.Id,
            Prefix = at.Prefix,
            From = part.From,
            To = part.To,
            Figures = Figures(at, part),
            Substitutes = [.. part.SubstituteItems.Concat(fact.Substitutes.Where(s => s.Product is null || IsIn(s.Product, at)).Select(s => s.Item))
                .Distinct()],
        };
    }

    /// <summary>Whether something stands in a product: this one, or the one that it is reused from.</summary>
    private bool IsIn(string product, Occurrence at) => product.Equals(_model.Document.Code, StringComparison.OrdinalIgnoreCase)
        || (_model.Index.ReusedModelOf(at.Assembly) is { } reused && product.Equals(reused.Code, StringComparison.OrdinalIgnoreCase));

    private ImmutableArray<FigureValue> Figures(Occurrence at, PartLine part)
    {
        var figures = ImmutableArray.CreateBuilder<FigureValue>();
        for (var i = 0; i < part.Figures.Length; i++)
            if (Number(at, part, $"figures/{i}/expression", Exact.Zero, $"figure “{part.Figures[i].Name}”") is { } number
                && _model.Expression(part.Id, $"figures/{i}/expression") is { } expression)
            {
                var unit = part.Figures[i].Unit.Length > 0
                    && Unit.TryParse(part.Figures[i].Unit) is { } written ? written : Unit.ForDisplay(expression.Type.Dimension);
                figures.Add(new(part.Figures[i].Name, unit.FromBase(number), unit.Code, part.Figures[i].Decimals));
            }
        return figures.ToImmutable();
    }

    private RoutingOperation? Operation(Occurrence at, OperationLine operation, Exact factor)
    {
        if (Number(at, operation, "setup", Exact.Zero) is not { } setup || Number(at, operation, "run", Exact.Zero) is not { } run
            || Number(at, operation, "queue", Exact.Zero) is not { } queue)
            return null;
        foreach (var (name, time) in new[] { ("set-up", setup), ("run", run), ("queue", queue) })
            if (time.Sign < 0)
                Fault(at, operation, $"The {name} time of {NameOf(operation)} comes to {time.ToDisplay()} s; it cannot be negative.");
        Exact? batch = null;
        if (operation.Batch.Length > 0)
        {
            batch = Number(at, operation, "batch", Exact.One);
            if (batch is null)
                return null;
            if (batch.Value.Sign <= 0)
            {
                Fault(at, operation, $"The batch of {NameOf(operation)} comes to {batch.Value.ToDisplay()}; it must be more than zero.");
                return null;
            }
        }
        var workCentre = operation.WorkCentre;
        if (_model.Expression(operation.Id, "workCentreFrom") is { } from)
        {
            workCentre = Code(at, operation, from, "work centre");
            if (workCentre.Length > 0 && !_model.Facts.WorkCentres.ContainsKey(workCentre))
                Fault(at, operation, $"There is no work centre “{workCentre}”.");
        }
        return new()
        {
            Sequence = operation.Sequence,
            Name = operation.Name,
            Label = operation.Label,
            WorkCentre = workCentre,
            Setup = setup,
            Run = batch is null ? run * factor : run,
            Batch = batch,
            Pieces = batch is null ? Exact.One : factor,
            Queue = queue,
            Crew = operation.Crew,
            Parallel = operation.Parallel.Trim(),
            Instructions = Filled(at, operation),
            Reason = Reason(at, operation),
            RowId = operation.Id,
            Prefix = at.Prefix,
        };
    }

    private LocalText Filled(Occurrence at, OperationLine operation) => new(operation.Instructions.Texts.ToImmutableSortedDictionary(t => t.Key, t =>
    {
        var (text, expressions) = (new System.Text.StringBuilder(), 0);
        foreach (var piece in Template.Split(t.Value))
            text.Append(!piece.IsExpression ? piece.Text
                : _model.Expression(operation.Id, $"instructions/{t.Key}/{expressions++}") is { } expression
                    ? ShownValue.Of(_model, expression, _evaluator.Evaluate(expression, at.Prefix), t.Key) : "–");
        return text.ToString();
    }));

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
