using Juniperfall.Core.Reasoning.Evaluation;

namespace Juniperfall.Core.Reasoning;

/// <summary>Why something on the trail is so; kind in the low bits, what it is of above them.</summary>
internal static class Antecedent
{
    public enum Kind { Decision, Clause, Literal, Revised, RevisedByExactNumbers, Others, OtherValues, Event, NoRoom, Crossing }

    public const long Decision = 0;
    private static long Of(Kind kind, long data) => data << 4 | (long)kind;

    public static long ByClause(int clause) => Of(Kind.Clause, clause);

    /// <summary>Another literal alone.</summary>
    public static long ByLiteral(int literal) => Of(Kind.Literal, literal);

    /// <summary>What a propagator made of the domains of its node and children, or of all that these stem from.</summary>
    public static long Revised(int node, bool byExactNumbers) => Of(byExactNumbers ? Kind.RevisedByExactNumbers : Kind.Revised, node);

    /// <summary>All other outcomes, or values, of a node are ruled out.</summary>
    public static long Others(int node) => Of(Kind.Others, node);
    public static long OtherValues(int node) => Of(Kind.OtherValues, node);

    /// <summary>A bound reached the one that is named.</summary>
    public static long ByEvent(int position) => Of(Kind.Event, position);

    /// <summary>The opposite bound leaves no room for a named one.</summary>
    public static long NoRoom(int node, bool upper) => Of(Kind.NoRoom, node * 2 + (upper ? 1 : 0));

    /// <summary>A named bound, or its negation, crosses the opposite bound.</summary>
    public static long Crossing(int literal) => Of(Kind.Crossing, literal);

    public static Kind KindOf(long reason) => (Kind)(reason & 15);
    public static int DataOf(long reason) => (int)(reason >> 4);
}

/// <summary>
/// Learning from conflicts: the first fact of the latest level that alone, with earlier ones, leads to the conflict (Marques-Silva
/// and Sakallah, “GRASP: a search algorithm for propositional satisfiability”, 1999; Zhang and others, “Efficient conflict
/// driven learning in a Boolean satisfiability solver”, 2001). Facts are places on the trail; a bound counts as far as it is needed.
/// </summary>
internal sealed partial class Search
{
    private long _conflictReason;
    private int _conflictLiteral;
    private bool[] _seen = new bool[256];
    private double[] _needed = new double[256];
    private readonly List<int> _marked = [];
    private readonly List<int> _below = [];
    private int _open;
    private readonly int[]?[] _cones;

    /// <summary>Something true stands against what a reason leads to.</summary>
    private bool Contradict(long reason, int literal)
    {
        (_conflictReason, _conflictLiteral) = (reason, literal);
        return false;
    }

    private void Mark(int position)
    {
        if (_seen[position] || _levels[position] == 0)
            return;
        if (_isProbing)
        {
            _isCovered = false;
            return;
        }
        _seen[position] = true;
        _marked.Add(position);
        Bump(position);
        if (_levels[position] == _level)
            _open++;
        else
            _below.Add(position);
    }

    private void MarkLiteral(int literal)
    {
        if (literal == True)
            return;
        var at = _positions[literal >> 1];
        // The name of a bound that stood before it was named counts from where the bound stood.
        if (Antecedent.KindOf(_trail[at].Reason) == Antecedent.Kind.Event && _levels[Antecedent.DataOf(_trail[at].Reason)] < _levels[at] && _atoms[literal >> 1] is var atom)
            MarkBound(atom.Node, atom.Upper, atom.Bound, at);
        else
            Mark(at);
    }

    /// <summary>Marks the first event before a position that brought a bound at least as far as needed.</summary>
    private void MarkBound(int node, bool upper, double bound, int before)
    {
        var at = _lastEvents[node * 2 + (upper ? 1 : 0)];
        while (at >= before)
            at = _trail[at].Previous;
        while (at >= 0 && Entails(_trail[at].Before, bound, upper))
            at = _trail[at].Previous;
        if (at < 0)
            return;
        if (_isProbing && _seen[at] && !Entails(_needed[at], bound, upper))
            _isCovered = false;
        else if (_isProbing)
            Mark(at);
        if (_isProbing)
            return;
        if (!_seen[at] || Entails(bound, _needed[at], upper))
            _needed[at] = bound;
        Mark(at);
    }

