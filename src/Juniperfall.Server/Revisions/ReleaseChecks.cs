using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Revisions;

/// <summary>What stands against a release: faults at their places, and what concerns the revision as a whole.</summary>
public sealed record ReleaseObjections(IReadOnlyList<FindingView> Findings, IReadOnlyList<string> Problems)
{
    public static readonly ReleaseObjections None = new([], []);

    /// <summary>Whether something is still being found out: it is worth looking again in a moment.</summary>
    public bool IsPending { get; init; }

    public static ReleaseObjections Because(string problem) => new([], [problem]);
}

/// <summary>One thing that has to be so before a revision is released. Each is registered once, and looked at in that order.</summary>
public interface IReleaseCheck
{
    Task<ReleaseObjections> Check(CompiledModel compiled, CancellationToken cancel);
}

/// <summary>Only what is still open to change is released.</summary>
internal sealed class IsDraft : IReleaseCheck
{
    public Task<ReleaseObjections> Check(CompiledModel compiled, CancellationToken cancel) =>
        Task.FromResult(compiled.Revision.State is "draft" or "in review" ? ReleaseObjections.None
        : ReleaseObjections.Because($"Revision {compiled.Revision.Number} is {compiled.Revision.State} already."));
}

/// <summary>No row has a fault.</summary>
internal sealed class HasNoFaults : IReleaseCheck
{
    public Task<ReleaseObjections> Check(CompiledModel compiled, CancellationToken cancel) =>
        Task.FromResult(new ReleaseObjections([.. compiled.Model.Findings.Where(f => f.Blocks).Select(RevisionView.Of)], []));
}

/// <summary>Something can be built: at least one configuration is valid. Of a model with faults that is not asked.</summary>
internal sealed class HasValidConfiguration : IReleaseCheck
{
    public async Task<ReleaseObjections> Check(CompiledModel compiled, CancellationToken cancel)
    {
        if (compiled.Model.Findings.Any(f => f.Blocks))
            return ReleaseObjections.None;
        var answer = (await compiled.Ask([], Effectivity.Any, cancel)).Answer;
        return answer.Valid switch
        {
            true => ReleaseObjections.None,
            null => ReleaseObjections.Because("Whether there is any valid configuration could not be found out in time."),
            false => ReleaseObjections.Because("No configuration is possible: "
                + string.Join("; ", answer.Clashes.SelectMany(c => c.Causes).Select(compiled.Words.Clause)) + "."),
        };
    }
}
