using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Products;

/// <param name="Id">Given by the page, so that a request sent twice pauses once.</param>
/// <param name="ValueId">The lasting id of a value; null pauses the whole product.</param>
/// <param name="To">The last day; null until it is ended.</param>
public sealed record PauseRequest(string Id, DateOnly From, string Reason, string? ValueId = null, DateOnly? To = null);

/// <summary>A value, or a whole product, that is not to be had for a time.</summary>
/// <param name="Value">What the value is called; empty for the product.</param>
/// <param name="Met">What is saved and picks it for a day within, at most so many as are told.</param>
public sealed record PauseView(string Id, string? ValueId, string Value, DateOnly From, DateOnly? To, string Reason, string Person, DateTime MadeAt,
    string? EndedBy, DateTime? EndedAt, IReadOnlyList<PausedConfiguration> Met);

/// <summary>Pauses: a value, or a product, is not to be had for a time, whatever its revisions say.</summary>
public static class PauseEndpoints
{
    private const int MostListed = 200, MostMet = 50;

    public static void MapPauses(this IEndpointRouteBuilder api)
    {
        var all = api.MapGroup("/products/{productId}/pauses").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        all.MapGet("", List).Needs(Right.Read).WithName("pauses").WithSummary("What of a product is not to be had for a time, and what is saved with it")
            .Produces<List<PauseView>>();
        all.MapPost("", Add).Needs(Right.Edit).WithName("pause").WithSummary("Pauses a value, or a product, for a time").Produces<List<PauseView>>();
        all.MapPost("/{pauseId}/end", End).Needs(Right.Edit).WithName("endPause").WithSummary("Ends a pause before its time").Produces<List<PauseView>>();
    }

    private static async Task<IResult> List(string productId, RevisionStore revisions, PauseStore pauses, CancellationToken cancel)
    {
        if (await revisions.Product(productId, cancel) is null)
            return Problems.Gone("product");
        var views = new List<PauseView>();
        foreach (var (pause, value, person, madeAt, endedBy, endedAt) in await pauses.Of(productId, MostListed, cancel))
            views.Add(new(pause.Id, pause.ValueId, value, pause.From, pause.To, pause.Reason, person, madeAt, endedBy, endedAt,
                endedAt is null ? await pauses.Met(productId, pause, MostMet, cancel) : []));
        return TypedResults.Ok(views);
    }

    private static async Task<IResult> Add(string productId, PauseRequest request, HttpContext context, RevisionStore revisions, CompiledModels models,
        PauseStore pauses, AuditStore audit, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (!Guid.TryParse(request.Id, out _))
            return Problems.Wrong("/id", "The id of a new pause is a UUID.");
        if (ReviewEndpoints.Fault(request.Reason, "/reason", isNeeded: true) is { } fault)
            return fault;
        if (request.To < request.From)
            return Problems.Wrong("/to", "It would end before it begins.");
        if (await revisions.Product(productId, cancel) is not { } product || await models.Get(product.RevisionId, cancel) is not { } compiled)
            return Problems.Gone("product");
        var name = "";
        if (request.ValueId is { } valueId)
        {
            if (compiled.Model.Document.AllLists.SelectMany(l => l.Values.Select(v => (List: l, Value: v))).FirstOrDefault(x => x.Value.Id == valueId)
                is not { Value: not null } found)
                return Problems.Wrong("/valueId", "There is no such value in the lists of this product.");
            name = $"{found.List.Label.Or(found.List.Name)}: {found.Value.Label.Or(found.Value.Code)}";
        }
        await using var work = await UnitOfWork.Begin(data, cancel);
        var pause = new Pause(request.Id, request.ValueId, request.From, request.To, request.Reason.Trim());
        if (await pauses.Add(work, productId, pause, name, context.User.Identity!.Name!, cancel))
            await audit.Add(work, context.Happened(AuditKind.Paused, compiled.Revision.Document.Code,
                $"{(name.Length > 0 ? $"{name}, " : "")}{pause.Period}: {pause.Reason}"), cancel);
        await work.Commit(cancel);
        return await List(productId, revisions, pauses, cancel);
    }

    private static async Task<IResult> End(string productId, string pauseId, HttpContext context, RevisionStore revisions, PauseStore pauses, AuditStore audit,
        NpgsqlDataSource data, CancellationToken cancel)
    {
        if (await revisions.Product(productId, cancel) is not { } product)
            return Problems.Gone("product");
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (!await pauses.End(work, pauseId, productId, context.User.Identity!.Name!, cancel))
            return Problems.Gone("pause that goes on");
        await audit.Add(work, context.Happened(AuditKind.PauseEnded, product.Code), cancel);
        await work.Commit(cancel);
        return await List(productId, revisions, pauses, cancel);
    }
}
