using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Language;

/// <summary>What the type of a row is: null where the row is faulty and whatever refers to it must rest.</summary>
public delegate ExpressionType? TypeOfRow(NamedRow row);

/// <summary>The outcome of binding: an expression where everything was found and fits, the faults, and which id each name means.</summary>
public sealed record BindResult(Bound? Expression, ImmutableArray<Diagnostic> Diagnostics, ImmutableArray<(Span Span, string Id)> References);

/// <summary>Looks up the names of an expression within an assembly and checks its types and units.</summary>
public sealed class Binder
{
    private readonly ModelIndex _index;
    private readonly AssemblyDefinition _assembly;
    private readonly TypeOfRow _typeOf;
    private readonly List<Diagnostic> _diagnostics = [];
    private readonly List<(Span, string)> _references = [];

    /// <summary>What the total at work runs over.</summary>
    private readonly TotalScope _scope = new();
    private readonly CallBinder _calls;

    private Binder(ModelIndex index, AssemblyDefinition assembly, TypeOfRow typeOf)
    {
        (_index, _assembly, _typeOf) = (index, assembly, typeOf);
        _calls = new(this, _scope);
    }

    /// <param name="expected">What the place needs; null accepts anything.</param>
    public static BindResult Bind(ParseResult parsed, ModelIndex index, AssemblyDefinition assembly, TypeOfRow typeOf, ExpressionType? expected)
    {
        var binder = new Binder(index, assembly, typeOf);
        var bound = binder.BindAs(parsed.Root, expected);
        if (bound is not null && expected is { } wanted && bound.Type != wanted)
        {
            binder.Report(wanted.Kind == TypeKind.Number && bound.Type.Kind == TypeKind.Number ? Fault.UnitMismatch : Fault.WrongResult,
                parsed.Root.Span, $"This is {bound.Type.Describe()}; {wanted.Describe()} is needed here.");
            bound = null;
        }
        var diagnostics = parsed.Diagnostics.AddRange(binder._diagnostics);
        return new(diagnostics.IsEmpty ? bound : null, diagnostics, [.. binder._references]);
    }

    internal Bound? Report(Fault fault, Span span, string message, string? suggestion = null)
    {
        if (!_diagnostics.Any(d => d.Span == span && d.Fault == fault))
            _diagnostics.Add(new(fault, span, message, suggestion));
        return null;
    }

    /// <summary>Binds with the type that the surroundings expect: a bare word can then be a value code.</summary>
    private Bound? BindAs(Syntax syntax, ExpressionType? expected)
    {
        if (syntax is NameSyntax name && expected is { Kind: TypeKind.Choice, ListId: { } listId } && _index.Lists.TryGetValue(listId, out var list))
            return ChoiceValue(name, list);
        if (syntax is IfSyntax { Else: not null } conditional && expected is { Kind: TypeKind.Choice })
            return BindIf(conditional, expected);
        return Bind(syntax);
    }

    private Bound? ChoiceValue(NameSyntax name, ValueList list)
    {
        var value = name.Id is not null ? list.Values.FirstOrDefault(v => v.Id == name.Id) : ModelIndex.ValueByCode(list, name.Name);
        if (value is not null)
        {
            _references.Add((name.Span, value.Id));
            return new BoundLiteral(ExpressionType.Choice(list.Id), Value.Choice(value.Id));
        }
        var other = Find(name);
        if (other is not null)
            return Bind(name);
        var near = Spelling.Nearest(name.Name, list.Values.Select(v => v.Code));
        return Report(Fault.UnknownValue, name.Span,
            $"{Quote(list)} has no value “{Shown(name)}”." + DidYouMean(near), near is null ? null : Printer.Name(near));
    }

    private static string Quote(ValueList list) => $"The list “{list.Label.Or(list.Name)}”";
    internal static string DidYouMean(string? near) => near is null ? "" : $" Did you mean “{near}”?";
    internal string Shown(NameSyntax name) => name.Id is null ? name.Name : _index.NameOf(name.Id) ?? "something that was deleted";

