using System.Collections.Immutable;
using Juniperfall.Core.Models.Texts;
using Npgsql;

namespace Juniperfall.Storage;

/// <summary>A rule that a concession sets aside, as it read when it was asked for.</summary>
/// <param name="Row">The id of the rule.</param>
/// <param name="Mark">The number that people quote, such as §12.</param>
public sealed record RuleSetAside(string Row, string Mark, string Sentence);

/// <summary>Asked for: the rules, why, until when and for how many.</summary>
/// <param name="Until">The last day on which something may be generated under it.</param>
/// <param name="Quantity">How many pieces may be generated under it in all.</param>
public sealed record ConcessionWish(string Id, ImmutableArray<RuleSetAside> Rules, string Reason, DateOnly Until, long Quantity);

/// <summary>A permission to set rules aside for one configuration, asked for or given.</summary>
/// <param name="Number">What people call it by.</param>
/// <param name="Outcome">signed, refused or taken back; null while it is open.</param>
/// <param name="Answer">What whoever signed or refused said.</param>
/// <param name="IsOfThis">Whether the configuration still is as it was when it was asked for: the same picks on the same revision.</param>
/// <param name="Used">How many pieces were generated under it.</param>
public sealed record Concession(string Id, long Number, string ConfigurationId, string ConfigurationName, long RevisionId, string ProductCode,
    LocalText ProductLabel, int RevisionNumber, ImmutableArray<RuleSetAside> Rules, string Reason, DateOnly Until, long Quantity, string AskedBy,
    DateTime AskedAt, string? Outcome, string? AnsweredBy, DateTime? AnsweredAt, string Answer, string? WithdrawnBy, DateTime? WithdrawnAt,
    string? WithdrawnWhy, bool IsOfThis, long Used)
{
    /// <summary>Whether its rules are set aside on a day: it is signed, stands, has not run out, and is of the configuration as it is.</summary>
    public bool Holds(DateOnly today) => Outcome == "signed" && WithdrawnAt is null && IsOfThis && Until >= today;
}

/// <summary>How often a rule was set aside.</summary>
/// <param name="Mark">As it read the last time.</param>
/// <param name="Signed">By how many signed concessions.</param>
/// <param name="Open">How many are asked for.</param>
public sealed record RuleConcessions(string ProductCode, string Row, string Mark, string Sentence, long Signed, long Open, DateTime Latest);

/// <summary>Permissions to set rules aside: asked for, signed or refused by someone else, and withdrawn.</summary>
public sealed class ConcessionStore(NpgsqlDataSource data)
{
    private const string Columns = """
        select k.id, k.number, k.configuration_id, c.name, k.revision_id, p.code, r.label, r.number, k.rules, k.reason, k.until, k.quantity, k.asked_by,
               k.asked_at, k.outcome, k.answered_by, k.answered_at, k.answer, k.withdrawn_by, k.withdrawn_at, k.withdrawn_why,
               (k.picks, k.revision_id) is not distinct from (c.picks, c.revision_id),
               (select coalesce(sum(s.quantity), 0)::bigint from structure s where s.concession_id = k.id)
        from concession k join configuration c on c.id = k.configuration_id join revision r on r.id = k.revision_id join product p on p.id = r.product_id
        """;

    private const string SelectOne = $"{Columns} where k.id = $1";

    private const string SelectOfConfiguration = $"{Columns} where k.configuration_id = $1 order by k.number desc limit $2";

    private const string SelectAll = $"""
        {Columns} where ($1 is null or p.id = $1) and ($2 is null or k.rules @> jsonb_build_array(jsonb_build_object('row', $2::text)))
        order by k.outcome is not null, k.number desc limit $3
        """;

    private const string SelectByRule = """
        select p.code, x.rule->>'row', (array_agg(x.rule->>'mark' order by k.number desc))[1], (array_agg(x.rule->>'sentence' order by k.number desc))[1],
               count(*) filter (where k.outcome = 'signed'), count(*) filter (where k.outcome is null), max(k.asked_at)
        from concession k join revision r on r.id = k.revision_id join product p on p.id = r.product_id
        cross join lateral jsonb_array_elements(k.rules) x(rule)
        where k.outcome is null or k.outcome = 'signed'
        group by p.code, x.rule->>'row' order by 5 desc, 6 desc, 7 desc limit $1
        """;

    private const string Insert = """
        insert into concession (id, configuration_id, revision_id, picks, rules, reason, until, quantity, asked_by)
        select $1, c.id, c.revision_id, c.picks, $3, $4, $5, $6, $7 from configuration c where c.id = $2 and c.version = $8
        on conflict do nothing
        """;

