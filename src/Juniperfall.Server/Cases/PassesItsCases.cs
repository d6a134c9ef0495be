using Juniperfall.Core.Cases;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Cases;

/// <summary>No test case fails, and each was asked. Of a model with faults that is not asked.</summary>
internal sealed class PassesItsCases(CaseRuns runs) : IReleaseCheck
{
    private const int MostNamed = 3;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(4);

    public async Task<ReleaseObjections> Check(CompiledModel compiled, CancellationToken cancel)
    {
        if (compiled.Revision.Document.Cases.IsEmpty || compiled.Model.Findings.Any(f => f.Blocks))
            return ReleaseObjections.None;
        var run = runs.Of(compiled);
        var cases = compiled.Revision.Document.Cases;
        if (await Task.WhenAny(run.Finished, Task.Delay(Patience, cancel)) != run.Finished)
            return ReleaseObjections.Because($"Test cases are still being asked: {run.Results.Count} of {cases.Length} until now. Look again in a moment.")
                with
            { IsPending = true };
        var bad = cases.Where(c => run.Results.GetValueOrDefault(c.Id) is not { State: CaseState.Passed or CaseState.Unknown }).ToList();
        var unknown = cases.Count(c => run.Results.GetValueOrDefault(c.Id)?.State == CaseState.Unknown);
        if (run.Trouble is { } trouble)
            return ReleaseObjections.Because($"Test cases were not all asked: {trouble}");
        if (bad.Count > 0)
            return ReleaseObjections.Because($"{bad.Count} of {cases.Length} test cases do not pass: "
                + string.Join(", ", bad.Take(MostNamed).Select(c => $"“{c.Name}”")) + (bad.Count > MostNamed ? " and more." : "."));
        return unknown > 0 ? ReleaseObjections.Because($"{unknown} of {cases.Length} test cases could not be found out in time.") : ReleaseObjections.None;
    }
}
