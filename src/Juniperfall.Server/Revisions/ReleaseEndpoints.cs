using System.Security.Claims;
using Juniperfall.Formats;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Revisions;

/// <summary>What stands against a release, and whether the person may do it.</summary>
/// <param name="OpenRemarks">How many remarks are open: they do not keep anyone from asking for the release, but from the release.</param>
/// <param name="Pending">Whether something is still being found out, so that it is worth looking again in a moment.</param>
public sealed record ReleaseCheck(bool Ready, bool OwnDraft, IReadOnlyList<FindingView> Findings, IReadOnlyList<string> Problems, bool Pending,
    long OpenRemarks = 0);

/// <param name="Head">The edit that was checked; a later one has to be checked again.</param>
/// <param name="Note">What is new in it, for who uses it; at most 2,000 characters.</param>
public sealed record ReleaseRequest(long Head, string Note = "");

/// <param name="Why">At most 2,000 characters.</param>
public sealed record WithdrawRequest(string Why);

/// <summary>Releasing revisions: what stands against it, and doing it.</summary>
public static class ReleaseEndpoints
{
    public static void AddReleaseChecks(this IServiceCollection services) => services
        .AddSingleton<IReleaseCheck, IsDraft>().AddSingleton<IReleaseCheck, HasNoFaults>().AddSingleton<IReleaseCheck, HasValidConfiguration>()
        .AddSingleton<IReleaseCheck, Cases.PassesItsCases>();

    public static void MapReleases(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/revisions/{id:long}/release").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        one.MapGet("", Look).Needs(Right.Read).WithName("checkRelease").WithSummary("What stands against releasing a revision").Produces<ReleaseCheck>();
        one.MapPost("", Release).Needs(Right.Release).WithName("release").WithSummary("Releases a revision").Produces<RevisionView>();
        api.MapPost("/revisions/{id:long}/withdraw", Withdraw).Needs(Right.Release).WithName("withdraw")
            .WithSummary("Withdraws a released revision: what is saved on it can be read and moved, nothing new is saved on it or generated").Produces(204)
            .ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
    }

    private static async Task<IResult> Look(long id, ClaimsPrincipal user, CompiledModels models, IEnumerable<IReleaseCheck> checks, RemarkStore remarks,
        CancellationToken cancel) => await models.Get(id, cancel) is not { } compiled ? Problems.Gone("revision")
            : TypedResults.Ok(await Check(compiled, user, checks, cancel) with { OpenRemarks = await remarks.OpenOf(id, cancel) });

    internal static async Task<ReleaseCheck> Check(CompiledModel compiled, ClaimsPrincipal user, IEnumerable<IReleaseCheck> checks, CancellationToken cancel)
    {
        var (findings, problems, pending) = (new List<FindingView>(), new List<string>(), false);
        foreach (var check in checks)
        {
            var objections = await check.Check(compiled, cancel);
            findings.AddRange(objections.Findings);
            problems.AddRange(objections.Problems);
            pending |= objections.IsPending;
        }
        return new(findings.Count == 0 && problems.Count == 0, compiled.Revision.Author == user.Identity!.Name, findings, problems, pending);
    }

    private static async Task<IResult> Release(long id, ReleaseRequest request, HttpContext context, CompiledModels models, IEnumerable<IReleaseCheck> checks,
        RevisionStore store, ReviewStore reviews, RemarkStore remarks, AuditStore audit, NpgsqlDataSource data, WarmUp warmUp, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (ReviewEndpoints.Fault(request.Note) is { } fault)
            return fault;
        var check = await Check(compiled, context.User, checks, cancel);
        if (check.OwnDraft)
            return Problems.Of(StatusCodes.Status403Forbidden, "A revision is released by someone else than its author.");
        if (compiled.Revision.Head != request.Head)
            return Problems.Conflict("The draft has changed since you looked at it. Look again, then release.");
        if (!check.Ready)
            return Problems.Conflict(check.Problems.FirstOrDefault() ?? $"{check.Findings.Count} faults stand against the release.");
        if (await remarks.OpenOf(id, cancel) is > 0 and var open)
            return Problems.Conflict(open == 1 ? "A remark is open. Close it first, or send the revision back."
                : $"{open} remarks are open. Close them first, or send the revision back.");
        await using (var work = await UnitOfWork.Begin(data, cancel))
        {
            if (!await store.Release(work, id, request.Head, context.User.Identity!.Name!, ModelPackage.Of(compiled.Model).Library, cancel,
                request.Note.Trim()))
                return Problems.Conflict("The draft has changed since you looked at it. Look again, then release.");
            await reviews.CloseAs(work, id, "released", context.User.Identity!.Name!, "", cancel);
            await audit.Add(work, context.Happened(AuditKind.RevisionReleased, compiled.Revision.Document.Code,
                $"revision {compiled.Revision.Number}, written by {compiled.Revision.Author}"), cancel);
            await work.Commit(cancel);
        }
        if (await models.Get(id, cancel) is not { } released)
            return Problems.Gone("revision");
        _ = warmUp.AfterRelease(released);
        return TypedResults.Ok(RevisionView.Of(released));
    }

    private static async Task<IResult> Withdraw(long id, WithdrawRequest request, HttpContext context, CompiledModels models, RevisionStore store,
        AuditStore audit, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (ReviewEndpoints.Fault(request.Why, "/why", isNeeded: true) is { } fault)
            return fault;
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await store.Withdraw(work, id, context.User.Identity!.Name!, request.Why.Trim(), cancel))
            return Problems.Conflict($"Revision {compiled.Revision.Number} is {compiled.Revision.State}; only a released one is withdrawn.");
        await audit.Add(work, context.Happened(AuditKind.RevisionWithdrawn, compiled.Revision.Document.Code,
            $"revision {compiled.Revision.Number}: {request.Why.Trim()}"), cancel);
        await work.Commit(cancel);
        return TypedResults.NoContent();
    }
}
