using System.Collections.Immutable;
using System.Security.Claims;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Formats;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Storage;
using Npgsql;

namespace Juniperfall.Server.Products;

/// <param name="Id">Given by the page, so that a request sent twice makes one product.</param>
public sealed record NewProduct(string Id, string Code, string Label);

/// <summary>A product with its first draft.</summary>
public sealed record ProductMade(string ProductId, long RevisionId);

/// <summary>A product as lists show it.</summary>
/// <param name="Released">The number of the latest released revision.</param>
/// <param name="LeastMargin">What is to be left of its price at the least, in percent; null where that is not set, and for who may not see costs.</param>
public sealed record ProductView(string Id, string Code, string Label, long RevisionId, int Number, string State, string Author, DateTime ChangedAt,
    int? Released, string? LeastMargin);

/// <param name="Percent">Of the price, from 0 to below 100, with at most two decimals; empty: nothing is asked.</param>
public sealed record LeastMarginRequest(string Percent);

/// <summary>A revision as lists show it, with how many configurations were saved on it.</summary>
public sealed record RevisionEntryView(long Id, int Number, string State, string Author, DateTime ChangedAt, string? ReleasedBy, DateTime? ReleasedAt,
    long Configurations, long Head, string ReleaseNote, Withdrawal? Withdrawn);

/// <summary>A revision of another product that reuses one of this.</summary>
/// <param name="Reuses">The number of the revision that is reused.</param>
public sealed record ReuserView(string ProductId, string Code, string Label, long RevisionId, int Number, string State, int Reuses);

/// <summary>An imported model, and what of its file has no counterpart in a model.</summary>
public sealed record ProductImported(string ProductId, long RevisionId, IReadOnlyList<string> Unread);

/// <summary>Products: the list, new ones, imports, and the next revision.</summary>
public static class ProductEndpoints
{
    private const int MostListed = 500;

    public static void MapProducts(this IEndpointRouteBuilder api)
    {
        var products = api.MapGroup("/products").ProducesProblem(409).ProducesProblem(422);
        products.MapGet("", List).Needs(Right.Read).WithName("products").WithSummary("Products with their latest revision").Produces<List<ProductView>>();
        products.MapPost("", Make).Needs(Right.Edit).WithName("makeProduct").WithSummary("Makes a product with an empty model").Produces<ProductMade>();
        products.MapPost("/file", Import).Needs(Right.Edit).TakesUpTo(RequestSizes.File).WithName("importProduct")
            .WithSummary("Takes a model file or a UVL file in, as a new product or the next draft").Produces<ProductImported>();
        products.MapGet("/{productId}", Show).Needs(Right.Read).WithName("product").WithSummary("One product with its latest revision").Produces<ProductView>()
            .ProducesProblem(404);
        products.MapGet("/{productId}/revisions", Revisions).Needs(Right.Read).WithName("revisions")
            .WithSummary("All revisions of a product").Produces<List<RevisionEntryView>>();
        products.MapGet("/{productId}/reusers", Reusers).Needs(Right.Read).WithName("reusers")
            .WithSummary("The products that reuse a product").Produces<List<ReuserView>>();
        products.MapPost("/{productId}/revisions", OpenNext).Needs(Right.Edit).WithName("openNextRevision")
            .WithSummary("Opens the next draft of a released product").Produces<ProductMade>();
        products.MapPut("/{productId}/least-margin", SetLeastMargin).Needs(Right.Edit).WithName("setLeastMargin")
            .WithSummary("Sets what is to be left of the price of a product at the least").Produces<ProductView>().ProducesProblem(404);
    }

    private static async Task<IResult> List(string? search, ClaimsPrincipal user, RevisionStore store, CancellationToken cancel) =>
        TypedResults.Ok((await store.Products(search ?? "", MostListed, cancel)).Select(p => View(p, user)).ToList());

    private static async Task<IResult> Show(string productId, ClaimsPrincipal user, RevisionStore store, CancellationToken cancel) =>
        await store.Product(productId, cancel) is { } product ? TypedResults.Ok(View(product, user)) : Problems.Gone("product");

    private static ProductView View(ProductEntry p, ClaimsPrincipal user) =>
        new(p.Id, p.Code, p.Label.Or(p.Code), p.RevisionId, p.Number, p.State, p.Author, p.ChangedAt, p.Released,
            user.Has(Right.SeeCosts) && p.LeastMargin is { } least ? Exact.Parse(least).ToDisplay(2) : null);

