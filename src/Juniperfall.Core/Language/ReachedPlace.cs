using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Language;

/// <summary>Where a path has led so far: an assembly reached through subassemblies, or one row of it.</summary>
/// <param name="IsOneOfSeveral">There can be several, and the path does not say which.</param>
internal sealed record ReachedPlace(string Prefix, AssemblyDefinition Assembly, Subassembly? Reached, bool IsOneOfSeveral = false);

/// <summary>An attribute that can hold several values: by value, a yes/no of its own.</summary>
internal sealed record ReachedSeveral(string Path, AttributeRow Row, ValueList List)
{
    public BoundAttribute Member(ListValue value) => new(ExpressionType.YesNo, RowPath.OfMember(Path, value.Id));
}
