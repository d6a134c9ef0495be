using Juniperfall.Server.People;

namespace Juniperfall.Server.Solving;

/// <param name="Running">How many questions are being worked on, whoever asks them.</param>
/// <param name="Waiting">How many wait for their turn.</param>
/// <param name="Ahead">How many people have a turn before the one who asks; 0 where nothing of theirs waits.</param>
public sealed record SolvingView(int Running, int Waiting, int Ahead);

/// <summary>What is being worked on, for pages to say why something takes its time.</summary>
public static class SolvingEndpoint
{
    public static void MapSolving(this IEndpointRouteBuilder api) =>
        api.MapGet("/solving", (Scheduler scheduler, Askers askers) =>
            scheduler.StateFor(askers.Person) is var state ? new SolvingView(state.Running, state.Waiting, state.Ahead) : null)
            .Needs(Right.Read).WithName("solving").WithSummary("How much is being worked on and waits, and who comes first").Produces<SolvingView>();
}
