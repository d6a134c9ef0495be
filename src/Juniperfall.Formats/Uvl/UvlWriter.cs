using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Formats.Uvl;

/// <summary>A row that UVL has no counterpart for, and what is to be said of it.</summary>
public sealed record UvlOmission(string RowId, string Sentence);

/// <summary>
/// Writes the yes/no, choice and whole-number attributes of a model and the rules over them as UVL. A configuration of the model is
/// one of the features and the other way round. What does not apply has no value, which UVL does not know: rules are written
/// as what must not be false, as they rest in a model where they have no value.
/// </summary>
public sealed class UvlWriter
{
    private const int MostCases = 400, MostSubsets = 400, MostTogether = 25, LongestConstraint = 12_000;

    private sealed class NoCounterpart(string what) : Exception(what);

    /// <summary>What an asked attribute is called in UVL: the feature that says that it has a value, and those of its values.</summary>
    /// <param name="IsSettled">The tree alone says when it has a value.</param>
    private sealed record Named(string Feature, AttributeRow Row, IReadOnlyDictionary<string, string> Values, bool IsSettled);

    private readonly BoundModel _model;
    private readonly Dictionary<string, Occurrence> _occurrences;
    private readonly Dictionary<string, Named> _named = [];
    private readonly HashSet<string> _names = new(StringComparer.OrdinalIgnoreCase);
    private readonly List<UvlOmission> _omitted = [];
    private readonly List<(string Tree, bool Mandatory)> _features = [];
    private readonly List<string> _constraints = [];

    private UvlWriter(BoundModel model)
    {
        _model = model;
        _occurrences = Occurrence.All(model).ToDictionary(o => o.Prefix);
    }

    /// <summary>The text, and what of the model is not in it.</summary>
    public static (string Text, ImmutableArray<UvlOmission> Omitted) Write(BoundModel model)
    {
        var writer = new UvlWriter(model);
        return (writer.Write(), [.. writer._omitted.Distinct()]);
    }

    private string Write()
    {
        var root = Unique(_model.Document.Code.Length > 0 ? _model.Document.Code : "model");
        foreach (var occurrence in _occurrences.Values)
            foreach (var row in occurrence.Assembly.Rows.OfType<AttributeRow>().Where(_model.IsSound))
                if (!IsGiven(occurrence, row))
                    Name(occurrence, row);
        foreach (var occurrence in _occurrences.Values)
            foreach (var row in occurrence.Assembly.Rows.Where(_model.IsSound))
                Row(occurrence, row);
        var text = new StringBuilder("features\n    ").Append(root).Append('\n');
        foreach (var mandatory in new[] { true, false })
            if (_features.Where(f => f.Mandatory == mandatory).ToList() is { Count: > 0 } features)
            {
                text.Append(mandatory ? "        mandatory\n" : "        optional\n");
                foreach (var (tree, _) in features)
                    text.Append(tree);
            }
        if (_constraints.Count > 0)
            text.Append("constraints\n");
        foreach (var constraint in _constraints)
            text.Append("    ").Append(constraint == UvlFormula.No ? $"{root} & !{root}" : constraint).Append('\n');
        return text.ToString();
    }

    private static bool IsGiven(Occurrence occurrence, AttributeRow row) =>
        row.Input && occurrence.Place is { } place && place.Inputs.Any(i => i.AttributeId == row.Id);

    /// <summary>An identifier that every reader of UVL 1.1 takes without quotes: a letter, then letters, digits and underscores of ASCII, and no word of the
    /// language.</summary>
    private string Unique(string wanted)
    {
        var plain = new string([.. wanted.Select(c => char.IsAsciiLetterOrDigit(c) || c == '_' ? c : '_')]);
        if (plain.Length == 0 || !char.IsAsciiLetter(plain[0])
            || plain.ToLowerInvariant() is "features" or "constraints" or "mandatory" or "optional" or "alternative" or "or" or "true" or "false" or "sum" or "avg" or "len" or "floor" or "ceil" or "boolean" or "integer" or "real" or "string" or "cardinality" or "imports" or "namespace" or "include" or "as" or "constraint" or "feature" or "type" or "arithmetic" or "aggregate-function")
            plain = "f_" + plain;
        var unique = plain;
        for (var more = 2; !_names.Add(unique); more++)
            unique = $"{plain}_{more}";
        return unique;
    }

