using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>The positions of the trail that take part in a conflict; a bound counts as far as it is needed.</summary>
internal sealed class ConflictMarks(LiteralStore store)
{
    private bool[] _seen = new bool[256];
    private double[] _needed = new double[256];
    private readonly List<int> _marked = [];
    private bool _isProbing;

    /// <summary>Marked positions below the present level.</summary>
    public List<int> Below { get; } = [];

    /// <summary>How many positions of the present level are marked.</summary>
    public int OpenCount { get; private set; }

    public bool IsEmpty => _marked.Count == 0;
    public bool Has(int position) => position < _seen.Length && _seen[position];

    /// <summary>Of a probe: whether all that would have been marked is marked already.</summary>
    public bool IsCovered { get; private set; }

    /// <summary>From now on nothing is marked; <see cref="IsCovered"/> tells whether it would have been.</summary>
    public void StartProbe() => (_isProbing, IsCovered) = (true, true);

    public void EndProbe() => _isProbing = false;

    /// <summary>Makes a marked position of the present level one that is explained.</summary>
    public void Resolve(int position)
    {
        OpenCount--;
        _seen[position] = false;
    }

    public void Clear()
    {
        foreach (var position in _marked)
            _seen[position] = false;
        _marked.Clear();
        Below.Clear();
        OpenCount = 0;
    }

    public void Mark(int position)
    {
        if (Has(position) || store.Trail.LevelOf(position) == 0)
            return;
        if (_isProbing)
        {
            IsCovered = false;
            return;
        }
        Grow(position);
        _seen[position] = true;
        _marked.Add(position);
        Bump(position);
        if (store.Trail.LevelOf(position) == store.Trail.Level)
            OpenCount++;
        else
            Below.Add(position);
    }

    private void Grow(int position)
    {
        if (position < _seen.Length)
            return;
        Array.Resize(ref _seen, Math.Max(position + 1, _seen.Length * 2));
        Array.Resize(ref _needed, _seen.Length);
    }

    private void Bump(int position)
    {
        ref readonly var entry = ref store.Trail[position];
        var node = entry.Node;
        if (node < 0)
            node = store.Names.FirstMeaning(entry.Literal) is >= 0 and var meaning ? store.Names[meaning].Node : store.Bounds.Atoms.Of(entry.Literal).Node;
        if (node >= 0)
            store.Order.Bump(node);
    }

    public void MarkLiteral(int literal)
    {
        if (literal == LiteralNames.True)
            return;
        var at = store.PositionOf(literal);
        var reason = store.Trail[at].Reason;
        // The name of a bound that stood before it was named counts from where the bound stood.
        if (Antecedent.KindOf(reason) == Antecedent.Kind.Event && store.Trail.LevelOf(Antecedent.DataOf(reason)) < store.Trail.LevelOf(at)
            && store.Bounds.Atoms.Of(literal) is var atom)
            MarkBound(atom.Node, atom.Upper, atom.Bound, at);
        else
            Mark(at);
    }

    /// <summary>Marks the first event before a position that brought a bound at least as far as needed.</summary>
    public void MarkBound(int node, bool upper, double bound, int before)
    {
        var at = EventBefore(node, upper, before);
        while (at >= 0 && BoundLiterals.Entails(store.Trail[at].Before, bound, upper))
            at = store.Trail[at].Previous;
        if (at < 0)
            return;
        if (_isProbing)
        {
            if (Has(at) && !BoundLiterals.Entails(_needed[at], bound, upper))
                IsCovered = false;
            else
                Mark(at);
            return;
        }
        Grow(at);
        if (!_seen[at] || BoundLiterals.Entails(bound, _needed[at], upper))
            _needed[at] = bound;
        Mark(at);
    }

    /// <summary>Marks what brought a bound to where it was before a position.</summary>
    public void MarkBoundNow(int node, bool upper, int before)
    {
        if (EventBefore(node, upper, before) is >= 0 and var at)
            MarkBound(node, upper, store.Trail[at].Bound, before);
    }

    private int EventBefore(int node, bool upper, int before)
    {
        var at = store.Trail.LastEvent(node, upper);
        while (at >= before)
            at = store.Trail[at].Previous;
        return at;
    }

    /// <summary>Whether a literal was decided before a position.</summary>
    private bool StoodBefore(int literal, int before) => store.ValueOf(literal) != 0 && (literal <= LiteralNames.False || store.PositionOf(literal) < before);

    /// <summary>Marks everything known of a node before a position.</summary>
    public void MarkDomain(int node, int before)
    {
        MarkOutcomes(node, before);
        if (store.Domains[node].Kind == DomainKind.Choice)
            MarkValues(node, before);
        else if (store.Domains[node].Kind == DomainKind.Number)
        {
            MarkBoundNow(node, false, before);
            MarkBoundNow(node, true, before);
        }
    }

    /// <summary>Marks everything known of a node.</summary>
    public void MarkDomain(int node) => MarkDomain(node, store.Trail.Count);

    public void MarkOutcomes(int node, int before)
    {
        for (var o = 0; o < LiteralNames.OutcomeCount; o++)
            if (store.Names.Of(node, o) is var literal && store.IsTrue(literal) && StoodBefore(literal, before))
            {
                MarkLiteral(literal);
                return;
            }
        for (var o = 0; o < LiteralNames.OutcomeCount; o++)
            if (store.Names.Of(node, o) is var literal && store.IsFalse(literal) && literal != LiteralNames.False && StoodBefore(literal, before))
                MarkLiteral(LiteralNames.Negated(literal));
    }

    private void MarkValues(int node, int before)
    {
        var literals = store.Names.ValuesOf(node);
        foreach (var literal in literals)
            if (literal > LiteralNames.False && store.IsTrue(literal) && store.PositionOf(literal) < before)
            {
                MarkLiteral(literal);
                return;
            }
        foreach (var literal in literals)
            if (literal > LiteralNames.False && store.IsFalse(literal) && store.PositionOf(literal) < before)
                MarkLiteral(LiteralNames.Negated(literal));
    }

    /// <summary>Marks that a group holds, where it does.</summary>
    public void MarkGroup(int group)
    {
        if (group >= 0 && store.IsTrue(store.Groups[group]))
            MarkLiteral(store.Groups[group]);
    }

    /// <summary>What a marked position says, as far as it is needed.</summary>
    public Fact FactAt(int position) => store.Trail[position] is var entry
        && !entry.IsBound ? Fact.Of(entry.Literal) : new Fact(-1, entry.Node, entry.IsUpper, _needed[position]);
}
