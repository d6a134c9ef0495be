using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Which values can be had: from what is remembered, from solutions changed in one place, and by search for the rest.</summary>
internal sealed class NumberAvailability(PreparedNetwork prepared) : IAvailability
{
    /// <summary>How many solutions are tried with one value changed before a search.</summary>
    private const int MostBases = 1;

    /// <summary>
    /// The values that every variable can have beside picks that stand together, by variable, and those that each pick could
    /// change to with the others kept.
    /// </summary>
    /// <param name="watch">Told, whenever more is known, what tells what is known until then.</param>
    public Availabilities Of(SearchSession session, IReadOnlyList<(Variable Variable, Pick Pick)> picks, Assigned[] witness, bool alternatives,
        Action<Func<PartialAvailabilities>>? watch)
    {
        var wanted = prepared.Wanted(picks.Select(p => p.Pick));
        var changes = new SolutionChanges(prepared, wanted);
        var all = new ValueProbing(prepared, session, changes, [.. picks.Select(p => p.Pick)], prepared.Network.Variables);
        ValueProbing[] butOne = !alternatives ? [] : [.. picks
            .Select((p, i) => new ValueProbing(prepared, session, changes, [.. picks.Where((_, k) => k != i).Select(k => k.Pick)], [p.Variable]))];
        var near = prepared.Known.Memory.Near(wanted);
        foreach (var solutions in near.All)
            foreach (var question in butOne.Append(all))
                question.Mark(solutions);
        for (var i = 0; i < butOne.Length; i++)
            foreach (var solutions in near.ButOne[i])
                butOne[i].Mark(solutions);
        if (watch is not null)
        {
            PartialAvailabilities Known() => new([.. prepared.Network.Variables.Select(v => all.PartOf(v.Index))],
                picks.Take(butOne.Length).Select((p, i) => (p.Variable, Part: butOne[i].PartOf(0))).ToDictionary(p => p.Variable.Index, p => p.Part));
            foreach (var question in butOne.Append(all))
                question.Decided = () => watch(Known);
            watch(Known);
        }
        foreach (var solutions in near.All.Take(MostBases))
            foreach (var question in butOne.Append(all))
                question.Change(solutions.Base);
        // The picked ones first: what is found beside them is at hand for the rest.
        Dictionary<int, Available> others = butOne.SelectMany(q => q.Answer()).ToDictionary();
        var available = all.Answer();
        return new([.. prepared.Network.Variables.Select(v => available[v.Index])], others);
    }
}
