using System.Security.Claims;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Configurations;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Impacts;

/// <summary>How many saved things a revision breaks, changes, and so on.</summary>
public sealed record ImpactCounts(int Breaks, int AsksMore, int Changes, int Mends, int StaysBroken, int Same, int Unknown);

/// <summary>What is touched alike, with the edit that does it.</summary>
/// <param name="About">What has to do with it, in a few words: the rules that break, or the lines and attributes that come out otherwise.</param>
/// <param name="Edit">Null where it was not looked for yet, or not found.</param>
public sealed record ImpactGroup(string Group, ImpactKind Kind, int Count, string About, EditOfGroup? Edit);

/// <summary>What a revision makes of what is saved.</summary>
/// <param name="Head">The edit that it was asked at.</param>
/// <param name="All">How many saved configurations and structures there are, as far as they were counted.</param>
/// <param name="Running">Whether some are still being asked.</param>
/// <param name="Entries">Those that do not stay the same, what breaks first; at most so many as are told at once.</param>
public sealed record ImpactView(long Head, int All, int Done, bool Running, IReadOnlyList<string> Troubles, ImpactCounts Counts,
    IReadOnlyList<ImpactGroup> Groups, IReadOnlyList<ImpactEntry> Entries);

/// <param name="Ids">The configurations to move; left out, all that stay the same are.</param>
public sealed record MoveSavedRequest(IReadOnlyList<string>? Ids = null);

/// <summary>A configuration that was not moved, and why.</summary>
public sealed record NotMovedView(string Id, string Name, string Why);

/// <param name="Moved">How many were moved.</param>
/// <param name="Left">How many more there are than are moved at once.</param>
public sealed record MovedView(int Moved, IReadOnlyList<NotMovedView> NotMoved, int Left);

/// <summary>What a revision makes of everything that is saved of its product, and moving that on.</summary>
public static class ImpactEndpoints
{
    private const int MostEntries = 1_000, MostGroups = 50, MostMoved = 2_000;

    public static void MapImpact(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/revisions/{id:long}/impact").ProducesProblem(404).ProducesProblem(409).ProducesProblem(422);
        one.MapGet("", Show).Needs(Right.Read).WithName("impact")
            .WithSummary("What a revision makes of saved configurations and structures: breaks, changes, the same").Produces<ImpactView>();
        one.MapPost("/move", Move).Needs(Right.Configure).WithName("moveSaved")
            .WithSummary("Moves configurations to a released revision: those that are named, or all that stay the same; what breaks stays where it is")
            .Produces<MovedView>();
    }

    /// <summary>Each is moved by itself, at the version that was asked: what someone has changed meanwhile is left, and said.</summary>
    private static async Task<IResult> Move(long id, MoveSavedRequest request, ClaimsPrincipal user, CompiledModels models, ImpactRuns runs,
        ConfigurationStore store, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } target)
            return Problems.Gone("revision");
        if (target.Revision.State != "released")
            return Problems.Conflict("A configuration moves to released revisions only.");
        if (request.Ids?.Count > ImpactRuns.MostSubjects)
            return Problems.Wrong("/ids", $"At most {ImpactRuns.MostSubjects} configurations are moved at once.");
        var run = await runs.Of(target, cancel);
        if (!run.IsFinished)
            return Problems.Conflict("What becomes of them is still being found out. Try again in a moment.");
        var chosen = request.Ids is { } ids ? ids.Distinct().Select(i => run.Entries.GetValueOrDefault(i)).OfType<ImpactEntry>()
            : run.Entries.Values.Where(e => e.Kind == ImpactKind.Same);
        var asked = chosen.Where(e => !e.IsStructure && e.ProductCode == target.Revision.Document.Code).OrderBy(e => e.Name, StringComparer.Ordinal).ToList();
        var (moved, left) = (0, new List<NotMovedView>());
        foreach (var entry in asked.Take(MostMoved))
            if (entry.Kind is ImpactKind.Breaks or ImpactKind.StaysBroken or ImpactKind.Unknown)
                left.Add(new(entry.Id, entry.Name, entry.Because.Length > 0 ? entry.Because : "It does not stand on this revision."));
            else if (entry.IsConceded)
                left.Add(new(entry.Id, entry.Name, "Its concession is for it as it is on its revision, and would not come along. Move it by itself."));
            else if (await store.Load(entry.Id, cancel) is not { } stored || stored.RevisionId == id)
                continue;
            else if (stored.Version == entry.Version && await store.Change(stored.Id, stored.Name, id, stored.Picks, stored.At, stored.CustomerClass,
                stored.Version, user.Identity!.Name!, cancel, stored.FillIns, ConfigurationEndpoints.AnswersOf(target.Words, stored.Picks)))
                moved++;
            else
                left.Add(new(entry.Id, entry.Name, "Someone has changed it since; look at it again."));
        return TypedResults.Ok(new MovedView(moved, left, Math.Max(0, asked.Count - MostMoved)));
    }

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
