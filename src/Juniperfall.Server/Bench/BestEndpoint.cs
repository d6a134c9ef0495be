using System.Net.ServerSentEvents;
using System.Security.Claims;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Bench;

/// <param name="Goal">A number's path, or #cost, #weight, #work, #leadTime or #price of the structure; null fills in by suggestions.</param>
/// <param name="Hold">Paths that keep the value that they are suggested at; what is given keeps it anyway.</param>
public sealed record BestRequest(IReadOnlyList<PickRequest> Picks, string? Goal, bool Highest, string? Site = null,
    DateOnly? Date = null, IReadOnlyList<string>? Hold = null) : PicksRequest(Picks, Site, Date);

/// <summary>An attribute that would have another value than it is suggested at now; null for none.</summary>
public sealed record BestChange(string Path, string Label, string? From, string To);

/// <summary>What is given and nobody answered: it is assumed to be as suggested.</summary>
public sealed record AssumedView(string Path, string Label, string Value);

/// <summary>The best configuration found so far.</summary>
/// <param name="Values">What it fills in, of what is not picked; empty where there is none.</param>
/// <param name="Changes">What of it differs from what is suggested now.</param>
/// <param name="Assumed">What is given and stands as suggested, as nobody answered it.</param>
/// <param name="Number">The number as people read it.</param>
/// <param name="Bound">No configuration is better than this; null where nothing is known yet.</param>
/// <param name="Share">How much of the gap between the first and the bound is closed, from 0 to 1.</param>
public sealed record BestView(IReadOnlyList<PickRequest> Values, string? Number, string? Bound, double Share, bool Done, bool Proven,
    IReadOnlyList<BestChange> Changes, IReadOnlyList<AssumedView> Assumed);

/// <summary>Filling in what is open so that something is the best possible, told step by step; whoever stops listening stops it.</summary>
public static class BestEndpoint
{
    private static readonly TimeSpan Longest = TimeSpan.FromMinutes(2);

    public static void MapBest(this IEndpointRouteBuilder api) =>
        api.MapPost("/revisions/{id:long}/best", Best).Needs(Right.Read).WithName("best")
            .WithSummary("Fills in what is open, by suggestions or for the lowest or highest of a number; tells of each better one as an event")
            .ProducesProblem(404).ProducesProblem(422).Produces<BestView>();

    private static async Task<IResult> Best(long id, BestRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library,
        CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        if (request.Goal is { } goal && !await compiled.Solve(read.At, (reasoner, _) => reasoner.Goals.Contains(goal), cancel))
            return Problems.Wrong("/goal", "There is no such number to bring to its lowest or highest.");
        var words = new TotalWords(compiled, await Audience.Of(user, request.CustomerClass, library, cancel));
        if (!words.Tells(request.Goal))
            return Problems.Wrong("/goal", TotalWords.CostsAreNotShown);
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        if (asked.Answer.Valid is null)
            return Problems.Conflict("Whether these picks stand together could not be found out in time. Nothing was filled in.");
        if (asked.Answer.Valid == false)
            return Problems.Wrong("/picks", "While picks clash, nothing can be filled in.");
        return TypedResults.ServerSentEvents(Steps(compiled, read.At, asked.Answer, request, words, cancel));
    }

    private static async IAsyncEnumerable<SseItem<BestView>> Steps(CompiledModel compiled, Effectivity at, Answer answer, BestRequest request,
        TotalWords totals, [EnumeratorCancellation] CancellationToken cancel)
    {
        var steps = Channel.CreateBounded<BestView>(new BoundedChannelOptions(4) { FullMode = BoundedChannelFullMode.DropOldest });
        var words = new Steps(compiled, answer, request.Goal, request.Highest, totals);
        var held = (request.Hold ?? []).ToHashSet();
        var search = compiled.Solve(at, (reasoner, time) => steps.Writer.TryWrite(request.Goal is { } goal
            ? words.Of(reasoner.Best(answer, goal, request.Highest, time, words.To(steps.Writer), held), done: true)
            : words.Of(new(reasoner.Complete(answer, time), null, null, true), done: true)), cancel, request.Goal is null ? Urgency.Question
                : Urgency.Analysis, Longest);
        _ = search.ContinueWith(_ => steps.Writer.Complete(), TaskScheduler.Default);
        await foreach (var step in steps.Reader.ReadAllAsync(cancel))
            yield return new(step, step.Done ? "done" : "better");
        await search;
    }
}

/// <summary>Writes optima in the words of a model.</summary>
internal sealed class Steps(CompiledModel compiled, Answer answer, string? goal, bool highest, TotalWords totals)
{
    private readonly HashSet<string> _picked =
        [.. answer.Attributes.Where(a => a.State is AttributeState.Picked or AttributeState.Resting).Select(a => a.Path)];
    private double? _first;

    public BestView Of(Optimum optimum, bool done)
    {
        var (number, bound) = (optimum.Number?.ToDouble(), optimum.Bound?.ToDouble());
        _first ??= number;
        var share = optimum.Proven ? 1 : number is { } n && bound is { } b && _first is { } f && f != b ? Math.Clamp((f - n) / (f - b), 0, 1) : 0;
        List<Pick> filled = [.. (optimum.Values ?? []).Where(p => !_picked.Contains(p.Path) && compiled.Text.At(p.Path) is not null)];
        return new([.. filled.Select(p => new PickRequest(p.Path, compiled.Text.Write(compiled.Text.At(p.Path)!, p.Value), For))],
            Write(optimum.Number), Write(optimum.Bound), share, done, optimum.Proven, [.. Changes(filled)], [.. Assumed()]);
    }

    /// <summary>What the values are filled in for, as it is kept with them.</summary>
    private string For => goal is null ? "suggested" : $"{(highest ? "highest" : "lowest")} {goal}";

    private readonly Dictionary<string, AttributeAnswer> _answers = answer.Attributes.ToDictionary(a => a.Path);

    private IEnumerable<BestChange> Changes(IEnumerable<Pick> filled) => filled
        .Where(p => _answers.GetValueOrDefault(p.Path) is not { } now || now.Value != p.Value)
        .Where(p => RowPath.MemberId(p.Path) is null || p.Value.IsTrue || _answers.GetValueOrDefault(p.Path)?.Value is not null)
        .Select(p => new BestChange(p.Path, compiled.LabelOf(p.Path),
            _answers.GetValueOrDefault(p.Path)?.Value is { } from ? compiled.ValueAt(p.Path, from) : null, compiled.ValueAt(p.Path, p.Value)));

    private IEnumerable<AssumedView> Assumed() => answer.Attributes
        .Where(a => a is { Row.AskedAs: AskedAs.Given, State: AttributeState.Suggested, Value: not null } && RowPath.MemberId(a.Path) is null)
        .Select(a => new AssumedView(a.Path, compiled.LabelOf(a.Path), compiled.ValueAt(a.Path, a.Value!.Value)));

    public IProgress<Optimum> To(ChannelWriter<BestView> writer) => new Writing(this, writer);

    private string? Write(Exact? number) => number is not { } n || goal is null ? null
        : StructureGoals.All.Contains(goal) ? totals.Write(goal, n, n) : compiled.ValueAt(goal, Value.Of(n));

    private sealed class Writing(Steps words, ChannelWriter<BestView> writer) : IProgress<Optimum>
    {
        public void Report(Optimum value) => writer.TryWrite(words.Of(value, done: false));
    }
}
