using System.Net.ServerSentEvents;
using System.Security.Claims;
using System.Text.Json.Nodes;
using Juniperfall.Core;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Reuse;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Revisions;

/// <param name="Id">Given by the page, so that a request sent twice is stored once.</param>
/// <param name="Of">The edit to be taken back, or the undo to be taken back again, by its id; null for the latest of the person.</param>
public sealed record UndoRequest(string Id, string? Of = null);

/// <param name="Page">An id that the page gives itself.</param>
/// <param name="RowId">The row it is at; null where it is at none.</param>
/// <param name="Leaves">Whether it is closed.</param>
public sealed record PresenceRequest(string Page, string? RowId = null, bool Leaves = false);

/// <summary>A stored edit and what it changed.</summary>
/// <param name="From">The edit before: what is the same stands in the document as it was then.</param>
/// <param name="Document">The document after it; in place of each part that is as it was stands an object with nothing but its id as “same”. Null where the
/// edit was stored before.</param>
/// <param name="Findings">Every fault of the revision now; null where the edit was stored before.</param>
public sealed record EditAnswer(long Sequence, bool Repeated, long From, DateTime ChangedAt, JsonObject? Document, IReadOnlyList<FindingView>? Findings);

/// <summary>Reading and editing revisions.</summary>
public static class RevisionEndpoints
{
    private const int MostEntries = 200;

    public static void MapRevisions(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/revisions/{id:long}").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        one.MapGet("", Show).Needs(Right.Read).WithName("revision").WithSummary("A revision with its whole model and its faults").Produces<RevisionView>();
        one.MapGet("/history", History).Needs(Right.Read).WithName("history")
            .WithSummary("Who changed what in a revision, latest first").Produces<List<HistoryView>>();
        one.MapGet("/changes", Changes).Needs(Right.Read).WithName("changes").WithSummary("Tells of each edit of a revision, and of who looks at it, as events")
            .Produces<string>(200, "text/event-stream");
        // A model file carries the items that it needs, with what they cost.
        one.MapGet("/file", Export).Needs(Right.SeeCosts).WithName("exportRevision").WithSummary("A revision as a model file, or as UVL")
            .Produces<Stream>(200, "application/json", "text/plain");
        one.MapPost("/presence", BeThere).Needs(Right.Read).WithName("bePresent").WithSummary("Says that a page looks at a revision, and at which row")
            .Produces(204);
        one.MapPost("/edits", Edit).Needs(Right.Edit).TakesUpTo(RequestSizes.Edit).WithName("edit").WithSummary("Applies an edit: all of its steps, or none")
            .Produces<EditAnswer>();
        one.MapPost("/undo", Undo).Needs(Right.Edit).WithName("undo").WithSummary("Takes an edit of the person back, the latest or a given one").Produces<EditAnswer>();
        one.MapPost("/redo", Redo).Needs(Right.Edit).WithName("redo").WithSummary("Applies again what was taken back, the last or a given undo").Produces<EditAnswer>();
    }

    private static async Task<IResult> Show(long id, CompiledModels models, WarmUpJournal journal, CancellationToken cancel) =>
        await models.Get(id, cancel) is { } compiled ? TypedResults.Ok(RevisionView.Of(compiled) with
        {
            Trouble = await journal.HasFailed(new(id, compiled.Revision.Head), cancel)
                ? "At its last start the server ended while it worked this revision out ahead. It no longer does so; once the revision is edited, it does "
                    + "again." : null,
        }) : Problems.Gone("revision");

    private static async Task<IResult> History(long id, long? before, CompiledModels models, RevisionStore store, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        var edits = await store.History(id, before ?? long.MaxValue, MostEntries, cancel);
        var words = new HistoryWords(compiled);
        return TypedResults.Ok(edits.Select(words.Of).ToList());
    }

    /// <summary>Edits of the revision as “changed” with the last of them, and who looks at it as “here”.</summary>
    private static IResult Changes(long id, EditFeed feed, Presence presence, CancellationToken cancel) =>
        TypedResults.ServerSentEvents(Told(feed, presence, id, cancel));

    private static async IAsyncEnumerable<SseItem<string>> Told(EditFeed feed, Presence presence, long id,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel)
    {
        yield return new("0", "open");
        var told = System.Threading.Channels.Channel.CreateBounded<SseItem<string>>(new System.Threading.Channels.BoundedChannelOptions(32)
        {
            FullMode = System.Threading.Channels.BoundedChannelFullMode.DropOldest,
        });
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var changes = Pass(feed.Of(id, ends.Token), c => new SseItem<string>(c.Head.ToString(System.Globalization.CultureInfo.InvariantCulture), "changed"));
        var pages = Pass(presence.Of(id, ends.Token), Here);
        told.Writer.TryWrite(Here(presence.Now(id)));
        try
        {
            await foreach (var item in told.Reader.ReadAllAsync(cancel))
                yield return item;
        }
        finally
        {
            await ends.CancelAsync();
            await Task.WhenAll(changes, pages);
        }

        static SseItem<string> Here(IReadOnlyList<PageView> pages) =>
            new(System.Text.Json.JsonSerializer.Serialize(pages, System.Text.Json.JsonSerializerOptions.Web), "here");

        async Task Pass<T>(IAsyncEnumerable<T> from, Func<T, SseItem<string>> item)
        {
            try
            {
                await foreach (var one in from)
                    told.Writer.TryWrite(item(one));
            }
            catch (OperationCanceledException)
            {
                // The page has left.
            }
        }
    }

