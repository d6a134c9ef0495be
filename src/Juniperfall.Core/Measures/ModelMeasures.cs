using System.Collections.Immutable;
using System.Numerics;
using Juniperfall.Core.Health;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Enumerating;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Measures;

/// <summary>One answer that can be given to an asked attribute other than a number or a text.</summary>
/// <param name="Path">Of the attribute.</param>
public sealed record Feature(string Path, Value Value);

/// <summary>In which configurations a feature is.</summary>
public enum FeaturePresence
{
    /// <summary>In every one.</summary>
    Core,

    /// <summary>In some, and not in others.</summary>
    Variant,

    /// <summary>In none.</summary>
    Dead,
}

/// <summary>What is measured of one feature.</summary>
/// <param name="Configurations">In how many configurations it is; null where time ran out.</param>
/// <param name="Implies">What is in every configuration that has it; core features left out.</param>
/// <param name="Excludes">What is in none that has it; dead features left out.</param>
public sealed record FeatureMeasure(Feature Feature, FeaturePresence Presence, BigInteger? Configurations, ImmutableArray<Feature> Implies,
    ImmutableArray<Feature> Excludes);

/// <summary>A subassembly of the product, asked as if it stood alone.</summary>
/// <param name="Configurations">How many there are of it alone; null where time ran out.</param>
public sealed record SubtreeMeasure(string PlaceId, string Name, BigInteger? Configurations);

/// <summary>
/// The measures of a model that the literature lists (Benavides, Segura and Ruiz-Cortés, “Automated analysis of feature models 20 years later”, 2010),
/// over the configurations that contain some picks. A feature is one answer to a choice, a member of several choices, or a yes or no; numbers and texts
/// are counted, and have no features of their own.
/// </summary>
public sealed record ModelMeasures
{
    /// <summary>How many configurations there are; null where time ran out.</summary>
    public required BigInteger? Configurations { get; init; }

    /// <summary>How many there would be if every answer went with every other one.</summary>
    public required BigInteger Unconstrained { get; init; }

    /// <summary>In the order of the attributes and their values.</summary>
    public required ImmutableArray<FeatureMeasure> Features { get; init; }

    /// <summary>Features that are always there together or not at all, at least two of them; those that are always there are one.</summary>
    public required ImmutableArray<ImmutableArray<Feature>> AtomicSets { get; init; }

    /// <summary>Asked attributes that some rule reads, directly or through what is computed, and all that are asked, as rows.</summary>
    public required (int Read, int All) AttributesInRules { get; init; }

    /// <summary>The places directly below the product.</summary>
    public required ImmutableArray<SubtreeMeasure> Subtrees { get; init; }

    /// <summary>The share of all combinations of answers that are configurations; null where that is not known.</summary>
    public Exact? VariabilityFactor => Configurations is { } number && Unconstrained > 0 ? Exact.Of(number, Unconstrained) : null;

    /// <summary>In which share of the configurations a feature is; null where that is not known, or where there is no configuration.</summary>
    public Exact? Commonality(FeatureMeasure of) =>
        Configurations is { IsZero: false } all && of.Configurations is { } number ? Exact.Of(number, all) : null;

    /// <summary>1 less the number of features that only one configuration has, by the number of configurations; null where that is not known.</summary>
    public Exact? Homogeneity => Configurations is { IsZero: false } all && Features.All(f => f.Configurations is not null)
        ? Exact.One - Exact.Of(Features.Count(f => f.Configurations!.Value.IsOne), all) : null;

    /// <summary>The share of the asked attributes that some rule reads.</summary>
    public Exact? RuleRepresentativeness => AttributesInRules.All == 0 ? null : Exact.Of(AttributesInRules.Read, AttributesInRules.All);

    /// <summary>Configurations of the product by those of a subtree alone; null where one of them is not known, or the subtree has none.</summary>
    public Exact? Orthogonality(SubtreeMeasure of) =>
        Configurations is { } all && of.Configurations is { IsZero: false } alone ? Exact.Of(all, alone) : null;

    /// <summary>False where time ran out: features that were not asked are missing then, and what they imply and exclude may be.</summary>
    public required bool IsFinished { get; init; }

