using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Asking;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Reasoning.Numbers;

namespace Juniperfall.Core.Reasoning.Answering;

/// <summary>Solutions changed in one variable, evaluated without search.</summary>
internal sealed class SolutionChanges
{
    private readonly PointEvaluator _evaluator;
    private readonly Assigned?[] _preferred;
    private readonly Assigned[] _changed;
    private readonly List<Wanted> _picks;
    private Assigned[]? _from;

    public SolutionChanges(PreparedNetwork prepared, List<Wanted> picks)
    {
        var variables = prepared.Network.Variables;
        (_evaluator, _picks) = (new(prepared.Network), picks);
        _preferred = [.. variables.Select(v => Suggestions.Of(v) ?? Candidates(v.Initial, 0).Select(a => (Assigned?)a).FirstOrDefault())];
        foreach (var pick in picks)
            _preferred[pick.Variable] = pick.Value;
        _changed = new Assigned[variables.Length];
        Evaluated = new Assigned[variables.Length];
    }

    /// <summary>What the last evaluation came to.</summary>
    public Assigned[] Evaluated { get; }

    /// <summary>
    /// Whether a solution holds with another value of one variable, or with all steps from it up to another one. Undecided
    /// also where others changed with it: then <see cref="Evaluated"/> is a solution of its own.
    /// </summary>
    public (Verdict Verdict, bool IsOther) Holds(Assigned[] from, Variable variable, in Assigned value, long? upTo)
    {
        Settle(from, variable);
        _changed[variable.Index] = value;
        var verdict = _evaluator.EvaluateChanged(variable, _changed, _preferred, Evaluated, upTo);
        if (verdict != Verdict.Solution)
            return (verdict, false);
        if (Evaluated[variable.Index] != value || !_picks.TrueForAll(p => p.Variable == variable.Index || p.IsMetBy(Evaluated[p.Variable])))
            return (Verdict.NoSolution, false);
        return SameElsewhere(from, variable.Index) ? (Verdict.Solution, false) : (Verdict.Undecided, upTo is null);
    }

    /// <summary>The variable that may still be evaluated with another value than the solution has.</summary>
    private Variable? _stale;

    /// <summary>Evaluates the solution that others are to come of as it is, but for one variable that changes next.</summary>
    private void Settle(Assigned[] from, Variable touched)
    {
        if (_from != from)
        {
            from.CopyTo(_changed, 0);
            _from = from;
            if (_evaluator.Evaluate(_changed, _preferred, Evaluated) != Verdict.Solution)
                throw new InvalidOperationException("A remembered solution is none.");
        }
        else if (_stale is { } stale && stale != touched)
        {
            _changed[stale.Index] = from[stale.Index];
            _evaluator.EvaluateChanged(stale, _changed, _preferred, Evaluated, null);
        }
        _stale = touched;
    }

    private bool SameElsewhere(Assigned[] from, int except) =>
        Evaluated.AsSpan(0, except).SequenceEqual(from.AsSpan(0, except)) && Evaluated.AsSpan(except + 1).SequenceEqual(from.AsSpan(except + 1));

    /// <summary>The single values of a domain; of numbers the ends and at most so many steps from below.</summary>
    public static IEnumerable<Assigned> Candidates(VariableDomain domain, int steps)
    {
        foreach (var outcome in new[] { Outcomes.None, Outcomes.False, Outcomes.True })
            if ((domain.Outcomes & outcome) != 0)
                yield return new(outcome, 0);
        if (!domain.MayBePresent)
            yield break;
        if (domain.Kind == DomainKind.Choice)
        {
            foreach (var i in BitSet.Members(domain.Bits!))
                yield return new(Outcomes.Present, i);
            yield break;
        }
        yield return new(Outcomes.Present, domain.First);
        if (domain.Last != domain.First)
            yield return new(Outcomes.Present, domain.Last);
        for (var step = domain.First + 1; step < domain.Last && step <= domain.First + steps; step++)
            yield return new(Outcomes.Present, step);
    }
}
