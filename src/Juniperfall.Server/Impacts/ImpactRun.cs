using System.Collections.Concurrent;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>One thing that comes out otherwise, as people read it.</summary>
/// <param name="RowId">The row that it is of; empty for what is of the whole order.</param>
/// <param name="By">How much more it is, of a number; null of anything else.</param>
public sealed record ImpactChange(ExpectedOf Of, string RowId, string Subject, string Before, string After, string? By);

/// <summary>Something saved, and what a draft makes of it.</summary>
/// <param name="Version">Of the configuration, as it was asked.</param>
/// <param name="IsStructure">Whether it is what a structure was generated from; then the id is that of the structure.</param>
/// <param name="Because">Where it breaks: why, in a sentence.</param>
/// <param name="Rows">The rules that break it, with the assemblies that they stand in.</param>
/// <param name="Changes">What comes out otherwise, at most so many as are told of one.</param>
/// <param name="AllChanges">How many there are in all.</param>
/// <param name="IsConceded">Whether a concession sets rules aside for it; it was asked again without these.</param>
/// <param name="Group">What those that are touched alike have in common.</param>
public sealed record ImpactEntry(string Id, int Version, bool IsStructure, string Name, string ProductCode, long RevisionId, int RevisionNumber,
    string ChangedBy, DateTime ChangedAt, ImpactKind Kind, string Because, IReadOnlyList<RowLink> Rows,
    IReadOnlyList<ImpactChange> Changes, int AllChanges, bool IsConceded,
    string Group);

/// <summary>A row and where it stands.</summary>
public sealed record RowLink(string RowId, string AssemblyId, string Name);

/// <summary>The edit that does something to what is saved.</summary>
/// <param name="Edit">Null where it is none of the draft's edits: the library, or a revision between, is otherwise than it was.</param>
/// <param name="SeenOn">What was saved, on which it was seen.</param>
public sealed record EditOfGroup(HistoryView? Edit, string SeenOn);

/// <summary>What a draft, as it stood at one edit, makes of everything that is saved; what was not asked yet is not there.</summary>
/// <param name="saved">What was saved by then.</param>
public sealed class ImpactRun(CompiledModel draft, SavedMark saved)
{
    private readonly ConcurrentDictionary<string, ImpactEntry> _entries = new();
    private readonly ConcurrentDictionary<string, EditOfGroup> _edits = new();
    private int _all;

    public long Head { get; } = draft.Revision.Head;
    internal SavedMark Saved { get; } = saved;
    private readonly long _libraryVersion = draft.LibraryVersion;
    private readonly ModelDocument _document = draft.Revision.Document;

    public IReadOnlyDictionary<string, ImpactEntry> Entries => _entries;

    /// <summary>By group, the edit that does it, where it was found.</summary>
    public IReadOnlyDictionary<string, EditOfGroup> Edits => _edits;

    /// <summary>How many saved configurations and structures there are; grows until all are found.</summary>
    public int All => _all;
    public bool IsFinished { get; internal set; }

    /// <summary>Products that reuse this one and could not take it as it is now, with why; and whatever else went wrong.</summary>
    public ConcurrentQueue<string> Troubles { get; } = new();
    internal CancellationTokenSource GivenUp { get; } = new();
    internal void Found() => Interlocked.Increment(ref _all);
    internal void Add(ImpactEntry entry) => _entries[entry.Id] = entry;
    internal void Add(string group, EditOfGroup edit) => _edits[group] = edit;

    /// <summary>Whether it holds for a draft as it stands: nothing but test cases, which nothing saved reads, is different.</summary>
    internal bool HoldsFor(CompiledModel other) =>
        _libraryVersion == other.LibraryVersion && (Head == other.Revision.Head || _document.IsSameButForCases(other.Revision.Document));
}
