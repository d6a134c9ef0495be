using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>A fault at one field of one row (or value list). Blocking ones keep a revision from release.</summary>
public sealed record Finding(string RowId, string Field, Diagnostic Diagnostic, bool Blocks = true);

/// <summary>A cell of a combination grid: anything, or some values and ranges (base units, ends included).</summary>
public sealed record GridCell(bool Any, ImmutableArray<Value> Values, ImmutableArray<(Exact? Low, Exact? High)> Ranges)
{
    public static readonly GridCell Wildcard = new(true, [], []);

    public bool Matches(Value value) => Any || Values.Contains(value)
        || (value.Kind == ValueKind.Number && Ranges.Any(r => (r.Low is null || r.Low <= value.Number) && (r.High is null || value.Number <= r.High)));
}

/// <summary>A grid whose columns and cells are bound. Rows with a fault are left out.</summary>
/// <param name="Places">Where each row stands in the document, counted from 0.</param>
public sealed record BoundGrid(ImmutableArray<Bound> Keys, ImmutableArray<ImmutableArray<GridCell>> Rows, ImmutableArray<int> Places,
    ImmutableDictionary<string, ImmutableArray<Value>> Figures);

/// <summary>
/// A document with every expression bound and checked. What is faulty is listed in <see cref="Findings"/> and left out,
/// together with all that depends on it; the rest can be reasoned with.
/// </summary>
public sealed class BoundModel
{
    private readonly Dictionary<(string RowId, string Field), Bound> _expressions = [];
    private readonly Dictionary<string, BoundGrid> _grids = [];
    private readonly Dictionary<string, ExpressionType?> _types = [];
    private readonly HashSet<string> _faultyRows = [];
    private readonly HashSet<string> _circular = [];
    private readonly HashSet<(string RowId, string Field)> _faultyFields = [];
    private readonly List<Finding> _findings = [];

    /// <summary>While a computed attribute is typed: those that it reads and that have to be typed before it.</summary>
    private List<ComputedAttribute>? _untyped;

    public ModelIndex Index { get; }
    public ModelDocument Document => Index.Document;
    public LibraryFacts Facts { get; }
    public IReadOnlyList<Finding> Findings => _findings;

    /// <summary>Whether the model is larger than <see cref="Limits"/>; then it is taken as one without rows.</summary>
    public bool IsTooLarge { get; }

    /// <summary>The paths of all rows of the whole product, each after those that its value, its presence or its number of instances depends on.</summary>
    public IReadOnlyList<string> Order { get; } = [];

    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public BoundModel(ModelDocument document, LibraryFacts facts, CancellationToken cancel = default)
    {
        Index = new(document, facts);
        Facts = facts;
        _findings.AddRange(SizeChecks.Run(Index));
        if (_findings.Count > 0)
        {
            IsTooLarge = true;
            return;
        }
        RowChecks.Run(Index, facts, _findings);
        foreach (var finding in _findings)
        {
            _faultyFields.Add((finding.RowId, finding.Field));
            if (finding.Blocks)
                _faultyRows.Add(finding.RowId);
        }
        foreach (var assembly in document.AllAssemblies)
            foreach (var row in assembly.Rows)
            {
                cancel.ThrowIfCancellationRequested();
                BindRow(assembly, row);
            }
        var circles = new Circles(this, cancel);
        Order = circles.Order;
        foreach (var circle in circles.Findings)
            Add(circle.RowId, circle.Field, circle.Diagnostic);
        RestDependents();
    }

    /// <summary>Rows found faulty after others were bound to them take those others along.</summary>
    private void RestDependents()
    {
        var readers = new Dictionary<string, List<(string RowId, string Field)>>();
        foreach (var (place, expression) in _expressions)
            foreach (var read in expression.All().SelectMany(RowsOf).Distinct())
                (readers.TryGetValue(read, out var known) ? known : readers[read] = []).Add(place);
        var open = new Queue<string>(_faultyRows);
        while (open.TryDequeue(out var faulty))
            foreach (var (rowId, field) in readers.GetValueOrDefault(faulty, []))
                if (!_faultyRows.Contains(rowId))
                {
                    Add(rowId, field, new(Fault.DependsOnFaulty, default, $"“{Index.NameOf(faulty)}” has a fault of its own; this rests until it is mended."));
                    open.Enqueue(rowId);
                }
    }

    private static IEnumerable<string> RowsOf(Bound part) => part switch
    {
        BoundAttribute a => Ids(a.Path),
        BoundIsNone n => Ids(n.Path),
        BoundApplies a => Ids(a.Path),
        BoundGridFigure f => [f.GridId],
        _ => [],
    };

