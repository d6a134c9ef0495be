using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Networks.Building;

/// <summary>
/// The nodes of rows in their places: whether a row is there, what an attribute has. All that is made on the way is collected: variables,
/// groups and what has to hold.
/// </summary>
/// <param name="alike">Instances that are to be there and alike; null leaves all as the model says.</param>
internal sealed class RowNodes(BoundModel model, Effectivity at, Alike? alike, NodeWriter nodes)
{
    private readonly Dictionary<string, int> _byPath = [];
    private readonly Dictionary<string, int> _instances = [];
    private readonly Dictionary<string, (Occurrence Occurrence, NamedRow Row)> _rows = [];

    public Dictionary<string, Occurrence> Occurrences { get; } = [];
    public List<Variable> Variables { get; } = [];
    public List<Group> Groups { get; } = [];

    /// <summary>What has to hold: the node, its outcomes, and the group that asks for it (−1: in any case).</summary>
    public List<(int Node, Outcomes Allowed, int Group)> Roots { get; } = [];

    /// <summary>By path, the node that says whether a row is there.</summary>
    public Dictionary<string, int> Conditions { get; } = [];

    /// <summary>Writes the expressions that rows have.</summary>
    public required ExpressionNodes Expressions { get; init; }

    /// <summary>Takes in the places where rows stand; only after that they are found.</summary>
    public void TakeIn(IEnumerable<Occurrence> occurrences)
    {
        foreach (var occurrence in occurrences)
        {
            Occurrences[occurrence.Prefix] = occurrence;
            foreach (var row in Rows(occurrence).OfType<NamedRow>())
                _rows[occurrence.Prefix + row.Id] = (occurrence, row);
        }
    }

    /// <summary>The rows of a place that hold at the site and day, and are sound.</summary>
    public IEnumerable<Row> Rows(Occurrence occurrence) => occurrence.Assembly.Rows.Where(TakesPart);

    public bool TakesPart(Row row) => model.IsSound(row) && at.Includes(row);

    /// <summary>An operation by its id; null where there is none that takes part.</summary>
    public OperationLine? Operation(string? id) => id is not null && model.Index.Rows.GetValueOrDefault(id) is OperationLine operation
        && TakesPart(operation) ? operation : null;

    /// <summary>The places below one in which a subassembly stands.</summary>
    public IEnumerable<Occurrence> Below(Occurrence occurrence, Subassembly place) => Occurrences.Values.Where(o => o.Parent == occurrence && o.Place == place);

    /// <summary>The node of an attribute; null where none was written.</summary>
    public int? Known(string path) => _byPath.TryGetValue(path, out var node) ? node : null;

    public int NewGroup(CauseKind kind, Row row, string field, Occurrence occurrence)
    {
        Groups.Add(new(Groups.Count, kind, row, field, occurrence));
        return Groups.Count - 1;
    }

    /// <summary>The node of a field of a row; a number where it is left empty.</summary>
    public int Field(Occurrence occurrence, Row row, string field, Exact whenEmpty) =>
        model.Expression(row.Id, field) is { } expression ? Expressions.Of(occurrence.Prefix, expression) : nodes.Of(whenEmpty);

    /// <summary>The node that says whether a row is there: its own condition and that of every subassembly above it.</summary>
    public int Condition(Occurrence occurrence, Row row)
    {
        var path = occurrence.Prefix + row.Id;
        if (Conditions.TryGetValue(path, out var known))
            return known;
        var outer = IsThere(occurrence);
        var own = model.Expression(row.Id, "appliesWhen");
        var result = outer;
        if (!at.Includes(row))
            result = nodes.Constant(Value.Of(false));
        else if (own is not null)
        {
            var holds = nodes.Holds(Expressions.Of(occurrence.Prefix, own));
            result = nodes.And(outer, holds);
            Roots.Add((holds, ~Outcomes.Error, -1));
        }
        return Conditions[path] = result;
    }

    /// <summary>The node that says whether an occurrence is there: the subassembly applies, and there are so many of it.</summary>
    public int IsThere(Occurrence occurrence)
    {
        if (occurrence.Place is not { } place)
            return nodes.True;
        if (_instances.TryGetValue(occurrence.Prefix, out var known))
            return known;
        var there = Condition(occurrence.Parent!, place);
        if (at.Includes(place) && model.Expression(place.Id, "instanceCount") is { } count)
        {
            var enough = nodes.Holds(nodes
                .Make(Operator.LessOrEqual, DomainKind.YesNo, nodes.Constant(Value.Of((Exact)occurrence.Number)),
                Expressions.Of(occurrence.Parent!.Prefix, count)));
            Roots.Add((enough, ~Outcomes.Error, -1));
            there = nodes.And(there, enough);
        }
        return _instances[occurrence.Prefix] = there;
    }

