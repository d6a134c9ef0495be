using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Tests;

/// <summary>
/// A literal evaluator of what the semantics say, sharing nothing with the reasoning but the bound expressions: it walks
/// through every assignment of every asked attribute and keeps those that are complete configurations.
/// </summary>
internal sealed class BruteForce
{
    /// <summary>What an expression comes to: a value, nothing, or "cannot be computed".</summary>
    private readonly record struct Outcome(Value Value, bool Failed)
    {
        public bool Is(bool truth) => !Failed && Value.Kind == ValueKind.YesNo && Value.IsTrue == truth;
        public bool IsNothing => !Failed && Value.IsNothing;
        public static readonly Outcome Nothing = new(Value.Nothing, false);
        public static readonly Outcome Error = new(Value.Nothing, true);
    }

    /// <summary>What an asked attribute is in an assignment.</summary>
    public readonly record struct Slot(bool Applies, Value Value);

    private readonly BoundModel _model;
    private readonly List<Occurrence> _occurrences;
    private readonly List<(string Path, Occurrence Occurrence, AttributeRow Row, List<Slot> Domain)> _asked = [];

    public IReadOnlyList<string> Paths => [.. _asked.Select(a => a.Path)];

    public BruteForce(BoundModel model)
    {
        _model = model;
        _occurrences = [.. Occurrence.All(model)];
        foreach (var occurrence in _occurrences)
            foreach (var row in occurrence.Assembly.Rows.OfType<AttributeRow>().Where(model.IsSound))
            {
                if (row.Input && occurrence.Place is { } place && place.Inputs.Any(i => i.AttributeId == row.Id))
                    continue;
                if (row.Kind == AttributeKind.Several)
                {
                    // Each value is chosen, left out, or does not apply.
                    foreach (var value in model.Index.Lists[row.ListId!].Values)
                        _asked.Add(($"{occurrence.Prefix}{row.Id}#{value.Id}", occurrence, row,
                            [new(false, Value.Nothing), new(true, Value.Of(false)), new(true, Value.Of(true))]));
                    continue;
                }
                var domain = new List<Slot> { new(false, Value.Nothing) };
                if (!row.Required)
                    domain.Add(new(true, Value.Nothing));
                domain.AddRange(ValuesOf(row).Select(v => new Slot(true, v)));
                _asked.Add((occurrence.Prefix + row.Id, occurrence, row, domain));
            }
    }

    public IEnumerable<Value> ValuesOf(AttributeRow row)
    {
        if (row.Kind is AttributeKind.YesNo or AttributeKind.Several)
            return [Value.Of(false), Value.Of(true)];
        if (row.Kind == AttributeKind.Choice)
            return _model.Index.Lists[row.ListId!].Values.Select(v => Value.Choice(v.Id));
        var unit = Unit.Parse(row.Unit);
        var step = Exact.Parse(row.Step ?? "1");
        var numbers = new List<Value>();
        for (var n = (Exact.Parse(row.Min!) / step).Ceiling() * step; n <= Exact.Parse(row.Max!); n += step)
            numbers.Add(Value.Of(unit.ToBase(n)));
        return numbers;
    }

    /// <summary>Everything that a reason can name: conditions, bounds and must rules, in all the places where they stand.</summary>
    public IEnumerable<Cause> Causes =>
        _asked.SelectMany(a => new[] { "appliesWhen", "lower", "upper", "min", "max" }.Select(f =>
        new Cause(f == "appliesWhen" ? CauseKind.Condition : CauseKind.Bound, a.Row.Id, f, a.Occurrence.Prefix)))
        .Concat(_occurrences.Where(o => o.Place is not null)
            .SelectMany(o => o.Place!.Inputs
            .SelectMany((x, i) => new[] { new Cause(CauseKind.Bound, o.Place.Id, $"inputs/{i}/expression", o.Parent!.Prefix),
            new(CauseKind.Bound, x.AttributeId, "lower", o.Prefix), new(CauseKind.Bound, x.AttributeId, "upper", o.Prefix) })))
        .Concat(_occurrences.SelectMany(o =>
            o.Assembly.Rows.Select(r => new Cause(r is Subassembly ? CauseKind.Bound : CauseKind.Rule, r.Id, r is Subassembly ? "instanceCount" : "",
            o.Prefix)))).Distinct();