    private static IEnumerable<string> Ids(string path) => path.Split(RowPath.Below).Select(s => s.Split(RowPath.Instance, RowPath.Member)[0]);

    /// <summary>The bound expression of a field; null where it is empty or faulty.</summary>
    public Bound? Expression(string rowId, string field) => _expressions.GetValueOrDefault((rowId, field));

    /// <summary>Every bound expression of every row.</summary>
    public IEnumerable<Bound> Expressions => _expressions.Values;

    /// <summary>Every bound expression with the row that it stands in.</summary>
    public IEnumerable<(string RowId, Bound Expression)> ExpressionsOfRows => _expressions.Select(e => (e.Key.RowId, e.Value));

    /// <summary>What a subassembly gives to an input of the assembly that fills it, and the field where it says so; null where it leaves it to be
    /// asked.</summary>
    public (string Field, Bound Value)? GivenTo(Subassembly place, Row input)
    {
        for (var i = 0; i < place.Inputs.Length; i++)
            if (place.Inputs[i].AttributeId == input.Id && Expression(place.Id, RowPath.FieldOfInput(i)) is { } value)
                return (RowPath.FieldOfInput(i), value);
        return null;
    }

    public BoundGrid? Grid(string rowId) => _grids.GetValueOrDefault(rowId);

    /// <summary>Whether a row takes part in reasoning: nothing in it is faulty.</summary>
    public bool IsSound(Row row) => !_faultyRows.Contains(row.Id);

    private void Add(string rowId, string field, Diagnostic diagnostic)
    {
        _findings.Add(new(rowId, field, diagnostic));
        _faultyRows.Add(rowId);
        _faultyFields.Add((rowId, field));
        if (diagnostic.Fault == Fault.Circular)
            _circular.Add(rowId);
    }

    /// <summary>The same model with one rule taken to rest. Where a grid gives figures that are read, these stay.</summary>
    public BoundModel Without(string ruleId) => new(Document.WithRows(r => r.Id != ruleId ? r
        : r switch
        {
            RuleRow rule => rule with { Strength = RuleStrength.Advice },
            CombinationGrid grid => grid with { Strength = RuleStrength.Advice },
            _ =>
            r
        }), Facts);

    /// <summary>Binds one text as if it stood in the given place, without keeping it: for the expression editor.</summary>
    public BindResult Check(AssemblyDefinition assembly, string text, ExpressionType? expected) =>
        Binder.Bind(Parser.Parse(text), Index, assembly, TypeOf, expected);

    /// <summary>Binds what an input is given. A choice of another list is carried over by its codes.</summary>
    /// <param name="assembly">Where it is written: the assembly above.</param>
    /// <param name="target">The input.</param>
    public BindResult CheckInput(AssemblyDefinition assembly, string text, AttributeRow target)
    {
        var free = Check(assembly, text, null);
        if (TypeOf(target) is not { Kind: TypeKind.Choice, ListId: { } to } wanted
            || free.Expression is not { Type.Kind: TypeKind.Choice, Type.ListId: { } given } choice || given == to)
            return Check(assembly, text, TypeOf(target));
        var counterparts = from v in Index.Lists[given].Values
                           let counterpart = ModelIndex.ValueByCode(Index.Lists[to], v.Code)
                           where counterpart is not null
                           select KeyValuePair.Create(v.Id, counterpart.Id);
        return free with { Expression = new BoundRecoded(wanted, choice, counterparts.ToImmutableDictionary()) };
    }

    /// <summary>The type a named row has in expressions; null where the row is faulty.</summary>
    public ExpressionType? TypeOf(NamedRow row)
    {
        if (_types.TryGetValue(row.Id, out var known))
            return known;
        switch (row)
        {
            case ComputedAttribute computed when _untyped is not null:
                _untyped.Add(computed);
                return null;
            case ComputedAttribute computed:
                TypeInOrder(computed);
                return _types[row.Id];
            default:
                return _types[row.Id] = _faultyRows.Contains(row.Id) ? null : row switch
                {
                    AttributeRow attribute => TypeOf(attribute),
                    CombinationGrid => ExpressionType.YesNo,
                    _ => null,
                };
        }
    }

