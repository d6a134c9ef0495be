using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>The nodes that are only there to be asked.</summary>
internal sealed class ProbeNodes(BoundModel model, NetworkExtras extras, NodeWriter nodes, RowNodes rows, ExpressionNodes expressions)
{
    /// <summary>Longer grids are not asked row by row.</summary>
    internal const int MostProbedRows = 2_000;

    private readonly List<Probe> _probes = [];

    public ImmutableArray<Probe> Of(IReadOnlyList<Occurrence> occurrences, List<CompiledLine> lines, List<CompiledComputed> computed)
    {
        OfLines(lines);
        OfPrices(occurrences);
        if (extras == NetworkExtras.Errors)
            OfComputed(computed);
        else
            OfRows(occurrences);
        return [.. _probes];
    }

    private void Add(ProbeKind kind, Row row, Occurrence at, string field, int node, Outcomes wanted = Outcomes.True) =>
        _probes.Add(new(kind, row, at, field, node, wanted));

    private void OfLines(List<CompiledLine> lines)
    {
        var zero = nodes.Of(Exact.Zero);
        foreach (var line in lines)
        {
            if (extras == NetworkExtras.Outcomes)
            {
                Add(ProbeKind.LineIn, line.Row, line.Occurrence, "appliesWhen", nodes.Holds(line.Condition));
                if (line.Row.AppliesWhen.Length > 0)
                    Add(ProbeKind.LineOut, line.Row, line.Occurrence, "appliesWhen", nodes.Not(nodes.Holds(line.Condition)));
            }
            foreach (var (field, number) in line.Numbers.Where(n => nodes.Nodes[n.Value].Operator != Operator.Constant))
            {
                var there = nodes.Holds(line.Condition);
                var known = nodes.Make(Operator.Equal, DomainKind.YesNo, number, number);
                if (extras == NetworkExtras.Errors)
                {
                    Add(ProbeKind.Error, line.Row, line.Occurrence, field, nodes.And(there, known), Outcomes.Error);
                    continue;
                }
                Add(ProbeKind.NumberNegative, line.Row, line.Occurrence, field,
                    nodes.And(there, nodes.Holds(nodes.Make(Operator.Less, DomainKind.YesNo, number, zero))));
                Add(ProbeKind.NumberMissing, line.Row, line.Occurrence, field, nodes.And(there, nodes.Not(nodes.Holds(known))));
                if (field is "quantity" or "run")
                    Add(ProbeKind.NumberZero, line.Row, line.Occurrence, field,
                        nodes.And(there, nodes.Holds(nodes.Make(Operator.Equal, DomainKind.YesNo, number, zero))));
            }
        }
    }

    private void OfPrices(IEnumerable<Occurrence> occurrences)
    {
        foreach (var occurrence in occurrences)
            foreach (var row in rows.Rows(occurrence).Where(r => r is not AttributeRow))
                if (PriceFields.Of(row) is { } field && model.Expression(row.Id, field) is { } expression)
                {
                    var (there, amount) = (nodes.Holds(rows.Condition(occurrence, row)), expressions.Of(occurrence.Prefix, expression));
                    if (extras == NetworkExtras.Errors && nodes.Nodes[amount].Operator != Operator.Constant)
                        Add(ProbeKind.Error, row, occurrence, field, nodes.And(there, nodes.Make(Operator.Equal, DomainKind.YesNo, amount, amount)),
                            Outcomes.Error);
                    else if (extras == NetworkExtras.Outcomes && row is PriceLine)
                    {
                        Add(ProbeKind.LineIn, row, occurrence, "appliesWhen", there);
                        if (row.AppliesWhen.Length > 0)
                            Add(ProbeKind.LineOut, row, occurrence, "appliesWhen", nodes.Not(there));
                    }
                }
    }

    private void OfComputed(List<CompiledComputed> computed)
    {
        foreach (var one in computed)
            Add(ProbeKind.Error, one.Row, one.Occurrence, "expression",
                nodes.Make(one.Type.Kind switch { TypeKind.Number => Operator.Equal, TypeKind.Choice => Operator.SameChoice, _ => Operator.SameYesNo },
                    DomainKind.YesNo, one.Node, one.Node), Outcomes.Error);
    }

    private void OfRows(IReadOnlyList<Occurrence> occurrences)
    {
        foreach (var occurrence in occurrences)
            foreach (var row in rows.Rows(occurrence))
                switch (row)
                {
                    case Subassembly place when occurrences.FirstOrDefault(o => o.Parent == occurrence && o.Place == place) is { } first:
                        Add(ProbeKind.PlaceIn, row, occurrence, "appliesWhen", nodes.Holds(rows.IsThere(first)));
                        break;
                    case CombinationGrid grid when model.Grid(grid.Id) is { } bound && bound.Rows.Length <= MostProbedRows:
                        Add(ProbeKind.RuleApplies, row, occurrence, "appliesWhen", nodes.Holds(rows.Condition(occurrence, row)));
                        int[] keys = [.. bound.Keys.Select(k => expressions.Of(occurrence.Prefix, k))];
                        var compiled = expressions.Compile(grid.Id, bound);
                        for (var r = 0; r < compiled.Rows.Length; r++)
                            Add(ProbeKind.GridRow, row, occurrence, $"rows/{bound.Places[r]}",
                                nodes.Holds(nodes.Make(new Node(Operator.Table, keys) { Grid = new([compiled.Rows[r]]) }, DomainKind.YesNo)));
                        break;
                    case IRule:
                        Add(ProbeKind.RuleApplies, row, occurrence, "appliesWhen", nodes.Holds(rows.Condition(occurrence, row)));
                        break;
                }
    }
}