    internal NamedRow? Find(NameSyntax name) =>
        name.Id is null ? _index.Named(_assembly, name.Name)
        : _index.Rows.GetValueOrDefault(name.Id) is NamedRow row && _index.AssemblyOfRow[row.Id] == _assembly ? row : null;

    private Bound? Bind(Syntax syntax)
    {
        switch (syntax)
        {
            case FaultySyntax:
                return null;
            case NumberSyntax number:
                return new BoundLiteral(ExpressionType.Number(number.Unit.Dimension), Value.Of(number.Unit.ToBase(number.Number)));
            case YesNoSyntax yesNo:
                return new BoundLiteral(ExpressionType.YesNo, Value.Of(yesNo.Value));
            case TextSyntax text:
                return new BoundLiteral(ExpressionType.Text, Value.OfText(text.Text));
            case NoneSyntax:
                return Report(Fault.TypeMismatch, syntax.Span, "“none” can only be compared with an optional attribute, as in “window = none”.");
            case NameSyntax or MemberSyntax or IndexSyntax:
                return BindPath(syntax);
            case UnarySyntax unary:
                return BindUnary(unary);
            case BinarySyntax binary:
                return BindBinary(binary);
            case IfSyntax conditional:
                return BindIf(conditional, null);
            case InSyntax inside:
                return BindIn(inside);
            case HasSyntax has:
                return BindHas(has);
            case BetweenSyntax between:
                var low = Comparison(between.Span, BinaryOperator.GreaterOrEqual, between.Item, between.Lower);
                var high = Comparison(between.Span, BinaryOperator.LessOrEqual, between.Item, between.Upper);
                return low is null || high is null ? null : new BoundBinary(ExpressionType.YesNo, BinaryOperator.And, low, high);
            case CallSyntax call:
                return _calls.Bind(call);
            case CountingSyntax counting:
                var conditions = counting.Conditions.Select(Condition).ToList();
                return conditions.Contains(null) ? null : new BoundCounting(counting.Kind, counting.Count, [.. conditions!]);
            default:
                throw new InvalidOperationException(syntax.GetType().Name);
        }
    }

    internal Bound? Condition(Syntax syntax)
    {
        var bound = Bind(syntax);
        return bound is null or { Type.Kind: TypeKind.YesNo } ? bound
            : Report(Fault.NotACondition, syntax.Span, $"A condition is needed here; this is {bound.Type.Describe()}.");
    }

    internal Bound? Number(Syntax syntax)
    {
        var bound = Bind(syntax);
        return bound is null or { Type.Kind: TypeKind.Number } ? bound
            : Report(Fault.NotANumber, syntax.Span, $"A number is needed here; this is {bound.Type.Describe()}.");
    }

    private Bound? BindUnary(UnarySyntax unary)
    {
        if (unary.Operator == UnaryOperator.Not)
            return Condition(unary.Operand) is { } condition ? new BoundUnary(ExpressionType.YesNo, UnaryOperator.Not, condition) : null;
        if (Number(unary.Operand) is not { } number)
            return null;
        return number.Type.Dimension.IsPoint
            ? Report(Fault.TemperaturePoint, unary.Span, "A temperature cannot be negated; write the difference of two temperatures.")
            : new BoundUnary(number.Type, UnaryOperator.Negate, number);
    }

    private Bound? BindBinary(BinarySyntax binary) => binary.Operator switch
    {
        BinaryOperator.And or BinaryOperator.Or =>
            (Condition(binary.Left), Condition(binary.Right)) is ({ } l, { } r) ? new BoundBinary(ExpressionType.YesNo, binary.Operator, l, r) : null,
        >= BinaryOperator.Equal and <= BinaryOperator.GreaterOrEqual => Comparison(binary.Span, binary.Operator, binary.Left, binary.Right),
        _ => Arithmetic(binary),
    };

