using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Answering;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Networks.Building;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Health;

/// <summary>What came of a question: whether it can be, with a configuration that shows it or what stands against it.</summary>
/// <param name="IsPossible">Null where time ran out.</param>
internal readonly record struct Asked(bool? IsPossible, ImmutableArray<Pick>? Example, ImmutableArray<Cause>? Causes);

/// <summary>
/// The questions about nodes of one network, asked under all rules, conditions and bounds. Each has a time of its own, so that
/// one that is hard leaves the others theirs.
/// </summary>
internal sealed class Questions
{
    /// <summary>How long one question may take.</summary>
    public TimeSpan Each { get; set; } = TimeSpan.FromSeconds(3);

    private readonly Reasoner _reasoner;
    private readonly Network _network;
    private readonly PointEvaluator _evaluator;
    private readonly CancellationToken _cancel;
    private readonly List<List<Probe>> _probes;
    private readonly Dictionary<int, ImmutableArray<Pick>> _shown = [];

    // One search in which everything holds, to find examples; and one in which rules can be left out, to find causes.
    private readonly Domain<DoubleEnd>[]? _start, _startWithoutGroups;
    private Search? _plain, _leavingOut;

    public Questions(Reasoner reasoner, NetworkExtras extras, CancellationToken cancel)
    {
        (_reasoner, _cancel) = (reasoner, cancel);
        _network = NetworkBuilder.Build(reasoner.Model, reasoner.At, null, extras);
        _evaluator = new(_network);
        // What stands in several places is one question: whether it is so in any of them.
        _probes = [.. _network.Probes.Where(p => reasoner.Model.Index.IsOwn(p.Row)).GroupBy(p => (p.Kind, p.Row.Id, p.Field)).Select(g => g.ToList())];
        _start = FixedPoint<DoubleEnd>.Of(_network, _network.InDoubles, withGroups: true);
        _startWithoutGroups = FixedPoint<DoubleEnd>.Of(_network, _network.InDoubles, withGroups: false);
        Rules = [.. _network.Groups.Where(g => g.Kind == CauseKind.Rule && reasoner.Model.Index.IsOwn(g.Row)).GroupBy(g => g.Row.Id).Select(g => g.ToList())];
        // What earlier questions have found answers most of these.
        if (extras == NetworkExtras.Outcomes)
            foreach (var solution in reasoner.Prepared.Known.Containing([]))
                Note(solution);
    }

    public int Count => _probes.Count;

    /// <summary>The must rules, each with its groups in all the places where it stands.</summary>
    public List<List<Group>> Rules { get; }

    /// <summary>What a question is about, where it stands first.</summary>
    public Probe ProbeAt(int question) => _probes[question][0];

    /// <summary>The questions that a configuration answers with yes; none where it is no valid one.</summary>
    public IEnumerable<int> Shown(IReadOnlyDictionary<string, Value> values)
    {
        Assigned[] assigned = [.. _network.Variables.Select(v => values.TryGetValue(v.Path, out var value) && PickDomains.Assignment(v, value) is { } given
            ? given : Assigned.Absent)];
        if (_evaluator.Evaluate(assigned, new Assigned?[assigned.Length], new Assigned[assigned.Length]) != Verdict.Solution)
            return [];
        return Enumerable.Range(0, _probes.Count).Where(i => _probes[i].Exists(p => _evaluator.OutcomeOf(p.Node) == p.Wanted)).ToList();
    }

    /// <summary>A complete configuration in which an attribute has a value; null where there is none, or none was found in time.</summary>
    public ImmutableArray<Pick>? Having(string path, Value value)
    {
        if (_network.Variables.FirstOrDefault(v => v.Path == path) is not { } variable || PickDomains.Having(variable, value) is not { } having)
            return null;
        return InTime(() =>
        {
            if (Ready(ref _plain, _start, GroupsHold.Always) is not { } search)
                return new(false, null, []);
            var facts = new List<Fact>();
            search.Within(variable, having, facts);
            return search.Solve(facts) is { } solution ? new(true, [.. PickDomains.PicksOf(_network, solution)], null) : new(false, null, []);
        }).Example;
    }

    /// <summary>Asks whether a node can come out as its probe wants it.</summary>
    public (Probe Probe, Asked Asked) AskProbe(int question) => (_probes[question][0], Ask(question));

    /// <summary>Asks whether a rule rules out something that the others allow.</summary>
    public (Row Row, Asked Asked) AskRule(int rule)
    {
        var asked = new Asked(false, null, []);
        // In none of its places does it make a difference.
        foreach (var group in Rules[rule])
        {
            var one = InTime(() => Broken(group));
            asked = one.IsPossible is false ? asked with { Causes = [.. asked.Causes!.Value.Concat(one.Causes ?? []).Distinct()] } : one;
            if (one.IsPossible is not false)
                break;
        }
        return (Rules[rule][0].Row, asked);
    }

    private CancellationToken _limit;