    private static async Task<IResult> SetLeastMargin(string productId, LeastMarginRequest request, ClaimsPrincipal user, RevisionStore store,
        CancellationToken cancel)
    {
        decimal? percent = null;
        if (request.Percent.Trim() is { Length: > 0 } text)
        {
            if (!Exact.TryParse(text, out var wanted) || wanted.Sign < 0 || wanted >= 100 || !(wanted * 100).IsWhole)
                return Problems.Wrong("/percent", $"“{text}” is not a margin: it is a percentage from 0 to below 100, with at most two decimals.");
            percent = Tables.Number(wanted.ToDisplay(2));
        }
        return await store.SetLeastMargin(productId, percent, cancel) ? await Show(productId, user, store, cancel) : Problems.Gone("product");
    }

    private static async Task<IResult> Make(NewProduct request, ClaimsPrincipal user, RevisionStore store, CancellationToken cancel)
    {
        var code = request.Code.Trim();
        if (code.Length is 0 or > 40)
            return Problems.Wrong("/code", "A product needs a code of 1 to 40 characters.");
        if (request.Label.Trim().Length is 0 or > 200)
            return Problems.Wrong("/label", "A product needs a name of 1 to 200 characters.");
        if (!Guid.TryParse(request.Id, out var id))
            return Problems.Wrong("/id", "The id of a new product is a UUID.");
        var label = LocalText.English(request.Label.Trim());
        var document = new ModelDocument
        {
            Id = $"p{id:n}",
            Code = code,
            Label = label,
            Root = $"a{id:n}",
            Assemblies = [new() { Id = $"a{id:n}", Name = code.ToLowerInvariant(), Label = label,
                Topics = [new() { Id = $"t{id:n}", Label = LocalText.English("General") }] }],
        };
        if (await store.CreateProduct(document, user.Identity!.Name!, cancel) is { } revision)
            return TypedResults.Ok(new ProductMade(document.Id, revision));
        return (await store.RevisionsOf(document.Id, cancel)).LastOrDefault() is { } first && first.Author == user.Identity!.Name
            ? TypedResults.Ok(new ProductMade(document.Id, first.Id)) : Problems.Of(409, $"There is a product “{code}” already.", "/code");
    }

    private static async Task<IResult> Revisions(string productId, RevisionStore store, CancellationToken cancel) =>
        TypedResults.Ok((await store.RevisionsOf(productId, cancel))
            .Select(r => new RevisionEntryView(r.Id, r.Number, r.State, r.Author, r.ChangedAt, r.ReleasedBy, r.ReleasedAt, r.Configurations, r.Head,
                r.ReleaseNote, r.Withdrawn))
            .ToList());

    private static async Task<IResult> Reusers(string productId, RevisionStore store, CancellationToken cancel) =>
        TypedResults.Ok((await store.ReusersOf(productId, cancel))
            .Select(r => new ReuserView(r.ProductId, r.Code, r.Label.Or(r.Code), r.RevisionId, r.Number, r.State, r.Reuses)).ToList());

    private static async Task<IResult> OpenNext(string productId, ClaimsPrincipal user, RevisionStore store, CancellationToken cancel)
    {
        if (await store.OpenNext(productId, user.Identity!.Name!, cancel) is { } made)
            return TypedResults.Ok(new ProductMade(productId, made));
        // Someone else, or an earlier try of the same, has opened it.
        return (await store.RevisionsOf(productId, cancel)).FirstOrDefault(r => r.State is "draft" or "in review") is { } open
            ? TypedResults.Ok(new ProductMade(productId, open.Id)) : Problems.Conflict("There is no released revision to go on from.");
    }

    private static async Task<IResult> Import(HttpRequest request, ClaimsPrincipal user, NpgsqlDataSource data, CancellationToken cancel)
    {
        if (request.ContentLength > Core.Limits.LargestFile)
            return Problems.Wrong("", ModelJson.FileTooLarge);
        using var body = new MemoryStream();
        await request.Body.CopyToAsync(body, cancel);
        var outcome = request.Query["format"] == "uvl"
            ? await ModelImport.ImportUvl(body.ToArray(), Guid.NewGuid().ToString("n"), user.Identity!.Name!, data, cancel)
            : await ModelImport.Import(body.ToArray(), user.Identity!.Name!, data, cancel);
        return outcome.Made is { } made
            ? TypedResults.Ok(new ProductImported(made.ProductId, made.RevisionId, [.. outcome.Unread.Select(n => $"Line {n.Line}: {n.Sentence}")]))
            : Problems.Wrong("", outcome.Error!);
    }
}