    // ---- Features -----------------------------------------------------------------------------------------------

    private void Name(Occurrence occurrence, AttributeRow row)
    {
        var display = occurrence.DisplayPath(_model.Index, row.Id);
        if (row.Kind is AttributeKind.Text or AttributeKind.Quantity)
        {
            if (row.Kind == AttributeKind.Quantity)
                _omitted.Add(new(row.Id, $"“{display}” is a quantity; UVL has yes/no and whole numbers."));
            return;
        }
        var list = row.ListId is null ? null : _model.Index.Lists[row.ListId];
        var always = row.AppliesWhen.Length == 0;
        for (var at = occurrence; at.Place is { } place; at = at.Parent!)
            always &= place.AppliesWhen.Length == 0 && place.InstanceCount.Length == 0;
        // Whether it has a value at all is a feature of its own, except where it always has one.
        var plain = row.Kind == AttributeKind.YesNo && always && row.Required;
        var feature = Unique(display);
        Dictionary<string, string> values = [];
        var tree = new StringBuilder("            ").Append(row.Kind == AttributeKind.Whole ? "Integer " : "").Append(feature).Append('\n');
        var members = row.Kind switch
        {
            AttributeKind.YesNo when !plain => [("yes", "yes"), ("no", "no")],
            AttributeKind.Choice or AttributeKind.Several => list!.Values.Select(v => (v.Id, v.Code)),
            _ => Array.Empty<(string, string)>(),
        };
        foreach (var (id, code) in members)
            values[id] = Unique($"{display}_{code}");
        if (values.Count > 0)
        {
            tree.Append("                ")
                .Append(row.Kind == AttributeKind.Several
                ? $"[{(row.Min is { Length: > 0 } min ? min : "0")}..{(row.Max is { Length: > 0 } max ? max : values.Count.ToString(CultureInfo.InvariantCulture))}]" : "alternative").Append('\n');
            foreach (var value in values.Values)
                tree.Append("                    ").Append(value).Append('\n');
        }
        var mandatory = always && !plain && (row.Required || row.Kind == AttributeKind.Several);
        _features.Add((tree.ToString(), mandatory));
        _named[occurrence.Prefix + row.Id] = new(feature, row, values, mandatory || plain);
    }

    // ---- Rows ---------------------------------------------------------------------------------------------------

    private void Row(Occurrence occurrence, Row row)
    {
        try
        {
            if (row is AttributeRow attribute)
            {
                if (_named.TryGetValue(occurrence.Prefix + row.Id, out var named))
                    Attribute(occurrence, attribute, named);
                else if (occurrence.Place is { } filled && attribute.Input && _model.GivenTo(filled, row) is { } given)
                    Given(occurrence, attribute, given.Value);
            }
            else if (row is Subassembly place && _model.Expression(place.Id, "instanceCount") is { } count)
                Constrain(UvlFormula.Yes, Compare(BinaryOperator.LessOrEqual, Numbers(occurrence, count),
                    [(UvlFormula.Yes, Text(ModelIndex.InstancesOf(place).Length))]));
            else if (row is IRule { Strength: RuleStrength.Advice })
                _omitted.Add(new(row.Id, $"{NameOf(row)} is advice; UVL has only what must be."));
            else if (row is CombinationGrid grid)
                foreach (var (when, holds) in Table(occurrence, _model.Grid(grid.Id)!))
                    Constrain(UvlFormula.And(Applies(occurrence, row), when), holds);
            else if (row is IRule)
                Constrain(Applies(occurrence, row), Rule(occurrence, row));
        }
        catch (NoCounterpart e)
        {
            _omitted.Add(new(row.Id, $"{NameOf(row)} is left out: {e.Message}"));
        }
    }

