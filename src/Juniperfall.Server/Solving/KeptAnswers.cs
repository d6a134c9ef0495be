using System.Collections.Concurrent;
using System.Diagnostics;
using System.Threading.Channels;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Server.Solving;

/// <summary>The answers of one model that are known, for as long as the budget has room: each worked out once for everyone who asks.</summary>
internal sealed class KeptAnswers(CacheBudget budget)
{
    private sealed class Kept(SharedAnswer answer)
    {
        public SharedAnswer Answer { get; } = answer;
        public CacheBudget.Entry? Entry;
        public int Waited;
    }

    /// <summary>Of so many answers one is measured; the others of a model are much like it.</summary>
    private const int MeasuredOf = 16;

    private readonly ConcurrentDictionary<string, Kept> _kept = new();
    private volatile bool _isForgotten;
    private long _bytesOfOne;
    private int _answered;

    /// <summary>An answer where it is known already.</summary>
    public Asked? Known(string key) => _kept.TryGetValue(key, out var kept) && kept.Answer.IsCompleted
        && kept.Answer.Task.IsCompletedSuccessfully ? kept.Answer.Task.Result : null;

    /// <summary>
    /// The answer under a key, given up when nobody waits for it any more. What ran out of time is not kept: the next time it is gone on with.
    /// </summary>
    /// <param name="start">Begins to work it out.</param>
    /// <param name="parts">Given what is known until then, where it takes longer.</param>
    public async Task<Asked> Get(string key, Func<AnswerProgress, CancellationToken, Task<Asked>> start, ChannelWriter<PartialAnswer>? parts,
        CancellationToken cancel)
    {
        var began = Stopwatch.GetTimestamp();
        while (true)
        {
            var kept = _kept.GetOrAdd(key, _ => new(new(start)));
            if (!kept.Answer.TryJoin())
            {
                Drop(key, kept);
                continue;
            }
            try
            {
                if (parts is not null && !kept.Answer.Task.IsCompleted)
                    await kept.Answer.Progress.TellUntil(kept.Answer.Task, parts, cancel);
                var asked = await kept.Answer.Task.WaitAsync(cancel);
                if (asked.Answer.Exact && !_isForgotten)
                    Remember(key, kept, asked, Stopwatch.GetElapsedTime(began));
                else
                    Drop(key, kept);
                return asked;
            }
            catch (Exception) when (!kept.Answer.IsSound)
            {
                Drop(key, kept);
                throw;
            }
            finally
            {
                kept.Answer.Leave();
            }
        }
    }

    private void Drop(string key, Kept kept) => _kept.TryRemove(KeyValuePair.Create(key, kept));

    private void Remember(string key, Kept kept, Asked asked, TimeSpan took)
    {
        if (kept.Entry is { } entry)
            budget.Use(entry);
        else if (Interlocked.Increment(ref kept.Waited) == 1)
            kept.Entry = budget.Keep("answers", BytesOf(asked), took, () => Drop(key, kept));
    }

    private long BytesOf(Asked asked)
    {
        if (Interlocked.Increment(ref _answered) % MeasuredOf == 1)
            _bytesOfOne = RetainedSize.Of(asked, reached =>
                reached is Reasoner or BoundModel || reached.GetType().Namespace is "Juniperfall.Core.Models" or "Juniperfall.Core.Language");
        return _bytesOfOne;
    }

    /// <summary>Nothing of it is kept any longer; what is under way is finished.</summary>
    public void Forget()
    {
        _isForgotten = true;
        foreach (var (_, kept) in _kept)
            if (kept.Entry is { } entry)
                budget.Forget(entry);
    }
}
