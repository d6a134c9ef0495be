using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Models.Document;

/// <summary>One row of a worksheet. Every kind has a condition, a note, dates and sites.</summary>
public abstract record Row : IInEffect
{
    public required string Id { get; init; }

    /// <summary>The condition under which the row is there at all; empty means always.</summary>
    public string AppliesWhen { get; init; } = "";
    public string? Note { get; init; }
    public DateOnly? From { get; init; }
    public DateOnly? To { get; init; }
    public ImmutableArray<string> Sites { get; init; } = [];
}

/// <summary>A row that expressions refer to by name. Attributes, computed attributes, subassemblies and grids share one name space.</summary>
public abstract record NamedRow : Row
{
    public required string Name { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
}

[JsonConverter(typeof(NamedEnumConverter<AttributeKind>))]
public enum AttributeKind
{
    [JsonStringEnumMemberName("choice")] Choice,
    [JsonStringEnumMemberName("yesNo")] YesNo,
    [JsonStringEnumMemberName("whole")] Whole,
    [JsonStringEnumMemberName("quantity")] Quantity,
    [JsonStringEnumMemberName("text")] Text,

    /// <summary>Any number of values of a list, within bounds. Each value is asked as a yes/no of its own.</summary>
    [JsonStringEnumMemberName("several")] Several,
}

/// <summary>What an asked attribute is to whoever answers it.</summary>
[JsonConverter(typeof(NamedEnumConverter<AskedAs>))]
public enum AskedAs
{
    /// <summary>Something to choose: completion for the best may choose it.</summary>
    [JsonStringEnumMemberName("chosen")] Chosen,

    /// <summary>A fact of the job, such as the ambient: completion never moves it.</summary>
    [JsonStringEnumMemberName("given")] Given,
}

/// <summary>Something asked.</summary>
public sealed record AttributeRow : NamedRow
{
    /// <summary>What can be answered.</summary>
    [JsonPropertyName(KindName)]
    public AttributeKind Kind { get; init; }

    /// <summary>The kind by the name that it had in earlier files and edits; read, never written.</summary>
    [JsonPropertyName(EarlierName), JsonInclude]
    internal AttributeKind EarlierKind { init => Kind = value; }

    internal const string KindName = "attributeKind";
    internal const string EarlierName = "type";

    public AskedAs AskedAs { get; init; }

    /// <summary>The value list of a choice or of several choices.</summary>
    public string? ListId { get; init; }
    public string Unit { get; init; } = "";

    /// <summary>Outermost bounds and step, as constants in <see cref="Unit"/>; of several choices, how many there are at least and at most.</summary>
    public string? Min { get; init; }
    public string? Max { get; init; }
    public string? Step { get; init; }

    /// <summary>Inner bounds: expressions in the attribute's dimension; of several choices, on how many there are.</summary>
    public string Lower { get; init; } = "";
    public string Upper { get; init; } = "";

    /// <summary>Whether it must be answered. One that need not has "none" among its values. Of no meaning for several choices.</summary>
    public bool Required { get; init; } = true;

    /// <summary>The default: a value id, "yes"/"no", a number in <see cref="Unit"/>, a text, or nothing; of several choices, value ids with blanks
    /// between.</summary>
    public string? Suggestion { get; init; }

    /// <summary>The ids of the values that several choices suggest.</summary>
    [JsonIgnore]
    public IReadOnlyList<string> SuggestedMembers => Suggestion?.Split(' ', StringSplitOptions.RemoveEmptyEntries) ?? [];

    /// <summary>Given by the parent assembly; asked only when the assembly is sold alone.</summary>
    public bool Input { get; init; }

    /// <summary>The id of a column of its list, in EUR: what the chosen values add to the price. Empty: they add nothing.</summary>
    public string SurchargeColumn { get; init; } = "";
}

public sealed record ComputedAttribute : NamedRow
{
    public string Expression { get; init; } = "";

    /// <summary>The unit it is shown in; empty picks one by dimension.</summary>
    public string Unit { get; init; } = "";

    /// <summary>How many decimals are shown; reasoning is always exact.</summary>
    public int Decimals { get; init; } = 2;