    private string NameOf(Row row) => _model.Index.MarkOf(row) is { } mark ? mark : _model.Index.NameOf(row.Id) is { } name ? $"“{name}”" : "A rule";

    /// <summary>What must not be false where something else holds.</summary>
    private void Constrain(string when, UvlFormula holds)
    {
        var then = UvlFormula.Not(holds.False);
        var constraint = when == UvlFormula.No
            || then == UvlFormula.Yes ? UvlFormula.Yes : when == UvlFormula.Yes ? then : then == UvlFormula.No ? UvlFormula.Not(when) : $"{when} => {then}";
        if (constraint.Length > LongestConstraint)
            throw new NoCounterpart("it becomes too long.");
        if (constraint != UvlFormula.Yes)
            _constraints.Add(constraint is ['(', .. var inner, ')'] && !inner.Contains('(') ? inner : constraint);
    }

    private void Attribute(Occurrence occurrence, AttributeRow row, Named named)
    {
        var applies = Applies(occurrence, row);
        if (applies != UvlFormula.Yes)
            _constraints.Add(row.Required || row.Kind == AttributeKind.Several ? $"{named.Feature} <=> {applies}" : $"{named.Feature} => {applies}");
        else if (!named.IsSettled && (row.Required || row.Kind == AttributeKind.Several))
            _constraints.Add(named.Feature);
        if (row.Kind == AttributeKind.Whole)
        {
            var step = Exact.Parse(row.Step ?? "1");
            _constraints.Add($"{named.Feature} => ({named.Feature} >= {Text((Exact.Parse(row.Min!) / step).Ceiling() * step)} & {named.Feature} <= "
                + $"{Text((Exact.Parse(row.Max!) / step).Floor() * step)})");
            if (step != Exact.One)
                throw new NoCounterpart("a step other than 1; its bounds are written, the step is not.");
        }
        foreach (var field in new[] { "lower", "upper" })
            if (_model.Expression(row.Id, field) is { } bound)
            {
                var own = row.Kind == AttributeKind.Several
                    ? Sum([.. named.Values.Values.Select(v => new[] { (v, "1"), (UvlFormula.Not(v), "0") }.AsEnumerable())])
                    .Select(c => (UvlFormula.And(named.Feature, c.Guard), c.Text)) : [(named.Feature, named.Feature)];
                var limit = Numbers(occurrence, bound);
                Constrain(UvlFormula.Yes, field == "lower" ? Compare(BinaryOperator.LessOrEqual, limit, own) : Compare(BinaryOperator.LessOrEqual, own, limit));
            }
    }

    /// <summary>What an input is given is one of the values that it could be answered with.</summary>
    private void Given(Occurrence occurrence, AttributeRow row, Bound given)
    {
        if (given is BoundRecoded recoded)
        {
            var choices = Choices(occurrence.Parent!, recoded.Choice).ToLookup(c => recoded.Values.ContainsKey(c.ValueId), c => c.Guard);
            Constrain(Applies(occurrence, row), new(UvlFormula.Or(choices[true]), UvlFormula.Or(choices[false])));
        }
        if (row.Kind is not (AttributeKind.Whole or AttributeKind.Quantity))
            return;
        var unit = row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        var own = Numbers(occurrence, new BoundAttribute(given.Type, row.Id)).ToList();
        Constrain(UvlFormula.Yes, Compare(BinaryOperator.LessOrEqual, [(UvlFormula.Yes, Text(unit.ToBase(Exact.Parse(row.Min!))))], own));
        Constrain(UvlFormula.Yes, Compare(BinaryOperator.LessOrEqual, own, [(UvlFormula.Yes, Text(unit.ToBase(Exact.Parse(row.Max!))))]));
        foreach (var field in new[] { "lower", "upper" })
            if (_model.Expression(row.Id, field) is { } bound)
                Constrain(UvlFormula.Yes, field == "lower"
                    ? Compare(BinaryOperator.LessOrEqual, Numbers(occurrence, bound), own)
                    : Compare(BinaryOperator.LessOrEqual, own, Numbers(occurrence, bound)));
    }

