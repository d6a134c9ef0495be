using System.Numerics;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// The domains of a network and their narrowing to a fixed point (Mackworth, “Consistency in networks of relations”, 1977),
/// with bounds as in Lhomme (“Consistency techniques for numeric CSPs”, 1993). Nothing that a solution has is ever removed;
/// ties that interval ends leave are decided exactly once what they stem from is decided. All groups hold and nothing is
/// undone here; <see cref="Search"/> adds levels, reasons and groups that may be left out.
/// </summary>
internal partial class Propagation<T> where T : struct, IEnd<T>
{
    protected readonly Network _network;
    protected readonly NetworkEnds<T> _ends;
    protected readonly Node[] _nodes;
    private int[][] _parents;
    protected readonly Domain<T>[] _domains;
    private readonly ulong[] _queued;
    private int _pending;
    private int _word;
    private readonly long[] _narrowings;
    private long _round;
    private readonly bool _withGroups;
    private readonly Exactly _exactly;

    /// <summary>Whether the propagator at work has decided something by exact numbers, so by all that these stem from.</summary>
    protected bool _byExactNumbers;

    /// <param name="state">The domains to start from; they are not changed.</param>
    /// <param name="withGroups">Whether what belongs to a group holds.</param>
    public Propagation(Network network, NetworkEnds<T> ends, Domain<T>[] state, bool withGroups = true)
    {
        (_network, _ends, _withGroups) = (network, ends, withGroups);
        (_nodes, _parents) = (network.Nodes, network.Parents);
        _domains = [.. state];
        _queued = new ulong[(_domains.Length + 63) / 64];
        _narrowings = new long[_domains.Length];
        _residues = new int[]?[]?[_domains.Length];
        _unions = new Union[]?[_domains.Length];
        _isSettledByOthers = [.. _nodes.Select(n => n.Operator is Operator.Variable or Operator.Constant)];
        _exactly = new(this);
    }

    /// <summary>A copy with domains of its own, of one that nothing has been asked of yet.</summary>
    /// <param name="spent">An earlier copy that is not used any more: its arrays are.</param>
    protected Propagation(Propagation<T> of, Propagation<T>? spent)
    {
        (_network, _ends, _nodes, _parents, _withGroups, _isSettledByOthers) = (of._network, of._ends, of._nodes, of._parents, of._withGroups, of._isSettledByOthers);
        _domains = spent?._domains ?? new Domain<T>[of._domains.Length];
        for (var n = 0; n < _domains.Length; n++)
        {
            var bits = _domains[n].Bits;
            _domains[n] = of._domains[n];
            if (_domains[n].Bits is { } own)
                _domains[n].Bits = Copied(own, bits);
        }
        (_queued, _narrowings) = (Copied(of._queued, spent?._queued), Copied(of._narrowings, spent?._narrowings));
        (_pending, _word, _round) = (of._pending, of._word, of._round);
        // What these hold is found from domains and tested before it is used.
        (_residues, _unions) = (spent?._residues ?? new int[]?[]?[_domains.Length], spent?._unions ?? new Union[]?[_domains.Length]);
        _exactly = new(this);
    }

    /// <summary>A copy of an array, in another one that is not used any more where that has room.</summary>
    protected static TItem[] Copied<TItem>(TItem[] from, TItem[]? into)
    {
        if (into is null || into.Length < from.Length)
            return [.. from];
        from.CopyTo(into, 0);
        Array.Clear(into, from.Length, into.Length - from.Length);
        return into;
    }

    /// <summary>An empty array, which is one that is not used any more where that has room.</summary>
    protected static TItem[] Cleared<TItem>(int length, TItem[]? into)
    {
        if (into is null || into.Length < length)
            return new TItem[length];
        Array.Clear(into);
        return into;
    }

    protected virtual bool IsActive(int group) => group < 0 || _withGroups;

    public ref readonly Domain<T> this[int node] => ref _domains[node];
    public Domain<T>[] Snapshot() => [.. _domains];

