namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>Something that the first who needs it builds, in the time that he has; where that runs out, the next one builds it in his own.</summary>
/// <param name="build">Throws <see cref="OperationCanceledException"/> where it was cancelled.</param>
internal sealed class OnceBuilt<T>(Func<CancellationToken, T> build)
{
    private readonly Lock _lock = new();
    private volatile bool _isBuilt;
    private T _value = default!;

    /// <exception cref="OperationCanceledException">Cancelled before it was built.</exception>
    public T Get(CancellationToken cancel)
    {
        if (_isBuilt)
            return _value;
        lock (_lock)
        {
            if (!_isBuilt)
                (_value, _isBuilt) = (build(cancel), true);
            return _value;
        }
    }
}
