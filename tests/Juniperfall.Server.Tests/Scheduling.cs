using System.Collections.Concurrent;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Tests;

/// <summary>Reasoning is fair between people, bounded, and ends when nobody wants it any more.</summary>
public sealed class Scheduling
{
    private static readonly TimeSpan Long = TimeSpan.FromMinutes(1);

    /// <summary>Holds all threads until it is let go, so that what is asked meanwhile waits.</summary>
    private sealed class Held(Scheduler scheduler, int slots) : IDisposable
    {
        private readonly ManualResetEventSlim _go = new();
        private readonly Task[] _tasks = new Task[slots];

        public async Task Start()
        {
            using var started = new CountdownEvent(_tasks.Length);
            for (var i = 0; i < _tasks.Length; i++)
                _tasks[i] = scheduler.Run($"holder {i}", Urgency.Answer, Long, _ =>
                {
                    started.Signal();
                    _go.Wait();
                    return 0;
                }, CancellationToken.None);
            await Task.Run(started.Wait);
        }

        public void Dispose() => _go.Set();
    }

    [Fact]
    public async Task One_person_with_fifty_questions_keeps_nobody_waiting_for_more_than_what_is_under_way()
    {
        using var scheduler = new Scheduler(2);
        using var held = new Held(scheduler, 2);
        await held.Start();
        var order = new ConcurrentQueue<string>();
        Task Ask(string person, Urgency urgency = Urgency.Answer) => scheduler.Run(person, urgency, Long, _ =>
        {
            lock (order)
                order.Enqueue(person);
            Thread.Sleep(2);
            return 0;
        }, CancellationToken.None);
        var greedy = Enumerable.Range(0, 50).Select(_ => Ask("greedy")).ToList();
        var analyses = Enumerable.Range(0, 5).Select(_ => Ask("analyst", Urgency.Analysis)).ToList();
        var others = Enumerable.Range(0, 10).Select(i => Ask($"other {i}")).ToList();
        held.Dispose();
        await Task.WhenAll([.. greedy, .. analyses, .. others]);
        var done = order.ToList();
        // Each of the others has had a turn before the greedy one has had more than a few, and analyses come last.
        Assert.All(Enumerable.Range(0, 10), i => Assert.InRange(done.IndexOf($"other {i}"), 0, 24));
        Assert.True(done.IndexOf("analyst") > done.FindLastIndex(p => p.StartsWith("other", StringComparison.Ordinal)));
        Assert.Equal(65, done.Count);
    }

    [Fact]
    public async Task Whose_pieces_take_long_never_has_all_threads()
    {
        using var scheduler = new Scheduler(2);
        var (now, most) = (0, 0);
        Task[] heavy = [.. Enumerable.Range(0, 6).Select(_ => scheduler.Run("heavy", Urgency.Question, Long, _ =>
        {
            most = Math.Max(most, Interlocked.Increment(ref now));
            Thread.Sleep(2_000);
            Interlocked.Decrement(ref now);
            return 0;
        }, CancellationToken.None))];
        // The first two start together, as nothing is known of them yet; from then on one thread is left to others.
        await Task.WhenAll(heavy[..2]);
        most = 0;
        await heavy[3];
        Assert.Equal(1, most);
        var answered = scheduler.Run("light", Urgency.Answer, Long, _ => 1, CancellationToken.None);
        Assert.Same(answered, await Task.WhenAny(answered, heavy[4]));
        await Task.WhenAll(heavy);
    }

    [Fact]
    public async Task An_analysis_stands_aside_while_an_answer_waits()
    {
        using var scheduler = new Scheduler(1);
        using var under = new ManualResetEventSlim();
        var answered = false;
        var analysis = scheduler.Run("", Urgency.Analysis, Long, _ =>
        {
            under.Set();
            while (!Volatile.Read(ref answered))
                scheduler.StandAside();
            return true;
        }, CancellationToken.None);
        under.Wait();
        await scheduler.Run("someone", Urgency.Answer, Long, _ => answered = true, CancellationToken.None).WaitAsync(Long);
        Assert.True(await analysis.WaitAsync(Long));
    }