    /// <summary>Whether whoever configures is offered to complete for the lowest or highest of it.</summary>
    public bool Goal { get; init; }
}

[JsonConverter(typeof(NamedEnumConverter<RuleStrength>))]
public enum RuleStrength
{
    [JsonStringEnumMemberName("must")] Must,
    [JsonStringEnumMemberName("advice")] Advice,
}

/// <summary>What every kind of rule has: a number that people quote (§12), a message and a strength.</summary>
public interface IRule
{
    string Id { get; }
    int Number { get; }
    LocalText Message { get; }
    RuleStrength Strength { get; }
}

public abstract record RuleRow : Row, IRule
{
    public int Number { get; init; }
    public LocalText Message { get; init; } = LocalText.Empty;
    public RuleStrength Strength { get; init; }
}

/// <summary>A rule that is one expression.</summary>
public sealed record StatementRule : RuleRow
{
    public string Expression { get; init; } = "";
}

/// <summary>Where <see cref="When"/> holds, <see cref="Then"/> must hold too.</summary>
public sealed record RequiresRule : RuleRow
{
    public string When { get; init; } = "";
    public string Then { get; init; } = "";
}

/// <summary><see cref="When"/> and <see cref="Then"/> never hold together.</summary>
public sealed record ExcludesRule : RuleRow
{
    public string When { get; init; } = "";
    public string Then { get; init; } = "";
}

/// <summary>Bounds on a quantity; an empty bound does not limit.</summary>
public sealed record LimitRule : RuleRow
{
    public string Of { get; init; } = "";
    public string Lower { get; init; } = "";
    public string Upper { get; init; } = "";
}

/// <summary>A table of allowed combinations; columns without a reference hold figures that expressions can read (<c>spans.longest</c>).</summary>
public sealed record CombinationGrid : NamedRow, IRule
{
    public int Number { get; init; }
    public LocalText Message { get; init; } = LocalText.Empty;
    public RuleStrength Strength { get; init; }
    public ImmutableArray<GridColumn> Columns { get; init; } = [];
    public ImmutableArray<GridRow> Rows { get; init; } = [];

    /// <summary>Which active items of the register add a row each, as an <see cref="ItemFilter"/>; empty: none.</summary>
    public string DrawnFrom { get; init; } = "";
}

public sealed record GridColumn
{
    public required string Id { get; init; }
    public required string Name { get; init; }

    /// <summary>The attribute or expression that the column is compared with; empty for a figure.</summary>
    public string Reference { get; init; } = "";

    /// <summary>The type of a figure; texts can name an item or a work centre.</summary>
    public PropertyType Type { get; init; }

    /// <summary>The unit of a figure that is a number.</summary>
    public string Unit { get; init; } = "";

    /// <summary>The property of an item that a drawn row has here; empty: any value, and no figure.</summary>
    public string ItemProperty { get; init; } = "";
}

public sealed record GridRow
{
    public required string Id { get; init; }

    /// <summary>One text a column: <c>*</c>, a value, several separated by <c>|</c>, or a range <c>1 m .. 3 m</c> with either end left out.</summary>
    public ImmutableArray<string> Cells { get; init; } = [];
}

[JsonConverter(typeof(NamedEnumConverter<SubassemblyKind>))]
public enum SubassemblyKind
{
    [JsonStringEnumMemberName("ownItem")] OwnItem,
    [JsonStringEnumMemberName("phantom")] Phantom,
}

/// <summary>A place in an assembly that another assembly of the model fills.</summary>
public sealed record Subassembly : NamedRow
{
    public required string AssemblyId { get; init; }
    public SubassemblyKind Make { get; init; }

    /// <summary>The item that an own-item subassembly is stocked under.</summary>
    public string Item { get; init; } = "";

    /// <summary>The site where it is made as an item of its own; empty: where the parent is made.</summary>
    public string MadeAt { get; init; } = "";

    /// <summary>The operation of the parent that consumes it where it is an item of its own; null for the first one.</summary>
    public string? OperationId { get; init; }

    /// <summary>How many of each instance go into one parent; empty means one.</summary>
    public string Quantity { get; init; } = "";

    /// <summary>How many of the instances are there, the first ones: a number, an attribute or an expression; empty means all of them.</summary>
    public string InstanceCount { get; init; } = "";
    public ImmutableArray<InputBinding> Inputs { get; init; } = [];

    /// <summary>The instances that there can be, with their lasting ids; picks name them.</summary>
    public ImmutableArray<Instance> Instances { get; init; } = [];
}

public sealed record InputBinding
{
    public required string Id { get; init; }

    /// <summary>The input attribute of the assembly below.</summary>
    public required string AttributeId { get; init; }

    /// <summary>Its value, an expression of the assembly above.</summary>
    public string Expression { get; init; } = "";
}

public sealed record Instance
{
    public required string Id { get; init; }
}

[JsonConverter(typeof(NamedEnumConverter<IssueMethod>))]
public enum IssueMethod
{
    [JsonStringEnumMemberName("hand")] Hand,
    [JsonStringEnumMemberName("backflush")] Backflush,
}

/// <summary>A line of the model that can become a BOM line. Without a condition it is a standard part.</summary>
public sealed record PartLine : Row
{
    /// <summary>A fixed item number; empty where <see cref="ItemFrom"/> gives it.</summary>
    public string Item { get; init; } = "";

    /// <summary>An expression that gives the item number as a text, such as a property of a value.</summary>
    public string ItemFrom { get; init; } = "";

    /// <summary>Net quantity per piece of the assembly (or per order), in the item's dimension.</summary>
    public string Quantity { get; init; } = "1";
    public bool PerOrder { get; init; }

