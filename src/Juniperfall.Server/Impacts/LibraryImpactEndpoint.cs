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

/// <param name="Finished">False where time ran out before every product was asked.</param>
public sealed record LibraryImpactView(IReadOnlyList<TouchedProductView> Products, bool Finished);

/// <summary>
/// What a change of the library would touch, before it is stored. Released revisions carry the library of their release: nothing touches them.
/// </summary>
public static class LibraryImpactEndpoint
{
    private const int MostProducts = 500;
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
            var touched = await TouchedProduct.Of(revision, now, then, models, store, seesCosts, cancel);
            return touched.Faults.Count + touched.FailingCases + touched.Entries.Count == 0 ? null : touched;
        }
        finally
        {
            now.Forget();
            then.Forget();
        }
    }
}
