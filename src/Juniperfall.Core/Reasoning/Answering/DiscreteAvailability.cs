using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Diagrams;
using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Reasoning.Symmetry;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Which values can be had in a model whose variables have few enough values to number them through.</summary>
internal sealed class DiscreteAvailability(PreparedNetwork prepared, DiscreteNetwork network) : IAvailability
{
    public Availabilities Of(SearchSession session, IReadOnlyList<(Variable Variable, Pick Pick)> picks, Assigned[] witness, bool alternatives,
        Action<Func<PartialAvailabilities>>? watch)
    {
        var wanted = prepared.Known.Slots(network, picks.Select(p => p.Pick))!;
        var diagrams = prepared.Diagrams;
        var known = diagrams?.Beside(wanted).Possible() ?? default;
        if (diagrams is { IsWhole: true })
            return Of(known, picks);
        var all = new ValueQuestion(network, wanted, alike: InterchangeableInstances.Under(prepared.Network, prepared.Wanted(picks.Select(p => p.Pick))));
        var latest = network.Pool.LatestContaining(wanted) ?? new Witness(network.Slots.Of(witness)!, network.Slots.Words);
        all.Mark(latest, wanted);
        if (diagrams is not null)
            TakeOver(diagrams, known.All, all);
        var butOne = new ValueQuestion[alternatives ? picks.Count : 0];
        var others = new int[picks.Count][];
        for (var i = 0; i < butOne.Length; i++)
        {
            others[i] = [.. wanted.Where((_, k) => k != i)];
            butOne[i] = new(network, others[i], picks[i].Variable.Index);
            butOne[i].Mark(latest, others[i]);
            if (diagrams is not null)
                TakeOver(diagrams, known.Others, butOne[i]);
        }
        if (watch is not null)
        {
            PartialAvailabilities Known() => new(Array.ConvertAll(prepared.Network.Variables, v => PartOf(all, v)),
                picks.Take(butOne.Length).Select((p, i) => (p.Variable, Part: PartOf(butOne[i], p.Variable))).ToDictionary(p => p.Variable.Index, p => p.Part));
            foreach (var question in butOne.Append(all))
                question.Decided = () => watch(Known);
            watch(Known);
        }
        // The picked ones first: what is found beside them is at hand for the rest.
        for (var i = 0; i < butOne.Length; i++)
            Ask(butOne[i], session, picks.Where((_, k) => k != i).Select(p => p.Pick), others[i]);
        Ask(all, session, picks.Select(p => p.Pick), wanted);
        return new(Array.ConvertAll(prepared.Network.Variables, v => (Available?)AvailableOf(network.Slots, v, all.Found)),
            picks.Take(butOne.Length).Select((p, i) => (p.Variable, butOne[i].Found))
                .ToDictionary(p => p.Variable.Index, p => AvailableOf(network.Slots, p.Variable, p.Found)));
    }

    /// <summary>Where all variables are in diagrams, nothing is left to be asked.</summary>
    private Availabilities Of((ulong[] All, ulong[] Others) known, IReadOnlyList<(Variable Variable, Pick Pick)> picks) =>
        new(Array.ConvertAll(prepared.Network.Variables, v => (Available?)AvailableOf(network.Slots, v, known.All)),
            picks.ToDictionary(p => p.Variable.Index, p => AvailableOf(network.Slots, p.Variable, known.Others)));

    /// <summary>What diagrams know of their variables need not be asked.</summary>
    private void TakeOver(PartDiagrams diagrams, ulong[] possible, ValueQuestion question)
    {
        for (var slot = 0; slot < network.Slots.Count; slot++)
            if (BitSet.Has(question.Open, slot) && diagrams.IsDecided(network.Slots.Owner[slot]))
                question.Know(slot, BitSet.Has(possible, slot));
    }

    private void Ask(ValueQuestion question, SearchSession session, IEnumerable<Pick> picks, int[] wanted)
    {
        if (question.IsAnswered)
            return;
        session.Standing.Clear();
        if (!session.Stand(prepared.Containing(picks)))
            throw new InvalidOperationException("Picks that stand together leave nothing.");
        question.Narrow(session);
        if (!question.IsAnswered)
            ByRepair(question, 0, network.Slots.Count, session.Search.Cancel);
        var beside = prepared.Wanted(picks);
        for (var slot = question.NextOpen(0); slot >= 0; slot = question.NextOpen(slot))
        {
            var variable = network.Slots.Owner[slot];
            // From a value that search has found, others are mostly near.
            if (BySearch(question, session, beside, slot) && network.Slots.SizeOf(variable) >= FewValues)
                ByRepair(question, network.Slots.First[variable], network.Slots.First[variable + 1], session.Search.Cancel);
        }
        network.Pool.Narrowed(wanted, question.Left);
    }

