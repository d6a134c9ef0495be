using System.Collections.Immutable;
using System.Security.Claims;
using System.Text;
using System.Text.Json;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Formats;
using Juniperfall.Formats.Structures;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Concessions;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Structures;

/// <param name="Id">Given by the page, so that a request sent twice generates once.</param>
/// <param name="Quantity">How many are ordered: a whole number above zero.</param>
/// <param name="MadeFor">Another site and day than the configuration says; null: as it says.</param>
public sealed record GenerateRequest(string Id, string Quantity = "1", MadeFor? MadeFor = null);

/// <param name="Site">The code of a site; null for none in particular.</param>
/// <param name="Date">The day; null for none in particular.</param>
public sealed record MadeFor(string? Site, DateOnly? Date);

/// <summary>One answer of the configuration that a structure was generated from.</summary>
public sealed record GivenAnswerView(string Section, string Label, string Value, AttributeState State);

/// <summary>What was generated: the head of the drawing, the answers, the figures, and the structure.</summary>
public sealed record ResultView
{
    public required string Id { get; init; }
    public required string ConfigurationId { get; init; }
    public required string Name { get; init; }
    public required string ProductId { get; init; }
    public required string ProductCode { get; init; }
    public required string ProductLabel { get; init; }
    public required long RevisionId { get; init; }
    public required int RevisionNumber { get; init; }
    public required string RevisionState { get; init; }

    /// <summary>The name of the site that it is made for; null for none in particular.</summary>
    public string? Site { get; init; }

    /// <summary>The day that it is made for; null for none in particular.</summary>
    public DateOnly? Date { get; init; }
    public required string Author { get; init; }
    public required DateTime MadeAt { get; init; }
    public required IReadOnlyList<GivenAnswerView> Answers { get; init; }
    public required IReadOnlyList<GivenFigure> Figures { get; init; }
    public required IReadOnlyList<CauseView> Advice { get; init; }

    /// <summary>The concession that it was generated under; null for none.</summary>
    public ConcessionFile? Concession { get; init; }
    public required StructureView Structure { get; init; }

    /// <summary>What the quantity that it was generated for costs and takes; null for what was generated before that was told.</summary>
    public CostsView? Costs { get; init; }
}

/// <summary>Generating structures and taking them out as tables.</summary>
public static class StructureEndpoints
{
    public static void MapStructures(this IEndpointRouteBuilder api)
    {
        api.MapPost("/configurations/{id}/structures", Generate).Needs(Right.Generate).WithName("generate")
            .WithSummary("Generates the structure of a configuration for a quantity").Produces<ResultView>().ProducesProblem(409);
        api.MapGet("/structures/{id}", Show).Needs(Right.Read).WithName("structure").WithSummary("A structure as it was generated").Produces<ResultView>();
        api.MapGet("/structures/{id}/{table}.{format}", Export).Needs(Right.Read).WithName("exportStructure")
            .WithSummary("A structure as a file: tables, JSON, B2MML, PDF")
            .Produces<Stream>(200, "text/csv", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "application/json", "application/xml",
            "application/pdf").ProducesProblem(404).ProducesProblem(409).ProducesProblem(503);
    }