    /// <summary>The rounding step in the item's unit; the quantity is rounded up to it. Empty: not rounded.</summary>
    public string Step { get; init; } = "";

    /// <summary>Scrap in percent of the net quantity.</summary>
    public string Scrap { get; init; } = "";
    public IssueMethod Issue { get; init; }

    /// <summary>The operation line that consumes it.</summary>
    public string? OperationId { get; init; }
    public string Store { get; init; } = "";

    /// <summary>The number in its balloon; 0 takes the next free one.</summary>
    public int Position { get; init; }

    /// <summary>The question that this line answers together with others of its assembly: exactly one of them stands. Empty: none.</summary>
    public string OneOf { get; init; } = "";

    /// <summary>Item numbers that may be used in its place, in order, with commas between.</summary>
    public string Substitutes { get; init; } = "";

    /// <summary>What it adds to the price of a piece of the assembly where it stands, in EUR.</summary>
    public string Surcharge { get; init; } = "";

    /// <summary>Cut sizes and other numbers that belong to the line.</summary>
    public ImmutableArray<LineFigure> Figures { get; init; } = [];

    /// <summary>The item numbers that may be used in its place, in order.</summary>
    [JsonIgnore]
    public IReadOnlyList<string> SubstituteItems => Substitutes.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
}

/// <summary>A named number of a part line, such as a length to cut.</summary>
public sealed record LineFigure
{
    public required string Id { get; init; }
    public string Name { get; init; } = "";
    public string Expression { get; init; } = "";

    /// <summary>The unit that it is printed in; empty for that of its dimension.</summary>
    public string Unit { get; init; } = "";
    public int Decimals { get; init; }
}

/// <summary>A line of the model that can become a routing operation.</summary>
public sealed record OperationLine : Row
{
    public required string Name { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;

    /// <summary>The place in the routing; operations run in ascending sequence.</summary>
    public int Sequence { get; init; }
    public string WorkCentre { get; init; } = "";

    /// <summary>An expression that gives the code of the work centre as a text, such as a property of a value.</summary>
    public string WorkCentreFrom { get; init; } = "";

    /// <summary>How many people work at it; 0 for the crew of the work centre.</summary>
    public int Crew { get; init; }

    /// <summary>Operations next to each other with the same name here run at the same time. Empty: it runs by itself.</summary>
    public string Parallel { get; init; } = "";

    /// <summary>The question that this operation answers together with others of its assembly: exactly one of them stands. Empty: none.</summary>
    public string OneOf { get; init; } = "";

    /// <summary>Time for each lot.</summary>
    public string Setup { get; init; } = "";

    /// <summary>Time per piece, or per batch where <see cref="Batch"/> says how many go together.</summary>
    public string Run { get; init; } = "";

    /// <summary>How many pieces one run takes at once; empty: one run for each piece.</summary>
    public string Batch { get; init; } = "";

    /// <summary>Waiting time before the work centre takes it up.</summary>
    public string Queue { get; init; } = "";

    /// <summary>What it adds to the price of a piece of the assembly where it applies, in EUR.</summary>
    public string Surcharge { get; init; } = "";

    /// <summary>What to do; expressions in braces are filled in: “cut to {leaf_width}”.</summary>
    public LocalText Instructions { get; init; } = LocalText.Empty;
}

[JsonConverter(typeof(NamedEnumConverter<PriceEffect>))]
public enum PriceEffect
{
    /// <summary>Adds an amount: the base price, a surcharge, or a deduction where it is below zero.</summary>
    [JsonStringEnumMemberName("adds")] Adds,

    /// <summary>Multiplies all that was added.</summary>
    [JsonStringEnumMemberName("times")] Times,

    /// <summary>The price is at least this.</summary>
    [JsonStringEnumMemberName("atLeast")] AtLeast,

    /// <summary>The price is rounded to a whole number of these.</summary>
    [JsonStringEnumMemberName("rounds")] Rounds,
}

[JsonConverter(typeof(NamedEnumConverter<PriceRounding>))]
public enum PriceRounding
{
    [JsonStringEnumMemberName("nearest")] Nearest,
    [JsonStringEnumMemberName("up")] Up,
    [JsonStringEnumMemberName("down")] Down,
}

/// <summary>
/// A line of the price of its assembly. Whatever their order on the worksheet, first all amounts are added, then come the
/// factors, then the least prices, then the roundings.
/// </summary>
public sealed record PriceLine : Row
{
    public LocalText Label { get; init; } = LocalText.Empty;
    public PriceEffect Effect { get; init; }

    /// <summary>An amount of money; of <see cref="PriceEffect.Times"/> a plain number.</summary>
    public string Amount { get; init; } = "";

    /// <summary>Which way <see cref="PriceEffect.Rounds"/> goes; halves are rounded up.</summary>
    public PriceRounding Rounding { get; init; }
}
