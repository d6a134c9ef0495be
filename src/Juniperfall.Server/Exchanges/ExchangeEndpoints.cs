using System.Security.Claims;
using Juniperfall.Core;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Structures;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Impacts;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Exchanges;

/// <summary>An item replaced by another one over models: looked at first, then made as edits of their drafts.</summary>
public static class ExchangeEndpoints
{
    private const int MostProducts = 200, MostTold = 12;
    private static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(25);

    public static void MapExchanges(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/items/{number}/exchange").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        one.MapPost("/preview", Preview).Needs(Right.Edit).WithName("previewExchange")
            .WithSummary("What replacing an item by another one would change: places, test cases, saved configurations, what is missing where")
            .Produces<ExchangeView>();
        one.MapPost("", Exchange).Needs(Right.Edit).WithName("exchange")
            .WithSummary("Replaces an item by another one in the drafts of some products, each by one edit").Produces<List<ExchangeMade>>();
    }

    /// <summary>What is wrong with an exchange as a whole.</summary>
    private static IResult? FaultOf(string number, string with, LibraryFacts facts) =>
        !facts.Items.ContainsKey(number) ? Problems.Gone("item")
        : !facts.Items.TryGetValue(with, out var other) ? Problems.Wrong("/with", $"There is no item “{with}” in the register.")
        : with == number ? Problems.Wrong("/with", "That is the same item. Name the one that takes its place.")
        : !other.Active ? Problems.Wrong("/with", $"{with} is no longer active. Nothing could be built with it.") : null;

    private static async Task<IResult> Preview(string number, ExchangeRequest request, ClaimsPrincipal user, LibraryStore library, RevisionStore revisions,
        CompiledModels models, ImpactStore store, CancellationToken cancel)
    {
        var facts = (await library.Load(cancel)).Facts;
        if (FaultOf(number, request.With, facts) is { } fault)
            return fault;
        using var time = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        time.CancelAfter(TimeLimit);
        var seen = new List<ExchangeProductView>();
        try
        {
            foreach (var product in await revisions.Products("", MostProducts, cancel))
                if (await revisions.Load(product.RevisionId, time.Token) is { } revision && LibraryUses.OfItem(revision.Document, number)
                    && await Of(revision, number, request, facts, revisions, models, store, user.Has(Right.SeeCosts), time.Token) is { } view)
                    seen.Add(view);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return TypedResults.Ok(new ExchangeView(seen, false));
        }
        return TypedResults.Ok(new ExchangeView(seen, true));
    }

    /// <summary>Null where only what is reused of other products names it.</summary>
    private static async Task<ExchangeProductView?> Of(StoredRevision revision, string number, ExchangeRequest request, LibraryFacts facts,
        RevisionStore revisions, CompiledModels models, ImpactStore store, bool seesCosts, CancellationToken cancel)
    {
        // As the draft reads the library, or the next one would.
        var open = revision with { Facts = null };
        var now = await models.Supposed(open, facts, cancel);
        CompiledModel? then = null;
        try
        {
            var exchange = await now.InTurn(() => ItemExchange.Of(now.Model, number, request.With, request.From, NewId), cancel);
            if (exchange.Places.IsEmpty && exchange.Left.IsEmpty)
                return null;
            var document = exchange.Steps.IsEmpty ? revision.Document
                : (await now.InTurn(() => ModelEditor.Apply(revision.Document, new("", exchange.Steps), facts), cancel)).Document;
            then = await models.Supposed(open with { Document = document }, facts, cancel);
            var touched = await TouchedProduct.Of(open, now, then, models, store, seesCosts, cancel);
            if (await Circle(revision.Document.Code, request.With, revisions, models, cancel) is { } circle)
                touched = touched with { Faults = [.. touched.Faults, circle] };
            return new(revision.Head,
                [.. exchange.Places.Select(p => new ExchangedPlaceView(p.RowId, AssemblyOf(now, p.RowId), NameAt(now, p.RowId), p.Field,
                    StoredText.Show(p.Before, now.Model.Index), StoredText.Show(p.After, now.Model.Index), p.From))],
                [.. exchange.Left.Select(l => new LeftPlaceView(l.RowId, AssemblyOf(now, l.RowId), NameAt(now, l.RowId),
                    ExchangeWords.Why(l.Because, number, request.With)))],
                touched, await now.InTurn(() => Sites(now.Model, then.Model, facts, number, request), cancel));
        }
        finally
        {
            now.Forget();
            then?.Forget();
        }
    }

    private static string NewId() => Guid.CreateVersion7().ToString("N");

    private static string AssemblyOf(CompiledModel compiled, string rowId) => compiled.Model.Index.AssemblyOfRow.GetValueOrDefault(rowId)?.Id ?? "";

    /// <summary>What a row is called; of a row of a grid or a value of a list, where that stands.</summary>
    private static string NameAt(CompiledModel compiled, string id) => compiled.Model.Index.Rows.ContainsKey(id) ? compiled.NameOf(id)
        : compiled.Model.Document.Lists.FirstOrDefault(l => l.Values.Any(v => v.Id == id)) is { } list
            ? $"{list.Name}, {list.Values.First(v => v.Id == id).Code}"
        : compiled.Model.Document.Assemblies.SelectMany(a => a.Rows).OfType<CombinationGrid>().FirstOrDefault(g => g.Rows.Any(r => r.Id == id)) is { } grid
            ? $"{grid.Name}, row {grid.Rows.ToList().FindIndex(r => r.Id == id) + 1}" : compiled.NameOf(id);

