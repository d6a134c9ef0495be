using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Wording;

/// <summary>How values, rows and causes are put into words, the same wherever they are quoted.</summary>
public sealed class ModelWording(BoundModel model, string language = "en")
{
    private readonly PickText _text = new(model);
    private readonly Lazy<IReadOnlyDictionary<string, Occurrence>> _places = new(() => Occurrence.All(model).ToDictionary(o => o.Prefix));

    /// <summary>The places where assemblies stand, by their prefix, parents first.</summary>
    public IReadOnlyDictionary<string, Occurrence> Places => _places.Value;

    /// <summary>The named row at a path, and the place where it stands; null where there is none.</summary>
    public (Occurrence Occurrence, NamedRow Row)? At(string path) =>
        Places.TryGetValue(RowPath.Prefix(path), out var occurrence)
            && model.Index.Rows.GetValueOrDefault(RowPath.RowId(path)) is NamedRow row ? (occurrence, row) : null;

    /// <summary>What an asked or computed attribute is called at a path; the path itself where there is none.</summary>
    public string LabelAt(string path) => At(path) is { } at ? LabelOf(at.Occurrence, at.Row, path) : path;

    /// <summary>A value of the attribute at a path, as people read it.</summary>
    public string ValueAt(string path, Value value) => At(path)?.Row switch
    {
        _ when value.IsNothing => "none",
        AttributeRow row => ValueOf(row, value),
        ComputedAttribute row => ValueOf(row, value),
        _ => value.ToString(),
    };

    /// <summary>The name people know a row by: its label, its section number, its item or operation.</summary>
    public string NameOf(Row row) => row switch
    {
        NamedRow named when row is not IRule => Text(named.Label) is { Length: > 0 } label ? label : named.Name,
        IRule when model.Index.MarkOf(row) is { } mark => mark,
        OperationLine operation => Text(operation.Label) is { Length: > 0 } label ? label : operation.Name,
        PartLine part => part.Item.Length > 0 ? part.Item : part.ItemFrom.Length > 0 ? Shown(part.ItemFrom) : "part line",
        PriceLine price => Text(price.Label) is { Length: > 0 } label
            ? label : price.Effect switch
            {
                PriceEffect.AtLeast => "least price",
                PriceEffect.Rounds => "rounding",
                PriceEffect.Times => "factor",
                _ =>
            "price line"
            },
        NamedRow named => named.Name,
        _ => "this row",
    };

    public string Text(LocalText text) => text.In(language);

    /// <summary>An attribute's label, with those of the subassemblies above it: “Door: Clear width”.</summary>
    public string LabelOf(Occurrence occurrence, NamedRow row)
    {
        var own = NameOf(row);
        return occurrence is { Parent: { } parent, Place: { } place } ? $"{PlaceOf(parent, place, occurrence)}: {own}" : own;
    }

    /// <summary>A subassembly with its number where there can be several: “Door 2”.</summary>
    public string PlaceOf(Occurrence parent, Subassembly place, Occurrence below) =>
        LabelOf(parent, place) + (ModelIndex.InstancesOf(place).Length > 1 ? $" {below.Number}" : "");

    /// <summary>What is asked at a path: an attribute, or one value of several choices: “Accessories: door alarm”.</summary>
    public string LabelOf(Occurrence occurrence, NamedRow row, string path) =>
        RowPath.MemberId(path) is { } id && model.Index.Values.TryGetValue(id, out var found)
        ? $"{LabelOf(occurrence, row)}: {(Text(found.Value.Label) is { Length: > 0 } label ? label : found.Value.Code)}" : LabelOf(occurrence, row);

    /// <summary>A value as people read it: its label, a number with its unit, yes, no or none.</summary>
    public string ValueOf(AttributeRow row, Value value) => value.Kind switch
    {
        ValueKind.Choice when model.Index.Values.TryGetValue(value.Text!, out var found) => LabelOf(found.Value),
        ValueKind.Number => WithUnit(Trimmed(_text.Write(row, value)), row.Kind == AttributeKind.Quantity ? row.Unit : ""),
        _ => _text.Write(row, value),
    };

    /// <summary>What a value is called; one called “none” in quotes, so that nobody takes it for the answer “none of them”.</summary>
    public string LabelOf(ListValue value) => (Text(value.Label) is { Length: > 0 } label ? label : value.Code) is var called
        && called.Equals("none", StringComparison.OrdinalIgnoreCase) ? $"“{called}”" : called;

