using System.Collections.Immutable;
using System.Reflection;
using System.Text.Json.Serialization;

namespace Juniperfall.Core.Models.Document;

/// <summary>How a field of a row is written.</summary>
public enum FieldForm
{
    /// <summary>A text as it is, also a number whose unit stands beside it.</summary>
    Text,

    /// <summary>A text in each language.</summary>
    Local,

    /// <summary>A text in each language with expressions in braces.</summary>
    Template,
    Expression,

    /// <summary>Yes or no.</summary>
    Flag,

    /// <summary>A whole number, not below zero.</summary>
    Whole,

    /// <summary>One of several that are known: <see cref="RowField.Choices"/>, or what <see cref="RowField.From"/> says.</summary>
    Choice,

    /// <summary>Any number of values of the row's list.</summary>
    Members,

    /// <summary>An item number of the register.</summary>
    Item,

    /// <summary>Item numbers of the register, with commas between.</summary>
    Items,

    /// <summary>A UCUM code.</summary>
    Unit,

    /// <summary>The code of a site.</summary>
    Site,

    /// <summary>The codes of sites.</summary>
    Sites,
    Date,

    /// <summary>An assembly of the model, or a revision that it reuses.</summary>
    Assembly,

    /// <summary>How many instances there can be.</summary>
    Instances,

    /// <summary>Named numbers, each an expression.</summary>
    Figures,

    /// <summary>Parts with an editor of their own: what inputs are given, the columns and rows of a grid.</summary>
    Parts,
}

/// <summary>What an expression must come to.</summary>
public enum Expectation
{
    Anything,
    YesNo,
    Text,
    PlainNumber,

    /// <summary>A number of any dimension.</summary>
    Number,
    Money,
    Time,

    /// <summary>What the row itself is: the dimension of an attribute, a whole number of several choices.</summary>
    OwnType,

    /// <summary>What the field <see cref="RowField.Beside"/> comes to.</summary>
    AsBeside,

    /// <summary>The dimension of the item's unit, or one that it converts from.</summary>
    ItemUnit,

    /// <summary>What the part that it stands in says: the unit of a figure, the attribute that an input gives.</summary>
    OfPart,
}

/// <summary>Where the choices of a field come from that are not the same in every model.</summary>
public enum ChoiceSource { Lists, Values, MoneyColumns, Operations, WorkCentres }

/// <summary>A field that a row has only while another field holds one of some values.</summary>
/// <param name="Field">The other field.</param>
/// <param name="Values">As they are written in files.</param>
public sealed record FieldCondition(string Field, ImmutableArray<string> Values)
{
    /// <summary>Whether the other field holds one of them in a row.</summary>
    public required Func<Row, bool> Holds { get; init; }
}

/// <summary>A field of a kind of row. One name can stand for several fields that are there in turn, with captions of their own.</summary>
/// <param name="Name">As in files and edits.</param>
/// <param name="Form">How it is written.</param>
public sealed record RowField(string Name, FieldForm Form)
{
    /// <summary>The id of its caption in the texts of the interface.</summary>
    public string Caption { get; init; } = Name;
    public Expectation Expects { get; init; }

    /// <summary>The field that <see cref="Expectation.AsBeside"/> looks at.</summary>
    public string? Beside { get; init; }

    /// <summary>Whether something must be written there.</summary>
    public bool Required { get; init; }

    /// <summary>Whether nothing is written as null; otherwise it is an empty text.</summary>
    public bool Nullable { get; init; }

    /// <summary>What can be chosen, where that is the same in every model.</summary>
    public ImmutableArray<string> Choices { get; init; } = [];
    public ChoiceSource? From { get; init; }
    public FieldCondition? Only { get; init; }

    /// <summary>Whether it takes a line of a form by itself.</summary>
    public bool Wide { get; init; }

    /// <summary>Whether it holds ids of other things of the model.</summary>
    public bool Refers { get; init; }

    /// <summary>The texts that a row has there, each with its path; one, but for parts, figures and texts in languages.</summary>
    public required Func<Row, IEnumerable<(string Path, string Text)>> Texts { get; init; }

    /// <summary>Whether its texts are expressions, or hold some.</summary>
    internal bool HasExpressions => Form is FieldForm.Expression or FieldForm.Template or FieldForm.Figures || Expects == Expectation.OfPart;

    internal bool IsOf(Row row) => Only?.Holds(row) ?? true;
}

/// <summary>The names of kinds and choices as they are written in files.</summary>
internal static class WrittenNames
{
    public static string Of<T>(T value) where T : struct, Enum =>
        typeof(T).GetField(value.ToString())!.GetCustomAttribute<JsonStringEnumMemberNameAttribute>()!.Name;

    public static ImmutableArray<string> All<T>() where T : struct, Enum => [.. Enum.GetValues<T>().Select(Of)];
}