    private Asked InTime(Func<Asked> ask)
    {
        if (_cancel.IsCancellationRequested)
            return new(null, null, null);
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(_cancel);
        limit.CancelAfter(Each);
        _limit = limit.Token;
        try
        {
            return ask();
        }
        catch (SearchInterrupted)
        {
            return new(null, null, null);
        }
    }

    private Search? Ready(ref Search? search, Domain<DoubleEnd>[]? start, GroupsHold groups)
    {
        if (start is null)
            return null;
        if (search is null || search.IsSpent)
        {
            search = new(_network, start, groups);
            SearchPool.Prefer(search, _network);
        }
        search.Cancel = _limit;
        return search;
    }

    private Asked Ask(int question)
    {
        if (_shown.TryGetValue(question, out var shown))
            return new(true, shown, null);
        return InTime(() =>
        {
            if (Ready(ref _plain, _start, GroupsHold.Always) is not { } search)
                return new(false, null, []);
            foreach (var probe in _probes[question])
                if (search.SolveFor(probe.Node, probe.Wanted, []) is { } solution)
                {
                    Note(solution);
                    return _shown.TryGetValue(question, out var example) ? new(true, example, null) : new(null, null, null);
                }
            // Where it is well that it cannot be, nobody asks for what stands against it.
            if (_probes[question][0].Kind is ProbeKind.NumberNegative or ProbeKind.NumberZero or ProbeKind.NumberMissing or ProbeKind.Error
                or ProbeKind.PriceUnderCost)
                return new(false, null, []);
            int[] all = [.. _network.Groups.Select(g => g.Index)];
            return new(false, null, CausesOf(_probes[question].SelectMany(p => Smallest(all, p.Node, p.Wanted, out _) ?? [])));
        });
    }

    private Asked Broken(Group group)
    {
        if (RuleBreaking.BreakingOnly(_reasoner.Prepared, group) is { } breaking)
            return new(true, [.. PickDomains.PicksOf(_network, breaking)], null);
        int[] others = [.. _network.Groups.Select(g => g.Index).Where(g => g != group.Index)];
        var causes = new List<int>();
        foreach (var (node, allowed, of) in _network.Roots)
            foreach (var outcome in new[] { Outcomes.False, Outcomes.Error })
                if (of == group.Index && (allowed & outcome) == 0)
                {
                    if (Smallest(others, node, outcome, out var solution) is not { } refuting)
                        return new(true, [.. PickDomains.PicksOf(_network, solution!)], null);
                    causes.AddRange(refuting);
                }
        return new(false, null, CausesOf(causes));
    }

    private ImmutableArray<Cause> CausesOf(IEnumerable<int> groups) =>
        [.. groups.Distinct().Order().Select(g => _network.Groups[g]).Select(g => new Cause(g.Kind, g.Row.Id, g.Field, g.Occurrence.Prefix))];

    /// <summary>Of groups under which a node never comes out in a way, a smallest part under which it does not either; null where it does.</summary>
    /// <param name="solution">A configuration in which it does.</param>
    private int[]? Smallest(int[] groups, int node, Outcomes outcome, out Assigned[]? solution)
    {
        solution = null;
        if (Ready(ref _leavingOut, _startWithoutGroups, GroupsHold.WhereAssumed) is not { } search)
            return [];
        var allowed = groups.ToHashSet();
        int[] nearest = [.. _network.GroupsByDistance(_network.VariablesUnder(node)).Where(allowed.Contains)];
        var (core, found) = (default(int[]), default(Assigned[]));
        foreach (var near in Network.Widening(nearest.Length))
        {
            if (near < nearest.Length)
                Project(nearest[..near]);
            else
                search.ProjectToAll();
            if ((core = Refuting(nearest[..near])) is not null)
                break;
        }
        if (core is null)
        {
            solution = found;
            return null;
        }
        Project(core);
        foreach (var group in core.OrderDescending())
            if (core.Contains(group) && Refuting([.. core.Where(g => g != group)]) is { } without)
                core = without;
        return core;

        // What the groups do not read need not be decided.
        void Project(int[] read) => search.ProjectTo([.. read.Append(-1).SelectMany(_network.VariablesOf), .. _network.VariablesUnder(node)]);

        int[]? Refuting(int[] holding) =>
            (found = search.SolveFor(node, outcome, holding.Select(search.Holds))) is null
                ? [.. search.Core.Where(c => c < holding.Length).Select(c => holding[c])] : null;
    }

    /// <summary>Evaluates a configuration that was found for one question, which answers others too.</summary>
    private void Note(Assigned[] solution)
    {
        if (_evaluator.Evaluate(solution, new Assigned?[solution.Length], new Assigned[solution.Length]) != Verdict.Solution)
            return;
        ImmutableArray<Pick>? picks = null;
        for (var i = 0; i < _probes.Count; i++)
            if (!_shown.ContainsKey(i) && _probes[i].Exists(p => _evaluator.OutcomeOf(p.Node) == p.Wanted))
                _shown[i] = picks ??= [.. PickDomains.PicksOf(_network, solution)];
    }
}
