using Juniperfall.Core.Measures;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Server.Answers;
using Juniperfall.Server.People;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Health;

/// <summary>One answer that can be given, as people read it.</summary>
public sealed record FeatureView(string Path, string Label, string ValueLabel);

/// <param name="Share">In which share of the configurations it is, in percent; null where that was not found out in time.</param>
/// <param name="Implies">What is in every configuration that has it.</param>
/// <param name="Excludes">What of other attributes is in none that has it.</param>
public sealed record MeasuredFeatureView(FeatureView Feature, FeaturePresence Presence, string? Share, IReadOnlyList<FeatureView> Implies,
    IReadOnlyList<FeatureView> Excludes);

/// <summary>Measures of a model, as docs/analysis.md says what they are.</summary>
/// <param name="Configurations">How many there are; null where that was not found out in time.</param>
/// <param name="Share">The share of all combinations of answers that they are, in percent.</param>
/// <param name="InRules">In which share of the questions some rule takes part, in percent.</param>
/// <param name="Together">Answers that are always there together or not at all.</param>
public sealed record MeasuresView(string? Configurations, string Combinations, string? Share, string? InRules, IReadOnlyList<MeasuredFeatureView> Features,
    IReadOnlyList<IReadOnlyList<FeatureView>> Together, bool Finished);

/// <summary>What the literature measures of models.</summary>
public static class MeasuresEndpoint
{
    private static readonly TimeSpan TimeLimit = TimeSpan.FromSeconds(15);

    public static void MapMeasures(this IEndpointRouteBuilder api) =>
        api.MapGet("/revisions/{id:long}/measures", Show).Needs(Right.Read).WithName("measures")
            .WithSummary("How many configurations there are, what is in all of them or none, and what goes together").Produces<MeasuresView>()
            .ProducesProblem(404);

    private static async Task<IResult> Show(long id, DateOnly? date, CompiledModels models, CancellationToken cancel)
    {
        if (await models.Get(id, cancel) is not { } compiled)
            return Problems.Gone("revision");
        var measures = await compiled.Solve(new Effectivity(null, date), (reasoner, time) => ModelMeasures.Of(reasoner, new([]), time), cancel,
            Urgency.Analysis, TimeLimit);
        FeatureView Of(Feature feature) => new(feature.Path, compiled.LabelOf(feature.Path), compiled.ValueAt(feature.Path, feature.Value));
        return TypedResults.Ok(new MeasuresView(measures.Configurations?.ToString(System.Globalization.CultureInfo.InvariantCulture),
            measures.Unconstrained.ToString(System.Globalization.CultureInfo.InvariantCulture), Percent(measures.VariabilityFactor),
            Percent(measures.RuleRepresentativeness),
            [.. measures.Features.Select(f => new MeasuredFeatureView(Of(f.Feature), f.Presence, Percent(measures.Commonality(f)),
                [.. f.Implies.Select(Of)], [.. f.Excludes.Where(o => o.Path != f.Feature.Path).Select(Of)]))],
            [.. measures.AtomicSets.Select(s => (IReadOnlyList<FeatureView>)[.. s.Select(Of)])],
            measures.IsFinished && measures.Configurations is not null));
    }

    private static string? Percent(Exact? share) => (share * 100)?.ToDisplay(3);
}
