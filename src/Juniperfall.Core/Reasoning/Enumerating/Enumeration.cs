using System.Collections.Immutable;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;
using Juniperfall.Core.Reasoning.Solver;

namespace Juniperfall.Core.Reasoning.Enumerating;

/// <summary>Configurations one after the other, in the order of their attributes.</summary>
internal sealed class Enumeration(PreparedNetwork prepared)
{
    /// <summary>Those that contain all picks; each is searched for when it is taken.</summary>
    public IEnumerable<ImmutableArray<Pick>> Of(Question question, CancellationToken cancel)
    {
        if (prepared.Start is null)
            yield break;
        if (UntilCancelled(() => prepared.Searches.New(cancel)) is not { } session)
            yield break;
        var standing = prepared.Containing(question.Picks).ToList();
        if (UntilCancelled(() => session.Try(standing)) is not { } first)
            yield break;
        // Depth first, by hand: at each place what is left to try, and a solution that goes on from there.
        var path = new List<(Variable Variable, VariableDomain To)>();
        var open = new Stack<(int Depth, VariableDomain Left, Assigned[] Witness)>();
        open.Push((0, prepared.Network.Variables.Length > 0 ? prepared.Network.Variables[0].Initial : default, first));
        while (open.TryPop(out var at))
        {
            path.RemoveRange(at.Depth, path.Count - at.Depth);
            if (at.Depth == prepared.Network.Variables.Length)
            {
                yield return [.. PickDomains.PicksOf(prepared.Network, at.Witness)];
                continue;
            }
            var variable = prepared.Network.Variables[at.Depth];
            if (UntilCancelled(() => Next(session, [.. standing, .. path], variable, at.Left, at.Witness)) is not ({ } value, { } witness))
                if (cancel.IsCancellationRequested)
                    yield break;
                else
                    continue;
            if (After(at.Left, value) is { } left)
                open.Push((at.Depth, left, witness));
            path.Add((variable, variable.Initial.Just(value)));
            open.Push((at.Depth + 1, at.Depth + 1 < prepared.Network.Variables.Length ? prepared.Network.Variables[at.Depth + 1].Initial : default, witness));
        }
    }

    private static T? UntilCancelled<T>(Func<T?> ask)
    {
        try
        {
            return ask();
        }
        catch (SearchInterrupted)
        {
            return default;
        }
    }

    private static readonly Outcomes[] InOrder = [Outcomes.Absent, Outcomes.None, Outcomes.False, Outcomes.True];

    /// <summary>The first value of what is left that some configuration has, with one that does.</summary>
    private static (Assigned? Value, Assigned[]? Witness) Next(SearchSession session, List<(Variable, VariableDomain)> path, Variable variable,
        VariableDomain left, Assigned[] witness)
    {
        Assigned[]? Having(VariableDomain domain) => domain.Allows(witness[variable.Index])
            && path.TrueForAll(p => p.Item2.Allows(witness[p.Item1.Index])) ? witness : session.Try([.. path, (variable, domain)]);
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
            if (session.Try([.. path, (variable, left.Steps(low, middle))]) is { } lower)
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
}