    /// <summary>When a row is there: its own condition and those of everything above it.</summary>
    private string Applies(Occurrence occurrence, Row row)
    {
        var above = occurrence.Place is null ? UvlFormula.Yes : IsThere(occurrence);
        return _model.Expression(row.Id, "appliesWhen") is { } condition ? UvlFormula.And(above, Truth(occurrence, condition).True) : above;
    }

    private string IsThere(Occurrence occurrence)
    {
        var there = Applies(occurrence.Parent!, occurrence.Place!);
        return _model.Expression(occurrence.Place!.Id, "instanceCount") is { } count
            ? UvlFormula.And(there, Compare(BinaryOperator.LessOrEqual, [(UvlFormula.Yes, Text(occurrence.Number))],
                Numbers(occurrence.Parent!, count)).True) : there;
    }

    private UvlFormula Rule(Occurrence at, Row row)
    {
        UvlFormula Of(string field) => Truth(at, _model.Expression(row.Id, field)!);
        switch (row)
        {
            case StatementRule: return Of("expression");
            case RequiresRule: return !Of("when") | Of("then");
            case ExcludesRule: return !(Of("when") & Of("then"));
            case LimitRule:
                var of = Numbers(at, _model.Expression(row.Id, "of")!).ToList();
                var holds = UvlFormula.Always;
                if (_model.Expression(row.Id, "lower") is { } lower)
                    holds = Compare(BinaryOperator.LessOrEqual, Numbers(at, lower), of);
                return _model.Expression(row.Id, "upper") is { } upper ? holds & Compare(BinaryOperator.LessOrEqual, of, Numbers(at, upper)) : holds;
            default: throw new InvalidOperationException(row.GetType().Name);
        }
    }

    /// <summary>A grid, in parts for the values of its longest choice, so that no formula becomes too long.</summary>
    private IEnumerable<(string When, UvlFormula Holds)> Table(Occurrence at, BoundGrid grid)
    {
        var present = UvlFormula.And(grid.Keys.Select(k => HasValue(at, k)));
        var split = Enumerable.Range(0, grid.Keys.Length).Where(k => grid.Keys[k].Type.Kind == TypeKind.Choice)
            .OrderByDescending(k => _model.Index.Lists[grid.Keys[k].Type.ListId!].Values.Length).Select(k => (int?)k).FirstOrDefault();
        // Values that ask for the same stand together.
        var alike = new Dictionary<string, List<string>>();
        foreach (var (guard, value) in split is { } column ? Choices(at, grid.Keys[column]) : [(UvlFormula.Yes, "")])
        {
            var rows = grid.Rows.Where(r => split is not { } c || r[c].Matches(Value.Choice(value)));
            var match = UvlFormula.Or(rows.Select(row => UvlFormula.And(row.Select((cell, c) => c == split ? UvlFormula.Yes : Cell(at, cell, grid.Keys[c])))));
            if (!alike.TryGetValue(match, out var guards))
                alike[match] = guards = [];
            guards.Add(guard);
        }
        foreach (var (match, guards) in alike)
            foreach (var together in guards.Chunk(MostTogether))
                yield return (UvlFormula.And(present, UvlFormula.Or(together)), new(match, UvlFormula.Not(match)));
    }

    private string Cell(Occurrence at, GridCell cell, Bound key) => cell.Any ? UvlFormula.Yes
        : UvlFormula.Or(cell.Values.Select(v => Compare(at, BinaryOperator.Equal, key, new BoundLiteral(key.Type, v)).True)
            .Concat(cell.Ranges.Select(r => UvlFormula.And(
                r.Low is { } low ? Compare(BinaryOperator.GreaterOrEqual, Numbers(at, key), [(UvlFormula.Yes, Text(low))]).True : UvlFormula.Yes,
                r.High is { } high ? Compare(BinaryOperator.LessOrEqual, Numbers(at, key), [(UvlFormula.Yes, Text(high))]).True : UvlFormula.Yes))));

