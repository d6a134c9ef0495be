using Juniperfall.Core.Language;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// A cardinality constraint: of some yes/no variables at least so many are true and at most so many, unless a literal holds that stands
/// before it. It is counted, however many variables there are.
/// </summary>
internal sealed class CountingRule
{
    private readonly int[] _trueSlots;
    private readonly int _least, _most;

    /// <summary>The slot with which it asks for nothing; −1 where it always does, and the variable of that.</summary>
    private readonly int _exempting, _exemptingVariable;

    private CountingRule(Slots slots, int[] members, int least, int most, int exempting)
    {
        (Members, _least, _most, _exempting) = (members, least, most, exempting);
        _trueSlots = Array.ConvertAll(members, v => slots.Of(v, new(Outcomes.True, 0)));
        _exemptingVariable = exempting < 0 ? -1 : slots.Owner[exempting];
    }

    /// <summary>The variables that are counted.</summary>
    public int[] Members { get; }

    /// <summary>Up to so many variables a truth table is quicker.</summary>
    private const int MostOfTable = 5;

    /// <summary>What is asked of a node as a count; null where it is no count of variables that are either yes or no.</summary>
    public static CountingRule? Of(Network network, Slots slots, int node, Outcomes allowed)
    {
        if ((allowed & Outcomes.Value) != Outcomes.True)
            return null;
        var (count, exempting) = (node, -1);
        if (network.Nodes[node] is { Operator: Operator.Or, Children: [var left, var right] })
        {
            count = network.Nodes[left].Operator == Operator.Counting ? left : right;
            if ((exempting = SlotOf(count == left ? right : left)) < 0)
                return null;
        }
        if (network.Nodes[count] is not { Operator: Operator.Counting } counting || counting.Children.Length <= MostOfTable
            || !Array.TrueForAll(counting.Children, c => network.Nodes[c].Variable is not null && IsYesOrNo(network.Nodes[c].Variable!.Index)))
            return null;
        int[] members = Array.ConvertAll(counting.Children, c => network.Nodes[c].Variable!.Index);
        if (members.Distinct().Count() < members.Length)
            return null;
        return new(slots, members, counting.CountingKind == CountingKind.AtMost ? 0 : counting.Count,
            counting.CountingKind == CountingKind.AtLeast ? members.Length : counting.Count, exempting);

        // A variable as it is, or none of it.
        int SlotOf(int literal) => network.Nodes[literal] switch
        {
            { Variable: { } variable } when IsYesOrNo(variable.Index) => slots.Of(variable.Index, new(Outcomes.True, 0)),
            { Operator: Operator.Not, Children: [var of] } when network.Nodes[of].Variable is { } variable && IsYesOrNo(variable.Index) =>
                slots.Of(variable.Index, new(Outcomes.False, 0)),
            _ => -1,
        };

        // Propagation may have left only one of the two.
        bool IsYesOrNo(int variable) => slots.SizeOf(variable) > 0
            && Enumerable.Range(slots.First[variable], slots.SizeOf(variable)).All(s => slots[s].Outcome is Outcomes.True or Outcomes.False);
    }

    public bool Holds(int[] current) => IsExempt(current) || Excess(current) == 0;

    private bool IsExempt(int[] current) => _exempting >= 0 && current[_exemptingVariable] == _exempting;

    /// <summary>How many more are true than may be; below zero how many are missing.</summary>
    public int Excess(int[] current)
    {
        var count = 0;
        for (var i = 0; i < _trueSlots.Length; i++)
            if (current[Members[i]] == _trueSlots[i])
                count++;
        return count > _most ? count - _most : count < _least ? count - _least : 0;
    }

    /// <summary>The slot of a member in which it is counted.</summary>
    public int TrueSlotOf(int member) => _trueSlots[member];

    /// <summary>The count as clauses, each as variables with values of theirs as bits; null where there are too many.</summary>
    public List<(int Variable, ulong Values)[]>? Clauses(Slots slots, int most)
    {
        int[] open = [.. Enumerable.Range(0, Members.Length).Where(i => slots.SizeOf(Members[i]) > 1)];
        var always = Enumerable.Range(0, Members.Length).Count(i => slots.SizeOf(Members[i]) == 1 && slots.First[Members[i]] == _trueSlots[i]);
        (int, ulong)[] exempted = _exempting >= 0 && slots.SizeOf(_exemptingVariable) > 1 ? [(_exemptingVariable, Bit(slots, _exempting))] : [];
        if (_exempting >= 0 && exempted.Length == 0 && slots.First[_exemptingVariable] == _exempting)
            return [];
        var clauses = new List<(int, ulong)[]>();
        // Of one more than may be true some is not; of so many that too few are left some is.
        return Add(_most - always + 1, counted: false) && Add(open.Length - (_least - always) + 1, counted: true) ? clauses : null;

        bool Add(int size, bool counted)
        {
            if (size > open.Length)
                return true;
            var chosen = new int[Math.Max(size, 0)];
            return Choose(0, 0);

            bool Choose(int at, int from)
            {
                if (at >= chosen.Length)
                {
                    clauses.Add([.. exempted, .. chosen.Select(i => (Members[i], counted ? Bit(slots, _trueSlots[i]) : 3 ^ Bit(slots, _trueSlots[i])))]);
                    return clauses.Count <= most;
                }
                for (var i = from; i <= open.Length - (chosen.Length - at); i++)
                {
                    chosen[at] = open[i];
                    if (!Choose(at + 1, i + 1))
                        return false;
                }
                return true;
            }
        }
    }

    private static ulong Bit(Slots slots, int slot) => 1UL << (slot - slots.First[slots.Owner[slot]]);
}
