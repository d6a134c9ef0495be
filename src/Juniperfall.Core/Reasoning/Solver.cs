using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning;

/// <summary>Thrown inside a search that ran out of time or was cancelled; never leaves the reasoning.</summary>
internal sealed class SearchInterrupted : Exception;

/// <summary>
/// Domains, trail, propagation and search over one network. Numbers are narrowed as intervals with exact ends by forward
/// and backward interval evaluation (HC4: Benhamou, Goualard, Granvilliers, Puget, “Revising hull and box consistency”,
/// 1999); choices as sets of values. Search is complete over the finite domains of the variables, so that what is
/// left when all variables are fixed is exact whatever propagation missed. Variables are chosen by domain size over
/// failures (Boussemart, Hemery, Lecoutre, Sais, “Boosting systematic search by weighting constraints”, 2004).
/// One solver serves one thread.
/// </summary>
internal sealed partial class Solver
{
    private readonly Network _network;
    private readonly Domain[] _domains;
    private readonly List<(int Node, Domain Before)> _trail = [];
    private readonly List<int> _levels = [];
    private readonly int[] _savedAt;
    private readonly bool[] _queued;
    private int _pending;
    private readonly int[] _narrowings;
    private readonly bool[] _active;
    private readonly double[] _weights;
    private readonly CancellationToken _cancel;
    private int _level;

    /// <summary>The value tried first for each variable; null where there is no preference.</summary>
    public Assigned?[] Preferred { get; }

    public Network Network => _network;

    /// <param name="active">Which groups hold; all where null.</param>
    public Solver(Network network, bool[]? active, CancellationToken cancel)
    {
        _network = network;
        _cancel = cancel;
        _domains = [.. network.Initial];
        _savedAt = new int[_domains.Length];
        _queued = new bool[_domains.Length];
        _narrowings = new int[_domains.Length];
        _weights = new double[network.Variables.Length];
        Preferred = new Assigned?[network.Variables.Length];
        _active = active ?? [.. Enumerable.Repeat(true, network.Groups.Length)];
    }

    /// <summary>A solver that starts from an already propagated state with all groups active.</summary>
    public Solver(Network network, Domain[] state, CancellationToken cancel) : this(network, (bool[]?)null, cancel) =>
        Array.Copy(state, _domains, state.Length);

    public ref readonly Domain this[int node] => ref _domains[node];
    public Domain[] Snapshot() => [.. _domains];

    /// <summary>Imposes every active root and propagates everything once. False: no configuration at all.</summary>
    public bool Start()
    {
        foreach (var (node, allowed, group) in _network.Roots)
            if ((group < 0 || _active[group]) && !SetOutcomes(node, allowed))
                return Fail();
        for (var node = 0; node < _domains.Length; node++)
            Enqueue(node);
        return Propagate();
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
        if (_queued[node])
            return;
        _queued[node] = true;
        _pending++;
    }

