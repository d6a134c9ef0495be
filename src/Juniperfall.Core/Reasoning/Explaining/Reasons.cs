using System.Collections.Concurrent;
using System.Collections.Immutable;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>Why something is as it is: smallest sets of picks and rules.</summary>
internal sealed class Reasons(PreparedNetwork prepared)
{
    private readonly MinimalReasons _minimal = new(prepared);

    public Explanation WhyNot(Question question, string path, Value? value, CancellationToken cancel) => Finishing(() =>
    {
        if (prepared.VariableAt(path) is not { } variable)
            return null;
        var target = value is { } wanted ? PickDomains.Having(variable, wanted) : variable.Initial.Only(variable.Initial.Outcomes & ~Outcomes.Absent);
        if (target is not { } domain)
            return new Reason([], []);
        return Explain([.. Standing(question, cancel).Where(p => p.Path != path || value is null)], [[(variable, domain)]], cancel);
    });

    public Explanation WhyFollows(Question question, string path, Value value, CancellationToken cancel) => Finishing(() =>
    {
        if (prepared.VariableAt(path) is not { } variable || PickDomains.Having(variable, value) is not { } domain)
            return null;
        return Explain([.. Standing(question, cancel).Where(p => p.Path != path)], [.. Others(variable, domain).Select(d => new[] { (variable, d) })], cancel);
    });

    /// <summary>A reason, or that time ran out before it was found.</summary>
    public static Explanation Finishing(Func<Reason?> explain)
    {
        try
        {
            return new(explain(), true);
        }
        catch (SearchInterrupted)
        {
            return new(null, false);
        }
    }

    /// <summary>A minimal set of picks and groups under which none of the cases is possible; null where some case is possible.</summary>
    /// <exception cref="SearchInterrupted">Cancelled.</exception>
    public Reason? Explain(ImmutableArray<Pick> picks, IReadOnlyList<(Variable Variable, VariableDomain To)[]> cases, CancellationToken cancel) =>
        _minimal.Of(picks, cases, cancel);

    /// <summary>The attribute's other values, as domains.</summary>
    private static IEnumerable<VariableDomain> Others(Variable variable, VariableDomain value)
    {
        var initial = variable.Initial;
        if ((initial.Outcomes & ~Outcomes.Absent & ~value.Outcomes & ~Outcomes.Present) is var rest and not Outcomes.Impossible)
            yield return initial.Only(rest);
        if (!initial.MayBePresent)
            yield break;
        if (!value.MayBePresent)
            yield return initial.Only(Outcomes.Present);
        else if (initial.Kind == DomainKind.Choice)
        {
            ulong[] others = [.. initial.Bits!.Zip(value.Bits!, (all, one) => all & ~one)];
            if (BitSet.Count(others) > 0)
                yield return initial.Values(others);
        }
        else
        {
            if (value.First > initial.First)
                yield return initial.Steps(initial.First, value.First - 1);
            if (value.First < initial.Last)
                yield return initial.Steps(value.First + 1, initial.Last);
        }
    }

    /// <summary>The picks that can stand together, taken in order.</summary>
    private List<Pick> Standing(Question question, CancellationToken cancel)
    {
        if (prepared.Start is null)
            return [];
        return prepared.Searches.Warm<List<Pick>>(cancel, session =>
        {
            if (session.Try(prepared.Containing(question.Picks)) is not null)
                return [.. prepared.OfVariables(question.Picks).Select(k => k.Pick)];
            var standing = new List<Pick>();
            foreach (var (_, pick) in prepared.OfVariables(question.Picks))
                if (session.Try(prepared.Containing(standing.Append(pick))) is not null)
                    standing.Add(pick);
            return standing;
        });
    }

    private const int MostClashes = 200;

    /// <summary>By the picks that were looked at, in order: the reason found. What is picked after a clash leaves it as it is.</summary>
    private readonly ConcurrentDictionary<string, ClashAnswer> _clashes = [];

    /// <summary>Why the last of some picks cannot join the others, which stand together.</summary>
    public ClashAnswer Clash(ImmutableArray<Pick> picks, CancellationToken cancel)
    {
        var key = string.Join('\n', picks.Select(p => $"{p.Path}={p.Value.Kind}:{p.Value}"));
        if (_clashes.TryGetValue(key, out var known))
            return known;
        var clash = NewClash(picks, cancel);
        if (_clashes.Count >= MostClashes)
            _clashes.Clear();
        if (clash.Finished)
            _clashes[key] = clash;
        return clash;
    }

    private ClashAnswer NewClash(ImmutableArray<Pick> picks, CancellationToken cancel)
    {
        // Whatever rules keep these picks apart, all of them are needed: less of them can stand together.
        var (reason, finished) = Finishing(() => Explain(MinimalConflict(picks, cancel), [[]], cancel));
        return reason is null ? new(picks, [], finished) : new(reason.Picks, reason.Causes);
    }

    private ImmutableArray<Pick> MinimalConflict(ImmutableArray<Pick> picks, CancellationToken cancel) =>
        prepared.Searches.Fresh<ImmutableArray<Pick>>(cancel, session =>
    {
        var known = prepared.OfVariables(picks).ToList();
        return [.. new PickConflicts(session.Search, known, []).Minimal(Enumerable.Range(0, known.Count)).Order().Select(i => known[i].Pick)];
    });
}
