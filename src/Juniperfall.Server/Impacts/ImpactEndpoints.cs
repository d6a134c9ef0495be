using System.Security.Claims;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Impacts;

/// <summary>How many saved things a revision breaks, changes, and so on.</summary>
public sealed record ImpactCounts(int Breaks, int AsksMore, int Changes, int Mends, int StaysBroken, int Same, int Unknown);

/// <summary>What is touched alike, with the edit that does it.</summary>
/// <param name="Rows">What has to do with it: the rules that break, or the lines and attributes that come out otherwise.</param>
/// <param name="Edit">Null where it was not looked for yet, or not found.</param>
public sealed record ImpactGroup(string Group, ImpactKind Kind, int Count, string About, EditOfGroup? Edit);

/// <summary>What a revision makes of what is saved.</summary>
/// <param name="Head">The edit that it was asked at.</param>
/// <param name="All">How many saved configurations and structures there are, as far as they were counted.</param>
/// <param name="Running">Whether some are still being asked.</param>
/// <param name="Entries">Those that do not stay the same, what breaks first; at most so many as are told at once.</param>
public sealed record ImpactView(long Head, int All, int Done, bool Running, IReadOnlyList<string> Troubles, ImpactCounts Counts,
    IReadOnlyList<ImpactGroup> Groups, IReadOnlyList<ImpactEntry> Entries);

/// <summary>What a revision makes of everything that is saved of its product.</summary>
public static class ImpactEndpoints
{
    private const int MostEntries = 1_000, MostGroups = 50;

    public static void MapImpact(this IEndpointRouteBuilder api) =>
        api.MapGet("/revisions/{id:long}/impact", Show).Needs(Right.Read).WithName("impact")
            .WithSummary("What a revision makes of saved configurations and structures: breaks, changes, the same").Produces<ImpactView>()
            .ProducesProblem(404);

    private static async Task<IResult> Show(long id, bool? counts, ClaimsPrincipal user, CompiledModels models, ImpactRuns runs, CancellationToken cancel) =>
        await models.Get(id, cancel) is not { } compiled ? Problems.Gone("revision")
            : compiled.Model.Findings.Any(f => f.Blocks)
                ? TypedResults.Ok(new ImpactView(compiled.Revision.Head, 0, 0, false, ["A model with faults is not asked. Mend them first."], Of([]), [], []))
                : TypedResults.Ok(View(await runs.Of(compiled, cancel), compiled.Revision.Head, counts == true, user.Has(Right.SeeCosts)));

    private static ImpactView View(ImpactRun run, long head, bool onlyCounts, bool seesCosts)
    {
        var all = run.Entries.Values;
        var view = new ImpactView(head, run.All, run.Entries.Count, !run.IsFinished, [.. run.Troubles], Of([.. all]), [], []);
        if (onlyCounts)
            return view;
        var touched = all.Where(e => e.Kind != ImpactKind.Same).ToList();
        return view with
        {
            Groups = [.. touched.GroupBy(e => (e.Group, e.Kind)).OrderBy(g => g.Key.Kind).ThenByDescending(g => g.Count()).Take(MostGroups)
                .Select(g => new ImpactGroup(g.Key.Group, g.Key.Kind, g.Count(), About(g.First(), seesCosts), run.Edits.GetValueOrDefault(g.Key.Group)))],
            Entries = [.. touched.OrderBy(e => e.Kind).ThenByDescending(e => e.ChangedAt).ThenBy(e => e.Id, StringComparer.Ordinal).Take(MostEntries)
                .Select(e => seesCosts ? e : e with { Changes = [.. e.Changes.Where(c => c.Of != ExpectedOf.Cost)] })],
        };
    }

    private const int MostNamed = 4;

    /// <summary>What those of a group have in common, in a few words.</summary>
    private static string About(ImpactEntry one, bool seesCosts)
    {
        if (one.Kind != ImpactKind.Changes)
            return one.Rows.Count > 0 ? string.Join(", ", one.Rows.Select(r => r.Name)) : one.Because;
        var changes = one.Changes.Where(c => seesCosts || c.Of != ExpectedOf.Cost).ToList();
        var named = (changes.Exists(c => c.RowId.Length > 0) ? changes.Where(c => c.RowId.Length > 0) : changes).Select(c => c.Subject).Distinct().ToList();
        return string.Join(", ", named.Take(MostNamed)) + (named.Count > MostNamed ? $" and {named.Count - MostNamed} more" : "");
    }

    private static ImpactCounts Of(IReadOnlyCollection<ImpactEntry> entries)
    {
        int Count(ImpactKind kind) => entries.Count(e => e.Kind == kind);
        return new(Count(ImpactKind.Breaks), Count(ImpactKind.AsksMore), Count(ImpactKind.Changes), Count(ImpactKind.Mends), Count(ImpactKind.StaysBroken),
            Count(ImpactKind.Same), Count(ImpactKind.Unknown));
    }
}
