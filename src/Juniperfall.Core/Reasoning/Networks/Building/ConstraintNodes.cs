using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>The nodes of what has to hold: rules, bounds of attributes, and what is given to inputs.</summary>
internal sealed class ConstraintNodes(BoundModel model, Effectivity at, NetworkExtras extras, NodeWriter nodes, RowNodes rows, ExpressionNodes expressions)
{
    private readonly Dictionary<(string Prefix, string RowId, string Field), int> _groupsOfInputs = [];

    /// <summary>What an input is given can be computed, and is one of the values that it could be answered with; steps are for asking only.</summary>
    public void AsGiven(Occurrence occurrence, Subassembly place, AttributeRow input, (string Field, Bound Value) given)
    {
        var node = rows.Path(occurrence.Prefix + input.Id);
        if (extras != NetworkExtras.Errors)
            rows.Roots.Add((node, ~Outcomes.Error, -1));
        var parent = occurrence.Parent!;
        List<int> tests = [];
        if (given.Value is BoundRecoded recoded)
        {
            // A counterpart that does not hold at this site or date is none.
            var values = model.Index.Lists[recoded.Choice.Type.ListId!].Values
                .Select(v => Value.Of(recoded.Values.TryGetValue(v.Id, out var counterpart) && at.Includes(model.Index.Values[counterpart].Value))).ToArray();
            if (values.Any(v => !v.IsTrue))
                tests.Add(nodes.Where(rows.Condition(occurrence, input),
                    nodes.Make(new Node(Operator.Property, [expressions.Of(parent.Prefix, recoded.Choice)]) { PropertyValues = values }, DomainKind.YesNo)));
        }
        else if (input.Kind is AttributeKind.Whole or AttributeKind.Quantity)
        {
            var unit = input.Kind == AttributeKind.Quantity ? Unit.Parse(input.Unit) : Unit.One;
            tests.Add(nodes.Make(Operator.LessOrEqual, DomainKind.YesNo, nodes.Constant(Value.Of(unit.ToBase(Exact.Parse(input.Min!)))), node));
            tests.Add(nodes.Make(Operator.LessOrEqual, DomainKind.YesNo, node, nodes.Constant(Value.Of(unit.ToBase(Exact.Parse(input.Max!))))));
        }
        if (tests.Count == 0)
            return;
        // All instances are given the same, by one field.
        if (!_groupsOfInputs.TryGetValue((parent.Prefix, place.Id, given.Field), out var group))
            _groupsOfInputs[(parent.Prefix, place.Id, given.Field)] = group = rows.NewGroup(CauseKind.Bound, place, given.Field, parent);
        foreach (var test in tests)
            rows.Roots.Add((test, Outcomes.True | Outcomes.Absent, group));
    }

    /// <summary>The bounds on how many values several choices have, where they apply.</summary>
    public void HowMany(Occurrence occurrence, AttributeRow row)
    {
        int[] members = [.. model.Index.Lists[row.ListId!].Values.Select(v => rows.Path(RowPath.OfMember(occurrence.Prefix + row.Id, v.Id)))];
        foreach (var (field, text, kind) in new[] { ("min", row.Min, CountingKind.AtLeast), ("max", row.Max, CountingKind.AtMost) })
            if (text is { Length: > 0 } && (int)Exact.Parse(text).Numerator is var count && (kind == CountingKind.AtLeast ? count > 0 : count < members.Length))
                rows.Roots.Add((nodes.Make(new Node(Operator.Counting, members) { Count = count, CountingKind = kind }, DomainKind.YesNo),
                    Outcomes.True | Outcomes.Absent, rows.NewGroup(CauseKind.Bound, row, field, occurrence)));
        if (model.Expression(row.Id, "lower") is null && model.Expression(row.Id, "upper") is null)
            return;
        var number = members.Select(m => nodes.Make(Operator.ToNumber, DomainKind.Number, m))
            .Aggregate((a, b) => nodes.Make(Operator.Add, DomainKind.Number, a, b));
        Bounds(occurrence, row, number);
    }

    public void Bounds(Occurrence occurrence, AttributeRow row, int node)
    {
        foreach (var field in new[] { "lower", "upper" })
            if (model.Expression(row.Id, field) is { } bound)
            {
                var limit = expressions.Of(occurrence.Prefix, bound);
                var test = field == "lower" ? nodes.Make(Operator.LessOrEqual, DomainKind.YesNo, limit, node) : nodes
                    .Make(Operator.LessOrEqual, DomainKind.YesNo, node, limit);
                rows.Roots.Add((test, Outcomes.True | Outcomes.Absent, rows.NewGroup(CauseKind.Bound, row, field, occurrence)));
            }
    }

    /// <summary>The truth of a rule, resting where its own condition does not hold.</summary>
    public int? Rule(Occurrence occurrence, Row row)
    {
        int Of(string field) => expressions.Of(occurrence.Prefix, model.Expression(row.Id, field)!);
        int? truth;
        switch (row)
        {
            case StatementRule:
                truth = Of("expression");
                break;
            case RequiresRule:
                truth = nodes.Make(Operator.Or, DomainKind.YesNo, nodes.Make(Operator.Not, DomainKind.YesNo, Of("when")), Of("then"));
                break;
            case ExcludesRule:
                truth = nodes.Make(Operator.Not, DomainKind.YesNo, nodes.Make(Operator.And, DomainKind.YesNo, Of("when"), Of("then")));
                break;
            case LimitRule:
                truth = null;
                var of = Of("of");
                if (model.Expression(row.Id, "lower") is not null)
                    truth = nodes.Make(Operator.LessOrEqual, DomainKind.YesNo, Of("lower"), of);
                if (model.Expression(row.Id, "upper") is not null)
                {
                    var upper = nodes.Make(Operator.LessOrEqual, DomainKind.YesNo, of, Of("upper"));
                    truth = truth is { } lower ? nodes.Make(Operator.And, DomainKind.YesNo, lower, upper) : upper;
                }
                break;
            case CombinationGrid grid when model.Grid(grid.Id) is { } bound:
                var keys = bound.Keys.Select(k => expressions.Of(occurrence.Prefix, k)).ToArray();
                truth = nodes.Make(new Node(Operator.Table, keys) { Grid = expressions.Compile(grid.Id, bound) }, DomainKind.YesNo);
                break;
            default:
                return null;
        }
        if (truth is not { } found)
            return null;
        var condition = rows.Condition(occurrence, row);
        return nodes.Where(condition, found);
    }
}
