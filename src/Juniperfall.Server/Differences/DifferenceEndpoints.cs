using System.Collections.Immutable;
using System.Security.Claims;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Differences;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Bench;
using Juniperfall.Server.Configurations;
using Juniperfall.Server.People;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;
using Juniperfall.Storage;

namespace Juniperfall.Server.Differences;

/// <param name="Field">What a person calls it.</param>
/// <param name="Before">What it held, with present names; empty where it held nothing.</param>
public sealed record FieldChangeView(string Field, string Before, string After);

/// <summary>One part of the model that is not as it was.</summary>
/// <param name="Name">What it is called, with what it stands in.</param>
public sealed record PartChangeView(DifferenceKind Kind, string Id, string RowId, string Name, IReadOnlyList<FieldChangeView> Fields);

/// <param name="Id">The assembly or value list; empty for the model itself and its test cases.</param>
public sealed record SheetChangesView(string Id, string Name, bool IsList, IReadOnlyList<PartChangeView> Changes);

/// <summary>The net difference of two revisions of a product, by worksheet.</summary>
/// <param name="From">The number of the earlier one; null where nothing was released before.</param>
/// <param name="FromId">The earlier one.</param>
public sealed record DifferenceView(int? From, long? FromId, int To, IReadOnlyList<SheetChangesView> Sheets);

/// <summary>Something that one of the two allows and the other does not.</summary>
/// <param name="Example">A complete configuration of the one, as picks; null where none was found.</param>
/// <param name="Because">The rule of the other that stands against it; null where it was not found by one.</param>
/// <param name="IsProven">Whether it is proven that there is none, where none was found.</param>
public sealed record AllowedByOneView(IReadOnlyList<PickView>? Example, string? Because, bool IsProven);

/// <summary>Values of an attribute that only one of the two has.</summary>
/// <param name="Before">Those of the earlier one alone; of a number from where to where.</param>
/// <param name="After">Those of the later one alone.</param>
public sealed record ValuesChangeView(string Label, string Before, string After);

/// <summary>What a difference means.</summary>
/// <param name="Lost">What the earlier one allows and the later one rules out.</param>
/// <param name="Gained">What only the later one allows.</param>
/// <param name="Values">Attributes of which other values can be had.</param>
/// <param name="Suggested">What is different in the configuration that is suggested: attributes, figures, parts, operations, totals.</param>
public sealed record MeaningView(AllowedByOneView Lost, AllowedByOneView Gained, IReadOnlyList<ValuesChangeView> Values, IReadOnlyList<MoveChange> Suggested);

/// <summary>What a revision changes, and what that means.</summary>
public static class DifferenceEndpoints
{
    private static readonly TimeSpan MeaningLimit = TimeSpan.FromSeconds(30);

    public static void MapDifferences(this IEndpointRouteBuilder api)
    {
        var one = api.MapGroup("/revisions/{id:long}/difference").ProducesProblem(404).ProducesProblem(422);
        one.MapGet("", Show).Needs(Right.Read).WithName("difference")
            .WithSummary("The net difference to another revision, by default to the one released before").Produces<DifferenceView>();
        one.MapGet("/meaning", Meaning).Needs(Right.Read).WithName("meaningOfDifference")
            .WithSummary("What the difference to another revision means: what only one of them allows, values, and the suggested configuration")
            .Produces<MeaningView>();
    }

