using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;

namespace Juniperfall.Core.Entry;

/// <summary>A kind of row as it is typed: the word that begins its line, how the rest is written, and an example.</summary>
public sealed record EntryKind(string Word, string Shape, string Example);

/// <summary>What would mend a line: the whole line as it would read then.</summary>
/// <param name="Label">What it does, in a few words.</param>
public sealed record EntryFix(string Label, string Line);

/// <summary>What of a line is not understood or missing, at its place. A line with a finding makes no row.</summary>
public sealed record EntryFinding(Span Span, string Message, ImmutableArray<EntryFix> Fixes);

/// <summary>A stretch of a line, and what is expected there.</summary>
public sealed record EntryPart(EntryPartKind Kind, Span Span);

public enum EntryPartKind { Kind, Name, Expression, Item, WorkCentre, Unit, List, Operation }

/// <summary>What a line was read as.</summary>
/// <param name="Kind">Null where the first word is none that begins a row.</param>
/// <param name="Steps">The edit that adds the row, with all that it needs; empty where there are findings.</param>
/// <param name="RowId">The id of the row; null where there are findings.</param>
public sealed record EntryReading(EntryKind? Kind, ImmutableArray<EntryFinding> Findings, ImmutableArray<EntryPart> Parts, ImmutableArray<EditStep> Steps,
    string? RowId);

/// <summary>Where a line is to become a row.</summary>
/// <param name="AfterId">The row behind which it stands; null for the first place.</param>
/// <param name="NextNumber">The number that a rule gets.</param>
/// <param name="NewId">Makes an id that nothing has.</param>
public sealed record EntryPlace(ModelIndex Index, AssemblyDefinition Assembly, string TopicId, string? AfterId, int NextNumber, Func<string> NewId);
