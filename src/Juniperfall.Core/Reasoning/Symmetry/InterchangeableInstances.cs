using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Symmetry;

/// <summary>
/// Instances that can change places under some picks without changing anything else, so that what one of them can be need not be
/// asked of the others again, and of the orders in which they could stand one is enough: variable symmetry as in Gent, Petrie and
/// Puget, “Symmetry in constraint programming” (2006).
///
/// Those that are there are the first ones. A configuration in which two of them are there is one with their values exchanged, too.
/// So what a later one can have, an earlier one can have as well; and what both have in one configuration, both can have.
/// </summary>
internal sealed class InterchangeableInstances
{
    // By class and instance, the variables in the same order.
    private readonly int[][][] _classes;
    private readonly (int Class, int Instance, int Place)[] _placeOf;

    private InterchangeableInstances(int[][][] classes, int variables)
    {
        _classes = classes;
        _placeOf = new (int, int, int)[variables];
        Array.Fill(_placeOf, (-1, -1, -1));
        for (var c = 0; c < classes.Length; c++)
            for (var i = 0; i < classes[c].Length; i++)
                for (var p = 0; p < classes[c][i].Length; p++)
                    _placeOf[classes[c][i][p]] = (c, i, p);
    }

    /// <summary>All instances of the model that can change places while nothing is picked, by place and instance their variables in the same order.</summary>
    public static int[][][] Of(BoundModel model, IReadOnlyList<Variable> variables)
    {
        var groups = new List<int[][]>();
        foreach (var (_, prefixes) in InstanceSymmetry.Interchangeable(model))
        {
            int[][] instances = [.. prefixes
                .Select(p => variables.Where(v => v.Path.StartsWith(p, StringComparison.Ordinal)).OrderBy(v => v.Path[p.Length..], StringComparer.Ordinal)
                .Select(v => v.Index).ToArray())];
            if (instances[0].Length > 0 && instances.All(i => i.Length == instances[0].Length))
                groups.Add(instances);
        }
        return [.. groups];
    }

    /// <summary>Those that can change places beside some picks: these have to be the same on each; null where there are none.</summary>
    public static InterchangeableInstances? Under(Network network, IReadOnlyList<Wanted> picks)
    {
        if (network.Interchangeable.Length == 0)
            return null;
        var picked = picks.ToLookup(p => p.Variable, p => p.Value);
        int[][][] alike = [.. network.Interchangeable.SelectMany(instances => instances.GroupBy(i => PicksOf(i, picked))).Select(g => g.ToArray())
            .Where(g => g.Length > 1)];
        return alike.Length == 0 ? null : new(alike, network.Variables.Length);
    }

    private static string PicksOf(int[] instance, ILookup<int, Assigned> picked) =>
        string.Join(' ', instance.SelectMany((v, place) => picked[v].Select(value => $"{place}={value}")));

    /// <summary>
    /// The nodes of <see cref="Operator.InOrder"/> that can be assumed where it is asked whether there is any configuration beside some
    /// picks: of those that are the same but for instances exchanged, the one in which they are in order is there, too.
    /// </summary>
    /// <param name="asked">The variable that is asked for beside the picks, which tells its instance from the others; −1 for none.</param>
    public static int[] Orders(Network network, IReadOnlyList<Wanted> picks, int asked)
    {
        if (network.Interchangeable.Length == 0)
            return [];
        var picked = picks.ToLookup(p => p.Variable, p => p.Value);
        var orders = new List<int>();
        foreach (var (instances, inOrder) in network.Interchangeable.Zip(network.Orders))
            for (var i = 0; i < inOrder.Length; i++)
                if (!instances[i].Contains(asked) && !instances[i + 1].Contains(asked) && PicksOf(instances[i], picked) == PicksOf(instances[i + 1], picked))
                    orders.Add(inOrder[i]);
        return [.. orders];
    }

    /// <summary>Of a configuration: each variable of an instance that is there with the same one of another that is there as well.</summary>
    /// <param name="isAbsent">Whether a variable does not apply in the configuration.</param>
    public IEnumerable<(int Variable, int Like)> Exchanged(Func<int, bool> isAbsent)
    {
        foreach (var instances in _classes)
        {
            // One of which nothing applies may not be there.
            int[][] there = [.. instances.Where(i => !Array.TrueForAll(i, v => isAbsent(v)))];
            foreach (var one in there)
                foreach (var other in there)
                    if (one != other)
                        for (var p = 0; p < one.Length; p++)
                            yield return (one[p], other[p]);
        }
    }

    /// <summary>The same variable in the instances before that of a variable: they can have whatever it can have.</summary>
    public IEnumerable<int> Before(int variable) => _placeOf[variable] is ( >= 0 and var c, var instance, var place)
        ? _classes[c].Take(instance).Select(i => i[place]) : [];

    /// <summary>The same variable in the instances behind that of a variable: they can have nothing that it cannot have.</summary>
    public IEnumerable<int> Behind(int variable) => _placeOf[variable] is ( >= 0 and var c, var instance, var place)
        ? _classes[c].Skip(instance + 1).Select(i => i[place]) : [];
}
