using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Serialization.Metadata;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Texts;
using static Juniperfall.Core.Models.Document.Expectation;

namespace Juniperfall.Core.Models.Document;

/// <summary>A kind of worksheet row with its fields, in the order in which they are filled in.</summary>
/// <param name="Name">As in files, and the id of its caption.</param>
/// <param name="Type">The type of its rows.</param>
public sealed record RowKind(string Name, Type Type, ImmutableArray<RowField> Fields)
{
    /// <summary>Whether its rows have a number that people quote.</summary>
    public bool IsNumbered => typeof(IRule).IsAssignableFrom(Type);

    /// <summary>Whether its fields say a row whole, so that one can be made in a table.</summary>
    public bool IsWhole => !Fields.Any(f => f.Form == FieldForm.Parts);

    /// <summary>The fields that a row has as it is now.</summary>
    public IEnumerable<RowField> FieldsOf(Row row) => Fields.Where(f => f.IsOf(row));

    /// <summary>The paths of all texts of a row that are expressions or hold some.</summary>
    internal IEnumerable<(RowField Field, string Path, string Text)> ExpressionsOf(Row row) =>
        FieldsOf(row).Where(f => f.HasExpressions).SelectMany(f => f.Texts(row).Select(t => (f, t.Path, t.Text)));
}

/// <summary>
/// Every kind of row and every field, said once: binding, editing, the checks of single fields, the model file and its schema, the API's
/// description of fields and the forms and tables of the interface are fed by this table (decision 0027).
/// </summary>
public static class RowKinds
{
    private static readonly FieldCondition IsNumber = Only(AttributeRow.KindName, a => a.Kind, AttributeKind.Whole, AttributeKind.Quantity);
    private static readonly FieldCondition IsSeveral = Only(AttributeRow.KindName, a => a.Kind, AttributeKind.Several);
    private static readonly FieldCondition HasList = Only(AttributeRow.KindName, a => a.Kind, AttributeKind.Choice, AttributeKind.Several);
    private static readonly FieldCondition IsOne = Only(AttributeRow.KindName, a => a.Kind,
        [.. Enum.GetValues<AttributeKind>().Where(k => k != AttributeKind.Several)]);
    private static readonly FieldCondition IsOwnItem = Only<Subassembly, SubassemblyKind>("make", s => s.Make, SubassemblyKind.OwnItem);

    private static readonly RowField Name = Text<NamedRow>("name", r => r.Name);
    private static readonly RowField Label = Local<NamedRow>("label", r => r.Label);
    private static readonly RowField AppliesWhen = Expression<Row>("appliesWhen", r => r.AppliesWhen, YesNo);
    private static readonly RowField Message = Local<Row>("message", r => ((IRule)r).Message) with { Wide = true };
    private static readonly RowField Strength = Choice<RuleStrength>("strength");

    /// <summary>What every row can carry.</summary>
    public static readonly ImmutableArray<RowField> Common =
    [
        Text<Row>("note", r => r.Note) with { Wide = true, Nullable = true },
        Other("from", FieldForm.Date) with { Nullable = true },
        Other("to", FieldForm.Date) with { Nullable = true },
        Other("sites", FieldForm.Sites),
    ];

