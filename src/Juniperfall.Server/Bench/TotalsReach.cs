using System.Security.Claims;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Bench;

/// <summary>How far a total of the structure goes while something is open: never too narrow, perhaps too wide.</summary>
/// <param name="Goal">#price, #cost, #weight, #work or #leadTime.</param>
/// <param name="Text">Over all that can still be picked.</param>
/// <param name="Suggested">As suggested now.</param>
/// <param name="Final">Whether it is determined; otherwise POST …/bounds says exactly how far it goes.</param>
public sealed record TotalReachView(string Goal, string Label, string Text, string Suggested, bool Final);

/// <summary>What the structure comes to before everything is picked.</summary>
public static class TotalsReach
{
    private static readonly IReadOnlyList<(string Goal, string Label)> Labels =
        [(StructureGoals.Price, "list price"), (StructureGoals.Cost, "cost"), (StructureGoals.Weight, "weight"), (StructureGoals.Work, "work"),
            (StructureGoals.LeadTime, "lead time")];

    public static void MapTotals(this IEndpointRouteBuilder api) =>
        api.MapPost("/revisions/{id:long}/totals", Totals).Needs(Right.Read).WithName("totals")
            .WithSummary("Price, cost, weight, work and lead time so far: as suggested, and over all that can still be picked").ProducesProblem(404)
            .ProducesProblem(422).Produces<List<TotalReachView>>();

    private static async Task<IResult> Totals(long id, PicksRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library,
        CancellationToken cancel)
    {
        var (compiled, read, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || read is null)
            return problem!;
        var asked = await compiled.Ask(read.Question, read.At, cancel);
        var totals = await compiled.Solve(read.At, (reasoner, _) => reasoner.Totals(asked.Answer), cancel);
        var audience = await Audience.Of(user, request.CustomerClass, library, cancel);
        var words = new TotalWords(compiled, audience);
        return TypedResults.Ok(Labels.Where(l => totals.ContainsKey(l.Goal) && words.Tells(l.Goal)).Select(l => (l.Goal, l.Label, Reach: totals[l.Goal]))
            .Select(l => new TotalReachView(l.Goal, l.Goal == StructureGoals.Price && audience.Customers is { } customers
                    ? $"price for {customers.Label.Or(customers.Code)}" : l.Label,
                words.Write(l.Goal, l.Reach.Open.Low, l.Reach.Open.High),
                words.Write(l.Goal, l.Reach.AsSuggested.Low, l.Reach.AsSuggested.High), l.Reach.Open.IsFinal)).ToList());
    }
}

/// <summary>Totals as those who ask may read them.</summary>
internal sealed class TotalWords(CompiledModel compiled, Audience audience)
{
    public const string CostsAreNotShown = "What it costs is not for you to see.";

    /// <summary>Whether a number, a total or another one, may be seen at all.</summary>
    public bool Tells(string? goal) => goal != StructureGoals.Cost || audience.SeesCosts;

    /// <summary>A total, or from where to where it goes, in the unit that people read it in; the price is what the customer class pays.</summary>
    public string Write(string goal, Exact? low, Exact? high)
    {
        if (goal == StructureGoals.Price)
            (low, high) = (Paid(low), Paid(high));
        if (goal == StructureGoals.LeadTime)
            return low == high ? $"{low?.ToDisplay(2)} days" : $"{low?.ToDisplay(2) ?? "…"} – {high?.ToDisplay(2) ?? "…"} days";
        var (unit, decimals) = goal switch
        {
            StructureGoals.Weight => (Unit.Parse("kg"), 2),
            StructureGoals.Work => (Unit.Parse("min"), 1),
            _ =>
            (Unit.Euro, 2)
        };
        string Text(Exact? end) => end is not { } number ? "…" : unit == Unit.Euro ? number.ToFixed(decimals) : unit.FromBase(number).ToDisplay(decimals);
        return ModelWording.WithUnit(low == high ? Text(low) : $"{Text(low)} – {Text(high)}", unit.Code);
    }

    private Exact? Paid(Exact? list) => list is { } price
        ? Pricing.OfferFor(price, audience.Customers, compiled.Revision.Document.Code, Exact.One).Each : null;
}
