using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Revisions;

/// <summary>A row of a grid that was drawn from the item register.</summary>
public sealed record DrawnRowView(string Item, string Description, IReadOnlyList<string> Cells);

/// <param name="Found">How many rows the filter draws; the first of them are listed.</param>
/// <param name="Properties">The names of properties that items have, to choose columns from.</param>
public sealed record DrawnRowsView(int Found, IReadOnlyList<DrawnRowView> Rows, IReadOnlyList<string> Properties);

/// <summary>What a combination grid draws from the item register just now.</summary>
public static class DrawnRowsEndpoint
{
    private const int MostListed = 200, MostLookedThrough = 5_000;

    public static void MapDrawnRows(this IEndpointRouteBuilder api) =>
        api.MapGet("/revisions/{id:long}/grids/{rowId}/drawn", Drawn).Needs(Right.Read).WithName("drawnRows")
            .WithSummary("The rows that a grid draws from the register").ProducesProblem(404).Produces<DrawnRowsView>();

    private static async Task<IResult> Drawn(long id, string rowId, CompiledModels models, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (compiled.Model.Index.Rows.GetValueOrDefault(rowId) is not CombinationGrid grid)
            return Problems.Gone("grid");
        var facts = compiled.Model.Facts;
        var items = DrawnRows.Items(grid.DrawnFrom, facts);
        return TypedResults.Ok(new DrawnRowsView(items.Length,
            [.. DrawnRows.Of(grid, facts).Skip(grid.Rows.Length).Take(MostListed)
            .Select(r => new DrawnRowView(r.Id, facts.Items[r.Id].Description.In(), r.Cells))],
            [.. ItemFact.OwnProperties.Concat((items.IsEmpty ? facts.Items.Values : items.AsEnumerable()).Take(MostLookedThrough)
                .SelectMany(i => i.Properties.Keys).Distinct().Order(StringComparer.Ordinal))]));
    }
}
