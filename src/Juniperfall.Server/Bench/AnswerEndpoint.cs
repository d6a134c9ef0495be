using System.Net.ServerSentEvents;
using System.Security.Claims;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Bench;

/// <param name="Form">The key of the form that the page has; another one is told along.</param>
/// <param name="Parts">
/// Whether an answer that takes longer than a frame is told as it becomes known: as events “part” (an <see cref="AnswerPart"/>) and at last one
/// “whole” (an <see cref="AnswerState"/>). Only who has the form is told parts.
/// </param>
public sealed record AnswerRequest(IReadOnlyList<PickRequest> Picks, string? Site = null, DateOnly? Date = null, string? Form = null,
    bool Parts = false) : PicksRequest(Picks, Site, Date);

/// <param name="Path">The path of the question.</param>
public sealed record AskedPart(string Path, AskedState State);

/// <summary>What is known of an answer while it is worked out; what it does not tell of stands as before.</summary>
/// <param name="Valid">Whether the picks can stand together.</param>
/// <param name="Asked">The questions of which more is known than in the part before; in the first part, all but texts.</param>
public sealed record AnswerPart(string FormKey, bool Valid, IReadOnlyList<AskedPart> Asked);

/// <summary>The answer to a set of picks, at once as a whole or in parts.</summary>
public static class AnswerEndpoint
{
    public static void MapAnswer(this IEndpointRouteBuilder bench) =>
        bench.MapPost("/answer", Answer).Needs(Right.Read).WithName("answer")
            .WithSummary("What can still be chosen beside some picks, what follows, what is computed and built").Produces<AnswerState>()
            .WithMetadata(new EventsOf(typeof(AnswerPart)));

    private static async Task<IResult> Answer(long id, AnswerRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library,
        Askers askers, CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var audience = await Audience.Of(user, request.CustomerClass, library, cancel);
        var key = AnswerForm.KeyOf(compiled, read.At);
        // One that is not read in time gives way to the next, which tells all that it did.
        var parts = request.Parts && request.Form == key
            ? Channel.CreateBounded<PartialAnswer>(new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropOldest }) : null;
        var asking = askers.Newest($"answer {id}", newest => compiled.Ask(read.Question, read.At, newest, parts?.Writer), cancel);
        if (parts is not null)
        {
            _ = asking.ContinueWith(_ => parts.Writer.Complete(), TaskScheduler.Default);
            if (await parts.Reader.WaitToReadAsync(cancel))
                return TypedResults.ServerSentEvents(InParts());
        }
        return TypedResults.Ok(await Whole());

        async Task<AnswerState> Whole()
        {
            var view = new AnswerWords(compiled).Of(await asking, read.Faults, audience);
            return AnswerState.Of(view, key) with { Form = request.Form == key ? null : AnswerForm.Of(compiled, read.At, view) };
        }

        async IAsyncEnumerable<SseItem<object>> InParts([EnumeratorCancellation] CancellationToken time = default)
        {
            var words = new AnswerWords(compiled);
            var told = new Dictionary<string, int>();
            await foreach (var part in parts.Reader.ReadAllAsync(time))
                yield return new(new AnswerPart(key, part.Valid, [.. words.Of(part).Where(IsNew).Select(a => new AskedPart(a.Path, AnswerState.Of(a)))]), "part");
            yield return new(await Whole(), "whole");

            // Of a value that is known nothing changes any more.
            bool IsNew(AskedView asked)
            {
                var unknown = !asked.IsUnknown && asked.Several is null ? 0
                    : 1 + asked.Choices.Count(c => c.IsUnknown) + (asked.Several?.Count(m => m.IsUnknown) ?? 0);
                var isNew = !told.TryGetValue(asked.Path, out var before) || before != unknown;
                told[asked.Path] = unknown;
                return isNew;
            }
        }
    }
}
