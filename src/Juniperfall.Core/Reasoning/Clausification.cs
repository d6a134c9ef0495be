using Juniperfall.Core.Language;
using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>
/// Logic over nodes that are only ever true or false becomes clauses (Tseitin, “On the complexity of derivation in propositional
/// calculus”, 1968), with nested disjunctions taken into the one above them; so it is propagated by watched literals
/// instead of node by node. What may have no value stays with the propagators of Kleene's logic.
/// </summary>
internal sealed partial class Search
{
    /// <summary>Up to so many members “at most one” is written out in pairs.</summary>
    private const int MostInPairs = 40;

    private readonly bool[] _isPlain;
    private readonly bool[] _isAbsorbed;
    private readonly List<int> _operands = [];

    private const Outcomes TrueOrFalse = Outcomes.True | Outcomes.False;

    private bool IsTwoValued(int node) => _domains[node].Kind == DomainKind.YesNo && (_domains[node].Outcomes & ~TrueOrFalse) == 0;

    /// <summary>Finds the nodes that clauses take over, before any literal is made.</summary>
    private void FindPlain()
    {
        for (var n = 0; n < _nodes.Length; n++)
            _isPlain[n] = IsTwoValued(n) && _nodes[n].Operator switch
            {
                Operator.And or Operator.Or or Operator.Not or Operator.Holds or Operator.SameYesNo or Operator.OtherYesNo => _nodes[n].Children.All(IsTwoValued),
                Operator.SameChoice or Operator.OtherChoice => ChosenValue(n) is not null,
                Operator.Counting => _nodes[n].Children.All(IsTwoValued) && IsWrittenOut(n),
                _ => false,
            };
        // From the top down, so that a node knows whether it goes into the one above it.
        for (var n = _nodes.Length - 1; n >= 0; n--)
            if (_isPlain[n] && !_isAbsorbed[n] && _nodes[n].Operator is Operator.And or Operator.Or)
                foreach (var child in _nodes[n].Children)
                    Absorb(child, _nodes[n].Operator == Operator.Or);
    }

    private void Absorb(int node, bool positive)
    {
        if (!_isPlain[node] || _network.Parents[node].Length != 1 || _rootNodes.Contains(node))
            return;
        switch (_nodes[node].Operator)
        {
            case Operator.Not or Operator.Holds:
                _isAbsorbed[node] = true;
                Absorb(_nodes[node].Children[0], _nodes[node].Operator == Operator.Holds ? positive : !positive);
                break;
            case Operator.Or when positive:
            case Operator.And when !positive:
                _isAbsorbed[node] = true;
                foreach (var child in _nodes[node].Children)
                    Absorb(child, positive);
                break;
        }
    }

    /// <summary>The value that a comparison of a choice with a constant asks for; null where it is no such comparison.</summary>
    private (int Node, int Value)? ChosenValue(int n)
    {
        var (a, b) = (_nodes[n].Children[0], _nodes[n].Children[1]);
        if (_nodes[a].Operator == Operator.Constant)
            (a, b) = (b, a);
        return _nodes[b].Operator == Operator.Constant && _domains[b].Outcomes == Outcomes.Present && _domains[a].Outcomes == Outcomes.Present && _nodes[a].Operator == Operator.Variable
            ? (a, BitSet.First(_domains[b].Bits!)) : null;
    }

    private bool IsWrittenOut(int n) => _domains[n].Outcomes == Outcomes.True && _nodes[n].Children.Length <= MostInPairs
        && (_nodes[n].CountingKind, _nodes[n].Count) is (CountingKind.Exactly, 1) or (CountingKind.AtMost, 1) or (CountingKind.AtLeast, 1);

    private int TruthOf(int node) => Literal(node, Outcomes.True);

