using System.Security.Claims;
using System.Text.Json;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Library;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>What a change of the library would do to one product: to its draft or, where there is none, to the next one.</summary>
/// <param name="Faults">Those that would stand in it and do not now.</param>
/// <param name="Failing">The test cases that pass now and would not, each with its first difference; at most so many as are told.</param>
/// <param name="Asked">How many saved configurations and structures were asked, what was changed last first.</param>
/// <param name="Entries">Those of them that would not come out the same.</param>
public sealed record TouchedProductView(string Code, string Label, long RevisionId, int Number, string State, IReadOnlyList<string> Faults, int Cases,
    int FailingCases, IReadOnlyList<string> Failing, int Asked, IReadOnlyList<ImpactEntry> Entries);

/// <param name="Finished">False where time ran out before every product was asked.</param>
public sealed record LibraryImpactView(IReadOnlyList<TouchedProductView> Products, bool Finished);

/// <summary>
/// What a change of the library would touch, before it is stored. Released revisions carry the library of their release: nothing touches them.
/// </summary>
public static class LibraryImpactEndpoint
{
    private const int MostProducts = 500, MostAsked = 60, MostTold = 12;
    private static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(15);

    public static void MapLibraryImpact(this IEndpointRouteBuilder api) =>
        api.MapPost("/library/{table}/impact", Show).Needs(Right.EditLibrary).WithName("libraryImpact")
            .WithSummary("What a change of the library would touch: faults, test cases and saved configurations of every product; nothing is stored")
            .Produces<LibraryImpactView>().ProducesProblem(404).ProducesProblem(422);

    private static async Task<IResult> Show(string table, LibraryRows request, ClaimsPrincipal user, LibraryRemoval removal, LibraryStore library,
        RevisionStore revisions, CompiledModels models, ImpactStore store, CancellationToken cancel)
    {
        var (before, after, problem) = await LibraryEndpoints.Supposed(table, request, removal, library, cancel);
        if (before is null || after is null)
            return problem!;
        using var time = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        time.CancelAfter(TimeLimit);
        var touched = new List<TouchedProductView>();
        try
        {
            foreach (var product in await revisions.Products("", MostProducts, cancel))
                if (await revisions.Load(product.RevisionId, time.Token) is { } revision
                    && await Of(revision, before, after, models, store, user.Has(Right.SeeCosts), time.Token) is { } view)
                    touched.Add(view);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return TypedResults.Ok(new LibraryImpactView(touched, false));
        }
        return TypedResults.Ok(new LibraryImpactView(touched, true));
    }

    /// <summary>Null where the model reads nothing that is different.</summary>
    private static async Task<TouchedProductView?> Of(StoredRevision revision, LibraryFacts before, LibraryFacts after, CompiledModels models,
        ImpactStore store, bool seesCosts, CancellationToken cancel)
    {
        static string Read(BoundModel model) => JsonSerializer.Serialize(ModelPackage.Of(model).Library, DocumentJson.Options);
        // As the draft reads it, or the next one would.
        var open = revision with { Facts = null };
        var now = await models.Supposed(open, before, cancel);
        var then = await models.Supposed(open, after, cancel);
        try
        {
            if (await now.InTurn(() => Read(now.Model) == Read(then.Model), cancel))
                return null;
            var faults = then.Model.Findings.Where(f => f.Blocks).Select(f => $"{then.NameOf(f.RowId)}: {f.Diagnostic.Message}")
                .Except(now.Model.Findings.Where(f => f.Blocks).Select(f => $"{now.NameOf(f.RowId)}: {f.Diagnostic.Message}")).ToList();
            var failing = new List<string>();
            foreach (var one in faults.Count > 0 ? [] : revision.Document.Cases)
                if (await FailsThen(one, now, then, seesCosts, cancel) is { } difference)
                    failing.Add(difference);
            var (entries, asked) = (new List<ImpactEntry>(), 0);
            await using var without = new Resting(models, now);
            await using var withoutThen = new Resting(models, then);
            if (faults.Count == 0)
                await foreach (var subject in store.Subjects(revision.ProductId, MostAsked, cancel))
                {
                    asked++;
                    var was = await ImpactRuns.OutcomeOf(await without.Without(subject.SetAside, cancel), subject, subject.Outcome, cancel);
                    var comes = await ImpactRuns.OutcomeOf(await withoutThen.Without(subject.SetAside, cancel), subject, was, cancel);
                    var wrong = ReadPicks.Of(then, subject.Configuration).Faults;
                    var impact = ConfigurationImpact.Of(was, comes, wrong.Count > 0);
                    if (impact.Kind is not (ImpactKind.Same or ImpactKind.StaysBroken))
                        entries.Add(new ImpactWords(now, then).Of(subject, impact, comes, wrong));
                }
            return faults.Count + failing.Count + entries.Count == 0 ? null
                : new(revision.Document.Code, revision.Document.Label.Or(revision.Document.Code), revision.Id, revision.Number, revision.State,
                    [.. faults.Take(MostTold)], revision.Document.Cases.Length, failing.Count, [.. failing.Take(MostTold)], asked,
                    [.. entries.OrderBy(e => e.Kind).Select(e => seesCosts ? e : e with { Changes = [.. e.Changes.Where(c => c.Of != ExpectedOf.Cost)] })]);
        }
        finally
        {
            now.Forget();
            then.Forget();
        }
    }

    /// <summary>What a case that passes now would say then; null where it passes, or does not pass now either.</summary>
    private static async Task<string?> FailsThen(TestCase one, CompiledModel now, CompiledModel then, bool seesCosts, CancellationToken cancel)
    {
        // Values that are left and counts are not asked for here.
        var asked = one with { Expected = [.. one.Expected.Where(e => e.Of is not (ExpectedOf.Available or ExpectedOf.Count))] };
        var (passes, known) = await ResultOf(asked, now, null, cancel);
        if (passes.State != CaseState.Passed)
            return null;
        var (result, _) = await ResultOf(asked, then, known, cancel);
        var told = result.Differences.FirstOrDefault(d => seesCosts || asked.Expected[d.Expectation].Of != ExpectedOf.Cost);
        return result.State is CaseState.Passed or CaseState.Unknown ? null
            : $"{one.Name}: {(told is null ? "" : new CaseWords(then.Model, then.Text, then.Words).Sentence(asked, told))}";
    }

    private static Task<(CaseResult Result, CaseOutcome Outcome)> ResultOf(TestCase one, CompiledModel model, CaseOutcome? before, CancellationToken cancel)
    {
        var question = CaseQuestion.Of(one, model.Model, model.Text);
        return model.Solve(question.At, (reasoner, time) =>
        {
            var outcome = CaseOutcome.After(before, model.Model, reasoner, question, time);
            return (CaseResult.Of(one, question, new CaseFacts(model.Model, model.Text).Of(question, outcome), outcome.Answer.Exact), outcome);
        }, cancel);
    }
}
