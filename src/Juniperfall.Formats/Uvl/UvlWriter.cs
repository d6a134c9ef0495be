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
    private const int LongestConstraint = 12_000;

    private readonly BoundModel _model;
    private readonly Dictionary<string, Occurrence> _occurrences;
    private readonly Dictionary<string, UvlNamed> _named = [];
    private readonly HashSet<string> _names = new(StringComparer.OrdinalIgnoreCase);
    private readonly List<UvlOmission> _omitted = [];
    private readonly List<(string Tree, bool Mandatory)> _features = [];
    private readonly List<string> _constraints = [];
    private readonly UvlExpressions _expressions;

    private UvlWriter(BoundModel model)
    {
        _model = model;
        _occurrences = Occurrence.All(model).ToDictionary(o => o.Prefix);
        _expressions = new(model, _occurrences, _named);
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
                if (!UvlExpressions.IsGiven(occurrence, row))
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

    /// <summary>An identifier that every reader of UVL 1.1 takes without quotes: a letter, then letters, digits and underscores of ASCII, and no word of the
    /// language.</summary>
    private string Unique(string wanted)
    {
        var plain = new string([.. wanted.Select(c => char.IsAsciiLetterOrDigit(c) || c == '_' ? c : '_')]);
        if (plain.Length == 0 || !char.IsAsciiLetter(plain[0])
            || plain.ToLowerInvariant() is "features" or "constraints" or "mandatory" or "optional" or "alternative" or "or" or "true" or "false"
                or "sum" or "avg" or "len" or "floor" or "ceil" or "boolean" or "integer" or "real" or "string" or "cardinality" or "imports"
                or "namespace" or "include" or "as" or "constraint" or "feature" or "type" or "arithmetic" or "aggregate-function")
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
                Constrain(UvlFormula.Yes, UvlExpressions.Compare(BinaryOperator.LessOrEqual, _expressions.Numbers(occurrence, count),
                    [(UvlFormula.Yes, UvlExpressions.Text(ModelIndex.InstancesOf(place).Length))]));
            else if (row is IRule { Strength: RuleStrength.Advice })
                _omitted.Add(new(row.Id, $"{NameOf(row)} is advice; UVL has only what must be."));
            else if (row is CombinationGrid grid)
                foreach (var (when, holds) in _expressions.Table(occurrence, _model.Grid(grid.Id)!))
                    Constrain(UvlFormula.And(_expressions.Applies(occurrence, row), when), holds);
            else if (row is IRule)
                Constrain(_expressions.Applies(occurrence, row), _expressions.Rule(occurrence, row));
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

    private void Attribute(Occurrence occurrence, AttributeRow row, UvlNamed named)
    {
        var applies = _expressions.Applies(occurrence, row);
        if (applies != UvlFormula.Yes)
            _constraints.Add(row.Required || row.Kind == AttributeKind.Several ? $"{named.Feature} <=> {applies}" : $"{named.Feature} => {applies}");
        else if (!named.IsSettled && (row.Required || row.Kind == AttributeKind.Several))
            _constraints.Add(named.Feature);
        if (row.Kind == AttributeKind.Whole)
        {
            var step = Exact.Parse(row.Step ?? "1");
            _constraints.Add($"{named.Feature} => ({named.Feature} >= {UvlExpressions.Text((Exact.Parse(row.Min!) / step).Ceiling() * step)} & {named.Feature} <= "
                + $"{UvlExpressions.Text((Exact.Parse(row.Max!) / step).Floor() * step)})");
            if (step != Exact.One)
                throw new NoCounterpart("a step other than 1; its bounds are written, the step is not.");
        }
        foreach (var field in new[] { "lower", "upper" })
            if (_model.Expression(row.Id, field) is { } bound)
            {
                var own = row.Kind == AttributeKind.Several
                    ? UvlExpressions.Sum([.. named.Values.Values.Select(v => new[] { (v, "1"), (UvlFormula.Not(v), "0") }.AsEnumerable())])
                    .Select(c => (UvlFormula.And(named.Feature, c.Guard), c.Text)) : [(named.Feature, named.Feature)];
                var limit = _expressions.Numbers(occurrence, bound);
                Constrain(UvlFormula.Yes, field == "lower"
                    ? UvlExpressions.Compare(BinaryOperator.LessOrEqual, limit, own) : UvlExpressions.Compare(BinaryOperator.LessOrEqual, own, limit));
            }
    }

    /// <summary>What an input is given is one of the values that it could be answered with.</summary>
    private void Given(Occurrence occurrence, AttributeRow row, Bound given)
    {
        if (given is BoundRecoded recoded)
        {
            var choices = _expressions.Choices(occurrence.Parent!, recoded.Choice).ToLookup(c => recoded.Values.ContainsKey(c.ValueId), c => c.Guard);
            Constrain(_expressions.Applies(occurrence, row), new(UvlFormula.Or(choices[true]), UvlFormula.Or(choices[false])));
        }
        if (row.Kind is not (AttributeKind.Whole or AttributeKind.Quantity))
            return;
        var unit = row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        var own = _expressions.Numbers(occurrence, new BoundAttribute(given.Type, row.Id)).ToList();
        Constrain(UvlFormula.Yes, UvlExpressions.Compare(BinaryOperator.LessOrEqual,
            [(UvlFormula.Yes, UvlExpressions.Text(unit.ToBase(Exact.Parse(row.Min!))))], own));
        Constrain(UvlFormula.Yes, UvlExpressions.Compare(BinaryOperator.LessOrEqual, own,
            [(UvlFormula.Yes, UvlExpressions.Text(unit.ToBase(Exact.Parse(row.Max!))))]));
        foreach (var field in new[] { "lower", "upper" })
            if (_model.Expression(row.Id, field) is { } bound)
                Constrain(UvlFormula.Yes, field == "lower"
                    ? UvlExpressions.Compare(BinaryOperator.LessOrEqual, _expressions.Numbers(occurrence, bound), own)
                    : UvlExpressions.Compare(BinaryOperator.LessOrEqual, own, _expressions.Numbers(occurrence, bound)));
    }
}
