using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Document;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Products;

/// <summary>A row or a value that does not hold always and everywhere.</summary>
/// <param name="Kind">The kind of the row; value for one of a list.</param>
/// <param name="AssemblyId">Where the row stands; null for a value.</param>
/// <param name="Where">The worksheet or the list.</param>
public sealed record TimedView(string Kind, string Id, string? AssemblyId, string? ListId, string Name, string Where, DateOnly? From, DateOnly? To,
    IReadOnlyList<string> Sites);

/// <summary>A gap between things that take turns, or an overlap of them.</summary>
/// <param name="Id">The row, or the list.</param>
public sealed record SuccessionView(SuccessionKind Kind, string Id, string? AssemblyId, string Name, string Next, DateOnly From, DateOnly? To);

/// <summary>What of a revision holds when.</summary>
/// <param name="Days">The days on which something begins or ends to hold.</param>
public sealed record TimesView(IReadOnlyList<TimedView> Entries, IReadOnlyList<SuccessionView> Successions, IReadOnlyList<DateOnly> Days);

/// <summary>What of a revision holds when, with gaps and overlaps.</summary>
public static class TimesEndpoint
{
    private const int MostListed = 5_000;

    public static void MapTimes(this IEndpointRouteBuilder api) =>
        api.MapGet("/revisions/{id:long}/times", Show).Needs(Right.Read).WithName("times")
            .WithSummary("The rows and values of a revision that hold only at some times or sites, with gaps and overlaps").Produces<TimesView>()
            .ProducesProblem(404);

    private static async Task<IResult> Show(long id, CompiledModels models, CancellationToken cancel) =>
        await models.Get(id, cancel) is { } compiled ? TypedResults.Ok(await compiled.InTurn(() => Of(compiled), cancel)) : Problems.Gone("revision");

    private static TimesView Of(CompiledModel compiled)
    {
        var (model, document) = (compiled.Model, compiled.Model.Document);
        static bool IsTimed(IInEffect row) => row.From is not null || row.To is not null || !row.Sites.IsDefaultOrEmpty;
        var rows = document.AllAssemblies.SelectMany(a => a.Rows.Where(IsTimed).Select(r =>
            new TimedView(RowKinds.Of(r).Name, r.Id, a.Id, null, compiled.NameOf(r.Id), a.Label.Or(a.Name), r.From, r.To, Sites(r))));
        var values = document.AllLists.SelectMany(l => l.Values.Where(IsTimed).Select(v =>
            new TimedView("value", v.Id, null, l.Id, v.Label.Or(v.Code), l.Label.Or(l.Name), v.From, v.To, Sites(v))));
        List<TimedView> all = [.. rows.Concat(values).Take(MostListed)];
        return new(all,
            [.. Successions.Of(document).Select(s => new SuccessionView(s.Kind, s.Id, model.Index.AssemblyOfRow.GetValueOrDefault(s.Id)?.Id, NameOf(s.Id),
                NameOf(s.NextId), s.From, s.To))],
            [.. all.SelectMany(e => new[] { e.From, e.To?.AddDays(e.To == DateOnly.MaxValue ? 0 : 1) }).OfType<DateOnly>().Distinct().Order()]);

        IReadOnlyList<string> Sites(IInEffect of) => of.Sites.IsDefaultOrEmpty ? []
            : [.. of.Sites.Select(s => model.Facts.Sites.GetValueOrDefault(s)?.Label.Or(s) ?? s)];
        string NameOf(string of) => document.AllLists.FirstOrDefault(l => l.Id == of) is { } list ? list.Label.Or(list.Name) : compiled.NameOf(of);
    }
}
