namespace Juniperfall.Server.Solving;

/// <summary>What the caches of the process hold of one kind.</summary>
public sealed record CacheState(string Kind, int Entries, long Bytes);

/// <summary>
/// One budget of memory for everything that is kept only to save work. What is dropped first is old, cheap to work out again and large:
/// GreedyDual-Size (Cao and Irani, 1997). What nobody has used for a while is dropped although there is room, so that memory comes back
/// after a busy time.
/// </summary>
public sealed class CacheBudget : IDisposable
{
    /// <summary>The smallest budget that a setting can give: less would work everything out each time.</summary>
    public const long Least = 16L * 1024 * 1024;

    /// <summary>Something that is kept. It belongs to whoever keeps it; the budget only says when it has to go.</summary>
    public sealed class Entry
    {
        internal Entry(string kind, Action drop) => (Kind, Drop) = (kind, drop);

        internal string Kind { get; }
        internal Action Drop { get; }
        internal long Number { get; init; }
        internal long Bytes { get; set; }
        internal double Cost { get; init; }

        /// <summary>What it costs to have it again for each byte, on top of what was dropped last when it was used.</summary>
        internal double Worth { get; set; }
        internal long UsedAt { get; set; }
        internal bool IsKept { get; set; }
    }

    private readonly object _lock = new();
    private readonly SortedSet<Entry> _entries =
        new(Comparer<Entry>.Create((a, b) => a.Worth.CompareTo(b.Worth) is not 0 and var order ? order : a.Number.CompareTo(b.Number)));
    private readonly TimeProvider _clock;
    private readonly ITimer _timer;
    private readonly TimeSpan _often;
    private double _droppedWorth;
    private long _numbers;

    /// <param name="limit">In bytes.</param>
    /// <param name="longestIdle">After how long without use something is dropped.</param>
    public CacheBudget(long limit, TimeSpan longestIdle, TimeProvider clock)
    {
        (Limit, LongestIdle, _clock) = (Math.Max(Least, limit), longestIdle, clock);
        _often = TimeSpan.FromTicks(Math.Max(longestIdle.Ticks / 10, TimeSpan.TicksPerSecond));
        _timer = clock.CreateTimer(_ => DropIdle(), null, _often, _often);
    }

    public long Limit { get; }
    public TimeSpan LongestIdle { get; }
    public long Held { get; private set; }

    /// <summary>Keeps something, and makes room for it.</summary>
    /// <param name="bytes">What it holds of memory.</param>
    /// <param name="cost">How long it took to work out.</param>
    /// <param name="drop">Lets go of it; called once, by any thread.</param>
    public Entry Keep(string kind, long bytes, TimeSpan cost, Action drop)
    {
        List<Entry> dropped;
        Entry entry;
        lock (_lock)
        {
            entry = new(kind, drop) { Number = ++_numbers, Cost = Math.Max(cost.TotalMilliseconds, 0.01), Bytes = Math.Max(1, bytes) };
            Enter(entry);
            dropped = MakeRoom();
        }
        LetGo(dropped);
        return entry;
    }

    /// <summary>It was of use again.</summary>
    public void Use(Entry entry)
    {
        lock (_lock)
            if (entry.IsKept)
            {
                Leave(entry);
                Enter(entry);
            }
    }

    /// <summary>It has grown or shrunk.</summary>
    public void Resize(Entry entry, long bytes)
    {
        List<Entry> dropped = [];
        lock (_lock)
            if (entry.IsKept)
            {
                Leave(entry);
                entry.Bytes = Math.Max(1, bytes);
                Enter(entry);
                dropped = MakeRoom();
            }
        LetGo(dropped);
    }

    /// <summary>Whoever keeps it has let go of it.</summary>
    public void Forget(Entry entry)
    {
        lock (_lock)
            if (entry.IsKept)
                Leave(entry);
    }

    /// <summary>What is held, by kind.</summary>
    public IReadOnlyList<CacheState> State()
    {
        lock (_lock)
            return [.. _entries.GroupBy(e => e.Kind).Select(g => new CacheState(g.Key, g.Count(), g.Sum(e => e.Bytes)))];
    }

    /// <summary>Drops what nobody has used for a while.</summary>
    internal void DropIdle()
    {
        List<Entry> idle;
        bool isQuiet;
        lock (_lock)
        {
            isQuiet = _entries.All(e => _clock.GetElapsedTime(e.UsedAt) > _often);
            idle = [.. _entries.Where(e => _clock.GetElapsedTime(e.UsedAt) > LongestIdle)];
            idle.ForEach(Leave);
        }
        LetGo(idle);
        // Nothing else asks the runtime to give memory back while nobody works; whoever works would be held up by it.
        if (idle.Count > 0 && isQuiet)
            GC.Collect(GC.MaxGeneration, GCCollectionMode.Aggressive, true, true);
    }

    private void Enter(Entry entry)
    {
        entry.Worth = _droppedWorth + (entry.Cost / entry.Bytes);
        entry.UsedAt = _clock.GetTimestamp();
        entry.IsKept = true;
        _entries.Add(entry);
        Held += entry.Bytes;
    }

    private void Leave(Entry entry)
    {
        _entries.Remove(entry);
        entry.IsKept = false;
        Held -= entry.Bytes;
    }

    private List<Entry> MakeRoom()
    {
        // What has no room even by itself would only drive out all the rest before it goes.
        List<Entry> dropped = Held > Limit ? [.. _entries.Where(e => e.Bytes > Limit)] : [];
        dropped.ForEach(Leave);
        while (Held > Limit && _entries.Min is { } least)
        {
            _droppedWorth = least.Worth;
            Leave(least);
            dropped.Add(least);
        }
        return dropped;
    }

    /// <summary>Outside the lock, since those who keep something have locks of their own.</summary>
    private static void LetGo(List<Entry> dropped)
    {
        foreach (var entry in dropped)
            entry.Drop();
    }

    public void Dispose() => _timer.Dispose();
}
