using System.Security.Claims;
using Juniperfall.Core.Models.Differences;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Baselines;

/// <param name="Id">Given by the page, so that a request sent twice makes one.</param>
public sealed record NewBaseline(string Id, string Name, string Note = "");

/// <summary>A product at a baseline and now.</summary>
/// <param name="State">What the revision of then is by now.</param>
/// <param name="NowId">The latest revision that is released now; null where there is none.</param>
public sealed record BaselineProductView(string ProductId, string Code, string Label, long ThenId, int Then, string State, long? NowId, int? Now);

/// <summary>A baseline with what has become of it.</summary>
/// <param name="Items">The items that are not as they were, at most so many as are told.</param>
/// <param name="AllItems">How many there are in all.</param>
public sealed record BaselineView(Baseline Baseline, IReadOnlyList<BaselineProductView> Products, IReadOnlyList<ItemDifference> Items, int AllItems);

/// <summary>Baselines: what was released, and the library, frozen under a name; and what is otherwise by now.</summary>
public static class BaselineEndpoints
{
    private const int MostListed = 500, MostItems = 1_000, LongestName = 200;

    public static void MapBaselines(this IEndpointRouteBuilder api)
    {
        var all = api.MapGroup("/baselines").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        all.MapGet("", List).Needs(Right.Read).WithName("baselines").WithSummary("Baselines, those made last first").Produces<List<Baseline>>();
        all.MapPost("", Add).Needs(Right.Edit).WithName("makeBaseline").WithSummary("Freezes what is released now, and the library, under a name")
            .Produces<BaselineView>();
        all.MapGet("/{id}", Show).Needs(Right.Read).WithName("baseline").WithSummary("A baseline, and what is otherwise by now").Produces<BaselineView>();
        all.MapGet("/{id}/items/{number}", Item).Needs(Right.Read).WithName("itemAtBaseline")
            .WithSummary("What of an item is otherwise than it was at a baseline").Produces<ItemDifference>().Produces(204);
    }

    private static async Task<IResult> List(BaselineStore baselines, CancellationToken cancel) => TypedResults.Ok(await baselines.All(MostListed, cancel));

    private static async Task<IResult> Add(NewBaseline request, HttpContext context, BaselineStore baselines, LibraryStore library, AuditStore audit,
        NpgsqlDataSource data, CancellationToken cancel)
    {
        if (!Guid.TryParse(request.Id, out _))
            return Problems.Wrong("/id", "The id of a new baseline is a UUID.");
        if (request.Name.Trim().Length is 0 or > LongestName)
            return Problems.Wrong("/name", $"A baseline needs a name of 1 to {LongestName} characters.");
        if (ReviewEndpoints.Fault(request.Note) is { } fault)
            return fault;
        var facts = (await library.Load(cancel)).Facts;
        await using var work = await UnitOfWork.Begin(data, cancel);
        if (await baselines.Add(work, request.Id, request.Name.Trim(), request.Note.Trim(), context.User.Identity!.Name!, facts, cancel))
            await audit.Add(work, context.Happened(AuditKind.BaselineMade, request.Name.Trim(), request.Note.Trim()), cancel);
        await work.Commit(cancel);
        return await Show(request.Id, context.User, baselines, library, cancel);
    }

    private static async Task<IResult> Show(string id, ClaimsPrincipal user, BaselineStore baselines, LibraryStore library, CancellationToken cancel)
    {
        if (await baselines.One(id, cancel) is not { } baseline || await baselines.Facts(id, cancel) is not { } then)
            return Problems.Gone("baseline");
        var now = (await library.Load(cancel)).Facts;
        var items = LibraryDifference.Of(then, now).Select(i => Shown(i, user)).OfType<ItemDifference>().ToList();
        var products = (await baselines.Products(id, cancel))
            .Select(p => new BaselineProductView(p.ProductId, p.Code, p.Label.Or(p.Code), p.ThenId, p.Then, p.State, p.NowId, p.Now));
        return TypedResults.Ok(new BaselineView(baseline, [.. products], [.. items.Take(MostItems)], items.Count));
    }

    private static async Task<IResult> Item(string id, string number, ClaimsPrincipal user, BaselineStore baselines, LibraryStore library,
        CancellationToken cancel)
    {
        if (await baselines.Facts(id, cancel) is not { } then)
            return Problems.Gone("baseline");
        var (before, after) = (then.Items.GetValueOrDefault(number), (await library.Load(cancel)).Facts.Items.GetValueOrDefault(number));
        if (before is null && after is null)
            return Problems.Gone("item");
        return LibraryDifference.Of(before, after) is { } difference && Shown(difference, user) is { } told ? TypedResults.Ok(told) : TypedResults.NoContent();
    }

    /// <summary>As it may be told; null where nothing is left of it.</summary>
    private static ItemDifference? Shown(ItemDifference item, ClaimsPrincipal user)
    {
        if (user.Has(Right.SeeCosts) || item.Kind != DifferenceKind.Changed)
            return item;
        var told = item with { Fields = [.. item.Fields.Where(f => f.Field != "cost" && !f.Field.StartsWith("costs/", StringComparison.Ordinal))] };
        return told.Fields.IsEmpty ? null : told;
    }
}
