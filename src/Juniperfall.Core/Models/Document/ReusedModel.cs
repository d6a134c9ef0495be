using System.Collections.Immutable;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Models.Document;

/// <summary>
/// A released revision of another product, kept whole inside a document so that it can fill subassemblies there. Its rows
/// are as they were released and cannot be edited; every id in it begins with that of this entry, so that two revisions of
/// one product, or two products that were once one, can stand side by side (decision 0018).
/// </summary>
public sealed record ReusedModel
{
    /// <summary>What subassemblies name as their assembly, and what the ids below begin with. Stays when another revision is taken.</summary>
    public required string Id { get; init; }
    public required string ProductId { get; init; }
    public required string Code { get; init; }
    public LocalText Label { get; init; } = LocalText.Empty;

    /// <summary>The number of the revision.</summary>
    public required int Revision { get; init; }

    /// <summary>The id of the assembly that is the product itself.</summary>
    public required string Root { get; init; }
    public ImmutableArray<AssemblyDefinition> Assemblies { get; init; } = [];
    public ImmutableArray<ValueList> Lists { get; init; } = [];

    /// <summary>The items that its expressions read, as they were at its release.</summary>
    public ImmutableSortedDictionary<string, ItemFact> Items { get; init; } = ImmutableSortedDictionary<string, ItemFact>.Empty;

    /// <summary>The products that it reuses in turn, by id.</summary>
    public ImmutableArray<string> Contains { get; init; } = [];
}
