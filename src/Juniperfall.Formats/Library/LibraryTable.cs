namespace Juniperfall.Formats.Library;

/// <summary>A column of a library table: how a thing is written into its cell, and read from it.</summary>
/// <param name="Read">The thing with what the cell says, or a sentence of what is wrong with the cell.</param>
public sealed record LibraryColumn<T>(string Name, Func<T, string> Write, Func<T, string, (T Thing, string? Fault)> Read)
{
    /// <summary>Whether its texts write numbers.</summary>
    public bool IsNumber { get; init; }

    /// <summary>Whether it says what something costs.</summary>
    public bool IsCost { get; init; }
}

/// <summary>What is wrong with one cell.</summary>
/// <param name="Row">The number of the row in its file.</param>
/// <param name="IsStale">Whether it stands there differently by now than it was seen.</param>
public sealed record CellFault(int Row, string Column, string Text, string Sentence, bool IsStale = false);

/// <summary>What a table would do to the library.</summary>
/// <param name="Good">What the sound rows come to, the changed ones and the new ones; what stays the same is left out.</param>
/// <param name="Cells">The cells that would change or be filled, row by row; at most <see cref="MostCells"/>.</param>
/// <param name="CellCount">How many there are in all.</param>
public sealed record LibraryChange<T>(IReadOnlyList<T> Good, IReadOnlyList<CellFault> Faults, int Rows, int FaultyRows, int Added, int Changed, int Same,
    IReadOnlyList<CellChange> Cells, int CellCount)
{
    public const int MostCells = 500;
}

/// <summary>What a table would do to one cell.</summary>
/// <param name="Row">The number of the row in its file.</param>
/// <param name="Key">Which thing the row is about.</param>
/// <param name="IsNew">Whether the thing is not there yet.</param>
public sealed record CellChange(int Row, string Key, string Column, string Before, string After, bool IsNew);