    public static readonly ImmutableArray<RowKind> All =
    [
        Kind<AttributeRow>("attribute",
            Name, Label,
            Choice<AttributeKind>(AttributeRow.KindName),
            Choice<AskedAs>("askedAs"),
            From<AttributeRow>("listId", ChoiceSource.Lists, a => a.ListId) with { Only = HasList, Refers = true, Nullable = true },
            Unit<AttributeRow>(a => a.Unit) with { Only = Only(AttributeRow.KindName, a => a.Kind, AttributeKind.Quantity) },
            Bound("min", "lowest", a => a.Min) with { Only = IsNumber },
            Bound("max", "highest", a => a.Max) with { Only = IsNumber },
            Bound("step", "step", a => a.Step) with { Only = IsNumber },
            Bound("min", "atLeast", a => a.Min) with { Only = IsSeveral },
            Bound("max", "atMost", a => a.Max) with { Only = IsSeveral },
            Suggestion(FieldForm.Members) with { Only = IsSeveral, Wide = true },
            Suggestion(FieldForm.Choice) with
            {
                From = ChoiceSource.Values,
                Only = Only(AttributeRow.KindName, a => a.Kind, AttributeKind.Choice, AttributeKind.YesNo)
            },
            Suggestion(FieldForm.Text) with
            {
                Only = Only(AttributeRow.KindName, a => a.Kind, AttributeKind.Whole, AttributeKind.Quantity, AttributeKind.Text)
            },
            From<AttributeRow>(PriceFields.SurchargeColumn, ChoiceSource.MoneyColumns, a => a.SurchargeColumn) with
            {
                Only = HasList,
                Refers = true,
                Caption = "surcharge",
            },
            Other("required", FieldForm.Flag) with { Only = IsOne },
            Other("input", FieldForm.Flag) with { Only = IsOne },
            Expression<AttributeRow>("lower", a => a.Lower, OwnType) with { Only = IsNumber, Caption = "atLeast" },
            Expression<AttributeRow>("upper", a => a.Upper, OwnType) with { Only = IsNumber, Caption = "atMost" },
            Expression<AttributeRow>("lower", a => a.Lower, OwnType) with { Only = IsSeveral, Caption = "atLeastWorkedOut" },
            Expression<AttributeRow>("upper", a => a.Upper, OwnType) with { Only = IsSeveral, Caption = "atMostWorkedOut" },
            AppliesWhen),
        Kind<ComputedAttribute>("computed",
            Name, Label,
            Unit<ComputedAttribute>(c => c.Unit) with { Caption = "shownIn" },
            Whole<ComputedAttribute>("decimals", c => c.Decimals),
            Other("goal", FieldForm.Flag),
            Expression<ComputedAttribute>("expression", c => c.Expression, Anything) with { Required = true },
            AppliesWhen),
        Kind<StatementRule>("statement",
            Expression<StatementRule>("expression", r => r.Expression, YesNo) with { Required = true, Caption = "mustHold" },
            Message, Strength, AppliesWhen),
        Kind<RequiresRule>("requires",
            Expression<RequiresRule>("when", r => r.When, YesNo) with { Required = true, Caption = "where" },
            Expression<RequiresRule>("then", r => r.Then, YesNo) with { Required = true, Caption = "itRequires" },
            Message, Strength, AppliesWhen),
        Kind<ExcludesRule>("excludes",
            Expression<ExcludesRule>("when", r => r.When, YesNo) with { Required = true, Caption = "this" },
            Expression<ExcludesRule>("then", r => r.Then, YesNo) with { Required = true, Caption = "neverWith" },
            Message, Strength, AppliesWhen),
        Kind<LimitRule>("limit",
            Expression<LimitRule>("of", r => r.Of, Number) with { Required = true, Caption = "quantityLimited" },
            Expression<LimitRule>("lower", r => r.Lower, AsBeside) with { Beside = "of", Caption = "atLeast" },
            Expression<LimitRule>("upper", r => r.Upper, AsBeside) with { Beside = "of", Caption = "atMost" },
            Message, Strength, AppliesWhen),
        Kind<CombinationGrid>("grid",
            Name, Label, Message, Strength, AppliesWhen,
            Parts<CombinationGrid>("columns", g => g.Columns.Select((c, i) => ($"columns/{i}/reference", c.Reference))),
            Parts<CombinationGrid>("rows", _ => []) with { Expects = Anything }),
        Kind<Subassembly>("subassembly",
            Name, Label,
            Other("assemblyId", FieldForm.Assembly) with { Wide = true, Refers = true },
            Choice<SubassemblyKind>("make"),
            Item<Subassembly>(s => s.Item) with { Only = IsOwnItem },
            One<Subassembly>("madeAt", FieldForm.Site, s => s.MadeAt) with { Only = IsOwnItem },
            Other("instances", FieldForm.Instances),
            Expression<Subassembly>("instanceCount", s => s.InstanceCount, PlainNumber),
            Expression<Subassembly>("quantity", s => s.Quantity, PlainNumber) with { Caption = "piecesOfEach" },
            From<Subassembly>("operationId", ChoiceSource.Operations, s => s.OperationId) with { Refers = true, Nullable = true, Only = IsOwnItem },
            AppliesWhen,
            Parts<Subassembly>("inputs", s => s.Inputs.Select((x, i) => (RowPath.FieldOfInput(i), x.Expression)))),
        Kind<PartLine>("part",
            Item<PartLine>(p => p.Item),
            From<PartLine>("operationId", ChoiceSource.Operations, p => p.OperationId) with { Refers = true, Nullable = true },
            Text<PartLine>("step", p => p.Step) with { Caption = "roundedUpTo" },
            Text<PartLine>("scrap", p => p.Scrap),
            Choice<IssueMethod>("issue"),
            Text<PartLine>("store", p => p.Store),
            Whole<PartLine>("position", p => p.Position),
            One<PartLine>("substitutes", FieldForm.Items, p => p.Substitutes),
            Text<PartLine>("oneOf", p => p.OneOf),
            Other("perOrder", FieldForm.Flag),
            Expression<PartLine>("quantity", p => p.Quantity, ItemUnit) with { Required = true },
            Expression<PartLine>("itemFrom", p => p.ItemFrom, Expectation.Text),
            AppliesWhen,
            Surcharge<PartLine>(p => p.Surcharge),
            new("figures", FieldForm.Figures)
            {
                Wide = true,
                Required = true,
                Expects = OfPart,
                Texts = r => ((PartLine)r).Figures.Select((f, i) => ($"figures/{i}/expression", f.Expression)),
            }),
        Kind<OperationLine>("operation",
            Whole<OperationLine>("sequence", o => o.Sequence),
            Text<OperationLine>("name", o => o.Name),
            Local<OperationLine>("label", o => o.Label),
            From<OperationLine>("workCentre", ChoiceSource.WorkCentres, o => o.WorkCentre),
            Expression<OperationLine>("setup", o => o.Setup, Time),
            Expression<OperationLine>("run", o => o.Run, Time),
            Expression<OperationLine>("queue", o => o.Queue, Time),
            Expression<OperationLine>("batch", o => o.Batch, PlainNumber),
            Expression<OperationLine>("workCentreFrom", o => o.WorkCentreFrom, Expectation.Text),
            Whole<OperationLine>("crew", o => o.Crew),
            Text<OperationLine>("parallel", o => o.Parallel),
            Text<OperationLine>("oneOf", o => o.OneOf),
            Local<OperationLine>("instructions", o => o.Instructions, FieldForm.Template) with { Wide = true, Required = true },
            AppliesWhen,
            Surcharge<OperationLine>(o => o.Surcharge)),
        Kind<PriceLine>("price",
            Local<PriceLine>("label", p => p.Label),
            Choice<PriceEffect>("effect"),
            Choice<PriceRounding>("rounding") with { Only = Effect(PriceEffect.Rounds) },
            Amount("amount", Money, PriceEffect.Adds),
            Amount("factor", PlainNumber, PriceEffect.Times),
            Amount("leastPrice", Money, PriceEffect.AtLeast),
            Amount("wholeNumberOf", Money, PriceEffect.Rounds),
            AppliesWhen),
    ];