    /// <summary>The node of what is asked or computed at a path.</summary>
    public int Path(string path)
    {
        if (_byPath.TryGetValue(path, out var known))
            return known;
        // What does not hold at this site or date has no value, like everything that does not apply.
        if (!_rows.TryGetValue(RowPath.OfRow(path), out var found))
            return _byPath[path] = AbsentLike(model.Index.Rows[RowPath.RowId(path)]);
        var (occurrence, row) = found;
        if (alike?.SameAs(path) is { } same)
            return _byPath[path] = Path(same);
        var condition = Condition(occurrence, row);
        if (row is AttributeRow { Input: true } && occurrence.Place is { } place && model.GivenTo(place, row) is { } given)
            return _byPath[path] = nodes.Where(condition, Expressions.Of(occurrence.Parent!.Prefix, given.Value));
        if (row is ComputedAttribute)
            return _byPath[path] = nodes.Where(condition, Expressions.Of(occurrence.Prefix, model.Expression(row.Id, "expression")!));
        return NewVariable(occurrence, (AttributeRow)row, condition, path);
    }

    private int AbsentLike(Row row)
    {
        var node = nodes.Constant(Value.Of(Exact.Zero));
        var type = row is NamedRow named ? model.TypeOf(named) : null;
        nodes.Domains[node] = type?.Kind switch
        {
            TypeKind.Choice => Domain<ExactEnd>.Choice(BitSet.Full(model.Index.Lists[type.Value.ListId!].Values.Length), Outcomes.Absent),
            TypeKind.Number => Domain<ExactEnd>.Number(Interval<ExactEnd>.All, Outcomes.Absent),
            _ => Domain<ExactEnd>.YesNo(Outcomes.Absent),
        };
        return node;
    }

    private int NewVariable(Occurrence occurrence, AttributeRow row, int condition, string path)
    {
        var member = RowPath.MemberId(path) is { } id ? model.Index.Values[id].Value : null;
        var list = row.ListId is null ? null : model.Index.Lists.GetValueOrDefault(row.ListId);
        var unit = row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        var step = row.Kind == AttributeKind.Quantity ? Exact.Parse(row.Step!) : row.Kind == AttributeKind.Whole ? Exact.Parse(row.Step ?? "1") : Exact.One;
        var outcomes = Outcomes.Absent | (row.Required || member is not null ? 0 : Outcomes.None);
        var initial = new VariableDomain(DomainKind.YesNo, outcomes | (member is null || at.Includes(member) ? Outcomes.True : 0) | Outcomes.False, 0, 0, null);
        if (row.Kind == AttributeKind.Choice)
        {
            var bits = new ulong[(list!.Values.Length + 63) / 64];
            for (var i = 0; i < list.Values.Length; i++)
                if (at.Includes(list.Values[i]))
                    BitSet.Set(bits, i);
            initial = new(DomainKind.Choice, outcomes | (BitSet.Count(bits) > 0 ? Outcomes.Present : 0), 0, 0, bits);
        }
        else if (row.Kind is not (AttributeKind.YesNo or AttributeKind.Several))
            initial = new(DomainKind.Number, outcomes | Outcomes.Present, (long)(Exact.Parse(row.Min!) / step).Ceiling().Numerator,
                (long)(Exact.Parse(row.Max!) / step).Floor().Numerator, null);
        var node = nodes.Nodes.Count;
        var variable = new Variable(Variables.Count, node, path, occurrence, row, list, unit, step * unit.Factor, unit.Offset, initial) { Member = member };
        Variables.Add(variable);
        nodes.Nodes.Add(new(Operator.Variable, []) { Variable = variable });
        nodes.Domains.Add(new() { Kind = initial.Kind, Outcomes = initial.Outcomes, First = initial.First, Last = initial.Last, Bits = initial.Bits });
        _byPath[path] = node;
        // All values of several choices apply together, by one condition.
        var group = condition == nodes.True ? -1
            : member is not null && Groups.Count > 0 && Groups[^1] is { Kind: CauseKind.Condition } last && last.Row == row
                && last.Occurrence == occurrence ? last.Index
            : NewGroup(CauseKind.Condition, row, "appliesWhen", occurrence);
        nodes.Nodes.Add(new(Operator.Presence, [condition, node]) { Group = group });
        nodes.Domains.Add(Domain<ExactEnd>.YesNo(Outcomes.True));
        return node;
    }
}