    private static async Task<IResult> BeThere(long id, PresenceRequest request, ClaimsPrincipal user, CompiledModels models, Presence presence,
        CancellationToken cancel)
    {
        if (request.Page.Length is 0 or > 60 || request.RowId?.Length > 100)
            return Problems.Wrong("/page", "A page has an id of at most 60 characters, a row one of at most 100.");
        if (await models.Get(id, cancel) is null)
            return Problems.Gone("revision");
        await presence.Say(id, new(request.Page, user.Identity!.Name!, user.FindFirstValue(ClaimTypes.GivenName) ?? user.Identity.Name!, request.RowId),
            request.Leaves, cancel);
        return TypedResults.NoContent();
    }

    /// <param name="format">uvl, with what has no counterpart as comments at the end; otherwise our own.</param>
    private static async Task<IResult> Export(long id, string? format, CompiledModels models, CancellationToken cancel) =>
        await models.Get(id, cancel) is { } compiled
            ? format == "uvl" ? TypedResults
                .File(System.Text.Encoding.UTF8.GetBytes(AsUvl(compiled.Model)), "text/plain",
                $"{compiled.Revision.Document.Code}-{compiled.Revision.Number}.uvl")
            : TypedResults.File(System.Text.Encoding.UTF8.GetBytes(ModelJson.Write(ModelPackage.Of(compiled.Model))), "application/json",
                $"{compiled.Revision.Document.Code}-{compiled.Revision.Number}.json")
            : Problems.Gone("revision");

    private static string AsUvl(BoundModel model)
    {
        var (text, omitted) = UvlWriter.Write(model);
        return text + string.Concat(omitted.Select(o => $"// {o.Sentence}\n"));
    }

    private static async Task<IResult> Edit(long id, ModelEdit edit, ClaimsPrincipal user, CompiledModels models, LibraryStore library, RevisionStore store,
        CancellationToken cancel)
    {
        if (edit.Id.Length is 0 or > 100)
            return Problems.Wrong("/id", "An edit needs an id of at most 100 characters.");
        if (edit.Steps.IsDefaultOrEmpty)
            return Problems.Wrong("/steps", "An edit needs at least one step.");
        if (edit.Steps.Length > Limits.MostSteps)
            return Problems.Wrong("/steps", $"An edit has at most {Limits.MostSteps} steps; this one has {edit.Steps.Length}.");
        if (edit.Steps.Any(s => s is ReuseRevision { Content: not null }))
            return Problems.Wrong("/steps", "Say which revision is to be reused; what is in it is put in here.");
        var whole = edit with { Steps = [.. await Task.WhenAll(edit.Steps.Select(s => WithContent(s, store, cancel)))] };
        return await Store(id, models, async seen => await store.Apply(seen, whole, user.Identity!.Name!, (await library.Load(cancel)).Facts, cancel), cancel);
    }

    /// <summary>A step that reuses a revision with what is in that; without it, where there is no such released revision.</summary>
    private static async Task<EditStep> WithContent(EditStep step, RevisionStore store, CancellationToken cancel) =>
        step is ReuseRevision { Revision: { } number } reuse && await store.LoadReleased(reuse.ProductId, number, cancel) is { } released
            ? reuse with { Content = Reuse.Of(new(released.Document, released.Facts ?? LibraryFacts.Empty), number, reuse.EntryId) } : step;

    private static Task<IResult> Undo(long id, UndoRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library, RevisionStore store,
        CancellationToken cancel) =>
        Store(id, models, async seen => await store.Undo(seen, request.Id, request.Of, user.Identity!.Name!, (await library.Load(cancel)).Facts, cancel),
            cancel);

    private static Task<IResult> Redo(long id, UndoRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library, RevisionStore store,
        CancellationToken cancel) =>
        Store(id, models, async seen => await store.Redo(seen, request.Id, request.Of, user.Identity!.Name!, (await library.Load(cancel)).Facts, cancel),
            cancel);

    private static async Task<IResult> Store(long id, CompiledModels models, Func<StoredRevision, Task<EditOutcome>> store, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } before)
            return Problems.Gone("revision");
        // What is shown now is what the next state is compared with.
        var shown = before.Shown;
        var outcome = await store(before.Revision);
        if (outcome.Refusal is { } refusal)
            return Problems.Refused(refusal, before.NameOf);
        if (outcome.After is not { } stored)
            return TypedResults.Ok(new EditAnswer(outcome.Sequence!.Value, outcome.Repeated, outcome.Sequence.Value - 1, before.Revision.ChangedAt,
                null, null));
        var after = await models.After(stored, outcome.Model, cancel);
        // Where edits of others came in between, more than this one has changed.
        return TypedResults.Ok(new EditAnswer(stored.Head, false, before.Revision.Head, stored.ChangedAt,
            DocumentTree.Since(shown, after.Shown, Json.Options), [.. after.Model.Findings.Select(RevisionView.Of)]));
    }
}
