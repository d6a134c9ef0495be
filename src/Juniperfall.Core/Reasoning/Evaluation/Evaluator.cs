using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Evaluation;

/// <summary>
/// Evaluates bound expressions exactly over one configuration, complete or not. An attribute without an assigned value has no
/// value; what cannot be computed is <see cref="Value.Error"/>.
/// </summary>
public sealed class Evaluator
{
    private readonly BoundModel _model;
    private readonly Dictionary<string, Value> _values;
    private readonly Dictionary<string, Occurrence> _occurrences;
    private readonly Dictionary<string, bool> _applies = [];
    private readonly Effectivity _at;
    private const int Deepest = 50;
    private int _depth;
    private bool _isInOrder;

    /// <param name="values">Path → value in base units of every asked attribute that applies.</param>
    public Evaluator(BoundModel model, IReadOnlyDictionary<string, Value> values, Effectivity at = default)
    {
        (_model, _at) = (model, at);
        _values = new(values);
        _occurrences = Occurrence.All(model).ToDictionary(o => o.Prefix);
    }

    public IReadOnlyCollection<Occurrence> Occurrences => _occurrences.Values;

    /// <summary>Whether a row is there: sound, in effect, its condition true, and everything above it there too.</summary>
    public bool Applies(Occurrence occurrence, Row row)
    {
        var path = occurrence.Prefix + row.Id;
        if (_applies.TryGetValue(path, out var known))
            return known;
        Deepen();
        var applies = AppliesNow(occurrence, row);
        _depth--;
        return _applies[path] = applies;
    }

    /// <summary>Where a chain of rows is long, all are worked out first, each after those that it depends on, so that it does not become a chain of
    /// calls.</summary>
    private void Deepen()
    {
        if (++_depth < Deepest || _isInOrder)
            return;
        _isInOrder = true;
        foreach (var path in _model.Order)
            if (_occurrences.TryGetValue(RowPath.Prefix(path), out var occurrence) && _model.Index.Rows.TryGetValue(RowPath.RowId(path), out var row))
            {
                if (row is AttributeRow or ComputedAttribute)
                    _ = this[path];
                Applies(occurrence, row);
            }
    }

    private bool AppliesNow(Occurrence occurrence, Row row)
    {
        if (!_model.IsSound(row) || !_at.Includes(row))
            return false;
        if (occurrence.Place is not null && !IsThere(occurrence))
            return false;
        return _model.Expression(row.Id, "appliesWhen") is not { } condition || IsTrue(Evaluate(condition, occurrence.Prefix));
    }

    /// <summary>Whether an instance of a subassembly is there: the subassembly applies, and there are so many of it.</summary>
    public bool IsThere(Occurrence instance) => Applies(instance.Parent!, instance.Place!)
        && (_model.Expression(instance.Place!.Id, "instanceCount") is not { } count
            || (Evaluate(count, instance.Parent!.Prefix) is { Kind: ValueKind.Number } number && instance.Number <= number.Number));

    private static bool IsTrue(Value value) => value is { Kind: ValueKind.YesNo, IsTrue: true };

    /// <summary>The value of an asked or computed attribute by its path; nothing where it does not apply.</summary>
    public Value this[string path]
    {
        get
        {
            if (_values.TryGetValue(path, out var known))
                return known;
            Deepen();
            var value = ValueAt(path);
            _depth--;
            return value;
        }
    }

    private Value ValueAt(string path)
    {
        var (prefix, rowId) = Split(path);
        var occurrence = _occurrences.GetValueOrDefault(prefix);
        var row = _model.Index.Rows.GetValueOrDefault(rowId);
        if (occurrence is null || row is null || !Applies(occurrence, row))
            return Value.Nothing;
        if (row is ComputedAttribute)
            return _values[path] = Evaluate(_model.Expression(row.Id, "expression")!, prefix);
        if (row is AttributeRow { Input: true } && occurrence.Place is { } place && _model.GivenTo(place, row) is { } given)
            return _values[path] = Evaluate(given.Value, occurrence.Parent!.Prefix);
        return Value.Nothing;
    }

    private static (string Prefix, string RowId) Split(string path) => (RowPath.Prefix(path), RowPath.RowId(path));

