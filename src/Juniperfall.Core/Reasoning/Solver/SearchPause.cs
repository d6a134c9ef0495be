namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Lets whoever runs a long search on a thread hold it up between two of its steps, while something more urgent wants the processor. What
/// is found does not change. Each thread has its own; without one, nothing is held up.
/// </summary>
public static class SearchPause
{
    [ThreadStatic]
    private static Action? _pause;

    /// <summary>From now on called between the steps of every search on this thread, often and at no fixed times; null ends it.</summary>
    public static void Set(Action? pause) => _pause = pause;

    internal static void Now() => _pause?.Invoke();
}
