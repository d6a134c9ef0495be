using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Networks.Building;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Reasoning.Symmetry;

using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>
/// Of instances that can change places only those in order are searched: there is a configuration in order wherever there is one at
/// all, and what cannot be is refuted with far fewer conflicts.
/// </summary>
public class InstanceOrders
{
    private static readonly int Seeds = Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 3000 : 200;

    private static Subassembly Doors(int instances, string count = "") => new()
    {
        Id = "p",
        Name = "doors",
        AssemblyId = "leaf",
        InstanceCount = count,
        Instances = [.. Enumerable.Range(1, instances).Select(i => new Instance { Id = $"i{i}" })],
    };

    private static Search SearchOf(Network network)
    {
        var start = new FixedPoint<DoubleEnd>(network, network.InDoubles, network.InDoubles.Initial);
        Assert.True(start.Start());
        return new(network, start.Snapshot(), GroupsHold.Always);
    }

    private static BoundModel Random(int seed)
    {
        var random = new Random(seed);
        T One<T>(params T[] of) => of[random.Next(of.Length)];
        var withNumbers = seed % 4 > 0;
        string[] rules = [.. new[] { "any(doors.kind = '80')", "all(doors.wide where doors.kind = '100')", "not any(doors.kind = '120' where doors.wide)",
            "if lit then any(doors.wide)", "all(doors.kind <> '80' where doors.lock = none)" },
            .. withNumbers ? new[] { "count(doors where doors.kind = '80') <= 1", "sum(doors.breadth) <= 13", "sum(doors.breadth) >= 21",
                "count(doors where doors.wide) = 1", "max(doors.breadth) > 1", "number > 1 or lit",
                "sum(doors.breadth * doors.depth) = 97", "sum(doors.breadth * doors.depth) = 61", "sum(doors.depth) - sum(doors.breadth) = 23",
                    "sum(doors.depth where doors.wide) = 14", "sum(doors.breadth) = 17" } : []];
        Row[] leaf = [Choice("kind") with { Required = One(true, false) }, YesNo("wide") with { AppliesWhen = One("", "kind = '80'") },
            Choice("lock") with { Required = false, AppliesWhen = One("", "wide") },
            .. withNumbers ? new Row[] { Whole("breadth", 0, 12) with { AppliesWhen = One("kind <> '100'", "kind = '80'") }, Whole("depth", 1, 15),
                Rule("fits", One("breadth <> depth", "breadth + depth <= 17", "breadth * depth <= 40", "if wide then breadth > 7 else depth > 9")) } : [],
                Rule("own", One("wide or kind <> '120'", "yes", "kind = '80' or not wide"))];
        return Sound(Assembly("room",
            [YesNo("lit"), .. withNumbers ? new Row[] { Whole("number", 1, 4) } : [], Doors(4, withNumbers ? One("number", "") : ""),
            .. Enumerable.Range(0, 3).Select(i => Rule($"r{i}", One(rules)))]), Assembly("leaf", leaf));
    }

