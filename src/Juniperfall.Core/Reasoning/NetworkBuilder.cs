using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Counting;

namespace Juniperfall.Core.Reasoning;

/// <summary>Instantiates a bound model and writes it as a network. Equal subexpressions are one node.</summary>
internal sealed partial class NetworkBuilder
{
    private readonly BoundModel _model;
    private readonly Effectivity _at;
    private readonly List<Node> _nodes = [];
    private readonly List<Domain<ExactEnd>> _domains = [];
    private readonly List<Variable> _variables = [];
    private readonly List<Group> _groups = [];
    private readonly List<(int, Outcomes, int)> _roots = [];
    private readonly Dictionary<string, int> _byPath = [];
    private readonly Dictionary<string, int> _conditions = [];
    private readonly Dictionary<string, int> _instances = [];
    private readonly Dictionary<(string Prefix, Bound Expression), int> _shared = [];
    private readonly Dictionary<string, (Occurrence Occurrence, NamedRow Row)> _rows = [];
    private readonly Dictionary<string, Occurrence> _occurrences = [];
    private readonly Dictionary<string, CompiledGrid> _grids = [];
    private readonly Dictionary<string, Dictionary<string, int>> _valueIndexes = [];
    private readonly int _true;

    private readonly Alike? _alike;
    private readonly NetworkExtras _extras;

    private readonly CancellationToken _cancel;

    private NetworkBuilder(BoundModel model, Effectivity at, Alike? alike, NetworkExtras extras, CancellationToken cancel)
    {
        (_model, _at, _alike, _extras, _cancel) = (model, at, alike, extras, cancel);
        _true = Constant(Value.Of(true));
    }

    /// <param name="alike">Instances that are to be there and alike; null leaves all as the model says.</param>
    /// <param name="extras">What is to be asked of it beside its configurations.</param>
    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static Network Build(BoundModel model, Effectivity at, Alike? alike = null, NetworkExtras extras = NetworkExtras.Nothing, CancellationToken cancel = default) =>
        new NetworkBuilder(model, at, alike, extras, cancel).Build();

    private Network Build()
    {
        var occurrences = Occurrence.All(_model).ToList();
        foreach (var occurrence in occurrences)
        {
            _occurrences[occurrence.Prefix] = occurrence;
            foreach (var row in Rows(occurrence).OfType<NamedRow>())
                _rows[occurrence.Prefix + row.Id] = (occurrence, row);
        }
        var lines = new List<CompiledLine>();
        var computed = new List<CompiledComputed>();
        var advice = new List<CompiledAdvice>();
        var texts = new List<(Occurrence, AttributeRow)>();
        // What others are computed from is written before them, so that no chain of rows becomes a chain of calls.
        foreach (var path in _model.Order)
            if (_occurrences.TryGetValue(RowPath.Prefix(path), out var occurrence) && _model.Index.Rows.TryGetValue(RowPath.RowId(path), out var row) && TakesPart(row))
                switch (row)
                {
                    case AttributeRow { Type: AttributeType.Several } several:
                        foreach (var value in _model.Index.Lists[several.ListId!].Values)
                            Path(RowPath.OfMember(path, value.Id));
                        break;
                    case AttributeRow { Type: AttributeType.Text } or Subassembly:
                        Condition(occurrence, row);
                        break;
                    case AttributeRow or ComputedAttribute:
                        Path(path);
                        break;
                }
        texts.AddRange(occurrences.SelectMany(o => Rows(o).OfType<AttributeRow>().Where(r => r.Type == AttributeType.Text).Select(r => (o, r))));
        foreach (var occurrence in occurrences)
            foreach (var row in Rows(occurrence))
                switch (row)
                {
                    case AttributeRow { Type: AttributeType.Several } several:
                        HowMany(occurrence, several);
                        break;
                    case AttributeRow attribute when attribute.Type != AttributeType.Text:
                        Bounds(occurrence, attribute, Path(occurrence.Prefix + attribute.Id));
                        if (attribute.Input && occurrence.Place is { } above && _model.GivenTo(above, attribute) is { } given)
                            AsGiven(occurrence, above, attribute, given);
                        break;
                    case Subassembly place when _model.Expression(place.Id, "instanceCount") is { } count:
                        // There cannot be more than there are instances for.
                        _roots.Add((Make(Operator.LessOrEqual, DomainKind.YesNo, Expression(occurrence.Prefix, count), Constant(Value.Of((Exact)ModelIndex.InstancesOf(place).Length))),
                            Outcomes.True | Outcomes.Absent, NewGroup(CauseKind.Bound, place, "instanceCount", occurrence)));
                        break;
                    case ComputedAttribute c when _byPath.TryGetValue(occurrence.Prefix + c.Id, out var node):
                        computed.Add(new(occurrence, c, _model.TypeOf(c)!.Value, node));
                        // A combination for which a computed value cannot be computed is not valid.
                        if (_extras != NetworkExtras.Errors)
                            _roots.Add((node, ~Outcomes.Error, -1));
                        break;
                    case PartLine or OperationLine:
                        lines.Add(Line(occurrence, row));
                        break;
                    case PriceLine:
                        // A combination for which a condition cannot be computed is not valid, whatever hangs on it.
                        Condition(occurrence, row);
                        break;
                    case IRule rule when Rule(occurrence, row) is { } truth:
                        if (rule.Strength == RuleStrength.Advice)
                            advice.Add(new(occurrence, row, truth));
                        else
                            _roots.Add((truth, Outcomes.True | Outcomes.Absent | (_extras == NetworkExtras.Errors ? Outcomes.Error : 0), NewGroup(CauseKind.Rule, row, "", occurrence)));
                        break;
                }
        if (_extras is NetworkExtras.Outcomes or NetworkExtras.Errors)
            AddProbes(occurrences, lines, computed);
        if (_extras == NetworkExtras.Goals && occurrences.Count > 0)
            AddGoals(occurrences[0]);
        foreach (var (prefix, isThere) in _alike?.There ?? [])
            _roots.Add((IsThere(_occurrences[prefix]), isThere ? Outcomes.True : ~Outcomes.True, -1));
        var interchangeable = InterchangeableInstances.Of(_model, _variables);
        int[][] orders = [.. interchangeable.Select(instances => instances.Skip(1).Select((next, i) => InOrder(instances[i], next)).ToArray())];
        return new()
        {
            Model = _model,
            Nodes = [.. _nodes],
            Initial = [.. _domains],
            Variables = [.. _variables],
            Groups = [.. _groups],
            Roots = [.. _roots],
            ConditionOfPath = _conditions,
            Lines = [.. lines],
            Computed = [.. computed],
            Advice = [.. advice],
            Texts = [.. texts],
            Probes = [.. _probes],
            Goals = _goals,
            Interchangeable = interchangeable,
            Orders = orders,
        };
    }

