using System.Diagnostics;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Server.Solving;

/// <summary>How soon something is wanted.</summary>
public enum Urgency
{
    /// <summary>Someone waits for it to go on picking.</summary>
    Answer,

    /// <summary>Someone has asked for it by a click.</summary>
    Question,

    /// <summary>Nobody waits for it: analyses, counts, optima, warming up.</summary>
    Analysis,
}

/// <summary>More is waiting already than can be worked on in good time.</summary>
public sealed class TooMuchWaiting(bool ofOnePerson) : Exception("Too much is waiting.")
{
    /// <summary>Whether it is one person's own questions that fill the queue.</summary>
    public bool OfOnePerson { get; } = ofOnePerson;
}

/// <summary>What the scheduler has to do.</summary>
/// <param name="Ahead">How many pieces of others are likely to be worked on before the next of the person asked about.</param>
public sealed record SchedulerState(int Running, int Waiting, int Ahead);

/// <summary>
/// Does all reasoning of the process: on as many threads as there are processors, fair between people, answers before analyses. Who has
/// least under way comes first, and among those who has waited longest, as in fair queuing (Demers, Keshav and Shenker, 1989); whose pieces
/// take long never gets all threads. An analysis stands aside while answers wait. Queues are bounded.
/// </summary>
public sealed class Scheduler : IDisposable
{
    /// <summary>Pieces that can wait in all and of one person.</summary>
    public const int MostWaiting = 5_000, MostWaitingOfOne = 200;

    /// <summary>Reasoning works on deep expressions; a thread of the pool has a stack of 1.5 MB.</summary>
    private const int StackSize = 16 * 1024 * 1024;

    /// <summary>Whose pieces take less at the mean may use all threads.</summary>
    private static readonly TimeSpan Short = TimeSpan.FromMilliseconds(400);

    private sealed class Piece(Urgency urgency, Person person, Action run, Action giveUp, CancellationToken cancel)
    {
        public Urgency Urgency { get; } = urgency;
        public Person Person { get; } = person;
        public Action Run { get; } = run;
        public Action GiveUp { get; } = giveUp;
        public CancellationToken Cancel { get; } = cancel;
    }

    private sealed class Person(string name)
    {
        public string Name { get; } = name;
        public LinkedList<Piece>[] Waiting { get; } = [new(), new(), new()];
        public int WaitingCount => Waiting.Sum(w => w.Count);
        public int Running { get; set; }
        public long LastServed { get; set; }

        /// <summary>What a piece takes at the mean, the latest most, in seconds.</summary>
        public double Mean { get; set; }
    }

    /// <summary>Told of each piece that was worked on: how long it waited, and how long it took.</summary>
    internal Action<Urgency, TimeSpan, TimeSpan>? Done { get; set; }

    private readonly object _lock = new();
    private readonly Dictionary<string, Person> _people = [];
    private readonly int _slots;
    private readonly Thread[] _threads;
    private int _running, _analyses, _waiting;
    private long _served;
    private bool _isClosed;

    // On a single processor, two take turns: an optimum that nobody waits for does not keep every answer waiting for minutes.
    public Scheduler() : this(Math.Max(2, Environment.ProcessorCount)) { }

    /// <param name="slots">How many pieces are worked on at once.</param>
    public Scheduler(int slots)
    {
        _slots = slots;
        // An analysis that stands aside keeps its thread, and another one takes its place.
        _threads = [.. Enumerable.Range(0, slots + MostAnalyses).Select(i => new Thread(Work, StackSize) { IsBackground = true, Name = $"solver {i}" })];
        foreach (var thread in _threads)
            thread.Start();
    }

    private int MostAnalyses => Math.Max(1, _slots - 1);

