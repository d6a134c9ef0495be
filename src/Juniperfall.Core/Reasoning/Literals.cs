using System.Numerics;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// What is true of a solution, in a form that can be assumed: a literal, or a bound of a number. The bound of an asked
/// number is a step, that of a computed one a number; it says “does not apply, or lies at or beyond it”.
/// </summary>
internal readonly record struct Fact(int Literal, int Node, bool Upper, double Bound)
{
    public static Fact Of(int literal) => new(literal, -1, false, 0);
    public static Fact AtLeast(int node, double bound) => new(-1, node, false, bound);
    public static Fact AtMost(int node, double bound) => new(-1, node, true, bound);
    public bool IsBound => Literal < 0;
}

/// <summary>
/// Literals of the outcomes and values of nodes, kept in step with the domains that the propagators read. A literal is twice
/// its variable, odd where it is negated; variable 0 is true. Bounds of numbers are events on the trail and become literals
/// only where a learned clause names them (lazy clause generation: Ohrimenko, Stuckey and Codish, “Propagation via lazy clause
/// generation”, 2009; Feydy and Stuckey, “Lazy clause generation reengineered”, 2009).
/// </summary>
internal sealed partial class Search
{
    private const int True = 0, False = 1, Outcomes6 = 6;

    /// <summary>What a literal says of a node once it is true; a literal can say something of several nodes.</summary>
    private struct Meaning
    {
        public int Node;
        public Outcomes Is, Removes;
        public int IsValue, RemovesValue;
        public int Next;
    }

    /// <summary>A bound that a learned clause names: true where the node does not apply or lies at or beyond it.</summary>
    private readonly record struct Atom(int Node, bool Upper, double Bound);

    /// <summary>In place of the node: no bound, and downwards from there the groups.</summary>
    private const int Nothing = -1, FirstGroup = -2;

    private readonly int[] _outcomeLiterals;
    private readonly int[]?[] _valueLiterals;
    private int _variableCount = 1;
    private sbyte[] _values = new sbyte[256];
    private int[] _positions = new int[128];
    private int[] _firstMeaning = new int[256];
    private Meaning[] _meanings = new Meaning[256];
    private int _meaningCount;
    private Atom[] _atoms = new Atom[128];
    private readonly List<(double Bound, int Variable)>?[] _atomsOf;
    private readonly int[] _groupLiterals;

    private static int Negated(int literal) => literal ^ 1;
    private bool IsTrue(int literal) => _values[literal] > 0;
    private bool IsFalse(int literal) => _values[literal] < 0;

    private static int IndexOf(Outcomes outcome) => BitOperations.TrailingZeroCount((uint)outcome);
    private int Literal(int node, Outcomes outcome) => _outcomeLiterals[node * Outcomes6 + IndexOf(outcome)];

    private int NewLiteral()
    {
        var variable = _variableCount++;
        if (variable * 2 + 1 >= _values.Length)
        {
            Array.Resize(ref _values, _values.Length * 2);
            Array.Resize(ref _firstMeaning, _values.Length);
            Array.Resize(ref _watches, _values.Length);
            Array.Resize(ref _positions, _values.Length / 2);
            Array.Resize(ref _atoms, _values.Length / 2);
        }
        (_firstMeaning[variable * 2], _firstMeaning[variable * 2 + 1]) = (-1, -1);
        _atoms[variable] = new(Nothing, false, 0);
        return variable * 2;
    }

    private void Means(int literal, int node, Outcomes isOutcome = 0, Outcomes removes = 0, int isValue = -1, int removesValue = -1)
    {
        if (literal is True or False)
            return;
        if (_meaningCount == _meanings.Length)
            Array.Resize(ref _meanings, _meaningCount * 2);
        _meanings[_meaningCount] = new() { Node = node, Is = isOutcome, Removes = removes, IsValue = isValue, RemovesValue = removesValue, Next = _firstMeaning[literal] };
        _firstMeaning[literal] = _meaningCount++;
    }

