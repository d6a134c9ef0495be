using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Discrete;

namespace Juniperfall.Core.Reasoning;

/// <summary>Which values can be had in a model whose variables have few enough values to number them through.</summary>
public sealed partial class Reasoner
{
    private readonly DiscreteNetwork? _discrete;

    /// <summary>The configurations that earlier questions have found and that contain some picks, the latest first.</summary>
    private IEnumerable<Assigned[]> KnownContaining(IEnumerable<Pick> picks) => _discrete is { } discrete
        ? Wanted(discrete, picks) is { } wanted ? discrete.Pool.Containing(wanted).AsEnumerable().Reverse().Select(w => discrete.Slots.ToConfiguration(w.Slots)) : []
        : _memory.Containing(Wanted(picks)).Select(s => s.Base);

    /// <summary>The latest of them; null where there is none.</summary>
    private Assigned[]? LatestContaining(IEnumerable<Pick> picks) => _discrete is { } discrete
        ? Wanted(discrete, picks) is { } wanted && discrete.Pool.LatestContaining(wanted) is { } latest ? discrete.Slots.ToConfiguration(latest.Slots) : null
        : KnownContaining(picks).FirstOrDefault();

    /// <summary>The slots that picks ask for; null where some pick can never be kept.</summary>
    private int[]? Wanted(DiscreteNetwork network, IEnumerable<Pick> picks)
    {
        // What no configuration has is kept where its variable does not apply.
        int[] wanted = [.. Wanted(picks).Select(w => network.Slots.Of(w.Variable, w.Value) is >= 0 and var slot ? slot : network.Slots.AbsentOf(w.Variable))];
        return Array.Exists(wanted, w => w < 0) ? null : wanted;
    }

    private void Remember(Assigned[] configuration)
    {
        if (_discrete is not { } discrete)
            _memory.Add(new(configuration, -1, []));
        else
            discrete.Pool.Add(new(discrete.Slots.Of(configuration)!, discrete.Slots.Words));
    }

    /// <summary>As <see cref="AllAvailable"/>, for a network without numbers.</summary>
    private (Available?[] Available, Dictionary<int, Available> Alternatives) AllAvailable(DiscreteNetwork network, Search search, IReadOnlyList<(Variable Variable, Pick Pick)> picks, Assigned[] witness)
    {
        var wanted = Wanted(network, picks.Select(p => p.Pick))!;
        var all = new ValueQuestion(network, wanted, alike: InterchangeableInstances.Under(_network, Wanted(picks.Select(p => p.Pick))));
        var latest = network.Pool.LatestContaining(wanted) ?? new Witness(network.Slots.Of(witness)!, network.Slots.Words);
        all.Mark(latest, wanted);
        var butOne = new ValueQuestion[picks.Count];
        // The picked ones first: what is found beside them is at hand for the rest.
        for (var i = 0; i < butOne.Length; i++)
        {
            int[] others = [.. wanted.Where((_, k) => k != i)];
            butOne[i] = new(network, others, picks[i].Variable.Index);
            butOne[i].Mark(latest, others);
            Ask(butOne[i], network, search, picks.Where((_, k) => k != i).Select(p => p.Pick), others);
        }
        Ask(all, network, search, picks.Select(p => p.Pick), wanted);
        return (Array.ConvertAll(_network.Variables, v => (Available?)AvailableOf(network.Slots, v, all.Found)),
            picks.Select((p, i) => (p.Variable, butOne[i].Found)).ToDictionary(p => p.Variable.Index, p => AvailableOf(network.Slots, p.Variable, p.Found)));
    }

    private void Ask(ValueQuestion question, DiscreteNetwork network, Search search, IEnumerable<Pick> picks, int[] wanted)
    {
        if (question.IsAnswered)
            return;
        search.Standing.Clear();
        if (!search.Stand(Contained(picks)))
            throw new InvalidOperationException("Picks that stand together leave nothing.");
        question.Narrow(search);
        if (!question.IsAnswered)
            ByRepair(question, network, 0, network.Slots.Count, search.Cancel);
        var beside = Wanted(picks);
        for (var slot = question.NextOpen(0); slot >= 0; slot = question.NextOpen(slot))
        {
            var variable = network.Slots.Owner[slot];
            // From a step that search has found, others are mostly near.
            if (BySearch(question, network, search, beside, slot) && network.Slots.IsNumber(variable))
                ByRepair(question, network, network.Slots.First[variable], network.Slots.First[variable + 1], search.Cancel);
        }
        network.Pool.Narrowed(wanted, question.Left);
    }

    private static void ByRepair(ValueQuestion question, DiscreteNetwork network, int from, int to, CancellationToken cancel) => network.Repairing(repair =>
    {
        question.ByRepair(repair, from, to, cancel);
        return true;
    });

    /// <summary>
    /// Whether some configuration has a value, or one of a run of steps: by mending a known one, or by search, which leans towards what is
    /// open too.
    /// </summary>
    private bool BySearch(ValueQuestion question, DiscreteNetwork network, Search search, List<Wanted> picks, int slot)
    {
        var slots = network.Slots;
        var variable = _network.Variables[slots.Owner[slot]];
        var last = question.EndOfRun(slot);
        (Variable, VariableDomain)[] to = [(variable, last == slot ? variable.Initial.Just(slots[slot]) : variable.Initial.Steps(slots[slot].Index, slots[last].Index))];
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
            (found, mending) = search.Try(to, InterchangeableInstances.Orders(_network, picks, variable.Index)) is { } configuration ? (slots.Of(configuration), Mending.Mended) : (null, Mending.Refuted);
        }
        if (mending == Mending.Refuted)
        {
            for (var one = slot; one <= last; one++)
                question.RuleOut(one);
            return false;
        }
        var witness = new Witness(found!, slots.Words);
        network.Pool.Add(witness);
        question.Mark(witness);
        return true;
    }

    /// <summary>
    /// A configuration that breaks what a group asks for and nothing else, as far as changing known ones finds it; null otherwise,
    /// and where there are numbers.
    /// </summary>
    internal Assigned[]? BreakingOnly(Group group)
    {
        if (_discrete is not { } discrete || Array.Find(_network.Groups, g => g.Kind == group.Kind && g.Row.Id == group.Row.Id && g.Field == group.Field && g.Occurrence.Prefix == group.Occurrence.Prefix) is not { } own
            || discrete.Rules.RuleOf(own.Index) is not (>= 0 and var rule))
            return null;
        return discrete.Repairing(repair =>
        {
            foreach (var witness in discrete.Pool.Containing([]).AsEnumerable().Reverse().Take(MostTried))
                if (repair.Break(rule, witness, discrete.Slots.Full()))
                    return discrete.Slots.ToConfiguration(repair.Found.Slots);
            return null;
        });
    }

    private const int MostTried = 8;

    private sealed record LastAvailable(ulong Slots, Available Available);

    /// <summary>
    /// By variable of at most 64 slots, and by what it has of its first two: what the latest answer said of it, which the next one
    /// mostly says too.
    /// </summary>
    private readonly LastAvailable?[] _lastAvailable;
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
                        values.Add(ToValue(variable, slots[slot]));
                        break;
                }
        // The steps of a number are in order.
        var isNumber = slots.IsNumber(variable.Index) && values.Count > 0;
        return new(values.ToImmutable(), none, isNumber ? values[0].Number : null, isNumber ? values[^1].Number : null, !isNumber || values.Count <= ListedMembers) { MayBeAbsent = absent };
    }
}
