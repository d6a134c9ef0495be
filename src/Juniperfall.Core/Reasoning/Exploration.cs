using System.Collections.Immutable;

namespace Juniperfall.Core.Reasoning;

/// <summary>Configurations one after the other, and samples of them.</summary>
public sealed partial class Reasoner
{
    public IEnumerable<ImmutableArray<Pick>> Explore(Question question, CancellationToken cancel)
    {
        if (_start is null)
            yield break;
        var search = NewSearch(cancel);
        var standing = Contained(question.Picks).ToList();
        if (UntilCancelled(() => search.Try(standing)) is not { } first)
            yield break;
        // Depth first, by hand: at each place what is left to try, and a solution that goes on from there.
        var path = new List<(Variable Variable, VariableDomain To)>();
        var open = new Stack<(int Depth, VariableDomain Left, Assigned[] Witness)>();
        open.Push((0, _network.Variables.Length > 0 ? _network.Variables[0].Initial : default, first));
        while (open.TryPop(out var at))
        {
            path.RemoveRange(at.Depth, path.Count - at.Depth);
            if (at.Depth == _network.Variables.Length)
            {
                yield return PicksOf(_network, at.Witness);
                continue;
            }
            var variable = _network.Variables[at.Depth];
            if (UntilCancelled(() => Next(search, [.. standing, .. path], variable, at.Left, at.Witness)) is not ({ } value, { } witness))
                if (cancel.IsCancellationRequested)
                    yield break;
                else
                    continue;
            if (After(at.Left, value) is { } left)
                open.Push((at.Depth, left, witness));
            path.Add((variable, variable.Initial.Just(value)));
            open.Push((at.Depth + 1, at.Depth + 1 < _network.Variables.Length ? _network.Variables[at.Depth + 1].Initial : default, witness));
        }
    }

    private static T? UntilCancelled<T>(Func<T?> search)
    {
        try
        {
            return search();
        }
        catch (SearchInterrupted)
        {
            return default;
        }
    }

    private static readonly Outcomes[] InOrder = [Outcomes.Absent, Outcomes.None, Outcomes.False, Outcomes.True];

    /// <summary>The first value of what is left that some configuration has, with one that does.</summary>
    private static (Assigned? Value, Assigned[]? Witness) Next(Search search, List<(Variable, VariableDomain)> path, Variable variable, VariableDomain left, Assigned[] witness)
    {
        Assigned[]? Having(VariableDomain domain) => domain.Allows(witness[variable.Index]) && path.TrueForAll(p => p.Item2.Allows(witness[p.Item1.Index])) ? witness : search.Try([.. path, (variable, domain)]);
        foreach (var outcome in InOrder)
            if ((left.Outcomes & outcome) != 0 && Having(left.Only(outcome)) is { } found)
                return (new(outcome, 0), found);
        if (!left.MayBePresent)
            return default;
        if (left.Kind == DomainKind.Choice)
        {
            foreach (var value in BitSet.Members(left.Bits!))
                if (Having(left.Value(value)) is { } found)
                    return (new(Outcomes.Present, value), found);
            return default;
        }
        // The lowest step is closed in on by halves.
        if (Having(left.Steps(left.First, left.Last)) is not { } some)
            return default;
        var (low, high) = (left.First, some[variable.Index].Index);
        while (low < high)
        {
            var middle = low + (high - low) / 2;
            if (search.Try([.. path, (variable, left.Steps(low, middle))]) is { } lower)
                (some, high) = (lower, lower[variable.Index].Index);
            else
                low = middle + 1;
        }
        return (new(Outcomes.Present, high), some);
    }

    /// <summary>What of a domain comes after a value; null where nothing does.</summary>
    private static VariableDomain? After(VariableDomain left, Assigned value)
    {
        VariableDomain after;
        if (value.Outcome != Outcomes.Present)
            after = left with { Outcomes = left.Outcomes & ~InOrder[..(Array.IndexOf(InOrder, value.Outcome) + 1)].Aggregate((a, b) => a | b) };
        else if (left.Kind == DomainKind.Number)
            after = left.Last > value.Index ? left.Steps(value.Index + 1, left.Last) : left.Only(0);
        else
        {
            var rest = BitSet.Members(left.Bits!).Where(v => v > value.Index).ToList();
            if (rest.Count == 0)
                return null;
            var bits = new ulong[left.Bits!.Length];
            foreach (var v in rest)
                BitSet.Set(bits, v);
            after = left.Values(bits);
        }
        return after.Outcomes == Outcomes.Impossible ? null : after;
    }

    /// <summary>
    /// Greedily, one configuration after the other (Cohen, Dalal, Fredman and Patton, “The AETG system: an approach to testing based on
    /// combinatorial design”, 1997): it starts from a pair that is still to be covered and leans towards more of them.
    /// </summary>
    public PairSample CoverPairs(Question question, CancellationToken cancel)
    {
        var configurations = ImmutableArray.CreateBuilder<ImmutableArray<Pick>>();
        if (_start is null)
            return new([], 0, true);
        try
        {
            var answer = Answer(question, cancel);
            if (!answer.Exact)
                return new([], 0, false);
            var levels = Levels(answer);
            var search = NewSearch(cancel);
            var standing = Contained(question.Picks).ToList();
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
                Lean(search, open, pair);
                if (search.Try([.. standing, (_network.Variables[pair.Item1.Item1], _network.Variables[pair.Item1.Item1].Initial.Just(pair.Item1.Item2)),
                    (_network.Variables[pair.Item2.Item1], _network.Variables[pair.Item2.Item1].Initial.Just(pair.Item2.Item2))]) is not { } solution)
                {
                    open.Remove(pair);
                    continue;
                }
                covered += open.RemoveWhere(p => solution[p.Item1.Item1] == p.Item1.Item2 && solution[p.Item2.Item1] == p.Item2.Item2);
                configurations.Add(PicksOf(_network, solution));
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
        return [.. _network.Variables.Select(v => byPath.GetValueOrDefault(v.Path)?.Available is not { } available ? [] : v.Initial.Kind == DomainKind.Number
            ? new[] { available.Lowest, available.Highest }.OfType<Quantities.Exact>().Distinct().Select(n => new Assigned(Outcomes.Present, v.StepOf(n)!.Value)).ToArray()
            : available.Values.Select(x => Assignment(v, x)!.Value).ToArray())];
    }

    /// <summary>Lets a search try first, of each variable, the value that is in most open pairs.</summary>
    private void Lean(Search search, HashSet<((int, Assigned), (int, Assigned))> open, ((int, Assigned), (int, Assigned)) pair)
    {
        var uses = new Dictionary<(int, Assigned), int>();
        foreach (var (a, b) in open)
            foreach (var end in new[] { a, b })
                uses[end] = uses.GetValueOrDefault(end) + 1;
        foreach (var variable in _network.Variables)
            search.Preferred[variable.Index] = uses.Where(u => u.Key.Item1 == variable.Index).OrderByDescending(u => u.Value).ThenBy(u => u.Key.Item2.Outcome).ThenBy(u => u.Key.Item2.Index).Select(u => (Assigned?)u.Key.Item2).FirstOrDefault() ?? Suggestion(variable);
        (search.Preferred[pair.Item1.Item1], search.Preferred[pair.Item2.Item1]) = (pair.Item1.Item2, pair.Item2.Item2);
    }
}