    private Bound? Arithmetic(BinarySyntax binary)
    {
        var (left, right) = (Number(binary.Left), Number(binary.Right));
        if (left is null || right is null)
            return null;
        var (a, b) = (left.Type.Dimension, right.Type.Dimension);
        switch (binary.Operator)
        {
            case BinaryOperator.Multiply or BinaryOperator.Divide when a.IsPoint || b.IsPoint:
                return Report(Fault.TemperaturePoint, (a.IsPoint ? binary.Left : binary.Right).Span,
                    "A temperature cannot be multiplied or divided; a difference of temperatures can.");
            case BinaryOperator.Multiply:
                return Make(a * b);
            case BinaryOperator.Divide:
                return Make(a / b);
            case BinaryOperator.Power:
                if (right is not BoundLiteral { Value.Number: var exponent } || !exponent.IsWhole || !b.IsNone || exponent.Abs() > 12)
                    return Report(Fault.TypeMismatch, binary.Right.Span, "The power must be a whole number from −12 to 12.");
                return a.IsPoint
                    ? Report(Fault.TemperaturePoint, binary.Left.Span, "A temperature cannot be raised to a power.")
                    : Make(a.Power((int)exponent.Numerator));
        }
        // Points and differences: point ± difference = point, point − point = difference.
        var subtract = binary.Operator == BinaryOperator.Subtract;
        if (a.IsPoint || b.IsPoint)
        {
            if (a.IsPoint && b.IsPoint)
                return subtract ? Make(Dimension.OfTemperature)
                    : Report(Fault.TemperaturePoint, binary.Span, "Two temperatures cannot be added; a difference (in K) can be added to a temperature.");
            if (a.IsPoint && b == Dimension.OfTemperature)
                return Make(Dimension.TemperaturePoint);
            if (b.IsPoint && a == Dimension.OfTemperature && !subtract)
                return Make(Dimension.TemperaturePoint);
        }
        return a == b ? Make(a)
            : Report(Fault.UnitMismatch, binary.Span, $"{Capital(a.Describe())} and {b.Describe()} cannot be {(subtract ? "subtracted" : "added")}.");

        Bound Make(Dimension dimension) => new BoundBinary(ExpressionType.Number(dimension), binary.Operator, left, right);
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    private Bound? Comparison(Span span, BinaryOperator op, Syntax leftSyntax, Syntax rightSyntax)
    {
        if (leftSyntax is NoneSyntax || rightSyntax is NoneSyntax)
            return IsNone(span, op, leftSyntax is NoneSyntax ? leftSyntax : rightSyntax, leftSyntax is NoneSyntax ? rightSyntax : leftSyntax);

        // A bare word may be a value code of the other side's list, so the side that stands for itself is bound first.
        Bound? left, right;
        if (leftSyntax is NameSyntax word && Find(word) is null)
        {
            right = Bind(rightSyntax);
            left = right is null && rightSyntax is not NameSyntax ? null : BindAs(leftSyntax, right?.Type);
        }
        else
        {
            left = Bind(leftSyntax);
            right = left is null && rightSyntax is NameSyntax ? null : BindAs(rightSyntax, left?.Type);
        }
        if (left is null || right is null)
            return null;
        var (a, b) = (left.Type, right.Type);
        if (a.Kind == TypeKind.Text || b.Kind == TypeKind.Text)
            return Report(Fault.TextCannotBeReasoned, span, "Texts are carried and printed but not compared. Use a choice to decide by.");
        if (a.Kind != b.Kind && (ValueWithoutQuotes(a, rightSyntax) ?? ValueWithoutQuotes(b, leftSyntax)) is { } unquoted)
            return Unquoted(unquoted.Value, unquoted.At);
        if (a.Kind != b.Kind)
            return Report(Fault.TypeMismatch, span, $"{Capital(a.Describe())} cannot be compared with {b.Describe()}.");
        if (a.Kind == TypeKind.Number && a.Dimension != b.Dimension)
            return Report(Fault.UnitMismatch, span, $"{Capital(a.Dimension.Describe())} cannot be compared with {b.Dimension.Describe()}.");
        if (a.Kind == TypeKind.Choice && a.ListId != b.ListId)
            return Report(Fault.DifferentLists, span, "These choices come from different lists, so they are never the same.");
        if (a.Kind != TypeKind.Number && op is not (BinaryOperator.Equal or BinaryOperator.NotEqual))
            return Report(Fault.TypeMismatch, span, $"{Capital(a.Describe())} has no order; only = and <> compare it.");
        return new BoundBinary(ExpressionType.YesNo, op, left, right);
    }

    /// <summary>The value of a choice whose code is a number or a keyword, where that stands without the quotes that it needs.</summary>
    private (ListValue Value, Span At)? ValueWithoutQuotes(ExpressionType choice, Syntax written) =>
        choice is { Kind: TypeKind.Choice, ListId: { } listId } && written is NumberSyntax or YesNoSyntax or NoneSyntax
            && _index.Lists.TryGetValue(listId, out var list)
        && ModelIndex.ValueByCode(list, Printer.Print(written)) is { } value ? (value, written.Span) : null;

    private Bound? Unquoted(ListValue value, Span at) =>
        Report(Fault.UnknownValue, at, $"The value called “{value.Code}” is written in quotes, so that it is told apart: {Printer.Name(value.Code)}.",
            Printer.Name(value.Code));

    private Bound? IsNone(Span span, BinaryOperator op, Syntax none, Syntax other)
    {
        if (op is not (BinaryOperator.Equal or BinaryOperator.NotEqual))
            return Report(Fault.TypeMismatch, span, "Only = and <> compare with “none”.");
        if (other is NameSyntax or MemberSyntax && Resolve(other) is ReachedSeveral several)
        {
            Bound nothing = new BoundCounting(CountingKind.AtMost, 0, [.. several.List.Values.Select(v => several.Member(v))]);
            return op == BinaryOperator.Equal ? nothing : new BoundUnary(ExpressionType.YesNo, UnaryOperator.Not, nothing);
        }
        if (Bind(other) is not { } bound)
            return null;
        if (bound is not BoundAttribute attribute)
            return Report(Fault.NotAPath, other.Span, "Only an attribute can be compared with “none”.");
        // What must be answered is never none, so that only the value can be meant.
        if (_index.Rows.GetValueOrDefault(RowPath.RowId(attribute.Path)) is AttributeRow { Required: true }
            && ValueWithoutQuotes(bound.Type, none) is { } called)
            return Unquoted(called.Value, called.At);
        Bound test = new BoundIsNone(attribute.Path);
        return op == BinaryOperator.Equal ? test : new BoundUnary(ExpressionType.YesNo, UnaryOperator.Not, test);
    }

    private Bound? BindHas(HasSyntax has)
    {
        if (has.Item is not (NameSyntax or MemberSyntax) || Resolve(has.Item) is not { } item)
            return has.Item is NameSyntax or MemberSyntax
                ? null : Report(Fault.NotAPath, has.Item.Span, "Before “has” stands an attribute that can hold several values.");
        if (item is not ReachedSeveral several)
            return Report(Fault.TypeMismatch, has.Item.Span, "This holds a single value; compare it with “=”.");
        if (ValueWithoutQuotes(ExpressionType.Choice(several.List.Id), has.Value) is { } unquoted)
            return Unquoted(unquoted.Value, unquoted.At);
        return BindAs(has.Value, ExpressionType.Choice(several.List.Id)) switch
        {
            null => null,
            BoundLiteral { Type: { Kind: TypeKind.Choice, ListId: var list }, Value: var value } when list == several.List.Id =>
                several.Member(several.List.Values.First(v => v.Id == value.Text)),
            // A choice of the same list: whether what it holds is among the values.
            { Type: { Kind: TypeKind.Choice, ListId: var list } } choice when list == several.List.Id => several.List.Values
                .Select(Bound (v) => new BoundBinary(ExpressionType.YesNo, BinaryOperator.And,
                    new BoundBinary(ExpressionType.YesNo, BinaryOperator.Equal, choice, new BoundLiteral(choice.Type, Value.Choice(v.Id))), several.Member(v)))
                .Aggregate((a, b) => new BoundBinary(ExpressionType.YesNo, BinaryOperator.Or, a, b)),
            _ => Report(Fault.TypeMismatch, has.Value.Span, $"After “has” stands a value of the list “{several.List.Label.Or(several.List.Name)}”."),
        };
    }

    private Bound? BindIn(InSyntax inside)
    {
        Bound? result = null;
        var failed = inside.Options.IsEmpty;
        foreach (var option in inside.Options)
        {
            var equal = Comparison(option.Span, BinaryOperator.Equal, inside.Item, option);
            failed |= equal is null;
            result = result is null || equal is null ? equal : new BoundBinary(ExpressionType.YesNo, BinaryOperator.Or, result, equal);
        }
        if (failed || result is null)
            return null;
        return inside.Negated ? new BoundUnary(ExpressionType.YesNo, UnaryOperator.Not, result) : result;
    }

    private Bound? BindIf(IfSyntax conditional, ExpressionType? expected)
    {
        var condition = Condition(conditional.Condition);
        if (conditional.Else is null)
        {
            var consequence = Condition(conditional.Then);
            return condition is null || consequence is null ? null : new BoundBinary(ExpressionType.YesNo, BinaryOperator.Or,
                new BoundUnary(ExpressionType.YesNo, UnaryOperator.Not, condition), consequence);
        }
        var then = BindAs(conditional.Then, expected);
        var otherwise = BindAs(conditional.Else, expected ?? then?.Type);
        if (condition is null || then is null || otherwise is null)
            return null;
        return then.Type == otherwise.Type ? new BoundIf(then.Type, condition, then, otherwise)
            : Report(then.Type.Kind == TypeKind.Number && otherwise.Type.Kind == TypeKind.Number ? Fault.UnitMismatch : Fault.TypeMismatch,
                conditional.Else.Span, $"After “then” stands {then.Type.Describe()}, after “else” {otherwise.Type.Describe()}; both must be the same.");
    }

    // ---- Names and paths ----------------------------------------------------------------------------------------

    internal ReachedSeveral? SeveralAt(string prefix, AttributeRow row, Span span)
    {
        if (row.ListId is not null && _index.Lists.TryGetValue(row.ListId, out var list) && !list.Values.IsDefaultOrEmpty)
            return new(prefix + row.Id, row, list);
        Report(Fault.DependsOnFaulty, span, $"“{row.Name}” has a fault of its own; this rests until it is mended.");
        return null;
    }

    internal Bound? BindPath(Syntax syntax)
    {
        var resolved = Resolve(syntax);
        return resolved switch
        {
            null => null,
            Bound bound => bound,
            ReachedSeveral several => Report(Fault.NotAPath, syntax.Span,
                $"“{several.Row.Name}” can hold several values; ask “{several.Row.Name} has …”, or total over it with count(…), sum(…), any(…) or all(…)."),
            ReachedPlace => Report(Fault.NotAPath, syntax.Span,
                "This is a whole subassembly; name one of its attributes after a dot, or ask applies(…) or count(…)."),
            CombinationGrid grid => Report(Fault.NotAPath, syntax.Span,
                $"“{grid.Name}” is a whole grid; name one of its figures after a dot. That a row of it matches is a rule already."),
            _ => throw new InvalidOperationException(resolved.GetType().Name),
        };
    }

    internal object? Resolve(Syntax syntax)
    {
        switch (syntax)
        {
            case NameSyntax name:
                return Row(new("", _assembly, null), name);
            case IndexSyntax index:
                if (Resolve(index.Target) is not ReachedPlace { Reached: { } subassembly } place)
                    return Report(Fault.NotAPath, index.Span, "Only a subassembly can be followed by [number].");
                var instances = ModelIndex.InstancesOf(subassembly);
                if (index.Index < 1 || index.Index > instances.Length)
                    return Report(Fault.NoSuchInstance, index.Span,
                        $"“{subassembly.Name}” has {instances.Length} instance{(instances.Length == 1 ? "" : "s")}, counted from 1.");
                return place with
                {
                    IsOneOfSeveral = false,
                    Prefix = $"{RowPath.SplitInstance(place.Prefix).Subassembly}{RowPath.Instance}{instances[index.Index - 1].Id}/"
                };
            case MemberSyntax member:
                return Resolve(member.Target) switch
                {
                    null => null,
                    ReachedPlace { IsOneOfSeveral: true, Reached: { } reached } => Report(Fault.NoSuchInstance, member.Target.Span,
                        $"There can be {ModelIndex.InstancesOf(reached).Length} of “{reached.Name}”. Say which, as in "
                            + $"{Printer.Name(reached.Name)}[1].{Printer.Name(Shown(member.Member))}, or total over them, as in "
                            + $"any({Printer.Name(reached.Name)}.{Printer.Name(Shown(member.Member))} …)."),
                    ReachedPlace within => Row(within, member.Member),
                    Bound { Type: { Kind: TypeKind.Choice, ListId: { } listId } } choice => Property(choice, listId, member.Member),
                    Bound { Type.Kind: TypeKind.Text } item and not BoundAttribute => ItemProperty(item, member.Member),
                    CombinationGrid grid => Figure(grid, member.Member),
                    ReachedSeveral several => Report(Fault.NotAPath, member.Span,
                        $"“{several.Row.Name}” can hold several values; total over them, as in sum({several.Row.Name}.{Shown(member.Member)})."),
                    _ => Report(Fault.NotAPath, member.Member.Span, "Only a choice, a subassembly, a grid or an item has something after a dot."),
                };
            default:
                return Bind(syntax);
        }
    }

    private object? Row(ReachedPlace place, NameSyntax name)
    {
        var row = name.Id is null ? _index.Named(place.Assembly, name.Name)
            : _index.Rows.GetValueOrDefault(name.Id) is NamedRow r && _index.AssemblyOfRow[r.Id] == place.Assembly ? r : null;
        if (row is null)
        {
            var near = Spelling.Nearest(name.Name, place.Assembly.Rows.OfType<NamedRow>().Select(r => r.Name));
            return Report(Fault.UnknownName, name.Span, (place.Reached is null
                ? $"There is no “{Shown(name)}” here." : $"“{place.Reached.Name}” has no “{Shown(name)}”.") + DidYouMean(near),
                near is null ? null : Printer.Name(near));
        }
        _references.Add((name.Span, row.Id));
        switch (row)
        {
            case Subassembly subassembly:
                if (!_index.Assemblies.TryGetValue(subassembly.AssemblyId, out var below))
                    return Report(Fault.DependsOnFaulty, name.Span, $"“{row.Name}” is not filled by any assembly yet.");
                var path = place.Prefix + subassembly.Id;
                var instances = ModelIndex.InstancesOf(subassembly);
                if (_scope.MemberAt(path) is { } member)
                    return new ReachedPlace($"{path}:{member}/", below, subassembly);
                // Below what is totalled over, all instances are meant as well.
                var isBelow = instances.Length > 1 && _scope.Innermost is { } last
                    && place.Prefix.StartsWith($"{last.Path}:{last.Member}/", StringComparison.Ordinal);
                if (isBelow)
                    _scope.RunsBelow ??= (path, subassembly);
                return new ReachedPlace($"{path}:{instances[0].Id}/", below, subassembly, instances.Length > 1 && !isBelow);
            case AttributeRow { Kind: AttributeKind.Several } attribute:
                if (SeveralAt(place.Prefix, attribute, name.Span) is not { } several)
                    return null;
                return _scope.MemberAt(several.Path) is { } chosen ? new BoundLiteral(ExpressionType.Choice(several.List.Id), Value.Choice(chosen)) : several;
            case CombinationGrid grid:
                return place.Reached is null ? grid : Report(Fault.NotAPath, name.Span, "A grid can be read only in the assembly it belongs to.");
            default:
                return _typeOf(row) is { } type
                    ? new BoundAttribute(type, place.Prefix + row.Id)
                    : Report(Fault.DependsOnFaulty, name.Span, $"“{row.Name}” has a fault of its own; this rests until it is mended.");
        }
    }

    private Bound? Property(Bound choice, string listId, NameSyntax name)
    {
        var list = _index.Lists[listId];
        var property = list.Properties.FirstOrDefault(p => name.Id is not null ? p.Id == name.Id : Names.Fold(p.Name) == Names.Fold(name.Name));
        if (property is null)
        {
            var near = Spelling.Nearest(name.Name, list.Properties.Select(p => p.Name));
            return Report(Fault.UnknownProperty, name.Span, $"{Quote(list)} has no column “{Shown(name)}”." + DidYouMean(near),
                near is null ? null : Printer.Name(near));
        }
        _references.Add((name.Span, property.Id));
        return TypeOf(property) is { } type ? new BoundProperty(type, choice, listId, property.Id)
            : Report(Fault.DependsOnFaulty, name.Span, $"The column “{property.Name}” has an unknown unit.");
    }

    private static ExpressionType? TypeOf(PropertyColumn property) => property.Type switch
    {
        PropertyType.YesNo => ExpressionType.YesNo,
        PropertyType.Text => ExpressionType.Text,
        _ => Unit.TryParse(property.Unit) is { } unit ? ExpressionType.Number(unit.Dimension) : null,
    };

    /// <summary>The type of a grid's figure; null where its unit is not known.</summary>
    internal static ExpressionType? FigureType(GridColumn column) => column.Type switch
    {
        PropertyType.YesNo => ExpressionType.YesNo,
        PropertyType.Text => ExpressionType.Text,
        _ => Unit.TryParse(column.Unit) is { } unit ? ExpressionType.Number(unit.Dimension) : null,
    };

    /// <summary>A property of the item that a text names. Its type is that which it has over all items that can be meant.</summary>
    private Bound? ItemProperty(Bound item, NameSyntax name)
    {
        var facts = _index.FactsOf(_assembly);
        var items = ItemTexts.Of(_index, item, null, facts).Where(t => t.Length > 0).Distinct().ToList();
        if (ItemReading.TypeOf(facts, items, name.Name) is { } type)
            return new BoundItemProperty(type, item, name.Name);
        var known = items.Select(facts.Items.GetValueOrDefault).OfType<ItemFact>().SelectMany(i => i.Properties.Keys).Concat(ItemFact.OwnProperties).Distinct()
            .ToList();
        var near = Spelling.Nearest(name.Name, known);
        return Report(Fault.UnknownProperty, name.Span,
            items.Count == 0 ? "No item is meant here, so it has no properties." : items.All(i => !facts.Items.ContainsKey(i))
            ? $"There is no item “{items[0]}” in the register."
            : $"None of the items that can be meant has a property “{name.Name}”." + DidYouMean(near), near is null ? null : Printer.Name(near));
    }

    private Bound? Figure(CombinationGrid grid, NameSyntax name)
    {
        var figures = grid.Columns.Where(c => c.Reference.Length == 0);
        var column = figures.FirstOrDefault(c => name.Id is not null ? c.Id == name.Id : Names.Fold(c.Name) == Names.Fold(name.Name));
        if (column is null)
        {
            var near = Spelling.Nearest(name.Name, figures.Select(c => c.Name));
            return Report(Fault.UnknownProperty, name.Span, $"The grid “{grid.Name}” has no figure “{Shown(name)}”." + DidYouMean(near),
                near is null ? null : Printer.Name(near));
        }
        _references.Add((name.Span, column.Id));
        return FigureType(column) is { } type && _typeOf(grid) is not null
            ? new BoundGridFigure(type, grid.Id, column.Id)
            : Report(Fault.DependsOnFaulty, name.Span, $"The grid “{grid.Name}” has a fault of its own; this rests until it is mended.");
    }
}