    /// <summary>Gives a plain node its literal and writes its clauses; children have theirs.</summary>
    private void Clausify(int n)
    {
        var node = _nodes[n];
        var c = node.Children;
        switch (node.Operator)
        {
            case Operator.Not:
                Alias(n, Negated(TruthOf(c[0])));
                break;
            case Operator.Holds:
                Alias(n, TruthOf(c[0]));
                break;
            case Operator.SameChoice or Operator.OtherChoice:
                var (choice, value) = ChosenValue(n)!.Value;
                var literal = _valueLiterals[choice]![value];
                Alias(n, node.Operator == Operator.SameChoice ? literal : Negated(literal));
                break;
            case Operator.And or Operator.Or:
                _operands.Clear();
                foreach (var child in c)
                    Disjuncts(child, node.Operator == Operator.Or);
                var truth = NewTruth(n);
                // An And is what is left when none of its negated operands holds.
                var any = node.Operator == Operator.Or ? truth : Negated(truth);
                // Where it is only ever asked to hold, what makes it fail says enough (Plaisted and Greenbaum, “A structure-preserving
                // clause form translation”, 1986).
                var isOnlyAsked = _sleepsUntil is { } until && until[n] >= 0 && truth is not (True or False);
                if (!isOnlyAsked || node.Operator == Operator.And)
                    foreach (var operand in _operands)
                        Write(any, Negated(operand));
                if (isOnlyAsked && node.Operator == Operator.And)
                    break;
                _operands.Add(Negated(any));
                Write([.. _operands]);
                break;
            case Operator.SameYesNo or Operator.OtherYesNo:
                var same = NewTruth(n);
                if (node.Operator == Operator.OtherYesNo)
                    same = Negated(same);
                var (a, b) = (TruthOf(c[0]), TruthOf(c[1]));
                Write(Negated(same), Negated(a), b);
                Write(Negated(same), a, Negated(b));
                Write(same, a, b);
                Write(same, Negated(a), Negated(b));
                break;
            case Operator.Counting:
                NewTruth(n);
                if (node.CountingKind != CountingKind.AtMost)
                    Write([.. c.Select(TruthOf)]);
                for (var i = 0; i < c.Length && node.CountingKind != CountingKind.AtLeast; i++)
                    for (var k = i + 1; k < c.Length; k++)
                        Write(Negated(TruthOf(c[i])), Negated(TruthOf(c[k])));
                break;
        }
    }

    private void Disjuncts(int node, bool positive)
    {
        if (!_isAbsorbed[node])
            _operands.Add(positive ? TruthOf(node) : Negated(TruthOf(node)));
        else if (_nodes[node].Operator is Operator.Not or Operator.Holds)
            Disjuncts(_nodes[node].Children[0], _nodes[node].Operator == Operator.Holds ? positive : !positive);
        else
            foreach (var child in _nodes[node].Children)
                Disjuncts(child, positive);
    }

    private int NewTruth(int n)
    {
        var literal = _domains[n].Outcomes switch { Outcomes.True => True, Outcomes.False => False, _ => NewLiteral() };
        Alias(n, literal);
        return literal;
    }

    /// <summary>Lets a node be true exactly where a literal is; its domain follows where a propagator reads it.</summary>
    private void Alias(int n, int literal)
    {
        var at = n * Outcomes6;
        Array.Fill(_outcomeLiterals, False, at, Outcomes6);
        _outcomeLiterals[at + IndexOf(Outcomes.True)] = literal;
        _outcomeLiterals[at + IndexOf(Outcomes.False)] = Negated(literal);
        var known = _domains[n].Outcomes;
        if (literal is not (True or False) && known != TrueOrFalse)
            Write(known == Outcomes.True ? literal : Negated(literal));
        if (literal is True or False)
            _domains[n].Outcomes = literal == True ? Outcomes.True : Outcomes.False;
        else if (_network.Parents[n].Any(p => !_isPlain[p]))
        {
            Means(literal, n, Outcomes.True, Outcomes.False);
            Means(Negated(literal), n, Outcomes.False, Outcomes.True);
        }
    }

    /// <summary>Adds a clause of the model, less what is decided for good.</summary>
    private void Write(params ReadOnlySpan<int> literals)
    {
        Span<int> left = stackalloc int[literals.Length];
        var count = 0;
        foreach (var literal in literals)
        {
            if (IsTrue(literal) || left[..count].Contains(Negated(literal)))
                return;
            if (!IsFalse(literal) && !left[..count].Contains(literal))
                left[count++] = literal;
        }
        if (count == 0 || (count == 1 && !Assign(left[0], Antecedent.Decision)))
            _isDead = true;
        else if (count > 1)
            AddClause(left[..count], 0);
    }
}
