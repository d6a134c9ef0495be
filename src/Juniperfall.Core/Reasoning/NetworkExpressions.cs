using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>Writes bound expressions as nodes.</summary>
internal sealed partial class NetworkBuilder
{
    private int Expression(string prefix, Bound expression)
    {
        // Records compare by content, except for arrays inside them; sharing is an economy, not a need.
        if (_shared.TryGetValue((prefix, expression), out var known))
            return known;
        return _shared[(prefix, expression)] = Write(prefix, expression);
    }

    private static DomainKind KindOf(ExpressionType type) => type.Kind switch
    {
        TypeKind.Number => DomainKind.Number,
        TypeKind.Choice => DomainKind.Choice,
        _ => DomainKind.YesNo,
    };

    private int Write(string prefix, Bound expression)
    {
        int Of(Bound inner) => Expression(prefix, inner);
        var kind = KindOf(expression.Type);
        var bits = expression.Type.Kind == TypeKind.Choice ? BitSet.Full(_model.Index.Lists[expression.Type.ListId!].Values.Length) : null;
        switch (expression)
        {
            case { Type.Kind: TypeKind.Text }:
                return _true;
            case BoundLiteral literal:
                return Constant(literal.Value, literal.Type.ListId);
            case BoundAttribute attribute:
                return Path(prefix + attribute.Path);
            case BoundIsNone none:
                return Make(Operator.IsNone, DomainKind.YesNo, Path(prefix + none.Path));
            case BoundApplies { OfSubassembly: true } applies:
                return IsThere(_occurrences[prefix + applies.Path + RowPath.Below]);
            case BoundApplies applies:
                return ConditionOf(prefix + applies.Path);
            case BoundProperty property:
                return Property(Of(property.Choice), property);
            case BoundRecoded recoded:
                return Recoded(Of(recoded.Choice), recoded, bits!);
            case BoundGridFigure figure when _model.Grid(figure.GridId) is { } grid:
                return Make(new Node(Operator.Figure, [.. grid.Keys.Select(Of)]) { Grid = Compile(figure.GridId, grid), Figures = grid.Figures[figure.ColumnId] }, kind);
            case BoundItemProperty of:
                return LookedUp(prefix, of.Item, item => ItemReading.ValueOf(FactsAt(prefix), item, of.Property, of.Type), kind);
            case BoundUnary { Operator: UnaryOperator.Not } not:
                return Make(Operator.Not, kind, Of(not.Operand));
            case BoundUnary negate:
                return Make(Operator.Negate, kind, Of(negate.Operand));
            case BoundIf choice:
                return Make(new Node(Operator.If, [Of(choice.Condition), Of(choice.Then), Of(choice.Else)]), kind, bits);
            case BoundCounting counting:
                return Make(new Node(Operator.Counting, [.. counting.Conditions.Select(Of)]) { Count = counting.Count, CountingKind = counting.Kind }, kind);
            case BoundTotal total:
                return Total(prefix, total);
            case BoundCall call:
                return Call(call, [.. call.Arguments.Select(Of)]);
            case BoundBinary { Operator: BinaryOperator.Power } power:
                return Make(new Node(Operator.Power, [Of(power.Left)]) { Count = (int)((BoundLiteral)power.Right).Value.Number.Numerator }, kind);
            case BoundBinary binary:
                return Binary(binary, Of(binary.Left), Of(binary.Right));
            default:
                throw new InvalidOperationException(expression.GetType().Name);
        }
    }

    /// <summary>What a text that is looked up stands for: a value for each text that it can be.</summary>
    /// <exception cref="NotSupportedException">The text comes from something else than a literal, a property of a choice, or a grid.</exception>
    private int LookedUp(string prefix, Bound text, Func<string, Value> value, DomainKind kind)
    {
        switch (text)
        {
            case BoundLiteral literal:
                return value(literal.Value.Text!) is { IsNothing: false } known ? Constant(known) : Make(Operator.Where, kind, Constant(Value.Of(false)), Constant(kind == DomainKind.Number ? Value.Of(Exact.Zero) : Value.Of(true)));
            case BoundProperty property:
                return Make(new Node(Operator.Property, [Expression(prefix, property.Choice)])
                {
                    PropertyValues = [.. _model.Index.Lists[property.ListId].Values.Select(v => v.Properties.GetValueOrDefault(property.PropertyId, "") is { Length: > 0 } named ? value(named) : Value.Nothing)],
                }, kind);
            case BoundGridFigure figure when _model.Grid(figure.GridId) is { } grid:
                return Make(new Node(Operator.Figure, [.. grid.Keys.Select(k => Expression(prefix, k))])
                {
                    Grid = Compile(figure.GridId, grid),
                    Figures = [.. grid.Figures[figure.ColumnId].Select(f => f.IsNothing ? Value.Nothing : value(f.Text!))],
                }, kind);
            case BoundItemProperty of:
                return LookedUp(prefix, of.Item, item => ItemReading.ValueOf(FactsAt(prefix), item, of.Property, of.Type) is { IsNothing: false, Text: { } named } ? value(named) : Value.Nothing, kind);
            case BoundIf choice:
                return Make(new Node(Operator.If, [Expression(prefix, choice.Condition), LookedUp(prefix, choice.Then, value, kind), LookedUp(prefix, choice.Else, value, kind)]), kind);
            default:
                throw new NotSupportedException();
        }
    }

    private LibraryFacts FactsAt(string prefix) => _model.Index.FactsOf(_occurrences[prefix].Assembly);

    private int ConditionOf(string path) => Condition(_occurrences[RowPath.Prefix(path)], _model.Index.Rows[RowPath.RowId(path)]);