    /// <summary>Every complete configuration in which the given causes hold; all of them where null.</summary>
    public List<Dictionary<string, Slot>> Configurations(ISet<Cause>? active = null)
    {
        var result = new List<Dictionary<string, Slot>>();
        var assignment = new Dictionary<string, Slot>();
        Fill(0);
        return result;

        void Fill(int i)
        {
            if (i == _asked.Count)
            {
                if (IsComplete(assignment, active))
                    result.Add(new(assignment));
                return;
            }
            foreach (var slot in _asked[i].Domain)
            {
                assignment[_asked[i].Path] = slot;
                Fill(i + 1);
            }
        }
    }

    private bool IsComplete(Dictionary<string, Slot> assignment, ISet<Cause>? active)
    {
        bool Holds(CauseKind kind, Row row, string field, Occurrence at) => active is null || active.Contains(new(kind, row.Id, field, at.Prefix));
        foreach (var (path, occurrence, row, _) in _asked)
        {
            var unconditional = row.AppliesWhen.Length == 0;
            for (var at = occurrence; at.Place is { } place; at = at.Parent!)
                unconditional &= place.AppliesWhen.Length == 0 && place.InstanceCount.Length == 0;
            if ((unconditional || Holds(CauseKind.Condition, row, "appliesWhen", occurrence))
                && assignment[path].Applies != Applies(occurrence, row, assignment))
                return false;
            foreach (var (field, sign) in new[] { ("lower", 1), ("upper", -1) })
                if (row.Kind != AttributeKind.Several && _model.Expression(row.Id, field) is { } bound && Holds(CauseKind.Bound, row, field, occurrence))
                {
                    var limit = Evaluate(bound, occurrence, assignment);
                    if (limit.Failed || (!limit.IsNothing && !assignment[path].Value.IsNothing
                        && assignment[path].Value.Number.CompareTo(limit.Value.Number) * sign < 0))
                        return false;
                }
        }
        foreach (var occurrence in _occurrences)
            foreach (var row in occurrence.Assembly.Rows.Where(_model.IsSound))
            {
                if (_model.Expression(row.Id, "appliesWhen") is { } condition && Evaluate(condition, occurrence, assignment).Failed)
                    return false;
                if (row is AttributeRow { Input: true } && occurrence.Place?.Inputs.ToList().FindIndex(i => i.AttributeId == row.Id) is >= 0 and var at
                    && Applies(occurrence, row, assignment)
                    && !MayBeGiven((AttributeRow)row, occurrence, at, assignment, Holds))
                    return false;
                if (row is AttributeRow { Kind: AttributeKind.Several } several && !IsAllowedNumber(several, occurrence, assignment, Holds))
                    return false;
                if (row is Subassembly place && _model.Expression(place.Id, "instanceCount") is { } howMany)
                {
                    var number = Evaluate(howMany, occurrence, assignment);
                    if (number.Failed || (Holds(CauseKind.Bound, place, "instanceCount", occurrence) && !number.IsNothing
                        && number.Value.Number > place.Instances.Length))
                        return false;
                }
                if (row is ComputedAttribute && Attribute(occurrence.Prefix + row.Id, assignment).Failed)
                    return false;
                if (row is IRule { Strength: RuleStrength.Must } && Holds(CauseKind.Rule, row, "", occurrence) && Applies(occurrence, row, assignment))
                {
                    var truth = Truth(row, occurrence, assignment);
                    if (truth.Failed || truth.Is(false))
                        return false;
                }
            }
        return true;
    }