    public VariableDomain Of(Variable variable)
    {
        ref readonly var domain = ref _domains[variable.Node];
        return new(domain.Kind, domain.Outcomes, domain.First, domain.Last, domain.Bits);
    }

    /// <summary>Imposes every root and propagates everything once. False: no configuration at all.</summary>
    /// <exception cref="OperationCanceledException">Cancelled; nothing of it is to be used then.</exception>
    public bool Start(CancellationToken cancel = default)
    {
        _cancel = cancel;
        foreach (var (node, allowed, group) in _network.Roots)
            if (IsActive(group) && !SetOutcomes(node, allowed))
                return false;
        for (var node = 0; node < _domains.Length; node++)
            Enqueue(node);
        var isPossible = Propagate();
        _cancel = default;
        return isPossible;
    }

    /// <summary>Of the first round; what a search does in between is cancelled between its decisions.</summary>
    private CancellationToken _cancel;

    /// <summary>Propagates everything once without imposing any root: each node is what its variables make of it.</summary>
    public bool Evaluate()
    {
        for (var node = 0; node < _domains.Length; node++)
            Enqueue(node);
        return Propagate();
    }

    /// <summary>Ties among numbers of which all is decided.</summary>
    private sealed class Exactly(Propagation<T> propagation) : ExactNumbers(propagation._network)
    {
        protected override Outcomes OutcomeOf(int node) => propagation._domains[node] is { HasOneOutcome: true } domain ? domain.Outcomes : Outcomes.Impossible;

        protected override long IndexOf(int node)
        {
            ref readonly var domain = ref propagation._domains[node];
            return domain.Kind == DomainKind.Choice ? BitSet.Count(domain.Bits!) == 1 ? BitSet.First(domain.Bits!) : Undecided
                : domain.First == domain.Last ? domain.First : Undecided;
        }
    }

    /// <summary>The exact number of a node; false where something that it stems from is still open.</summary>
    protected bool IsKnown(int node, out Exact number)
    {
        if (!_exactly.TryGet(node, out number))
            return false;
        _byExactNumbers = true;
        return true;
    }

    /// <summary>The exact number of a node whose interval is narrow because it is decided.</summary>
    protected bool IsDecided(int node, out Exact number)
    {
        ref readonly var domain = ref _domains[node];
        number = default;
        return T.IsNarrow(domain.Numbers.Low, domain.Numbers.High) && IsKnown(node, out number);
    }

    // ---- Queue --------------------------------------------------------------------------------------------------

    protected void ClearQueue()
    {
        if (_pending > 0)
            Array.Clear(_queued);
        _pending = 0;
    }

    protected void Enqueue(int node)
    {
        ref var word = ref _queued[node >> 6];
        var bit = 1UL << node;
        if ((word & bit) != 0)
            return;
        word |= bit;
        _pending++;
    }

    /// <summary>Nodes that need no revising, because something else keeps them as they are to be.</summary>
    protected readonly bool[] _isSettledByOthers;

    /// <summary>
    /// The node at work: what it makes of itself is no cause to revise it again. −1 outside of revising.
    /// </summary>
    protected int _reviser = -1;

    protected void Changed(int node)
    {
        if (node != _reviser && !_isSettledByOthers[node])
            Enqueue(node);
        foreach (var parent in _parents[node])
            if (!_isSettledByOthers[parent])
                Enqueue(parent);
    }

    /// <summary>From now on only what needs revising is looked at, when one of its children changes.</summary>
    protected void ForgetSettled() =>
        _parents = [.. _parents.Select(parents => Array.Exists(parents, p => _isSettledByOthers[p]) ? Array.FindAll(parents, p => !_isSettledByOthers[p]) : parents)];

    /// <summary>
    /// Takes the next node to revise. Nodes come after their children, so going round in their order evaluates each node once
    /// its children have settled.
    /// </summary>
    protected bool TryDequeue(out int node)
    {
        node = -1;
        if (_pending == 0)
            return false;
        while (_queued[_word] == 0)
            _word = _word + 1 == _queued.Length ? 0 : _word + 1;
        node = (_word << 6) + BitOperations.TrailingZeroCount(_queued[_word]);
        _queued[_word] &= _queued[_word] - 1;
        _pending--;
        return true;
    }

