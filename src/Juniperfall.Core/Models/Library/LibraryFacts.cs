using System.Collections.Immutable;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Library;

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

    /// <summary>Site code → standard cost there, where it differs from <see cref="Cost"/>.</summary>
    public ImmutableSortedDictionary<string, string> Costs { get; init; } = ImmutableSortedDictionary<string, string>.Empty;

    /// <summary>UCUM code → how much of that one unit of the item is, as an exact decimal: a bar of 1 with “m” 6 is six metres.</summary>
    public ImmutableSortedDictionary<string, string> Conversions { get; init; } = ImmutableSortedDictionary<string, string>.Empty;

    /// <summary>Orders are made in multiples of this; empty: any amount.</summary>
    public string OrderMultiple { get; init; } = "";

    /// <summary>Working days until it is there; empty: not known.</summary>
    public string LeadTimeDays { get; init; } = "";

    /// <summary>Free properties by name.</summary>
    public ImmutableSortedDictionary<string, string> Properties { get; init; } = ImmutableSortedDictionary<string, string>.Empty;
    public ImmutableArray<ItemSubstitute> Substitutes { get; init; } = [];

    /// <summary>A property by its name, as it is written in expressions: one that every item has, or a free one. Null where it has none of that name.</summary>
    public string? PropertyOf(string name) => Names.Fold(name) switch
    {
        "NUMBER" => Number,
        "DESCRIPTION" => Description.In(),
        "UNIT" => Unit,
        "KIND" => Kind,
        "WEIGHT" => $"{Weight} kg",
        "COST" => $"{Cost} EUR",
        "LEAD_TIME" => LeadTimeDays.Length == 0 ? null : $"{LeadTimeDays} d",
        var folded => Properties.FirstOrDefault(p => Names.Fold(p.Key) == folded).Value,
    };

    /// <summary>The properties that every item has, by name.</summary>
    public static readonly ImmutableArray<string> OwnProperties = ["number", "description", "unit", "kind", "weight", "cost", "lead_time"];

    /// <summary>The standard cost at a site, or anywhere.</summary>
    public Exact CostAt(string? site) =>
        Exact.Parse(Costs.IsEmpty || site is null ? Cost : Costs.FirstOrDefault(c => c.Key.Equals(site, StringComparison.OrdinalIgnoreCase)).Value ?? Cost);

    /// <summary>The net amount in the unit that the item is kept in; null where the amount is of another dimension and no conversion leads there.</summary>
    /// <param name="amount">In base units of its dimension.</param>
    public Exact? InOwnUnit(Exact amount, Dimension dimension)
    {
        var own = Quantities.Unit.TryParse(Unit) ?? Quantities.Unit.One;
        if (own.Dimension == dimension)
            return own.FromBase(amount);
        foreach (var (code, factor) in Conversions)
            if (Quantities.Unit.TryParse(code) is { } unit && unit.Dimension == dimension && Exact.TryParse(factor, out var each) && each.Sign > 0)
                return unit.FromBase(amount) / each;
        return null;
    }
}

/// <summary>An item that may be used in place of another one: everywhere, or in one product only.</summary>
/// <param name="Product">The code of the product; null for everywhere.</param>
public sealed record ItemSubstitute(string Item, string? Product = null);

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

    /// <summary>Overhead in percent of labour and machine cost.</summary>
    public string Overhead { get; init; } = "0";
}

/// <summary>An operation that many products share, to start an operation line from.</summary>
public sealed record StandardOperationFact
{
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public string WorkCentre { get; init; } = "";

    /// <summary>Times as they are written in expressions: “10 min”.</summary>
    public string Setup { get; init; } = "";
    public string Run { get; init; } = "";
    public LocalText Instructions { get; init; } = LocalText.Empty;
}

public sealed record SiteFact
{
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;
    public ImmutableArray<string> Stores { get; init; } = [];

    /// <summary>Overhead in percent of the material issued there.</summary>
    public string MaterialOverhead { get; init; } = "0";
}

/// <summary>A class of customers, with the discount that it has on list prices.</summary>
public sealed record CustomerClassFact
{
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;

    /// <summary>In percent, from 0 to 100, as an exact decimal.</summary>
    public string Discount { get; init; } = "0";

    /// <summary>Product code → discount in percent on that product, where it differs.</summary>
    public ImmutableSortedDictionary<string, string> Discounts { get; init; } = ImmutableSortedDictionary<string, string>.Empty;

    /// <summary>The discount on a product, in percent.</summary>
    public Exact DiscountOn(string product) =>
        Exact.Parse(Discounts.FirstOrDefault(d => d.Key.Equals(product, StringComparison.OrdinalIgnoreCase)).Value ?? Discount);
}

/// <summary>What a model reads of the library around it. A released revision keeps the facts of its release.</summary>
public sealed record LibraryFacts
{
    public ImmutableSortedDictionary<string, ItemFact> Items { get; init; } = ImmutableSortedDictionary<string, ItemFact>.Empty;
    public ImmutableSortedDictionary<string, WorkCentreFact> WorkCentres { get; init; } = ImmutableSortedDictionary<string, WorkCentreFact>.Empty;
    public ImmutableSortedDictionary<string, SiteFact> Sites { get; init; } = ImmutableSortedDictionary<string, SiteFact>.Empty;

    public ImmutableSortedDictionary<string, StandardOperationFact> StandardOperations { get; init; } =
        ImmutableSortedDictionary<string, StandardOperationFact>.Empty;

    public ImmutableSortedDictionary<string, CustomerClassFact> CustomerClasses { get; init; } = ImmutableSortedDictionary<string, CustomerClassFact>.Empty;

    /// <summary>A customer class by its code, in whatever case; null where there is none.</summary>
    public CustomerClassFact? CustomerClassOf(string? code) => string.IsNullOrEmpty(code) ? null
        : CustomerClasses.GetValueOrDefault(code) ?? CustomerClasses.Values.FirstOrDefault(c => c.Code.Equals(code, StringComparison.OrdinalIgnoreCase));

    /// <summary>A site by its code, in whatever case; null where there is none.</summary>
    public SiteFact? SiteAt(string? code) => code is null
        ? null : Sites.GetValueOrDefault(code) ?? Sites.Values.FirstOrDefault(s => s.Code.Equals(code, StringComparison.OrdinalIgnoreCase));

    /// <summary>Whether the same is dearer at one site than at another.</summary>
    public bool CostsDependOnSite => Items.Values.Any(i => !i.Costs.IsEmpty) || Sites.Values.Any(s => !Exact.Parse(s.MaterialOverhead).IsZero);

    /// <summary>The same with other rows in place of those of the same key, or beside them.</summary>
    public LibraryFacts With(LibraryFacts changed) => this with
    {
        Items = Items.SetItems(changed.Items),
        WorkCentres = WorkCentres.SetItems(changed.WorkCentres),
        Sites = Sites.SetItems(changed.Sites),
        StandardOperations = StandardOperations.SetItems(changed.StandardOperations),
        CustomerClasses = CustomerClasses.SetItems(changed.CustomerClasses),
    };

    public static readonly LibraryFacts Empty = new();
}