    private static async Task<IResult> Generate(string id, GenerateRequest request, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models,
        ConcessionStore concessions, HeldConcessions held, LibraryStore library, CancellationToken cancel)
    {
        if (!Guid.TryParse(request.Id, out _))
            return Problems.Wrong("/id", "The id of a new structure is a UUID.");
        if (FullStructureEndpoints.QuantityOf(request.Quantity) is not { } quantity)
            return Problems.Wrong("/quantity", $"“{request.Quantity}” is not a quantity; it is a whole number from 1 to 1,000,000.");
        if (await store.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } compiled)
            return Problems.Gone("configuration");
        if (await store.Structure(request.Id, cancel) is { } already)
            return already.ConfigurationId == id
                && already.Author == user.Identity!.Name
                ? TypedResults.Ok(await View(already, Audience.Of(user), models, cancel))
                : Problems.Of(StatusCodes.Status409Conflict, "There is another structure with this id already.", "/id");
        if (compiled.Revision.State != "released")
            return Problems.Conflict($"Revision {compiled.Revision.Number} is {compiled.Revision.State}; structures for production are generated on "
                + $"released revisions.");
        if (request.MadeFor is { } elsewhere)
        {
            if (compiled.SiteOf(elsewhere.Site) is not { } site)
                return Problems.Wrong("/madeFor/site", $"There is no site “{elsewhere.Site}”.");
            stored = stored with { At = new(site.Length == 0 ? null : site, elsewhere.Date) };
        }
        if (compiled.Revision.Pauses.FirstOrDefault(p => p.ValueId is null && p.IsOn(stored.At.Date ?? held.Today)) is { } pause)
            return Problems.Conflict($"{compiled.Revision.Document.Code} is not made {pause.Period}: {pause.Reason}");
        (compiled, var concession) = await held.Of(stored, compiled, cancel);
        if (concession is not null && concession.Used + (long)quantity.Numerator > concession.Quantity)
            return Problems.Wrong("/quantity", NoMore(concession));
        var read = ReadPicks.Of(compiled, stored);
        if (read.Faults.Count > 0)
            return Problems.Conflict(string.Join(" ", read.Faults.Select(f => f.Sentence)));
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        var view = new AnswerWords(compiled).Of(asked, [], Audience.Of(user));
        if (view.Valid == false)
            return Problems.Conflict("These picks cannot stand together: " + string.Join(" ", view.Clashes.Select(c => c.Reason.Sentence)));
        if (!view.Exact)
            return Problems.Conflict("Whether this configuration is valid could not be found out in time. Nothing was generated.");
        if (view.Missing.Count > 0)
            return Problems.Conflict("Still needed: " + string.Join(", ", view.Missing.Select(m => m.Label)) + ".");
        if (asked.Result?.Structure is not { } structure)
            return Problems.Conflict(string.Join(" ", view.StructureFaults.Select(f => f.Sentence)));
        var (customers, unknown) = await Customers.Find(stored.CustomerClass, library, cancel);
        if (unknown is not null)
            return Problems.Conflict($"The customer class “{stored.CustomerClass}” of this configuration is not in the library. Choose another one.");
        if (asked.Price is { Sheet: null, Faults: { Count: > 0 } unpriced })
            return Problems.Conflict(string.Join(" ", unpriced.Select(f => f.Message)));
        var file = await compiled.InTurn(() =>
            FullStructureEndpoints.FileOf(compiled, asked, structure, customers, quantity, read.Picks,
            GivenAnswers.Of(compiled.Model, asked.Answer, asked.Values!)) with
            {
                Configuration = stored.Name,
                Revision = compiled.Revision.Number,
                Figures = Figures(asked, view),
                Advice = [.. view.Advice.Where(a => !IsSetAside(a)).Select(a => new AdviceFile(a.RowId, a.AssemblyId, a.Mark, a.Sentence))],
                Concession = concession is null ? null : ConcessionFileOf(concession, view),
            }, cancel);
        if (file.Findings.Where(f => f.Severity == "error").Select(f => f.Message).Distinct().ToList() is { Count: > 0 } missing)
            return Problems.Conflict($"It cannot be built as it is. "
                + $"{string.Join(" ", missing.Take(8))}{(missing.Count > 8 ? $" And {missing.Count - 8} more." : "")} The buildable check of the product "
                + $"says where each is mended.");
        var made = new NewStructure(request.Id, StructureWriter.Json(file), Items(structure), (long)quantity.Numerator, concession?.Id);
        if (!await store.AddStructure(made, stored, user.Identity!.Name!, cancel))
            return Problems.Wrong("/quantity", NoMore((await concessions.One(concession!.Id, cancel))!));
        return await Show(request.Id, user, store, models, cancel);