    private static IEnumerable<VariableDomain> ValuesOf(Variable variable)
    {
        foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True, Outcomes.Absent })
            if ((variable.Initial.Outcomes & outcome) != 0)
                yield return variable.Initial.Only(outcome);
        if (variable.Initial.MayBePresent && variable.Initial.Kind == DomainKind.Choice)
            foreach (var value in BitSet.Members(variable.Initial.Bits!))
                yield return variable.Initial.Value(value);
        else if (variable.Initial.MayBePresent)
            for (var step = variable.Initial.First; step <= variable.Initial.Last; step++)
                yield return variable.Initial.Steps(step, step);
    }

    [Fact]
    public void There_is_a_configuration_in_order_wherever_there_is_one()
    {
        var (possible, impossible, ordered) = (0, 0, 0);
        for (var seed = 1; seed <= Seeds; seed++)
        {
            var network = NetworkBuilder.Build(Random(seed), default);
            var start = new FixedPoint<DoubleEnd>(network, network.InDoubles, network.InDoubles.Initial);
            if (!start.Start())
                continue;
            var (free, inOrder, random) = (SearchOf(network), SearchOf(network), new Random(seed));
            for (var question = 0; question < 20; question++)
            {
                // What some configuration has stands together.
                if (free.Solve([]) is not { } some)
                    break;
                List<Wanted> picks = [.. network.Variables.Where(_ => random.Next(5) == 0).Select(v => new Wanted(v.Index, some[v.Index]))
                    .Where(w => w.Value.Outcome != Outcomes.Absent)];
                var asked = network.Variables[random.Next(network.Variables.Length)];
                foreach (var to in ValuesOf(asked))
                {
                    List<Fact> Facts(Search search)
                    {
                        var facts = new List<Fact>();
                        foreach (var pick in picks.Where(p => p.Variable != asked.Index))
                            search.Within(network.Variables[pick.Variable],
                                network.Variables[pick.Variable].Initial.Just(pick.Value) is var just
                                ? just with { Outcomes = just.Outcomes | Outcomes.Absent } : default, facts);
                        search.Within(asked, to, facts);
                        return facts;
                    }
                    var facts = Facts(inOrder);
                    var orders = InterchangeableInstances.Orders(network, [.. picks.Where(p => p.Variable != asked.Index)], asked.Index);
                    inOrder.InOrder(orders, facts);
                    var (one, other) = (free.Solve(Facts(free)), inOrder.Solve(facts));
                    Assert.True(one is null == other is null, $"seed {seed}, {asked.Path}, {picks.Count} picks");
                    (possible, impossible, ordered) = (possible + (one is null ? 0 : 1), impossible + (one is null ? 1 : 0), ordered + orders.Length);
                    if (other is not null)
                        Assert.All(orders, o => Assert.True(IsInOrder(network, other, o)));
                }
            }
        }
        Assert.True(possible > Seeds && impossible > Seeds && ordered > impossible, $"{possible} {impossible} {ordered}");
    }

    private static bool IsInOrder(Network network, Assigned[] configuration, int order)
    {
        var children = network.Nodes[order].Children;
        long[] Word(int from) => [.. children.Skip(from).Take(children.Length / 2).Select(c => configuration[network.Nodes[c].Variable!.Index])
            .Select(a => LexicographicRank.Of(a.Outcome, a.Index))];
        return Word(0).Zip(Word(children.Length / 2)).FirstOrDefault(p => p.First != p.Second) is var (first, second) && first <= second;
    }

    /// <summary>Doors that all have to differ, one more than there are kinds: each order of them would be refuted by itself.</summary>
    [Fact]
    public void What_cannot_be_is_not_refuted_once_for_each_order()
    {
        const int kinds = 8;
        var list = new ValueList
        {
            Id = "kinds",
            Name = "kinds",
            Values = [.. Enumerable.Range(0, kinds).Select(k => new ListValue { Id = $"k{k}", Code = $"K{k}" })]
        };
        var kind = new AttributeRow { Id = "kind", Name = "kind", Kind = AttributeKind.Choice, ListId = "kinds", Required = true };
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "CR",
            Root = "room",
            Lists = [list],
            Assemblies = [
                Assembly("room", [Doors(kinds + 1), YesNo("differ"),
                    .. Enumerable.Range(0, kinds).Select(k => Rule($"r{k}", $"if differ then count(doors where doors.kind = K{k}) <= 1"))]),
                Assembly("leaf", kind, YesNo("wide")),
            ],
        }, LibraryFacts.Empty);
        Assert.Empty(model.Findings);
        var network = NetworkBuilder.Build(model, default);
        var differ = network.Variables.Single(v => v.Path == "differ");
        long ConflictsWith(int[] orders)
        {
            var search = SearchOf(network);
            var facts = new List<Fact>();
            search.Within(differ, differ.Initial.Only(Outcomes.True), facts);
            search.InOrder(orders, facts);
            Assert.Null(search.Solve(facts));
            return search.Conflicts;
        }
        var orders = InterchangeableInstances.Orders(network, [], differ.Index);
        Assert.Equal(kinds, orders.Length);
        var (free, inOrder) = (ConflictsWith([]), ConflictsWith(orders));
        Assert.True(inOrder * 20 < free, $"{inOrder} conflicts in order, {free} without");
        // And so it is in answers.
        Assert.Equal(Value.Of(false), new Reasoner(model).Answer(new([]), CancellationToken.None).Attributes.Single(a => a.Path == "differ").Available.Only);
    }
}
