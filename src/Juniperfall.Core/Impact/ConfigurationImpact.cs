using System.Collections.Immutable;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Impact;

/// <summary>What becomes of a saved configuration at another state of the model.</summary>
public enum ImpactKind
{
    /// <summary>What it picks stood together, and does no longer; or something that it picks is gone.</summary>
    Breaks,

    /// <summary>It was complete, and something that is needed has no answer now.</summary>
    AsksMore,

    /// <summary>Something else comes out.</summary>
    Changes,

    /// <summary>It did not stand before, and does now.</summary>
    Mends,

    /// <summary>It did not stand before either.</summary>
    StaysBroken,

    /// <summary>The same comes out.</summary>
    Same,

    /// <summary>Time ran out before it was known.</summary>
    Unknown,
}

/// <summary>One thing that comes out otherwise.</summary>
/// <param name="Before">As a test case writes it; empty where nothing came out.</param>
public sealed record FactChange(ExpectedOf Of, string At, string Before, string After);

/// <summary>What another state of the model does to a saved configuration.</summary>
/// <param name="Changes">What comes out otherwise: totals first, then in the order of the structure.</param>
public sealed record ConfigurationImpact(ImpactKind Kind, ImmutableArray<FactChange> Changes)
{
    /// <summary>Holds one outcome against the other.</summary>
    /// <param name="hasFaults">Whether something that is picked is no value of its attribute any more.</param>
    public static ConfigurationImpact Of(SavedOutcome before, SavedOutcome after, bool hasFaults) => (before.Valid, after.Valid) switch
    {
        (null, _) or (_, null) => new(ImpactKind.Unknown, []),
        (false, _) when hasFaults || after.Valid == false => new(ImpactKind.StaysBroken, []),
        (false, _) => new(ImpactKind.Mends, []),
        _ when hasFaults || after.Valid == false => new(ImpactKind.Breaks, []),
        _ when before.IsComplete && !after.IsComplete => new(ImpactKind.AsksMore, []),
        _ => ChangesOf(before.Facts, after.Facts) is { IsEmpty: false } changes ? new(ImpactKind.Changes, changes) : new(ImpactKind.Same, []),
    };

    private static ImmutableArray<FactChange> ChangesOf(ImmutableArray<CaseFact> before, ImmutableArray<CaseFact> after)
    {
        var (then, now) = (new Dictionary<(ExpectedOf, string), string>(), new Dictionary<(ExpectedOf, string), string>());
        foreach (var fact in before)
            then.TryAdd((fact.Of, fact.At), fact.Is);
        foreach (var fact in after)
            now.TryAdd((fact.Of, fact.At), fact.Is);
        return [.. now.Keys.Concat(then.Keys).Distinct()
            .Select(k => new FactChange(k.Item1, k.Item2, then.GetValueOrDefault(k, ""), now.GetValueOrDefault(k, "")))
            .Where(c => c.Before != c.After).OrderBy(c => IsTotal(c.Of) ? 0 : 1)];
    }

    /// <summary>Whether it is of the whole order rather than of a line or an attribute.</summary>
    private static bool IsTotal(ExpectedOf of) => of is ExpectedOf.Price or ExpectedOf.Cost or ExpectedOf.Weight or ExpectedOf.Work or ExpectedOf.LeadTime;
}
