using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Text.Json;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Models.Document;

/// <summary>
/// One state of a configuration model, whole and self-contained: what an author writes, with a lasting id on every row.
/// Immutable. Exact numbers are texts in the unit beside them; expressions are kept in stored form (see StoredText).
/// </summary>
public sealed record ModelDocument
{
    public const string CurrentFormat = "juniperfall-model/1";
    public const string CurrentLanguage = "1";

    public string Format { get; init; } = CurrentFormat;

    /// <summary>The version of the expression language that the texts are written in.</summary>
    public string Language { get; init; } = CurrentLanguage;
    public required string Id { get; init; }
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;

    /// <summary>The id of the assembly that is the product itself.</summary>
    public required string Root { get; init; }

    /// <summary>Whether lines with the same item, operation and figures are summed into one on a bill of materials.</summary>
    public bool SumLines { get; init; }
    public ImmutableArray<AssemblyDefinition> Assemblies { get; init; } = [];
    public ImmutableArray<ValueList> Lists { get; init; } = [];

    /// <summary>Released revisions of other products that fill subassemblies here.</summary>
    public ImmutableArray<ReusedModel> Reused { get; init; } = [];

    /// <summary>What has to come out of certain picks; no release where one of them fails.</summary>
    public ImmutableArray<TestCase> Cases { get; init; } = [];

    /// <summary>Its own assemblies, then those of what it reuses.</summary>
    [JsonIgnore]
    public IEnumerable<AssemblyDefinition> AllAssemblies => Assemblies.Concat(Reused.SelectMany(r => r.Assemblies));

    /// <summary>Its own value lists, then those of what it reuses.</summary>
    [JsonIgnore]
    public IEnumerable<ValueList> AllLists => Lists.Concat(Reused.SelectMany(r => r.Lists));

    /// <summary>The same document with every row as a function makes it.</summary>
    public ModelDocument WithRows(Func<Row, Row> row) => this with
    {
        Assemblies = [.. Assemblies.Select(a => a.WithRows(row))],
        Reused = [.. Reused.Select(r => r with { Assemblies = [.. r.Assemblies.Select(a => a.WithRows(row))] })],
    };

    /// <summary>The same with some rules taken to rest: they are told as advice where they are not kept. Figures that a grid gives stay.</summary>
    /// <param name="rules">The ids of rules; others are passed over.</param>
    public ModelDocument WithRulesAtRest(IReadOnlySet<string> rules) => WithRows(row => !rules.Contains(row.Id) ? row : row switch
    {
        RuleRow rule => rule with { Strength = RuleStrength.Advice },
        CombinationGrid grid => grid with { Strength = RuleStrength.Advice },
        _ => row,
    });

    /// <summary>The same with some values not to be had.</summary>
    /// <param name="because">By the id of a value: why, as a sentence.</param>
    public ModelDocument WithPaused(IReadOnlyDictionary<string, string> because)
    {
        ImmutableArray<ValueList> Paused(ImmutableArray<ValueList> lists) => [.. lists.Select(l => !l.Values.Any(v => because.ContainsKey(v.Id)) ? l : l with
        {
            Values = [.. l.Values.Select(v => because.TryGetValue(v.Id, out var why) ? v with { PausedBecause = why } : v)],
        })];
        return this with { Lists = Paused(Lists), Reused = [.. Reused.Select(r => r with { Lists = Paused(r.Lists) })] };
    }

    /// <summary>Whether nothing but test cases is different: quickly, so that it may be missed where parts were made anew.</summary>
    public bool IsSameButForCases(ModelDocument other)
    {
        static bool AreSame(IEnumerable<object> one, IEnumerable<object> other) => one.SequenceEqual(other, ReferenceEqualityComparer.Instance);
        return Root == other.Root && SumLines == other.SumLines && Code == other.Code
            && AreSame(Assemblies, other.Assemblies) && AreSame(Lists, other.Lists) && AreSame(Reused, other.Reused);
    }

    internal JsonObject ToJson() => JsonSerializer.SerializeToNode(this, DocumentJson.Options)!.AsObject();
}

/// <summary>One node type of a model, written on one worksheet.</summary>
public sealed record AssemblyDefinition
{
    public required string Id { get; init; }
    public required string Name { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public string? Note { get; init; }
    public ImmutableArray<Topic> Topics { get; init; } = [];

    [JsonIgnore]
    public IEnumerable<Row> Rows => Topics.SelectMany(t => t.Rows);

    internal AssemblyDefinition WithRows(Func<Row, Row> row) => this with { Topics = [.. Topics.Select(t => t with { Rows = [.. t.Rows.Select(row)] })] };
}

/// <summary>A named stretch of a worksheet that keeps together everything about one subject.</summary>
public sealed record Topic
{
    public required string Id { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public string? Note { get; init; }
    public ImmutableArray<Row> Rows { get; init; } = [];
}

/// <summary>A named set of values shared by attributes; its values can carry properties.</summary>
public sealed record ValueList
{
    public required string Id { get; init; }
    public required string Name { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public string? Note { get; init; }
    public ImmutableArray<PropertyColumn> Properties { get; init; } = [];
    public ImmutableArray<ListValue> Values { get; init; } = [];
}

[JsonConverter(typeof(NamedEnumConverter<PropertyType>))]
public enum PropertyType
{
    [JsonStringEnumMemberName("number")] Number,
    [JsonStringEnumMemberName("yesNo")] YesNo,
    [JsonStringEnumMemberName("text")] Text,
}

public sealed record PropertyColumn
{
    public required string Id { get; init; }
    public required string Name { get; init; }
    public PropertyType Type { get; init; }

    /// <summary>The UCUM code of a number column; empty for plain numbers.</summary>
    public string Unit { get; init; } = "";
}

public sealed record ListValue : IInEffect
{
    public required string Id { get; init; }
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;

    /// <summary>A colour as #rrggbb, shown as a swatch.</summary>
    public string? Color { get; init; }

    /// <summary>Property id → text: a number in the column's unit, "yes" or "no", or any text. A missing one is no value.</summary>
    public ImmutableSortedDictionary<string, string> Properties { get; init; } = ImmutableSortedDictionary<string, string>.Empty;
    public string? Note { get; init; }
    public DateOnly? From { get; init; }
    public DateOnly? To { get; init; }
    public ImmutableArray<string> Sites { get; init; } = [];

    /// <summary>Why it is not to be had for now, which no file says; null where it is.</summary>
    [JsonIgnore]
    public string? PausedBecause { get; init; }
}
