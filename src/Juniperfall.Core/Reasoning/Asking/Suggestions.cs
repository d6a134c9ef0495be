using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Reasoning.Asking;

/// <summary>What the author suggests for the variables of a network.</summary>
internal sealed class Suggestions
{
    private readonly Variable[] _variables;

    public Suggestions(Network network)
    {
        _variables = network.Variables;
        Preferred = [.. _variables.Select(Of)];
        Any = Together(_ => false).Any();
    }

    /// <summary>By variable: what is tried first.</summary>
    public Assigned?[] Preferred { get; }

    /// <summary>Whether anything is suggested at all.</summary>
    public bool Any { get; }

    /// <summary>What is suggested for a variable; what need not be answered is left out where nothing speaks for it.</summary>
    public static Assigned? Of(Variable variable) =>
        (Suggested(variable) ?? (variable.IsRequired ? variable.Member is null ? null : Value.Of(false) : Value.Nothing)) is { } value
            ? PickDomains.Assignment(variable, value) : null;

    private static Value? Suggested(Variable variable) => variable.Member is { } member ? variable.Row.SuggestedMembers.Contains(member.Id)
        ? Value.Of(true) : null
        : variable.Row.Suggestion is not { Length: > 0 } text ? null : variable.Row.Kind switch
        {
            AttributeKind.YesNo => Value.Of(text == "yes"),
            AttributeKind.Choice => Value.Choice(text),
            _ => Exact.TryParse(text, out var number) ? Value.Of(variable.Unit.ToBase(number)) : null,
        };

    /// <summary>
    /// What was filled in: all of it together first, as it mostly still stands, then one by one in the author's order; then what the author suggests.
    /// What an earlier one has settled is passed over by whoever takes them.
    /// </summary>
    public IEnumerable<(Variable Variable, Value Value)[]> Together(Func<Variable, bool> isSettled, IReadOnlyCollection<Pick> fillIns)
    {
        if (fillIns.Count > 0)
        {
            var values = fillIns.DistinctBy(f => f.Path).ToDictionary(f => f.Path, f => f.Value);
            (Variable, Value)[] all = [.. _variables.Where(v => values.ContainsKey(v.Path) && !isSettled(v)).Select(v => (v, values[v.Path]))];
            if (all.Length > 1)
                yield return all;
            foreach (var one in all)
                yield return [one];
        }
        foreach (var group in Together(isSettled))
            yield return group;
    }

    /// <summary>
    /// What is suggested, in the author's order. Of several choices the values that are suggested come one by one; the others
    /// are suggested to be left out, all of them or none: otherwise some would be chosen only because others were not.
    /// </summary>
    public IEnumerable<(Variable Variable, Value Value)[]> Together(Func<Variable, bool> isSettled)
    {
        for (var i = 0; i < _variables.Length; i++)
        {
            var variable = _variables[i];
            if (variable.Member is null)
            {
                if (!isSettled(variable) && Suggested(variable) is { } value)
                    yield return [(variable, value)];
                continue;
            }
            var members = _variables.Skip(i).TakeWhile(v => v.Row == variable.Row && v.Occurrence == variable.Occurrence).ToList();
            foreach (var member in members.Where(m => !isSettled(m) && Suggested(m) is not null))
                yield return [(member, Value.Of(true))];
            if (members.Where(m => !isSettled(m) && Suggested(m) is null).ToArray() is { Length: > 0 } others)
                yield return [.. others.Select(m => (m, Value.Of(false)))];
            i += members.Count - 1;
        }
    }
}