    private IEnumerable<Row> Rows(Occurrence occurrence) =>
        occurrence.Assembly.Rows.Where(TakesPart);

    private bool TakesPart(Row row) => _model.IsSound(row) && _at.Includes(row);

    private int NewGroup(CauseKind kind, Row row, string field, Occurrence occurrence)
    {
        _groups.Add(new(_groups.Count, kind, row, field, occurrence));
        return _groups.Count - 1;
    }

    private int Make(Operator op, DomainKind kind, params int[] children) => Make(new Node(op, children), kind);

    private int Make(Node node, DomainKind kind, ulong[]? bits = null)
    {
        _cancel.ThrowIfCancellationRequested();
        _nodes.Add(node);
        const Outcomes any = Outcomes.Absent | Outcomes.Error;
        _domains.Add(kind switch
        {
            DomainKind.YesNo => Domain<ExactEnd>.YesNo(any | Outcomes.True | Outcomes.False),
            DomainKind.Number => Domain<ExactEnd>.Number(Interval<ExactEnd>.All, any | Outcomes.Present),
            _ => Domain<ExactEnd>.Choice(bits!, any | Outcomes.Present),
        });
        return _nodes.Count - 1;
    }

    private int InOrder(int[] variables, int[] next)
    {
        var node = Make(Operator.InOrder, DomainKind.YesNo, [.. variables.Concat(next).Select(v => _variables[v].Node)]);
        _domains[node] = Domain<ExactEnd>.YesNo(Outcomes.True | Outcomes.False);
        return node;
    }

    private int Constant(Value value, string? listId = null)
    {
        _nodes.Add(new(Operator.Constant, []));
        _domains.Add(value.Kind switch
        {
            ValueKind.YesNo => Domain<ExactEnd>.YesNo(value.IsTrue ? Outcomes.True : Outcomes.False),
            ValueKind.Number => Domain<ExactEnd>.Number(Interval<ExactEnd>.Around(value.Number)),
            ValueKind.Choice => Domain<ExactEnd>.Choice(BitSet.Single(_model.Index.Lists[listId!].Values.Length, ValueIndex(listId!, value.Text!))),
            _ => throw new InvalidOperationException("Texts are not reasoned about."),
        });
        return _nodes.Count - 1;
    }