    /// <summary>The revision and the one that it is held against; the one released last before it where none is named.</summary>
    private static async Task<(CompiledModel? To, CompiledModel? From, IResult? Problem)> Both(long id, long? from, CompiledModels models,
        RevisionStore revisions, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } to)
            return (null, null, Problems.Gone("revision"));
        var before = from ?? (await revisions.RevisionsOf(to.Revision.ProductId, cancel))
            .Where(r => r.State == "released" && r.Number < to.Revision.Number).OrderByDescending(r => r.Number).Select(r => (long?)r.Id).FirstOrDefault();
        if (before is null)
            return (to, null, null);
        var other = await models.Get(before.Value, cancel);
        return other?.Revision.ProductId == to.Revision.ProductId ? (to, other, null)
            : (null, null, Problems.Wrong("/from", "There is no such revision of this product."));
    }

    private static async Task<IResult> Show(long id, long? from, ClaimsPrincipal user, CompiledModels models, RevisionStore revisions, CancellationToken cancel)
    {
        var (to, before, problem) = await Both(id, from, models, revisions, cancel);
        if (to is null)
            return problem!;
        return TypedResults.Ok(before is null ? new DifferenceView(null, null, to.Revision.Number, [])
            : await to.InTurn(() => ViewOf(before, to, user.Has(Right.SeeCosts)), cancel));
    }

    private static string? LabelOf(CompiledModel of, string worksheet) =>
        of.Model.Index.Assemblies.TryGetValue(worksheet, out var assembly) ? assembly.Label.Or(assembly.Name)
        : of.Model.Index.Lists.TryGetValue(worksheet, out var list) ? list.Label.Or(list.Name) : null;

    private static DifferenceView ViewOf(CompiledModel before, CompiledModel after, bool seesCases)
    {
        var (then, now) = (new HistoryWords(before), new HistoryWords(after));
        string Text(CompiledModel of, string? stored) => stored is null ? "" : of.Model.Index.NameOf(stored) ?? StoredText.Show(stored, of.Model.Index);
        var changes = ModelDifference.Of(before.Revision.Document, after.Revision.Document)
            // What cases expect is for who may see costs.
            .Where(d => seesCases || !IsCase(d.Id)).ToList();
        bool IsCase(string part) => before.Revision.Document.Cases.Concat(after.Revision.Document.Cases).Any(c => c.Id == part);
        PartChangeView View(PartDifference d) => new(d.Kind, d.Id, d.Row, (d.Kind == DifferenceKind.Removed ? then : now).NameOf(d.Id),
            [.. d.Fields.Select(f => new FieldChangeView(now.FieldName(d.Id, f.Field), Text(before, f.Before), Text(after, f.After)))]);
        return new(before.Revision.Number, before.Revision.Id, after.Revision.Number, [.. changes.GroupBy(d => d.Worksheet)
            .Select(g => new SheetChangesView(g.Key, g.Key.Length == 0 ? after.Revision.Document.Label.Or(after.Revision.Document.Code)
                : LabelOf(after, g.Key) ?? LabelOf(before, g.Key) ?? "",
                after.Model.Index.Lists.ContainsKey(g.Key) || before.Model.Index.Lists.ContainsKey(g.Key), [.. g.Select(View)]))]);
    }

    private static async Task<IResult> Meaning(long id, long? from, DateOnly? date, ClaimsPrincipal user, CompiledModels models, RevisionStore revisions,
        LibraryStore library, CancellationToken cancel)
    {
        var (to, before, problem) = await Both(id, from, models, revisions, cancel);
        if (to is null)
            return problem!;
        if (before is null)
            return Problems.Wrong("/from", "Nothing was released before: everything is new.");
        if (to.Model.Findings.Any(f => f.Blocks))
            return Problems.Conflict("A model with faults is not asked what it means. Mend them first.");
        var at = new Effectivity(null, date);
        var (then, now) = (await before.Ask([], at, cancel), await to.Ask([], at, cancel));
        var (lost, gained) = await to.Solve(at, (reasoner, time) =>
        {
            var earlier = new Reasoner(before.Model, reasoner.At);
            return (EditMeaning.OnlyIn(earlier, reasoner, time), EditMeaning.OnlyIn(reasoner, earlier, time));
        }, cancel, Urgency.Question, MeaningLimit);
        var audience = await Audience.Of(user, null, library, cancel);
        return TypedResults.Ok(await to.InTurn(() =>
        {
            var (thenWords, nowWords) = (new AnswerWords(before), new AnswerWords(to));
            return new MeaningView(View(lost, before, to), View(gained, to, before), [.. Values(before, then.Answer, to, now.Answer)],
                [.. Comparison.Of(new(thenWords.Of(then, [], audience), CompareEndpoint.Given(then)), new(nowWords.Of(now, [], audience),
                    CompareEndpoint.Given(now))).Where(c => c.Before != c.After)]);
        }, cancel));
    }

    private static AllowedByOneView View(AllowedByOne found, CompiledModel one, CompiledModel other) =>
        new(found.Example?.Select(new AnswerWords(one).Of).ToList(), found.BecauseOf is { } rule ? other.NameOf(rule) : null, found.IsProven);

    private const int MostNamed = 8;

    private static IEnumerable<ValuesChangeView> Values(CompiledModel before, Answer then, CompiledModel after, Answer now)
    {
        var earlier = then.Attributes.ToDictionary(a => a.Path);
        foreach (var attribute in now.Attributes)
        {
            var was = earlier.TryGetValue(attribute.Path, out var there) ? Written(before, there) : [];
            var (lost, gained) = (was.Except(Written(after, attribute)).ToList(), Written(after, attribute).Except(was).ToList());
            if (lost.Count > 0 || gained.Count > 0)
                yield return new(after.LabelOf(attribute.Path), Few(lost), Few(gained));
        }
        foreach (var gone in then.Attributes.ExceptBy(now.Attributes.Select(a => a.Path), a => a.Path))
            yield return new(before.LabelOf(gone.Path), Few(Written(before, gone)), "");
    }

    private static string Few(List<string> values) =>
        string.Join(", ", values.Take(MostNamed)) + (values.Count > MostNamed ? $" and {values.Count - MostNamed} more" : "");

    /// <summary>The values that can be had; of numbers from where to where.</summary>
    private static List<string> Written(CompiledModel of, AttributeAnswer attribute) => attribute.Available is { Lowest: { } low, Highest: { } high }
        ? [$"{of.ValueAt(attribute.Path, Core.Quantities.Value.Of(low))} … {of.ValueAt(attribute.Path, Core.Quantities.Value.Of(high))}"]
        : [.. attribute.Available.Values.Select(v => of.ValueAt(attribute.Path, v))];
}