    /// <summary>When an expression has a value: of an attribute that is a feature over its values when that is there, which the tree says of most.</summary>
    private string HasValue(Occurrence at, Bound expression)
    {
        if (expression is not BoundAttribute { Type.Kind: TypeKind.Choice } attribute || RowPath.MemberId(at.Prefix + attribute.Path) is not null)
            return HasSomeValue(at, expression);
        var found = Find(at.Prefix + attribute.Path);
        return found.Asked is not { } asked ? UvlFormula.And(found.When, HasValue(found.At, found.Given!)) : asked.IsSettled ? UvlFormula.Yes : asked.Feature;
    }

    private string HasSomeValue(Occurrence at, Bound expression) => expression.Type.Kind switch
    {
        TypeKind.YesNo => Truth(at, expression) is var truth ? UvlFormula.Or(truth.True, truth.False) : "",
        TypeKind.Choice => UvlFormula.Or(Choices(at, expression).Select(c => c.Guard)),
        _ => UvlFormula.Or(Numbers(at, expression).Select(n => n.Guard)),
    };

    // ---- Expressions --------------------------------------------------------------------------------------------

    /// <summary>What stands at a path: an asked attribute, or the expression that gives its value, where it is written and when it applies.</summary>
    private (Named? Asked, Bound? Given, Occurrence At, string When) Find(string path)
    {
        var (rowPath, occurrence) = (RowPath.OfRow(path), _occurrences[RowPath.Prefix(path)]);
        if (_named.TryGetValue(rowPath, out var named))
            return (named, null, occurrence, "");
        switch (_model.Index.Rows[RowPath.RowId(path)])
        {
            case ComputedAttribute computed:
                return (null, _model.Expression(computed.Id, "expression"), occurrence, Applies(occurrence, computed));
            case AttributeRow row when IsGiven(occurrence, row):
                return (null, _model.GivenTo(occurrence.Place!, row)?.Value, occurrence.Parent!, Applies(occurrence, row));
            case AttributeRow row:
                throw new NoCounterpart($"it depends on “{row.Name}”.");
            default:
                throw new NoCounterpart("it depends on a grid.");
        }
    }