    private const int FewValues = 6;

    private void ByRepair(ValueQuestion question, int from, int to, CancellationToken cancel) => network.Repairing(repair =>
    {
        question.ByOneChange(repair, from, to, cancel);
        question.ByRepair(repair, from, to, cancel);
        return true;
    });

    /// <summary>
    /// Whether some configuration has a value, or one of a run of steps: by mending a known one, or by search, which leans towards what is
    /// open too.
    /// </summary>
    private bool BySearch(ValueQuestion question, SearchSession session, List<Wanted> picks, int slot)
    {
        var slots = network.Slots;
        var variable = prepared.Network.Variables[slots.Owner[slot]];
        var together = question.AskedWith(slot);
        (Variable, VariableDomain)[] to = [(variable, together.Count == 1 ? variable.Initial.Just(slots[slot])
            : slots.IsNumber(variable.Index) ? variable.Initial.Steps(slots[slot].Index, slots[together[^1]].Index)
            : variable.Initial.Values(BitSet.Of(variable.Initial.Bits!.Length, together.Select(t => (int)slots[t].Index))))];
        var found = default(int[]);
        var mending = session.Mend(to, slots.ToConfiguration(question.Base.Slots), changes =>
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
            foreach (var other in prepared.Network.Variables)
                session.Search.Preferred[other.Index] = slots[question.Base.Slots[other.Index]];
            foreach (var open in BitSet.Members(question.Open))
                session.Search.Preferred[slots.Owner[open]] = slots[open];
            (found, mending) = session.Try(to, InterchangeableInstances.Orders(prepared.Network, picks, variable.Index)) is { } configuration
                ? (slots.Of(configuration), Mending.Mended) : (null, Mending.Refuted);
        }
        if (mending == Mending.Refuted)
        {
            together.ForEach(question.RuleOut);
            return false;
        }
        var witness = new Witness(found!, slots.Words);
        network.Pool.Add(witness);
        question.Mark(witness);
        return true;
    }

    /// <summary>What a question knows of a variable until now.</summary>
    private PartialAvailable PartOf(ValueQuestion question, Variable variable)
    {
        var (slots, isDecided) = (network.Slots, true);
        var undecided = ImmutableArray.CreateBuilder<Value>();
        for (var slot = slots.First[variable.Index]; slot < slots.First[variable.Index + 1]; slot++)
            if (BitSet.Has(question.Open, slot))
            {
                isDecided = false;
                if (slots[slot].Outcome != Outcomes.Absent && !slots.IsNumber(variable.Index))
                    undecided.Add(PickDomains.ToValue(variable, slots[slot]));
            }
        return new(AvailableOf(slots, variable, question.Found), isDecided ? null : undecided.ToImmutable());
    }

    private sealed record LastAvailable(ulong Slots, Available Available);

    /// <summary>
    /// By variable of at most 64 slots, and by what it has of its first two: what the latest answer said of it, which the next one
    /// mostly says too.
    /// </summary>
    private readonly LastAvailable?[] _lastAvailable = new LastAvailable?[prepared.Network.Variables.Length * LastAvailables];
    private const int LastAvailables = 4;

    private Available AvailableOf(Slots slots, Variable variable, ulong[] found)
    {
        if (slots.SizeOf(variable.Index) > 64)
            return NewAvailable(slots, variable, found);
        var had = slots.OfVariable(found, variable.Index);
        ref var latest = ref _lastAvailable[variable.Index * LastAvailables + (int)(had & (LastAvailables - 1))];
        if (latest is { } last && last.Slots == had)
            return last.Available;
        var available = NewAvailable(slots, variable, found);
        latest = new(had, available);
        return available;
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
                        values.Add(PickDomains.ToValue(variable, slots[slot]));
                        break;
                }
        // The steps of a number are in order.
        var isNumber = slots.IsNumber(variable.Index) && values.Count > 0;
        return new(values.ToImmutable(), none, isNumber ? values[0].Number : null, isNumber ? values[^1].Number : null,
            !isNumber || values.Count <= Available.MostListed)
        { MayBeAbsent = absent };
    }
}
