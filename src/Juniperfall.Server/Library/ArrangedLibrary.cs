using Juniperfall.Formats.Library;
using Microsoft.Extensions.Caching.Memory;

namespace Juniperfall.Server.Library;

/// <summary>A page of a table, with the columns of all that is wanted of it.</summary>
public sealed record ArrangedPage(IReadOnlyList<string> Columns, IReadOnlyList<string> NumberColumns, IReadOnlyList<IReadOnlyList<string>> Rows, long Found);

/// <summary>
/// Tables of the library as someone looks at them: searched, filtered, sorted. What was arranged is kept while its pages are looked through, as
/// long as the library stays as it was.
/// </summary>
public sealed class ArrangedLibrary : IDisposable
{
    private const int MostKept = 16;
    private static readonly TimeSpan KeptFor = TimeSpan.FromMinutes(2);

    private sealed record Kept<T>(IReadOnlyList<T> Things, IReadOnlyList<LibraryColumn<T>> Columns);

    private readonly MemoryCache _kept = new(new MemoryCacheOptions { SizeLimit = MostKept });

    /// <param name="version">Of the library the things are from.</param>
    public ArrangedPage Page<T>(string name, long version, LibraryTable<T> table, IReadOnlyCollection<T> things, Arrangement wanted, int from, int most)
        where T : class
    {
        var key = (name, version, wanted.Search, wanted.SortBy, wanted.Descending, string.Join('\n', wanted.Filters.Select(f => $"{f.Column}\t{f.Filter}")));
        var kept = _kept.GetOrCreate(key, entry =>
        {
            entry.SetSize(1).SetSlidingExpiration(KeptFor);
            var arranged = wanted.Of(table, things);
            return new Kept<T>(arranged, [.. table.Columns, .. table.MoreColumns(arranged).Select(n => table.ColumnOf(n)).OfType<LibraryColumn<T>>()]);
        })!;
        return new([.. kept.Columns.Select(c => c.Name)], [.. kept.Columns.Where(c => c.IsNumber).Select(c => c.Name)],
            [.. kept.Things.Skip(from).Take(most).Select(t => (IReadOnlyList<string>)[.. kept.Columns.Select(c => c.Write(t))])], kept.Things.Count);
    }

    public void Dispose() => _kept.Dispose();
}
