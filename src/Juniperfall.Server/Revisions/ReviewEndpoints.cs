using System.Security.Claims;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Revisions;

/// <param name="Head">The edit that was looked at; a later one has to be looked at again.</param>
/// <param name="Note">What the approver should know.</param>
public sealed record ReviewRequest(long Head, string Note);

/// <param name="Note">Why it goes back.</param>
public sealed record ReviewReturn(string Note);

/// <summary>That someone asked for a release, and what came of it.</summary>
/// <param name="Outcome">released, sent back or taken back; null while it is open.</param>
public sealed record ReviewView(string AskedBy, DateTime AskedAt, string Note, string? Outcome, string? AnsweredBy, DateTime? AnsweredAt, string Answer)
{
    public static ReviewView? Of(Review? review) => review is null ? null
        : new(review.AskedBy, review.AskedAt, review.Note, review.Outcome, review.AnsweredBy, review.AnsweredAt, review.Answer);
}

/// <summary>What of a revision waits for whoever asks.</summary>
/// <param name="Kind">release: it waits for its release; sentBack: it has come back; remarks: some on it are open; answered: one's own remarks are;
/// concession: someone asks for one.</param>
/// <param name="By">Who did it last.</param>
/// <param name="Text">The note of the review, or the last remark or answer.</param>
/// <param name="Count">How many remarks; 1 of a review and of a concession.</param>
/// <param name="Id">Of the concession; empty of the others.</param>
public sealed record WaitingView(string Kind, long RevisionId, string ProductCode, string ProductLabel, int Number, string By, DateTime At, string Text,
    long Count, string Id);

/// <summary>Asking for the release of a revision, taking that back, and sending it back.</summary>
public static class ReviewEndpoints
{
    private const int MostListed = 200, LongestNote = 2_000;

    public static void MapReviews(this IEndpointRouteBuilder api)
    {
        api.MapGet("/waiting", Waiting).Needs(Right.Read).WithName("waiting").WithSummary("What waits for whoever asks, the longest waiting first")
            .Produces<List<WaitingView>>();
        var one = api.MapGroup("/revisions/{id:long}/review").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        one.MapGet("", Latest).Needs(Right.Read).WithName("review").WithSummary("The latest review of a revision; no content where there was none")
            .Produces<ReviewView>().Produces(204);
        one.MapPost("", Ask).Needs(Right.Edit).WithName("askForRelease")
            .WithSummary("Asks for the release of a draft; it is not edited meanwhile").Produces(204);
        one.MapDelete("", TakeBack).Needs(Right.Edit).WithName("takeBackReview").WithSummary("Makes a revision in review a draft again").Produces(204);
        one.MapPost("/return", SendBack).Needs(Right.Release).WithName("sendBack").WithSummary("Sends a revision in review back with a note").Produces(204);
    }

    private static async Task<IResult> Waiting(ClaimsPrincipal user, ReviewStore reviews, CancellationToken cancel) =>
        TypedResults.Ok((await reviews.WaitingFor(user.Identity!.Name!, user.Has(Right.Release), user.Has(Right.Edit), MostListed, cancel))
            .Select(w => new WaitingView(w.Kind, w.RevisionId, w.ProductCode, w.ProductLabel.Or(w.ProductCode), w.Number, w.By, w.At, w.Text, w.Count, w.Id))
            .ToList());

    private static async Task<IResult> Latest(long id, ReviewStore reviews, CancellationToken cancel) =>
        ReviewView.Of(await reviews.Latest(id, cancel)) is { } review ? TypedResults.Ok(review) : TypedResults.NoContent();

    private static async Task<IResult> Ask(long id, ReviewRequest request, HttpContext context, CompiledModels models,
        IEnumerable<IReleaseCheck> checks, ReviewStore reviews, AuditStore audit, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (Fault(request.Note) is { } fault)
            return fault;
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (compiled.Revision.State != "draft")
            return Problems.Conflict($"Revision {compiled.Revision.Number} is {compiled.Revision.State} already.");
        var check = await ReleaseEndpoints.Check(compiled, context.User, checks, cancel);
        if (!check.Ready)
            return Problems.Conflict(check.Problems.FirstOrDefault() ?? $"{check.Findings.Count} faults stand against the release.");
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await reviews.Ask(work, id, request.Head, context.User.Identity!.Name!, request.Note.Trim(), cancel))
            return Problems.Conflict("The draft has changed since you looked at it. Look again, then ask for its release.");
        await audit.Add(work, context.Happened(AuditKind.ReleaseAskedFor, compiled.Revision.Document.Code, $"revision {compiled.Revision.Number}"), cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }

    private static Task<IResult> TakeBack(long id, HttpContext context, CompiledModels models, ReviewStore reviews, AuditStore audit, NpgsqlDataSource data,
        CancellationToken cancel) => Return(id, "taken back", "", context, models, reviews, audit, data, cancel);

    private static Task<IResult> SendBack(long id, ReviewReturn request, HttpContext context, CompiledModels models, ReviewStore reviews, AuditStore audit,
        NpgsqlDataSource data, CancellationToken cancel) =>
        Fault(request.Note) is { } fault ? Task.FromResult(fault)
            : Return(id, "sent back", request.Note.Trim(), context, models, reviews, audit, data, cancel);

    private static async Task<IResult> Return(long id, string outcome, string answer, HttpContext context, CompiledModels models, ReviewStore reviews,
        AuditStore audit, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await reviews.Return(work, id, outcome, context.User.Identity!.Name!, answer, cancel))
            return Problems.Conflict($"Revision {compiled.Revision.Number} is in no review.");
        await audit.Add(work, context.Happened(outcome == "sent back" ? AuditKind.RevisionSentBack : AuditKind.ReviewTakenBack,
            compiled.Revision.Document.Code, $"revision {compiled.Revision.Number}{(answer.Length > 0 ? $": {answer}" : "")}"), cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }

    /// <summary>What is wrong with a text that a person writes.</summary>
    internal static IResult? Fault(string note, string place = "/note", bool isNeeded = false) => isNeeded && note.Trim().Length == 0
        ? Problems.Wrong(place, "Say why, or what is meant; it cannot be empty.")
        : note.Trim().Length > LongestNote ? Problems.Wrong(place, $"A text here has at most {LongestNote} characters.") : null;
}
