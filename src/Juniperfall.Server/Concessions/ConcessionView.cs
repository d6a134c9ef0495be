using Juniperfall.Storage;

namespace Juniperfall.Server.Concessions;

/// <summary>How it stands with a concession.</summary>
public enum ConcessionState
{
    /// <summary>Asked for, and not answered yet.</summary>
    Asked,

    /// <summary>Signed, and its rules are set aside.</summary>
    Holds,

    /// <summary>Signed, and as many were generated as it allows.</summary>
    UsedUp,

    /// <summary>Signed, and its last day is over.</summary>
    RanOut,

    /// <summary>The configuration has changed since it was asked for, and it is of none any more.</summary>
    ChangedSince,
    Refused,
    TakenBack,
    Withdrawn,
}

/// <summary>A permission to set rules aside for one configuration.</summary>
/// <param name="Rules">As they read when it was asked for.</param>
/// <param name="Until">The last day on which something may be generated under it.</param>
/// <param name="Quantity">How many pieces may be generated under it in all.</param>
/// <param name="Used">How many were.</param>
/// <param name="Answer">What whoever signed or refused said.</param>
public sealed record ConcessionView(string Id, long Number, ConcessionState State, string ConfigurationId, string ConfigurationName, long RevisionId,
    string ProductCode, string ProductLabel, int RevisionNumber, IReadOnlyList<RuleSetAside> Rules, string Reason, DateOnly Until, long Quantity, long Used,
    string AskedBy, DateTime AskedAt, string? AnsweredBy, DateTime? AnsweredAt, string Answer, string? WithdrawnBy, DateTime? WithdrawnAt,
    string? WithdrawnWhy)
{
    public static ConcessionView Of(Concession k, DateOnly today) => new(k.Id, k.Number, StateOf(k, today), k.ConfigurationId, k.ConfigurationName,
        k.RevisionId, k.ProductCode, k.ProductLabel.Or(k.ProductCode), k.RevisionNumber, k.Rules, k.Reason, k.Until, k.Quantity, k.Used, k.AskedBy, k.AskedAt,
        k.AnsweredBy, k.AnsweredAt, k.Answer, k.WithdrawnBy, k.WithdrawnAt, k.WithdrawnWhy);

    private static ConcessionState StateOf(Concession k, DateOnly today) => k.Outcome switch
    {
        "refused" => ConcessionState.Refused,
        "taken back" => ConcessionState.TakenBack,
        _ when k.WithdrawnAt is not null => ConcessionState.Withdrawn,
        _ when !k.IsOfThis => ConcessionState.ChangedSince,
        null => ConcessionState.Asked,
        _ when k.Until < today => ConcessionState.RanOut,
        _ when k.Used >= k.Quantity => ConcessionState.UsedUp,
        _ => ConcessionState.Holds,
    };
}

/// <summary>How often a rule was set aside: one that often is wants changing.</summary>
/// <param name="Signed">By how many signed concessions.</param>
/// <param name="Open">How many are asked for.</param>
public sealed record RuleConcessionsView(string ProductCode, string Row, string Mark, string Sentence, long Signed, long Open, DateTime Latest);
