using System.Numerics;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Discrete;

/// <summary>
/// One question: which slots of some variables configurations have beside some picks, exactly.
/// Configurations that earlier questions found answer most of it; those that the picks rule out are repaired, which carries their
/// rare values over; and what is then still open is left to search, value by value.
/// </summary>
internal sealed class ValueQuestion
{
    private readonly DiscreteNetwork _network;
    private readonly Slots _slots;
    private readonly ulong[] _domain;
    private readonly ulong[] _open;
    private readonly InterchangeableInstances? _alike;
    private Witness? _base;

    /// <param name="picks">The slots that picks ask for; a pick is kept also where its variable does not apply.</param>
    /// <param name="of">The variable that is asked for; −1 for all.</param>
    /// <param name="alike">Instances that can change places beside the picks.</param>
    public ValueQuestion(DiscreteNetwork network, int[] picks, int of = -1, InterchangeableInstances? alike = null)
    {
        (_network, _slots, _alike) = (network, network.Slots, alike);
        _domain = _slots.Full();
        foreach (var pick in picks)
            for (var slot = _slots.First[_slots.Owner[pick]]; slot < _slots.First[_slots.Owner[pick] + 1]; slot++)
                if (slot != pick && _slots[slot].Outcome != Outcomes.Absent)
                    BitSet.Clear(_domain, slot);
        network.Pool.Narrow([.. picks], _domain);
        Found = new ulong[_slots.Words];
        _open = (ulong[])_domain.Clone();
        if (of < 0)
            return;
        Array.Clear(_open);
        for (var slot = _slots.First[of]; slot < _slots.First[of + 1]; slot++)
            if (BitSet.Has(_domain, slot))
                BitSet.Set(_open, slot);
    }

    /// <summary>The slots that some configuration is known to have.</summary>
    public ulong[] Found { get; }

    /// <summary>Those of which it is not known yet whether some configuration has them.</summary>
    public ulong[] Open => _open;

    public bool IsAnswered => !BitSet.Any(_open);

    /// <summary>A configuration that keeps the picks; the latest one.</summary>
    public Witness Base => _base!;

    /// <summary>Called when more is known.</summary>
    public Action? Decided { get; set; }

    /// <summary>Takes over what is known of configurations that keep the picks.</summary>
    /// <param name="latest">One of them.</param>
    public void Mark(Witness latest, int[] picks)
    {
        if (_alike is null)
            _network.Pool.Move(picks, _open, Found);
        else
            foreach (var witness in _network.Pool.Containing(picks))
                Mark(witness);
        Mark(latest);
    }

    /// <summary>Takes over what a configuration that keeps the picks has.</summary>
    public void Mark(Witness witness)
    {
        _base = witness;
        BitSet.UniteWith(Found, witness.Set);
        BitSet.Subtract(_open, witness.Set);
        // So have those with the values of instances exchanged.
        foreach (var (variable, like) in _alike?.Exchanged(v => _slots[witness.Slots[v]].Outcome == Outcomes.Absent) ?? [])
            if (_slots.Of(variable, _slots[witness.Slots[like]]) is >= 0 and var slot)
            {
                BitSet.Set(Found, slot);
                BitSet.Clear(_open, slot);
            }
        Decided?.Invoke();
    }

    /// <summary>Leaves out what propagation beside the picks leaves no room for.</summary>
    public void Narrow(SearchSession session)
    {
        session.LookAtDomains((variable, domain) => _slots.Restrict(_domain, variable.Index, domain));
        BitSet.IntersectWith(_open, _domain);
        Decided?.Invoke();
    }

    /// <summary>
    /// The first open slot that is to be asked for, from one on; −1 where there is none. Of a number of which more than are listed were found
    /// only the ends are asked for.
    /// </summary>
    public int NextOpen(int from)
    {
        for (var w = from >> 6; w < _open.Length; w++)
            for (var rest = _open[w]; rest != 0; rest &= rest - 1)
            {
                var slot = (w << 6) + BitOperations.TrailingZeroCount(rest);
                if (slot < from || !BitSet.Has(_open, slot))
                    continue;
                if (!IsInside(slot))
                    return slot;
                BitSet.Clear(_open, slot);
            }
        return -1;
    }

    /// <summary>Whether a slot is a step between others that were found, of a number of which more than are listed were.</summary>
    private bool IsInside(int slot)
    {
        var variable = _slots.Owner[slot];
        if (!_slots.IsNumber(variable) || _slots.SizeOf(variable) <= Available.MostListed || _slots[slot].Outcome != Outcomes.Present)
            return false;
        var (lowest, highest, count) = (-1, -1, 0);
        for (var other = _slots.First[variable]; other < _slots.First[variable + 1]; other++)
            if (BitSet.Has(Found, other) && _slots[other].Outcome == Outcomes.Present)
                (lowest, highest, count) = (lowest < 0 ? other : lowest, other, count + 1);
        return count > Available.MostListed && lowest < slot && slot < highest;
    }

