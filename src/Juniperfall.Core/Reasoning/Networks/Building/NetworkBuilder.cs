using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>Instantiates a bound model and writes it as a network. Equal subexpressions are one node.</summary>
internal sealed class NetworkBuilder
{
    private readonly BoundModel _model;
    private readonly NetworkExtras _extras;
    private readonly List<Occurrence> _occurrences;
    private readonly NodeWriter _nodes;
    private readonly RowNodes _rows;
    private readonly ExpressionNodes _expressions;
    private readonly ConstraintNodes _constraints;
    private readonly List<CompiledLine> _lines = [];
    private readonly List<CompiledComputed> _computed = [];
    private readonly List<CompiledAdvice> _advice = [];

    private NetworkBuilder(BoundModel model, Effectivity at, Alike? alike, NetworkExtras extras, CancellationToken cancel)
    {
        (_model, _extras, _occurrences) = (model, extras, [.. Occurrence.All(model)]);
        _nodes = new(model.Index, cancel);
        _expressions = new(model, _nodes);
        _rows = new(model, at, alike, _nodes) { Expressions = _expressions };
        _expressions.Rows = _rows;
        _constraints = new(model, at, extras, _nodes, _rows, _expressions);
        _rows.TakeIn(_occurrences);
    }

    /// <param name="alike">Instances that are to be there and alike; null leaves all as the model says.</param>
    /// <param name="extras">What is to be asked of it beside its configurations.</param>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static Network Build(BoundModel model, Effectivity at, Alike? alike = null, NetworkExtras extras = NetworkExtras.Nothing,
        CancellationToken cancel = default) =>
        new NetworkBuilder(model, at, alike, extras, cancel).Build(at, alike);

    private Network Build(Effectivity at, Alike? alike)
    {
        WriteInOrder();
        foreach (var occurrence in _occurrences)
            foreach (var row in _rows.Rows(occurrence))
                Write(occurrence, row);
        var probes = _extras is NetworkExtras.Outcomes or NetworkExtras.Errors
            ? new ProbeNodes(_model, _extras, _nodes, _rows, _expressions).Of(_occurrences, _lines, _computed) : [];
        var goals = _extras == NetworkExtras.Goals && _occurrences.Count > 0 ? GoalNodes.Of(_model, at, _nodes, _rows, _expressions, _occurrences[0]) : [];
        if (_extras == NetworkExtras.Goals)
            probes = [.. GoalNodes.Probes(_model, _nodes, _occurrences, goals)];
        foreach (var (prefix, isThere) in alike?.There ?? [])
            _rows.Roots.Add((_rows.IsThere(_rows.Occurrences[prefix]), isThere ? Outcomes.True : ~Outcomes.True, -1));
        var interchangeable = InterchangeableInstances.Of(_model, _rows.Variables);
        int[][] orders = [.. interchangeable.Select(instances => instances.Skip(1).Select((next, i) => InOrder(instances[i], next)).ToArray())];
        return new()
        {
            Model = _model,
            Nodes = [.. _nodes.Nodes],
            Initial = [.. _nodes.Domains],
            Variables = [.. _rows.Variables],
            Groups = [.. _rows.Groups],
            Roots = [.. _rows.Roots],
            ConditionOfPath = _rows.Conditions,
            Lines = [.. _lines],
            Computed = [.. _computed],
            Advice = [.. _advice],
            Texts = [.. _occurrences.SelectMany(o => _rows.Rows(o).OfType<AttributeRow>().Where(r => r.Kind == AttributeKind.Text).Select(r => (o, r)))],
            Probes = probes,
            Goals = goals,
            Interchangeable = interchangeable,
            Orders = orders,
        };
    }

    /// <summary>Writes what others are computed from before them, so that no chain of rows becomes a chain of calls.</summary>
    private void WriteInOrder()
    {
        foreach (var path in _model.Order)
            if (_rows.Occurrences.TryGetValue(RowPath.Prefix(path), out var occurrence) && _model.Index.Rows.TryGetValue(RowPath.RowId(path), out var row)
                && _rows.TakesPart(row))
                switch (row)
                {
                    case AttributeRow { Kind: AttributeKind.Several } several:
                        foreach (var value in _model.Index.Lists[several.ListId!].Values)
                            _rows.Path(RowPath.OfMember(path, value.Id));
                        break;
                    case AttributeRow { Kind: AttributeKind.Text } or Subassembly:
                        _rows.Condition(occurrence, row);
                        break;
                    case AttributeRow or ComputedAttribute:
                        _rows.Path(path);
                        break;
                }
    }

    private void Write(Occurrence occurrence, Row row)
    {
        switch (row)
        {
            case AttributeRow { Kind: AttributeKind.Several } several:
                _constraints.HowMany(occurrence, several);
                break;
            case AttributeRow attribute when attribute.Kind != AttributeKind.Text:
                _constraints.Bounds(occurrence, attribute, _rows.Path(occurrence.Prefix + attribute.Id));
                if (attribute.Input && occurrence.Place is { } above && _model.GivenTo(above, attribute) is { } given)
                    _constraints.AsGiven(occurrence, above, attribute, given);
                break;
            case Subassembly place when _model.Expression(place.Id, "instanceCount") is { } count:
                // There cannot be more than there are instances for.
                _rows.Roots.Add((_nodes.Make(Operator.LessOrEqual, DomainKind.YesNo, _expressions.Of(occurrence.Prefix, count),
                    _nodes.Of(ModelIndex.InstancesOf(place).Length)),
                    Outcomes.True | Outcomes.Absent, _rows.NewGroup(CauseKind.Bound, place, "instanceCount", occurrence)));
                break;
            case ComputedAttribute c when _rows.Known(occurrence.Prefix + c.Id) is { } node:
                _computed.Add(new(occurrence, c, _model.TypeOf(c)!.Value, node));
                // A combination for which a computed value cannot be computed is not valid.
                if (_extras != NetworkExtras.Errors)
                    _rows.Roots.Add((node, ~Outcomes.Error, -1));
                break;
            case PartLine or OperationLine:
                _lines.Add(Line(occurrence, row));
                break;
            case PriceLine:
                // A combination for which a condition cannot be computed is not valid, whatever hangs on it.
                _rows.Condition(occurrence, row);
                break;
            case IRule rule when _constraints.Rule(occurrence, row) is { } truth:
                if (rule.Strength == RuleStrength.Advice)
                    _advice.Add(new(occurrence, row, truth));
                else
                    _rows.Roots.Add((truth, Outcomes.True | Outcomes.Absent | (_extras == NetworkExtras.Errors ? Outcomes.Error : 0),
                        _rows.NewGroup(CauseKind.Rule, row, "", occurrence)));
                break;
        }
    }

    private CompiledLine Line(Occurrence occurrence, Row row)
    {
        var numbers = ImmutableSortedDictionary.CreateBuilder<string, int>();
        foreach (var field in new[] { "quantity", "setup", "run", "queue" })
            if (_model.Expression(row.Id, field) is { } expression)
                numbers[field] = _expressions.Of(occurrence.Prefix, expression);
        return new(occurrence, row, _rows.Condition(occurrence, row), numbers.ToImmutable());
    }

    /// <summary>The node that says that the variables of an instance come before those of the next one in lexicographic order.</summary>
    private int InOrder(int[] variables, int[] next)
    {
        var node = _nodes.Make(Operator.InOrder, DomainKind.YesNo, [.. variables.Concat(next).Select(v => _rows.Variables[v].Node)]);
        _nodes.Domains[node] = Domain<ExactEnd>.YesNo(Outcomes.True | Outcomes.False);
        return node;
    }
}