    /// <summary>Whether what an input is given is one of its values.</summary>
    private bool MayBeGiven(AttributeRow row, Occurrence occurrence, int at, Dictionary<string, Slot> assignment,
        Func<CauseKind, Row, string, Occurrence, bool> holds)
    {
        var expression = _model.Expression(occurrence.Place!.Id, $"inputs/{at}/expression")!;
        var given = Evaluate(expression, occurrence.Parent!, assignment);
        if (given.Failed)
            return false;
        if (holds(CauseKind.Bound, occurrence.Place, $"inputs/{at}/expression", occurrence.Parent!))
        {
            if (expression is BoundRecoded recoded && given.IsNothing && !Evaluate(recoded.Choice, occurrence.Parent!, assignment).IsNothing)
                return false;
            if (row.Min is not null && !given.IsNothing
                && (given.Value.Number < Unit.Parse(row.Unit).ToBase(Exact.Parse(row.Min))
                || given.Value.Number > Unit.Parse(row.Unit).ToBase(Exact.Parse(row.Max!))))
                return false;
        }
        foreach (var (field, sign) in new[] { ("lower", 1), ("upper", -1) })
            if (_model.Expression(row.Id, field) is { } bound && holds(CauseKind.Bound, row, field, occurrence)
                && Evaluate(bound, occurrence, assignment) is var limit
                && (limit.Failed || (!limit.IsNothing && !given.IsNothing && given.Value.Number.CompareTo(limit.Value.Number) * sign < 0)))
                return false;
        return true;
    }

    /// <summary>Whether so many of several choices are chosen as there may be, where they apply.</summary>
    private bool IsAllowedNumber(AttributeRow row, Occurrence occurrence, Dictionary<string, Slot> assignment,
        Func<CauseKind, Row, string, Occurrence, bool> holds)
    {
        var members = _model.Index.Lists[row.ListId!].Values.Select(v => assignment[$"{occurrence.Prefix}{row.Id}#{v.Id}"]).ToList();
        // Where only some of them apply, which the conditions forbid, what is missing may count or not.
        var least = members.Count(m => m.Applies && m.Value.IsTrue);
        var most = least + members.Count(m => !m.Applies);
        foreach (var (field, text) in new[] { ("min", row.Min), ("max", row.Max) })
            if (text is not null && holds(CauseKind.Bound, row, field, occurrence) && (field == "min" ? most < int.Parse(text) : least > int.Parse(text)))
                return false;
        foreach (var field in new[] { "lower", "upper" })
            if (_model.Expression(row.Id, field) is { } bound && holds(CauseKind.Bound, row, field, occurrence))
            {
                var limit = Evaluate(bound, occurrence, assignment);
                if (limit.Failed || (!limit.IsNothing && members.All(m => m.Applies)
                    && (field == "lower" ? least < limit.Value.Number : least > limit.Value.Number)))
                    return false;
            }
        return true;
    }

    /// <summary>Whether an instance of a subassembly is there.</summary>
    private bool IsThere(Occurrence instance, Dictionary<string, Slot> assignment)
    {
        if (!Applies(instance.Parent!, instance.Place!, assignment))
            return false;
        if (_model.Expression(instance.Place!.Id, "instanceCount") is not { } howMany)
            return true;
        var number = Evaluate(howMany, instance.Parent!, assignment);
        return !number.Failed && !number.IsNothing && instance.Place.Instances.ToList().FindIndex(i => i.Id == instance.InstanceId) < number.Value.Number;
    }

    /// <summary>The lines that stand in a configuration, each with what a field of it comes to: a value, nothing, or null where it cannot be
    /// computed.</summary>
    public IEnumerable<(Row Row, Occurrence At, Func<string, Value?> Field)> Lines(Dictionary<string, Slot> assignment) =>
        from occurrence in _occurrences
        from row in occurrence.Assembly.Rows
        where row is PartLine or OperationLine or PriceLine && _model.IsSound(row) && Applies(occurrence, row, assignment)
        select (row, occurrence, new Func<string, Value?>(field => _model.Expression(row.Id, field) is not { } expression ? Value.Nothing
            : Evaluate(expression, occurrence, assignment) is { Failed: false } outcome ? outcome.Value : null));

