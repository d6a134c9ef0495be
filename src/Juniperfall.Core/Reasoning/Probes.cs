using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>What a network is asked beside its configurations.</summary>
internal enum NetworkExtras
{
    Nothing,

    /// <summary>What a structure costs and weighs as a whole.</summary>
    Goals,

    /// <summary>What lines, conditions and grid rows can come to.</summary>
    Outcomes,

    /// <summary>What can be reached that cannot be computed: here that makes no combination invalid.</summary>
    Errors,
}

internal enum ProbeKind { LineIn, LineOut, PlaceIn, RuleApplies, NumberNegative, NumberZero, NumberMissing, GridRow, Error }

/// <summary>Whether a node can come out as wanted in some configuration. It is no other node's child.</summary>
internal sealed record Probe(ProbeKind Kind, Row Row, Occurrence Occurrence, string Field, int Node, Outcomes Wanted);

/// <summary>The nodes that are only there to be asked.</summary>
internal sealed partial class NetworkBuilder
{
    /// <summary>Longer grids are not asked row by row.</summary>
    internal const int MostProbedRows = 2_000;

    private readonly List<Probe> _probes = [];

    private void AddProbes(IEnumerable<Occurrence> occurrences, List<CompiledLine> lines, List<CompiledComputed> computed)
    {
        int Holds(int node) => Make(Operator.Holds, DomainKind.YesNo, node);
        int Not(int node) => Make(Operator.Not, DomainKind.YesNo, node);
        int And(int a, int b) => Make(Operator.And, DomainKind.YesNo, a, b);
        void Add(ProbeKind kind, Row row, Occurrence at, string field, int node, Outcomes wanted = Outcomes.True) => _probes.Add(new(kind, row, at, field, node, wanted));

        var zero = Constant(Value.Of(Exact.Zero));
        foreach (var line in lines)
        {
            if (_extras == NetworkExtras.Outcomes)
            {
                Add(ProbeKind.LineIn, line.Row, line.Occurrence, "appliesWhen", Holds(line.Condition));
                if (line.Row.AppliesWhen.Length > 0)
                    Add(ProbeKind.LineOut, line.Row, line.Occurrence, "appliesWhen", Not(Holds(line.Condition)));
            }
            foreach (var (field, number) in line.Numbers.Where(n => _nodes[n.Value].Operator != Operator.Constant))
            {
                var there = Holds(line.Condition);
                var known = Make(Operator.Equal, DomainKind.YesNo, number, number);
                if (_extras == NetworkExtras.Errors)
                {
                    Add(ProbeKind.Error, line.Row, line.Occurrence, field, And(there, known), Outcomes.Error);
                    continue;
                }
                Add(ProbeKind.NumberNegative, line.Row, line.Occurrence, field, And(there, Holds(Make(Operator.Less, DomainKind.YesNo, number, zero))));
                Add(ProbeKind.NumberMissing, line.Row, line.Occurrence, field, And(there, Not(Holds(known))));
                if (field is "quantity" or "run")
                    Add(ProbeKind.NumberZero, line.Row, line.Occurrence, field, And(there, Holds(Make(Operator.Equal, DomainKind.YesNo, number, zero))));
            }
        }
        foreach (var occurrence in occurrences)
            foreach (var row in Rows(occurrence).Where(r => r is not AttributeRow))
                if (PriceFields.Of(row) is { } field && _model.Expression(row.Id, field) is { } expression)
                {
                    var (there, amount) = (Holds(Condition(occurrence, row)), Expression(occurrence.Prefix, expression));
                    if (_extras == NetworkExtras.Errors && _nodes[amount].Operator != Operator.Constant)
                        Add(ProbeKind.Error, row, occurrence, field, And(there, Make(Operator.Equal, DomainKind.YesNo, amount, amount)), Outcomes.Error);
                    else if (_extras == NetworkExtras.Outcomes && row is PriceLine)
                    {
                        Add(ProbeKind.LineIn, row, occurrence, "appliesWhen", there);
                        if (row.AppliesWhen.Length > 0)
                            Add(ProbeKind.LineOut, row, occurrence, "appliesWhen", Not(there));
                    }
                }
        if (_extras == NetworkExtras.Errors)
        {
            foreach (var one in computed)
                Add(ProbeKind.Error, one.Row, one.Occurrence, "expression",
                    Make(one.Type.Kind switch { Language.TypeKind.Number => Operator.Equal, Language.TypeKind.Choice => Operator.SameChoice, _ => Operator.SameYesNo }, DomainKind.YesNo, one.Node, one.Node), Outcomes.Error);
            return;
        }
        foreach (var occurrence in occurrences)
            foreach (var row in Rows(occurrence))
                switch (row)
                {
                    case Subassembly place when occurrences.FirstOrDefault(o => o.Parent == occurrence && o.Place == place) is { } first:
                        Add(ProbeKind.PlaceIn, row, occurrence, "appliesWhen", Holds(IsThere(first)));
                        break;
                    case CombinationGrid grid when _model.Grid(grid.Id) is { } bound && bound.Rows.Length <= MostProbedRows:
                        Add(ProbeKind.RuleApplies, row, occurrence, "appliesWhen", Holds(Condition(occurrence, row)));
                        int[] keys = [.. bound.Keys.Select(k => Expression(occurrence.Prefix, k))];
                        var compiled = Compile(grid.Id, bound);
                        for (var r = 0; r < compiled.Rows.Length; r++)
                            Add(ProbeKind.GridRow, row, occurrence, $"rows/{bound.Places[r]}", Holds(Make(new Node(Operator.Table, keys) { Grid = new([compiled.Rows[r]]) }, DomainKind.YesNo)));
                        break;
                    case IRule:
                        Add(ProbeKind.RuleApplies, row, occurrence, "appliesWhen", Holds(Condition(occurrence, row)));
                        break;
                }
    }
}
