using System.Security.Claims;
using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Concessions;

/// <param name="Id">Given by the page, so that a request sent twice asks once.</param>
/// <param name="Rules">The ids of the rules that are to be set aside.</param>
/// <param name="Until">The last day on which something may be generated under it.</param>
/// <param name="Quantity">How many pieces may be generated under it in all.</param>
/// <param name="Version">The version of the configuration that was seen.</param>
public sealed record ConcessionRequest(string Id, IReadOnlyList<string> Rules, string Reason, DateOnly Until, long Quantity, int Version);

/// <param name="Note">What whoever answers has to say; needed where it is refused or withdrawn.</param>
public sealed record ConcessionAnswer(string Note = "");

/// <summary>Concessions: asked for, signed by someone else, refused, taken back, withdrawn; and all of them, also by rule.</summary>
public static class ConcessionEndpoints
{
    private const int MostListed = 500, MostOfOne = 50;
    private const long MostPieces = 1_000_000;

    public static void MapConcessions(this IEndpointRouteBuilder api)
    {
        var all = api.MapGroup("/concessions").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        all.MapGet("", List).Needs(Right.Read).WithName("concessions").WithSummary("Concessions, those asked for first").Produces<List<ConcessionView>>();
        all.MapGet("/rules", ByRule).Needs(Right.Read).WithName("concessionsByRule").WithSummary("The rules that are set aside, that most often first")
            .Produces<List<RuleConcessionsView>>();
        all.MapGet("/{id}", Show).Needs(Right.Read).WithName("concession").WithSummary("One concession").Produces<ConcessionView>();
        all.MapPost("/{id}/sign", Sign).Needs(Right.Release).WithName("signConcession").WithSummary("Signs a concession that someone else asked for")
            .Produces<ConcessionView>();
        all.MapPost("/{id}/refuse", Refuse).Needs(Right.Release).WithName("refuseConcession").WithSummary("Refuses a concession").Produces<ConcessionView>();
        all.MapPost("/{id}/take-back", TakeBack).Needs(Right.Configure).WithName("takeBackConcession")
            .WithSummary("Takes back a concession that one has asked for").Produces<ConcessionView>();
        all.MapPost("/{id}/withdraw", Withdraw).Needs(Right.Release).WithName("withdrawConcession").WithSummary("Withdraws a concession that was signed")
            .Produces<ConcessionView>();
        var one = api.MapGroup("/configurations/{id}/concessions").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        one.MapGet("", OfConfiguration).Needs(Right.Read).WithName("concessionsOf").WithSummary("The concessions of a configuration, the latest first")
            .Produces<List<ConcessionView>>();
        one.MapPost("", Ask).Needs(Right.Configure).WithName("askForConcession").WithSummary("Asks for a concession for a configuration as it is saved")
            .Produces<ConcessionView>();
    }

    /// <param name="product">The id of a product; left out, those of all products are meant.</param>
    /// <param name="rule">The id of a rule that they set aside; left out, any.</param>
    private static async Task<IResult> List(string? product, string? rule, ConcessionStore concessions, HeldConcessions held, CancellationToken cancel) =>
        TypedResults.Ok((await concessions.All(product, rule, MostListed, cancel)).Select(k => ConcessionView.Of(k, held.Today)).ToList());

    private static async Task<IResult> ByRule(ConcessionStore concessions, CancellationToken cancel) =>
        TypedResults.Ok((await concessions.ByRule(MostListed, cancel))
            .Select(r => new RuleConcessionsView(r.ProductCode, r.Row, r.Mark, r.Sentence, r.Signed, r.Open, r.Latest)).ToList());

    private static async Task<IResult> Show(string id, ConcessionStore concessions, HeldConcessions held, CancellationToken cancel) =>
        await concessions.One(id, cancel) is { } found ? TypedResults.Ok(ConcessionView.Of(found, held.Today)) : Problems.Gone("concession");

    private static async Task<IResult> OfConfiguration(string id, ConfigurationStore configurations, ConcessionStore concessions, HeldConcessions held,
        CancellationToken cancel) =>
        await configurations.Load(id, cancel) is null ? Problems.Gone("configuration")
            : TypedResults.Ok((await concessions.Of(id, MostOfOne, cancel)).Select(k => ConcessionView.Of(k, held.Today)).ToList());