    private int Recoded(int choice, BoundRecoded recoded, ulong[] bits)
    {
        var (from, to) = (_model.Index.Lists[recoded.Choice.Type.ListId!].Values, recoded.Type.ListId!);
        int[] indexes = [.. from.Select(v => recoded.Values.TryGetValue(v.Id, out var counterpart) ? ValueIndex(to, counterpart) : -1)];
        // Lists that agree place by place need nothing: choices are numbered by their places.
        if (from.Length == _model.Index.Lists[to].Values.Length && indexes.Select((index, i) => index == i).All(same => same))
            return choice;
        return Make(new Node(Operator.Property, [choice])
        {
            PropertyValues = [.. from.Select(v => recoded.Values.TryGetValue(v.Id, out var counterpart) ? Value.Choice(counterpart) : Value.Nothing)],
            Choices = [.. indexes.Select(index => index < 0 ? null : BitSet.Single(_model.Index.Lists[to].Values.Length, index))],
        }, DomainKind.Choice, bits);
    }

    private int Property(int choice, BoundProperty property)
    {
        var list = _model.Index.Lists[property.ListId];
        var column = list.Properties.First(p => p.Id == property.PropertyId);
        var unit = Unit.TryParse(column.Unit) ?? Unit.One;
        var values = list.Values.Select(v => !v.Properties.TryGetValue(column.Id, out var text) || text.Length == 0 ? Value.Nothing
            : column.Type == PropertyType.YesNo ? Value.Of(text == "yes")
            : Exact.TryParse(text, out var number) ? Value.Of(unit.ToBase(number)) : Value.Nothing).ToArray();
        return Make(new Node(Operator.Property, [choice]) { PropertyValues = values }, KindOf(property.Type));
    }

    private int Binary(BoundBinary binary, int left, int right)
    {
        var kind = KindOf(binary.Type);
        var of = binary.Left.Type.Kind;
        return binary.Operator switch
        {
            BinaryOperator.Add => Make(Operator.Add, kind, left, right),
            BinaryOperator.Subtract => Make(Operator.Subtract, kind, left, right),
            BinaryOperator.Multiply => Make(Operator.Multiply, kind, left, right),
            BinaryOperator.Divide => Make(Operator.Divide, kind, left, right),
            BinaryOperator.Less => Make(Operator.Less, kind, left, right),
            BinaryOperator.LessOrEqual => Make(Operator.LessOrEqual, kind, left, right),
            BinaryOperator.Greater => Make(Operator.Less, kind, right, left),
            BinaryOperator.GreaterOrEqual => Make(Operator.LessOrEqual, kind, right, left),
            BinaryOperator.Equal => Make(of switch { TypeKind.Number => Operator.Equal, TypeKind.Choice => Operator.SameChoice, _ => Operator.SameYesNo }, kind, left, right),
            BinaryOperator.NotEqual => Make(of switch { TypeKind.Number => Operator.NotEqual, TypeKind.Choice => Operator.OtherChoice, _ => Operator.OtherYesNo }, kind, left, right),
            BinaryOperator.And => Make(Operator.And, kind, left, right),
            BinaryOperator.Or => Make(Operator.Or, kind, left, right),
            _ => throw new InvalidOperationException(binary.Operator.ToString()),
        };
    }

    private int Call(BoundCall call, int[] arguments)
    {
        int[] Stepped() => arguments.Length == 2 ? arguments : [arguments[0], Constant(Value.Of(Exact.One))];
        return call.Function switch
        {
            Function.Ceiling => Make(Operator.Ceiling, DomainKind.Number, Stepped()),
            Function.Floor => Make(Operator.Floor, DomainKind.Number, Stepped()),
            Function.Round => Make(Operator.Round, DomainKind.Number, Stepped()),
            Function.Absolute => Make(Operator.Absolute, DomainKind.Number, arguments),
            Function.Minimum => Make(Operator.Minimum, DomainKind.Number, arguments),
            Function.Maximum => Make(Operator.Maximum, DomainKind.Number, arguments),
            _ => Make(Operator.SquareRoot, DomainKind.Number, arguments),
        };
    }

    private int Total(string prefix, BoundTotal total)
    {
        var members = total.Members.Select(m =>
        {
            var body = Expression(prefix, m.Body);
            return m.Where is null ? body : Make(new Node(Operator.Where, [Expression(prefix, m.Where), body]), _domains[body].Kind, _domains[body].Bits);
        }).ToArray();
        int Otherwise(int node, Value value) => Make(new Node(Operator.Else, [node, Constant(value)]), _domains[node].Kind);
        int Fold(Operator op, DomainKind kind, IEnumerable<int> nodes) => nodes.Aggregate((a, b) => Make(op, kind, a, b));
        return total.Kind switch
        {
            TotalKind.Sum => Fold(Operator.Add, DomainKind.Number, members.Select(m => Otherwise(m, Value.Of(Exact.Zero)))),
            TotalKind.Count => Fold(Operator.Add, DomainKind.Number, members.Select(m => Make(Operator.ToNumber, DomainKind.Number, Make(Operator.Holds, DomainKind.YesNo, m)))),
            TotalKind.All => Fold(Operator.And, DomainKind.YesNo, members.Select(m => Otherwise(m, Value.Of(true)))),
            TotalKind.Any => Fold(Operator.Or, DomainKind.YesNo, members.Select(m => Otherwise(m, Value.Of(false)))),
            TotalKind.Minimum => Make(Operator.LeastOf, DomainKind.Number, members),
            _ => Make(Operator.GreatestOf, DomainKind.Number, members),
        };
    }
}