    /// <param name="question">Only configurations with these picks are measured.</param>
    /// <param name="cancel">Ends it early.</param>
    public static ModelMeasures Of(Reasoner reasoner, Question question, CancellationToken cancel)
    {
        var prepared = reasoner.Prepared;
        // Counting may take all the time there is; what is in all or none is known long before.
        var relations = new FeatureRelations(reasoner, question, cancel);
        var measured = relations.Measured();
        var counts = new Counts(prepared);
        var all = counts.Of(question, cancel) is { Exact: true, Number: var number } ? number : (BigInteger?)null;
        if (all is not null)
            measured = [.. measured.Select(m => m with
            {
                Configurations = m.Presence switch
                {
                    FeaturePresence.Core => all,
                    FeaturePresence.Dead => 0,
                    _ => Counted(counts, question, m.Feature, cancel),
                },
            })];
        return new()
        {
            Configurations = all,
            Unconstrained = prepared.Network.Variables.Aggregate(BigInteger.One, (n, v) => n * AnswersOf(v.Initial)),
            Features = measured,
            AtomicSets = AtomicSetsOf(measured),
            AttributesInRules = InRules(reasoner.Model),
            Subtrees = [.. (reasoner.Model.Index.Root?.Rows ?? []).OfType<Subassembly>().Where(reasoner.Model.IsSound).Select(s => Alone(reasoner, s, cancel))],
            IsFinished = relations.IsFinished,
        };
    }

    private static BigInteger AnswersOf(VariableDomain domain) => (domain.Outcomes.HasFlag(Outcomes.None) ? 1 : 0) + domain.Kind switch
    {
        DomainKind.YesNo => 2,
        DomainKind.Choice => BitSet.Count(domain.Bits!),
        _ => new BigInteger(domain.Last) - domain.First + 1,
    };

    /// <summary>A pick rests where its attribute does not apply; a feature is only where that does.</summary>
    private static BigInteger? Counted(Counts counts, Question question, Feature feature, CancellationToken cancel) =>
        counts.Of(new([.. question.Picks.Where(p => p.Path != feature.Path), new(feature.Path, feature.Value)]), cancel, feature.Path)
            is { Exact: true, Number: var number } ? number : null;

    /// <summary>Each implies the other: implication is transitive, so that these are classes.</summary>
    private static ImmutableArray<ImmutableArray<Feature>> AtomicSetsOf(ImmutableArray<FeatureMeasure> measured)
    {
        var implied = measured.Where(m => m.Presence == FeaturePresence.Variant).ToDictionary(m => m.Feature, m => m.Implies.ToHashSet());
        var (sets, placed) = (new List<ImmutableArray<Feature>>(), new HashSet<Feature>());
        if (measured.Count(m => m.Presence == FeaturePresence.Core) > 1)
            sets.Add([.. measured.Where(m => m.Presence == FeaturePresence.Core).Select(m => m.Feature)]);
        foreach (var (feature, others) in implied)
        {
            if (!placed.Add(feature))
                continue;
            ImmutableArray<Feature> set = [feature, .. others.Where(o => implied.TryGetValue(o, out var back) && back.Contains(feature))];
            placed.UnionWith(set);
            if (set.Length > 1)
                sets.Add(set);
        }
        return [.. sets];
    }

    private static (int Read, int All) InRules(BoundModel model)
    {
        var read = new HashSet<string>();
        var open = new Stack<Bound>(model.Index.Rows.Values.OfType<IRule>().Where(r => r.Strength == RuleStrength.Must)
            .SelectMany(r => model.ExpressionsOfRows.Where(e => e.RowId == r.Id).Select(e => e.Expression)
                .Concat(model.Grid(r.Id)?.Keys ?? [])));
        while (open.TryPop(out var expression))
            foreach (var row in WrittenModel.RowsIn(expression).Where(read.Add))
                if (model.Index.Rows.GetValueOrDefault(row) is ComputedAttribute && model.Expression(row, "expression") is { } computed)
                    open.Push(computed);
        var asked = model.Index.Rows.Values.OfType<AttributeRow>().Where(model.IsSound).ToList();
        return (asked.Count(a => read.Contains(a.Id)), asked.Count);
    }

    private static SubtreeMeasure Alone(Reasoner reasoner, Subassembly place, CancellationToken cancel)
    {
        if (cancel.IsCancellationRequested)
            return new(place.Id, place.Name, null);
        var alone = new BoundModel(reasoner.Model.Document with { Root = place.AssemblyId }, reasoner.Model.Facts, CancellationToken.None);
        return new(place.Id, place.Name, new Reasoner(alone, reasoner.At).Count(new([]), cancel) is { Exact: true, Number: var number } ? number : null);
    }
}
