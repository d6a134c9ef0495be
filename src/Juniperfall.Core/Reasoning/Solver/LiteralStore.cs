using System.Numerics;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Propagation;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Literals of the outcomes and values of nodes, kept in step with the domains that the propagators read (lazy clause generation:
/// Ohrimenko, Stuckey and Codish, “Propagation via lazy clause generation”, 2009; Feydy and Stuckey, “Lazy clause generation
/// reengineered”, 2009). All that becomes true stands on the trail with its antecedent.
/// </summary>
internal sealed class LiteralStore : DomainStore<DoubleEnd>
{
    private sbyte[] _values;
    private int[] _positions;

    public LiteralStore(Network network, Domain<DoubleEnd>[] state, GroupsHold groups) : base(network, network.InDoubles, state)
    {
        (_values, _positions) = (new sbyte[256], new int[128]);
        (_values[LiteralNames.True], _values[LiteralNames.False]) = (1, -1);
        (Trail, Names, Groups, Order) = (new(Nodes.Length), new(Nodes.Length), new(network, groups), new(network));
        Bounds = new(this, new(Nodes.Length));
    }

    /// <summary>A copy of a store in which nothing was decided yet. What is written once and for all is shared.</summary>
    /// <param name="spent">An earlier copy that is not used any more.</param>
    public LiteralStore(LiteralStore of, LiteralStore? spent) : base(of, spent)
    {
        (Names, Groups, Order) = (of.Names, of.Groups, new(of.Order));
        (_values, _positions) = (ReusedArrays.Copied(of._values, spent?._values), ReusedArrays.Copied(of._positions, spent?._positions));
        (VariableCount, Trail) = (of.VariableCount, new(of.Trail, spent?.Trail));
        Bounds = new(this, new(of.Bounds.Atoms, spent?.Bounds.Atoms));
    }

    public Trail Trail { get; }
    public LiteralNames Names { get; }
    public GroupActivation Groups { get; }
    public BoundLiterals Bounds { get; }
    public VariableOrder Order { get; }

    /// <summary>How many variables of literals there are, true among them.</summary>
    public int VariableCount { get; private set; } = 1;

    /// <summary>What led to the conflict at hand, and the literal that was true against it.</summary>
    public (long Reason, int Literal) Conflict { get; private set; }

    /// <summary>Above zero for a literal that is true, below for one that is false, zero where it is open.</summary>
    public sbyte ValueOf(int literal) => _values[literal];

    public bool IsTrue(int literal) => _values[literal] > 0;
    public bool IsFalse(int literal) => _values[literal] < 0;

    /// <summary>Where on the trail a literal that is decided, or its negation, stands.</summary>
    public int PositionOf(int literal) => _positions[literal >> 1];

    /// <summary>Room for so many literals in arrays by literal.</summary>
    public int LiteralCapacity => _values.Length;

    public int NewLiteral()
    {
        var variable = VariableCount++;
        if (variable * 2 + 1 >= _values.Length)
        {
            Array.Resize(ref _values, _values.Length * 2);
            Array.Resize(ref _positions, _values.Length / 2);
        }
        return variable * 2;
    }

    // ---- Assigning ----------------------------------------------------------------------------------------------

    /// <summary>Makes a literal true, with all that its nodes' domains make of that at once. False: it is false already.</summary>
    public bool Assign(int literal, long reason)
    {
        if (_values[literal] != 0)
            return _values[literal] > 0 || Contradict(reason, LiteralNames.Negated(literal));
        (_values[literal], _values[LiteralNames.Negated(literal)]) = (1, -1);
        _positions[literal >> 1] = Trail.Count;
        Trail.PushLiteral(literal, reason);
        for (var m = Names.FirstMeaning(literal); m >= 0; m = Names[m].Next)
            if (!TakeEffect(Names[m], literal))
                return false;
        return true;
    }

    /// <summary>Something true stands against what a reason leads to.</summary>
    private bool Contradict(long reason, int literal)
    {
        Conflict = (reason, literal);
        return false;
    }

    private bool TakeEffect(in Meaning meaning, int literal)
    {
        var node = meaning.Node;
        ref var domain = ref Domains[node];
        if (meaning.Removes != 0)
        {
            domain.Outcomes &= ~meaning.Removes;
            if (domain.HasOneOutcome && domain.Outcomes != 0 && !Assign(Names.Of(node, domain.Outcomes), Antecedent.Others(node)))
                return false;
        }
        if (meaning.RemovesValue >= 0)
            domain.Bits![meaning.RemovesValue >> 6] &= ~(1UL << meaning.RemovesValue);
        Queue.Changed(node);
        for (var others = domain.Outcomes & ~meaning.Is; meaning.Is != 0 && others != 0; others &= others - 1)
            if (!Assign(LiteralNames.Negated(Names.Of(node, others & ~(others - 1))), Antecedent.ByLiteral(literal)))
                return false;
        if (domain.Kind != DomainKind.Choice)
            return meaning.Is != Outcomes.Present || domain.Kind != DomainKind.Number || Bounds.RuleOutCrossed(node);
        if (meaning.IsValue >= 0)
            return Assign(Names.Of(node, Outcomes.Present), Antecedent.ByLiteral(literal)) && RuleOutValues(node, meaning.IsValue, literal);
        if ((meaning.Removes & Outcomes.Present) != 0)
            return RuleOutValues(node, -1, literal);
        if (meaning.RemovesValue < 0 && meaning.Is != Outcomes.Present)
            return true;
        var count = BitSet.Count(domain.Bits!);
        if (count == 0)
            return Assign(LiteralNames.Negated(Names.Of(node, Outcomes.Present)), Antecedent.OtherValues(node));
        return count > 1 || !IsTrue(Names.Of(node, Outcomes.Present)) || Assign(Names.ValuesOf(node)[BitSet.First(domain.Bits!)], Antecedent.OtherValues(node));
    }

    private bool RuleOutValues(int node, int except, int literal)
    {
        var (bits, literals) = (Domains[node].Bits!, Names.ValuesOf(node));
        for (var w = 0; w < bits.Length; w++)
            for (var word = bits[w]; word != 0; word &= word - 1)
            {
                var value = (w << 6) + BitOperations.TrailingZeroCount(word);
                if (value != except && literals[value] != LiteralNames.Negated(literal)
                    && !Assign(LiteralNames.Negated(literals[value]), Antecedent.ByLiteral(literal)))
                    return false;
            }
        return true;
    }

    /// <summary>Channelling: what the literal of a bound or of a group brings about, once it stands on the trail. False: a conflict.</summary>
    public bool Channel(int literal)
    {
        if (Bounds.Atoms.Of(literal) is { Node: >= 0 } atom)
            return Bounds.Channel(literal, atom);
        return (literal & 1) != 0 || Groups.GroupOf(literal) is not (>= 0 and var group) || Activate(group, literal);
    }

    private bool Activate(int group, int literal)
    {
        foreach (var (node, allowed) in Groups.RootsOf(group))
            for (var removed = Domains[node].Outcomes & ~allowed; removed != 0; removed &= removed - 1)
                if (!Assign(LiteralNames.Negated(Names.Of(node, removed & ~(removed - 1))), Antecedent.ByLiteral(literal)))
                    return false;
        foreach (var node in Groups.WokenBy(group))
            Queue.Enqueue(node);
        return true;
    }

    // ---- Undoing ------------------------------------------------------------------------------------------------

    /// <summary>Undoes all decisions above a level.</summary>
    public void GoBackTo(int level)
    {
        Queue.Reviser = -1;
        if (Trail.Level <= level)
            return;
        Queue.Clear();
        var start = Trail.StartAbove(level);
        for (var at = Trail.Count - 1; at >= start; at--)
            Undo(Trail[at]);
        Trail.CutTo(level);
        // What was not yet propagated then is still to be.
        for (var at = Trail.Settled; at < start; at++)
            Touch(Trail[at]);
        Trail.Settled = Math.Min(Trail.Settled, start);
        Bounds.RestoreLate();
    }

    private void Touch(in Trail.Entry entry)
    {
        if (entry.IsBound)
            Queue.Changed(entry.Node);
        else
            for (var m = Names.FirstMeaning(entry.Literal); m >= 0; m = Names[m].Next)
                Queue.Changed(Names[m].Node);
    }

    private void Undo(in Trail.Entry entry)
    {
        if (entry.IsBound)
        {
            Bounds.Set(entry.Node, entry.IsUpper, entry.Before);
            Trail.UndoEvent(entry);
            Order.Reopen(entry.Node);
            return;
        }
        (_values[entry.Literal], _values[LiteralNames.Negated(entry.Literal)]) = (0, 0);
        for (var m = Names.FirstMeaning(entry.Literal); m >= 0; m = Names[m].Next)
        {
            ref readonly var meaning = ref Names[m];
            Domains[meaning.Node].Outcomes |= meaning.Removes;
            if (meaning.RemovesValue >= 0)
                BitSet.Set(Domains[meaning.Node].Bits!, meaning.RemovesValue);
            Order.Reopen(meaning.Node);
        }
    }

    // ---- What propagators find ----------------------------------------------------------------------------------

    public override bool IsActive(int group) => group < 0 || IsTrue(Groups[group]);

    private long Revised => Antecedent.Revised(Queue.Reviser, UsedExactNumbers);

    public override bool SetOutcomes(int node, Outcomes keep)
    {
        for (var removed = Domains[node].Outcomes & ~keep; removed != 0; removed &= removed - 1)
            if (!Assign(LiteralNames.Negated(Names.Of(node, removed & ~(removed - 1))), Revised))
                return false;
        return true;
    }

    public override bool SetBits(int node, ulong[] mask)
    {
        var (bits, literals) = (Domains[node].Bits!, Names.ValuesOf(node));
        for (var w = 0; w < bits.Length; w++)
            for (var word = bits[w] & ~mask[w]; word != 0; word &= word - 1)
                if (!Assign(LiteralNames.Negated(literals[(w << 6) + BitOperations.TrailingZeroCount(word)]), Revised))
                    return false;
        return true;
    }

    protected override bool Narrow(int node, Interval<DoubleEnd> numbers)
    {
        var now = Domains[node].Numbers;
        return (numbers.Low == now.Low || Bounds.Assign(node, false, numbers.Low.ToDouble(), Revised))
            && (numbers.High == now.High || Bounds.Assign(node, true, numbers.High.ToDouble(), Revised));
    }

    protected override bool Narrow(int node, long first, long last)
    {
        ref readonly var domain = ref Domains[node];
        var (sameFirst, sameLast) = (first == domain.First, last == domain.Last);
        return (sameFirst || Bounds.Assign(node, false, first, Revised)) && (sameLast || Bounds.Assign(node, true, last, Revised));
    }
}
