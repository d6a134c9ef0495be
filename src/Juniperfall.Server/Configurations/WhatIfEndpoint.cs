using System.Security.Claims;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Configurations;

/// <param name="Then">The picks and what is filled in, as they would be then.</param>
/// <param name="Refill">Whether what is still needed then is filled in, so that there is a price to tell.</param>
public sealed record WhatIfRequest(IReadOnlyList<PickRequest> Picks, IReadOnlyList<PickRequest> Then, bool Refill = false, string? Site = null,
    DateOnly? Date = null) : PicksRequest(Picks, Site, Date);

/// <summary>One of the two.</summary>
/// <param name="Price">What one piece is sold for; null where there is no price, or not yet.</param>
/// <param name="Hindrances">Why nothing can be built: clashes, what is still needed, values that cannot be had, in sentences.</param>
public sealed record WhatIfSide(PaidView? Price, bool? Valid, IReadOnlyList<string> Hindrances);

/// <summary>What would be different with other picks.</summary>
/// <param name="Difference">What one piece is sold for then less what it is sold for now, in EUR and whole cents; null where one of the two has no price.</param>
/// <param name="Changes">All that differs: attributes, figures, parts, operations, totals.</param>
public sealed record WhatIfView(WhatIfSide Now, WhatIfSide Then, string? Difference, IReadOnlyList<MoveChange> Changes);

/// <summary>Two sets of picks on one revision side by side: what a value costs, what an instance costs, what would be different if.</summary>
public static class WhatIfEndpoint
{
    public static void MapWhatIf(this IEndpointRouteBuilder api) =>
        api.MapPost("/revisions/{id:long}/what-if", WhatIf).Needs(Right.Read).WithName("whatIf")
            .WithSummary("What would be different with other picks, the price among it").Produces<WhatIfView>().ProducesProblem(404).ProducesProblem(422);

    private static async Task<IResult> WhatIf(long id, WhatIfRequest request, ClaimsPrincipal user, CompiledModels models, LibraryStore library,
        CancellationToken cancel)
    {
        var (compiled, now, problem) = await ReadPicks.Of(id, request, models, cancel);
        if (compiled is null || now is null)
            return problem!;
        var (then, fault) = ReadPicks.Of(compiled, request with { Picks = request.Then }, "/then");
        if (then is null)
            return fault!;
        var audience = await Audience.Of(user, request.CustomerClass, library, cancel);
        var (before, after) = (await compiled.Ask(now.Question, now.At, cancel), await compiled.Ask(then.Question, then.At, cancel));
        if (request.Refill && after.Values is { } values)
            // A whole configuration that keeps the picks is at hand; what it has for what is needed can be had all together.
            after = await compiled.Ask(then.Question with
            {
                FillIns = [.. then.Question.FillIns.Where(f => !after.Answer.Missing.Contains(f.Path)), .. after.Answer.Missing
                    .SelectMany(m => values.Where(v => RowPath.OfRow(v.Key) == m)).Select(v => new Pick(v.Key, v.Value))],
            }, then.At, cancel);
        return TypedResults.Ok(await compiled.InTurn(() => Of(compiled, (now, before), (then, after), audience), cancel, Urgency.Answer));
    }

    private static WhatIfView Of(CompiledModel compiled, (ReadPicks Read, Asked Asked) now, (ReadPicks Read, Asked Asked) then, Audience audience)
    {
        var words = new AnswerWords(compiled);
        var (before, after) = (words.Of(now.Asked, now.Read.Faults, audience), words.Of(then.Asked, then.Read.Faults, audience));
        var (from, to) = (Side(before), Side(after));
        return new(from, to, from.Price is { } paid && to.Price is { } asked ? (Exact.Parse(asked.Each) - Exact.Parse(paid.Each)).ToDisplay(2) : null,
            [.. Comparison.Of(new(before, CompareEndpoint.Given(now.Asked)), new(after, CompareEndpoint.Given(then.Asked))).Where(c => c.Before != c.After)]);
    }

    private static WhatIfSide Side(AnswerView view)
    {
        var hindrances = view.Clashes.Select(c => c.Reason.Sentence).Concat(view.Faults.Select(f => f.Sentence))
            .Concat(view.StructureFaults.Select(f => f.Sentence)).ToList();
        if (view.Missing.Count > 0)
            hindrances.Add($"Still needed: {string.Join(", ", view.Missing.Select(m => m.Label))}.");
        if (!view.Exact)
            hindrances.Add("Time ran out before it was known whether this can be had.");
        // The price of what is left of the picks without those that cannot be had is not what was asked for.
        return new(view.Faults.Count == 0 ? view.Price : null, view.Valid, hindrances);
    }
}
