using System.Diagnostics;
using System.Threading.Channels;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Server.Solving;

/// <summary>
/// What is known of an answer while it is worked out: looked at now and then by the thread that works, and told to those who show it meanwhile.
/// Where nobody does, nobody looks.
/// </summary>
internal sealed class AnswerProgress
{
    /// <summary>An answer that is there sooner comes as a whole: the eye would not see the part before it.</summary>
    private static readonly TimeSpan First = TimeSpan.FromMilliseconds(12);

    /// <summary>The least time between two looks, and between two parts that are told.</summary>
    private static readonly TimeSpan BetweenLooks = TimeSpan.FromMilliseconds(6), BetweenParts = TimeSpan.FromMilliseconds(60);

    private int _listeners;
    private long _lookedAt;
    private volatile PartialAnswer? _latest;
    private volatile TaskCompletionSource _news = new(TaskCreationOptions.RunContinuationsAsynchronously);

    /// <summary>Called by the thread that works.</summary>
    public void Look(Func<PartialAnswer> known)
    {
        if (Volatile.Read(ref _listeners) == 0 || (_latest is not null && Stopwatch.GetElapsedTime(_lookedAt) < BetweenLooks))
            return;
        _latest = known();
        _lookedAt = Stopwatch.GetTimestamp();
        var news = _news;
        _news = new(TaskCreationOptions.RunContinuationsAsynchronously);
        news.TrySetResult();
    }

    /// <summary>Tells what is known, from part to part, until the whole is there.</summary>
    public async Task TellUntil(Task whole, ChannelWriter<PartialAnswer> to, CancellationToken cancel)
    {
        Interlocked.Increment(ref _listeners);
        try
        {
            PartialAnswer? told = null;
            var wait = First;
            while (await Task.WhenAny(whole, Task.Delay(wait, cancel)) != whole && !cancel.IsCancellationRequested)
            {
                var news = _news;
                if (_latest is { } latest && latest != told)
                    to.TryWrite(told = latest);
                else
                    await Task.WhenAny(whole, news.Task.WaitAsync(cancel));
                wait = told is null ? TimeSpan.Zero : BetweenParts;
            }
        }
        finally
        {
            Interlocked.Decrement(ref _listeners);
        }
    }
}