    /// <summary>Works on something when its turn comes.</summary>
    /// <param name="person">Who asks.</param>
    /// <param name="limit">How long it may take from when its turn has come; the token that the work is given is cancelled then.</param>
    /// <param name="cancel">Takes it out of the queue, or cancels it while it is worked on.</param>
    /// <exception cref="TooMuchWaiting">The queue is full.</exception>
    public Task<T> Run<T>(string person, Urgency urgency, TimeSpan limit, Func<CancellationToken, T> work, CancellationToken cancel)
    {
        if (cancel.IsCancellationRequested)
            return Task.FromCanceled<T>(cancel);
        var done = new TaskCompletionSource<T>(TaskCreationOptions.RunContinuationsAsynchronously);
        var (asked, request) = (Stopwatch.GetTimestamp(), Activity.Current?.Context ?? default);
        lock (_lock)
        {
            ObjectDisposedException.ThrowIf(_isClosed, this);
            if (!_people.TryGetValue(person, out var of))
                _people[person] = of = new(person);
            if (_waiting >= MostWaiting || of.WaitingCount >= MostWaitingOfOne)
                throw new TooMuchWaiting(of.WaitingCount >= MostWaitingOfOne);
            var piece = new Piece(urgency, of, Finish, () => done.TrySetCanceled(cancel), cancel);
            var node = of.Waiting[(int)urgency].AddLast(piece);
            _waiting++;
            // Whoever has gone does not keep others waiting, also while the piece still waits itself.
            if (cancel.CanBeCanceled)
                cancel.Register(() => TakeOut(node));
            Monitor.PulseAll(_lock);
        }
        return done.Task;

        void Finish()
        {
            var began = Stopwatch.GetTimestamp();
            var waited = Stopwatch.GetElapsedTime(asked, began);
            using var span = SolvingMetrics.Span(urgency, request, waited);
            try
            {
                using var time = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                time.CancelAfter(limit);
                done.TrySetResult(work(time.Token));
            }
            catch (OperationCanceledException)
            {
                done.TrySetCanceled();
            }
            catch (Exception e)
            {
                done.TrySetException(e);
            }
            finally
            {
                Done?.Invoke(urgency, waited, Stopwatch.GetElapsedTime(began));
            }
        }
    }

    private void TakeOut(LinkedListNode<Piece> node)
    {
        lock (_lock)
        {
            if (node.List is not { } list)
                return;
            list.Remove(node);
            _waiting--;
            Forget(node.Value.Person);
        }
        node.Value.GiveUp();
    }

    /// <summary>
    /// Called by an analysis between its steps: where others wait for an answer and no thread is free, it waits until they have it.
    /// </summary>
    public void StandAside() => GiveWay(TimeSpan.MaxValue);

    private void GiveWay(TimeSpan longest)
    {
        lock (_lock)
        {
            if (_running < _slots || !IsSomeoneNext())
                return;
            _running--;
            _analyses--;
            Monitor.PulseAll(_lock);
            var began = Stopwatch.GetTimestamp();
            while ((_running >= _slots || IsSomeoneNext()) && !_isClosed && longest - Stopwatch.GetElapsedTime(began) is var left && left > TimeSpan.Zero)
                Monitor.Wait(_lock, left < LongestWait ? left : LongestWait);
            _running++;
            _analyses++;
        }
    }

    // A monitor cannot wait for longer than some weeks at once.
    private static readonly TimeSpan LongestWait = TimeSpan.FromDays(1);

    /// <summary>The longest that a search is held up at once, and the shortest that it then goes on: what waits for it is never kept waiting for
    /// good.</summary>
    private static readonly TimeSpan LongestPause = TimeSpan.FromMilliseconds(300), ShortestTurn = TimeSpan.FromMilliseconds(30);

    /// <summary>Holds a long analysis up between two steps of its search while others wait for answers and no thread is free.</summary>
    private void Pause(ref long resumed)
    {
        if (Volatile.Read(ref _waiting) == 0 || Stopwatch.GetElapsedTime(resumed) < ShortestTurn)
            return;
        GiveWay(LongestPause);
        resumed = Stopwatch.GetTimestamp();
    }

