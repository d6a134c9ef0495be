using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Formats.Uvl;

/// <summary>Something that UVL has no counterpart for.</summary>
internal sealed class NoCounterpart(string what) : Exception(what);

/// <summary>What an asked attribute is called in UVL: the feature that says that it has a value, and those of its values.</summary>
/// <param name="IsSettled">The tree alone says when it has a value.</param>
internal sealed record UvlNamed(string Feature, AttributeRow Row, IReadOnlyDictionary<string, string> Values, bool IsSettled);

/// <summary>Writes the expressions, conditions and grids of a model as formulas of UVL.</summary>
/// <param name="occurrences">The assemblies by the prefix of their rows.</param>
/// <param name="names">What asked attributes are called, by path; read when an expression is written.</param>
internal sealed class UvlExpressions(BoundModel model, IReadOnlyDictionary<string, Occurrence> occurrences, IReadOnlyDictionary<string, UvlNamed> names)
{
    private const int MostCases = 400, MostSubsets = 400, MostTogether = 25;

    public static bool IsGiven(Occurrence occurrence, AttributeRow row) =>
        row.Input && occurrence.Place is { } place && place.Inputs.Any(i => i.AttributeId == row.Id);

    /// <summary>When a row is there: its own condition and those of everything above it.</summary>
    public string Applies(Occurrence occurrence, Row row)
    {
        var above = occurrence.Place is null ? UvlFormula.Yes : IsThere(occurrence);
        return model.Expression(row.Id, "appliesWhen") is { } condition ? UvlFormula.And(above, Truth(occurrence, condition).True) : above;
    }

    private string IsThere(Occurrence occurrence)
    {
        var there = Applies(occurrence.Parent!, occurrence.Place!);
        return model.Expression(occurrence.Place!.Id, "instanceCount") is { } count
            ? UvlFormula.And(there, Compare(BinaryOperator.LessOrEqual, [(UvlFormula.Yes, Text(occurrence.Number))],
                Numbers(occurrence.Parent!, count)).True) : there;
    }

    public UvlFormula Rule(Occurrence at, Row row)
    {
        UvlFormula Of(string field) => Truth(at, model.Expression(row.Id, field)!);
        switch (row)
        {
            case StatementRule: return Of("expression");
            case RequiresRule: return !Of("when") | Of("then");
            case ExcludesRule: return !(Of("when") & Of("then"));
            case LimitRule:
                var of = Numbers(at, model.Expression(row.Id, "of")!).ToList();
                var holds = UvlFormula.Always;
                if (model.Expression(row.Id, "lower") is { } lower)
                    holds = Compare(BinaryOperator.LessOrEqual, Numbers(at, lower), of);
                return model.Expression(row.Id, "upper") is { } upper ? holds & Compare(BinaryOperator.LessOrEqual, of, Numbers(at, upper)) : holds;
            default: throw new InvalidOperationException(row.GetType().Name);
        }
    }

    /// <summary>A grid, in parts for the values of its longest choice, so that no formula becomes too long.</summary>
    public IEnumerable<(string When, UvlFormula Holds)> Table(Occurrence at, BoundGrid grid)
    {
        var present = UvlFormula.And(grid.Keys.Select(k => HasValue(at, k)));
        var split = Enumerable.Range(0, grid.Keys.Length).Where(k => grid.Keys[k].Type.Kind == TypeKind.Choice)
            .OrderByDescending(k => model.Index.Lists[grid.Keys[k].Type.ListId!].Values.Length).Select(k => (int?)k).FirstOrDefault();
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

    /// <summary>What stands at a path: an asked attribute, or the expression that gives its value, where it is written and when it applies.</summary>
    private (UvlNamed? Asked, Bound? Given, Occurrence At, string When) Find(string path)
    {
        var (rowPath, occurrence) = (RowPath.OfRow(path), occurrences[RowPath.Prefix(path)]);
        if (names.TryGetValue(rowPath, out var named))
            return (named, null, occurrence, "");
        switch (model.Index.Rows[RowPath.RowId(path)])
        {
            case ComputedAttribute computed:
                return (null, model.Expression(computed.Id, "expression"), occurrence, Applies(occurrence, computed));
            case AttributeRow row when IsGiven(occurrence, row):
                return (null, model.GivenTo(occurrence.Place!, row)?.Value, occurrence.Parent!, Applies(occurrence, row));
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
                return UvlFormula.Of(IsThere(occurrences[at.Prefix + applies.Path + RowPath.Below]));
            case BoundApplies applies:
                return UvlFormula.Of(Applies(occurrences[RowPath.Prefix(at.Prefix + applies.Path)], model.Index.Rows[RowPath.RowId(applies.Path)]));
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
                    .Select(c => (c.Guard, Text: model.Index.Values[c.ValueId].Value.Properties.GetValueOrDefault(property.PropertyId, ""))).ToList();
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

    public UvlFormula Compare(Occurrence at, BinaryOperator op, Bound left, Bound right)
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

    public static UvlFormula Compare(BinaryOperator op, IEnumerable<(string Guard, string Text)> left, IEnumerable<(string Guard, string Text)> right)
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
    public IEnumerable<(string Guard, string ValueId)> Choices(Occurrence at, Bound expression)
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
    public IEnumerable<(string Guard, string Text)> Numbers(Occurrence at, Bound expression)
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
                var column = model.Index.Lists[property.ListId].Properties.First(p => p.Id == property.PropertyId);
                return from c in Choices(at, property.Choice)
                       let text = model.Index.Values[c.ValueId].Value.Properties.GetValueOrDefault(property.PropertyId, "")
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

    public static IEnumerable<(string Guard, string Text)> Sum(IReadOnlyList<IEnumerable<(string Guard, string Text)>> members) =>
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

    public static string Text(int number) => Text((Exact)number);

    public static string Text(Exact number)
    {
        var text = number.ToString();
        if (text.Contains('/'))
            throw new NoCounterpart("a fraction without end has no counterpart in UVL.");
        return text;
    }
}