    /// <summary>The value of an expression written in the assembly at a prefix.</summary>
    public Value Evaluate(Bound expression, string prefix)
    {
        Value Of(Bound inner) => Evaluate(inner, prefix);
        switch (expression)
        {
            case BoundLiteral literal:
                return literal.Value;
            case BoundAttribute attribute:
                return this[prefix + attribute.Path];
            case BoundIsNone none:
                var (at, id) = Split(prefix + none.Path);
                return _occurrences.TryGetValue(at, out var owner)
                    && Applies(owner, _model.Index.Rows[id]) ? Value.Of(this[prefix + none.Path].IsNothing) : Value.Nothing;
            case BoundApplies applies:
                var target = prefix + applies.Path;
                if (applies.OfSubassembly)
                    return Value.Of(_occurrences.TryGetValue(target + RowPath.Below, out var instance) && IsThere(instance));
                var (where, row) = Split(target);
                return Value.Of(_occurrences.TryGetValue(where, out var there) && Applies(there, _model.Index.Rows[row]));
            case BoundProperty property:
                return Property(Of(property.Choice), property);
            case BoundRecoded recoded:
                return Of(recoded.Choice) is var given
                    && !given.HasValue ? given : recoded.Values.TryGetValue(given.Text!, out var counterpart) ? Value.Choice(counterpart) : Value.Nothing;
            case BoundItemProperty of:
                return Of(of.Item) is var item
                    && !item.HasValue ? item : ItemReading.ValueOf(_model.Index.FactsOf(_occurrences[prefix].Assembly), item.Text!, of.Property, of.Type);
            case BoundGridFigure figure:
                return Figure(figure, prefix);
            case BoundUnary { Operator: UnaryOperator.Not } not:
                return FromOutcome(Kleene.Not(OutcomeOf(Of(not.Operand))));
            case BoundUnary negate:
                return Of(negate.Operand) is var number
                    && !number.HasValue ? number : FromNumber(Arithmetic.Compute(Operator.Negate, number.Number, number.Number));
            case BoundIf choice:
                var condition = Of(choice.Condition);
                return !condition.HasValue ? condition : Of(condition.IsTrue ? choice.Then : choice.Else);
            case BoundCounting counting:
                return Counting(counting, [.. counting.Conditions.Select(Of)]);
            case BoundTotal total:
                return Total(total, prefix);
            case BoundCall call:
                return Call(call, [.. call.Arguments.Select(Of)]);
            case BoundBinary { Operator: BinaryOperator.And } and:
                return OutcomeOf(Of(and.Left)) is var left
                    && left == Outcomes.False ? Value.Of(false) : FromOutcome(Kleene.And(left, OutcomeOf(Of(and.Right))));
            case BoundBinary { Operator: BinaryOperator.Or } or:
                return OutcomeOf(Of(or.Left)) is var first && first == Outcomes.True ? Value.Of(true) : FromOutcome(Kleene.Or(first, OutcomeOf(Of(or.Right))));
            case BoundBinary binary:
                return Binary(binary.Operator, Of(binary.Left), Of(binary.Right));
            default:
                throw new InvalidOperationException(expression.GetType().Name);
        }
    }

    private static Value FromNumber(Exact? number) => number is { } known ? Value.Of(known) : Value.Error;

    private static Value FromOutcome(Outcomes outcome) => outcome switch
    {
        Outcomes.True => Value.Of(true),
        Outcomes.False => Value.Of(false),
        Outcomes.Error => Value.Error,
        _ => Value.Nothing,
    };

    private static Outcomes OutcomeOf(Value value) => value.Kind switch
    {
        ValueKind.YesNo => value.IsTrue ? Outcomes.True : Outcomes.False,
        ValueKind.Error => Outcomes.Error,
        _ => value.IsNothing ? Outcomes.Absent : Outcomes.Present,
    };

    /// <summary>What comes of strict operands of which one has no value: an error dominates. Null where all have one.</summary>
    private static Value? NoValueOf(IReadOnlyCollection<Value> operands) =>
        operands.Any(o => o.Kind == ValueKind.Error) ? Value.Error : operands.Any(o => o.IsNothing) ? Value.Nothing : null;