    /// <summary>
    /// The open slots that are asked for together with one, since one proof may rule them all out: the steps of a number that follow upon it, all
    /// open values of a choice, otherwise the slot alone.
    /// </summary>
    public List<int> AskedWith(int slot)
    {
        var (variable, together) = (_slots.Owner[slot], new List<int> { slot });
        if (_slots[slot].Outcome == Outcomes.Present)
            for (var next = slot + 1; next < _slots.First[variable + 1] && (BitSet.Has(_open, next) || !_slots.IsNumber(variable)); next++)
                if (BitSet.Has(_open, next))
                    together.Add(next);
        return together;
    }

    /// <summary>What is left of all slots, as far as it is known.</summary>
    public ulong[] Left => _domain;

    /// <summary>Leaves out a value that no configuration has, here and in the instances behind.</summary>
    public void RuleOut(int slot)
    {
        BitSet.Clear(_domain, slot);
        BitSet.Clear(_open, slot);
        if (_slots[slot].Outcome != Outcomes.Absent)
            foreach (var behind in _alike?.Behind(_slots.Owner[slot]) ?? [])
                if (_slots.Of(behind, _slots[slot]) is >= 0 and var same)
                {
                    BitSet.Clear(_domain, same);
                    BitSet.Clear(_open, same);
                }
        Decided?.Invoke();
    }

    /// <summary>Takes over whether some configuration has a slot, from whoever knows.</summary>
    public void Know(int slot, bool isPossible)
    {
        BitSet.Clear(_open, slot);
        if (isPossible)
            BitSet.Set(Found, slot);
        else
            BitSet.Clear(_domain, slot);
    }

    /// <summary>
    /// Asks for what is open by changing configurations: those that have a value already are made to keep the picks, and one that
    /// does is made to have it; each takes as many other open values as it can.
    /// </summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    /// <param name="from">The first slot that is asked for.</param>
    /// <param name="to">The slot behind the last one.</param>
    public void ByRepair(Repair repair, int from, int to, CancellationToken cancel)
    {
        // What fails for some steps of a number fails for its neighbours, too; those are left to be ruled out together.
        var (failing, failures) = (-1, 0);
        for (var slot = NextIn(_open, from, to); slot >= 0; slot = NextIn(_open, slot + 1, to))
        {
            if (cancel.IsCancellationRequested)
                throw new SearchInterrupted();
            var variable = _slots.Owner[slot];
            if (variable == failing && failures >= MostFailingSteps && _slots.IsNumber(variable))
                continue;
            var before = repair.Work;
            if (!Begin(repair, slot))
            {
                (failing, failures) = (variable, variable == failing ? failures + 1 : 1);
                continue;
            }
            failures = 0;
            _work += repair.Work - before;
            _begun++;
            TakeMore(repair, slot);
            var found = repair.Found;
            _network.Pool.Add(found);
            Mark(found);
        }
    }

    private const int MostFailingSteps = 2;

    /// <summary>Takes over what the latest configuration can be with one variable changed, which costs no more than a look at that variable's rules.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    /// <param name="from">The first slot that is asked for.</param>
    /// <param name="to">The slot behind the last one.</param>
    public void ByOneChange(Repair repair, int from, int to, CancellationToken cancel)
    {
        if (!repair.Start(Base, _domain, _open))
            return;
        for (var slot = NextIn(_open, from, to); slot >= 0; slot = NextIn(_open, slot + 1, to))
        {
            if (cancel.IsCancellationRequested)
                throw new SearchInterrupted();
            if (!repair.Fits(slot))
                continue;
            BitSet.Set(Found, slot);
            BitSet.Clear(_open, slot);
        }
        Decided?.Invoke();
    }

    /// <summary>The first slot of a set from one on and before another; −1 where there is none.</summary>
    private static int NextIn(ulong[] set, int from, int to)
    {
        for (var w = from >> 6; w << 6 < to; w++)
            if ((w == from >> 6 ? set[w] & (ulong.MaxValue << from) : set[w]) is var rest and not 0)
                return (w << 6) + BitOperations.TrailingZeroCount(rest) is var slot && slot < to ? slot : -1;
        return -1;
    }

    private bool Begin(Repair repair, int slot) =>
        (_network.Pool.LatestOf(slot) is { } known && repair.Start(known, _domain, _open) && repair.Take(slot))
        || (repair.Start(Base, _domain, _open) && repair.Take(slot));

    /// <summary>What it took to begin with a value, in all, and how often that was done.</summary>
    private long _work;
    private int _begun;

    /// <summary>Takes more open values beside one, as long as each costs less than to begin with it.</summary>
    private void TakeMore(Repair repair, int after)
    {
        var (begun, taken) = (repair.Work, 0L);
        for (var slot = NextIn(_open, after, _slots.Count); slot >= 0 && repair.Work - begun <= (taken + 1) * _work / _begun;)
        {
            if (repair.TakeIfEasy(slot))
                taken++;
            // A variable has one value; where one of its values fails, another variable is more likely to go.
            slot = NextIn(_open, _slots.First[_slots.Owner[slot] + 1], _slots.Count);
        }
    }
}
