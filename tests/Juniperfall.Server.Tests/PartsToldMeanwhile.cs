using System.Threading.Channels;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Tests;

/// <summary>What is known of an answer is looked at only for who listens, and told in order until the whole is there.</summary>
public sealed class PartsToldMeanwhile
{
    private static PartialAnswer Part(bool valid = true) => new(valid, []);

    private static Channel<PartialAnswer> NewChannel() => Channel.CreateUnbounded<PartialAnswer>();

    [Fact]
    public void Where_nobody_listens_nobody_looks()
    {
        var progress = new AnswerProgress();
        progress.Look(() => throw new InvalidOperationException("Somebody looked."));
    }

    [Fact]
    public async Task An_answer_that_is_there_at_once_has_no_parts()
    {
        var (progress, parts) = (new AnswerProgress(), NewChannel());
        await progress.TellUntil(Task.CompletedTask, parts.Writer, default);
        Assert.False(parts.Reader.TryRead(out _));
    }

    [Fact]
    public async Task Parts_are_told_until_the_whole_is_there_the_latest_last()
    {
        var (progress, parts, whole) = (new AnswerProgress(), NewChannel(), new TaskCompletionSource());
        var telling = progress.TellUntil(whole.Task, parts.Writer, default);
        var told = new List<PartialAnswer>();
        var (looked, latest) = (0, Part());
        for (var i = 0; i < 2_000 && told.Count < 3; i++)
        {
            progress.Look(() =>
            {
                looked++;
                return latest = Part(i % 2 == 0);
            });
            await Task.Delay(8);
            while (parts.Reader.TryRead(out var part))
                told.Add(part);
        }
        whole.SetResult();
        await telling.WaitAsync(TimeSpan.FromSeconds(10));
        Assert.Equal(3, told.Count);
        Assert.Equal(told.Count, told.Distinct(ReferenceEqualityComparer.Instance).Count());
        // It is looked more often than told: nobody reads faster than the eye.
        Assert.True(looked >= told.Count, $"{looked} looks for {told.Count} parts");
        // Once nobody listens any more, nobody looks.
        progress.Look(() => throw new InvalidOperationException("Somebody looked."));
    }

    [Fact]
    public async Task Who_leaves_is_told_nothing_more_and_the_others_go_on()
    {
        var (progress, whole) = (new AnswerProgress(), new TaskCompletionSource());
        var (leaving, staying) = (NewChannel(), NewChannel());
        using var gone = new CancellationTokenSource();
        var first = progress.TellUntil(whole.Task, leaving.Writer, gone.Token);
        var second = progress.TellUntil(whole.Task, staying.Writer, default);
        progress.Look(() => Part());
        Assert.True(await staying.Reader.WaitToReadAsync().AsTask().WaitAsync(TimeSpan.FromSeconds(10)));
        await gone.CancelAsync();
        await first.WaitAsync(TimeSpan.FromSeconds(10)).ContinueWith(_ => { }, TaskScheduler.Default);
        while (staying.Reader.TryRead(out _)) { }
        await Task.Delay(10);
        progress.Look(() => Part(false));
        Assert.True(await staying.Reader.WaitToReadAsync().AsTask().WaitAsync(TimeSpan.FromSeconds(10)));
        whole.SetResult();
        await second.WaitAsync(TimeSpan.FromSeconds(10));
    }
}
