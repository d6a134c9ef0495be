using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Structures;

/// <summary>Why a line is there: its condition as it reads, and the attributes in it with their values.</summary>
public sealed record LineReason(string Condition, ImmutableArray<(string Path, Value Value)> Because)
{
    /// <summary>A standard line has no condition.</summary>
    public bool IsStandard => Condition.Length == 0;
}

/// <summary>One line of a bill of materials. Quantities are in <see cref="Unit"/>.</summary>
public sealed record BomLine
{
    /// <summary>The number in the balloon, unique within its bill.</summary>
    public required int Position { get; init; }
    public required string Item { get; init; }
    public required LocalText Description { get; init; }
    public required string Unit { get; init; }

    /// <summary>Net quantity per piece of the parent, or per order.</summary>
    public required Exact Net { get; init; }

    /// <summary>Net with scrap, rounded up to the line's step.</summary>
    public required Exact Gross { get; init; }
    public required bool PerOrder { get; init; }
    public required IssueMethod Issue { get; init; }
    public required string Store { get; init; }

    /// <summary>The sequence of the operation that consumes it; null for the first one of the routing.</summary>
    public required int? Operation { get; init; }
    public required LineReason Reason { get; init; }

    /// <summary>The model row it comes from and where that stands, for links.</summary>
    public required string RowId { get; init; }
    public required string Prefix { get; init; }

    /// <summary>Cut sizes and other numbers of the line, in the author's order.</summary>
    public ImmutableArray<FigureValue> Figures { get; init; } = [];

    /// <summary>Items that may be used instead, in order: the line's own, then those of the register.</summary>
    public ImmutableArray<string> Substitutes { get; init; } = [];

    /// <summary>The rows of lines that were summed into this one.</summary>
    public ImmutableArray<(string RowId, string Prefix)> Also { get; init; } = [];

    /// <summary>The days between which the line holds; null: no end.</summary>
    public DateOnly? From { get; init; }
    public DateOnly? To { get; init; }

    /// <summary>The structure of an own-item subassembly.</summary>
    public Structure? Below { get; init; }

    /// <summary>Which instances of the subassembly it stands for, counted from 1: equal ones are one line. Empty where there can only be one.</summary>
    public ImmutableArray<int> Instances { get; init; } = [];

    /// <summary>How many lots are made for the line: one for each instance.</summary>
    public int Lots => Math.Max(1, Instances.Length);
}

/// <summary>A named number, in <see cref="Unit"/>.</summary>
public sealed record FigureValue(string Name, Exact Number, string Unit, int Decimals)
{
    public string Text => Number.ToDisplay(Decimals);
}

/// <summary>One operation of a routing. Times are in seconds, exact.</summary>
public sealed record RoutingOperation
{
    public required int Sequence { get; init; }
    public required string Name { get; init; }
    public required LocalText Label { get; init; }
    public required string WorkCentre { get; init; }

    /// <summary>Per lot.</summary>
    public required Exact Setup { get; init; }

    /// <summary>One run: for a piece of the made item, or for a batch.</summary>
    public required Exact Run { get; init; }

    /// <summary>How many pieces one run takes; null where each takes its own.</summary>
    public Exact? Batch { get; init; }

    /// <summary>How many pieces are worked on for one of the made item, where runs go by batches.</summary>
    public Exact Pieces { get; init; } = Exact.One;
    public required Exact Queue { get; init; }

    /// <summary>How many people; 0 for the crew of the work centre.</summary>
    public int Crew { get; init; }

    /// <summary>Those next to each other with the same name run at the same time; empty: by itself.</summary>
    public string Parallel { get; init; } = "";

    /// <summary>The run time of a lot.</summary>
    /// <param name="lot">How many of the made item.</param>
    public Exact RunOf(Exact lot) => Batch is { } batch ? KnownNumbers.Formulas.RunTime(Run, lot * Pieces, batch) : KnownNumbers.Formulas.RunTime(Run, lot);

    /// <summary>What to do, by language, with all values filled in.</summary>
    public required LocalText Instructions { get; init; }
    public required LineReason Reason { get; init; }
    public required string RowId { get; init; }
    public required string Prefix { get; init; }
}

/// <summary>The bill of materials and the routing of one made item, with those of its own-item subassemblies below.</summary>
public sealed record Structure
{
    public required string Item { get; init; }
    public required LocalText Description { get; init; }

    /// <summary>The code of the site where it is made; null for none in particular.</summary>
    public string? Site { get; init; }
    public required ImmutableArray<BomLine> Bom { get; init; }
    public required ImmutableArray<RoutingOperation> Routing { get; init; }
}

/// <summary>A reason why no structure came of a configuration, at a row.</summary>
public sealed record StructureFault(string RowId, string Prefix, string Message);

/// <summary>A structure, or what stands against it; never both.</summary>
public sealed record StructureResult(Structure? Structure, ImmutableArray<StructureFault> Faults);