    /// <summary>Gives literals to the outcomes and values that a node still has; two that exclude each other share one.</summary>
    private void NameDomain(int node)
    {
        ref var domain = ref _domains[node];
        var at = node * Outcomes6;
        Array.Fill(_outcomeLiterals, False, at, Outcomes6);
        var left = domain.Outcomes;
        if (BitOperations.PopCount((uint)left) <= 2)
        {
            var first = (Outcomes)(1 << IndexOf(left));
            var second = left & ~first;
            var literal = second == 0 ? True : NewLiteral();
            _outcomeLiterals[at + IndexOf(first)] = literal;
            if (second != 0)
            {
                _outcomeLiterals[at + IndexOf(second)] = Negated(literal);
                Means(literal, node, first, second);
                Means(Negated(literal), node, second, first);
            }
        }
        else
            for (; left != 0; left &= left - 1)
            {
                var outcome = (Outcomes)(1 << IndexOf(left));
                var literal = NewLiteral();
                _outcomeLiterals[at + IndexOf(outcome)] = literal;
                Means(literal, node, outcome);
                Means(Negated(literal), node, removes: outcome);
            }
        if (domain.Kind == DomainKind.Choice)
            NameValues(node, ref domain);
    }

    private void NameValues(int node, ref Domain<DoubleEnd> domain)
    {
        // Bits are changed in place from here on.
        domain.Bits = (ulong[])domain.Bits!.Clone();
        var literals = new int[domain.Bits.Length << 6];
        Array.Fill(literals, False);
        _valueLiterals[node] = literals;
        var present = Literal(node, Outcomes.Present);
        if (present == False)
            return;
        int[] values = [.. BitSet.Members(domain.Bits)];
        if (values.Length == 1)
        {
            literals[values[0]] = present;
            Means(present, node, isValue: values[0]);
        }
        else if (values.Length == 2 && present == True)
        {
            var literal = NewLiteral();
            (literals[values[0]], literals[values[1]]) = (literal, Negated(literal));
            Means(literal, node, isValue: values[0], removesValue: values[1]);
            Means(Negated(literal), node, isValue: values[1], removesValue: values[0]);
        }
        else
            foreach (var value in values)
            {
                literals[value] = NewLiteral();
                Means(literals[value], node, isValue: value);
                Means(Negated(literals[value]), node, removesValue: value);
            }
    }

    // ---- Assigning ----------------------------------------------------------------------------------------------

    /// <summary>Makes a literal true, with all that its nodes' domains make of that at once. False: it is false already.</summary>
    private bool Assign(int literal, long reason)
    {
        if (_values[literal] != 0)
            return _values[literal] > 0 || Contradict(reason, Negated(literal));
        (_values[literal], _values[Negated(literal)]) = (1, -1);
        _positions[literal >> 1] = _trailCount;
        PushTrail(literal, -1, 0, 0, reason);
        for (var m = _firstMeaning[literal]; m >= 0; m = _meanings[m].Next)
            if (!TakeEffect(_meanings[m], literal))
                return false;
        return true;
    }

