using System.Collections.Immutable;
using System.Security.Claims;
using System.Text.Json;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Concessions;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Configurations;

/// <summary>A configuration as lists show it.</summary>
/// <param name="Matches">The answers that have a word of the search.</param>
public sealed record ConfigurationEntryView(string Id, string Name, long RevisionId, string ProductCode, string ProductLabel, int RevisionNumber,
    string RevisionState, string Author, string ChangedBy, DateTime ChangedAt, string? StructureId, IReadOnlyList<string> Matches);

/// <param name="NewerRevisionId">The latest released revision of the product, where it is a newer one.</param>
public sealed record ConfigurationView(string Id, string Name, long RevisionId, string ProductId, string ProductCode, string ProductLabel, int RevisionNumber,
    string RevisionState,
    IReadOnlyList<PickRequest> Picks, string? Site, DateOnly? Date, string? CustomerClass, string Author, string ChangedBy, int Version, DateTime ChangedAt,
        long? NewerRevisionId, int? NewerNumber);

/// <param name="Id">Given by the page, so that a request sent twice makes one configuration.</param>
public sealed record NewConfiguration(string Id, string Name, long RevisionId, IReadOnlyList<PickRequest> Picks, string? Site = null, DateOnly? Date = null)
    : PicksRequest(Picks, Site, Date);

/// <param name="Version">The version that was seen; a later one is not overwritten.</param>
public sealed record ChangedConfiguration(string Name, IReadOnlyList<PickRequest> Picks, int Version, string? Site = null, DateOnly? Date = null)
    : PicksRequest(Picks, Site, Date);

public sealed record MoveRequest(long RevisionId, int Version);

/// <summary>One thing that a move changes: an attribute, a figure, a BOM line or an operation, before and after.</summary>
public sealed record MoveChange(string Kind, string Name, string Before, string After);

/// <summary>What moving a configuration to another revision changes. Its picks stay as they are.</summary>
/// <param name="NoLongerAsked">Picks on what the newer revision does not ask; they rest.</param>
/// <param name="Faults">Picks that the newer revision cannot take.</param>
public sealed record MovePreview(long RevisionId, int Number, bool? Valid, IReadOnlyList<ClashView> Clashes, IReadOnlyList<PickView> Missing,
    IReadOnlyList<PickView> NoLongerAsked, IReadOnlyList<PickFault> Faults, IReadOnlyList<MoveChange> Changes);

/// <summary>Configurations: saved, found again, moved to a newer revision.</summary>
public static class ConfigurationEndpoints
{
    private const int MostListed = 500;

    public static void MapConfigurations(this IEndpointRouteBuilder api)
    {
        var all = api.MapGroup("/configurations").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        all.MapGet("", List).Needs(Right.Read).WithName("configurations")
            .WithSummary("Saved configurations that a search finds").Produces<List<ConfigurationEntryView>>();
        all.MapPost("", Add).Needs(Right.Configure).WithName("saveConfiguration").WithSummary("Saves a configuration").Produces<ConfigurationView>();
        all.MapGet("/{id}", Show).Needs(Right.Read).WithName("configuration").WithSummary("One saved configuration").Produces<ConfigurationView>();
        all.MapPut("/{id}", Change).Needs(Right.Configure).WithName("changeConfiguration").WithSummary("Changes a saved configuration")
            .Produces<ConfigurationView>();
        all.MapGet("/{id}/move", PreviewMove).Needs(Right.Read).WithName("previewMove")
            .WithSummary("What moving a configuration to another revision would change").Produces<MovePreview>();
        all.MapPost("/{id}/move", Move).Needs(Right.Configure).WithName("moveConfiguration").WithSummary("Moves a configuration to another released revision")
            .Produces<ConfigurationView>();
    }

    /// <param name="product">The id of a product; left out, those of all products are meant.</param>
    private static async Task<IResult> List(string? search, string? product, ConfigurationStore store, CancellationToken cancel) =>
        TypedResults.Ok((await store.Find(search ?? "", MostListed, cancel, product))
            .Select(c => new ConfigurationEntryView(c.Id, c.Name, c.RevisionId, c.ProductCode, c.ProductLabel.Or(c.ProductCode),
            c.RevisionNumber, c.RevisionState, c.Author, c.ChangedBy, c.ChangedAt, c.StructureId, Matches(c, search ?? ""))).ToList());

