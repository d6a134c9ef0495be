using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Discrete;

namespace Juniperfall.Core.Reasoning;

/// <summary>Which values can be had in a model without numbers.</summary>
public sealed partial class Reasoner
{
    private readonly DiscreteNetwork? _discrete;

    /// <summary>The configurations that earlier questions have found and that contain some picks, the latest first.</summary>
    private IEnumerable<Assigned[]> KnownContaining(IEnumerable<Pick> picks)
    {
        var wanted = Wanted(picks);
        return _discrete is { } discrete
            ? discrete.Pool.All().Where(w => wanted.TrueForAll(p => p.IsMetBy(discrete.Slots[w.Slots[p.Variable]]))).Select(w => discrete.Slots.ToConfiguration(w.Slots))
            : _memory.Containing(wanted).Select(s => s.Base);
    }

    private void Remember(Assigned[] configuration)
    {
        if (_discrete is not { } discrete)
            _memory.Add(new(configuration, -1, []));
        else
            discrete.Pool.Add(new(discrete.Slots.Of(configuration)!, discrete.Slots.Words));
    }

    /// <summary>As <see cref="AllAvailable"/>, for a network without numbers.</summary>
    private (Available?[] Available, Dictionary<int, Available> Alternatives) AllAvailable(DiscreteNetwork network, Search search, IReadOnlyList<(Variable Variable, Pick Pick)> picks)
    {
        // What no configuration has is kept where its variable does not apply.
        var wanted = Wanted(picks.Select(p => p.Pick)).Select(w => network.Slots.Of(w.Variable, w.Value) is >= 0 and var slot ? slot : network.Slots.Of(w.Variable, Assigned.Absent)).ToArray();
        var all = new ValueQuestion(network, wanted);
        ValueQuestion[] butOne = [.. picks.Select((p, i) => new ValueQuestion(network, [.. wanted.Where((_, k) => k != i)], p.Variable.Index))];
        Mark(network, picks, wanted, all, butOne);
        for (var i = 0; i < butOne.Length; i++)
            Ask(butOne[i], network, search, picks.Where((_, k) => k != i).Select(p => p.Pick), [.. wanted.Where((_, k) => k != i)], butOne[i].Base);
        Ask(all, network, search, picks.Select(p => p.Pick), wanted, all.Base);
        return ([.. _network.Variables.Select(v => AvailableOf(network.Slots, v, all.Found))],
            picks.Select((p, i) => (p.Variable, butOne[i].Found)).ToDictionary(p => p.Variable.Index, p => AvailableOf(network.Slots, p.Variable, p.Found)));
    }

    /// <summary>What is known beside all picks, and beside all but one.</summary>
    private static void Mark(DiscreteNetwork network, IReadOnlyList<(Variable Variable, Pick Pick)> picks, int[] wanted, ValueQuestion all, ValueQuestion[] butOne)
    {
        var latest = default(Witness);
        foreach (var witness in network.Pool.All())
        {
            var missed = -1;
            var isNear = true;
            for (var i = 0; i < wanted.Length && isNear; i++)
                if (witness.Slots[picks[i].Variable.Index] is var slot && slot != wanted[i] && network.Slots[slot].Outcome != Outcomes.Absent)
                    (isNear, missed) = (missed < 0, i);
            if (!isNear)
                continue;
            if (missed >= 0)
            {
                butOne[missed].Mark(witness);
                continue;
            }
            all.Mark(witness);
            latest ??= witness;
        }
        // What keeps all picks keeps all but one.
        foreach (var question in butOne)
            question.Mark(latest!);
        all.Mark(latest!);
    }

    private void Ask(ValueQuestion question, DiscreteNetwork network, Search search, IEnumerable<Pick> picks, int[] wanted, Witness latest)
    {
        if (question.IsAnswered)
            return;
        search.Standing.Clear();
        if (!search.Stand(Contained(picks)))
            throw new InvalidOperationException("Picks that stand together leave nothing.");
        question.Narrow(search.Domains());
        if (!question.IsAnswered)
            network.Repairing(repair =>
            {
                question.ByRepair(repair);
                return true;
            });
        foreach (var slot in BitSet.Members(question.Open).ToList())
            if (BitSet.Has(question.Open, slot))
                BySearch(question, network, search, slot);
        network.Pool.Narrowed(wanted, question.Left);
    }

    /// <summary>Whether some configuration has a value: by mending a known one, or by search, which leans towards what is open too.</summary>
    private void BySearch(ValueQuestion question, DiscreteNetwork network, Search search, int slot)
    {
        var slots = network.Slots;
        var variable = _network.Variables[slots.Owner[slot]];
        (Variable, VariableDomain)[] to = [(variable, variable.Initial.Just(slots[slot]))];
        var found = default(int[]);
        var mending = search.Mend(to, slots.ToConfiguration(question.Base.Slots), changes =>
        {
            found = (int[])question.Base.Slots.Clone();
            foreach (var (changed, value) in changes)
                found[changed] = slots.Of(changed, value);
            foreach (var (changed, _) in changes)
                foreach (var rule in network.Rules.RulesOf(changed))
                    if (!network.Rules.Holds(rule, found))
                        return network.Rules.VariablesOf(rule);
            return null;
        });
        if (mending == Mending.GivenUp)
        {
            foreach (var other in _network.Variables)
                search.Preferred[other.Index] = slots[question.Base.Slots[other.Index]];
            foreach (var open in BitSet.Members(question.Open))
                search.Preferred[slots.Owner[open]] = slots[open];
            found = search.Try(to) is { } configuration ? slots.Of(configuration) : null;
        }
        else if (mending == Mending.Refuted)
            found = null;
        if (found is null)
        {
            question.RuleOut(slot);
            return;
        }
        var witness = new Witness(found, slots.Words);
        network.Pool.Add(witness);
        question.Mark(witness);
    }

    private sealed record LastAvailable(ulong Slots, Available Available);

    /// <summary>By variable of at most 64 slots: what the latest answer said of it, which the next one mostly says too.</summary>
    private readonly LastAvailable?[] _lastAvailable;

    private Available AvailableOf(Slots slots, Variable variable, ulong[] found)
    {
        if (slots.SizeOf(variable.Index) > 64)
            return NewAvailable(slots, variable, found);
        var had = slots.OfVariable(found, variable.Index);
        if (_lastAvailable[variable.Index] is { } last && last.Slots == had)
            return last.Available;
        return (_lastAvailable[variable.Index] = new(had, NewAvailable(slots, variable, found))).Available;
    }

    private static Available NewAvailable(Slots slots, Variable variable, ulong[] found)
    {
        var (values, none, absent) = (ImmutableArray.CreateBuilder<Value>(), false, false);
        for (var slot = slots.First[variable.Index]; slot < slots.First[variable.Index + 1]; slot++)
            if (BitSet.Has(found, slot))
                switch (slots[slot].Outcome)
                {
                    case Outcomes.Absent:
                        absent = true;
                        break;
                    case Outcomes.None:
                        none = true;
                        break;
                    default:
                        values.Add(ToValue(variable, slots[slot]));
                        break;
                }
        return new(values.ToImmutable(), none, null, null, true) { MayBeAbsent = absent };
    }
}