    private void Changed(int node)
    {
        Enqueue(node);
        foreach (var parent in _network.Parents[node])
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

    private bool SetBounds(int node, Exact? low, Exact? high, bool strictLow = false, bool strictHigh = false)
    {
        ref var domain = ref _domains[node];
        if ((domain.Outcomes & Outcomes.Present) == 0)
            return true;
        if (_network.Nodes[node].Variable is { } variable)
        {
            if (low is { } l)
                low = OnGrid(variable, l, up: true, strictLow);
            if (high is { } h)
                high = OnGrid(variable, h, up: false, strictHigh);
        }
        else if (low != high)
            (low, high) = (Outward(low, up: false), Outward(high, up: true));
        var tighterLow = low is not null && (domain.Low is null || low > domain.Low);
        var tighterHigh = high is not null && (domain.High is null || high < domain.High);
        if (!tighterLow && !tighterHigh)
            return true;
        var (newLow, newHigh) = (tighterLow ? low : domain.Low, tighterHigh ? high : domain.High);
        if (newLow > newHigh)
            return SetOutcomes(node, ~Outcomes.Present);
        if (newLow != newHigh && ++_narrowings[node] > NarrowingLimit)
            return true;
        Save(node);
        domain.Low = newLow;
        domain.High = newHigh;
        Changed(node);
        return true;
    }

    private static Exact OnGrid(Variable variable, Exact bound, bool up, bool strict)
    {
        var steps = (bound - variable.Origin) / variable.Step;
        var whole = up ? steps.Ceiling() : steps.Floor();
        if (strict && whole == steps)
            whole += up ? 1 : -1;
        return variable.Origin + whole * variable.Step;
    }

    private static readonly Exact Fine = Exact.Parse("1000000000");

    /// <summary>Keeps interval ends of computed numbers short. Rounding away from the interval only weakens it.</summary>
    private static Exact? Outward(Exact? bound, bool up) =>
        bound is { IsLong: true } b ? (up ? (b * Fine).Ceiling() : (b * Fine).Floor()) / Fine : bound;

    /// <summary>Narrows a node to a domain of the same kind, outcome by outcome.</summary>
    public bool Restrict(int node, in Domain to)
    {
        if (!SetOutcomes(node, to.Outcomes))
            return Fail();
        if ((to.Outcomes & Outcomes.Present) != 0 && (_domains[node].Outcomes & Outcomes.Present) != 0)
        {
            if (to.Kind == DomainKind.Number ? !SetBounds(node, to.Low, to.High) : to.Kind == DomainKind.Choice && !SetBits(node, to.Bits!))
                return Fail();
        }
        return true;
    }

    /// <summary>
    /// Revises until nothing changes. Nodes come after their children, so going round in their order evaluates each node
    /// once its children have settled.
    /// </summary>
    public bool Propagate()
    {
        Array.Clear(_narrowings);
        for (var node = 0; _pending > 0; node = node + 1 == _queued.Length ? 0 : node + 1)
        {
            if (!_queued[node])
                continue;
            _queued[node] = false;
            _pending--;
            if (_domains[node].Outcomes == Outcomes.Impossible || !Revise(node))
                return Fail();
        }
        return true;
    }

    // ---- Search -------------------------------------------------------------------------------------------------

    /// <summary>How many dead ends a search near a known solution may meet before the complete search takes over.</summary>
    private const int NearbyDeadEnds = 20;
    private int _deadEndsLeft = int.MaxValue;

    /// <summary>
    /// As <see cref="Search"/>, but first takes over as much of the preferred values as goes together, in halves that are
    /// propagated at once: near a known solution that decides most variables in a few steps.
    /// </summary>
    public bool SearchNear()
    {
        if (Choose() is null)
            return true;
        Push();
        TakePreferred(0, _network.Variables.Length);
        _deadEndsLeft = NearbyDeadEnds;
        var found = Search();
        _deadEndsLeft = int.MaxValue;
        if (found)
        {
            _levels.RemoveAt(_levels.Count - 1);
            return true;
        }
        Pop();
        return Search();
    }

    private void TakePreferred(int from, int to)
    {
        Push();
        var stands = true;
        for (var i = from; i < to && stands; i++)
        {
            var variable = _network.Variables[i];
            if (Preferred[i] is { } wanted && Allows(variable, wanted))
                stands = Restrict(variable.Node, DomainOf(variable, wanted));
        }
        if (stands && Propagate())
        {
            _levels.RemoveAt(_levels.Count - 1);
            return;
        }
        Pop();
        if (to - from == 1)
            return;
        var middle = (from + to) / 2;
        TakePreferred(from, middle);
        TakePreferred(middle, to);
    }

    public bool Allows(Variable variable, in Assigned value)
    {
        ref readonly var domain = ref _domains[variable.Node];
        return (domain.Outcomes & value.Outcome) != 0 && (value.Outcome != Outcomes.Present
            || (domain.Kind == DomainKind.Choice ? BitSet.Has(domain.Bits!, value.Index) : value.Number >= domain.Low && value.Number <= domain.High));
    }

    /// <summary>
    /// Finds a complete configuration within the present domains. True: the domains are points of a solution until the
    /// level is popped. False: there is none.
    /// </summary>
    public bool Search()
    {
        CheckCancelled();
        if (Choose() is not { } variable)
            return true;   // a node over points is a point, so that every root has been decided exactly
        var node = variable.Node;
        foreach (var branch in Branches(variable))
        {
            Push();
            if (Restrict(node, branch) && Propagate() && Search())
            {
                _levels.RemoveAt(_levels.Count - 1);   // merge into the level below: the caller undoes the whole solution
                return true;
            }
            Pop();
            _weights[variable.Index]++;
            if (--_deadEndsLeft < 0)
                return false;
        }
        return false;
    }

    private int _steps;

    private void CheckCancelled()
    {
        if ((++_steps & 15) == 0 && _cancel.IsCancellationRequested)
            throw new SearchInterrupted();
    }

    private Variable? Choose()
    {
        Variable? best = null;
        var bestScore = double.MaxValue;
        foreach (var variable in _network.Variables)
        {
            ref readonly var domain = ref _domains[variable.Node];
            if (domain.IsPoint)
                continue;
            var score = SizeOf(variable, domain) / (1 + _weights[variable.Index]);
            if (score < bestScore)
                (best, bestScore) = (variable, score);
        }
        return best;
    }

    private static double SizeOf(Variable variable, in Domain domain)
    {
        double size = System.Numerics.BitOperations.PopCount((uint)(domain.Outcomes & ~Outcomes.Present));
        if ((domain.Outcomes & Outcomes.Present) != 0)
            size += domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) : variable.CountOf(domain);
        return size;
    }

