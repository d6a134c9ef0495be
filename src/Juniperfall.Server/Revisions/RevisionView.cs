using System.Text.Json.Serialization;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Library;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Revisions;

/// <summary>A fault at a field of a row: its number, the stretch of the text as shown, a sentence, and what could stand there.</summary>
public sealed record FindingView(string RowId, string Field, string Id, int Start, int Length, string Message, string? Suggestion, bool Blocks)
{
    /// <summary>Of a text that is being typed: other texts that mend it, the likeliest first.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<TextFixView>? Fixes { get; init; }
}

/// <param name="Text">The whole text as it would read then.</param>
public sealed record TextFixView(string Label, string Text);

/// <summary>A revision as an editor shows it: expressions in the present names, and every fault.</summary>
public sealed record RevisionView
{
    public required long Id { get; init; }
    public required string ProductId { get; init; }
    public required int Number { get; init; }
    public required string State { get; init; }
    public required string Author { get; init; }
    public required long Head { get; init; }
    public required DateTime ChangedAt { get; init; }
    public required string? ReleasedBy { get; init; }
    public required DateTime? ReleasedAt { get; init; }
    public required ModelDocument Document { get; init; }
    public required IReadOnlyList<FindingView> Findings { get; init; }

    /// <summary>The sites that it can be asked for.</summary>
    public required IReadOnlyList<CodeView> Sites { get; init; }

    /// <summary>What the server met when it worked this out ahead; null where all went well.</summary>
    public string? Trouble { get; init; }

    public static RevisionView Of(CompiledModel compiled) => new()
    {
        Id = compiled.Revision.Id,
        ProductId = compiled.Revision.ProductId,
        Number = compiled.Revision.Number,
        State = compiled.Revision.State,
        Author = compiled.Revision.Author,
        Head = compiled.Revision.Head,
        ChangedAt = compiled.Revision.ChangedAt,
        ReleasedBy = compiled.Revision.ReleasedBy,
        ReleasedAt = compiled.Revision.ReleasedAt,
        Document = compiled.Shown,
        Findings = [.. compiled.Model.Findings.Select(Of)],
        Sites = [.. compiled.Model.Facts.Sites.Values.Select(s => new CodeView(s.Code, s.Label.Or(s.Code)))],
    };

    public static FindingView Of(Finding finding) =>
        new(finding.RowId, finding.Field, finding.Diagnostic.Id, finding.Diagnostic.Span.Start, finding.Diagnostic.Span.Length,
        finding.Diagnostic.Message, finding.Diagnostic.Suggestion, finding.Blocks);
}

/// <summary>One field that an entry of the history changed, as people read it.</summary>
public sealed record ChangeView(string RowId, string Name, string What);

/// <summary>An entry of the history.</summary>
public sealed record HistoryView(long Sequence, string Person, DateTime MadeAt, string Kind, long? Undoes, IReadOnlyList<ChangeView> Changes);