    [Fact]
    public async Task What_nobody_wants_any_more_is_taken_out_or_ended()
    {
        using var scheduler = new Scheduler(1);
        using var under = new ManualResetEventSlim();
        using var first = new CancellationTokenSource();
        using var second = new CancellationTokenSource();
        var running = scheduler.Run("a", Urgency.Answer, Long, time =>
        {
            under.Set();
            time.WaitHandle.WaitOne(Long);
            time.ThrowIfCancellationRequested();
            return 0;
        }, first.Token);
        under.Wait();
        var waiting = scheduler.Run("b", Urgency.Answer, Long, _ => 0, second.Token);
        second.Cancel();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => waiting);
        Assert.Equal(0, scheduler.StateFor("b").Waiting);
        first.Cancel();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => running);
        Assert.Equal(7, await scheduler.Run("c", Urgency.Answer, Long, _ => 7, CancellationToken.None));
    }

    [Fact]
    public async Task A_time_limit_runs_from_when_the_turn_has_come()
    {
        using var scheduler = new Scheduler(1);
        using var held = new Held(scheduler, 1);
        await held.Start();
        var limited = scheduler.Run("a", Urgency.Answer, TimeSpan.FromSeconds(1), time => time.IsCancellationRequested, CancellationToken.None);
        await Task.Delay(1_500);
        held.Dispose();
        Assert.False(await limited);
        Assert.True(await scheduler.Run("a", Urgency.Answer, TimeSpan.FromMilliseconds(50), time => time.WaitHandle.WaitOne(Long), CancellationToken.None));
    }

    [Fact]
    public async Task Queues_are_bounded_and_a_failure_is_only_the_asker_s()
    {
        using var scheduler = new Scheduler(1);
        using var held = new Held(scheduler, 1);
        await held.Start();
        var waiting = Enumerable.Range(0, Scheduler.MostWaitingOfOne)
            .Select(_ => scheduler.Run("greedy", Urgency.Question, Long, _ => 0, CancellationToken.None)).ToList();
        Assert.True(Assert.Throws<TooMuchWaiting>(() => { _ = scheduler.Run("greedy", Urgency.Question, Long, _ => 0, CancellationToken.None); }).OfOnePerson);
        var failing = scheduler.Run<int>("other", Urgency.Answer, Long, _ => throw new InvalidDataException("x"), CancellationToken.None);
        var fine = scheduler.Run("other", Urgency.Answer, Long, _ => 1, CancellationToken.None);
        held.Dispose();
        await Assert.ThrowsAsync<InvalidDataException>(() => failing);
        Assert.Equal(1, await fine);
        await Task.WhenAll(waiting);
    }

    [Fact]
    public async Task A_long_search_stands_aside_for_answers_goes_on_by_itself_and_finds_the_same()
    {
        using var scheduler = new Scheduler(2);
        var package = Formats.ModelJson.Read(await File.ReadAllBytesAsync(Served.Repository("demo/cold-room.json"))).Package!;
        var (document, _) = ModelEditor.BindNames(package.Model, package.Library);
        var reasoner = new Core.Reasoning.Reasoner(new(document!, package.Library), Effectivity.Any, null);
        var answer = await scheduler.Run("one", Urgency.Answer, Long, time => reasoner.Answer(new([]), time), CancellationToken.None);
        Task<Core.Reasoning.Optimum> Best(string person) =>
            scheduler.Run(person, Urgency.Analysis, Long, time => reasoner.Best(answer, Core.Reasoning.StructureGoals.Cost, false, time, null),
            CancellationToken.None);
        var alone = await Best("first");
        // While two of them are asked for, answers of others come as if there were none, and both are proven all the same.
        var (one, two) = (Best("first"), Best("second"));
        var quick = 0;
        while (!one.IsCompleted || !two.IsCompleted)
        {
            await scheduler.Run($"other {quick % 5}", Urgency.Answer, Long, _ => Thread.Yield(), CancellationToken.None);
            quick++;
        }
        Assert.True(quick > 20, $"{quick} answers came through");
        Assert.Equal((alone.Number, true, true), ((await one).Number, (await one).Proven, (await two).Proven));
        Assert.Equal(alone.Number, (await two).Number);
    }
}