    private int ValueIndex(string listId, string valueId)
    {
        if (!_valueIndexes.TryGetValue(listId, out var indexes))
        {
            indexes = [];
            foreach (var (value, i) in _model.Index.Lists[listId].Values.Select((v, i) => (v, i)))
                indexes.TryAdd(value.Id, i);
            _valueIndexes[listId] = indexes;
        }
        return indexes[valueId];
    }

    /// <summary>The node that says whether a row is there: its own condition and that of every subassembly above it.</summary>
    private int Condition(Occurrence occurrence, Row row)
    {
        var path = occurrence.Prefix + row.Id;
        if (_conditions.TryGetValue(path, out var known))
            return known;
        var outer = IsThere(occurrence);
        var own = _model.Expression(row.Id, "appliesWhen");
        var result = outer;
        if (!_at.Includes(row))
            result = Constant(Value.Of(false));
        else if (own is not null)
        {
            var holds = Make(Operator.Holds, DomainKind.YesNo, Expression(occurrence.Prefix, own));
            result = outer == _true ? holds : Make(Operator.And, DomainKind.YesNo, outer, holds);
            _roots.Add((holds, ~Outcomes.Error, -1));
        }
        return _conditions[path] = result;
    }

    /// <summary>The node that says whether an occurrence is there: the subassembly applies, and there are so many of it.</summary>
    private int IsThere(Occurrence occurrence)
    {
        if (occurrence.Place is not { } place)
            return _true;
        if (_instances.TryGetValue(occurrence.Prefix, out var known))
            return known;
        var there = Condition(occurrence.Parent!, place);
        if (_at.Includes(place) && _model.Expression(place.Id, "instanceCount") is { } count)
        {
            var enough = Make(Operator.Holds, DomainKind.YesNo, Make(Operator.LessOrEqual, DomainKind.YesNo, Constant(Value.Of((Exact)occurrence.Number)), Expression(occurrence.Parent!.Prefix, count)));
            _roots.Add((enough, ~Outcomes.Error, -1));
            there = there == _true ? enough : Make(Operator.And, DomainKind.YesNo, there, enough);
        }
        return _instances[occurrence.Prefix] = there;
    }

    private int Path(string path)
    {
        if (_byPath.TryGetValue(path, out var known))
            return known;
        // What does not hold at this site or date has no value, like everything that does not apply.
        if (!_rows.TryGetValue(RowPath.OfRow(path), out var found))
            return _byPath[path] = AbsentLike(_model.Index.Rows[RowPath.RowId(path)]);
        var (occurrence, row) = found;
        if (_alike?.SameAs(path) is { } same)
            return _byPath[path] = Path(same);
        var condition = Condition(occurrence, row);
        if (row is AttributeRow { Input: true } && occurrence.Place is { } place && _model.GivenTo(place, row) is { } given)
            return _byPath[path] = Guarded(condition, Expression(occurrence.Parent!.Prefix, given.Value));
        if (row is ComputedAttribute)
            return _byPath[path] = Guarded(condition, Expression(occurrence.Prefix, _model.Expression(row.Id, "expression")!));
        return NewVariable(occurrence, (AttributeRow)row, condition, path);
    }

    private readonly Dictionary<(string Prefix, string RowId, string Field), int> _groupsOfInputs = [];

    /// <summary>What an input is given can be computed, and is one of the values that it could be answered with; steps are for asking only.</summary>
    private void AsGiven(Occurrence occurrence, Subassembly place, AttributeRow input, (string Field, Bound Value) given)
    {
        var node = Path(occurrence.Prefix + input.Id);
        if (_extras != NetworkExtras.Errors)
            _roots.Add((node, ~Outcomes.Error, -1));
        var parent = occurrence.Parent!;
        List<int> tests = [];
        if (given.Value is BoundRecoded recoded)
        {
            // A counterpart that does not hold at this site or date is none.
            var values = _model.Index.Lists[recoded.Choice.Type.ListId!].Values.Select(v => Value.Of(recoded.Values.TryGetValue(v.Id, out var counterpart) && _at.Includes(_model.Index.Values[counterpart].Value))).ToArray();
            if (values.Any(v => !v.IsTrue))
                tests.Add(Guarded(Condition(occurrence, input), Make(new Node(Operator.Property, [Expression(parent.Prefix, recoded.Choice)]) { PropertyValues = values }, DomainKind.YesNo)));
        }
        else if (input.Type is AttributeType.Whole or AttributeType.Quantity)
        {
            var unit = input.Type == AttributeType.Quantity ? Unit.Parse(input.Unit) : Unit.One;
            tests.Add(Make(Operator.LessOrEqual, DomainKind.YesNo, Constant(Value.Of(unit.ToBase(Exact.Parse(input.Min!)))), node));
            tests.Add(Make(Operator.LessOrEqual, DomainKind.YesNo, node, Constant(Value.Of(unit.ToBase(Exact.Parse(input.Max!))))));
        }
        if (tests.Count == 0)
            return;
        // All instances are given the same, by one field.
        if (!_groupsOfInputs.TryGetValue((parent.Prefix, place.Id, given.Field), out var group))
            _groupsOfInputs[(parent.Prefix, place.Id, given.Field)] = group = NewGroup(CauseKind.Bound, place, given.Field, parent);
        foreach (var test in tests)
            _roots.Add((test, Outcomes.True | Outcomes.Absent, group));
    }