    /// <summary>
    /// Types a computed attribute, those that it reads before it: by depth-first search with a stack of its own, as chains can be long.
    /// What it reads is found by binding it, so that one with names of others still untyped is bound again after them.
    /// </summary>
    private void TypeInOrder(ComputedAttribute start)
    {
        var stack = new List<(ComputedAttribute Row, Queue<ComputedAttribute> Before)>();
        var places = new Dictionary<string, int>();
        Enter(start);
        while (stack.Count > 0)
        {
            var (row, before) = stack[^1];
            if (before.TryDequeue(out var next))
            {
                if (_types.ContainsKey(next.Id))
                    continue;
                if (places.TryGetValue(next.Id, out var again))
                    ReportCircle([.. stack[again..].Select(s => s.Row.Id)]);
                else
                    Enter(next);
                continue;
            }
            if (!_types.ContainsKey(row.Id))
            {
                _untyped = [];
                var type = _faultyRows.Contains(row.Id) ? null : BindField(Index.AssemblyOfRow[row.Id], row, "expression", row.Expression, null, true)?.Type;
                var untyped = _untyped;
                _untyped = null;
                if (untyped.Count > 0)
                {
                    untyped.ForEach(before.Enqueue);
                    continue;
                }
                _types[row.Id] = type;
            }
            stack.RemoveAt(stack.Count - 1);
            places.Remove(row.Id);
        }

        void Enter(ComputedAttribute row)
        {
            places[row.Id] = stack.Count;
            stack.Add((row, []));
        }
    }

    private void ReportCircle(IReadOnlyList<string> circle)
    {
        var sentence = Circles.Sentence([.. circle.Select(id => Index.NameOf(id) ?? id)], circle.Count);
        foreach (var member in circle)
        {
            _types[member] = null;
            if (!_circular.Contains(member))
                Add(member, "expression", new(Fault.Circular, default, sentence));
        }
    }

    private ExpressionType? TypeOf(AttributeRow attribute) => attribute.Kind switch
    {
        AttributeKind.YesNo => ExpressionType.YesNo,
        AttributeKind.Text => ExpressionType.Text,
        AttributeKind.Several => null,
        AttributeKind.Choice => attribute.ListId is not null && Index.Lists.ContainsKey(attribute.ListId) ? ExpressionType.Choice(attribute.ListId) : null,
        AttributeKind.Whole => ExpressionType.PlainNumber,
        _ => Unit.TryParse(attribute.Unit) is { } unit ? ExpressionType.Number(unit.Dimension) : null,
    };

    private Bound? BindField(AssemblyDefinition assembly, Row row, string field, string stored, ExpressionType? expected, bool required = false)
    {
        if (_expressions.TryGetValue((row.Id, field), out var already))
            return already;
        if (string.IsNullOrWhiteSpace(stored))
        {
            if (required && !_faultyFields.Contains((row.Id, field)))
                Add(row.Id, field, new(Fault.MissingExpression, default, "Nothing is written here yet."));
            return null;
        }
        if (_faultyFields.Contains((row.Id, field)))
            return null;
        var result = Binder.Bind(Parser.Parse(stored), Index, assembly, TypeOf, expected);
        if (_untyped is { Count: > 0 })
            return null;
        if (result.Expression is not null)
            return _expressions[(row.Id, field)] = result.Expression;
        if (_circular.Contains(row.Id))
            return null;
        var (_, map) = StoredText.ShowWithMap(stored, Index);
        foreach (var diagnostic in result.Diagnostics)
            Add(row.Id, field, diagnostic with { Span = map(diagnostic.Span) });
        return null;
    }

    private void BindInput(AssemblyDefinition assembly, Row row, string field, string stored, AttributeRow target)
    {
        if (string.IsNullOrWhiteSpace(stored) || CheckInput(assembly, stored, target).Expression is not BoundRecoded recoded)
        {
            BindField(assembly, row, field, stored, TypeOf(target), true);
            return;
        }
        var (from, to) = (Index.Lists[recoded.Choice.Type.ListId!], Index.Lists[recoded.Type.ListId!]);
        var without = from.Values.Where(v => !recoded.Values.ContainsKey(v.Id)).Select(v => $"“{v.Code}”").ToList();
        if (recoded.Values.IsEmpty)
            Add(row.Id, field, new(Fault.NoCounterpart, default, $"No value of “{from.Name}” has the code of one of “{to.Name}”."));
        else if (without.Count > 0)
            _findings.Add(new(row.Id, field, new(Fault.NoCounterpart, default,
                $"“{to.Name}” has no {string.Join(" and no ", without)}, so {(without.Count == 1 ? "that" : "these")} cannot be had together with "
                    + $"{Index.NameOf(row.Id)}."), false));
        _expressions[(row.Id, field)] = recoded;
    }

