using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Binding;

/// <summary>What of a model is larger than <see cref="Limits"/>. Such a model is not bound at all: nobody could wait for it.</summary>
internal static class SizeChecks
{
    public static IReadOnlyList<Finding> Run(ModelIndex index)
    {
        var findings = new List<Finding>();
        void Most(string rowId, string field, long number, long most, string things)
        {
            if (number > most)
                findings.Add(new(rowId, field,
                    new(Fault.TooLarge, default, $"{(number >= Saturated ? "Very many" : Shown(number))} {things} are more than the {Shown(most)} that "
                        + $"there can be.")));
        }

        var document = index.Document;
        Most(document.Id, "assemblies", document.AllAssemblies.Count(), Limits.MostAssemblies, "assemblies");
        Most(document.Id, "assemblies", document.AllAssemblies.Sum(a => a.Topics.Sum(t => (long)t.Rows.Length)), Limits.MostRows, "rows");
        Most(document.Id, "lists", document.AllLists.Sum(l => (long)l.Values.Length), Limits.MostValues, "values of value lists");
        Most(document.Id, "cases", document.Cases.Length, Limits.MostCases, "test cases");
        Most(document.Id, "cases", document.Cases.Sum(c => (long)c.Picks.Length + c.Expected.Length), Limits.MostExpectations,
            "picks and expectations of test cases");
        var cells = 0L;
        foreach (var row in document.AllAssemblies.SelectMany(a => a.Rows))
            switch (row)
            {
                case CombinationGrid grid:
                    Most(grid.Id, "columns", grid.Columns.Length, Limits.MostColumns, "columns");
                    cells += (long)grid.Columns.Length * grid.Rows.Length;
                    Most(grid.Id, "rows", cells, Limits.MostCells, "cells of grids");
                    break;
                case Subassembly place:
                    Most(place.Id, "instances", place.Instances.Length, Limits.MostInstances, "instances");
                    break;
            }
        if (findings.Count > 0 || index.Root is not { } root)
            return findings;
        var (depth, occurrences, rows) = WholeProduct(index, root);
        Most(document.Id, "root", depth, Limits.DeepestAssemblies, "assemblies that stand in one another");
        Most(document.Id, "root", occurrences, Limits.MostOccurrences, "assemblies in the whole product, every instance counted,");
        Most(document.Id, "root", rows, Limits.MostInstantiatedRows, "rows in the whole product, those of every instance counted,");
        return findings;
    }

    private const long Saturated = 1_000_000_000;

    private static string Shown(long number) => number.ToString("#,0", System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>How deep assemblies stand in one another, how many places there are, and how many rows; each at most <see cref="Saturated"/>.</summary>
    private static (long Depth, long Occurrences, long Rows) WholeProduct(ModelIndex index, AssemblyDefinition root)
    {
        var sizes = new Dictionary<string, (long Depth, long Occurrences, long Rows)>();
        var open = new HashSet<string>();
        var stack = new Stack<(AssemblyDefinition Assembly, bool Below)>([(root, false)]);
        while (stack.TryPop(out var top))
        {
            var (assembly, below) = top;
            if (below)
            {
                (long Depth, long Occurrences, long Rows) size = (1, 1, assembly.Rows.Count());
                foreach (var (place, inner) in Places(index, assembly))
                    // One that contains itself is a fault of its own, and left out.
                    if (sizes.TryGetValue(inner.Id, out var one))
                    {
                        var instances = ModelIndex.InstancesOf(place).Length;
                        size = (Math.Max(size.Depth, one.Depth + 1), Math.Min(Saturated, size.Occurrences + instances * one.Occurrences),
                            Math.Min(Saturated, size.Rows + instances * one.Rows));
                    }
                sizes[assembly.Id] = size;
            }
            else if (open.Add(assembly.Id))
            {
                stack.Push((assembly, true));
                foreach (var (_, inner) in Places(index, assembly))
                    stack.Push((inner, false));
            }
        }
        return sizes[root.Id];
    }

    private static IEnumerable<(Subassembly Place, AssemblyDefinition Inner)> Places(ModelIndex index, AssemblyDefinition assembly) =>
        assembly.Rows.OfType<Subassembly>().Select(p => (p, index.Assemblies.GetValueOrDefault(p.AssemblyId))).Where(p => p.Item2 is not null)!;
}