    /// <summary>Splits a domain into disjoint parts, the preferred value first.</summary>
    private List<Domain> Branches(Variable variable)
    {
        var domain = _domains[variable.Node];
        var branches = new List<Domain>(4);
        if ((domain.Outcomes & Outcomes.Present) != 0)
        {
            if (domain.Kind == DomainKind.Number)
            {
                var (low, high) = (domain.Low!.Value, domain.High!.Value);
                var pick = Preferred[variable.Index] is { Outcome: Outcomes.Present } p && p.Number >= low && p.Number <= high ? p.Number : low;
                branches.Add(Domain.Number(pick, pick));
                if (pick > low)
                    branches.Add(Domain.Number(low, pick - variable.Step));
                if (pick < high)
                    branches.Add(Domain.Number(pick + variable.Step, high));
            }
            else
            {
                var first = Preferred[variable.Index] is { Outcome: Outcomes.Present } p && BitSet.Has(domain.Bits!, p.Index) ? p.Index : BitSet.First(domain.Bits!);
                var rest = (ulong[])domain.Bits!.Clone();
                rest[first >> 6] &= ~(1UL << first);
                branches.Add(Domain.Choice(BitSet.Single(domain.Bits.Length << 6, first)));
                if (BitSet.First(rest) >= 0)
                    branches.Add(Domain.Choice(rest));
            }
        }
        foreach (var outcome in new[] { Outcomes.False, Outcomes.True, Outcomes.None, Outcomes.Absent })
            if ((domain.Outcomes & outcome) != 0)
                branches.Add(new() { Kind = domain.Kind, Outcomes = outcome, Low = domain.Low, High = domain.High, Bits = domain.Bits });
        if (Preferred[variable.Index] is { } wanted && branches.FindIndex(b => b.Outcomes == wanted.Outcome) is var at and > 0)
        {
            var moved = branches[at];
            branches.RemoveAt(at);
            branches.Insert(0, moved);
        }
        return branches;
    }

    /// <summary>The value that a variable has when its domain is a point.</summary>
    public Assigned ValueOf(Variable variable)
    {
        ref readonly var domain = ref _domains[variable.Node];
        return new(domain.Outcomes, domain.Kind == DomainKind.Number && domain.Outcomes == Outcomes.Present ? domain.Low!.Value : Exact.Zero,
            domain.Kind == DomainKind.Choice && domain.Outcomes == Outcomes.Present ? BitSet.First(domain.Bits!) : -1);
    }

    public Assigned[] Solution() => [.. _network.Variables.Select(v => ValueOf(v))];

    public Domain DomainOf(Variable variable, in Assigned value) => new()
    {
        Kind = _domains[variable.Node].Kind,
        Outcomes = value.Outcome,
        Low = value.Number,
        High = value.Number,
        Bits = value.Index >= 0 ? BitSet.Single(variable.List!.Values.Length, value.Index) : _network.Initial[variable.Node].Bits,
    };
}

/// <summary>The value of one variable: absent, none, yes, no, a number (base units) or the index of a value in its list.</summary>
internal readonly record struct Assigned(Outcomes Outcome, Exact Number, int Index);
