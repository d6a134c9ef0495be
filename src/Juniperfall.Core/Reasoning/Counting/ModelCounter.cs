using System.Numerics;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Counting;

/// <summary>
/// Counts the configurations of a network exactly: by cases over the variables, with what is left falling apart into components
/// that share nothing and are counted each by itself and only once (Sang, Bacchus, Beame, Kautz and Pitassi, “Combining component
/// caching and clause learning for effective model counting”, 2004; here over finite domains, ranges of numbers halved).
/// What remains of a constraint is told by evaluating it forward, so that a component is known by the values it still hangs on.
/// </summary>
internal sealed class ModelCounter
{
    /// <summary>A root that must come out as allowed, or (with a variable) that the variable applies where the condition holds.</summary>
    private readonly record struct Constraint(int Node, Outcomes Allowed, int Variable, int[] Variables);

    private enum Status { Open, Met, Broken }

    private const int MostRemembered = 40_000_000;

    private readonly Network _network;
    private readonly Backtracking _pruned;
    private readonly Backtracking _forward;
    private readonly CancellationToken _cancel;
    private readonly Constraint[] _constraints;
    private readonly Dictionary<long[], BigInteger> _known = new(Keys.Instance);
    private readonly int[] _visited;
    private readonly bool _isPossible;
    private int _visit;
    private long _remembered;
    private bool _interrupted;

    public ModelCounter(Network network, CancellationToken cancel)
    {
        (_network, _cancel) = (network, cancel);
        _pruned = new(network, network.InDoubles.Initial, withGroups: true);
        _forward = new(network, network.InDoubles.Initial, withGroups: false);
        _visited = new int[network.Nodes.Length];
        var support = Supports();
        _constraints = [.. network.Roots.Select(r => new Constraint(r.Node, r.Allowed, -1, support[r.Node])),
            .. network.Nodes.Where(n => n.Operator == Operator.Presence && network.Initial[n.Children[0]].Outcomes != Outcomes.True)
                .Select(n => new Constraint(n.Children[0], Outcomes.True, network.Nodes[n.Children[1]].Variable!.Index,
                    [.. support[n.Children[0]].Append(network.Nodes[n.Children[1]].Variable!.Index).Distinct()]))];
        _isPossible = _pruned.Start() && _forward.Evaluate();
    }

    /// <summary>The number of configurations within some domains, and whether it is exact: otherwise there are at least so many.</summary>
    public (BigInteger Number, bool Exact) Count(IEnumerable<(Variable Variable, VariableDomain To)> restrictions)
    {
        if (!_isPossible)
            return (0, true);
        foreach (var (variable, to) in restrictions)
            if (!_pruned.Restrict(variable, to))
                return (0, true);
        if (!_pruned.Propagate())
            return (0, true);
        foreach (var variable in _network.Variables)
            if (!_forward.Restrict(variable, _pruned.Of(variable)))
                return (0, true);
        _forward.Propagate();
        var number = Count([.. Enumerable.Range(0, _network.Variables.Length)], [.. Enumerable.Range(0, _constraints.Length)]);
        return (number, !_interrupted);
    }

    /// <summary>By node: the variables that it stems from.</summary>
    private int[][] Supports()
    {
        var support = new int[_network.Nodes.Length][];
        for (var n = 0; n < support.Length; n++)
            Of(n);
        return support;

        int[] Of(int n) => support[n] ??= _network.Nodes[n].Variable is { } variable ? [variable.Index]
            : [.. _network.Nodes[n].Children.SelectMany(Of).Distinct().Order()];
    }

    private Status StatusOf(in Constraint constraint)
    {
        var outcomes = _forward[constraint.Node].Outcomes;
        if (constraint.Variable < 0)
            return (outcomes & constraint.Allowed) == 0 ? Status.Broken : (outcomes & ~constraint.Allowed) == 0 ? Status.Met : Status.Open;
        var (holds, holdsNot) = ((outcomes & Outcomes.True) != 0, (outcomes & ~Outcomes.True) != 0);
        var own = _forward[_network.Variables[constraint.Variable].Node].Outcomes;
        var (applies, absent) = ((own & ~Outcomes.Absent) != 0, (own & Outcomes.Absent) != 0);
        return !(holds && applies) && !(holdsNot && absent) ? Status.Broken : !(holds && absent) && !(holdsNot && applies) ? Status.Met : Status.Open;
    }