    private static Value Binary(BinaryOperator op, Value left, Value right)
    {
        if (NoValueOf([left, right]) is { } none)
            return none;
        if (op is BinaryOperator.Equal or BinaryOperator.NotEqual && left.Kind != ValueKind.Number)
            return Value.Of(left == right == (op == BinaryOperator.Equal));
        return op >= BinaryOperator.Equal && op <= BinaryOperator.GreaterOrEqual ? Value.Of(Arithmetic.Compare(op, left.Number, right.Number))
            : FromNumber(Arithmetic.Compute(Arithmetic.Of(op), left.Number, right.Number, op == BinaryOperator.Power ? (int)right.Number.Numerator : 0));
    }

    private Value Property(Value choice, BoundProperty property)
    {
        if (!choice.HasValue)
            return choice;
        if (!_model.Index.Values.TryGetValue(choice.Text!, out var found)
            || !found.Value.Properties.TryGetValue(property.PropertyId, out var text) || text.Length == 0)
            return Value.Nothing;
        var column = found.List.Properties.First(p => p.Id == property.PropertyId);
        return column.Type switch
        {
            PropertyType.YesNo => Value.Of(text == "yes"),
            PropertyType.Text => Value.OfText(text),
            _ => Exact.TryParse(text, out var number) ? Value.Of((Unit.TryParse(column.Unit) ?? Unit.One).ToBase(number)) : Value.Nothing,
        };
    }

    private Value Figure(BoundGridFigure figure, string prefix)
    {
        if (_model.Grid(figure.GridId) is not { } grid)
            return Value.Nothing;
        var keys = grid.Keys.Select(k => Evaluate(k, prefix)).ToList();
        if (NoValueOf(keys) is { } none)
            return none;
        for (var r = 0; r < grid.Rows.Length; r++)
            if (grid.Rows[r].Zip(keys).All(x => x.First.Matches(x.Second)))
                return grid.Figures[figure.ColumnId][r];
        return Value.Nothing;
    }

    private static Value Counting(BoundCounting counting, Value[] truths) => truths.Any(t => t.Kind == ValueKind.Error) ? Value.Error
        : FromOutcome(Kleene.Counting(counting.Kind, counting.Count, truths.Count(t => t is { Kind: ValueKind.YesNo, IsTrue: true }),
            truths.Count(t => t.IsNothing)));

    /// <summary>A total over the members that have a value; what is true or false whatever the others are wins over an error among them.</summary>
    private Value Total(BoundTotal total, string prefix)
    {
        var counted = total.Members.Select(m => m.Where is null ? Evaluate(m.Body, prefix)
            : Evaluate(m.Where, prefix) is var where && IsTrue(where) ? Evaluate(m.Body, prefix) : where.Kind == ValueKind.Error ? where : Value.Nothing)
                .Where(v => !v.IsNothing).ToList();
        if (total.Kind is TotalKind.All or TotalKind.Any)
            return FromOutcome(total.Kind == TotalKind.All
                ? counted.Select(OutcomeOf).Aggregate(Outcomes.True, Kleene.And) : counted.Select(OutcomeOf).Aggregate(Outcomes.False, Kleene.Or));
        if (counted.Any(v => v.Kind == ValueKind.Error))
            return Value.Error;
        return total.Kind switch
        {
            TotalKind.Sum => FromNumber(counted
                .Aggregate((Exact?)Exact.Zero, (sum, v) => sum is { } so ? Arithmetic.Compute(Operator.Add, so, v.Number) : null)),
            TotalKind.Count => Value.Of((Exact)counted.Count(v => v.IsTrue)),
            _ when counted.Count == 0 => Value.Nothing,
            TotalKind.Minimum => Value.Of(counted.Min(v => v.Number)),
            _ => Value.Of(counted.Max(v => v.Number)),
        };
    }

    private static Value Call(BoundCall call, Value[] arguments)
    {
        if (NoValueOf(arguments) is { } none)
            return none;
        var (op, first) = (Arithmetic.Of(call.Function), arguments[0].Number);
        return call.Function is Function.Minimum or Function.Maximum
            ? FromNumber(arguments.Skip(1).Aggregate((Exact?)first, (found, a) => Arithmetic.Compute(op, found!.Value, a.Number)))
            : FromNumber(Arithmetic.Compute(op, first, arguments.Length > 1 ? arguments[1].Number : Exact.One));
    }
}