    private bool TakeEffect(in Meaning meaning, int literal)
    {
        var node = meaning.Node;
        ref var domain = ref _domains[node];
        if (meaning.Removes != 0)
        {
            domain.Outcomes &= ~meaning.Removes;
            if (domain.HasOneOutcome && domain.Outcomes != 0 && !Assign(Literal(node, domain.Outcomes), Antecedent.Others(node)))
                return false;
        }
        if (meaning.RemovesValue >= 0)
            domain.Bits![meaning.RemovesValue >> 6] &= ~(1UL << meaning.RemovesValue);
        Changed(node);
        for (var others = domain.Outcomes & ~meaning.Is; meaning.Is != 0 && others != 0; others &= others - 1)
            if (!Assign(Negated(Literal(node, (Outcomes)(1 << IndexOf(others)))), Antecedent.ByLiteral(literal)))
                return false;
        if (domain.Kind != DomainKind.Choice)
            return meaning.Is != Outcomes.Present || domain.Kind != DomainKind.Number || RuleOutAtoms(node);
        if (meaning.IsValue >= 0)
            return Assign(Literal(node, Outcomes.Present), Antecedent.ByLiteral(literal)) && RuleOutValues(node, meaning.IsValue, literal);
        if ((meaning.Removes & Outcomes.Present) != 0)
            return RuleOutValues(node, -1, literal);
        if (meaning.RemovesValue < 0 && meaning.Is != Outcomes.Present)
            return true;
        var count = BitSet.Count(domain.Bits!);
        if (count == 0)
            return Assign(Negated(Literal(node, Outcomes.Present)), Antecedent.OtherValues(node));
        return count > 1 || !IsTrue(Literal(node, Outcomes.Present)) || Assign(_valueLiterals[node]![BitSet.First(domain.Bits!)], Antecedent.OtherValues(node));
    }

    private bool RuleOutValues(int node, int except, int literal)
    {
        var (bits, literals) = (_domains[node].Bits!, _valueLiterals[node]!);
        for (var w = 0; w < bits.Length; w++)
            for (var word = bits[w]; word != 0; word &= word - 1)
            {
                var value = (w << 6) + BitOperations.TrailingZeroCount(word);
                if (value != except && literals[value] != Negated(literal) && !Assign(Negated(literals[value]), Antecedent.ByLiteral(literal)))
                    return false;
            }
        return true;
    }

    private double BoundOf(int node, bool upper)
    {
        ref readonly var domain = ref _domains[node];
        return _nodes[node].Variable is not null ? upper ? domain.Last : domain.First : (upper ? domain.Numbers.High : domain.Numbers.Low).ToDouble();
    }

    private static bool Entails(double bound, double other, bool upper) => upper ? bound <= other : bound >= other;

    private void SetBound(int node, bool upper, double bound)
    {
        ref var domain = ref _domains[node];
        if (_nodes[node].Variable is { } variable)
        {
            (domain.First, domain.Last) = upper ? (domain.First, (long)bound) : ((long)bound, domain.Last);
            domain.Numbers = _ends.Between(variable.Index, domain.First, domain.Last);
        }
        else
            domain.Numbers = upper ? new(domain.Numbers.Low, new(bound)) : new(new(bound), domain.Numbers.High);
    }

    /// <summary>Takes over a tighter bound that leaves something, with the literals that name bounds of the node.</summary>
    private bool AssignBound(int node, bool upper, double bound, long reason)
    {
        var side = node * 2 + (upper ? 1 : 0);
        var before = BoundOf(node, upper);
        PushTrail(upper ? -2 : -1, node, bound, before, reason);
        _lastEvents[side] = _trailCount - 1;
        SetBound(node, upper, bound);
        Changed(node);
        var at = _trailCount - 1;
        if (_atomsOf[side] is { } named)
            foreach (var (known, variable) in named)
                if (Entails(bound, known, upper) && !Entails(before, known, upper) && !Assign(variable * 2, Antecedent.ByEvent(at)))
                    return false;
        return !IsTrue(Literal(node, Outcomes.Present)) || RuleOutAtoms(node, !upper);
    }

    private bool RuleOutAtoms(int node) => RuleOutAtoms(node, false) && RuleOutAtoms(node, true);

    /// <summary>Named bounds that the opposite bound leaves no room for, of a node that certainly has a number.</summary>
    private bool RuleOutAtoms(int node, bool upper)
    {
        if (_atomsOf[node * 2 + (upper ? 1 : 0)] is not { } named)
            return true;
        var opposite = BoundOf(node, !upper);
        foreach (var (bound, variable) in named)
            if ((upper ? opposite > bound : opposite < bound) && !Assign(variable * 2 + 1, Antecedent.NoRoom(node, upper)))
                return false;
        return true;
    }

