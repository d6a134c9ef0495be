using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Structures;

/// <summary>
/// Evaluates bound expressions exactly over one complete configuration. An attribute without an assigned value has no
/// value; what cannot be computed throws, because a complete configuration never contains it.
/// </summary>
public sealed class Evaluator
{
    private readonly BoundModel _model;
    private readonly Dictionary<string, Value> _values;
    private readonly Dictionary<string, Occurrence> _occurrences;
    private readonly Effectivity _at;

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
        if (!_model.IsSound(row) || !_at.Includes(row))
            return false;
        if (occurrence.Place is not null && !IsThere(occurrence))
            return false;
        return _model.Expression(row.Id, "appliesWhen") is not { } condition || IsTrue(Evaluate(condition, occurrence.Prefix));
    }

    /// <summary>Whether an instance of a subassembly is there: the subassembly applies, and there are so many of it.</summary>
    public bool IsThere(Occurrence instance) => Applies(instance.Parent!, instance.Place!)
        && (_model.Expression(instance.Place!.Id, "instanceCount") is not { } count || (Evaluate(count, instance.Parent!.Prefix) is { IsNothing: false } number && instance.Number <= number.Number));

    private static bool IsTrue(Value value) => value is { Kind: ValueKind.YesNo, IsTrue: true };

    /// <summary>The value of an asked or computed attribute by its path; nothing where it does not apply.</summary>
    public Value this[string path]
    {
        get
        {
            if (_values.TryGetValue(path, out var known))
                return known;
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
    }

    private static (string Prefix, string RowId) Split(string path) => (RowPath.Prefix(path), RowPath.RowId(path));

    /// <summary>The value of an expression written in the assembly at a prefix.</summary>
    /// <exception cref="DivideByZeroException">A divisor is zero.</exception>
    /// <exception cref="ArithmeticException">The root of a negative number, or rounding to a step that is not positive.</exception>
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
                return _occurrences.TryGetValue(at, out var owner) && Applies(owner, _model.Index.Rows[id]) ? Value.Of(this[prefix + none.Path].IsNothing) : Value.Nothing;
            case BoundApplies applies:
                var target = prefix + applies.Path;
                if (applies.OfSubassembly)
                    return Value.Of(_occurrences.TryGetValue(target + RowPath.Below, out var instance) && IsThere(instance));
                var (where, row) = Split(target);
                return Value.Of(_occurrences.TryGetValue(where, out var there) && Applies(there, _model.Index.Rows[row]));
            case BoundProperty property:
                return Property(Of(property.Choice), property);
            case BoundRecoded recoded:
                return Of(recoded.Choice) is { IsNothing: false, Text: { } given } && recoded.Values.TryGetValue(given, out var counterpart) ? Value.Choice(counterpart) : Value.Nothing;
            case BoundItemProperty of:
                return Of(of.Item) is { IsNothing: false, Text: { } item } ? ItemReading.ValueOf(_model.Index.FactsOf(_occurrences[prefix].Assembly), item, of.Property, of.Type) : Value.Nothing;
            case BoundGridFigure figure:
                return Figure(figure, prefix);
            case BoundUnary { Operator: UnaryOperator.Not } not:
                return Not(Of(not.Operand));
            case BoundUnary negate:
                return Of(negate.Operand) is { IsNothing: false } number ? Value.Of(-number.Number) : Value.Nothing;
            case BoundIf choice:
                var condition = Of(choice.Condition);
                return condition.IsNothing ? Value.Nothing : Of(condition.IsTrue ? choice.Then : choice.Else);
            case BoundCounting counting:
                return Counting(counting, [.. counting.Conditions.Select(Of)]);
            case BoundTotal total:
                return Total(total, prefix);
            case BoundCall call:
                return Call(call, [.. call.Arguments.Select(Of)]);
            case BoundBinary { Operator: BinaryOperator.And } and:
                return And(Of(and.Left), () => Of(and.Right));
            case BoundBinary { Operator: BinaryOperator.Or } or:
                return Not(And(Not(Of(or.Left)), () => Not(Of(or.Right))));
            case BoundBinary binary:
                return Binary(binary.Operator, Of(binary.Left), Of(binary.Right));
            default:
                throw new InvalidOperationException(expression.GetType().Name);
        }
    }

    private static Value Not(Value x) => x.IsNothing ? x : Value.Of(!x.IsTrue);

    private static Value And(Value left, Func<Value> right)
    {
        if (left is { IsNothing: false, IsTrue: false })
            return left;
        var other = right();
        return other is { IsNothing: false, IsTrue: false } ? other : left.IsNothing || other.IsNothing ? Value.Nothing : Value.Of(true);
    }

    private static Value Binary(BinaryOperator op, Value left, Value right)
    {
        if (left.IsNothing || right.IsNothing)
            return Value.Nothing;
        var (a, b) = (left.Number, right.Number);
        return op switch
        {
            BinaryOperator.Add => Value.Of(a + b),
            BinaryOperator.Subtract => Value.Of(a - b),
            BinaryOperator.Multiply => Value.Of(a * b),
            BinaryOperator.Divide => Value.Of(a / b),
            BinaryOperator.Power => Value.Of(a.Power((int)b.Numerator)),
            BinaryOperator.Equal => Value.Of(left == right),
            BinaryOperator.NotEqual => Value.Of(left != right),
            BinaryOperator.Less => Value.Of(a < b),
            BinaryOperator.LessOrEqual => Value.Of(a <= b),
            BinaryOperator.Greater => Value.Of(a > b),
            BinaryOperator.GreaterOrEqual => Value.Of(a >= b),
            _ => throw new InvalidOperationException(op.ToString()),
        };
    }

    private Value Property(Value choice, BoundProperty property)
    {
        if (choice.IsNothing || !_model.Index.Values.TryGetValue(choice.Text!, out var found)
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
        if (keys.Any(k => k.IsNothing))
            return Value.Nothing;
        for (var r = 0; r < grid.Rows.Length; r++)
            if (grid.Rows[r].Zip(keys).All(x => x.First.Matches(x.Second)))
                return grid.Figures[figure.ColumnId][r];
        return Value.Nothing;
    }

    private static Value Counting(BoundCounting counting, Value[] truths)
    {
        var yes = truths.Count(t => t is { IsNothing: false, IsTrue: true });
        var most = yes + truths.Count(t => t.IsNothing);
        return counting.Kind switch
        {
            CountingKind.Exactly => yes > counting.Count || most < counting.Count ? Value.Of(false) : yes == most ? Value.Of(true) : Value.Nothing,
            CountingKind.AtMost => yes > counting.Count ? Value.Of(false) : most <= counting.Count ? Value.Of(true) : Value.Nothing,
            _ => yes >= counting.Count ? Value.Of(true) : most < counting.Count ? Value.Of(false) : Value.Nothing,
        };
    }

    private Value Total(BoundTotal total, string prefix)
    {
        var counted = total.Members.Where(m => m.Where is null || IsTrue(Evaluate(m.Where, prefix))).Select(m => Evaluate(m.Body, prefix)).Where(v => !v.IsNothing).ToList();
        return total.Kind switch
        {
            TotalKind.Sum => Value.Of(counted.Aggregate(Exact.Zero, (sum, v) => sum + v.Number)),
            TotalKind.Count => Value.Of((Exact)counted.Count(v => v.IsTrue)),
            TotalKind.All => Value.Of(counted.All(v => v.IsTrue)),
            TotalKind.Any => Value.Of(counted.Any(v => v.IsTrue)),
            TotalKind.Minimum => counted.Count == 0 ? Value.Nothing : Value.Of(counted.Min(v => v.Number)),
            _ => counted.Count == 0 ? Value.Nothing : Value.Of(counted.Max(v => v.Number)),
        };
    }

    private static Value Call(BoundCall call, Value[] arguments)
    {
        if (arguments.Any(a => a.IsNothing))
            return Value.Nothing;
        var first = arguments[0].Number;
        var step = arguments.Length > 1 ? arguments[1].Number : Exact.One;
        if (call.Function is Function.Ceiling or Function.Floor or Function.Round && step.Sign <= 0)
            throw new ArithmeticException("The rounding step is not above zero.");
        return Value.Of(call.Function switch
        {
            Function.Ceiling => (first / step).Ceiling() * step,
            Function.Floor => (first / step).Floor() * step,
            Function.Round => (first / step).Round() * step,
            Function.Absolute => first.Abs(),
            Function.Minimum => arguments.Min(a => a.Number),
            Function.Maximum => arguments.Max(a => a.Number),
            _ => first.Sqrt(),
        });
    }
}