    private const int MostMatches = 4;

    /// <summary>What the name and the product say is seen anyway.</summary>
    private static List<string> Matches(ConfigurationEntry entry, string search)
    {
        var words = ConfigurationStore.Words(search)
            .Where(w => !$"{entry.Name} {entry.ProductCode} {entry.ProductLabel.Or("")}".Contains(w, StringComparison.OrdinalIgnoreCase)).ToList();
        return [.. entry.Answers.Split('\n').Where(a => words.Exists(w => a.Contains(w, StringComparison.OrdinalIgnoreCase))).Take(MostMatches)];
    }

    /// <summary>Picks as people read them, one in a line.</summary>
    internal static string AnswersOf(ModelWording words, IEnumerable<Pick> picks) => string.Join('\n', picks.Select(p =>
        words.At(p.Path) is null ? "" : $"{words.LabelAt(p.Path)}: {words.ValueAt(p.Path, p.Value)}").Where(a => a.Length > 0));

    private static async Task<IResult> Show(string id, ConfigurationStore store, CompiledModels models, RevisionStore revisions, CancellationToken cancel) =>
        await store.Load(id, cancel) is { } stored ? await View(stored, models, revisions, cancel) : Problems.Gone("configuration");

    private static async Task<IResult> View(StoredConfiguration stored, CompiledModels models, RevisionStore revisions, CancellationToken cancel)
    {
        if (await models.Get(stored.RevisionId, cancel) is not { } compiled)
            return Problems.Gone("revision");
        var newer = (await revisions.RevisionsOf(compiled.Revision.ProductId, cancel))
            .FirstOrDefault(r => r.State == "released" && r.Number > compiled.Revision.Number);
        return TypedResults.Ok(new ConfigurationView(stored.Id, stored.Name, stored.RevisionId, compiled.Revision.ProductId, compiled.Revision.Document.Code,
            compiled.Revision.Document.Label.Or(compiled.Revision.Document.Code), compiled.Revision.Number, compiled.Revision.State,
            [.. stored.Picks.Where(p => compiled.Text.At(p.Path) is not null)
                .Select(p => new PickRequest(p.Path, compiled.Text.Write(compiled.Text.At(p.Path)!, p.Value))),
                .. stored.FillIns.Where(f => compiled.Text.At(f.Pick.Path) is not null)
                    .Select(f => new PickRequest(f.Pick.Path, compiled.Text.Write(compiled.Text.At(f.Pick.Path)!, f.Pick.Value), f.For))],
            stored.At.Site, stored.At.Date, stored.CustomerClass, stored.Author, stored.ChangedBy, stored.Version, stored.ChangedAt, newer?.Id, newer?.Number));
    }

    /// <summary>What is wrong with a name or a pick, at its place.</summary>
    private static (ReadPicks? Read, IResult? Problem) Read(CompiledModel compiled, string name, PicksRequest request)
    {
        if (name.Trim().Length is 0 or > 200)
            return (null, Problems.Wrong("/name", "A configuration needs a name of 1 to 200 characters."));
        var (read, problem) = ReadPicks.Of(compiled, request);
        return read?.Faults is [var fault, ..]
            ? (null, Problems.Wrong($"/picks/{request.Picks.ToList().FindIndex(r => r.Path == fault.Path)}/value", fault.Sentence)) : (read, problem);
    }

    private static async Task<IResult> Add(NewConfiguration request, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models,
        RevisionStore revisions, LibraryStore library, CancellationToken cancel)
    {
        if (!Guid.TryParse(request.Id, out _))
            return Problems.Wrong("/id", "The id of a new configuration is a UUID.");
        if (await models.Get(request.RevisionId, cancel) is not { } compiled)
            return Problems.Wrong("/revisionId", "There is no such revision.");
        if (compiled.Revision.State == "withdrawn")
            return Problems.Conflict($"Revision {compiled.Revision.Number} is withdrawn: nothing new is saved on it. Configure the latest released one.");
        var (read, problem) = Read(compiled, request.Name, request);
        if (read is null)
            return problem!;
        var (customers, unknown) = await Customers.Find(request.CustomerClass, library, cancel);
        if (unknown is not null)
            return unknown;
        var (name, person) = (request.Name.Trim(), user.Identity!.Name!);
        // The same request can arrive twice; another one of the same id is somebody else's, or of another page of the same person.
        if (!await store.Add(request.Id, name, request.RevisionId, [.. read.Picks], read.At, customers?.Code, person, cancel, read.KeptFillIns,
            AnswersOf(compiled.Words, read.Picks))
            && !(await store.Load(request.Id, cancel) is { } present && present.Author == person && present.Name == name
                && present.RevisionId == request.RevisionId && present.Picks.SequenceEqual(read.Picks) && present.FillIns.SequenceEqual(read.KeptFillIns)))
            return Problems.Of(StatusCodes.Status409Conflict, "There is another configuration with this id already. Save yours as a new one.", "/id");
        return await Show(request.Id, store, models, revisions, cancel);
    }

