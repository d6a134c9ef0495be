using Juniperfall.Server.People;
using Juniperfall.Storage;

namespace Juniperfall.Server.Library;

public sealed record ItemView(string Number, string Description, string Unit, string Kind, bool Active, string Cost, string Weight);

public sealed record CodeView(string Code, string Label);

public sealed record LibraryView(IReadOnlyList<CodeView> Sites, IReadOnlyList<CodeView> WorkCentres, IReadOnlyList<string> Units);

/// <summary>What models refer to: items, work centres, sites, units.</summary>
public static class LibraryEndpoints
{
    private const int MostListed = 200;

    public static void MapLibrary(this IEndpointRouteBuilder api)
    {
        api.MapGet("/items", async (string? search, LibraryStore library, CancellationToken cancel) => (await library.Find(search ?? "", MostListed, cancel))
            .Select(i => new ItemView(i.Number, i.Description.In(), i.Unit, i.Kind, i.Active, i.Cost, i.Weight)).ToList()).Needs(Right.Read).WithName("items");
        api.MapGet("/library", async (LibraryStore library, CancellationToken cancel) =>
        {
            var facts = (await library.Load(cancel)).Facts;
            return new LibraryView([.. facts.Sites.Values.Select(s => new CodeView(s.Code, s.Label.Or(s.Code)))],
                [.. facts.WorkCentres.Values.Select(w => new CodeView(w.Code, w.Label.Or(w.Code)))], [.. Core.Quantities.Unit.Common]);
        }).Needs(Right.Read).WithName("library");
    }
}
