using Juniperfall.Core.Entry;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Revisions;

/// <param name="AfterId">The row behind which the first one is to stand; null for the first place of the topic.</param>
/// <param name="Lines">What is typed; several lines become several rows.</param>
/// <param name="Numbered">The highest number of a rule that is still on its way to be stored.</param>
/// <param name="Position">Where the cursor stands in the first line, for what can stand there; left out, nothing is offered.</param>
public sealed record EntryRequest(string AssemblyId, string TopicId, string? AfterId, IReadOnlyList<string> Lines, int Numbered = 0, int? Position = null);

/// <param name="Line">The whole line as it would read then.</param>
public sealed record EntryFixView(string Label, string Line);

/// <param name="Start">In UTF-16 characters.</param>
public sealed record EntryFindingView(int Start, int Length, string Message, IReadOnlyList<EntryFixView> Fixes);

/// <summary>What a line was read as.</summary>
/// <param name="Word">The first word of its kind; null where it has none.</param>
/// <param name="Shape">How the rest of such a line is written.</param>
/// <param name="Steps">The edit that adds its row; empty where something is missing or not understood.</param>
public sealed record EntryLineView(string? Word, string? Shape, string? Example, IReadOnlyList<EntryFindingView> Findings, IReadOnlyList<EditStep> Steps,
    string? RowId);

/// <param name="Completion">What can stand at the cursor.</param>
public sealed record EntryAnswer(IReadOnlyList<EntryLineView> Lines, CompletionAnswer? Completion);

/// <summary>Reading what is typed as new rows; nothing is stored by it.</summary>
public static class EntryEndpoint
{
    public static void MapEntry(this IEndpointRouteBuilder api) =>
        api.MapPost("/revisions/{id:long}/entry", Read).Needs(Right.Read).WithName("readEntry")
            .WithSummary("What lines that are typed as new rows come to: the edits that add them, or what is missing or not understood")
            .ProducesProblem(404).ProducesProblem(422).Produces<EntryAnswer>();

    private static async Task<IResult> Read(long id, EntryRequest request, CompiledModels models, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        if (request.Lines.Count > EntryLines.MostLines)
            return Problems.Wrong("/lines", $"At most {EntryLines.MostLines} lines are read in one go; these are {request.Lines.Count}.");
        var index = compiled.Model.Index;
        if (index.Document.Assemblies.FirstOrDefault(a => a.Id == request.AssemblyId) is not { } assembly)
            return Problems.Wrong("/assemblyId", "There is no such assembly that rows could be added to.");
        if (assembly.Topics.All(t => t.Id != request.TopicId))
            return Problems.Wrong("/topicId", "There is no such topic.");
        return TypedResults.Ok(await compiled.InTurn(() => new EntryAnswer(
            [.. EntryLines.Read(request.Lines, index, request.AssemblyId, request.TopicId, request.AfterId, request.Numbered, NewId).Select(Of)],
            request.Position is { } position && request.Lines.Count > 0 ? Of(EntryLines.Complete(request.Lines[0], position, index, assembly)) : null),
            cancel, Urgency.Answer));
    }

    private static string NewId() => Guid.NewGuid().ToString();

    private static CompletionAnswer Of(CompletionResult result) => new(result.Replaces.Start, result.Replaces.Length, [.. result.Items]);

    private static EntryLineView Of(EntryReading reading) => new(reading.Kind?.Word, reading.Kind?.Shape, reading.Kind?.Example,
        [.. reading.Findings.Select(f => new EntryFindingView(f.Span.Start, f.Span.Length, f.Message, [.. f.Fixes.Select(x => new EntryFixView(x.Label, x.Line))]))],
        reading.Steps, reading.RowId);
}