    private static async Task<IResult> Change(string id, ChangedConfiguration request, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models,
        RevisionStore revisions, LibraryStore library, CancellationToken cancel)
    {
        if (await store.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } compiled)
            return Problems.Gone("configuration");
        var (read, problem) = Read(compiled, request.Name, request);
        if (read is null)
            return problem!;
        var (customers, unknown) = await Customers.Find(request.CustomerClass, library, cancel);
        if (unknown is not null)
            return unknown;
        // Picks on what is not asked here rest; they are kept for a revision that asks them.
        var resting = stored.Picks.Where(p => compiled.Text.At(p.Path) is null);
        return await store.Change(id, request.Name.Trim(), stored.RevisionId, [.. read.Picks, .. resting], read.At, customers?.Code, request.Version,
            user.Identity!.Name!, cancel, read.KeptFillIns, AnswersOf(compiled.Words, read.Picks))
            ? await Show(id, store, models, revisions, cancel) : Changed();
    }

    private static IResult Changed() =>
        Problems.Conflict("Someone else has changed this configuration since you opened it. Yours was not stored; reload to see theirs, or save yours "
            + "under another name.");

    private static async Task<IResult> PreviewMove(string id, long to, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models,
        HeldConcessions held, LibraryStore library, CancellationToken cancel)
    {
        if (await store.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } from)
            return Problems.Gone("configuration");
        if (await models.Get(to, cancel) is not { } target || target.Revision.ProductId != from.Revision.ProductId)
            return Problems.Gone("revision of this product");
        // A concession is of the revision that it was signed for, and would not come along.
        (from, _) = await held.Of(stored, from, cancel);
        var (then, now) = (ReadPicks.Of(from, stored), ReadPicks.Of(target, stored));
        var (before, after) = (await from.Ask(then.Question, then.At, cancel), await target.Ask(now.Question, now.At, cancel));
        var words = new AnswerWords(target);
        var audience = await Audience.Of(user, stored.CustomerClass, library, cancel);
        var view = words.Of(after, [], audience);
        return TypedResults.Ok(new MovePreview(to, target.Revision.Number, after.Answer.Valid, view.Clashes, view.Missing,
            [.. stored.Picks.Where(p => target.Text.At(p.Path) is null).Select(p => new AnswerWords(from).Of(p))],
            now.Faults,
            [.. Comparison.Of(new(new AnswerWords(from).Of(before, [], audience), CompareEndpoint.Given(before)), new(view, CompareEndpoint.Given(after)))
                .Where(c => c.Before != c.After)]));
    }

    private static async Task<IResult> Move(string id, MoveRequest request, ClaimsPrincipal user, ConfigurationStore store, CompiledModels models,
        RevisionStore revisions, CancellationToken cancel)
    {
        if (await store.Load(id, cancel) is not { } stored || await models.Get(stored.RevisionId, cancel) is not { } from)
            return Problems.Gone("configuration");
        if (await models.Get(request.RevisionId, cancel) is not { } target || target.Revision.ProductId != from.Revision.ProductId)
            return Problems.Wrong("/revisionId", "There is no such revision of this product.");
        if (target.Revision.State != "released")
            return Problems.Wrong("/revisionId", "A configuration moves to released revisions only.");
        return await store.Change(id, stored.Name, request.RevisionId, stored.Picks, stored.At, stored.CustomerClass, request.Version, user.Identity!.Name!,
            cancel, stored.FillIns, AnswersOf(target.Words, stored.Picks)) ? await Show(id, store, models, revisions, cancel) : Changed();
    }
}
