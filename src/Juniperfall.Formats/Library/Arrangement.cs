using System.Globalization;

namespace Juniperfall.Formats.Library;

/// <summary>Which rows of a table are wanted, and in which order.</summary>
/// <param name="Search">Words that the key, a description or a label holds; empty for all.</param>
/// <param name="SortBy">The column to sort by; null for the order of the keys.</param>
/// <param name="Filters">By column, what its cell must be; see <see cref="CellFilter"/>.</param>
public sealed record Arrangement(string Search, string? SortBy, bool Descending, IReadOnlyList<(string Column, string Filter)> Filters)
{
    public static Arrangement None { get; } = new("", null, false, []);

    /// <summary>Texts by their letters in any case, with the numbers in them by their size.</summary>
    private static readonly StringComparer Natural =
        StringComparer.Create(CultureInfo.InvariantCulture, CompareOptions.IgnoreCase | CompareOptions.NumericOrdering);

    /// <summary>The first column that the table does not have; null where it has them all.</summary>
    public string? UnknownColumn<T>(LibraryTable<T> table) where T : class =>
        Filters.Select(f => f.Column).Append(SortBy).FirstOrDefault(c => c is not null && table.ColumnOf(c) is null);

    /// <summary>The things that are wanted, in order; those whose key begins with what is searched come first where nothing else is said.</summary>
    public IReadOnlyList<T> Of<T>(LibraryTable<T> table, IReadOnlyCollection<T> things) where T : class
    {
        IEnumerable<T> wanted = things;
        if (Search.Length > 0)
        {
            // Descriptions in other languages are columns that not every thing has.
            var texts = table.Columns.Concat(table.MoreColumns(things).Select(n => table.ColumnOf(n)).OfType<LibraryColumn<T>>())
                .Where(c => c.Name == table.Key || c.Name.StartsWith("description", StringComparison.Ordinal)
                    || c.Name.StartsWith("label", StringComparison.Ordinal)).ToList();
            wanted = wanted.Where(t => texts.Exists(c => c.Write(t).Contains(Search, StringComparison.OrdinalIgnoreCase)));
        }
        foreach (var (name, text) in Filters)
            if (CellFilter.Of(text) is { } filter && table.ColumnOf(name) is { } column)
                wanted = wanted.Where(t => filter.Takes(column.Write(t)));
        if (SortBy is not null && table.ColumnOf(SortBy) is { } by)
        {
            // Empty cells stand last in either direction.
            var cells = wanted.Select(t => (Thing: t, Cell: by.Write(t))).ToList();
            var filled = cells.Where(c => c.Cell.Length > 0);
            var sorted = by.IsNumber ? Ordered(filled, c => CellFilter.NumberIn(c.Cell), Comparer<decimal?>.Default) : Ordered(filled, c => c.Cell, Natural);
            return [.. sorted.Concat(cells.Where(c => c.Cell.Length == 0)).Select(c => c.Thing)];
        }
        var byKey = wanted.OrderBy(t => Search.Length > 0 && !table.KeyOf(t).StartsWith(Search, StringComparison.OrdinalIgnoreCase));
        return [.. byKey.ThenBy(table.KeyOf, StringComparer.Ordinal)];

        IEnumerable<(T Thing, string Cell)> Ordered<TKey>(IEnumerable<(T Thing, string Cell)> cells, Func<(T Thing, string Cell), TKey> key,
            IComparer<TKey> comparer) =>
            Descending ? cells.OrderByDescending(key, comparer) : cells.OrderBy(key, comparer);
    }
}