    private UvlFormula Truth(Occurrence at, Bound expression)
    {
        UvlFormula Of(Bound inner) => Truth(at, inner);
        switch (expression)
        {
            case BoundLiteral literal:
                return literal.Value.IsTrue ? UvlFormula.Always : UvlFormula.Never;
            case BoundAttribute attribute:
                var found = Find(at.Prefix + attribute.Path);
                if (found.Asked is not { } asked)
                    return Truth(found.At, found.Given!).Where(found.When);
                if (RowPath.MemberId(attribute.Path) is { } member)
                    return UvlFormula.Of(asked.Values[member]).Where(asked.Feature);
                return asked.Values.Count == 0 ? UvlFormula.Of(asked.Feature) : new(asked.Values["yes"], asked.Values["no"]);
            case BoundIsNone none when Find(at.Prefix + none.Path) is { Asked: { } optional } where:
                return UvlFormula.Of(UvlFormula
                    .Not(optional.Values.Count == 0 && optional.Row.Kind == AttributeKind.YesNo ? UvlFormula.Yes : optional.Feature))
                    .Where(Applies(where.At, optional.Row));
            case BoundApplies { OfSubassembly: true } applies:
                return UvlFormula.Of(IsThere(_occurrences[at.Prefix + applies.Path + RowPath.Below]));
            case BoundApplies applies:
                return UvlFormula.Of(Applies(_occurrences[RowPath.Prefix(at.Prefix + applies.Path)], _model.Index.Rows[RowPath.RowId(applies.Path)]));
            case BoundUnary not:
                return !Of(not.Operand);
            case BoundIf choice:
                var (condition, then, otherwise) = (Of(choice.Condition), Of(choice.Then), Of(choice.Else));
                return new(UvlFormula.Or(UvlFormula.And(condition.True, then.True), UvlFormula.And(condition.False, otherwise.True)),
                    UvlFormula.Or(UvlFormula.And(condition.True, then.False), UvlFormula.And(condition.False, otherwise.False)));
            case BoundCounting counting:
                return Counting(counting.Kind, counting.Count, [.. counting.Conditions.Select(Of)]);
            case BoundTotal { Kind: TotalKind.All or TotalKind.Any } total:
                var members = total.Members.Select(m => (Body: Of(m.Body), There: m.Where is null ? UvlFormula.Yes : Of(m.Where).True));
                return total.Kind == TotalKind.All
                    ? UvlFormula.Of(UvlFormula.And(members.Select(m => UvlFormula.Not(UvlFormula.And(m.There, m.Body.False)))))
                    : UvlFormula.Of(UvlFormula.Or(members.Select(m => UvlFormula.And(m.There, m.Body.True))));
            case BoundProperty property:
                var values = Choices(at, property.Choice)
                    .Select(c => (c.Guard, Text: _model.Index.Values[c.ValueId].Value.Properties.GetValueOrDefault(property.PropertyId, ""))).ToList();
                return new(UvlFormula.Or(values.Where(v => v.Text == "yes").Select(v => v.Guard)),
                    UvlFormula.Or(values.Where(v => v.Text == "no").Select(v => v.Guard)));
            case BoundBinary { Operator: BinaryOperator.And } and:
                return Of(and.Left) & Of(and.Right);
            case BoundBinary { Operator: BinaryOperator.Or } or:
                return Of(or.Left) | Of(or.Right);
            case BoundBinary comparison:
                return Compare(at, comparison.Operator, comparison.Left, comparison.Right);
            default:
                throw new NoCounterpart($"{expression.GetType().Name["Bound".Length..].ToLowerInvariant()} has no counterpart in UVL.");
        }
    }

    private UvlFormula Compare(Occurrence at, BinaryOperator op, Bound left, Bound right)
    {
        switch (left.Type.Kind)
        {
            case TypeKind.YesNo:
                var (a, b) = (Truth(at, left), Truth(at, right));
                var same = new UvlFormula(UvlFormula.Or(UvlFormula.And(a.True, b.True), UvlFormula.And(a.False, b.False)),
                    UvlFormula.Or(UvlFormula.And(a.True, b.False), UvlFormula.And(a.False, b.True)));
                return op == BinaryOperator.Equal ? same : !same;
            case TypeKind.Choice:
                var (x, y) = (Choices(at, left).ToList(), Choices(at, right).ToList());
                var equal = UvlFormula.Or(from one in x from other in y where one.ValueId == other.ValueId select UvlFormula.And(one.Guard, other.Guard));
                var both = UvlFormula.And(HasValue(at, left), HasValue(at, right));
                var truth = new UvlFormula(equal, UvlFormula.And(both, UvlFormula.Not(equal)));
                return op == BinaryOperator.Equal ? truth : !truth;
            default:
                return Compare(op, Numbers(at, left), Numbers(at, right));
        }
    }