    protected void StartRound()
    {
        _round++;
        _word = 0;
    }

    /// <summary>After this many narrowings of one node in one round, bounds are left as they are: search is complete without them.</summary>
    private const int NarrowingLimit = 60;

    private readonly List<int> _refused = [];

    /// <summary>Takes up what rounds before have left as it was. False: there is nothing such.</summary>
    protected bool TakeUpRefused()
    {
        foreach (var node in _refused)
            Changed(node);
        var any = _refused.Count > 0;
        _refused.Clear();
        return any;
    }

    private bool IsNarrowedEnough(int node)
    {
        var first = _round << 8;
        ref var narrowings = ref _narrowings[node];
        if (narrowings < first)
            narrowings = first;
        if (narrowings - first > NarrowingLimit)
            return true;
        if (++narrowings - first <= NarrowingLimit)
            return false;
        _refused.Add(node);
        return true;
    }

    /// <summary>Revises until nothing changes. False: nothing is left.</summary>
    public bool Propagate()
    {
        StartRound();
        while (TryDequeue(out var node))
        {
            _reviser = node;
            _cancel.ThrowIfCancellationRequested();
            if (_domains[node].Outcomes == Outcomes.Impossible || !Revise(node))
            {
                ClearQueue();
                return false;
            }
        }
        _reviser = -1;
        return true;
    }

    // ---- Narrowing ----------------------------------------------------------------------------------------------

    protected virtual bool SetOutcomes(int node, Outcomes keep)
    {
        var left = _domains[node].Outcomes & keep;
        if (left == _domains[node].Outcomes)
            return true;
        _domains[node].Outcomes = left;
        Changed(node);
        return left != Outcomes.Impossible;
    }

    protected virtual bool SetBits(int node, ulong[] mask)
    {
        var bits = _domains[node].Bits!;
        if (BitSet.IsSubset(bits, mask))
            return true;
        var left = new ulong[bits.Length];
        var any = 0UL;
        for (var i = 0; i < bits.Length; i++)
            any |= left[i] = bits[i] & mask[i];
        _domains[node].Bits = left;
        if (any == 0)
            return SetOutcomes(node, ~Outcomes.Present);
        Changed(node);
        return true;
    }

    /// <summary>Takes over tighter bounds of a computed number.</summary>
    protected virtual bool Narrow(int node, Interval<T> numbers)
    {
        _domains[node].Numbers = numbers;
        Changed(node);
        return true;
    }

    /// <summary>Takes over tighter bounds of an asked number.</summary>
    protected virtual bool Narrow(int node, long first, long last)
    {
        ref var domain = ref _domains[node];
        (domain.First, domain.Last, domain.Numbers) = (first, last, _ends.Between(_nodes[node].Variable!.Index, first, last));
        Changed(node);
        return true;
    }

    protected bool SetBounds(int node, Interval<T> to, bool strictLow = false, bool strictHigh = false)
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
        return (!numbers.IsPoint && IsNarrowedEnough(node)) || Narrow(node, numbers);
    }

    protected bool SetSteps(int node, long first, long last)
    {
        ref var domain = ref _domains[node];
        (first, last) = (Math.Max(first, domain.First), Math.Min(last, domain.Last));
        if (first == domain.First && last == domain.Last)
            return true;
        if (first > last)
            return SetOutcomes(node, ~Outcomes.Present);
        return (first != last && IsNarrowedEnough(node)) || Narrow(node, first, last);
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
            return false;
        if (!to.MayBePresent || !_domains[variable.Node].MayBePresent)
            return true;
        return to.Kind switch
        {
            DomainKind.Number => SetSteps(variable.Node, to.First, to.Last),
            DomainKind.Choice => SetBits(variable.Node, to.Bits!),
            _ => true,
        };
    }
}
