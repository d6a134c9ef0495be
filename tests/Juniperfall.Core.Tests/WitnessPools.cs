using Juniperfall.Core.Reasoning.Discrete;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Tests;

/// <summary>The index of known configurations against going through a list of the latest ones.</summary>
public class WitnessPools
{
    private const int Variables = 12, Most = 2048;

    [Fact]
    public void Those_that_keep_some_picks_come_latest_last_and_what_is_forgotten_is_forgotten_everywhere()
    {
        var random = new Random(5);
        // Some are yes or no, some may also not apply.
        var slots = new Slots([.. Enumerable.Range(0, Variables)
            .Select(v => new VariableDomain(DomainKind.YesNo, Outcomes.True | Outcomes.False | (v % 3 == 0 ? Outcomes.Absent : 0), 0, 0, null))]);
        var (pool, all, found) = (new WitnessPool(slots), new List<Witness>(), 0);
        for (var step = 0; step < 3 * Most; step++)
        {
            var witness = new Witness([.. Enumerable.Range(0, Variables).Select(v => slots.First[v] + random.Next(slots.SizeOf(v)))], slots.Words);
            pool.Add(witness);
            all.Add(witness);
            if (all.Count > Most)
                all.RemoveAt(0);
            if (step % 97 != 0)
                continue;
            int[] picks = [.. Enumerable.Range(0, Variables).Where(_ => random.Next(4) == 0)
                .Select(v => slots.Of(v, new(random.Next(2) == 0 ? Outcomes.True : Outcomes.False, 0)))];
            var kept = all.Where(w => picks.All(p => w.Slots[slots.Owner[p]] is var slot && (slot == p || slots[slot].Outcome == Outcomes.Absent))).ToList();
            Assert.Equal(kept, pool.Containing(picks));
            Assert.Same(kept.LastOrDefault(), pool.LatestContaining(picks));
            // Of some slots, those that one of them has change sets.
            var (from, to) = (new ulong[slots.Words], new ulong[slots.Words]);
            var open = Enumerable.Range(0, slots.Count).Where(_ => random.Next(2) == 0).ToList();
            open.ForEach(slot => BitSet.Set(from, slot));
            pool.Move(picks, from, to);
            var had = open.Where(slot => kept.Exists(w => w.Slots[slots.Owner[slot]] == slot)).ToList();
            Assert.Equal(had, BitSet.Members(to));
            Assert.Equal(open.Except(had), BitSet.Members(from));
            for (var slot = 0; slot < slots.Count; slot++)
                Assert.Same(all.LastOrDefault(w => w.Slots[slots.Owner[slot]] == slot), pool.LatestOf(slot));
            found += kept.Count;
        }
        Assert.True(found > Most, $"{found} found");
    }
}