    private int Guarded(int condition, int value) => condition == _true ? value
        : Make(new Node(Operator.Where, [condition, value]), _domains[value].Kind, _domains[value].Bits);

    private int AbsentLike(Row row)
    {
        var node = Constant(Value.Of(Exact.Zero));
        var type = row is NamedRow named ? _model.TypeOf(named) : null;
        _domains[node] = type?.Kind switch
        {
            TypeKind.Choice => Domain<ExactEnd>.Choice(BitSet.Full(_model.Index.Lists[type.Value.ListId!].Values.Length), Outcomes.Absent),
            TypeKind.Number => Domain<ExactEnd>.Number(Interval<ExactEnd>.All, Outcomes.Absent),
            _ => Domain<ExactEnd>.YesNo(Outcomes.Absent),
        };
        return node;
    }

    private int NewVariable(Occurrence occurrence, AttributeRow row, int condition, string path)
    {
        var member = RowPath.MemberId(path) is { } id ? _model.Index.Values[id].Value : null;
        var list = row.ListId is null ? null : _model.Index.Lists.GetValueOrDefault(row.ListId);
        var unit = row.Type == AttributeType.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        var step = row.Type == AttributeType.Quantity ? Exact.Parse(row.Step!) : row.Type == AttributeType.Whole ? Exact.Parse(row.Step ?? "1") : Exact.One;
        var outcomes = Outcomes.Absent | (row.Required || member is not null ? 0 : Outcomes.None);
        var initial = new VariableDomain(DomainKind.YesNo, outcomes | (member is null || _at.Includes(member) ? Outcomes.True : 0) | Outcomes.False, 0, 0, null);
        if (row.Type == AttributeType.Choice)
        {
            var bits = new ulong[(list!.Values.Length + 63) / 64];
            for (var i = 0; i < list.Values.Length; i++)
                if (_at.Includes(list.Values[i]))
                    BitSet.Set(bits, i);
            initial = new(DomainKind.Choice, outcomes | (BitSet.Count(bits) > 0 ? Outcomes.Present : 0), 0, 0, bits);
        }
        else if (row.Type is not (AttributeType.YesNo or AttributeType.Several))
            initial = new(DomainKind.Number, outcomes | Outcomes.Present, (long)(Exact.Parse(row.Min!) / step).Ceiling().Numerator, (long)(Exact.Parse(row.Max!) / step).Floor().Numerator, null);
        var node = _nodes.Count;
        var variable = new Variable(_variables.Count, node, path, occurrence, row, list, unit, step * unit.Factor, unit.Offset, initial) { Member = member };
        _variables.Add(variable);
        _nodes.Add(new(Operator.Variable, []) { Variable = variable });
        _domains.Add(new() { Kind = initial.Kind, Outcomes = initial.Outcomes, First = initial.First, Last = initial.Last, Bits = initial.Bits });
        _byPath[path] = node;
        // All values of several choices apply together, by one condition.
        var group = condition == _true ? -1
            : member is not null && _groups.Count > 0 && _groups[^1] is { Kind: CauseKind.Condition } last && last.Row == row && last.Occurrence == occurrence ? last.Index
            : NewGroup(CauseKind.Condition, row, "appliesWhen", occurrence);
        _nodes.Add(new(Operator.Presence, [condition, node]) { Group = group });
        _domains.Add(Domain<ExactEnd>.YesNo(Outcomes.True));
        return node;
    }

