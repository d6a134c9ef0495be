using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Core.Health;

/// <summary>What an analysis of a whole model can find.</summary>
public enum HealthKind
{
    /// <summary>No configuration is possible at all.</summary>
    NoConfiguration,

    /// <summary>A value, or numbers within the outermost bounds, that no configuration has.</summary>
    ValueNever,

    /// <summary>An attribute that has the same value in every configuration.</summary>
    ValueAlways,

    /// <summary>An attribute, subassembly, rule, part or operation line whose condition never holds.</summary>
    NeverApplies,

    /// <summary>A line that is always there though it has a condition.</summary>
    AlwaysThere,

    /// <summary>A rule that rules out nothing beyond what the others do.</summary>
    RuleRedundant,

    /// <summary>A grid row that no configuration matches.</summary>
    GridRowNever,

    /// <summary>A grid row that says the same as an earlier one.</summary>
    GridRowRepeated,

    /// <summary>Combinations of values that no row of a grid covers.</summary>
    GridGap,

    /// <summary>A quantity or time that can be below zero.</summary>
    NumberNegative,

    /// <summary>A quantity or run time that can be zero.</summary>
    NumberZero,

    /// <summary>A quantity or time that can have no value where its line stands.</summary>
    NumberMissing,

    /// <summary>A division by zero, or another thing that cannot be computed, that picks can reach.</summary>
    CannotBeComputed,

    /// <summary>A configuration of which one piece is listed for less than it costs.</summary>
    PriceUnderCost,

    /// <summary>A value that no part line depends on though its neighbours do.</summary>
    ValueWithoutPart,

    /// <summary>A value for which a part line finds no item, or one that is no longer active.</summary>
    ItemMissing,

    /// <summary>An attribute or a value list that nothing depends on.</summary>
    Unused,
}

public enum HealthWeight { Error, Warning, Note }

/// <summary>
/// One thing that was found: its place, a sentence, and the proof: a configuration that shows it, or a smallest set of rules,
/// conditions and bounds that causes it.
/// </summary>
/// <param name="Fields">The field, rows or values that it is about, where it is not the row as a whole.</param>
/// <param name="Example">Picks of a configuration that shows it.</param>
public sealed record HealthFinding(HealthKind Kind, HealthWeight Weight, string RowId, ImmutableArray<string> Fields, string Sentence,
    ImmutableArray<Pick>? Example, ImmutableArray<Cause>? Causes)
{
    /// <summary>What stays the same of a finding while the model changes around it; by this it is accepted.</summary>
    public string Key => $"{Kind}:{RowId}:{(Fields.Length <= 1 ? Fields.FirstOrDefault("") : HashOf(string.Join('\n', Fields)))}";

    private static string HashOf(string text) => Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..16];
}

/// <summary>How far an analysis is.</summary>
public sealed record HealthProgress(int Done, int Total);

/// <param name="Unfinished">What was not found out in time, as sentences; empty where everything was.</param>
public sealed record HealthReport(ImmutableArray<HealthFinding> Findings, ImmutableArray<string> Unfinished)
{
    public bool IsFinished => Unfinished.IsEmpty;
}