    /// <summary>Marks what led to something at a position; of a conflict, what leads to it now.</summary>
    /// <param name="of">The literal that was made true; of a bound −1 for a lower and −2 for an upper one.</param>
    /// <param name="node">The node of a bound.</param>
    private void Explain(long reason, int before, int of, int node = -1)
    {
        var data = Antecedent.DataOf(reason);
        switch (Antecedent.KindOf(reason))
        {
            case Antecedent.Kind.Clause:
                foreach (var literal in LiteralsOf(data))
                    if (literal != of)
                        MarkLiteral(Negated(literal));
                break;
            case Antecedent.Kind.Literal:
                MarkLiteral(data);
                break;
            case Antecedent.Kind.Others:
                for (var o = 0; o < Outcomes6; o++)
                    if (_outcomeLiterals[data * Outcomes6 + o] is var outcome && outcome != of && outcome != False && outcome != Negated(of) && IsFalse(outcome) && _positions[outcome >> 1] < before)
                        MarkLiteral(Negated(outcome));
                break;
            case Antecedent.Kind.OtherValues:
                foreach (var literal in _valueLiterals[data]!)
                    if (literal > False && literal != of && IsFalse(literal) && _positions[literal >> 1] < before)
                        MarkLiteral(Negated(literal));
                if (Literal(data, Outcomes.Present) is var present && present != Negated(of) && IsTrue(present) && present != True && _positions[present >> 1] < before)
                    MarkLiteral(present);
                break;
            case Antecedent.Kind.Event:
                var named = _atoms[of >> 1];
                MarkBound(named.Node, named.Upper, named.Bound, data + 1);
                break;
            case Antecedent.Kind.NoRoom:
                MarkLiteral(Literal(data >> 1, Outcomes.Present));
                MarkBoundNow(data >> 1, (data & 1) == 0, before);
                break;
            case Antecedent.Kind.Crossing:
                MarkLiteral(data);
                var atom = _atoms[data >> 1];
                MarkBoundNow(atom.Node, atom.Upper == ((data & 1) != 0), before);
                break;
            case Antecedent.Kind.Revised:
                ExplainRevised(data, before, of, node);
                break;
            case Antecedent.Kind.RevisedByExactNumbers:
                foreach (var one in _cones[data] ??= ConeOf(data))
                    MarkDomain(one, before);
                if (_nodes[data].Group >= 0)
                    MarkLiteral(_groupLiterals[_nodes[data].Group]);
                break;
        }
    }

    /// <summary>A node and all that it stems from.</summary>
    private int[] ConeOf(int node)
    {
        var cone = new HashSet<int> { node };
        var open = new Stack<int>([node]);
        while (open.TryPop(out var at))
            foreach (var child in _nodes[at].Children)
                if (cone.Add(child))
                    open.Push(child);
        return [.. cone.Order()];
    }

    private void ExplainConflict()
    {
        // A bound that reaches a named one which is false: the named one alone would say nothing new.
        if (Antecedent.KindOf(_conflictReason) == Antecedent.Kind.Event && Antecedent.DataOf(_conflictReason) is var at)
            Explain(_trail[at].Reason, at, _trail[at].Literal, _trail[at].Node);
        else
            Explain(_conflictReason, _trailCount, Negated(_conflictLiteral));
        MarkLiteral(_conflictLiteral);
    }

    private void Unmark()
    {
        foreach (var position in _marked)
            _seen[position] = false;
        _marked.Clear();
        _below.Clear();
        _open = 0;
    }

    /// <summary>
    /// Learns from what is marked, which cannot hold together, and goes back to where the learned clause makes something new
    /// true. Where that needs no decision at all there is no solution for good.
    /// </summary>
    private void LearnFromMarked()
    {
        ClearQueue();
        _heap.Decay();
        // Something that stood before may be noticed only now: then the conflict belongs to the level where it arose.
        while (_open == 0)
        {
            if (_below.Count == 0)
            {
                Unmark();
                _isDead = true;
                return;
            }
            List<int> marked = [.. _below];
            var level = marked.Max(p => _levels[p]);
            Unmark();
            GoBackTo(level);
            foreach (var position in marked)
                Mark(position);
        }
        var at = _trailCount - 1;
        while (true)
        {
            while (!_seen[at])
                at--;
            if (_open == 1)
                break;
            _open--;
            _seen[at] = false;
            Explain(_trail[at].Reason, at, _trail[at].Literal, _trail[at].Node);
            at--;
        }
        Minimize();
        Install(at);
    }