    /// <summary>The bounds on how many values several choices have, where they apply.</summary>
    private void HowMany(Occurrence occurrence, AttributeRow row)
    {
        int[] members = [.. _model.Index.Lists[row.ListId!].Values.Select(v => Path(RowPath.OfMember(occurrence.Prefix + row.Id, v.Id)))];
        foreach (var (field, text, kind) in new[] { ("min", row.Min, CountingKind.AtLeast), ("max", row.Max, CountingKind.AtMost) })
            if (text is { Length: > 0 } && (int)Exact.Parse(text).Numerator is var count && (kind == CountingKind.AtLeast ? count > 0 : count < members.Length))
                _roots.Add((Make(new Node(Operator.Counting, members) { Count = count, CountingKind = kind }, DomainKind.YesNo),
                    Outcomes.True | Outcomes.Absent, NewGroup(CauseKind.Bound, row, field, occurrence)));
        if (_model.Expression(row.Id, "lower") is null && _model.Expression(row.Id, "upper") is null)
            return;
        var number = members.Select(m => Make(Operator.ToNumber, DomainKind.Number, m)).Aggregate((a, b) => Make(Operator.Add, DomainKind.Number, a, b));
        Bounds(occurrence, row, number);
    }

    private void Bounds(Occurrence occurrence, AttributeRow row, int node)
    {
        foreach (var field in new[] { "lower", "upper" })
            if (_model.Expression(row.Id, field) is { } bound)
            {
                var limit = Expression(occurrence.Prefix, bound);
                var test = field == "lower" ? Make(Operator.LessOrEqual, DomainKind.YesNo, limit, node) : Make(Operator.LessOrEqual, DomainKind.YesNo, node, limit);
                _roots.Add((test, Outcomes.True | Outcomes.Absent, NewGroup(CauseKind.Bound, row, field, occurrence)));
            }
    }

    private CompiledLine Line(Occurrence occurrence, Row row)
    {
        var numbers = ImmutableSortedDictionary.CreateBuilder<string, int>();
        foreach (var field in new[] { "quantity", "setup", "run", "queue" })
            if (_model.Expression(row.Id, field) is { } expression)
                numbers[field] = Expression(occurrence.Prefix, expression);
        return new(occurrence, row, Condition(occurrence, row), numbers.ToImmutable());
    }

    /// <summary>The truth of a rule, resting where its own condition does not hold.</summary>
    private int? Rule(Occurrence occurrence, Row row)
    {
        int Of(string field) => Expression(occurrence.Prefix, _model.Expression(row.Id, field)!);
        int? truth;
        switch (row)
        {
            case StatementRule:
                truth = Of("expression");
                break;
            case RequiresRule:
                truth = Make(Operator.Or, DomainKind.YesNo, Make(Operator.Not, DomainKind.YesNo, Of("when")), Of("then"));
                break;
            case ExcludesRule:
                truth = Make(Operator.Not, DomainKind.YesNo, Make(Operator.And, DomainKind.YesNo, Of("when"), Of("then")));
                break;
            case LimitRule:
                truth = null;
                var of = Of("of");
                if (_model.Expression(row.Id, "lower") is not null)
                    truth = Make(Operator.LessOrEqual, DomainKind.YesNo, Of("lower"), of);
                if (_model.Expression(row.Id, "upper") is not null)
                {
                    var upper = Make(Operator.LessOrEqual, DomainKind.YesNo, of, Of("upper"));
                    truth = truth is { } lower ? Make(Operator.And, DomainKind.YesNo, lower, upper) : upper;
                }
                break;
            case CombinationGrid grid when _model.Grid(grid.Id) is { } bound:
                var keys = bound.Keys.Select(k => Expression(occurrence.Prefix, k)).ToArray();
                truth = Make(new Node(Operator.Table, keys) { Grid = Compile(grid.Id, bound) }, DomainKind.YesNo);
                break;
            default:
                return null;
        }
        if (truth is not { } found)
            return null;
        var condition = Condition(occurrence, row);
        return condition == _true ? found : Make(Operator.Where, DomainKind.YesNo, condition, found);
    }

    private CompiledGrid Compile(string gridId, BoundGrid grid)
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
                bits = new ulong[(_model.Index.Lists[type.ListId!].Values.Length + 63) / 64];
                foreach (var value in cell.Values)
                    BitSet.Set(bits, ValueIndex(type.ListId!, value.Text!));
            }
            foreach (var value in cell.Values.Where(v => v.Kind == ValueKind.YesNo))
                yesNo |= value.IsTrue ? Outcomes.True : Outcomes.False;
            return new CompiledCell(cell, bits, yesNo);
        }).ToImmutableArray()).ToImmutableArray();
        return _grids[gridId] = new(rows);
    }
}