    /// <summary>A computed number in the unit it is shown in, or in that of its dimension; other values as they are.</summary>
    public string ValueOf(ComputedAttribute row, Value value)
    {
        if (value.Kind != ValueKind.Number)
            return value.Kind == ValueKind.Choice && model.Index.Values.TryGetValue(value.Text!, out var found) ? LabelOf(found.Value) : value.ToString();
        var unit = UnitOf(row);
        return WithUnit(unit.FromBase(value.Number).ToDisplay(row.Decimals), unit.Code);
    }

    /// <summary>The unit that a computed attribute is shown in.</summary>
    public Unit UnitOf(ComputedAttribute row) => model.TypeOf(row) is not { Kind: TypeKind.Number } type ? Unit.One
        : row.Unit.Length > 0 && Unit.TryParse(row.Unit) is { } written && written.Dimension == type.Dimension ? written : Unit.ForDisplay(type.Dimension);

    public static string WithUnit(string number, string unit) => unit.Length == 0 ? number : $"{number} {Unit.Readable(unit)}";

    private static string Trimmed(string exact) => Exact.TryParse(exact, out var number) ? number.ToDisplay(6) : exact;

    /// <summary>A rule, condition or bound as one clause without a full stop: its message where it has one, otherwise what it says.</summary>
    public string Clause(Cause cause) => Stated(cause).TrimEnd('.', ' ');

    private string Stated(Cause cause)
    {
        if (!model.Index.Rows.TryGetValue(cause.RowId, out var row))
            return "a row that is gone";
        if (row is IRule rule && cause.Kind == CauseKind.Rule)
            return Text(rule.Message) is { Length: > 0 } message ? message : Statement(row);
        if (cause.Kind == CauseKind.Condition)
            return row.AppliesWhen.Length == 0 ? $"{NameOf(row)} is asked only where there is “{AssemblyOf(row)}”"
                : row is NamedRow named && row is not IRule ? $"{NameOf(named)} applies when {Shown(row.AppliesWhen)}"
                    : $"{NameOf(row)} holds when {Shown(row.AppliesWhen)}";
        if (row is Subassembly of && RowPath.InputIndex(cause.Field) is { } at && at < of.Inputs.Length
            && model.Index.Rows.GetValueOrDefault(of.Inputs[at].AttributeId) is AttributeRow input)
            return $"“{NameOf(input)}” of {NameOf(of)} is {RangeOf(input)}";
        if (row is Subassembly place)
            return $"there are as many “{NameOf(row)}” as {Shown(place.InstanceCount)}, and at most {ModelIndex.InstancesOf(place).Length}";
        if (row is AttributeRow { Kind: AttributeKind.Several } several)
            return $"of {NameOf(several)} {HowMany(several, cause.Field)} can be chosen";
        return row is AttributeRow attribute
            ? $"{NameOf(attribute)} is at {(cause.Field == "lower" ? "least" : "most")} {Shown(cause.Field == "lower" ? attribute.Lower : attribute.Upper)}"
            : NameOf(row);
    }

    /// <summary>What the assembly is called that a row stands in.</summary>
    private string AssemblyOf(Row row) => model.Index.AssemblyOfRow[row.Id] is var assembly ? assembly.Label.Or(assembly.Name) : "";

    private string HowMany(AttributeRow several, string field) => field switch
    {
        "min" => $"at least {several.Min}",
        "max" => $"at most {several.Max}",
        "lower" => $"at least {Shown(several.Lower)}",
        _ => $"at most {Shown(several.Upper)}",
    };

    private string RangeOf(AttributeRow row)
    {
        if (row.ListId is { } listId && model.Index.Lists.TryGetValue(listId, out var list))
            return $"one of {string.Join(", ", list.Values.Select(v => ValueOf(row, Value.Choice(v.Id))))}";
        string Bound(string? number) => WithUnit(number!, row.Kind == AttributeKind.Quantity ? row.Unit : "");
        return $"at least {Bound(row.Min)} and at most {Bound(row.Max)}";
    }

    /// <summary>What a rule says, written out from its expressions.</summary>
    public string Statement(Row row) => row switch
    {
        StatementRule s => Shown(s.Expression),
        RequiresRule r => $"{Shown(r.When)} requires {Shown(r.Then)}",
        ExcludesRule x => $"{Shown(x.When)} excludes {Shown(x.Then)}",
        LimitRule { Lower: "" } l => $"{Shown(l.Of)} is at most {Shown(l.Upper)}",
        LimitRule { Upper: "" } l => $"{Shown(l.Of)} is at least {Shown(l.Lower)}",
        LimitRule l => $"{Shown(l.Of)} lies between {Shown(l.Lower)} and {Shown(l.Upper)}",
        CombinationGrid g => $"a row of “{(Text(g.Label) is { Length: > 0 } label ? label : g.Name)}” matches",
        _ => NameOf(row),
    };

    private string Shown(string stored) => StoredText.Show(stored, model.Index);
}