    private static readonly Dictionary<Type, RowKind> ByType = All.ToDictionary(k => k.Type);

    public static RowKind Of(Row row) => ByType[row.GetType()];

    /// <summary>What a field that every row has must come to, of a row that is not there yet; null for anything.</summary>
    public static ExpressionType? ExpectedOfAny(string field) => field == AppliesWhen.Name ? ExpressionType.YesNo : null;

    /// <summary>The fields that hold ids of other things, of every kind.</summary>
    internal static readonly ImmutableHashSet<string> ReferringFields = [.. All.SelectMany(k => k.Fields).Where(f => f.Refers).Select(f => f.Name)];

    /// <summary>Whether a field of that name holds a text in each language.</summary>
    public static bool IsLocal(string field) => LocalFields.Contains(field);

    private static readonly ImmutableHashSet<string> LocalFields =
        [.. All.SelectMany(k => k.Fields).Where(f => f.Form is FieldForm.Local or FieldForm.Template).Select(f => f.Name)];

    /// <summary>A modifier of a type resolver: a row says its kind. Options without it write of a row only what every row has.</summary>
    public static void WriteKinds(JsonTypeInfo type)
    {
        if (type.Type != typeof(Row))
            return;
        type.PolymorphismOptions = new() { TypeDiscriminatorPropertyName = "kind" };
        foreach (var kind in All)
            type.PolymorphismOptions.DerivedTypes.Add(new(kind.Type, kind.Name));
    }