    private static BigInteger SizeOf(in VariableDomain domain) => BitOperations.PopCount((uint)(domain.Outcomes & ~Outcomes.Present))
        + (!domain.MayBePresent ? 0 : domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) : new BigInteger(domain.Last) - domain.First + 1);

    /// <summary>The number of ways to complete these variables so that these constraints are met; all of that is propagated.</summary>
    private BigInteger Count(int[] variables, int[] constraints)
    {
        var open = new List<int>();
        foreach (var c in constraints)
            switch (StatusOf(_constraints[c]))
            {
                case Status.Broken: return 0;
                case Status.Open when Array.TrueForAll(_constraints[c].Variables, v => _forward.Of(_network.Variables[v]).IsPoint):
                    // Doubles leave a tie over numbers that are all known.
                    if (!IsMetExactly(_constraints[c]))
                        return 0;
                    break;
                case Status.Open: open.Add(c); break;
            }
        BigInteger product = 1;
        foreach (var component in Components(variables, open, ref product).OrderBy(c => c.Variables.Length))
        {
            if (_interrupted)
                return 0;
            product *= CountComponent(component.Variables, component.Constraints);
            if (product.IsZero)
                return 0;
        }
        return product;
    }

    /// <summary>Groups of variables that share open constraints; those in none only multiply by how many values they have.</summary>
    private List<(int[] Variables, int[] Constraints)> Components(int[] variables, List<int> open, ref BigInteger product)
    {
        var leader = new Dictionary<int, int>();
        int Find(int v)
        {
            while (leader[v] != v)
                v = leader[v] = leader[leader[v]];
            return v;
        }
        foreach (var c in open)
        {
            var first = -1;
            foreach (var v in _constraints[c].Variables)
            {
                if (_forward.Of(_network.Variables[v]).IsPoint)
                    continue;
                leader.TryAdd(v, v);
                if (first < 0)
                    first = v;
                else
                    leader[Find(v)] = Find(first);
            }
        }
        foreach (var v in variables)
            if (!leader.ContainsKey(v))
                product *= SizeOf(_pruned.Of(_network.Variables[v]));
        return [.. leader.Keys.GroupBy(Find)
            .Select(g => (g.Order().ToArray(), open.Where(c => Find(_constraints[c].Variables.First(leader.ContainsKey)) == g.Key).ToArray()))];
    }

    private BigInteger CountComponent(int[] variables, int[] constraints)
    {
        var key = KeyOf(variables, constraints);
        if (_known.TryGetValue(key, out var known))
            return known;
        _interrupted |= _cancel.IsCancellationRequested;
        if (_interrupted)
            return 0;
        BigInteger sum = 0;
        var chosen = _network.Variables[Chosen(variables, constraints)];
        foreach (var part in PartsOf(_pruned.Of(chosen)))
        {
            var (pruned, forward) = (_pruned.Mark, _forward.Mark);
            if (_pruned.Restrict(chosen, part) && _pruned.Propagate())
            {
                var isLeft = true;
                foreach (var narrowed in _pruned.NarrowedSince(pruned))
                    isLeft = isLeft && _forward.Restrict(narrowed, _pruned.Of(narrowed));
                if (isLeft && _forward.Propagate())
                    sum += Count(variables, constraints);
            }
            _pruned.BackTo(pruned);
            _forward.BackTo(forward);
        }
        if (_interrupted)
            return sum;
        if ((_remembered += key.Length) > MostRemembered)
        {
            _known.Clear();
            _remembered = 0;
        }
        return _known[key] = sum;
    }

    /// <summary>The variable in most open constraints, of those the one with the fewest values.</summary>
    private int Chosen(int[] variables, int[] constraints)
    {
        var uses = variables.ToDictionary(v => v, _ => 0);
        foreach (var c in constraints)
            foreach (var v in _constraints[c].Variables)
                if (uses.ContainsKey(v))
                    uses[v]++;
        return variables.MaxBy(v => (uses[v], -_pruned.Of(_network.Variables[v]).Size, -v));
    }

    private const int MostSingly = 12;

    /// <summary>A domain in cases: outcome by outcome, values one by one, long ranges in halves.</summary>
    private static IEnumerable<VariableDomain> PartsOf(VariableDomain domain)
    {
        foreach (var outcome in new[] { Outcomes.Absent, Outcomes.None, Outcomes.False, Outcomes.True })
            if ((domain.Outcomes & outcome) != 0)
                yield return domain.Only(outcome);
        if (!domain.MayBePresent)
            yield break;
        if (domain.Kind == DomainKind.Choice)
        {
            foreach (var value in BitSet.Members(domain.Bits!).ToList())
                yield return domain.Value(value);
        }
        else if (domain.Last - domain.First < MostSingly)
        {
            for (var step = domain.First; step <= domain.Last; step++)
                yield return domain.Steps(step, step);
        }
        else
        {
            var middle = domain.First + (domain.Last - domain.First) / 2;
            yield return domain.Steps(domain.First, middle);
            yield return domain.Steps(middle + 1, domain.Last);
        }
    }

    /// <summary>
    /// What tells a component: its open constraints, what its variables may be, and the values that the constraints hang on
    /// besides. A number counts as a value only where a double holds it exactly.
    /// </summary>
    private long[] KeyOf(int[] variables, int[] constraints)
    {
        var key = new List<long>();
        _visit++;
        foreach (var c in constraints)
        {
            key.Add(-1 - c);
            Visit(_constraints[c].Node);
            if (_constraints[c].Variable is var own and >= 0)
                Visit(_network.Variables[own].Node);
        }
        foreach (var v in variables)
        {
            var domain = _pruned.Of(_network.Variables[v]);
            key.Add(((long)v << 8) | (long)domain.Outcomes);
            if (!domain.MayBePresent || domain.Kind == DomainKind.YesNo)
                continue;
            if (domain.Kind == DomainKind.Number)
            {
                key.Add(domain.First);
                key.Add(domain.Last);
            }
            else
                foreach (var word in domain.Bits!)
                    key.Add((long)word);
        }
        return [.. key];

        void Visit(int n)
        {
            if (_visited[n] == _visit || _network.Nodes[n].Operator == Operator.Constant)
                return;
            _visited[n] = _visit;
            ref readonly var domain = ref _forward[n];
            var isSettled = domain.HasOneOutcome && (domain.Outcomes != Outcomes.Present
                || (domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) == 1 : domain.Numbers.Low == domain.Numbers.High));
            if (_network.Nodes[n].Variable is { } variable)
                isSettled = _forward.Of(variable).IsPoint;
            if (isSettled)
            {
                key.Add(((long)n << 8) | (long)domain.Outcomes);
                if (domain.Outcomes == Outcomes.Present)
                    key.Add(_network.Nodes[n].Variable is not null && domain.Kind == DomainKind.Number ? domain.First
                        : domain.Kind == DomainKind.Choice ? BitSet.First(domain.Bits!) : BitConverter.DoubleToInt64Bits(domain.Numbers.Low.ToDouble()));
                return;
            }
            foreach (var child in _network.Nodes[n].Children)
                Visit(child);
        }
    }

    /// <summary>Whether a constraint is met by values that are all known, in exact numbers.</summary>
    private bool IsMetExactly(in Constraint constraint)
    {
        var exact = new FixedPoint<ExactEnd>(_network, _network.InExactNumbers, _network.InExactNumbers.Initial, withGroups: false);
        foreach (var v in constraint.Variables)
            exact.Restrict(_network.Variables[v], _forward.Of(_network.Variables[v]));
        exact.Evaluate();
        var outcomes = exact[constraint.Node].Outcomes;
        return constraint.Variable < 0 ? (outcomes & ~constraint.Allowed) == 0
            : (outcomes == Outcomes.True) == ((_forward[_network.Variables[constraint.Variable].Node].Outcomes & Outcomes.Absent) == 0);
    }

    private sealed class Keys : IEqualityComparer<long[]>
    {
        public static readonly Keys Instance = new();
        public bool Equals(long[]? x, long[]? y) => x.AsSpan().SequenceEqual(y);

        public int GetHashCode(long[] key)
        {
            var hash = new HashCode();
            foreach (var part in key)
                hash.Add(part);
            return hash.ToHashCode();
        }
    }
}
