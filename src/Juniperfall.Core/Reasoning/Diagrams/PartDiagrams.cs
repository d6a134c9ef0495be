using System.Collections.Immutable;
using System.Numerics;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Diagrams;

/// <summary>
/// The independent parts of a network, which share no rule, each as a <see cref="DecisionDiagram"/> where that stays small: its answers take time in
/// the size of the diagram, whatever is picked. Never changed.
/// </summary>
internal sealed class PartDiagrams
{
    /// <summary>How many clauses the rules of one part may come to.</summary>
    private const int MostClauses = 100_000;

    private readonly DecisionDiagram[] _parts;
    private readonly bool[] _isDecided;
    private readonly Slots _slots;

    private PartDiagrams(Slots slots, DecisionDiagram[] parts)
    {
        (_slots, _parts, _isDecided) = (slots, parts, new bool[slots.Variables]);
        foreach (var variable in parts.SelectMany(p => p.Variables))
            _isDecided[variable] = true;
        IsWhole = Array.TrueForAll(_isDecided, d => d);
    }

    /// <summary>Whether all variables are in some diagram.</summary>
    public bool IsWhole { get; }

    /// <summary>How many edges all diagrams have together.</summary>
    public int Edges => _parts.Sum(p => p.Edges);

    /// <summary>Whether a variable is in some diagram.</summary>
    public bool IsDecided(int variable) => _isDecided[variable];

    /// <summary>The diagrams as they are kept; none where they are too large for that.</summary>
    public ImmutableArray<WarmDiagram> ToKept() => Edges > MostKeptEdges ? [] : [.. _parts.Select(p => p.ToKept())];

    private const int MostKeptEdges = 400_000;

    /// <summary>Those that were kept; null where some cannot be of these slots, or there are none.</summary>
    public static PartDiagrams? Of(ImmutableArray<WarmDiagram> kept, Slots slots)
    {
        DecisionDiagram?[] parts = [.. kept.Select(k => DecisionDiagram.Of(k, slots))];
        return parts.Length == 0 || Array.Exists(parts, p => p is null) ? null : new(slots, parts!);
    }

    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public static PartDiagrams Of(Network network, DiscreteNetwork discrete, CancellationToken cancel)
    {
        var (slots, rules) = (discrete.Slots, discrete.Rules);
        // What is decided before any pick may still break a rule in exact numbers; search finds that.
        for (var r = 0; r < rules.Count; r++)
            if (FirstOpen(r) < 0 && !rules.Holds(r, slots.First))
                return new(slots, []);
        var leader = Enumerable.Range(0, slots.Variables).ToArray();
        for (var r = 0; r < rules.Count; r++)
            foreach (var variable in rules.VariablesOf(r))
                if (slots.SizeOf(variable) > 1)
                    leader[Find(variable)] = Find(FirstOpen(r));
        var (writer, parts) = (new RuleClauses(network, discrete), new List<DecisionDiagram>());
        var rulesOf = Enumerable.Range(0, rules.Count).ToLookup(r => FirstOpen(r) is >= 0 and var first ? Find(first) : -1);
        // What no rule holds together is one part without clauses.
        foreach (var part in Enumerable.Range(0, slots.Variables).GroupBy(v => rulesOf[leader[Find(v)]].Any() ? Find(v) : -1))
            if (Part([.. part], part.Key < 0 ? [] : rulesOf[part.Key], slots, rules, writer, cancel) is { } diagram)
                parts.Add(diagram);
        return new(slots, [.. parts]);

        int FirstOpen(int rule) => Array.Find(rules.VariablesOf(rule), v => slots.SizeOf(v) > 1) is var found
            && Array.Exists(rules.VariablesOf(rule), v => slots.SizeOf(v) > 1) ? found : -1;

        int Find(int variable)
        {
            while (leader[variable] != variable)
                variable = leader[variable] = leader[leader[variable]];
            return variable;
        }
    }

