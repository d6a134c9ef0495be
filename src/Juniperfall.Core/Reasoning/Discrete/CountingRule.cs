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
}
