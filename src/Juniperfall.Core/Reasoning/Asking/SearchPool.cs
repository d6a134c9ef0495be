using System.Collections.Concurrent;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>
/// Lends searches over one network: those that have learned from earlier questions, and those without history, whose first solution is
/// the same each time. Safe for concurrent use.
/// </summary>
/// <param name="start">Propagated domains, as the groups hold or do not hold.</param>
/// <param name="preferred">By variable: what is tried first.</param>
internal sealed class SearchPool(Network network, Func<CancellationToken, Domain<DoubleEnd>[]> start, GroupsHold groups, Assigned?[] preferred)
{
    /// <summary>A search that is only ever copied.</summary>
    private readonly OnceBuilt<Search> _pristine = new(cancel => new(network, start(cancel), groups, cancel));
    private readonly ConcurrentBag<SearchSession> _warm = [], _reusable = [];

    /// <summary>Asks a search that knows what it has learned from earlier questions; one that was interrupted is not taken back.</summary>
    /// <exception cref="SearchInterrupted">Cancelled before the network was written as clauses, or by what is asked.</exception>
    public TResult Warm<TResult>(CancellationToken cancel, Func<SearchSession, TResult> ask)
    {
        if (!_warm.TryTake(out var session))
            session = New(cancel);
        session.Search.Cancel = cancel;
        session.Standing.Clear();
        preferred.CopyTo(session.Search.Preferred, 0);
        var result = ask(session);
        (session.Search.IsSpent ? _reusable : _warm).Add(session);
        return result;
    }

    /// <summary>Asks a search without history: what it finds first is the same each time.</summary>
    /// <exception cref="SearchInterrupted">Cancelled before the network was written as clauses, or by what is asked.</exception>
    public TResult Fresh<TResult>(CancellationToken cancel, Func<SearchSession, TResult> ask)
    {
        var session = New(cancel);
        try
        {
            return ask(session);
        }
        finally
        {
            _reusable.Add(session);
        }
    }

    /// <summary>A search without history, for as long as one likes.</summary>
    /// <exception cref="SearchInterrupted">Cancelled before the network was written as clauses.</exception>
    public SearchSession New(CancellationToken cancel)
    {
        var search = Pristine(cancel).Copy(_reusable.TryTake(out var spent) ? spent.Search : null);
        search.Cancel = cancel;
        preferred.CopyTo(search.Preferred, 0);
        return new(search, network);
    }

    private Search Pristine(CancellationToken cancel)
    {
        try
        {
            return _pristine.Get(cancel);
        }
        catch (OperationCanceledException)
        {
            throw new SearchInterrupted();
        }
    }

    /// <summary>A search over another network of the same model, which tries what is suggested first.</summary>
    /// <param name="start">Propagated domains.</param>
    public static SearchSession Over(Network network, Domain<DoubleEnd>[] start, CancellationToken cancel)
    {
        var search = new Search(network, start, GroupsHold.Always, cancel) { Cancel = cancel };
        Prefer(search, network);
        return new(search, network);
    }

    /// <summary>Lets a search try what is suggested first.</summary>
    public static void Prefer(Search search, Network network)
    {
        foreach (var variable in network.Variables)
            search.Preferred[variable.Index] = Suggestions.Of(variable);
    }
}