    private Outcome Truth(Row row, Occurrence at, Dictionary<string, Slot> assignment)
    {
        Outcome Of(string field) => Evaluate(_model.Expression(row.Id, field)!, at, assignment);
        switch (row)
        {
            case StatementRule: return Of("expression");
            case RequiresRule: return Or(Not(Of("when")), Of("then"));
            case ExcludesRule: return Not(And(Of("when"), Of("then")));
            case LimitRule limit:
                var lower = limit.Lower.Length == 0 ? new(Value.Of(true), false) : Compare(BinaryOperator.LessOrEqual, Of("lower"), Of("of"));
                var upper = limit.Upper.Length == 0 ? new(Value.Of(true), false) : Compare(BinaryOperator.LessOrEqual, Of("of"), Of("upper"));
                return And(lower, upper);
            case CombinationGrid grid:
                var keys = _model.Grid(grid.Id)!.Keys.Select(k => Evaluate(k, at, assignment)).ToList();
                if (keys.Any(k => k.Failed)) return Outcome.Error;
                if (keys.Any(k => k.IsNothing)) return Outcome.Nothing;
                return new(Value.Of(_model.Grid(grid.Id)!.Rows.Any(r => r.Zip(keys).All(x => x.First.Matches(x.Second.Value)))), false);
            default: throw new InvalidOperationException(row.GetType().Name);
        }
    }

    private bool Applies(Occurrence occurrence, Row row, Dictionary<string, Slot> assignment)
    {
        if (occurrence.Place is not null && !IsThere(occurrence, assignment))
            return false;
        return _model.Expression(row.Id, "appliesWhen") is not { } condition || Evaluate(condition, occurrence, assignment).Is(true);
    }

    private Outcome Attribute(string path, Dictionary<string, Slot> assignment)
    {
        if (assignment.TryGetValue(path, out var slot))
            return new(slot.Value, false);
        var occurrence = _occurrences.Single(o => path.StartsWith(o.Prefix, StringComparison.Ordinal) && !path[o.Prefix.Length..].Contains('/'));
        var row = _model.Index.Rows[path[occurrence.Prefix.Length..]];
        if (!Applies(occurrence, row, assignment))
            return Outcome.Nothing;
        if (row is ComputedAttribute)
            return Evaluate(_model.Expression(row.Id, "expression")!, occurrence, assignment);
        var input = occurrence.Place!.Inputs.ToList().FindIndex(i => i.AttributeId == row.Id);
        return Evaluate(_model.Expression(occurrence.Place.Id, $"inputs/{input}/expression")!, occurrence.Parent!, assignment);
    }

    private static Outcome Not(Outcome x) => x.Failed || x.IsNothing ? x : new(Value.Of(!x.Value.IsTrue), false);

    private static Outcome And(Outcome x, Outcome y) =>
        x.Is(false) || y.Is(false) ? new(Value.Of(false), false)
        : x.Failed || y.Failed ? Outcome.Error
        : x.IsNothing || y.IsNothing ? Outcome.Nothing : new(Value.Of(true), false);

    private static Outcome Or(Outcome x, Outcome y) => Not(And(Not(x), Not(y)));

    private static Outcome Compare(BinaryOperator op, Outcome x, Outcome y)
    {
        if (x.Failed || y.Failed) return Outcome.Error;
        if (x.IsNothing || y.IsNothing) return Outcome.Nothing;
        if (x.Value.Kind != ValueKind.Number)
            return new(Value.Of(x.Value == y.Value == (op == BinaryOperator.Equal)), false);
        var order = x.Value.Number.CompareTo(y.Value.Number);
        return new(Value.Of(op switch
        {
            BinaryOperator.Equal => order == 0,
            BinaryOperator.NotEqual => order != 0,
            BinaryOperator.Less => order < 0,
            BinaryOperator.LessOrEqual => order <= 0,
            BinaryOperator.Greater => order > 0,
            _ => order >= 0,
        }), false);
    }