    private static RowKind Kind<T>(string name, params ImmutableArray<RowField> fields) where T : Row => new(name, typeof(T), fields);

    private static RowField One<T>(string name, FieldForm form, Func<T, string?> text) where T : Row =>
        new(name, form) { Texts = r => text((T)r) is { } written ? [(name, written)] : [] };

    private static RowField Other(string name, FieldForm form) => new(name, form) { Texts = _ => [] };

    private static RowField Whole<T>(string name, Func<T, int> number) where T : Row =>
        One<T>(name, FieldForm.Whole, r => number(r).ToString(CultureInfo.InvariantCulture));

    private static RowField Text<T>(string name, Func<T, string?> text) where T : Row => One(name, FieldForm.Text, text);

    private static RowField Unit<T>(Func<T, string?> text) where T : Row => One("unit", FieldForm.Unit, text);

    private static RowField Item<T>(Func<T, string?> text) where T : Row => One("item", FieldForm.Item, text);

    private static RowField Bound(string name, string caption, Func<AttributeRow, string?> text) =>
        Text(name, text) with { Caption = caption, Nullable = true };

    private static RowField Suggestion(FieldForm form) =>
        One<AttributeRow>("suggestion", form, a => a.Suggestion) with { Refers = true, Nullable = true };

    private static RowField Local<T>(string name, Func<T, LocalText> text, FieldForm form = FieldForm.Local) where T : Row =>
        new(name, form) { Texts = r => text((T)r).Texts.Select(t => ($"{name}/{t.Key}", t.Value)) };

    private static RowField Choice<T>(string name) where T : struct, Enum =>
        Other(name, FieldForm.Choice) with { Choices = WrittenNames.All<T>() };

    private static RowField From<T>(string name, ChoiceSource from, Func<T, string?> text) where T : Row =>
        One(name, FieldForm.Choice, text) with { From = from };

    private static RowField Expression<T>(string name, Func<T, string> text, Expectation expects) where T : Row =>
        One(name, FieldForm.Expression, text) with { Expects = expects, Wide = true };

    private static RowField Surcharge<T>(Func<T, string> text) where T : Row => Expression(PriceFields.Surcharge, text, Money);

    private static RowField Amount(string caption, Expectation expects, PriceEffect effect) =>
        Expression<PriceLine>(PriceFields.Amount, p => p.Amount, expects) with { Required = true, Caption = caption, Only = Effect(effect) };

    private static RowField Parts<T>(string name, Func<T, IEnumerable<(string, string)>> texts) where T : Row =>
        new(name, FieldForm.Parts) { Required = true, Expects = OfPart, Texts = r => texts((T)r) };

    private static FieldCondition Effect(PriceEffect effect) => Only<PriceLine, PriceEffect>("effect", p => p.Effect, effect);

    private static FieldCondition Only(string field, Func<AttributeRow, AttributeKind> of, params AttributeKind[] values) =>
        Only<AttributeRow, AttributeKind>(field, of, values);

    private static FieldCondition Only<T, TValue>(string field, Func<T, TValue> of, params TValue[] values) where T : Row where TValue : struct, Enum =>
        new(field, [.. values.Select(WrittenNames.Of)]) { Holds = r => values.Contains(of((T)r)) };
}
