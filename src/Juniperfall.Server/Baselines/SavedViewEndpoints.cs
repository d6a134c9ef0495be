using System.Security.Claims;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Storage;

namespace Juniperfall.Server.Baselines;

/// <param name="Place">Which list or page it is of.</param>
/// <param name="State">What the page makes of it.</param>
public sealed record KeptView(string Place, string Name, string State, bool ForAll);

/// <param name="IsOwn">Whether it is of whoever asks, who alone forgets it.</param>
public sealed record SavedViewView(string Id, string Name, string State, string Person, bool IsForAll, bool IsOwn);

/// <summary>Narrowings of lists and structures under a name, for oneself or for all.</summary>
public static class SavedViewEndpoints
{
    private const int MostListed = 200, LongestName = 200, LongestState = 8_000;

    public static void MapSavedViews(this IEndpointRouteBuilder api)
    {
        var all = api.MapGroup("/views").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        all.MapGet("", List).Needs(Right.Read).WithName("views").WithSummary("One's own saved views of a page, and those for all")
            .Produces<List<SavedViewView>>();
        all.MapPut("/{id}", Keep).Needs(Right.Read).WithName("keepView").WithSummary("Saves a view of a page under a name").Produces<SavedViewView>();
        all.MapDelete("/{id}", Forget).Needs(Right.Read).WithName("forgetView").WithSummary("Forgets a view that one has saved").Produces(204);
    }

    private static async Task<IResult> List(string place, ClaimsPrincipal user, SavedViewStore views, CancellationToken cancel) =>
        TypedResults.Ok((await views.Of(place, user.Identity!.Name!, MostListed, cancel)).Select(v => Of(v, user)).ToList());

    private static SavedViewView Of(SavedView view, ClaimsPrincipal user) =>
        new(view.Id, view.Name, view.State, view.Person, view.IsForAll, view.Person == user.Identity!.Name);

    private static async Task<IResult> Keep(string id, KeptView request, ClaimsPrincipal user, SavedViewStore views, CancellationToken cancel)
    {
        if (!Guid.TryParse(id, out _))
            return Problems.Wrong("/id", "The id of a view is a UUID.");
        if (request.Name.Trim().Length is 0 or > LongestName)
            return Problems.Wrong("/name", $"A view needs a name of 1 to {LongestName} characters.");
        if (request.Place.Length is 0 or > LongestName)
            return Problems.Wrong("/place", "A view is of a place.");
        if (request.State.Length > LongestState)
            return Problems.Wrong("/state", $"A view holds at most {LongestState} characters; narrow it with less.");
        var view = new SavedView(id, request.Place, request.Name.Trim(), request.State, user.Identity!.Name!, request.ForAll);
        return await views.Keep(view, cancel) ? TypedResults.Ok(Of(view, user))
            : Problems.Conflict("Somebody else has saved this view. Save yours as a new one.");
    }

    private static async Task<IResult> Forget(string id, ClaimsPrincipal user, SavedViewStore views, CancellationToken cancel) =>
        await views.Forget(id, user.Identity!.Name!, cancel) ? TypedResults.NoContent() : Problems.Gone("view of your own");
}
