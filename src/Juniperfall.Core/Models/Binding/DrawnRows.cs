using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;

namespace Juniperfall.Core.Models.Binding;

/// <summary>The rows of a grid with those drawn live from the item register behind the ones that are typed in.</summary>
public static class DrawnRows
{
    /// <summary>A grid draws no more rows than this; more are a fault of its filter.</summary>
    public const int Most = 100_000;

    // By the facts themselves: facts never change, and what was drawn of them goes when they go.
    private static readonly ConditionalWeakTable<LibraryFacts, ConcurrentDictionary<string, ImmutableArray<ItemFact>>> Drawn = [];

    /// <summary>The active items that a filter means, by number; none for an empty or faulty filter.</summary>
    public static ImmutableArray<ItemFact> Items(string filter, LibraryFacts facts) => filter.Trim().Length == 0 ? []
        : Drawn.GetOrCreateValue(facts)
            .GetOrAdd(filter, f => ItemFilter.Parse(f).Filter is { } meant
            ? [.. facts.Items.Values.Where(i => i.Active && meant.Includes(i)).Take(Most + 1)] : []);

    /// <summary>All rows of a grid; the id of a drawn one is the number of its item.</summary>
    public static ImmutableArray<GridRow> Of(CombinationGrid grid, LibraryFacts facts) => grid.DrawnFrom.Length == 0 ? grid.Rows
        : [.. grid.Rows, .. Items(grid.DrawnFrom, facts).Take(Most)
            .Select(i => new GridRow { Id = i.Number,
            Cells = [.. grid.Columns.Select(c => c.ItemProperty.Length == 0 ? "*" : i.PropertyOf(c.ItemProperty) ?? "")] })];

    /// <summary>What a row is called: its number, counted from 1, or the item that it was drawn from.</summary>
    internal static string NameOf(CombinationGrid grid, LibraryFacts facts, int row) =>
        row < grid.Rows.Length ? $"{row + 1}" : Items(grid.DrawnFrom, facts)[row - grid.Rows.Length].Number;

    internal static string Unquoted(string text) => text.Trim() is ['\'' or '"', .. var inner, '\'' or '"'] ? inner : text.Trim();
}
