using System.Collections.Concurrent;
using Juniperfall.Server.People;

namespace Juniperfall.Server.Solving;

/// <summary>A newer question of the same page has taken the place of this one.</summary>
public sealed class Superseded : Exception;

/// <summary>Who asks, and in which page: reasoning is fair between people, and of one page only the newest question of a kind counts.</summary>
public sealed class Askers(IHttpContextAccessor http)
{
    private readonly ConcurrentDictionary<string, CancellationTokenSource> _newest = new();

    /// <summary>The name of the person who asks; empty for the server itself.</summary>
    public string Person => http.HttpContext?.User.Identity?.Name ?? "";

    /// <summary>
    /// Waits for what is being worked out, until a newer question of the same kind comes from the same page. A request that names no page
    /// stands for itself.
    /// </summary>
    /// <exception cref="Superseded">A newer one has come.</exception>
    public async Task<T> Newest<T>(string kind, Func<CancellationToken, Task<T>> wait, CancellationToken cancel)
    {
        if (http.HttpContext?.Request.Headers[CrossSite.Header].ToString() is not { Length: > 8 and < 64 } page)
            return await wait(cancel);
        var key = $"{Person} {page} {kind}";
        using var own = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var before = _newest.GetValueOrDefault(key);
        _newest[key] = own;
        try
        {
            before?.Cancel();
        }
        catch (ObjectDisposedException)
        {
            // It has just been answered.
        }
        try
        {
            return await wait(own.Token);
        }
        catch (OperationCanceledException) when (own.IsCancellationRequested && !cancel.IsCancellationRequested)
        {
            throw new Superseded();
        }
        finally
        {
            _newest.TryRemove(KeyValuePair.Create(key, own));
        }
    }
}
