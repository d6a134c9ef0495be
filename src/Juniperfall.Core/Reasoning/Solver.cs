using System.Numerics;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>Thrown when the caller's cancellation reaches into a search.</summary>
internal sealed class SearchInterrupted : Exception;

/// <summary>
/// Narrows the domains of a network by propagation of bounds and values, and searches for solutions by branching. In
/// doubles nothing that a solution has is ever removed, and ties are decided exactly once what they stem from is decided.
/// Propagation to a fixed point follows Mackworth (“Consistency in networks of relations”, 1977) with bounds as in Lhomme
/// (“Consistency techniques for numeric CSPs”, 1993); variables are chosen by size over weight of failures (Boussemart and
/// others, “Boosting systematic search by weighting constraints”, 2004).
/// </summary>
internal sealed partial class Solver<T> where T : struct, IEnd<T>
{
    private readonly Network _network;
    private readonly NetworkEnds<T> _ends;
    private readonly Node[] _nodes;
    private readonly int[][] _parents;
    private readonly Domain<T>[] _domains;
    private readonly List<(int Node, Domain<T> Before)> _trail = [];
    private readonly List<int> _levels = [];
    private readonly int[] _savedAt;
    private readonly ulong[] _queued;
    private int _pending;
    private readonly int[] _narrowings;
    private readonly bool[]? _active;
    private readonly CancellationToken _cancel;
    private readonly Exactly _exactly;
    private int _level = 1;

    /// <param name="active">Which groups hold; all where null.</param>
    public Solver(Network network, NetworkEnds<T> ends, bool[]? active, CancellationToken cancel) : this(network, ends, ends.Initial, active, cancel)
    {
    }

    /// <summary>A solver that starts from an already propagated state with all groups active.</summary>
    public Solver(Network network, NetworkEnds<T> ends, Domain<T>[] state, CancellationToken cancel) : this(network, ends, state, null, cancel)
    {
    }

    private Solver(Network network, NetworkEnds<T> ends, Domain<T>[] state, bool[]? active, CancellationToken cancel)
    {
        (_network, _ends, _active, _cancel) = (network, ends, active, cancel);
        (_nodes, _parents) = (network.Nodes, network.Parents);
        _domains = [.. state];
        _savedAt = new int[_domains.Length];
        _queued = new ulong[(_domains.Length + 63) / 64];
        _narrowings = new int[_domains.Length];
        _weights = new double[network.Variables.Length];
        Preferred = new Assigned?[network.Variables.Length];
        _exactly = new(this);
    }

    private bool IsActive(int group) => group < 0 || _active is null || _active[group];

    public ref readonly Domain<T> this[int node] => ref _domains[node];
    public Domain<T>[] Snapshot() => [.. _domains];

    public VariableDomain Of(Variable variable)
    {
        ref readonly var domain = ref _domains[variable.Node];
        return new(domain.Kind, domain.Outcomes, domain.First, domain.Last, domain.Bits);
    }

    /// <summary>Imposes every active root and propagates everything once. False: no configuration at all.</summary>
    public bool Start()
    {
        foreach (var (node, allowed, group) in _network.Roots)
            if (IsActive(group) && !SetOutcomes(node, allowed))
                return Fail();
        for (var node = 0; node < _domains.Length; node++)
            Enqueue(node);
        return Propagate();
    }

    /// <summary>Ties among numbers of which all is decided.</summary>
    private sealed class Exactly(Solver<T> solver) : ExactNumbers(solver._network)
    {
        protected override Outcomes OutcomeOf(int node) => solver._domains[node] is { HasOneOutcome: true } domain ? domain.Outcomes : Outcomes.Impossible;

