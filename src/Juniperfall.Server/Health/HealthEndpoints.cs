using System.Security.Claims;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Health;

public sealed record AcceptedView(string Reason, string Person, DateTime At);

/// <summary>One thing that was found, with its proof.</summary>
/// <param name="Mark">§ and number of a rule; empty for other rows.</param>
/// <param name="Example">A configuration that shows it, as picks.</param>
public sealed record HealthFindingView(string Key, HealthKind Kind, HealthWeight Weight, string RowId, string? AssemblyId, string Name, string Mark,
    string Sentence,
    IReadOnlyList<PickView>? Example, IReadOnlyList<CauseView>? Causes, AcceptedView? Accepted);

/// <summary>An analysis: what was found so far is shown only once it is done.</summary>
/// <param name="Head">The edit that it is of.</param>
public sealed record HealthView(long Head, bool Running, int Done, int Total, IReadOnlyList<HealthFindingView> Findings, IReadOnlyList<string> Unfinished);

/// <param name="Reason">Why it may stay as it is; null takes an acceptance back.</param>
public sealed record AcceptRequest(string Key, string? Reason);

/// <summary>How many configurations there are, as a number of any length and as people read it.</summary>
/// <param name="Exact">False where time ran out: then there are at least so many.</param>
public sealed record CountView(string Number, bool Exact);

/// <summary>How many configurations a rule removes: those without it less those with it. Null where time ran out.</summary>
public sealed record RemovedView(string? Removed, CountView With, CountView Without);

/// <summary>What analysis finds in a revision, what of it was accepted, and how many configurations there are.</summary>
public static class HealthEndpoints
{
    private const int LongestReason = 1000;
    private static readonly TimeSpan CountLimit = TimeSpan.FromSeconds(2);

    public static void MapHealth(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/revisions/{id:long}").ProducesProblem(404).ProducesProblem(422);
        one.MapGet("/health", Show).Needs(Right.Read).WithName("health").WithSummary("What analysis finds in a model as a whole").Produces<HealthView>();
        one.MapPost("/health/accepted", Accept).Needs(Right.Edit).WithName("acceptFinding").WithSummary("Accepts a finding with a reason, or takes that back")
            .Produces<HealthView>();
        one.MapPost("/count", Count).Needs(Right.Read).WithName("count").WithSummary("How many complete configurations contain some picks")
            .Produces<CountView>();
        one.MapPost("/rules/{rowId}/removed", Removed).Needs(Right.Read).WithName("removedByRule").WithSummary("How many configurations a rule removes")
            .Produces<RemovedView>();
    }

    private static async Task<IResult> Show(long id, DateOnly? date, CompiledModels models, HealthRuns runs, HealthStore store, CancellationToken cancel) =>
        await models.Get(id, cancel) is { } compiled
            ? TypedResults.Ok(await View(compiled, runs.Of(compiled, new(null, date)), store, cancel)) : Problems.Gone("revision");

    private static async Task<IResult> Accept(long id, DateOnly? date, AcceptRequest request, ClaimsPrincipal user, CompiledModels models, HealthRuns runs,
        HealthStore store, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        var run = runs.Of(compiled, new(null, date));
        if (request.Reason is { } reason)
        {
            if (reason.Trim().Length is 0 or > LongestReason)
                return Problems.Wrong("/reason", $"Say in up to {LongestReason} characters why this may stay as it is.");
            if (run.Report?.Findings.Any(f => f.Key == request.Key) != true)
                return Problems.Wrong("/key", "This was not found in the model as it stands now. Look again.");
            await store.Accept(compiled.Revision.ProductId, request.Key, reason.Trim(), user.Identity!.Name!, cancel);
        }
        else
            await store.Withdraw(compiled.Revision.ProductId, request.Key, cancel);
        return TypedResults.Ok(await View(compiled, run, store, cancel));
    }

    private static async Task<HealthView> View(CompiledModel compiled, HealthRun run, HealthStore store, CancellationToken cancel)
    {
        if (run.Report is not { } report)
            return new(run.Head, true, run.Progress.Done, run.Progress.Total, [], []);
        var accepted = await store.Accepted(compiled.Revision.ProductId, cancel);
        var words = new AnswerWords(compiled);
        return new(run.Head, false, run.Progress.Total, run.Progress.Total, [.. report.Findings.Select(f => new HealthFindingView(
            f.Key, f.Kind, f.Weight, f.RowId, compiled.Model.Index.AssemblyOfRow.GetValueOrDefault(f.RowId)?.Id, compiled.NameOf(f.RowId),
            compiled.Model.Index.Rows.TryGetValue(f.RowId, out var row) ? compiled.Model.Index.MarkOf(row) ?? "" : "", f.Sentence,
            f.Example?.Select(words.Of).ToList(), f.Causes?.Select(words.Of).ToList(),
            accepted.TryGetValue(f.Key, out var a) ? new(a.Reason, a.Person, a.At) : null))], report.Unfinished);
    }

    private static CountView ViewOf(CountAnswer count) => new(count.Number.ToString(System.Globalization.CultureInfo.InvariantCulture), count.Exact);

    private static async Task<IResult> Count(long id, PicksRequest request, CompiledModels models, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        return TypedResults.Ok(ViewOf(await compiled
            .Solve(read.At, (reasoner, time) => reasoner.Count(new([.. read.Picks]), time), cancel, Urgency.Analysis, CountLimit)));
    }

    private static async Task<IResult> Removed(long id, string rowId, DateOnly? date, CompiledModels models, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (compiled.Model.Index.Rows.GetValueOrDefault(rowId) is not IRule)
            return Problems.Gone("rule");
        var at = new Effectivity(null, date);
        var (with, without) = await compiled
            .Solve(at, (reasoner, time) => (reasoner.Count(new([]), time), new Reasoner(compiled.Model.Without(rowId), at).Count(new([]), time)), cancel,
            Urgency.Analysis, CountLimit * 5);
        return TypedResults.Ok(new RemovedView(with.Exact
            && without.Exact ? (without.Number - with.Number).ToString(System.Globalization.CultureInfo.InvariantCulture) : null, ViewOf(with),
            ViewOf(without)));
    }
}