        bool IsSetAside(CauseView advice) => concession?.Rules.Any(r => r.Row == advice.RowId) == true;
    }

    private static string NoMore(Concession concession) => concession.WithdrawnAt is not null
        ? $"Concession {concession.Number} has been withdrawn: {concession.WithdrawnWhy}"
        : $"Concession {concession.Number} allows {concession.Quantity} in all, and {concession.Used} were generated under it: "
            + $"{Math.Max(0, concession.Quantity - concession.Used)} are left.";

    private static ConcessionFile ConcessionFileOf(Concession concession, AnswerView view) => new(concession.Number,
        [.. concession.Rules.Select(r => view.Advice.FirstOrDefault(a => a.RowId == r.Row) is { } now
            ? new AdviceFile(r.Row, now.AssemblyId, now.Mark, now.Sentence) : new AdviceFile(r.Row, "", r.Mark, r.Sentence))],
        concession.Reason, concession.Until, concession.Quantity, concession.AskedBy, concession.AnsweredBy!,
        DateOnly.FromDateTime(concession.AnsweredAt!.Value.ToUniversalTime()));

    /// <summary>Nothing is open in what is generated: a figure without a value is of a place that is not there.</summary>
    private static ImmutableArray<GivenFigure> Figures(Asked asked, AnswerView view)
    {
        var known = asked.Answer.AsSuggested.Computed.Where(c => c.Number is not null || c.Value is not null).Select(c => c.Path).ToHashSet();
        return [.. view.Figures.Where(f => known.Contains(f.Path))
            .Select(f => new GivenFigure(f.Place is null ? f.Label : $"{f.Place}: {f.Label}", f.Suggested))];
    }

    /// <summary>All items of a structure, for where-used.</summary>
    private static HashSet<string> Items(Structure structure)
    {
        HashSet<string> items = [.. structure.Bom.Select(l => l.Item)];
        foreach (var line in structure.Bom)
            if (line.Below is { } below)
                items.UnionWith(Items(below));
        return items;
    }

    private static StructureFile FileOf(StoredStructure stored) => JsonSerializer.Deserialize<StructureFile>(stored.Content, DocumentJson.Options)!;

    private static async Task<IResult> Show(string id, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models, CancellationToken cancel) =>
        await store.Structure(id, cancel) is { } stored ? TypedResults.Ok(await View(stored, Audience.Of(user), models, cancel)) : Problems.Gone("structure");

    private static async Task<ResultView> View(StoredStructure stored, Audience audience, CompiledModels models, CancellationToken cancel)
    {
        var file = FileOf(stored);
        // Only what is still missing is named by its row; for the rest the revision need not be there.
        var compiled = file.Findings.IsEmpty ? null : await models.Get(stored.RevisionId, cancel);
        var least = audience.SeesCosts ? (await models.Mark(stored.RevisionId, cancel))?.LeastMargin : null;
        return new()
        {
            Id = stored.Id,
            ConfigurationId = stored.ConfigurationId,
            Name = stored.ConfigurationName,
            ProductId = stored.ProductId,
            ProductCode = file.Product,
            ProductLabel = file.Label.Or(file.Product),
            RevisionId = stored.RevisionId,
            RevisionNumber = file.Revision ?? 0,
            RevisionState = stored.RevisionState,
            Site = file.Site is { } site ? file.SiteLabel.Or(site) : null,
            Date = file.Date,
            Author = stored.Author,
            MadeAt = stored.MadeAt,
            Answers = [.. file.Answers.Select(a => new GivenAnswerView(a.Section, a.Label, a.Value, Enum.Parse<AttributeState>(a.State, ignoreCase: true)))],
            Figures = file.Figures,
            Advice = [.. file.Advice.Select(a => new CauseView(CauseKind.Rule, a.Row, a.Assembly, a.Mark, a.Sentence))],
            Concession = file.Concession,
            Structure = StructureView.Of(audience.Shown(file.Structure)),
            Costs = CostsView.Of(file, audience, least is null ? null : Exact.Parse(least), row => compiled?.RowNamed(row) ?? ("", "")),
        };
    }

    private static async Task<IResult> Export(string id, string table, string format, HttpRequest request, ClaimsPrincipal user, ConfigurationStore store,
        CompiledModels models, PdfPrinter printer, CancellationToken cancel)
    {
        if (await store.Structure(id, cancel) is not { } stored)
            return Problems.Gone("structure");
        var audience = Audience.Of(user);
        var file = audience.Shown(FileOf(stored));
        if ((table, format) is not (("bom" or "routing", "csv" or "xlsx") or ("structure", "xlsx" or "json" or "xml" or "pdf")))
            return Problems.Gone("table");
        var name = $"{file.Product}-{stored.ConfigurationName}-{table}.{format}";
        if (format == "pdf")
            return await printer.Print(ShopFloorPage
                .Write(await View(stored, audience, models, cancel), file, $"{request.Scheme}://{request.Host}/structures/{id}", printer.Font), cancel) is { } pdf
                ? TypedResults.File(pdf, "application/pdf", name)
                    : Problems.Of(StatusCodes.Status503ServiceUnavailable,
                    "The server could not print this just now: its browser is missing or did not answer. The other formats are there.");
        var (bom, routing) = (StructureTables.Bom(file), StructureTables.Routing(file));
        return format switch
        {
            "csv" => TypedResults.File(Tables.Csv(table == "bom" ? bom : routing), "text/csv; charset=utf-8", name),
            "json" => TypedResults.File(Encoding.UTF8.GetBytes(StructureWriter.Json(file)), "application/json", name),
            "xml" => TypedResults.File(Encoding.UTF8.GetBytes(B2mml.Write(file)), "application/xml", name),
            _ => TypedResults.File(await Tables
                .Xlsx(table switch
                {
                    "bom" => [new("BOM", bom, StructureTables.Head(file))],
                    "routing" =>
                [new("Routing", routing, StructureTables.Head(file))],
                    _ => StructureTables.Workbook(file)
                }, cancel),
                "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", name),
        };
    }
}