    private static DecisionDiagram? Part(int[] variables, IEnumerable<int> rules, Slots slots, RuleTables tables, RuleClauses writer, CancellationToken cancel)
    {
        if (Array.Exists(variables, v => slots.SizeOf(v) > RuleClauses.MostValues))
            return null;
        var place = new Dictionary<int, int>();
        foreach (var variable in variables)
            place[variable] = place.Count;
        var clauses = new List<SlotClause>();
        // What is largest is the likeliest to be too large.
        foreach (var rule in rules.OrderByDescending(r => tables.VariablesOf(r).Sum(v => Math.Log2(slots.SizeOf(v)))))
        {
            cancel.ThrowIfCancellationRequested();
            if (writer.Of(rule) is not { } written || clauses.Count + written.Count > MostClauses)
                return null;
            clauses.AddRange(written.Select(c => new SlotClause(Array.ConvertAll(c.Literals, l => (place[l.Variable], l.Values)))));
        }
        var all = Array.ConvertAll(variables, v => slots.SizeOf(v) == 64 ? ulong.MaxValue : (1UL << slots.SizeOf(v)) - 1);
        return DiagramCompiler.Of(variables, all, clauses, v => slots.First[v], cancel);
    }

    /// <summary>Looks what picks leave.</summary>
    /// <param name="picks">The slots that are asked for. A pick is kept also where its variable does not apply.</param>
    public Look Beside(int[] picks) => new(this, picks);

    /// <summary>What some picks leave of the parts.</summary>
    internal sealed class Look
    {
        private readonly PartDiagrams _of;

        /// <summary>By slot: 1 where it gives up a pick.</summary>
        private readonly byte[] _costs;
        private readonly byte[][] _inside;

        public Look(PartDiagrams of, int[] picks)
        {
            (_of, _costs) = (of, new byte[of._slots.Count]);
            foreach (var pick in picks)
                for (var slot = of._slots.First[of._slots.Owner[pick]]; slot < of._slots.First[of._slots.Owner[pick] + 1]; slot++)
                    _costs[slot] = slot == pick || of._slots[slot].Outcome == Outcomes.Absent ? (byte)0 : (byte)1;
            _inside = Array.ConvertAll(of._parts, p => p.Inside(_costs));
        }

        /// <summary>The slots that a configuration with all picks has, and those that one has that keeps all picks but that of the slot's variable.</summary>
        /// <remarks>Of the variables in diagrams; of the others none.</remarks>
        public (ulong[] All, ulong[] Others) Possible()
        {
            var (all, others) = (new ulong[_of._slots.Words], new ulong[_of._slots.Words]);
            for (var p = 0; p < _inside.Length; p++)
            {
                var (part, given) = (_of._parts[p], _of._parts[p].Given(_inside[p]));
                for (var leaf = 0; leaf < given.Length; leaf++)
                {
                    var slot = part.Slots[leaf];
                    if (given[leaf] == 0)
                        BitSet.Set(all, slot);
                    if (given[leaf] == _costs[slot])
                        BitSet.Set(others, slot);
                }
            }
            return (all, others);
        }

        /// <summary>A configuration with all picks, as a slot for each variable; null where there is none. Only where all variables are in diagrams.</summary>
        public int[]? Witness()
        {
            var found = new int[_of._slots.Variables];
            for (var p = 0; p < _inside.Length; p++)
            {
                if (_of._parts[p].AtTheLeast(_inside[p]) > 0)
                    return null;
                foreach (var slot in _of._parts[p].Cheapest(_inside[p]))
                    found[_of._slots.Owner[slot]] = slot;
            }
            return found;
        }

        /// <summary>How many configurations keep all picks. Only where all variables are in diagrams.</summary>
        public BigInteger Count()
        {
            var allowed = _of._slots.Full();
            for (var slot = 0; slot < _costs.Length; slot++)
                if (_costs[slot] > 0)
                    BitSet.Clear(allowed, slot);
            return _of._parts.Aggregate(BigInteger.One, (product, part) => product * part.Count(allowed));
        }
    }
}