    /// <summary>What is missing at each site on the day of the exchange, of all lines that there are.</summary>
    private static List<BuildableAtView> Sites(BoundModel now, BoundModel then, LibraryFacts facts, string number, ExchangeRequest request)
    {
        static List<string> Missing(BoundModel model, Effectivity at) => [.. BuildableCheck.Of(model, at, (_, _) => true)
            .Where(f => f.Severity == Severity.Error).Select(f => f.Message).Distinct()];
        return [.. facts.Sites.Values.OrderBy(s => s.Code, StringComparer.Ordinal).Select(site =>
        {
            var at = new Effectivity(site.Code, request.From);
            var (before, after) = (Missing(now, at), Missing(then, at));
            // What is missing of the old item as well is no worse for the other one.
            var known = before.Select(m => m.Replace(number, request.With, StringComparison.Ordinal));
            return new BuildableAtView(site.Code, site.Label.Or(site.Code), after.Count, [.. after.Except(known).Take(MostTold)]);
        })];
    }

    /// <summary>Where the other item is another product of which this one is a part: its structure would contain itself.</summary>
    private static async Task<string?> Circle(string product, string with, RevisionStore revisions, CompiledModels models, CancellationToken cancel)
    {
        var products = (await revisions.Products("", MostProducts, cancel)).ToDictionary(p => p.Code, p => p.RevisionId);
        var (open, seen) = (new Stack<string>([with]), new HashSet<string>());
        while (open.TryPop(out var code))
        {
            if (!seen.Add(code) || !products.TryGetValue(code, out var revision) || await models.Get(revision, cancel) is not { Model: var model })
                continue;
            foreach (var item in model.Document.AllAssemblies.SelectMany(a => a.Rows).SelectMany(r => ItemsOf(model, r)))
                if (item == product)
                    return $"{code} has {product} in its own structure: each would contain the other.";
                else
                    open.Push(item);
        }
        return null;
    }

    private static IEnumerable<string> ItemsOf(BoundModel model, Row row) => row is not PartLine part ? []
        : part.Item.Length > 0 ? [part.Item] : model.Expression(part.Id, "itemFrom") is { } from ? ItemTexts.Of(model.Index, from) : [];

    private static async Task<IResult> Exchange(string number, ExchangeIn request, ClaimsPrincipal user, LibraryStore library, RevisionStore revisions,
        CompiledModels models, CancellationToken cancel)
    {
        if (!Guid.TryParse(request.Id, out _))
            return Problems.Wrong("/id", "The id of an exchange is a UUID.");
        if (request.Revisions.Count is 0 or > MostProducts)
            return Problems.Wrong("/revisions", $"An exchange is made in 1 to {MostProducts} products at once.");
        var facts = (await library.Load(cancel)).Facts;
        if (FaultOf(number, request.With, facts) is { } fault)
            return fault;
        var made = new List<ExchangeMade>();
        foreach (var chosen in request.Revisions.DistinctBy(r => r.RevisionId))
            made.Add(await In(chosen, number, request, facts, user.Identity!.Name!, revisions, models, cancel));
        return TypedResults.Ok(made);
    }

    private static async Task<ExchangeMade> In(ExchangedRevision chosen, string number, ExchangeIn request, LibraryFacts facts, string person,
        RevisionStore revisions, CompiledModels models, CancellationToken cancel)
    {
        if (await revisions.Load(chosen.RevisionId, cancel) is not { } revision)
            return new(chosen.RevisionId, "", 0, "This revision is gone.");
        ExchangeMade Left(string why) => new(chosen.RevisionId, revision.Document.Code, 0, why);
        if (revision.Head != chosen.Head)
            return Left("It has changed since you looked. Look again.");
        if (revision.State == "in review")
            return Left($"Revision {revision.Number} is in review, and is not edited meanwhile.");
        if (await Circle(revision.Document.Code, request.With, revisions, models, cancel) is { } circle)
            return Left(circle);
        if (revision.State != "draft")
        {
            if (await revisions.OpenNext(revision.ProductId, person, cancel) is not { } next || await revisions.Load(next, cancel) is not { } opened)
                return Left("Its next draft is open already, or could not be opened. Look again.");
            revision = opened;
        }
        var now = await models.Supposed(revision with { Facts = null }, facts, cancel);
        try
        {
            var exchange = await now.InTurn(() => ItemExchange.Of(now.Model, number, request.With, request.From, NewId), cancel);
            if (exchange.Steps.IsEmpty)
                return Left("Nothing here can be exchanged.");
            if (exchange.Steps.Length > Limits.MostSteps)
                return Left($"It would take more than {Limits.MostSteps} steps. Exchange it by hand.");
            var outcome = await revisions.Apply(revision, new($"{request.Id}:{revision.Id}", exchange.Steps), person, facts, cancel);
            return outcome.Refusal is { } refusal ? Left(refusal.Message) : new(revision.Id, revision.Document.Code, exchange.Places.Length, "");
        }
        finally
        {
            now.Forget();
        }
    }
}
