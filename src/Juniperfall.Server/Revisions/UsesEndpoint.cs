using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Revisions;

/// <summary>A place that names something of the model.</summary>
/// <param name="RowId">The row, or the list.</param>
/// <param name="Field">Which of its fields.</param>
public sealed record UseView(string RowId, string Name, string Field);

/// <summary>Where a row, a value or a list of a model is named in it.</summary>
public static class UsesEndpoint
{
    public static void MapUses(this IEndpointRouteBuilder api) =>
        api.MapGet("/revisions/{id:long}/rows/{rowId}/uses", Of).Needs(Right.Read).WithName("uses")
            .WithSummary("The places of a model that name one of its rows, values or lists").ProducesProblem(404).Produces<IReadOnlyList<UseView>>();

    private static async Task<IResult> Of(long id, string rowId, CompiledModels models, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        return TypedResults.Ok<IReadOnlyList<UseView>>([.. Uses.Of(compiled.Revision.Document, rowId)
            .Select(u => new UseView(u.RowId, compiled.NameOf(u.RowId), u.Field))]);
    }
}
