namespace Juniperfall.Server.Solving;

/// <summary>An answer that several may wait for; when the last of them leaves before it is there, it is given up.</summary>
internal sealed class SharedAnswer
{
    private readonly CancellationTokenSource _given = new();
    private readonly object _lock = new();
    private readonly Lazy<Task<Asked>> _task;
    private int _waiting;
    private bool _isGivenUp;

    /// <param name="start">Starts to work it out; it is cancelled when nobody waits any more.</param>
    public SharedAnswer(Func<AnswerProgress, CancellationToken, Task<Asked>> start) => _task = new(() => start(Progress, _given.Token));

    /// <summary>What is known of it meanwhile.</summary>
    public AnswerProgress Progress { get; } = new();

    public Task<Asked> Task => _task.Value;

    /// <summary>Whether it is under way or came to an answer; starting it can fail, too.</summary>
    public bool IsSound
    {
        get
        {
            try
            {
                return !Task.IsCompleted || Task.IsCompletedSuccessfully;
            }
            catch (TooMuchWaiting)
            {
                return false;
            }
        }
    }

    public bool IsCompleted => _task.IsValueCreated && Task.IsCompleted;

    /// <summary>Waits for it from now on. False: it was given up, and has to be asked for anew.</summary>
    public bool TryJoin()
    {
        lock (_lock)
        {
            if (_isGivenUp)
                return false;
            _waiting++;
            return true;
        }
    }

    public void Leave()
    {
        lock (_lock)
        {
            if (--_waiting > 0 || IsCompleted)
                return;
            _isGivenUp = true;
        }
        _given.Cancel();
    }
}
