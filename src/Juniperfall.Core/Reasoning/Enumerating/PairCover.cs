using System.Collections.Immutable;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Answering;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Enumerating;

/// <summary>
/// Pair-covering samples, greedily, one configuration after the other (Cohen, Dalal, Fredman and Patton, “The AETG system: an approach to
/// testing based on combinatorial design”, 1997): each starts from a pair that is still to be covered and leans towards more of them.
/// </summary>
internal sealed class PairCover(PreparedNetwork prepared, Answerer answerer)
{
    /// <summary>A few configurations that contain all picks and cover every pair of values that can stand together with them.</summary>
    public PairSample Of(Question question, CancellationToken cancel)
    {
        var configurations = ImmutableArray.CreateBuilder<ImmutableArray<Pick>>();
        if (prepared.Start is null)
            return new([], 0, true);
        try
        {
            var answer = answerer.Answer(question, cancel);
            if (!answer.Exact)
                return new([], 0, false);
            var levels = Levels(answer);
            var session = prepared.Searches.New(cancel);
            var standing = prepared.Containing(question.Picks).ToList();
            var open = new HashSet<((int, Assigned), (int, Assigned))>();
            for (var a = 0; a < levels.Length; a++)
                for (var b = a + 1; b < levels.Length; b++)
                    foreach (var x in levels[a])
                        foreach (var y in levels[b])
                            open.Add(((a, x), (b, y)));
            var covered = 0;
            while (open.Count > 0)
            {
                var pair = open.First();
                Lean(session.Search, open, pair);
                if (session.Try([.. standing,
                    (prepared.Network.Variables[pair.Item1.Item1], prepared.Network.Variables[pair.Item1.Item1].Initial.Just(pair.Item1.Item2)),
                    (prepared.Network.Variables[pair.Item2.Item1],
                        prepared.Network.Variables[pair.Item2.Item1].Initial.Just(pair.Item2.Item2))]) is not { } solution)
                {
                    open.Remove(pair);
                    continue;
                }
                covered += open.RemoveWhere(p => solution[p.Item1.Item1] == p.Item1.Item2 && solution[p.Item2.Item1] == p.Item2.Item2);
                configurations.Add([.. PickDomains.PicksOf(prepared.Network, solution)]);
            }
            return new(configurations.ToImmutable(), covered, true);
        }
        catch (SearchInterrupted)
        {
            return new(configurations.ToImmutable(), 0, false);
        }
    }

    /// <summary>The values of each variable that take part in pairs: all that can be had, of numbers the lowest and the highest.</summary>
    private Assigned[][] Levels(Answer answer)
    {
        var byPath = answer.Attributes.ToDictionary(a => a.Path);
        // Where nothing is possible at all, nothing is answered.
        return [.. prepared.Network.Variables
            .Select(v => byPath.GetValueOrDefault(v.Path)?.Available is not { } available ? [] : v.Initial.Kind == DomainKind.Number
            ? new[] { available.Lowest, available.Highest }.OfType<Exact>().Distinct().Select(n => new Assigned(Outcomes.Present, v.StepOf(n)!.Value)).ToArray()
            : available.Values.Select(x => PickDomains.Assignment(v, x)!.Value).ToArray())];
    }

    /// <summary>Lets a search try first, of each variable, the value that is in most open pairs.</summary>
    private void Lean(Search search, HashSet<((int, Assigned), (int, Assigned))> open, ((int, Assigned), (int, Assigned)) pair)
    {
        var uses = new Dictionary<(int, Assigned), int>();
        foreach (var (a, b) in open)
            foreach (var end in new[] { a, b })
                uses[end] = uses.GetValueOrDefault(end) + 1;
        foreach (var variable in prepared.Network.Variables)
            search.Preferred[variable.Index] = uses.Where(u => u.Key.Item1 == variable.Index).OrderByDescending(u => u.Value).ThenBy(u => u.Key.Item2.Outcome)
                .ThenBy(u => u.Key.Item2.Index).Select(u => (Assigned?)u.Key.Item2).FirstOrDefault() ?? Suggestions.Of(variable);
        (search.Preferred[pair.Item1.Item1], search.Preferred[pair.Item2.Item1]) = (pair.Item1.Item2, pair.Item2.Item2);
    }
}