    private bool IsSomeoneNext() => Next() is { Urgency: not Urgency.Analysis };

    /// <param name="person">Whose next piece is asked about.</param>
    public SchedulerState StateFor(string person)
    {
        lock (_lock)
        {
            var own = _people.GetValueOrDefault(person);
            var ahead = own is null || own.WaitingCount == 0
                ? 0 : _people.Values.Count(p => p != own && p.WaitingCount > 0 && (p.Running, p.LastServed).CompareTo((own.Running, own.LastServed)) < 0);
            return new(_running, _waiting, ahead);
        }
    }

    private void Work()
    {
        while (true)
        {
            Piece? piece;
            lock (_lock)
            {
                while ((piece = _isClosed || _running >= _slots ? null : Next()) is null)
                {
                    if (_isClosed)
                        return;
                    Monitor.Wait(_lock);
                }
                piece.Person.Waiting[(int)piece.Urgency].Remove(piece);
                piece.Person.Running++;
                piece.Person.LastServed = ++_served;
                _waiting--;
                _running++;
                if (piece.Urgency == Urgency.Analysis)
                    _analyses++;
            }
            var (clock, resumed) = (Stopwatch.GetTimestamp(), Stopwatch.GetTimestamp());
            SearchPause.Set(piece.Urgency == Urgency.Analysis ? () => Pause(ref resumed) : null);
            if (piece.Cancel.IsCancellationRequested)
                piece.GiveUp();
            else
                piece.Run();
            lock (_lock)
            {
                var person = piece.Person;
                if (piece.Urgency != Urgency.Analysis)
                    person.Mean = 0.7 * person.Mean + 0.3 * Stopwatch.GetElapsedTime(clock).TotalSeconds;
                else
                    _analyses--;
                person.Running--;
                _running--;
                Forget(person);
                Monitor.PulseAll(_lock);
            }
        }
    }

    /// <summary>What is to be worked on next; null where nothing may be just now.</summary>
    private Piece? Next()
    {
        Person? best = null;
        foreach (var person in _people.Values)
            if (UrgencyOf(person) is { } urgency
                && (best is null || (RankOf(urgency), person.Running, (int)urgency, person.LastServed)
                .CompareTo((RankOf(UrgencyOf(best)!.Value), best.Running, (int)UrgencyOf(best)!.Value, best.LastServed)) < 0))
                best = person;
        return best is null ? null : best.Waiting[(int)UrgencyOf(best)!.Value].First!.Value;
    }

    private static int RankOf(Urgency urgency) => urgency == Urgency.Analysis ? 1 : 0;

    /// <summary>The most urgent that a person has waiting and may have worked on now.</summary>
    private Urgency? UrgencyOf(Person person)
    {
        var mayHaveMore = person.Running < Math.Max(1, _slots - 1) || person.Mean < Short.TotalSeconds;
        if (mayHaveMore && person.Waiting[(int)Urgency.Answer].Count > 0)
            return Urgency.Answer;
        if (mayHaveMore && person.Waiting[(int)Urgency.Question].Count > 0)
            return Urgency.Question;
        return person.Waiting[(int)Urgency.Analysis].Count > 0 && _analyses < MostAnalyses ? Urgency.Analysis : null;
    }

    private void Forget(Person person)
    {
        // Who took long lately is still known for a while.
        if (_people.Count > MostRemembered && person is { Running: 0, WaitingCount: 0 })
            _people.Remove(person.Name);
    }

    private const int MostRemembered = 1_000;

    public void Dispose()
    {
        List<Piece> left;
        lock (_lock)
        {
            if (_isClosed)
                return;
            _isClosed = true;
            left = [.. _people.Values.SelectMany(p => p.Waiting.SelectMany(w => w))];
            Monitor.PulseAll(_lock);
        }
        left.ForEach(p => p.GiveUp());
    }
}