    private void BindRow(AssemblyDefinition assembly, Row row)
    {
        BindField(assembly, row, "appliesWhen", row.AppliesWhen, ExpressionType.YesNo);
        switch (row)
        {
            case AttributeRow attribute:
                var own = TypeOf(attribute);
                if (attribute.Kind == AttributeKind.Several)
                    own = ExpressionType.PlainNumber;
                if (own?.Kind == TypeKind.Number)
                {
                    BindField(assembly, row, "lower", attribute.Lower, own);
                    BindField(assembly, row, "upper", attribute.Upper, own);
                }
                if (attribute.SurchargeColumn.Length > 0 && IsSound(attribute))
                    _expressions[(row.Id, PriceFields.SurchargeColumn)] = SurchargeOf(attribute, Index.Lists[attribute.ListId!]);
                break;
            case ComputedAttribute computed:
                if (TypeOf(computed) is { } type && computed.Unit.Length > 0 && Unit.TryParse(computed.Unit) is { } unit && type.Dimension != unit.Dimension)
                    Add(row.Id, "unit", new(Fault.UnitMismatch, default,
                        $"{unit.Code} is the unit of {unit.Dimension.Describe()}; the expression gives {type.Describe()}."));
                break;
            case StatementRule rule:
                BindField(assembly, row, "expression", rule.Expression, ExpressionType.YesNo, true);
                break;
            case RequiresRule rule:
                BindField(assembly, row, "when", rule.When, ExpressionType.YesNo, true);
                BindField(assembly, row, "then", rule.Then, ExpressionType.YesNo, true);
                break;
            case ExcludesRule rule:
                BindField(assembly, row, "when", rule.When, ExpressionType.YesNo, true);
                BindField(assembly, row, "then", rule.Then, ExpressionType.YesNo, true);
                break;
            case LimitRule rule:
                var of = BindField(assembly, row, "of", rule.Of, null, true);
                if (of is { Type.Kind: not TypeKind.Number })
                    Add(row.Id, "of", new(Fault.NotANumber, default, $"A limit needs a number; this is {of.Type.Describe()}."));
                else if (of is not null)
                {
                    BindField(assembly, row, "lower", rule.Lower, of.Type);
                    BindField(assembly, row, "upper", rule.Upper, of.Type);
                    if (rule.Lower.Length == 0 && rule.Upper.Length == 0)
                        Add(row.Id, "upper", new(Fault.MissingExpression, default, "A limit needs a lower or an upper bound."));
                }
                break;
            case CombinationGrid grid:
                BindGrid(assembly, grid);
                break;
            case Subassembly subassembly:
                BindField(assembly, row, "quantity", subassembly.Quantity, ExpressionType.PlainNumber);
                BindField(assembly, row, "instanceCount", subassembly.InstanceCount, ExpressionType.PlainNumber);
                foreach (var (input, i) in subassembly.Inputs.Select((x, i) => (x, i)))
                    if (Index.Rows.GetValueOrDefault(input.AttributeId) is AttributeRow target)
                        BindInput(assembly, row, RowPath.FieldOfInput(i), input.Expression, target);
                break;
            case PartLine part:
                var item = Facts.Items.GetValueOrDefault(part.Item);
                BindField(assembly, row, "itemFrom", part.ItemFrom, ExpressionType.Text);
                BindField(assembly, row, PriceFields.Surcharge, part.Surcharge, ExpressionType.Number(Dimension.OfMoney));
                // Where the item has conversions, a quantity may be of any dimension that one of them leads from.
                var quantity = BindField(assembly, row, "quantity", part.Quantity,
                    item is not null && item.Conversions.IsEmpty
                        && Unit.TryParse(item.Unit) is { } itemUnit ? ExpressionType.Number(itemUnit.Dimension) : null, true);
                if (quantity is { Type.Kind: not TypeKind.Number })
                    Add(row.Id, "quantity", new(Fault.NotANumber, default, $"A quantity is a number; this is {quantity.Type.Describe()}."));
                else if (quantity is not null && item is { Conversions.IsEmpty: false } && item.InOwnUnit(Exact.One, quantity.Type.Dimension) is null)
                    Add(row.Id, "quantity", new(Fault.UnitMismatch, default,
                        $"The quantity is {quantity.Type.Describe()}; {item.Number} is kept in {(item.Unit.Length == 0 ? "pieces" : item.Unit)} and has no "
                            + $"conversion from that."));
                foreach (var (figure, i) in part.Figures.Select((f, i) => (f, i)))
                    if (BindField(assembly, row, $"figures/{i}/expression", figure.Expression,
                        Unit.TryParse(figure.Unit) is { Code.Length: > 0 } unit1
                        ? ExpressionType.Number(unit1.Dimension) : null, true) is { Type.Kind: not TypeKind.Number } other)
                        Add(row.Id, $"figures/{i}/expression", new(Fault.NotANumber, default, $"A figure is a number; this is {other.Type.Describe()}."));
                break;
            case OperationLine operation:
                var time = ExpressionType.Number(Dimension.OfTime);
                BindField(assembly, row, "setup", operation.Setup, time);
                BindField(assembly, row, "run", operation.Run, time);
                BindField(assembly, row, "queue", operation.Queue, time);
                BindField(assembly, row, PriceFields.Surcharge, operation.Surcharge, ExpressionType.Number(Dimension.OfMoney));
                BindField(assembly, row, "batch", operation.Batch, ExpressionType.PlainNumber);
                BindField(assembly, row, "workCentreFrom", operation.WorkCentreFrom, ExpressionType.Text);
                foreach (var (language, text) in operation.Instructions.Texts)
                    foreach (var (piece, i) in Template.Split(text).Where(p => p.IsExpression).Select((p, i) => (p, i)))
                        BindField(assembly, row, $"instructions/{language}/{i}", piece.Text, null, true);
                break;
            case PriceLine price:
                BindField(assembly, row, PriceFields.Amount, price.Amount,
                    price.Effect == PriceEffect.Times ? ExpressionType.PlainNumber : ExpressionType.Number(Dimension.OfMoney), true);
                break;
        }
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

    private void BindGrid(AssemblyDefinition assembly, CombinationGrid grid)
    {
        var keys = ImmutableArray.CreateBuilder<Bound>();
        var keyColumns = new List<(int Index, Bound Key, Unit Unit)>();
        var figures = ImmutableDictionary.CreateBuilder<string, ImmutableArray<Value>>();
        for (var i = 0; i < grid.Columns.Length; i++)
        {
            var column = grid.Columns[i];
            if (column.Reference.Length == 0)
                continue;
            if (BindField(assembly, grid, $"columns/{i}/reference", column.Reference, null) is not { } key)
                continue;
            if (key.Type.Kind == TypeKind.Text)
                Add(grid.Id, $"columns/{i}/reference", new(Fault.TextCannotBeReasoned, default, "A text cannot be a column of a grid."));
            keys.Add(key);
            keyColumns.Add((i, key, UnitOf(key, column)));
        }
        var rows = ImmutableArray.CreateBuilder<ImmutableArray<GridCell>>();
        var places = ImmutableArray.CreateBuilder<int>();
        var figureColumns = grid.Columns.Select((c, i) => (c, i)).Where(x => x.c.Reference.Length == 0).ToList();
        var figureValues = figureColumns.ToDictionary(x => x.c.Id, _ => ImmutableArray.CreateBuilder<Value>());
        var all = DrawnRows.Of(grid, Facts);
        // Large grids say the same over and over again.
        var known = new Dictionary<(int Column, bool IsDrawn, string Text), GridCell>();
        GridCell? Bound(int r, int column, ExpressionType type, Unit unit)
        {
            var text = column < all[r].Cells.Length ? all[r].Cells[column] : "";
            var key = (column, r >= grid.Rows.Length, text);
            if (!known.TryGetValue(key, out var cell) && (cell = BindCell(assembly, grid, r, column, text, type, unit)) is not null)
                known[key] = cell;
            return cell;
        }
        for (var r = 0; r < all.Length; r++)
        {
            string Cell(int i) => i < all[r].Cells.Length ? all[r].Cells[i] : "";
            var cells = keyColumns.Select(k => Bound(r, k.Index, k.Key.Type, k.Unit)).ToList();
            if (cells.Contains(null))
                continue;
            rows.Add([.. cells!]);
            places.Add(r);
            foreach (var (column, i) in figureColumns)
            {
                var cell = Cell(i).Length == 0 || Binder.FigureType(column) is not { } type ? Value.Nothing
                    : type.Kind == TypeKind.Text ? Value.OfText(DrawnRows.Unquoted(Cell(i)))
                    : Bound(r, i, type, Unit.TryParse(column.Unit) ?? Unit.One)?.Values.FirstOrDefault() ?? Value.Nothing;
                figureValues[column.Id].Add(cell);
            }
        }
        if (keys.Count == 0 && IsSound(grid))
            Add(grid.Id, "columns", new(Fault.MissingExpression, default, "A grid needs at least one column that names an attribute."));
        foreach (var (id, values) in figureValues)
            figures[id] = values.ToImmutable();
        _grids[grid.Id] = new(keys.ToImmutable(), rows.ToImmutable(), places.ToImmutable(), figures.ToImmutable());
    }

    private Unit UnitOf(Bound key, GridColumn column)
    {
        var row = key is BoundAttribute a ? Index.Rows.GetValueOrDefault(RowPath.RowId(a.Path)) : null;
        var code = row switch { AttributeRow attribute => attribute.Unit, ComputedAttribute computed => computed.Unit, _ => column.Unit };
        return Unit.TryParse(code) is { } unit && unit.Dimension == key.Type.Dimension ? unit : Unit.ForDisplay(key.Type.Dimension);
    }

    /// <summary>The alternatives of a cell, which stand between strokes; one in quotes is part of a code.</summary>
    private static IEnumerable<string> Alternatives(string cell)
    {
        var (start, quoted) = (0, false);
        for (var i = 0; i < cell.Length; i++)
            if (cell[i] == '\'')
                quoted = !quoted;
            else if (cell[i] == '|' && !quoted)
            {
                yield return cell[start..i];
                start = i + 1;
            }
        yield return cell[start..];
    }

    private GridCell? BindCell(AssemblyDefinition assembly, CombinationGrid grid, int row, int column, string text, ExpressionType type, Unit unit)
    {
        if (text.Trim() is "" or "*")
            return GridCell.Wildcard;
        var values = ImmutableArray.CreateBuilder<Value>();
        var ranges = ImmutableArray.CreateBuilder<(Exact?, Exact?)>();
        foreach (var part in Alternatives(text))
        {
            var range = type.Kind == TypeKind.Number ? part.IndexOf("..", StringComparison.Ordinal) : -1;
            if (range >= 0)
            {
                var (low, high) = (Constant(part[..range]), Constant(part[(range + 2)..]));
                if (low is null || high is null)
                    return null;
                ranges.Add((low is { IsNothing: true } ? null : low.Value.Number, high is { IsNothing: true } ? null : high.Value.Number));
            }
            else if (string.IsNullOrWhiteSpace(part))
                return Faulty("A value is missing beside a stroke.", null);
            else if (Constant(part) is { } value)
                values.Add(value);
            else
                return null;
        }
        return new(false, values.ToImmutable(), ranges.ToImmutable());

        // Nothing for an empty end of a range, null for a fault.
        Value? Constant(string piece)
        {
            if (string.IsNullOrWhiteSpace(piece))
                return Value.Nothing;
            // A bare number stands in the column's unit; yes/no and codes as in expressions.
            if (type.Kind == TypeKind.Number && Exact.TryParse(piece, out var bare))
                return Value.Of(unit.ToBase(bare));
            // A cell of choices holds codes, so that one called “none” or “3” needs no quotes.
            if (type is { Kind: TypeKind.Choice, ListId: { } listId } && Index.Lists.TryGetValue(listId, out var list)
                && ModelIndex.ValueByCode(list, piece.Trim()) is { } called)
                return Value.Choice(called.Id);
            var parsed = Parser.Parse(piece.Trim());
            // What an item says is a code, however it is spelled.
            var expected = type.Kind == TypeKind.Choice && (parsed.Root is NumberSyntax || row >= grid.Rows.Length)
                ? Parser.Parse(Printer.Name(DrawnRows.Unquoted(piece))) : parsed;
            var result = Binder.Bind(expected, Index, assembly, TypeOf, type);
            if (result.Expression is BoundLiteral { Value: var value })
                return value;
            Faulty(result.Diagnostics.FirstOrDefault()?.Message ?? "A cell holds constants, not expressions.", result.Diagnostics.FirstOrDefault()?.Suggestion);
            return null;
        }

        GridCell? Faulty(string why, string? suggestion)
        {
            if (row < grid.Rows.Length)
                Add(grid.Id, $"rows/{row}/cells/{column}", new(Fault.BadCell, default, $"Row {row + 1}: {why}", suggestion));
            else
                Add(grid.Id, "drawnFrom", new(Fault.BadCell, default,
                    $"Item {DrawnRows.NameOf(grid, Facts, row)}, {grid.Columns[column].ItemProperty}: {why}"));
            return null;
        }
    }
}
