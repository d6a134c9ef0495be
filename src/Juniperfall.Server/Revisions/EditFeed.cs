using System.Globalization;
using Juniperfall.Storage;

namespace Juniperfall.Server.Revisions;

/// <summary>That a revision has changed: its last edit. Zero after a change of its state, and after the connection was lost, when anything may have.</summary>
public sealed record RevisionChanged(long RevisionId, long Head);

/// <summary>Hears of every edit on the database, whichever server stored it, and passes it on to the open pages.</summary>
public sealed class EditFeed : INoticeHearer
{
    private readonly OpenPages<RevisionChanged> _pages = new();

    public string Channel => RevisionStore.Channel;

    /// <summary>The changes of one revision from now on.</summary>
    public IAsyncEnumerable<RevisionChanged> Of(long revisionId, CancellationToken cancel) => _pages.Of(revisionId, cancel);

    public void Hear(string payload)
    {
        var parts = payload.Split(':');
        var head = long.Parse(parts[1], CultureInfo.InvariantCulture);
        _pages.Tell(long.Parse(parts[0], CultureInfo.InvariantCulture), id => new(id, head));
    }

    public void Missed() => _pages.Tell(null, id => new(id, 0));
}
