using System.Collections.Immutable;

namespace Juniperfall.Core.Models;

/// <summary>An item of the register, as far as models and structures read it.</summary>
public sealed record ItemFact
{
    public required string Number { get; init; }
    public LocalText Description { get; init; } = LocalText.Empty;

    /// <summary>UCUM code; "1" or empty for pieces.</summary>
    public string Unit { get; init; } = "";
    public string Kind { get; init; } = "bought";
    public bool Active { get; init; } = true;

    /// <summary>Standard cost in EUR per unit, as an exact decimal.</summary>
    public string Cost { get; init; } = "0";

    /// <summary>Weight in kg per unit, as an exact decimal.</summary>
    public string Weight { get; init; } = "0";

    /// <summary>Site code → default store.</summary>
    public ImmutableSortedDictionary<string, string> Stores { get; init; } = ImmutableSortedDictionary<string, string>.Empty;
}

public sealed record WorkCentreFact
{
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public string Site { get; init; } = "";

    /// <summary>EUR per hour, exact decimals.</summary>
    public string LabourRate { get; init; } = "0";
    public string MachineRate { get; init; } = "0";
    public int Crew { get; init; } = 1;
    public string HoursPerDay { get; init; } = "8";
}

public sealed record SiteFact
{
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public ImmutableArray<string> Stores { get; init; } = [];
}

/// <summary>What a model reads of the library around it. A released revision keeps the facts of its release.</summary>
public sealed record LibraryFacts
{
    public ImmutableSortedDictionary<string, ItemFact> Items { get; init; } = ImmutableSortedDictionary<string, ItemFact>.Empty;
    public ImmutableSortedDictionary<string, WorkCentreFact> WorkCentres { get; init; } = ImmutableSortedDictionary<string, WorkCentreFact>.Empty;
    public ImmutableSortedDictionary<string, SiteFact> Sites { get; init; } = ImmutableSortedDictionary<string, SiteFact>.Empty;

    public static readonly LibraryFacts Empty = new();
}
