using System.Security.Claims;
using System.Text.Json;
using Juniperfall.Core.Models;
using Juniperfall.Formats;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Storage;

namespace Juniperfall.Server.Structures;

/// <param name="Id">Given by the page, so that a request sent twice generates once.</param>
public sealed record GenerateRequest(string Id);

/// <summary>One answer of the configuration that a structure was generated from.</summary>
public sealed record GivenAnswer(string Section, string Label, string Value, string State);

public sealed record GivenFigure(string Label, string Value);

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
    public required IReadOnlyList<GivenAnswer> Answers { get; init; }
    public required IReadOnlyList<GivenFigure> Figures { get; init; }
    public required IReadOnlyList<CauseView> Advice { get; init; }
    public required StructureView Structure { get; init; }
}

/// <summary>Generating structures and taking them out as tables.</summary>
public static class StructureEndpoints
{
    public static void MapStructures(this IEndpointRouteBuilder api)
    {
        api.MapPost("/configurations/{id}/structures", Generate).Needs(Right.Generate).WithName("generate").Produces<ResultView>().ProducesProblem(409);
        api.MapGet("/structures/{id}", Show).Needs(Right.Read).WithName("structure").Produces<ResultView>();
        api.MapGet("/structures/{id}/{table}.{format}", Export).Needs(Right.Read).WithName("exportStructure").ExcludeFromDescription();
    }

    private static async Task<IResult> Generate(string id, GenerateRequest request, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models, CancellationToken cancel)
    {
        if (!Guid.TryParse(request.Id, out _))
            return Problems.Wrong("/id", "The id of a new structure is a UUID.");
        if (await store.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } compiled)
            return Problems.Gone("configuration");
        if (await store.Structure(request.Id, cancel) is { } already)
            return TypedResults.Ok(Read(already));
        if (compiled.Revision.State != "released")
            return Problems.Conflict($"Revision {compiled.Revision.Number} is {compiled.Revision.State}; structures for production are generated on released revisions.");
        var read = ReadPicks.Of(compiled, stored.Picks, stored.At);
        if (read.Faults.Count > 0)
            return Problems.Conflict(string.Join(" ", read.Faults.Select(f => f.Sentence)));
        var asked = await compiled.Ask(read.Picks, read.At);
        var view = new AnswerWords(compiled).Of(asked, []);
        if (!view.Exact)
            return Problems.Conflict("Whether this configuration is valid could not be found out in time. Nothing was generated.");
        if (!view.Valid)
            return Problems.Conflict("These picks cannot stand together: " + string.Join(" ", view.Clashes.Select(c => c.Reason.Sentence)));
        if (view.Missing.Count > 0)
            return Problems.Conflict("Still needed: " + string.Join(", ", view.Missing.Select(m => m.Label)) + ".");
        if (view.Structure is not { } structure)
            return Problems.Conflict(string.Join(" ", view.StructureFaults.Select(f => f.Sentence)));
        var result = new ResultView
        {
            Id = request.Id,
            ConfigurationId = stored.Id,
            Name = stored.Name,
            ProductId = compiled.Revision.ProductId,
            ProductCode = compiled.Revision.Document.Code,
            ProductLabel = compiled.Revision.Document.Label.Or(compiled.Revision.Document.Code),
            RevisionId = stored.RevisionId,
            RevisionNumber = compiled.Revision.Number,
            RevisionState = compiled.Revision.State,
            Site = stored.At.Site is { } site ? compiled.Model.Facts.Sites.GetValueOrDefault(site)?.Label.Or(site) ?? site : null,
            Date = stored.At.Date,
            Author = user.Identity!.Name!,
            MadeAt = DateTime.UtcNow,
            Answers = [.. view.Sections.SelectMany(s => s.Asked.Where(a => asked.Values!.ContainsKey(a.Path))
                .Select(a => new GivenAnswer(s.Place is null ? s.Title : $"{s.Place}: {s.Title}", a.Label, compiled.ValueAt(a.Path, asked.Values![a.Path]), JsonNamingPolicy.CamelCase.ConvertName(a.State.ToString()))))],
            Figures = [.. view.Figures.Select(f => new GivenFigure(f.Place is null ? f.Label : $"{f.Place}: {f.Label}", f.Text))],
            Advice = view.Advice,
            Structure = structure,
        };
        await store.AddStructure(request.Id, stored, JsonSerializer.Serialize(result, Json.Options), user.Identity!.Name!, cancel);
        return TypedResults.Ok(result);
    }

    private static ResultView Read(StoredStructure stored) => JsonSerializer.Deserialize<ResultView>(stored.Content, Json.Options)! with { MadeAt = stored.MadeAt };

    private static async Task<IResult> Show(string id, ConfigurationStore store, CancellationToken cancel) =>
        await store.Structure(id, cancel) is { } stored ? TypedResults.Ok(Read(stored)) : Problems.Gone("structure");

    private static async Task<IResult> Export(string id, string table, string format, ConfigurationStore store, CancellationToken cancel)
    {
        if (await store.Structure(id, cancel) is not { } stored)
            return Problems.Gone("structure");
        var result = Read(stored);
        if (table is not ("bom" or "routing" or "structure") || (format, table) is ("csv", "structure") || format is not ("csv" or "xlsx"))
            return Problems.Gone("table");
        var name = $"{result.ProductCode}-{result.Name}-{table}.{format}";
        return format == "csv"
            ? TypedResults.File(Tables.Csv(table == "bom" ? StructureTables.Bom(result) : StructureTables.Routing(result)), "text/csv; charset=utf-8", name)
            : TypedResults.File(Tables.Xlsx(table switch
            {
                "bom" => [("BOM", StructureTables.Bom(result))],
                "routing" => [("Routing", StructureTables.Routing(result))],
                _ => [("BOM", StructureTables.Bom(result)), ("Routing", StructureTables.Routing(result))],
            }), "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", name);
    }
}

/// <summary>Structures as tables, one row a line, levels written out.</summary>
internal static class StructureTables
{
    public static Table Bom(ResultView result)
    {
        var rows = new List<object?[]>();
        void Add(StructureView at, int level)
        {
            foreach (var line in at.Bom)
            {
                rows.Add([level, at.Item, line.Position, line.Item, line.Description, Tables.Number(line.Net), Tables.Number(line.Gross), line.Unit.Length == 0 ? "pcs" : line.Unit,
                    line.PerOrder ? "order" : "piece", line.Operation, line.Issue, line.Store, line.Condition]);
                if (line.Below is { } below)
                    Add(below, level + 1);
            }
        }
        Add(result.Structure, 1);
        return new(["Level", "Parent", "Position", "Item", "Description", "Net", "Gross", "Unit", "Per", "Operation", "Issue", "Store", "Condition"], rows);
    }

    public static Table Routing(ResultView result)
    {
        var rows = new List<object?[]>();
        void Add(StructureView at, int level)
        {
            foreach (var o in at.Routing)
                rows.Add([level, at.Item, o.Sequence, o.Name, o.WorkCentre, Tables.Number(o.Setup), Tables.Number(o.Run), Tables.Number(o.Queue), o.Instructions, o.Condition]);
            foreach (var line in at.Bom)
                if (line.Below is { } below)
                    Add(below, level + 1);
        }
        Add(result.Structure, 1);
        return new(["Level", "Item", "Sequence", "Operation", "Work centre", "Set-up min", "Run min", "Queue min", "Instructions", "Condition"], rows);
    }
}