        protected override long IndexOf(int node)
        {
            ref readonly var domain = ref solver._domains[node];
            return domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) == 1 ? BitSet.First(domain.Bits!) : Undecided
                : domain.First == domain.Last ? domain.First : Undecided;
        }
    }

    /// <summary>The exact number of a node whose interval is narrow because it is decided.</summary>
    private bool IsDecided(int node, out Exact number)
    {
        ref readonly var domain = ref _domains[node];
        number = default;
        return T.IsNarrow(domain.Numbers.Low, domain.Numbers.High) && _exactly.TryGet(node, out number);
    }

    // ---- Levels -------------------------------------------------------------------------------------------------

    public void Push()
    {
        _levels.Add(_trail.Count);
        _level++;
    }

    public void Pop()
    {
        var mark = _levels[^1];
        _levels.RemoveAt(_levels.Count - 1);
        for (var i = _trail.Count - 1; i >= mark; i--)
            _domains[_trail[i].Node] = _trail[i].Before;
        _trail.RemoveRange(mark, _trail.Count - mark);
        _level++;   // never reused, so that stamps of undone levels do not count
        ClearQueue();
    }

    /// <summary>Makes the changes of the latest level part of the one below.</summary>
    private void Merge() => _levels.RemoveAt(_levels.Count - 1);

    private void Save(int node)
    {
        if (_savedAt[node] == _level)
            return;
        _savedAt[node] = _level;
        _trail.Add((node, _domains[node]));
    }

    private void ClearQueue()
    {
        if (_pending > 0)
            Array.Clear(_queued);
        _pending = 0;
    }

    private bool Fail()
    {
        ClearQueue();
        return false;
    }

    private void Enqueue(int node)
    {
        ref var word = ref _queued[node >> 6];
        var bit = 1UL << node;
        if ((word & bit) != 0)
            return;
        word |= bit;
        _pending++;
    }

    private void Changed(int node)
    {
        Enqueue(node);
        foreach (var parent in _parents[node])
            Enqueue(parent);
    }

    // ---- Narrowing ----------------------------------------------------------------------------------------------

    private bool SetOutcomes(int node, Outcomes keep)
    {
        var left = _domains[node].Outcomes & keep;
        if (left == _domains[node].Outcomes)
            return true;
        Save(node);
        _domains[node].Outcomes = left;
        Changed(node);
        return left != Outcomes.Impossible;
    }

    private bool SetBits(int node, ulong[] mask)
    {
        var bits = _domains[node].Bits!;
        if (BitSet.IsSubset(bits, mask))
            return true;
        var left = new ulong[bits.Length];
        var any = 0UL;
        for (var i = 0; i < bits.Length; i++)
            any |= left[i] = bits[i] & mask[i];
        Save(node);
        _domains[node].Bits = left;
        if (any == 0)
            return SetOutcomes(node, ~Outcomes.Present);
        Changed(node);
        return true;
    }

    /// <summary>After this many narrowings of one node in one propagation, bounds are left as they are: search is complete without them.</summary>
    private const int NarrowingLimit = 60;

    private bool SetBounds(int node, Interval<T> to, bool strictLow = false, bool strictHigh = false)
    {
        ref var domain = ref _domains[node];
        if (!domain.MayBePresent)
            return true;
        if (_nodes[node].Variable is { } variable)
            return SetSteps(node, FirstFrom(variable.Index, domain, to.Low, strictLow), LastUpTo(variable.Index, domain, to.High, strictHigh));
        var (low, high) = to.IsPoint ? (to.Low, to.High) : (T.Shorten(to.Low, up: false), T.Shorten(to.High, up: true));
        var (tighterLow, tighterHigh) = (low > domain.Numbers.Low, high < domain.Numbers.High);
        if (!tighterLow && !tighterHigh)
            return true;
        var numbers = new Interval<T>(tighterLow ? low : domain.Numbers.Low, tighterHigh ? high : domain.Numbers.High);
        if (numbers.Low > numbers.High)
            return SetOutcomes(node, ~Outcomes.Present);
        if (!numbers.IsPoint && ++_narrowings[node] > NarrowingLimit)
            return true;
        Save(node);
        domain.Numbers = numbers;
        Changed(node);
        return true;
    }

    private bool SetSteps(int node, long first, long last)
    {
        ref var domain = ref _domains[node];
        (first, last) = (Math.Max(first, domain.First), Math.Min(last, domain.Last));
        if (first == domain.First && last == domain.Last)
            return true;
        if (first > last)
            return SetOutcomes(node, ~Outcomes.Present);
        if (first != last && ++_narrowings[node] > NarrowingLimit)
            return true;
        Save(node);
        (domain.First, domain.Last, domain.Numbers) = (first, last, _ends.Between(_nodes[node].Variable!.Index, first, last));
        Changed(node);
        return true;
    }

    /// <summary>The first step that is not surely below a bound.</summary>
    private long FirstFrom(int variable, in Domain<T> domain, T low, bool strict)
    {
        if (low < domain.Numbers.Low || (low == domain.Numbers.Low && !strict))
            return domain.First;
        var step = Math.Max(domain.First, _ends.Near(variable, low) - 1);
        while (step <= domain.Last && (strict ? _ends.HighAt(variable, step) <= low : _ends.HighAt(variable, step) < low))
            step++;
        return step;
    }

    private long LastUpTo(int variable, in Domain<T> domain, T high, bool strict)
    {
        if (high > domain.Numbers.High || (high == domain.Numbers.High && !strict))
            return domain.Last;
        var step = Math.Min(domain.Last, _ends.Near(variable, high) + 2);
        while (step >= domain.First && (strict ? _ends.LowAt(variable, step) >= high : _ends.LowAt(variable, step) > high))
            step--;
        return step;
    }

    /// <summary>Narrows a variable to a domain, outcome by outcome.</summary>
    public bool Restrict(Variable variable, in VariableDomain to)
    {
        if (!SetOutcomes(variable.Node, to.Outcomes))
            return Fail();
        if (!to.MayBePresent || !_domains[variable.Node].MayBePresent)
            return true;
        return to.Kind switch
        {
            DomainKind.Number => SetSteps(variable.Node, to.First, to.Last),
            DomainKind.Choice => SetBits(variable.Node, to.Bits!),
            _ => true,
        } || Fail();
    }

    /// <summary>
    /// Revises until nothing changes. Nodes come after their children, so going round in their order evaluates each node
    /// once its children have settled.
    /// </summary>
    public bool Propagate()
    {
        Array.Clear(_narrowings);
        for (var word = 0; _pending > 0;)
        {
            if (_queued[word] == 0)
            {
                word = word + 1 == _queued.Length ? 0 : word + 1;
                continue;
            }
            var node = (word << 6) + BitOperations.TrailingZeroCount(_queued[word]);
            _queued[word] &= _queued[word] - 1;
            _pending--;
            if (_domains[node].Outcomes == Outcomes.Impossible || !Revise(node))
                return Fail();
        }
        return true;
    }
}
