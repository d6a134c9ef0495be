using System.Collections.Immutable;
using System.Numerics;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Reasoning.Symmetry;

/// <summary>
/// Instances that can change places without changing anything else are counted as interchangeable: configurations that differ
/// only in their order are one. By Burnside's lemma that is the mean, over all permutations of the instances, of how many
/// configurations a permutation leaves as they are; those are the ones in which the instances of each of its cycles are alike
/// (Burnside, “Theory of groups of finite order”, 1897, § 145).
/// </summary>
internal static class InstanceSymmetry
{
    /// <summary>Beyond so many cases the instances are counted as told apart.</summary>
    private const int MostCases = 400;

    /// <summary>A case of instances alike, with its weight in the mean.</summary>
    /// <param name="IsIdentity">Whether no instances are made alike: what this counts bounds the whole from below.</param>
    public sealed record Case(Alike Alike, BigInteger Permutations, BigInteger Of, bool IsIdentity);

    /// <summary>The cases whose weighted sum is the count. Those without alike instances come first.</summary>
    /// <param name="picked">The picks: only instances with the same ones are interchangeable.</param>
    public static IReadOnlyList<Case> Cases(BoundModel model, IReadOnlyList<Pick> picked)
    {
        IEnumerable<Case> cases = [new(new([], []), 1, 1, true)];
        var number = 1;
        foreach (var (place, prefixes) in Interchangeable(model))
        {
            var own = OfPlace(prefixes, place.InstanceCount.Length > 0, picked).Take(MostCases + 1).ToList();
            if ((number *= own.Count) > MostCases)
                return [new(new([], []), 1, 1, true)];
            cases = cases.SelectMany(c =>
                own.Select(o => new Case(c.Alike.And(o.Alike), c.Permutations * o.Permutations, c.Of * o.Of, c.IsIdentity && o.IsIdentity)));
        }
        return [.. cases.OrderByDescending(c => c.IsIdentity)];
    }

    /// <summary>The subassemblies of which no single instance is named, so that those that are there can change places; with the prefixes of their instances
    /// in order.</summary>
    public static IEnumerable<(Subassembly Place, string[] Prefixes)> Interchangeable(BoundModel model)
    {
        var named = NamedPlaces(model);
        foreach (var instances in Occurrence.All(model).Where(o => o.Place is not null).GroupBy(o => (o.Parent, o.Place)))
        {
            // Within instances that can change places themselves, those below are told apart.
            var isNested = instances.Key.Parent!.Place is { } above && ModelIndex.InstancesOf(above).Length > 1;
            string[] prefixes = [.. instances.OrderBy(o => o.Number).Select(o => o.Prefix)];
            if (prefixes.Length > 1 && !named.Contains(instances.Key.Place!.Id) && !isNested)
                yield return (instances.Key.Place!, prefixes);
        }
    }

    private static IEnumerable<Case> OfPlace(string[] prefixes, bool isCounted, IReadOnlyList<Pick> picked)
    {
        for (var there = isCounted ? 0 : prefixes.Length; there <= prefixes.Length; there++)
        {
            var presence = !isCounted ? [] : prefixes.Select((p, i) => (p, IsThere: i < there)).Where((_, i) => i == there - 1 || i == there)
                .ToImmutableArray();
            IEnumerable<Case> cases = [new(new(presence, []), 1, 1, true)];
            foreach (var alike in prefixes.Take(there)
                .GroupBy(p => string.Join('\n',
                picked.Where(x => x.Path.StartsWith(p, StringComparison.Ordinal)).Select(x => $"{x.Path[p.Length..]}={x.Value}").Order())))
            {
                string[] members = [.. alike];
                cases = cases.SelectMany(c => Partitions(members.Length, members.Length)
                    .Select(cycles => new Case(c.Alike.And(new([], Merged(members, cycles))), c.Permutations * OfCycleType(members.Length, cycles),
                        c.Of * Factorial(members.Length), c.IsIdentity && cycles.Count == members.Length)));
            }
            foreach (var one in cases)
                yield return one;
        }
    }

    /// <summary>The ways to write a number as a sum, largest part first.</summary>
    private static IEnumerable<IReadOnlyList<int>> Partitions(int number, int largest)
    {
        if (number == 0)
            yield return [];
        for (var part = Math.Min(number, largest); part > 0; part--)
            foreach (var rest in Partitions(number - part, part))
                yield return [part, .. rest];
    }

    private static ImmutableArray<(string, string)> Merged(string[] members, IReadOnlyList<int> cycles)
    {
        var merged = ImmutableArray.CreateBuilder<(string, string)>();
        var start = 0;
        foreach (var length in cycles)
        {
            for (var i = 1; i < length; i++)
                merged.Add((members[start + i], members[start]));
            start += length;
        }
        return merged.ToImmutable();
    }

    /// <summary>How many permutations have cycles of these lengths.</summary>
    private static BigInteger OfCycleType(int number, IReadOnlyList<int> cycles) =>
        cycles.GroupBy(c => c).Aggregate(Factorial(number), (all, g) => all / (BigInteger.Pow(g.Key, g.Count()) * Factorial(g.Count())));

    private static BigInteger Factorial(int number) => Enumerable.Range(1, number).Aggregate(BigInteger.One, (product, i) => product * i);

    /// <summary>The subassemblies of which some expression names one instance, so that it matters which is which.</summary>
    private static HashSet<string> NamedPlaces(BoundModel model)
    {
        var named = new HashSet<string>();
        foreach (var expression in model.Expressions)
            Visit(expression, []);
        return named;

        void Visit(Bound expression, ImmutableHashSet<string> totalled)
        {
            if (expression is BoundTotal total)
                totalled = totalled.Union(total.RangeIds);
            // Whether an instance is there hangs on how many there are, and those that are there stay there in whatever order.
            var path = expression switch
            {
                BoundAttribute a => a.Path,
                BoundIsNone n => n.Path,
                BoundApplies { OfSubassembly: true } a => RowPath.Prefix(a.Path),
                BoundApplies a => a.Path,
                _ => "",
            };
            foreach (var step in path.Split(RowPath.Below).Where(s => s.Contains(RowPath.Instance)))
                if (step.Split(RowPath.Instance)[0] is var place && !totalled.Contains(place))
                    named.Add(place);
            foreach (var child in expression.Children)
                Visit(child, totalled);
        }
    }
}
