using System.Text.Json.Serialization;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Structures;

namespace Juniperfall.Server.Bench;

/// <summary>How a value of several choices stands; what is left out is no, or none.</summary>
public sealed record MemberState
{
    public required AttributeState State { get; init; }

    /// <summary>Whether it is among what is chosen; null while that is open.</summary>
    public bool? Chosen { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool CannotBeIn { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool CannotBeOut { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Missing { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public int Clash { get; init; }

    /// <summary>Whether it is not known yet what can be had of it; only in a part of an answer.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Unknown { get; init; }
}

/// <summary>How a question stands; what is left out is no, none or empty.</summary>
public sealed record AskedState
{
    public required AttributeState State { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public Applicability Applies { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Missing { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Value { get; init; }

    /// <summary>Left out where it is the label of the choice with this value.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? ValueLabel { get; init; }

    /// <summary>The number shared by the members of a clash.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public int Clash { get; init; }

    /// <summary>Exact lowest and highest number that can be had with the other picks kept.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Lowest { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Highest { get; init; }

    /// <summary>The numbers that can be had, where they do not simply go from lowest to highest in steps.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<string>? Members { get; init; }

    /// <summary>Which of the choices, counted from 0, cannot be had with the other picks; there are reasons to ask for.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<int>? Cannot { get; init; }

    /// <summary>Whether something of it is not known yet, of a number how far it goes; only in a part of an answer.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Unknown { get; init; }

    /// <summary>The places of the choices of which it is not known yet; only in a part of an answer.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<int>? UnknownChoices { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<MemberState>? Several { get; init; }
}

/// <param name="Count">How many there are, once that is known.</param>
/// <param name="CanAdd">Whether there can be one more with the other picks.</param>
/// <param name="CanRemove">Whether there can be one less.</param>
public sealed record PlaceState(int? Count, bool CanAdd, bool CanRemove);

/// <summary>How a computed attribute stands.</summary>
public sealed record FigureState
{
    /// <summary>As suggested now.</summary>
    public required string Suggested { get; init; }

    /// <summary>Over all that can still be picked: a value, or bounds that are never too narrow. Left out where it is the same.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Text { get; init; }

    /// <summary>Whether it is not determined by the picks alone.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Open { get; init; }
}

/// <summary>How a part or operation line stands.</summary>
public sealed record LineStateView
{
    /// <summary>Over all that can still be picked.</summary>
    public required LineState State { get; init; }

    /// <summary>As suggested now; left out where it is the same.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public LineState? Suggested { get; init; }

    /// <summary>Over all that can still be picked, and as suggested now where that differs.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<string>? Quantity { get; init; }

    /// <summary>The item and its description, where they hang on answers; the description is left out where it stands among the items.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Name { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Description { get; init; }
}

/// <summary>A BOM line; what its row has alike everywhere stands in the form, and what is left out is empty, zero or no.</summary>
public sealed record BomLineState
{
    public required int Position { get; init; }
    public required string RowId { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Prefix { get; init; }
    public required string Item { get; init; }

    /// <summary>Left out where it stands among the items.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Description { get; init; }
    public required string Net { get; init; }

    /// <summary>Left out where it is the net quantity.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Gross { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Unit { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? UnitLabel { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool PerOrder { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Backflush { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Store { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public int? Operation { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Condition { get; init; }

    /// <summary>The paths in the condition.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<string>? Reads { get; init; }
    public required string Cost { get; init; }
    public required string Weight { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public StructureState? Below { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<LineFigureView>? Figures { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<string>? Substitutes { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<int>? Instances { get; init; }
}

/// <summary>An operation of a routing, in the same way. Times are minutes.</summary>
public sealed record OperationState
{
    public required int Sequence { get; init; }
    public required string RowId { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Prefix { get; init; }
    public required string Name { get; init; }
    public required string WorkCentre { get; init; }
    public required string WorkCentreLabel { get; init; }
    public required string Setup { get; init; }
    public required string Run { get; init; }
    public required string Queue { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Instructions { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Condition { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<string>? Reads { get; init; }
    public required string Crew { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Parallel { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Batch { get; init; }

    /// <summary>Of all lots, left out where they are those of one.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? OrderSetup { get; init; }

    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? OrderRun { get; init; }
    public required string Cost { get; init; }
}

/// <summary>What is built of one made item, for an order of one.</summary>
public sealed record StructureState(string Item, string Description, string? Site, string Quantity, TotalsView Totals, IReadOnlyList<BomLineState> Bom,
    IReadOnlyList<OperationState> Routing);

/// <summary>What can change about the answer to a set of picks; the form has the rest, in the same order.</summary>
public sealed record AnswerState
{
    public required long Head { get; init; }

    /// <summary>The form that it belongs to.</summary>
    public required string FormKey { get; init; }

    /// <summary>Whether the picks can stand together; null where time ran out before that was known.</summary>
    public required bool? Valid { get; init; }

    /// <summary>False where time ran out; then nothing here is passed off as exact.</summary>
    public required bool Exact { get; init; }

    /// <summary>The questions of all sections, one after the other.</summary>
    public required IReadOnlyList<AskedState> Asked { get; init; }
    public required IReadOnlyList<PlaceState> Places { get; init; }
    public required IReadOnlyList<ClashView> Clashes { get; init; }
    public required IReadOnlyList<PickView> Missing { get; init; }
    public required IReadOnlyList<CauseView> Advice { get; init; }
    /// <summary>Null for what can have no value beside the picks.</summary>
    public required IReadOnlyList<FigureState?> Figures { get; init; }
    public required IReadOnlyList<LineStateView> Lines { get; init; }
    public required IReadOnlyList<PickFault> Faults { get; init; }

    /// <summary>Descriptions of items that stand in more than one line, by number.</summary>
    public required IReadOnlyDictionary<string, string> Items { get; init; }

    /// <summary>What is built, once nothing more is needed.</summary>
    public required StructureState? Structure { get; init; }

    /// <summary>Values in the conditions and formulas of the structure that are not those of the questions and figures.</summary>
    public required IReadOnlyList<BecauseView> Values { get; init; }
    public required IReadOnlyList<FaultView> StructureFaults { get; init; }

    /// <summary>How many answers stand as suggestions: what is built, and all that is called “suggested”, counts them, what can still be picked does
    /// not.</summary>
    public required int Suggestions { get; init; }

    /// <summary>What one piece is sold for, once nothing more is needed; null where there is no price.</summary>
    public required PaidView? Price { get; init; }

    /// <summary>The form, for who does not have it.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public AnswerForm? Form { get; init; }

    internal static AnswerState Of(AnswerView view, string formKey) => Of(view, formKey, ItemsOf(view));

    private static AnswerState Of(AnswerView view, string formKey, Dictionary<string, string> items) => new()
    {
        Head = view.Head,
        FormKey = formKey,
        Valid = view.Valid,
        Exact = view.Exact,
        Asked = [.. view.Sections.SelectMany(s => s.Asked).Select(Of)],
        Places = [.. view.Places.Select(p => new PlaceState(p.Count, p.CanAdd, p.CanRemove))],
        Clashes = view.Clashes,
        Missing = view.Missing,
        Advice = view.Advice,
        Figures = [.. view.Figures.Select(f => !f.HasValue
            ? null : new FigureState { Suggested = f.Suggested, Text = f.Text == f.Suggested ? null : f.Text, Open = !f.Final })],
        Lines = [.. view.Lines.Select(l => Of(l, items))],
        Faults = view.Faults,
        Items = items,
        Structure = view.Structure is { } structure ? Of(structure, items) : null,
        Values = view.Structure is { } built ? ValuesElsewhere(view, built) : [],
        StructureFaults = view.StructureFaults,
        Suggestions = view.Suggestions,
        Price = view.Price,
    };

    private static string? Some(string text) => text.Length == 0 ? null : text;

    private static IReadOnlyList<T>? Some<T>(IReadOnlyList<T> list) => list.Count == 0 ? null : list;

    internal static AskedState Of(AskedView a)
    {
        var cannot = a.Choices.Select((c, i) => (c.Can, c.IsUnknown, i)).Where(c => !c.Can && !c.IsUnknown).Select(c => c.i).ToList();
        return new()
        {
            State = a.State,
            Applies = a.Applies,
            Missing = a.Missing,
            Value = a.Value,
            ValueLabel = a.ValueLabel is not null && a.ValueLabel == a.Choices.FirstOrDefault(c => c.Value == a.Value)?.Label ? null : a.ValueLabel,
            Clash = a.Clash,
            Lowest = a.Lowest,
            Highest = a.Highest,
            Members = a.Members,
            Cannot = cannot.Count == 0 ? null : cannot,
            Unknown = a.IsUnknown,
            UnknownChoices = !a.IsUnknown ? null : Some(a.Choices.Select((c, i) => (c.IsUnknown, i)).Where(c => c.IsUnknown).Select(c => c.i).ToList()),
            Several = a.Several is null ? null : [.. a.Several
                .Select(m => new MemberState { State = m.State, Chosen = m.Chosen, CannotBeIn = !m.CanBeIn && !m.IsUnknown,
                CannotBeOut = !m.CanBeOut && !m.IsUnknown, Missing = m.Missing, Clash = m.Clash, Unknown = m.IsUnknown })],
        };
    }

    private static Dictionary<string, string> ItemsOf(AnswerView view) => view.Lines.Where(l => l.HangsOnAnswers).Select(l => (l.Name, l.Description))
        .Concat(view.Structure is { } structure ? LinesOf(structure).Select(l => (l.Item, l.Description)) : [])
        .GroupBy(l => l.Item1, l => l.Item2).Where(g => g.Key.Length > 0 && g.Count() > 1 && g.Distinct().Count() == 1)
            .ToDictionary(g => g.Key, g => g.First());

    private static IEnumerable<BomLineView> LinesOf(StructureView structure) =>
        structure.Bom.SelectMany(l => l.Below is { } below ? LinesOf(below).Prepend(l) : [l]);

    private static string? DescriptionOf(string item, string description, Dictionary<string, string> items) =>
        items.GetValueOrDefault(item) == description ? null : description;

    private static LineStateView Of(LineView l, Dictionary<string, string> items) => new()
    {
        State = l.State,
        Suggested = l.Suggested == l.State ? null : l.Suggested,
        Quantity = l.SuggestedQuantity != l.Quantity ? [l.Quantity, l.SuggestedQuantity] : l.Quantity.Length > 0 ? [l.Quantity] : null,
        Name = l.HangsOnAnswers ? l.Name : null,
        Description = l.HangsOnAnswers ? DescriptionOf(l.Name, l.Description, items) : null,
    };

    private static StructureState Of(StructureView s, Dictionary<string, string> items) =>
        new(s.Item, s.Description, s.Site, s.Quantity, s.Totals, [.. s.Bom.Select(l => Of(l, items))], [.. s.Routing.Select(Of)]);

    private static BomLineState Of(BomLineView l, Dictionary<string, string> items) => new()
    {
        Position = l.Position,
        RowId = l.RowId,
        Prefix = Some(l.Prefix),
        Item = l.Item,
        Description = DescriptionOf(l.Item, l.Description, items),
        Net = l.Net,
        Gross = l.Gross == l.Net ? null : l.Gross,
        Unit = Some(l.Unit),
        UnitLabel = l.Unit.Length == 0 || l.UnitLabel == l.Unit ? null : l.UnitLabel,
        PerOrder = l.PerOrder,
        Backflush = l.Issue == "backflush",
        Store = Some(l.Store),
        Operation = l.Operation,
        Condition = Some(l.Condition),
        Reads = Some([.. l.Because.Select(b => b.Path)]),
        Cost = l.Cost,
        Weight = l.Weight,
        Below = l.Below is { } below ? Of(below, items) : null,
        Figures = Some(l.Figures),
        Substitutes = Some(l.Substitutes),
        Instances = Some(l.Instances),
    };

    private static OperationState Of(OperationView o) => new()
    {
        Sequence = o.Sequence,
        RowId = o.RowId,
        Prefix = Some(o.Prefix),
        Name = o.Name,
        WorkCentre = o.WorkCentre,
        WorkCentreLabel = o.WorkCentreLabel,
        Setup = o.Setup,
        Run = o.Run,
        Queue = o.Queue,
        Instructions = Some(o.Instructions),
        Condition = Some(o.Condition),
        Reads = Some([.. o.Because.Select(b => b.Path)]),
        Crew = o.Crew,
        Parallel = Some(o.Parallel),
        Batch = Some(o.Batch),
        OrderSetup = o.OrderSetup == o.Setup ? null : o.OrderSetup,
        OrderRun = o.OrderRun == o.Run ? null : o.OrderRun,
        Cost = o.Cost,
    };

    private static List<BecauseView> ValuesElsewhere(AnswerView view, StructureView structure)
    {
        var known = view.Sections.SelectMany(s => s.Asked).ToDictionary(a => a.Path, a => a.ValueLabel);
        foreach (var figure in view.Figures)
            known.TryAdd(figure.Path, figure.Suggested);
        return [.. All(structure).Where(b => known.GetValueOrDefault(b.Path) != b.Value).DistinctBy(b => b.Path)];

        static IEnumerable<BecauseView> All(StructureView of) =>
            of.Bom.SelectMany(l => l.Because.Concat(l.QuantityBecause).Concat(l.Below is { } below ? All(below) : []))
            .Concat(of.Routing.SelectMany(o => o.Because.Concat(o.RunBecause)));
    }
}
