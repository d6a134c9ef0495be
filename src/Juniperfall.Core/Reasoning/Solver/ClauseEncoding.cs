using System.Numerics;
using Juniperfall.Core.Language;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Logic over nodes that are only ever true or false becomes clauses (Tseitin, “On the complexity of derivation in propositional
/// calculus”, 1968), with nested disjunctions taken into the one above them; so it is propagated by watched literals
/// instead of node by node. What may have no value stays with the propagators of Kleene's logic.
/// </summary>
internal sealed class ClauseEncoding
{
    /// <summary>Up to so many members “at most one” is written out in pairs.</summary>
    private const int MostInPairs = 40;
    private const int MostOnStack = 256;
    private const Outcomes TrueOrFalse = Outcomes.True | Outcomes.False;

    private readonly LiteralStore _store;
    private readonly ClauseDatabase _clauses;
    private readonly bool[] _isPlain;
    private readonly bool[] _isAbsorbed;
    private readonly HashSet<int> _rootNodes;
    private readonly List<int> _operands = [];

    private ClauseEncoding(LiteralStore store, ClauseDatabase clauses)
    {
        (_store, _clauses) = (store, clauses);
        (_isPlain, _isAbsorbed) = (new bool[store.Nodes.Length], new bool[store.Nodes.Length]);
        _rootNodes = [.. store.Network.Roots.Select(r => r.Node)];
    }

    /// <summary>Gives literals to all that is still open in a store and writes what clauses can say; the rest is queued to be revised.</summary>
    /// <exception cref="OperationCanceledException">Cancelled; nothing of it is to be used then.</exception>
    public static void Write(LiteralStore store, ClauseDatabase clauses, CancellationToken cancel) => new ClauseEncoding(store, clauses).Write(cancel);

    private void Write(CancellationToken cancel)
    {
        FindPlain();
        // Before anything is written, since that may decide something already.
        for (var n = 0; n < _isPlain.Length; n++)
            if (_isPlain[n] || IsAlwaysThere(n))
                _store.Queue.Settle(n);
        for (var n = 0; n < _isPlain.Length; n++)
        {
            cancel.ThrowIfCancellationRequested();
            if (!_isPlain[n])
                NameDomain(n);
            else if (!_isAbsorbed[n])
                Clausify(n);
        }
        for (var n = 0; n < _isPlain.Length; n++)
            if (!_store.Queue.IsSettled(n))
                _store.Queue.Enqueue(n);
        _store.Queue.ForgetSettled();
    }

    /// <summary>Whether a node has no outcomes but true and false.</summary>
    public static bool IsTwoValued(in Domain<DoubleEnd> domain) => domain.Kind == DomainKind.YesNo && (domain.Outcomes & ~TrueOrFalse) == 0;

    private bool IsTwoValued(int node) => IsTwoValued(_store.Domains[node]);

    /// <summary>Finds the nodes that clauses take over, before any literal is made.</summary>
    private void FindPlain()
    {
        for (var n = 0; n < _store.Nodes.Length; n++)
            _isPlain[n] = IsTwoValued(n) && _store.Nodes[n].Operator switch
            {
                Operator.And or Operator.Or or Operator.Not or Operator.Holds or Operator.SameYesNo or Operator.OtherYesNo =>
                    _store.Nodes[n].Children.All(IsTwoValued),
                Operator.SameChoice or Operator.OtherChoice => ChosenValue(n) is not null,
                Operator.Counting => _store.Nodes[n].Children.All(IsTwoValued) && IsWrittenOut(n),
                _ => false,
            };
        // From the top down, so that a node knows whether it goes into the one above it.
        for (var n = _store.Nodes.Length - 1; n >= 0; n--)
            if (_isPlain[n] && !_isAbsorbed[n] && _store.Nodes[n].Operator is Operator.And or Operator.Or)
                foreach (var child in _store.Nodes[n].Children)
                    Absorb(child, _store.Nodes[n].Operator == Operator.Or);
    }

    private void Absorb(int node, bool positive)
    {
        if (!_isPlain[node] || _store.Network.Parents[node].Length != 1 || _rootNodes.Contains(node))
            return;
        switch (_store.Nodes[node].Operator)
        {
            case Operator.Not or Operator.Holds:
                _isAbsorbed[node] = true;
                Absorb(_store.Nodes[node].Children[0], _store.Nodes[node].Operator == Operator.Holds ? positive : !positive);
                break;
            case Operator.Or when positive:
            case Operator.And when !positive:
                _isAbsorbed[node] = true;
                foreach (var child in _store.Nodes[node].Children)
                    Absorb(child, positive);
                break;
        }
    }

    /// <summary>The value that a comparison of a choice with a constant asks for; null where it is no such comparison.</summary>
    private (int Node, int Value)? ChosenValue(int n)
    {
        var (a, b) = (_store.Nodes[n].Children[0], _store.Nodes[n].Children[1]);
        if (_store.Nodes[a].Operator == Operator.Constant)
            (a, b) = (b, a);
        return _store.Nodes[b].Operator == Operator.Constant && _store.Domains[b].Outcomes == Outcomes.Present
            && _store.Domains[a].Outcomes == Outcomes.Present && _store.Nodes[a].Operator == Operator.Variable
            ? (a, BitSet.First(_store.Domains[b].Bits!)) : null;
    }

    private bool IsWrittenOut(int n) => _store.Domains[n].Outcomes == Outcomes.True && _store.Nodes[n].Children.Length <= MostInPairs
        && (_store.Nodes[n].CountingKind, _store.Nodes[n].Count) is (CountingKind.Exactly, 1) or (CountingKind.AtMost, 1) or (CountingKind.AtLeast, 1);

    private int TruthOf(int node) => _store.Names.Of(node, Outcomes.True);

    /// <summary>Gives a plain node its literal and writes its clauses; children have theirs.</summary>
    private void Clausify(int n)
    {
        var node = _store.Nodes[n];
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Not:
                Alias(n, LiteralNames.Negated(TruthOf(c[0])));
                break;
            case Operator.Holds:
                Alias(n, TruthOf(c[0]));
                break;
            case Operator.SameChoice or Operator.OtherChoice:
                var (choice, value) = ChosenValue(n)!.Value;
                var literal = _store.Names.ValuesOf(choice)[value];
                Alias(n, node.Operator == Operator.SameChoice ? literal : LiteralNames.Negated(literal));
                break;
            case Operator.And or Operator.Or:
                _operands.Clear();
                foreach (var child in c)
                    Disjuncts(child, node.Operator == Operator.Or);
                var truth = NewTruth(n);
                // An And is what is left when none of its negated operands holds.
                var any = node.Operator == Operator.Or ? truth : LiteralNames.Negated(truth);
                // Where it is only ever asked to hold, what makes it fail says enough (Plaisted and Greenbaum, “A structure-preserving
                // clause form translation”, 1986).
                var isOnlyAsked = _store.Groups.SleepsUntil(n) >= 0 && truth is not (LiteralNames.True or LiteralNames.False);
                if (!isOnlyAsked || node.Operator == Operator.And)
                    foreach (var operand in _operands)
                        Write(any, LiteralNames.Negated(operand));
                if (isOnlyAsked && node.Operator == Operator.And)
                    break;
                _operands.Add(LiteralNames.Negated(any));
                Write([.. _operands]);
                break;
            case Operator.SameYesNo or Operator.OtherYesNo:
                var same = NewTruth(n);
                if (node.Operator == Operator.OtherYesNo)
                    same = LiteralNames.Negated(same);
                var (a, b) = (TruthOf(c[0]), TruthOf(c[1]));
                Write(LiteralNames.Negated(same), LiteralNames.Negated(a), b);
                Write(LiteralNames.Negated(same), a, LiteralNames.Negated(b));
                Write(same, a, b);
                Write(same, LiteralNames.Negated(a), LiteralNames.Negated(b));
                break;
            case Operator.Counting:
                NewTruth(n);
                if (node.CountingKind != CountingKind.AtMost)
                    Write([.. c.Select(TruthOf)]);
                for (var i = 0; i < c.Length && node.CountingKind != CountingKind.AtLeast; i++)
                    for (var k = i + 1; k < c.Length; k++)
                        Write(LiteralNames.Negated(TruthOf(c[i])), LiteralNames.Negated(TruthOf(c[k])));
                break;
        }
    }

    private void Disjuncts(int node, bool positive)
    {
        if (!_isAbsorbed[node])
            _operands.Add(positive ? TruthOf(node) : LiteralNames.Negated(TruthOf(node)));
        else if (_store.Nodes[node].Operator is Operator.Not or Operator.Holds)
            Disjuncts(_store.Nodes[node].Children[0], _store.Nodes[node].Operator == Operator.Holds ? positive : !positive);
        else
            foreach (var child in _store.Nodes[node].Children)
                Disjuncts(child, positive);
    }

    private int NewTruth(int n)
    {
        var literal = _store.Domains[n].Outcomes switch { Outcomes.True => LiteralNames.True, Outcomes.False => LiteralNames.False, _ => _store.NewLiteral() };
        Alias(n, literal);
        return literal;
    }

    /// <summary>Lets a node be true exactly where a literal is; its domain follows where a propagator reads it.</summary>
    private void Alias(int n, int literal)
    {
        _store.Names.Clear(n);
        _store.Names.Name(n, Outcomes.True, literal);
        _store.Names.Name(n, Outcomes.False, LiteralNames.Negated(literal));
        var known = _store.Domains[n].Outcomes;
        if (literal is not (LiteralNames.True or LiteralNames.False) && known != TrueOrFalse)
            Write(known == Outcomes.True ? literal : LiteralNames.Negated(literal));
        if (literal is LiteralNames.True or LiteralNames.False)
            _store.Domains[n].Outcomes = literal == LiteralNames.True ? Outcomes.True : Outcomes.False;
        else if (_store.Network.Parents[n].Any(p => !_isPlain[p]))
        {
            _store.Names.Means(literal, n, Outcomes.True, Outcomes.False);
            _store.Names.Means(LiteralNames.Negated(literal), n, Outcomes.False, Outcomes.True);
        }
    }

    /// <summary>Adds a clause of the model, less what is decided for good.</summary>
    private void Write(params ReadOnlySpan<int> literals)
    {
        Span<int> left = literals.Length <= MostOnStack ? stackalloc int[MostOnStack] : new int[literals.Length];
        var count = 0;
        foreach (var literal in literals)
        {
            if (_store.IsTrue(literal) || left[..count].Contains(LiteralNames.Negated(literal)))
                return;
            if (!_store.IsFalse(literal) && !left[..count].Contains(literal))
                left[count++] = literal;
        }
        if (count == 0 || (count == 1 && !_store.Assign(left[0], Antecedent.Decision)))
            _clauses.IsContradictory = true;
        else if (count > 1)
            _clauses.Add(left[..count], 0);
    }

    /// <summary>Whether a node only says of a variable that it applies, which it does in any case.</summary>
    private bool IsAlwaysThere(int n) => _store.Nodes[n].Operator == Operator.Presence && _store.Domains[_store.Nodes[n].Children[0]].Outcomes == Outcomes.True
        && (_store.Domains[_store.Nodes[n].Children[1]].Outcomes & Outcomes.Absent) == 0;

    /// <summary>Gives literals to the outcomes and values that a node still has; two that exclude each other share one.</summary>
    private void NameDomain(int node)
    {
        ref var domain = ref _store.Domains[node];
        _store.Names.Clear(node);
        var left = domain.Outcomes;
        if (BitOperations.PopCount((uint)left) <= 2)
        {
            var first = left & ~(left - 1);
            var second = left & ~first;
            var literal = second == 0 ? LiteralNames.True : _store.NewLiteral();
            _store.Names.Name(node, first, literal);
            if (second != 0)
            {
                _store.Names.Name(node, second, LiteralNames.Negated(literal));
                _store.Names.Means(literal, node, first, second);
                _store.Names.Means(LiteralNames.Negated(literal), node, second, first);
            }
        }
        else
            for (; left != 0; left &= left - 1)
            {
                var outcome = left & ~(left - 1);
                var literal = _store.NewLiteral();
                _store.Names.Name(node, outcome, literal);
                _store.Names.Means(literal, node, outcome);
                _store.Names.Means(LiteralNames.Negated(literal), node, removes: outcome);
            }
        if (domain.Kind == DomainKind.Choice)
            NameValues(node, ref domain);
    }

    private void NameValues(int node, ref Domain<DoubleEnd> domain)
    {
        // Bits are changed in place from here on.
        domain.Bits = (ulong[])domain.Bits!.Clone();
        var literals = new int[domain.Bits.Length << 6];
        Array.Fill(literals, LiteralNames.False);
        _store.Names.NameValues(node, literals);
        var present = _store.Names.Of(node, Outcomes.Present);
        if (present == LiteralNames.False)
            return;
        int[] values = [.. BitSet.Members(domain.Bits)];
        if (values.Length == 1)
        {
            literals[values[0]] = present;
            _store.Names.Means(present, node, isValue: values[0]);
        }
        else if (values.Length == 2 && present == LiteralNames.True)
        {
            var literal = _store.NewLiteral();
            (literals[values[0]], literals[values[1]]) = (literal, LiteralNames.Negated(literal));
            _store.Names.Means(literal, node, isValue: values[0], removesValue: values[1]);
            _store.Names.Means(LiteralNames.Negated(literal), node, isValue: values[1], removesValue: values[0]);
        }
        else
            foreach (var value in values)
            {
                literals[value] = _store.NewLiteral();
                _store.Names.Means(literals[value], node, isValue: value);
                _store.Names.Means(LiteralNames.Negated(literals[value]), node, removesValue: value);
            }
    }
}
