using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Binding;

/// <summary>One place where an assembly stands in the instantiated model: the root, or one instance of a subassembly.</summary>
/// <param name="Prefix">The path of its rows: empty at the root, <c>sub:instance/</c> below.</param>
/// <param name="Place">The subassembly row that it fills; null at the root.</param>
/// <param name="InstanceId">The instance of that subassembly.</param>
/// <param name="Number">Which of the instances this is, counted from 1; 1 at the root.</param>
public sealed record Occurrence(string Prefix, AssemblyDefinition Assembly, Occurrence? Parent, Subassembly? Place, string? InstanceId, int Number = 1)
{
    /// <summary>Every occurrence, parents before children, in the author's order. Faulty subassemblies are left out.</summary>
    public static IEnumerable<Occurrence> All(BoundModel model) =>
        model.Index.Root is { } root && !model.IsTooLarge ? Below(model, new("", root, null, null, null)) : [];

    private static IEnumerable<Occurrence> Below(BoundModel model, Occurrence occurrence)
    {
        yield return occurrence;
        foreach (var place in occurrence.Assembly.Rows.OfType<Subassembly>().Where(model.IsSound))
            foreach (var (instance, i) in ModelIndex.InstancesOf(place).Select((x, i) => (x, i)))
                if (model.Index.Assemblies.TryGetValue(place.AssemblyId, out var below))
                    foreach (var inner in Below(model, new($"{occurrence.Prefix}{place.Id}:{instance.Id}/", below, occurrence, place, instance.Id, i + 1)))
                        yield return inner;
    }

    /// <summary>How people write the path of a row: <c>door.width</c>, or <c>door[2].width</c> where there can be several instances.</summary>
    public string DisplayPath(ModelIndex index, string rowId)
    {
        var name = index.NameOf(rowId) ?? rowId;
        if (Parent is null || Place is null)
            return name;
        var number = ModelIndex.InstancesOf(Place).Length > 1 ? $"[{Number}]" : "";
        return $"{Parent.DisplayPath(index, Place.Id)}{number}.{name}";
    }
}
