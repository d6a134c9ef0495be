using System.Security.Claims;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Cases;

/// <param name="Quantity">How many are ordered.</param>
public sealed record CaseFactsRequest(IReadOnlyList<PickRequest> Picks, string Quantity = "1", string? Site = null, DateOnly? Date = null)
    : PicksRequest(Picks, Site, Date);

/// <summary>The test cases of a revision: what became of them, what one made of these picks could expect, what they reach.</summary>
public static class CaseEndpoints
{
    private const int MostProposals = 100;
    private static readonly TimeSpan CoverageLimit = TimeSpan.FromSeconds(20), Patience = TimeSpan.FromSeconds(4);

    public static void MapCases(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/revisions/{id:long}/cases").ProducesProblem(404).ProducesProblem(422);
        one.MapGet("", Show).Needs(Right.Read).WithName("cases").WithSummary("The test cases of a revision, with what became of each").Produces<CasesView>();
        one.MapPost("/facts", Facts).Needs(Right.Edit).WithName("caseFacts").WithSummary("What a test case of some picks could expect: all that comes out now")
            .Produces<CaseFactsView>();
        one.MapGet("/coverage", Coverage).Needs(Right.Remark).WithName("caseCoverage")
            .WithSummary("What of the model its test cases reach, and cases that would reach the rest").Produces<CoverageView>();
    }

    private static async Task<IResult> Show(long id, bool? counts, ClaimsPrincipal user, CompiledModels models, CaseRuns runs, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        var run = runs.Of(compiled);
        var words = new CaseViewWords(compiled, user.Has(Right.SeeCosts));
        // Beside every edit only the counts are wanted, again and again.
        return TypedResults.Ok(counts == true ? words.CountsOf(run) : await compiled.InTurn(() => words.Of(run), cancel));
    }

    private static async Task<IResult> Facts(long id, CaseFactsRequest request, CompiledModels models, CancellationToken cancel)
    {
        if (!Exact.TryParse(request.Quantity, out var quantity) || quantity.Sign <= 0)
            return Problems.Wrong("/quantity", "A quantity is a number above zero.");
        // A case is of the model as it is: what is paused for a time, or set aside, is no part of it.
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        var (read, problem) = ReadPicks.Of(compiled, request);
        if (read is null)
            return problem!;
        // What was filled in would be suggested by nobody the next time: a case picks it.
        var question = new CaseQuestion([.. read.Picks, .. read.FillIns.Select(f => f.Pick)], read.At, quantity, []);
        var asked = await compiled.Ask(new Question(question.Picks), read.At, cancel);
        var words = new CaseViewWords(compiled, true);
        return TypedResults.Ok(await compiled.InTurn(() => new CaseFactsView(
            [.. question.Picks.Where(p => compiled.Text.At(p.Path) is not null)
                .Select(p => new CasePick(p.Path, CaseQuestion.Written(compiled.Text.At(p.Path)!, p.Value, compiled.Text)))],
            [.. new CaseFacts(compiled.Model, compiled.Text).Of(question, new(asked.Answer, asked.Values, asked.Result, asked.Price)).Select(words.Of)]),
            cancel));
    }

    private static async Task<IResult> Coverage(long id, CompiledModels models, CaseRuns runs, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (compiled.Model.Findings.Any(f => f.Blocks))
            return Problems.Conflict("A model with faults is not asked what its cases reach. Mend them first.");
        var run = runs.Of(compiled);
        await Task.WhenAny(run.Finished, Task.Delay(Patience, cancel));
        return TypedResults.Ok(await compiled.Solve(Effectivity.Any, (reasoner, time) => CoverageOf(compiled, run, reasoner, time), cancel, Urgency.Analysis,
            CoverageLimit));
    }

    private static CoverageView CoverageOf(CompiledModel compiled, CaseRun run, Reasoner reasoner, CancellationToken time)
    {
        var coverage = new CaseCoverage(reasoner, time);
        var cases = compiled.Revision.Document.Cases;
        foreach (var one in cases)
            if (run.OutcomeOf(one) is { } outcome)
                coverage.Add(outcome.Reach);
        if (run.Trouble is null && cases.Any(c => !run.Results.ContainsKey(c.Id)))
            return new CaseViewWords(compiled, true).Of(coverage.All.ToList(), [], pending: true, finished: false);
        var all = coverage.All.ToList();
        var (words, proposals) = (new CaseViewWords(compiled, true), new List<(ProposedCase, TestCase)>());
        foreach (var proposed in coverage.Proposals(time).Take(MostProposals))
        {
            var one = new TestCase
            {
                Id = Guid.NewGuid().ToString("N"),
                Name = words.NameOf(proposed),
                Picks = [.. proposed.Picks.Where(p => compiled.Text.At(p.Path) is not null)
                    .Select(p => new CasePick(p.Path, CaseQuestion.Written(compiled.Text.At(p.Path)!, p.Value, compiled.Text)))],
            };
            var question = CaseQuestion.Of(one, compiled.Model, compiled.Text);
            var facts = new CaseFacts(compiled.Model, compiled.Text).Of(question, CaseOutcome.Of(compiled.Model, reasoner, question, time));
            if (time.IsCancellationRequested)
                break;
            proposals.Add((proposed, one with
            {
                Expected = [.. facts.Where(f => CaseResult.IsUsuallyExpected(f.Of)).Select(f => new CaseExpectation(f.Of, f.At, f.Is))],
            }));
        }
        return words.Of(all, proposals, pending: false, finished: !time.IsCancellationRequested);
    }
}
