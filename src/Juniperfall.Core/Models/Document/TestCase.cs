using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace Juniperfall.Core.Models.Document;

/// <summary>What is asked of a product and what has to come out, kept with the model: an example that every later state of it is held against.</summary>
public sealed record TestCase
{
    public required string Id { get; init; }

    /// <summary>What it is called, such as “Butcher's freezer, trade partner”.</summary>
    public string Name { get; init; } = "";
    public string? Note { get; init; }

    /// <summary>In the order in which they were made.</summary>
    public ImmutableArray<CasePick> Picks { get; init; } = [];

    /// <summary>The code of the site that it is for; null for none in particular.</summary>
    public string? Site { get; init; }

    /// <summary>The day that it is for; null for any.</summary>
    public DateOnly? Date { get; init; }

    /// <summary>How many are ordered, a decimal number above zero.</summary>
    public string Quantity { get; init; } = "1";
    public ImmutableArray<CaseExpectation> Expected { get; init; } = [];
}

/// <summary>An answer in a test case.</summary>
/// <param name="At">The path of the attribute by ids (<see cref="RowPath"/>), which renames leave alone; in a file written by hand it can be its name.</param>
/// <param name="Is">
/// The id of a value of a list (or its code), a number in the attribute's unit, yes, no, none, or a text.
/// </param>
public sealed record CasePick(string At, string Is);

/// <summary>What an expectation is about.</summary>
[JsonConverter(typeof(NamedEnumConverter<ExpectedOf>))]
public enum ExpectedOf
{
    /// <summary>Whether the picks stand together: “valid” or “ruled out”.</summary>
    [JsonStringEnumMemberName("verdict")] Verdict,

    /// <summary>A rule by its id: “yes” where it takes part in ruling the picks out, “no” where it does not.</summary>
    [JsonStringEnumMemberName("rule")] Rule,

    /// <summary>The value of an asked or computed attribute by its path, as suggested.</summary>
    [JsonStringEnumMemberName("value")] Value,

    /// <summary>The values that can still be had of an asked attribute: ids joined by “ | ”, or “lowest .. highest”.</summary>
    [JsonStringEnumMemberName("available")] Available,

    /// <summary>The item of a line of the bill of materials, by the path of its row; empty where the line is not there.</summary>
    [JsonStringEnumMemberName("item")] Item,

    /// <summary>The net quantity of a line, in its unit.</summary>
    [JsonStringEnumMemberName("quantity")] Quantity,

    /// <summary>Minutes of set-up of an operation, by the path of its row; empty where it is not there.</summary>
    [JsonStringEnumMemberName("setup")] Setup,

    /// <summary>Minutes of run of an operation for one piece.</summary>
    [JsonStringEnumMemberName("run")] Run,

    /// <summary>The list price of one piece, EUR.</summary>
    [JsonStringEnumMemberName("price")] Price,

    /// <summary>The cost of the order, EUR.</summary>
    [JsonStringEnumMemberName("cost")] Cost,

    /// <summary>The weight of the order, kg.</summary>
    [JsonStringEnumMemberName("weight")] Weight,

    /// <summary>Minutes of work on the order.</summary>
    [JsonStringEnumMemberName("work")] Work,

    /// <summary>Working days until the order is ready.</summary>
    [JsonStringEnumMemberName("leadTime")] LeadTime,

    /// <summary>How many complete configurations contain the picks.</summary>
    [JsonStringEnumMemberName("count")] Count,
}

/// <summary>One thing that has to come out of a test case.</summary>
/// <param name="Of">What it is about.</param>
/// <param name="At">The path or the id of what it is about; empty for what is of the whole.</param>
/// <param name="Is">What has to come out, written as <see cref="ExpectedOf"/> says; empty where nothing has to.</param>
/// <param name="Within">How far a number may be off, up or down; null where it has to be exactly that.</param>
/// <param name="Because">Why it was accepted as it came out, where it had been something else.</param>
public sealed record CaseExpectation(ExpectedOf Of, string At, string Is, string? Within = null, string? Because = null);