    private static async Task<IResult> Ask(string id, ConcessionRequest request, HttpContext context, ConfigurationStore configurations,
        ConcessionStore concessions, CompiledModels models, AuditStore audit, NpgsqlDataSource data, HeldConcessions held, CancellationToken cancel)
    {
        if (FaultOf(request, held.Today) is { } fault)
            return fault;
        if (await configurations.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } compiled)
            return Problems.Gone("configuration");
        var person = context.User.Identity!.Name!;
        if (await concessions.One(request.Id, cancel) is { } already)
            return already.ConfigurationId == id && already.AskedBy == person ? await Show(request.Id, concessions, held, cancel)
                : Problems.Of(StatusCodes.Status409Conflict, "There is another concession with this id already.", "/id");
        if (compiled.Revision.State != "released")
            return Problems.Conflict($"Revision {compiled.Revision.Number} is {compiled.Revision.State}: a concession is for what is generated on a released "
                + "revision. The rules of a draft can be changed.");
        if (ReadPicks.FaultOf(request.Rules, compiled, "/rules") is { } unknown)
            return unknown;
        var (rules, problem) = await BrokenOnes(request, stored, compiled, models, cancel);
        if (rules is null)
            return problem!;
        await using var work = await UnitOfWork.Begin(data, cancel);
        var wish = new ConcessionWish(request.Id, [.. rules], request.Reason.Trim(), request.Until, request.Quantity);
        if (!await concessions.Ask(work, id, request.Version, wish, person, held.Today, cancel))
            return Problems.Conflict(stored.Version != request.Version
                ? "Someone else has changed this configuration since you opened it. Reload to see what it is now, then ask."
                : "A concession for this configuration is asked for already. It is answered or taken back first.");
        await audit.Add(work, context.Happened(AuditKind.ConcessionAskedFor, compiled.Revision.Document.Code,
            $"{stored.Name}: {Names(wish.Rules)}: {wish.Reason}"), cancel);
        await work.Commit(cancel);
        return await Show(request.Id, concessions, held, cancel);
    }

    private static IResult? FaultOf(ConcessionRequest request, DateOnly today) =>
        !Guid.TryParse(request.Id, out _) ? Problems.Wrong("/id", "The id of a new concession is a UUID.")
        : request.Rules.Count == 0 ? Problems.Wrong("/rules", "A concession names the rules that it sets aside.")
        : ReviewEndpoints.Fault(request.Reason, "/reason", isNeeded: true)
        ?? (request.Until < today ? Problems.Wrong("/until", $"{request.Until:yyyy-MM-dd} is over. A concession is until a day to come.")
        : request.Quantity is < 1 or > MostPieces ? Problems.Wrong("/quantity", $"A concession is for 1 to {MostPieces:N0} pieces.") : null);

    /// <summary>The rules as they read, where the configuration stands without them and breaks each; otherwise why they cannot be set aside.</summary>
    private static async Task<(List<RuleSetAside>? Rules, IResult? Problem)> BrokenOnes(ConcessionRequest request, StoredConfiguration stored,
        CompiledModel compiled, CompiledModels models, CancellationToken cancel)
    {
        var without = await models.For(compiled, [.. request.Rules], stored.At.Date, cancel);
        var read = ReadPicks.Of(without, stored);
        if (read.Faults.Count > 0)
            return (null, Problems.Conflict(string.Join(" ", read.Faults.Select(f => f.Sentence))));
        var asked = await without.Ask(read.Question, read.At, cancel);
        var view = new AnswerWords(without).Of(asked, [], new Audience(null, SeesCosts: false));
        if (view.Valid == false)
            return (null, Problems.Conflict("It does not stand with these rules set aside either: "
                + string.Join(" ", view.Clashes.Select(c => c.Reason.Sentence))));
        if (!view.Exact)
            return (null, Problems.Conflict("Whether it stands with these rules set aside could not be found out in time. Nothing was asked for."));
        if (view.Missing.Count > 0)
            return (null, Problems.Conflict($"Still needed: {string.Join(", ", view.Missing.Select(m => m.Label))}. "
                + "A concession is for a whole configuration."));
        var rules = new List<RuleSetAside>();
        for (var i = 0; i < request.Rules.Count; i++)
            if (view.Advice.FirstOrDefault(a => a.RowId == request.Rules[i]) is { } broken)
                rules.Add(new(broken.RowId, broken.Mark, broken.Sentence));
            else
                return (null, Problems.Wrong($"/rules/{i}", $"{compiled.NameOf(request.Rules[i])} is kept by this configuration: it need not be set aside."));
        return (rules, null);
    }

    private static string Names(IEnumerable<RuleSetAside> rules) => string.Join(", ", rules.Select(r => r.Mark));

    private static async Task<IResult> Sign(string id, ConcessionAnswer request, HttpContext context, ConcessionStore concessions, AuditStore audit,
        NpgsqlDataSource data, HeldConcessions held, CancellationToken cancel)
    {
        if (await concessions.One(id, cancel) is not { } concession)
            return Problems.Gone("concession");
        if (concession.AskedBy == context.User.Identity!.Name)
            return Problems.Conflict("Whoever asks for a concession does not sign it; someone else does.");
        if (concession.Outcome is null && !concession.IsOfThis)
            return Problems.Conflict("The configuration has changed since this was asked for. It has to be asked for anew.");
        if (concession.Outcome is null && concession.Until < held.Today)
            return Problems.Conflict($"{concession.Until:yyyy-MM-dd} is over. It has to be asked for anew.");
        return await Answer(concession, "signed", AuditKind.ConcessionSigned, request.Note, context, concessions, audit, data, held, cancel);
    }

    private static async Task<IResult> Refuse(string id, ConcessionAnswer request, HttpContext context, ConcessionStore concessions, AuditStore audit,
        NpgsqlDataSource data, HeldConcessions held, CancellationToken cancel) =>
        await concessions.One(id, cancel) is not { } concession ? Problems.Gone("concession")
            : ReviewEndpoints.Fault(request.Note, isNeeded: true)
            ?? await Answer(concession, "refused", AuditKind.ConcessionRefused, request.Note, context, concessions, audit, data, held, cancel);

    private static async Task<IResult> TakeBack(string id, HttpContext context, ConcessionStore concessions, AuditStore audit, NpgsqlDataSource data,
        HeldConcessions held, CancellationToken cancel)
    {
        if (await concessions.One(id, cancel) is not { } concession)
            return Problems.Gone("concession");
        return concession.AskedBy != context.User.Identity!.Name
            ? Problems.Conflict($"{concession.AskedBy} asked for this concession, and takes it back.")
            : await Answer(concession, "taken back", AuditKind.ConcessionTakenBack, "", context, concessions, audit, data, held, cancel);
    }

    private static async Task<IResult> Answer(Concession concession, string outcome, AuditKind kind, string note, HttpContext context,
        ConcessionStore concessions, AuditStore audit, NpgsqlDataSource data, HeldConcessions held, CancellationToken cancel)
    {
        if (ReviewEndpoints.Fault(note) is { } fault)
            return fault;
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await concessions.Answer(work, concession.Id, outcome, context.User.Identity!.Name!, note.Trim(), cancel))
            return Problems.Conflict($"Concession {concession.Number} is answered already. Reload to see how.");
        await audit.Add(work, Told(kind, concession, note, context), cancel);
        await work.Commit(cancel);
        return await Show(concession.Id, concessions, held, cancel);
    }

    private static async Task<IResult> Withdraw(string id, ConcessionAnswer request, HttpContext context, ConcessionStore concessions, AuditStore audit,
        NpgsqlDataSource data, HeldConcessions held, CancellationToken cancel)
    {
        if (ReviewEndpoints.Fault(request.Note, isNeeded: true) is { } fault)
            return fault;
        if (await concessions.One(id, cancel) is not { } concession)
            return Problems.Gone("concession");
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await concessions.Withdraw(work, id, context.User.Identity!.Name!, request.Note.Trim(), cancel))
            return Problems.Conflict($"Concession {concession.Number} does not stand: only one that is signed is withdrawn, and once.");
        await audit.Add(work, Told(AuditKind.ConcessionWithdrawn, concession, request.Note, context), cancel);
        await work.Commit(cancel);
        return await Show(id, concessions, held, cancel);
    }

    private static AuditEvent Told(AuditKind kind, Concession concession, string note, HttpContext context) => context.Happened(kind, concession.ProductCode,
        $"concession {concession.Number}, {concession.ConfigurationName}: {Names(concession.Rules)}{(note.Trim().Length > 0 ? $": {note.Trim()}" : "")}");
}