/// <summary>
/// One kind of thing in the library as a table, for files and for grids alike. A column that a table leaves out leaves what is
/// there as it is; a new thing takes its default.
/// </summary>
/// <param name="Key">The column that says which thing a row is about; its texts are told apart as they are.</param>
/// <param name="Columns">Those that are always written out, the key first.</param>
/// <param name="ColumnOf">The column of a name, also of those that not every thing has; null where there is none.</param>
public sealed record LibraryTable<T>(string Key, Func<T, string> KeyOf, Func<string, T> New, IReadOnlyList<LibraryColumn<T>> Columns,
    Func<string, LibraryColumn<T>?> ColumnOf, Func<IEnumerable<T>, IEnumerable<string>> MoreColumns)
    where T : class
{
    private const int LongestKey = 60;

    /// <summary>The same table for who may not see what things cost.</summary>
    public LibraryTable<T> WithoutCosts() => this with
    {
        Columns = [.. Columns.Where(c => !c.IsCost)],
        ColumnOf = name => ColumnOf(name) is { IsCost: false } column ? column : null,
        MoreColumns = things => MoreColumns(things).Where(n => ColumnOf(n) is { IsCost: false }),
    };

    public Table Write(IReadOnlyCollection<T> things)
    {
        List<LibraryColumn<T>> columns = [.. Columns, .. MoreColumns(things).Select(n => ColumnOf(n)).OfType<LibraryColumn<T>>()];
        return new([.. columns.Select(c => c.Name)],
            [.. things.Select(t => columns.Select(c => (object?)c.Write(t)).ToArray())])
        {
            NumberColumns = columns.Select((c, i) => (c, i))
            .Where(x => x.c.IsNumber).Select(x => x.i).ToHashSet()
        };
    }

    /// <summary>Reads a sheet against what is there already.</summary>
    /// <param name="check">What is wrong with a thing as a whole, with its column; null where nothing is.</param>
    public LibraryChange<T> Read(Sheet sheet, Func<string, T?> existing, Func<T, (string Column, string Sentence)?>? check = null)
    {
        var faults = new List<CellFault>();
        var columns = sheet.Columns.Select(n => ColumnOf(n)).ToList();
        for (var c = 0; c < columns.Count; c++)
            if (columns[c] is null)
                faults.Add(new(sheet.FirstRow - 1, sheet.Columns[c], sheet.Columns[c],
                    $"There is no column “{sheet.Columns[c]}”; there are {string.Join(", ", Columns.Select(x => x.Name))}."));
        var key = columns.FindIndex(c => c?.Name == Key);
        if (key < 0)
            faults.Add(new(sheet.FirstRow - 1, Key, "", $"The column “{Key}” is missing; it says which one a row is about."));
        if (faults.Count > 0)
            return new([], faults, sheet.Rows.Count, sheet.Rows.Count, 0, 0, 0, [], 0);
        var (cellChanges, cellCount) = (new List<CellChange>(), 0);
        var (good, seen) = (new List<T>(), new Dictionary<string, int>());
        var (faulty, added, changed, same) = (0, 0, 0, 0);
        for (var r = 0; r < sheet.Rows.Count; r++)
        {
            var (cells, number) = (sheet.Rows[r], sheet.FirstRow + r);
            var before = faults.Count;
            var name = key < cells.Length ? cells[key].Trim() : "";
            void Report(string column, string text, string sentence) => faults.Add(new(number, column, text, sentence));
            if (name.Length is 0 or > LongestKey || name.Any(char.IsControl) || name.Contains(',', StringComparison.Ordinal))
                Report(Key, name, name.Length == 0 ? $"The {Key} is missing." : name.Length > LongestKey
                    ? $"It is longer than {LongestKey} characters." : "It has a comma or a character in it that cannot be printed.");
            else if (!seen.TryAdd(name, number))
                Report(Key, name, $"It stands in row {seen[name]} already.");
            if (cells.Skip(columns.Count).Any(c => c.Length > 0))
                Report(sheet.Columns[^1], cells[^1], $"The row has {cells.Length} cells, and there are {columns.Count} columns.");
            if (faults.Count > before)
            {
                faulty++;
                continue;
            }
            var was = existing(name);
            var thing = was ?? New(name);
            for (var c = 0; c < columns.Count; c++)
            {
                if (c == key)
                    continue;
                var text = sheet.Text(c < cells.Length ? cells[c].Trim() : "", columns[c]!.IsNumber, columns[c]!.Name);
                var (read, fault) = columns[c]!.Read(thing, text);
                if (fault is null)
                    thing = read;
                else
                    Report(sheet.Columns[c], text, fault);
            }
            if (faults.Count == before && check?.Invoke(thing) is var (column, sentence))
                Report(column, ColumnOf(column)!.Write(thing), sentence);
            if (faults.Count > before)
            {
                faulty++;
                continue;
            }
            if (was is not null && IsSame(was, thing, columns!))
                same++;
            else
            {
                good.Add(thing);
                foreach (var at in columns.OfType<LibraryColumn<T>>().Where(c => c.Name != Key))
                    if ((was is null ? "" : at.Write(was), at.Write(thing)) is var (old, now) && old != now && cellCount++ < LibraryChange<T>.MostCells)
                        cellChanges.Add(new(number, name, at.Name, old, now, was is null));
                (added, changed) = was is null ? (added + 1, changed) : (added, changed + 1);
            }
        }
        return new(good, faults, sheet.Rows.Count, faulty, added, changed, same, cellChanges, cellCount);
    }

    /// <summary>Cells that someone else has changed since they were seen: those that hold neither what was seen nor what is to be written.</summary>
    /// <param name="seen">Of each row of the sheet what stood in its cells.</param>
    public IReadOnlyList<CellFault> Stale(Sheet sheet, IReadOnlyList<string[]> seen, Func<string, T?> existing)
    {
        var (columns, faults) = (sheet.Columns.Select(n => ColumnOf(n)).ToList(), new List<CellFault>());
        var key = columns.FindIndex(c => c?.Name == Key);
        for (var r = 0; key >= 0 && r < sheet.Rows.Count && r < seen.Count; r++)
            if (key < sheet.Rows[r].Length && existing(sheet.Rows[r][key].Trim()) is { } thing)
                for (var c = 0; c < columns.Count && c < seen[r].Length && c < sheet.Rows[r].Length; c++)
                    if (c != key && columns[c] is { } column && column.Write(thing) is var now && now != seen[r][c].Trim() && now != sheet.Rows[r][c].Trim())
                        faults.Add(new(sheet.FirstRow + r, sheet.Columns[c], sheet.Rows[r][c],
                            $"Someone has changed this to “{now}” since you saw it; yours, “{sheet.Rows[r][c].Trim()}”, was not stored.", true));
        return faults;
    }

    private static bool IsSame(T a, T b, List<LibraryColumn<T>> columns) => columns.TrueForAll(c => c.Write(a) == c.Write(b));
}
