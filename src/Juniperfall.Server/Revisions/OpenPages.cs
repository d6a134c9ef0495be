using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Threading.Channels;

namespace Juniperfall.Server.Revisions;

/// <summary>The pages that look at a revision, each told what is of it; one that is slow is told the latest only.</summary>
public sealed class OpenPages<T>
{
    private const int MostWaiting = 16;

    private readonly ConcurrentDictionary<Channel<T>, long> _pages = new();

    /// <summary>What a page is told from now on.</summary>
    public async IAsyncEnumerable<T> Of(long revisionId, [EnumeratorCancellation] CancellationToken cancel)
    {
        var channel = Channel.CreateBounded<T>(new BoundedChannelOptions(MostWaiting) { FullMode = BoundedChannelFullMode.DropOldest });
        _pages[channel] = revisionId;
        try
        {
            await foreach (var told in channel.Reader.ReadAllAsync(cancel))
                yield return told;
        }
        finally
        {
            _pages.TryRemove(channel, out _);
        }
    }

    /// <param name="revisionId">Null for the pages of all revisions.</param>
    public void Tell(long? revisionId, Func<long, T> what)
    {
        foreach (var (page, wanted) in _pages)
            if (revisionId is null || wanted == revisionId)
                page.Writer.TryWrite(what(wanted));
    }
}