    private static UvlFormula Compare(BinaryOperator op, IEnumerable<(string Guard, string Text)> left, IEnumerable<(string Guard, string Text)> right)
    {
        var (holds, fails) = (new List<string>(), new List<string>());
        var others = right.ToList();
        foreach (var (guard, text) in left)
            foreach (var (otherGuard, otherText) in others)
            {
                if (holds.Count > MostCases)
                    throw new NoCounterpart("it becomes too many cases.");
                var when = UvlFormula.And(guard, otherGuard);
                var symbol = op switch
                {
                    BinaryOperator.Equal => "==",
                    BinaryOperator.NotEqual => "!=",
                    BinaryOperator.Less =>
                    "<",
                    BinaryOperator.LessOrEqual => "<=",
                    BinaryOperator.Greater => ">",
                    _ => ">="
                };
                var test = Exact.TryParse(text, out var a) && Exact.TryParse(otherText, out var b)
                    ? (op switch
                    {
                        BinaryOperator.Equal => a == b,
                        BinaryOperator.NotEqual => a != b,
                        BinaryOperator.Less =>
                        a < b,
                        BinaryOperator.LessOrEqual => a <= b,
                        BinaryOperator.Greater => a > b,
                        _ => a >= b
                    } ? UvlFormula.Yes : UvlFormula.No)
                    : $"({text} {symbol} {otherText})";
                holds.Add(UvlFormula.And(when, test));
                fails.Add(UvlFormula.And(when, UvlFormula.Not(test)));
            }
        return new(UvlFormula.Or(holds), UvlFormula.Or(fails));
    }

    private static UvlFormula Counting(CountingKind kind, int count, UvlFormula[] conditions)
    {
        UvlFormula AtLeast(int n)
        {
            if (n <= 0)
                return UvlFormula.Always;
            if (n > conditions.Length)
                return UvlFormula.Never;
            return new(UvlFormula.Or(Subsets(n).Select(s => UvlFormula.And(s.Select(c => c.True)))),
                UvlFormula.Or(Subsets(conditions.Length - n + 1).Select(s => UvlFormula.And(s.Select(c => c.False)))));
        }
        IEnumerable<UvlFormula[]> Subsets(int size)
        {
            var found = new List<UvlFormula[]>();
            void Choose(int from, List<UvlFormula> chosen)
            {
                if (chosen.Count == size)
                {
                    if (found.Count >= MostSubsets)
                        throw new NoCounterpart("it becomes too many cases.");
                    found.Add([.. chosen]);
                    return;
                }
                for (var i = from; i < conditions.Length; i++)
                    Choose(i + 1, [.. chosen, conditions[i]]);
            }
            Choose(0, []);
            return found;
        }
        return kind switch { CountingKind.AtLeast => AtLeast(count), CountingKind.AtMost => !AtLeast(count + 1), _ => AtLeast(count) & !AtLeast(count + 1) };
    }

    /// <summary>The values that a choice can have, each with the formula under which it has it.</summary>
    private IEnumerable<(string Guard, string ValueId)> Choices(Occurrence at, Bound expression)
    {
        switch (expression)
        {
            case BoundLiteral literal:
                return [(UvlFormula.Yes, literal.Value.Text!)];
            case BoundAttribute attribute:
                var found = Find(at.Prefix + attribute.Path);
                return found.Asked is { } asked
                    ? asked.Values.Select(v => (v.Value, v.Key))
                    : Choices(found.At, found.Given!).Select(c => (UvlFormula.And(found.When, c.Guard), c.ValueId));
            case BoundRecoded recoded:
                return Choices(at, recoded.Choice).Where(c => recoded.Values.ContainsKey(c.ValueId)).Select(c => (c.Guard, recoded.Values[c.ValueId]));
            case BoundIf choice:
                var condition = Truth(at, choice.Condition);
                return [.. Choices(at, choice.Then).Select(c => (UvlFormula.And(condition.True, c.Guard), c.ValueId)),
                    .. Choices(at, choice.Else).Select(c => (UvlFormula.And(condition.False, c.Guard), c.ValueId))];
            default:
                throw new NoCounterpart("a choice that is worked out has no counterpart in UVL.");
        }
    }