    /// <summary>The literal of a bound; made where there is none yet.</summary>
    private int Named(int node, bool upper, double bound)
    {
        var side = node * 2 + (upper ? 1 : 0);
        var named = _atomsOf[side] ??= [];
        foreach (var (known, variable) in named)
            if (known == bound)
                return variable * 2;
        var literal = NewLiteral();
        _atoms[literal >> 1] = new(node, upper, bound);
        named.Add((bound, literal >> 1));
        return literal;
    }

    /// <summary>What the literal of a bound or of a group means for its node, once it stands on the trail.</summary>
    private bool Attend(int literal)
    {
        var (node, upper, bound) = _atoms[literal >> 1];
        if (node < 0)
            return node == Nothing || (literal & 1) != 0 || Activate(FirstGroup - node, literal);
        if ((literal & 1) != 0)
        {
            // It applies, and lies on the other side.
            if (!Assign(Literal(node, Outcomes.Present), Antecedent.ByLiteral(literal)))
                return false;
            upper = !upper;
            if (_nodes[node].Variable is not null)
                bound += upper ? -1 : 1;
        }
        if (Entails(BoundOf(node, upper), bound, upper))
            return true;
        return (upper ? bound < BoundOf(node, false) : bound > BoundOf(node, true))
            ? Assign(Negated(Literal(node, Outcomes.Present)), Antecedent.Crossing(literal))
            : AssignBound(node, upper, bound, Antecedent.ByLiteral(literal));
    }

    private bool Activate(int group, int literal)
    {
        foreach (var (node, allowed) in _rootsOf[group])
            for (var removed = _domains[node].Outcomes & ~allowed; removed != 0; removed &= removed - 1)
                if (!Assign(Negated(Literal(node, (Outcomes)(1 << IndexOf(removed)))), Antecedent.ByLiteral(literal)))
                    return false;
        foreach (var node in _wokenBy[group])
            Enqueue(node);
        return true;
    }

    // ---- What propagators find ----------------------------------------------------------------------------------

    protected override bool IsActive(int group) => group < 0 || IsTrue(_groupLiterals[group]);

    protected override bool SetOutcomes(int node, Outcomes keep)
    {
        for (var removed = _domains[node].Outcomes & ~keep; removed != 0; removed &= removed - 1)
            if (!Assign(Negated(Literal(node, (Outcomes)(1 << IndexOf(removed)))), Antecedent.Revised(_reviser, _byExactNumbers)))
                return false;
        return true;
    }

    protected override bool SetBits(int node, ulong[] mask)
    {
        var (bits, literals) = (_domains[node].Bits!, _valueLiterals[node]!);
        for (var w = 0; w < bits.Length; w++)
            for (var word = bits[w] & ~mask[w]; word != 0; word &= word - 1)
                if (!Assign(Negated(literals[(w << 6) + BitOperations.TrailingZeroCount(word)]), Antecedent.Revised(_reviser, _byExactNumbers)))
                    return false;
        return true;
    }

    protected override bool Narrow(int node, Interval<DoubleEnd> numbers)
    {
        var now = _domains[node].Numbers;
        return (numbers.Low == now.Low || AssignBound(node, false, numbers.Low.ToDouble(), Antecedent.Revised(_reviser, _byExactNumbers)))
            && (numbers.High == now.High || AssignBound(node, true, numbers.High.ToDouble(), Antecedent.Revised(_reviser, _byExactNumbers)));
    }

    protected override bool Narrow(int node, long first, long last)
    {
        ref readonly var domain = ref _domains[node];
        var (sameFirst, sameLast) = (first == domain.First, last == domain.Last);
        return (sameFirst || AssignBound(node, false, first, Antecedent.Revised(_reviser, _byExactNumbers)))
            && (sameLast || AssignBound(node, true, last, Antecedent.Revised(_reviser, _byExactNumbers)));
    }
}