    private Outcome Evaluate(Bound expression, Occurrence at, Dictionary<string, Slot> assignment)
    {
        Outcome Of(Bound inner) => Evaluate(inner, at, assignment);
        switch (expression)
        {
            case BoundLiteral literal:
                return new(literal.Value, false);
            case BoundAttribute attribute:
                return Attribute(at.Prefix + attribute.Path, assignment);
            case BoundIsNone none:
                return assignment[at.Prefix + none.Path] is var slot && !slot.Applies ? Outcome.Nothing : new(Value.Of(slot.Value.IsNothing), false);
            case BoundApplies applies:
                var rowPath = at.Prefix + applies.Path;
                if (applies.OfSubassembly)
                    return new(Value.Of(IsThere(_occurrences.Single(o => o.Prefix == rowPath + "/"), assignment)), false);
                var owner = _occurrences.Single(o => rowPath.StartsWith(o.Prefix, StringComparison.Ordinal) && !rowPath[o.Prefix.Length..].Contains('/'));
                return new(Value.Of(Applies(owner, _model.Index.Rows[rowPath[owner.Prefix.Length..]], assignment)), false);
            case BoundRecoded recoded:
                var other = Of(recoded.Choice);
                if (other.Failed || other.IsNothing)
                    return other;
                var code = _model.Index.Values[other.Value.Text!].Value.Code.ToUpperInvariant();
                return _model.Index.Lists[recoded.Type.ListId!].Values.FirstOrDefault(v => v.Code.ToUpperInvariant() == code) is { } counterpart
                    ? new(Value.Choice(counterpart.Id), false) : Outcome.Nothing;
            case BoundProperty property:
                var chosen = Of(property.Choice);
                if (chosen.Failed || chosen.IsNothing)
                    return chosen;
                var text = _model.Index.Values[chosen.Value.Text!].Value.Properties.GetValueOrDefault(property.PropertyId);
                return text is null ? Outcome.Nothing : new(property.Type.Kind == TypeKind.Text ? Value.OfText(text) : Value.Of(Exact.Parse(text)), false);
            case BoundItemProperty of:
                var item = Of(of.Item);
                if (item.Failed || item.IsNothing || !_model.Facts.Items.TryGetValue(item.Value.Text!, out var fact))
                    return item.Failed ? item : Outcome.Nothing;
                var written = of.Property.ToLowerInvariant() switch
                {
                    "weight" => fact.Weight + " kg",
                    "cost" => fact.Cost + " EUR",
                    var free =>
                    fact.Properties.FirstOrDefault(p => p.Key.ToLowerInvariant() == free).Value
                };
                return written is null ? Outcome.Nothing : of.Type.Kind switch
                {
                    TypeKind.YesNo => new(Value.Of(written == "yes"), false),
                    TypeKind.Text => new(Value.OfText(written), false),
                    _ => new(Value.Of(Unit.Parse(written.Split(' ') is [_, var unit] ? unit : "").ToBase(Exact.Parse(written.Split(' ')[0]))), false),
                };
            case BoundUnary { Operator: UnaryOperator.Not } not:
                return Not(Of(not.Operand));
            case BoundUnary negate:
                return Of(negate.Operand) is { Failed: false, IsNothing: false } number ? new(Value.Of(-number.Value.Number), false) : Of(negate.Operand);
            case BoundIf choice:
                var condition = Of(choice.Condition);
                return condition.Failed ? Outcome.Error : condition.IsNothing ? Outcome.Nothing : Of(condition.Value.IsTrue ? choice.Then : choice.Else);
            case BoundCounting counting:
                var truths = counting.Conditions.Select(Of).ToList();
                if (truths.Any(t => t.Failed)) return Outcome.Error;
                // Every way the unknown ones could turn out; the same outcome in all of them decides.
                var (yes, unknown) = (truths.Count(t => t.Is(true)), truths.Count(t => t.IsNothing));
                var possible = Enumerable.Range(yes, unknown + 1).Select(n => counting.Kind switch
                {
                    CountingKind.Exactly => n == counting.Count,
                    CountingKind.AtMost => n <= counting.Count,
                    _ => n >= counting.Count,
                }).Distinct().ToList();
                return possible.Count == 1 && (unknown == 0 || counting.Kind != CountingKind.Exactly || !possible[0])
                    ? new(Value.Of(possible[0]), false) : Outcome.Nothing;
            case BoundTotal total:
                var members = total.Members.Select(m => (Where: m.Where is null ? new(Value.Of(true), false) : Of(m.Where), Body: Of(m.Body))).ToList();
                var isLogic = total.Kind is TotalKind.All or TotalKind.Any;
                // What is true of one, or false, whatever the others are, wins over an error among them.
                if (isLogic && members.Any(m => m.Where.Is(true) && m.Body.Is(total.Kind == TotalKind.Any))) return new(Value
                    .Of(total.Kind == TotalKind.Any), false);
                if (members.Any(m => m.Where.Failed || (m.Where.Is(true) && m.Body.Failed))) return Outcome.Error;
                var counted = members.Where(m => m.Where.Is(true) && !m.Body.IsNothing).Select(m => m.Body.Value).ToList();
                return total.Kind switch
                {
                    TotalKind.Sum => new(Value.Of(counted.Aggregate(Exact.Zero, (sum, v) => sum + v.Number)), false),
                    TotalKind.Count => new(Value.Of((Exact)counted.Count(v => v.IsTrue)), false),
                    TotalKind.All => new(Value.Of(counted.All(v => v.IsTrue)), false),
                    TotalKind.Any => new(Value.Of(counted.Any(v => v.IsTrue)), false),
                    TotalKind.Minimum => counted.Count == 0 ? Outcome.Nothing : new(Value.Of(counted.Min(v => v.Number)), false),
                    _ => counted.Count == 0 ? Outcome.Nothing : new(Value.Of(counted.Max(v => v.Number)), false),
                };
            case BoundGridFigure figure:
                var grid = _model.Grid(figure.GridId)!;
                var keys = grid.Keys.Select(Of).ToList();
                if (keys.Any(k => k.Failed)) return Outcome.Error;
                if (keys.Any(k => k.IsNothing)) return Outcome.Nothing;
                var row = grid.Rows.ToList().FindIndex(r => r.Zip(keys).All(x => x.First.Matches(x.Second.Value)));
                return row < 0 ? Outcome.Nothing : new(grid.Figures[figure.ColumnId][row], false);
            case BoundCall call:
                var arguments = call.Arguments.Select(Of).ToList();
                if (arguments.Any(a => a.Failed)) return Outcome.Error;
                if (arguments.Any(a => a.IsNothing)) return Outcome.Nothing;
                var numbers = arguments.Select(a => a.Value.Number).ToList();
                var step = numbers.Count > 1 ? numbers[1] : 1;
                return call.Function switch
                {
                    Function.Minimum => new(Value.Of(numbers.Min()), false),
                    Function.Maximum => new(Value.Of(numbers.Max()), false),
                    Function.Absolute => new(Value.Of(numbers[0].Abs()), false),
                    Function.Ceiling => new(Value.Of((numbers[0] / step).Ceiling() * step), false),
                    Function.Floor => new(Value.Of((numbers[0] / step).Floor() * step), false),
                    Function.Round => new(Value.Of((numbers[0] / step).Round() * step), false),
                    _ => numbers[0].Sign < 0 ? Outcome.Error : new(Value.Of(numbers[0].Sqrt()), false),
                };
            case BoundBinary { Operator: BinaryOperator.And } and:
                return And(Of(and.Left), Of(and.Right));
            case BoundBinary { Operator: BinaryOperator.Or } or:
                return Or(Of(or.Left), Of(or.Right));
            case BoundBinary { Operator: >= BinaryOperator.Equal and <= BinaryOperator.GreaterOrEqual } comparison:
                return Compare(comparison.Operator, Of(comparison.Left), Of(comparison.Right));
            case BoundBinary arithmetic:
                var (left, right) = (Of(arithmetic.Left), Of(arithmetic.Right));
                if (left.Failed || right.Failed) return Outcome.Error;
                if (left.IsNothing || right.IsNothing) return Outcome.Nothing;
                var (a, b) = (left.Value.Number, right.Value.Number);
                return arithmetic.Operator switch
                {
                    BinaryOperator.Add => new(Value.Of(a + b), false),
                    BinaryOperator.Subtract => new(Value.Of(a - b), false),
                    BinaryOperator.Multiply => new(Value.Of(a * b), false),
                    BinaryOperator.Power => a.IsZero && b.Sign < 0 ? Outcome.Error : new(Value.Of(a.Power((int)b.Numerator)), false),
                    _ => b.IsZero ? Outcome.Error : new(Value.Of(a / b), false),
                };
            default:
                throw new InvalidOperationException(expression.GetType().Name);
        }
    }
}
