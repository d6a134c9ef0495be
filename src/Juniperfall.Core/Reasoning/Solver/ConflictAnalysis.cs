using System.Runtime.InteropServices;

namespace Juniperfall.Core.Reasoning.Solver;

/// <summary>
/// Learning from conflicts by the first unique implication point: the first fact of the latest level that alone, with earlier ones,
/// leads to the conflict (Marques-Silva and Sakallah, “GRASP: a search algorithm for propositional satisfiability”, 1999; Zhang and
/// others, “Efficient conflict driven learning in a Boolean satisfiability solver”, 2001). Facts are positions of the trail.
/// </summary>
internal sealed class ConflictAnalysis(LiteralStore store, ClauseDatabase clauses, ConflictMarks marks, Explanations explanations)
{
    private readonly List<int> _clause = [];

    /// <summary>Learns from the conflict at hand.</summary>
    public void LearnFromConflict()
    {
        store.Queue.Clear();
        ExplainConflict();
        LearnFromMarked();
    }

    private void ExplainConflict()
    {
        var (reason, literal) = store.Conflict;
        // A bound that reaches a named one which is false: the named one alone would say nothing new.
        if (Antecedent.KindOf(reason) == Antecedent.Kind.Event)
            ExplainEntry(Antecedent.DataOf(reason));
        else
            explanations.Explain(reason, store.Trail.Count, LiteralNames.Negated(literal));
        marks.MarkLiteral(literal);
    }

    /// <summary>Marks what led to what stands at a position.</summary>
    private void ExplainEntry(int position)
    {
        var entry = store.Trail[position];
        explanations.Explain(entry.Reason, position, entry.Literal, entry.Node);
    }

    /// <summary>
    /// Learns from what is marked, which cannot hold together, and goes back to where the learned clause makes something new
    /// true. Where that needs no decision at all there is no solution for good.
    /// </summary>
    public void LearnFromMarked()
    {
        store.Queue.Clear();
        store.Order.Decay();
        // Something that stood before may be noticed only now: then the conflict belongs to the level where it arose.
        while (marks.OpenCount == 0)
        {
            if (marks.Below.Count == 0)
            {
                marks.Clear();
                clauses.IsContradictory = true;
                return;
            }
            List<int> marked = [.. marks.Below];
            var level = marked.Max(store.Trail.LevelOf);
            marks.Clear();
            store.GoBackTo(level);
            foreach (var position in marked)
                marks.Mark(position);
        }
        var at = store.Trail.Count - 1;
        while (true)
        {
            while (!marks.Has(at))
                at--;
            if (marks.OpenCount == 1)
                break;
            marks.Resolve(at);
            ExplainEntry(at);
            at--;
        }
        Minimize();
        Install(at);
    }

    /// <summary>
    /// Leaves out what the rest of the clause leads to by itself (Sörensson and Biere, “Minimizing learned clauses”, 2009; only
    /// one step back).
    /// </summary>
    private void Minimize()
    {
        var kept = 0;
        for (var i = 0; i < marks.Below.Count; i++)
        {
            var position = marks.Below[i];
            if (!IsImplied(position))
                marks.Below[kept++] = position;
        }
        marks.Below.RemoveRange(kept, marks.Below.Count - kept);
    }

    private bool IsImplied(int position)
    {
        if (store.Trail[position].Reason == Antecedent.Decision)
            return false;
        marks.StartProbe();
        ExplainEntry(position);
        marks.EndProbe();
        return marks.IsCovered;
    }

    private void Install(int asserting)
    {
        var (fact, below) = (marks.FactAt(asserting), marks.Below.Select(p => (Fact: marks.FactAt(p), Level: store.Trail.LevelOf(p))).ToList());
        marks.Clear();
        var back = below.Count == 0 ? 0 : below.Max(b => b.Level);
        store.GoBackTo(back);
        _clause.Clear();
        var negated = LiteralNames.Negated(fact.IsBound ? store.Bounds.Named(fact.Node, fact.Upper, fact.Bound) : fact.Literal);
        _clause.Add(negated);
        foreach (var (one, level) in below)
        {
            var literal = one.IsBound ? store.Bounds.NameTrue(one) : one.Literal;
            _clause.Add(LiteralNames.Negated(literal));
            if (level == back)
                (_clause[1], _clause[^1]) = (_clause[^1], _clause[1]);
        }
        if (_clause.Count == 1)
        {
            if (!store.Assign(negated, Antecedent.Decision))
                clauses.IsContradictory = true;
            return;
        }
        var clause = clauses.Learn(CollectionsMarshal.AsSpan(_clause), below.Select(b => b.Level).Distinct().Count() + 1);
        if (!store.Assign(negated, Antecedent.ByClause(clause)))
            throw new InvalidOperationException("What is learned makes something true.");
    }

    /// <summary>Which assumptions, by their level less one, what is marked comes from.</summary>
    public List<int> AssumptionsBehind()
    {
        var found = new SortedSet<int>();
        for (var at = store.Trail.Count - 1; at >= 0 && !marks.IsEmpty; at--)
        {
            if (!marks.Has(at))
                continue;
            if (store.Trail[at].Reason == Antecedent.Decision)
                found.Add(store.Trail.LevelOf(at) - 1);
            else
                ExplainEntry(at);
        }
        marks.Clear();
        return [.. found];
    }
}
