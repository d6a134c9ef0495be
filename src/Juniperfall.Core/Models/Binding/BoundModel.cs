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
        var rows = new RowBinder(this);
        foreach (var assembly in document.AllAssemblies)
            foreach (var row in assembly.Rows)
            {
                cancel.ThrowIfCancellationRequested();
                rows.Bind(assembly, row);
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

    /// <summary>Keeps an expression that stands for more than the text of a field.</summary>
    internal void Keep(string rowId, string field, Bound expression) => _expressions[(rowId, field)] = expression;

    /// <summary>Reports something that keeps nothing from taking part.</summary>
    internal void Note(string rowId, string field, Diagnostic diagnostic) => _findings.Add(new(rowId, field, diagnostic, false));

    internal void Keep(CombinationGrid grid, BoundGrid bound) => _grids[grid.Id] = bound;

    /// <summary>What the expression of a field must come to, as the model is now; null for anything, or where that is not known.</summary>
    public ExpressionType? Expected(Row row, string path) => RowKinds.Of(row).ExpressionsOf(row).FirstOrDefault(e => e.Path == path) is { Field: { } field }
        ? RowBinder.Expected(this, row, field, path).Type : null;

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

    /// <summary>Reports a fault that keeps a row from taking part.</summary>
    internal void Add(string rowId, string field, Diagnostic diagnostic)
    {
        _findings.Add(new(rowId, field, diagnostic));
        _faultyRows.Add(rowId);
        _faultyFields.Add((rowId, field));
        if (diagnostic.Fault == Fault.Circular)
            _circular.Add(rowId);
    }

    /// <summary>The same model with one rule taken to rest. Where a grid gives figures that are read, these stay.</summary>
    public BoundModel Without(string ruleId) => new(Document.WithRulesAtRest(new HashSet<string> { ruleId }), Facts);

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

    /// <summary>Binds the text of a field, once, and keeps the expression or reports what is wrong with it.</summary>
    internal Bound? BindField(AssemblyDefinition assembly, Row row, string field, string stored, ExpressionType? expected, bool required = false)
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
}
