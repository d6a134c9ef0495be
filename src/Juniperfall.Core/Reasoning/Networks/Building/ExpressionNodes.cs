using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>Writes bound expressions as nodes.</summary>
internal sealed class ExpressionNodes(BoundModel model, NodeWriter nodes)
{
    private readonly Dictionary<(string Prefix, Bound Expression), int> _shared = [];
    private readonly Dictionary<string, CompiledGrid> _grids = [];

    /// <summary>The rows that expressions speak of.</summary>
    public RowNodes Rows { get; set; } = null!;

    /// <summary>The node of an expression in a place. Equal expressions in one place are one node.</summary>
    public int Of(string prefix, Bound expression)
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
        int Node(Bound inner) => Of(prefix, inner);
        var kind = KindOf(expression.Type);
        var bits = expression.Type.Kind == TypeKind.Choice ? BitSet.Full(model.Index.Lists[expression.Type.ListId!].Values.Length) : null;
        switch (expression)
        {
            case { Type.Kind: TypeKind.Text }:
                return nodes.True;
            case BoundLiteral literal:
                return nodes.Constant(literal.Value, literal.Type.ListId);
            case BoundAttribute attribute:
                return Rows.Path(prefix + attribute.Path);
            case BoundIsNone none:
                return nodes.Make(Operator.IsNone, DomainKind.YesNo, Rows.Path(prefix + none.Path));
            case BoundApplies { OfSubassembly: true } applies:
                return Rows.IsThere(Rows.Occurrences[prefix + applies.Path + RowPath.Below]);
            case BoundApplies applies:
                return ConditionOf(prefix + applies.Path);
            case BoundProperty property:
                return Property(Node(property.Choice), property);
            case BoundRecoded recoded:
                return Recoded(Node(recoded.Choice), recoded, bits!);
            case BoundGridFigure figure when model.Grid(figure.GridId) is { } grid:
                return nodes.Make(new Node(Operator.Figure, [.. grid.Keys.Select(Node)])
                {
                    Grid = Compile(figure.GridId, grid),
                    Figures = grid.Figures[figure.ColumnId]
                }, kind);
            case BoundItemProperty of:
                return LookedUp(prefix, of.Item, item => ItemReading.ValueOf(FactsAt(prefix), item, of.Property, of.Type), kind);
            case BoundUnary { Operator: UnaryOperator.Not } not:
                return nodes.Make(Operator.Not, kind, Node(not.Operand));
            case BoundUnary negate:
                return nodes.Make(Operator.Negate, kind, Node(negate.Operand));
            case BoundIf choice:
                return nodes.Make(new Node(Operator.If, [Node(choice.Condition), Node(choice.Then), Node(choice.Else)]), kind, bits);
            case BoundCounting counting:
                return nodes.Make(new Node(Operator.Counting, [.. counting.Conditions.Select(Node)])
                {
                    Count = counting.Count,
                    CountingKind = counting.Kind
                }, kind);
            case BoundTotal total:
                return Total(prefix, total);
            case BoundCall call:
                return Call(call, [.. call.Arguments.Select(Node)]);
            case BoundBinary { Operator: BinaryOperator.Power } power:
                return nodes.Make(new Node(Operator.Power, [Node(power.Left)]) { Count = (int)((BoundLiteral)power.Right).Value.Number.Numerator }, kind);
            case BoundBinary binary:
                return Binary(binary, Node(binary.Left), Node(binary.Right));
            default:
                throw new InvalidOperationException(expression.GetType().Name);
        }
    }

    /// <summary>What a text that is looked up stands for: a value for each text that it can be.</summary>
    /// <exception cref="NotSupportedException">The text comes from something else than a literal, a property of a choice, or a grid.</exception>
    public int LookedUp(string prefix, Bound text, Func<string, Value> value, DomainKind kind)
    {
        switch (text)
        {
            case BoundLiteral literal:
                return value(literal.Value.Text!) is { IsNothing: false } known
                    ? nodes.Constant(known) : nodes
                    .Make(Operator.Where, kind, nodes.Constant(Value.Of(false)),
                    nodes.Constant(kind == DomainKind.Number ? Value.Of(Exact.Zero) : Value.Of(true)));
            case BoundProperty property:
                return nodes.Make(new Node(Operator.Property, [Of(prefix, property.Choice)])
                {
                    PropertyValues = [.. model.Index.Lists[property.ListId].Values
                        .Select(v => v.Properties.GetValueOrDefault(property.PropertyId, "") is { Length: > 0 } named ? value(named) : Value.Nothing)],
                }, kind);
            case BoundGridFigure figure when model.Grid(figure.GridId) is { } grid:
                return nodes.Make(new Node(Operator.Figure, [.. grid.Keys.Select(k => Of(prefix, k))])
                {
                    Grid = Compile(figure.GridId, grid),
                    Figures = [.. grid.Figures[figure.ColumnId].Select(f => f.IsNothing ? Value.Nothing : value(f.Text!))],
                }, kind);
            case BoundItemProperty of:
                return LookedUp(prefix, of.Item, item =>
                    ItemReading.ValueOf(FactsAt(prefix), item, of.Property, of.Type) is { IsNothing: false, Text: { } named }
                    ? value(named) : Value.Nothing, kind);
            case BoundIf choice:
                return nodes.Make(new Node(Operator.If,
                    [Of(prefix, choice.Condition), LookedUp(prefix, choice.Then, value, kind), LookedUp(prefix, choice.Else, value, kind)]), kind);
            default:
                throw new NotSupportedException();
        }
    }

    public LibraryFacts FactsAt(string prefix) => model.Index.FactsOf(Rows.Occurrences[prefix].Assembly);

    private int ConditionOf(string path) => Rows.Condition(Rows.Occurrences[RowPath.Prefix(path)], model.Index.Rows[RowPath.RowId(path)]);

    private int Recoded(int choice, BoundRecoded recoded, ulong[] bits)
    {
        var (from, to) = (model.Index.Lists[recoded.Choice.Type.ListId!].Values, recoded.Type.ListId!);
        int[] indexes = [.. from.Select(v => recoded.Values.TryGetValue(v.Id, out var counterpart) ? nodes.ValueIndex(to, counterpart) : -1)];
        // Lists that agree place by place need nothing: choices are numbered by their places.
        if (from.Length == model.Index.Lists[to].Values.Length && indexes.Select((index, i) => index == i).All(same => same))
            return choice;
        return nodes.Make(new Node(Operator.Property, [choice])
        {
            PropertyValues = [.. from.Select(v => recoded.Values.TryGetValue(v.Id, out var counterpart) ? Value.Choice(counterpart) : Value.Nothing)],
            Choices = [.. indexes.Select(index => index < 0 ? null : BitSet.Single(model.Index.Lists[to].Values.Length, index))],
        }, DomainKind.Choice, bits);
    }

    private int Property(int choice, BoundProperty property)
    {
        var list = model.Index.Lists[property.ListId];
        var column = list.Properties.First(p => p.Id == property.PropertyId);
        var unit = Unit.TryParse(column.Unit) ?? Unit.One;
        var values = list.Values.Select(v => !v.Properties.TryGetValue(column.Id, out var text) || text.Length == 0 ? Value.Nothing
            : column.Type == PropertyType.YesNo ? Value.Of(text == "yes")
            : Exact.TryParse(text, out var number) ? Value.Of(unit.ToBase(number)) : Value.Nothing).ToArray();
        return nodes.Make(new Node(Operator.Property, [choice]) { PropertyValues = values }, KindOf(property.Type));
    }

    private int Binary(BoundBinary binary, int left, int right)
    {
        var kind = KindOf(binary.Type);
        var of = binary.Left.Type.Kind;
        return binary.Operator switch
        {
            BinaryOperator.Add => nodes.Make(Operator.Add, kind, left, right),
            BinaryOperator.Subtract => nodes.Make(Operator.Subtract, kind, left, right),
            BinaryOperator.Multiply => nodes.Make(Operator.Multiply, kind, left, right),
            BinaryOperator.Divide => nodes.Make(Operator.Divide, kind, left, right),
            BinaryOperator.Less => nodes.Make(Operator.Less, kind, left, right),
            BinaryOperator.LessOrEqual => nodes.Make(Operator.LessOrEqual, kind, left, right),
            BinaryOperator.Greater => nodes.Make(Operator.Less, kind, right, left),
            BinaryOperator.GreaterOrEqual => nodes.Make(Operator.LessOrEqual, kind, right, left),
            BinaryOperator.Equal => nodes.Make(
                of switch { TypeKind.Number => Operator.Equal, TypeKind.Choice => Operator.SameChoice, _ => Operator.SameYesNo }, kind, left, right),
            BinaryOperator.NotEqual => nodes
                .Make(of switch { TypeKind.Number => Operator.NotEqual, TypeKind.Choice => Operator.OtherChoice, _ => Operator.OtherYesNo }, kind, left, right),
            BinaryOperator.And => nodes.Make(Operator.And, kind, left, right),
            BinaryOperator.Or => nodes.Make(Operator.Or, kind, left, right),
            _ => throw new InvalidOperationException(binary.Operator.ToString()),
        };
    }

    private int Call(BoundCall call, int[] arguments)
    {
        int[] Stepped() => arguments.Length == 2 ? arguments : [arguments[0], nodes.Constant(Value.Of(Exact.One))];
        return call.Function switch
        {
            Function.Ceiling => nodes.Make(Operator.Ceiling, DomainKind.Number, Stepped()),
            Function.Floor => nodes.Make(Operator.Floor, DomainKind.Number, Stepped()),
            Function.Round => nodes.Make(Operator.Round, DomainKind.Number, Stepped()),
            Function.Absolute => nodes.Make(Operator.Absolute, DomainKind.Number, arguments),
            Function.Minimum => nodes.Make(Operator.Minimum, DomainKind.Number, arguments),
            Function.Maximum => nodes.Make(Operator.Maximum, DomainKind.Number, arguments),
            _ => nodes.Make(Operator.SquareRoot, DomainKind.Number, arguments),
        };
    }

    private int Total(string prefix, BoundTotal total)
    {
        var members = total.Members.Select(m =>
        {
            var body = Of(prefix, m.Body);
            return m.Where is null ? body : nodes
                .Make(new Node(Operator.Where, [Of(prefix, m.Where), body]), nodes.Domains[body].Kind, nodes.Domains[body].Bits);
        }).ToArray();
        int Otherwise(int node, Value value) => nodes.Make(new Node(Operator.Else, [node, nodes.Constant(value)]), nodes.Domains[node].Kind);
        int Fold(Operator op, DomainKind kind, IEnumerable<int> all) => all.Aggregate((a, b) => nodes.Make(op, kind, a, b));
        return total.Kind switch
        {
            TotalKind.Sum => Fold(Operator.Add, DomainKind.Number, members.Select(m => Otherwise(m, Value.Of(Exact.Zero)))),
            TotalKind.Count => Fold(Operator.Add, DomainKind.Number,
                members.Select(m => nodes.Make(Operator.ToNumber, DomainKind.Number, nodes.Make(Operator.Holds, DomainKind.YesNo, m)))),
            TotalKind.All => Fold(Operator.And, DomainKind.YesNo, members.Select(m => Otherwise(m, Value.Of(true)))),
            TotalKind.Any => Fold(Operator.Or, DomainKind.YesNo, members.Select(m => Otherwise(m, Value.Of(false)))),
            TotalKind.Minimum => nodes.Make(Operator.LeastOf, DomainKind.Number, members),
            _ => nodes.Make(Operator.GreatestOf, DomainKind.Number, members),
        };
    }

    /// <summary>A grid with cells as tests on domains; one for each grid.</summary>
    public CompiledGrid Compile(string gridId, BoundGrid grid)
    {
        if (_grids.TryGetValue(gridId, out var known))
            return known;
        var rows = grid.Rows.Select(row => row.Select((cell, c) =>
        {
            var type = grid.Keys[c].Type;
            ulong[]? bits = null;
            Outcomes yesNo = 0;
            if (type.Kind == TypeKind.Choice)
            {
                bits = new ulong[(model.Index.Lists[type.ListId!].Values.Length + 63) / 64];
                foreach (var value in cell.Values)
                    BitSet.Set(bits, nodes.ValueIndex(type.ListId!, value.Text!));
            }
            foreach (var value in cell.Values.Where(v => v.Kind == ValueKind.YesNo))
                yesNo |= value.IsTrue ? Outcomes.True : Outcomes.False;
            return new CompiledCell(cell, bits, yesNo);
        }).ToImmutableArray()).ToImmutableArray();
        return _grids[gridId] = new(rows);
    }
}