    /// <summary>What a number can be, each with the formula under which it is that.</summary>
    private IEnumerable<(string Guard, string Text)> Numbers(Occurrence at, Bound expression)
    {
        IEnumerable<(string Guard, string Text)> Of(Bound inner) => Numbers(at, inner);
        switch (expression)
        {
            case BoundLiteral literal:
                return [(UvlFormula.Yes, Text(literal.Value.Number))];
            case BoundAttribute attribute:
                var found = Find(at.Prefix + attribute.Path);
                return found.Asked is { } asked
                    ? [(asked.Feature, asked.Feature)] : Numbers(found.At, found.Given!).Select(c => (UvlFormula.And(found.When, c.Guard), c.Text));
            case BoundProperty property:
                var column = _model.Index.Lists[property.ListId].Properties.First(p => p.Id == property.PropertyId);
                return from c in Choices(at, property.Choice)
                       let text = _model.Index.Values[c.ValueId].Value.Properties.GetValueOrDefault(property.PropertyId, "")
                       where text.Length > 0
                       select (c.Guard, Text(Unit.Parse(column.Unit).ToBase(Exact.Parse(text))));
            case BoundUnary negate:
                return Of(negate.Operand).Select(c => (c.Guard, c.Text is ['-', .. var positive] ? positive : $"(0 - {c.Text})"));
            case BoundIf choice:
                var condition = Truth(at, choice.Condition);
                return Limited([.. Of(choice.Then).Select(c => (UvlFormula.And(condition.True, c.Guard), c.Text)),
                    .. Of(choice.Else).Select(c => (UvlFormula.And(condition.False, c.Guard), c.Text))]);
            case BoundBinary { Operator: BinaryOperator.Add or BinaryOperator.Subtract or BinaryOperator.Multiply } binary:
                return Limited(from l in Of(binary.Left)
                               from r in Of(binary.Right)
                               select (UvlFormula.And(l.Guard, r.Guard),
                    Arithmetic(binary.Operator, l.Text, r.Text)));
            case BoundTotal { Kind: TotalKind.Sum } total:
                return Sum([.. total.Members.Select(m => Member(at, m, Of(m.Body)))]);
            case BoundTotal { Kind: TotalKind.Count } total:
                return Sum([.. total.Members.Select(m => Member(at, m, [(Truth(at, m.Body).True, "1")]))]);
            default:
                throw new NoCounterpart("such a number has no counterpart in UVL.");
        }
    }

    /// <summary>A member of a total in cases, with nothing where it is not there.</summary>
    private IEnumerable<(string Guard, string Text)> Member(Occurrence at, BoundTotalMember member, IEnumerable<(string Guard, string Text)> body)
    {
        var there = member.Where is null ? UvlFormula.Yes : Truth(at, member.Where).True;
        var cases = body.Select(c => (Guard: UvlFormula.And(there, c.Guard), c.Text)).Where(c => c.Guard != UvlFormula.No).ToList();
        return [.. cases, (UvlFormula.Not(UvlFormula.Or(cases.Select(c => c.Guard))), "0")];
    }

    private static IEnumerable<(string Guard, string Text)> Sum(IReadOnlyList<IEnumerable<(string Guard, string Text)>> members) =>
        members.Aggregate((IEnumerable<(string Guard, string Text)>)[(UvlFormula.Yes, "0")], (sum, member) =>
            Limited(from l in sum from r in member select (UvlFormula.And(l.Guard, r.Guard), Arithmetic(BinaryOperator.Add, l.Text, r.Text))));

    private static List<(string Guard, string Text)> Limited(IEnumerable<(string Guard, string Text)> cases)
    {
        var limited = cases.Where(c => c.Guard != UvlFormula.No).Take(MostCases + 1).ToList();
        return limited.Count <= MostCases ? limited : throw new NoCounterpart("it becomes too many cases.");
    }

    private static string Arithmetic(BinaryOperator op, string left, string right)
    {
        if (Exact.TryParse(left, out var a) && Exact.TryParse(right, out var b))
            return Text(op switch { BinaryOperator.Add => a + b, BinaryOperator.Subtract => a - b, _ => a * b });
        return $"({left} {(op switch { BinaryOperator.Add => "+", BinaryOperator.Subtract => "-", _ => "*" })} {right})";
    }

    private static string Text(int number) => Text((Exact)number);

    private static string Text(Exact number)
    {
        var text = number.ToString();
        if (text.Contains('/'))
            throw new NoCounterpart("a fraction without end has no counterpart in UVL.");
        return text;
    }
}