    /// <summary>What can no longer be signed does not stand in the way of asking anew.</summary>
    private const string CloseOutlived = """
        update concession k set outcome = 'taken back', answered_by = k.asked_by, answered_at = now() from configuration c
        where c.id = k.configuration_id and k.configuration_id = $1 and k.outcome is null
          and ((k.picks, k.revision_id) is distinct from (c.picks, c.revision_id) or k.until < $2)
        """;

    private const string Close = """
        update concession set outcome = $2, answered_by = $3, answered_at = now(), answer = $4 where id = $1 and outcome is null
        """;

    private const string MarkWithdrawn = """
        update concession set withdrawn_by = $2, withdrawn_at = now(), withdrawn_why = $3 where id = $1 and outcome = 'signed' and withdrawn_at is null
        """;

    public async Task<Concession?> One(string id, CancellationToken cancel) =>
        await data.Query(SelectOne, Read, cancel, id).FirstOrDefaultAsync(cancel);

    /// <summary>Those of one configuration, the latest first.</summary>
    public async Task<IReadOnlyList<Concession>> Of(string configurationId, int most, CancellationToken cancel) =>
        await data.Query(SelectOfConfiguration, Read, cancel, configurationId, most).ToListAsync(cancel);

    /// <summary>The one that sets rules aside for a configuration as it is; of several the latest that is not used up; null where there is none.</summary>
    public async Task<Concession?> Holding(string configurationId, DateOnly today, CancellationToken cancel) =>
        (await Of(configurationId, MostOfOne, cancel)).Where(k => k.Holds(today)).OrderBy(k => k.Used >= k.Quantity).FirstOrDefault();

    private const int MostOfOne = 50;

    /// <summary>Those asked for first, then the latest first.</summary>
    /// <param name="productId">Null for all products.</param>
    /// <param name="rule">The id of a rule that they set aside; null for any.</param>
    public async Task<IReadOnlyList<Concession>> All(string? productId, string? rule, int most, CancellationToken cancel) =>
        await data.Query(SelectAll, Read, cancel, Sql.NullableText(productId), Sql.NullableText(rule), most).ToListAsync(cancel);

    /// <summary>What is set aside, that most often first.</summary>
    public async Task<IReadOnlyList<RuleConcessions>> ByRule(int most, CancellationToken cancel) =>
        await data.Query(SelectByRule, r => new RuleConcessions(r.GetString(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetInt64(4), r.GetInt64(5),
            r.GetDateTime(6)), cancel, most).ToListAsync(cancel);

    /// <summary>Asks for one. False where one is asked for already, where the id is taken, or where the configuration has changed since.</summary>
    /// <param name="version">Of the configuration, as it was seen.</param>
    public async Task<bool> Ask(UnitOfWork work, string configurationId, int version, ConcessionWish wish, string person, DateOnly today,
        CancellationToken cancel)
    {
        await Changed(work, CloseOutlived, cancel, configurationId, today);
        return await Changed(work, Insert, cancel, wish.Id, configurationId, Sql.Json(wish.Rules), wish.Reason, wish.Until, wish.Quantity, person, version);
    }

    /// <summary>Signs, refuses or takes back one that is open. False where it is open no more.</summary>
    public async Task<bool> Answer(UnitOfWork work, string id, string outcome, string person, string answer, CancellationToken cancel) =>
        await Changed(work, Close, cancel, id, outcome, person, answer);

    /// <summary>Withdraws one that was signed. False where it is not, or withdrawn already.</summary>
    public async Task<bool> Withdraw(UnitOfWork work, string id, string person, string why, CancellationToken cancel) =>
        await Changed(work, MarkWithdrawn, cancel, id, person, why);

    private static async Task<bool> Changed(UnitOfWork work, string text, CancellationToken cancel, params object?[] values)
    {
        await using var change = work.Connection.Command(text, values);
        return await change.ExecuteNonQueryAsync(cancel) == 1;
    }

    private static Concession Read(NpgsqlDataReader r) => new(r.GetString(0), r.GetInt64(1), r.GetString(2), r.GetString(3), r.GetInt64(4), r.GetString(5),
        r.ReadJson<LocalText>(6), r.GetInt32(7), r.ReadJson<ImmutableArray<RuleSetAside>>(8), r.GetString(9), r.GetFieldValue<DateOnly>(10), r.GetInt64(11),
        r.GetString(12), r.GetDateTime(13), r.TextOrNull(14), r.TextOrNull(15), MomentOrNull(r, 16), r.GetString(17), r.TextOrNull(18), MomentOrNull(r, 19),
        r.TextOrNull(20), r.GetBoolean(21), r.GetInt64(22));

    private static DateTime? MomentOrNull(NpgsqlDataReader reader, int column) => reader.IsDBNull(column) ? null : reader.GetDateTime(column);
}