    private bool _isProbing, _isCovered;

    /// <summary>
    /// Leaves out what the rest of the clause leads to by itself (Sörensson and Biere, “Minimizing learned clauses”, 2009; only
    /// one step back).
    /// </summary>
    private void Minimize()
    {
        _isProbing = true;
        var kept = 0;
        for (var i = 0; i < _below.Count; i++)
        {
            var position = _below[i];
            ref readonly var entry = ref _trail[position];
            _isCovered = entry.Reason != Antecedent.Decision;
            if (_isCovered)
                Explain(entry.Reason, position, entry.Literal, entry.Node);
            if (!_isCovered)
                _below[kept++] = position;
        }
        _below.RemoveRange(kept, _below.Count - kept);
        _isProbing = false;
    }

    private readonly List<int> _clause = [];

    /// <summary>Literals of bounds that stood on the trail before they were named: they come back as long as the bound holds.</summary>
    private readonly List<int> _late = [];

    private void RestoreLate()
    {
        var kept = 0;
        for (var i = 0; i < _late.Count; i++)
        {
            var literal = _late[i];
            var (node, upper, bound) = _atoms[literal >> 1];
            if (_values[literal] == 0)
            {
                if (!Entails(BoundOf(node, upper), bound, upper))
                    continue;
                var at = _lastEvents[node * 2 + (upper ? 1 : 0)];
                while (at >= 0 && Entails(_trail[at].Before, bound, upper))
                    at = _trail[at].Previous;
                Assign(literal, at < 0 ? Antecedent.Decision : Antecedent.ByEvent(at));
            }
            if (_level > 0)
                _late[kept++] = literal;
        }
        _late.RemoveRange(kept, _late.Count - kept);
    }

    private void Install(int asserting)
    {
        var (fact, below) = (FactAt(asserting), _below.Select(p => (Fact: FactAt(p), Level: _levels[p])).ToList());
        Unmark();
        var back = below.Count == 0 ? 0 : below.Max(b => b.Level);
        GoBackTo(back);
        _clause.Clear();
        var negated = Negated(fact.IsBound ? Named(fact.Node, fact.Upper, fact.Bound) : fact.Literal);
        _clause.Add(negated);
        foreach (var (one, level) in below)
        {
            var literal = one.IsBound ? NameTrue(one) : one.Literal;
            _clause.Add(Negated(literal));
            if (level == back)
                (_clause[1], _clause[^1]) = (_clause[^1], _clause[1]);
        }
        if (_clause.Count == 1)
        {
            if (!Assign(negated, Antecedent.Decision))
                _isDead = true;
            return;
        }
        var clause = AddClause(System.Runtime.InteropServices.CollectionsMarshal.AsSpan(_clause), below.Select(b => b.Level).Distinct().Count() + 1);
        _learned.Add(clause);
        if (!Assign(negated, Antecedent.ByClause(clause)))
            throw new InvalidOperationException("What is learned makes something true.");
    }

    private Fact FactAt(int position) => _trail[position] is var entry && entry.Literal >= 0 ? Fact.Of(entry.Literal)
        : new Fact(-1, entry.Node, entry.Literal == -2, _needed[position]);

    /// <summary>The literal of a bound that holds now.</summary>
    private int NameTrue(Fact fact)
    {
        var literal = Named(fact.Node, fact.Upper, fact.Bound);
        if (_values[literal] == 0)
        {
            var at = _lastEvents[fact.Node * 2 + (fact.Upper ? 1 : 0)];
            while (_trail[at].Previous >= 0 && Entails(_trail[at].Before, fact.Bound, fact.Upper))
                at = _trail[at].Previous;
            if (_levels[at] < _level)
                _late.Add(literal);
            Assign(literal, Antecedent.ByEvent(at));
        }
        return literal;
    }

    /// <summary>Which assumptions the conflict at hand, or the falsity of one, comes from.</summary>
    private List<int> AssumptionsBehind()
    {
        var found = new SortedSet<int>();
        for (var at = _trailCount - 1; at >= 0 && _marked.Count > 0; at--)
        {
            if (!_seen[at])
                continue;
            if (_trail[at].Reason == Antecedent.Decision)
                found.Add(_levels[at] - 1);
            else
                Explain(_trail[at].Reason, at, _trail[at].Literal, _trail[at].Node);
        }
        Unmark();
        return [.. found];
    }
}
