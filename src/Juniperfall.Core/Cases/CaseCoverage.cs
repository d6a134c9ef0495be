using System.Collections.Immutable;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Networks;

namespace Juniperfall.Core.Cases;

/// <summary>What of a model test cases can reach.</summary>
public enum CoveredKind
{
    /// <summary>A must rule: some case is ruled out by it.</summary>
    Rule,

    /// <summary>A value of a choice or of yes and no: some case has it.</summary>
    Value,

    /// <summary>A line or subassembly, or a rule with a condition: in some case it is there, or holds.</summary>
    There,

    /// <summary>A line with a condition: in some case it is not there.</summary>
    NotThere,

    /// <summary>A row of a combination grid: some case matches it.</summary>
    GridRow,
}

/// <summary>One thing that test cases can reach.</summary>
/// <param name="Part">The id of the value, or the field of the grid's row (<c>rows/3</c>); empty where it is the row as a whole.</param>
/// <param name="Cases">How many cases reach it.</param>
public sealed record Covered(CoveredKind Kind, string RowId, string Part, int Cases);

/// <summary>A configuration that reaches something that no case does yet.</summary>
/// <param name="Picks">A complete configuration; where it is for a rule, one that only this rule stands against.</param>
/// <param name="Reaches">What it reaches of what was missing.</param>
public sealed record ProposedCase(ImmutableArray<Pick> Picks, ImmutableArray<Covered> Reaches);

/// <summary>
/// Which parts of a model its test cases reach, and configurations that reach the rest: statement coverage carried over to rules, conditions, values,
/// lines and grid rows. Each question about what is missing is a search of <see cref="Questions"/>; what one configuration reaches beside it is not
/// asked for again.
/// </summary>
public sealed class CaseCoverage
{
    private readonly BoundModel _model;
    private readonly Reasoner _reasoner;
    private readonly Questions _questions;
    private readonly HashSet<string> _asked;
    private Dictionary<string, Value>? _asSuggested;
    private readonly Dictionary<(CoveredKind, string RowId, string Part), int> _reached = [];

    public CaseCoverage(Reasoner reasoner, CancellationToken cancel)
    {
        (_model, _reasoner, _questions) = (reasoner.Model, reasoner, new(reasoner, NetworkExtras.Outcomes, cancel) { Each = TimeSpan.FromSeconds(1) });
        _asked = reasoner.AskedPaths.Select(RowPath.RowId).ToHashSet();
        foreach (var rule in _questions.Rules)
            _reached[(CoveredKind.Rule, rule[0].Row.Id, "")] = 0;
        foreach (var row in _model.Document.Assemblies.SelectMany(a => a.Rows).OfType<AttributeRow>())
            foreach (var value in ValuesOf(row))
                _reached[(CoveredKind.Value, row.Id, value)] = 0;
        for (var i = 0; i < _questions.Count; i++)
            if (KeyOf(_questions.ProbeAt(i)) is { } key)
                _reached[key] = 0;
    }

    /// <summary>What is given by whoever uses an assembly is asked nowhere, and so are its values.</summary>
    private IEnumerable<string> ValuesOf(AttributeRow row) => !_asked.Contains(row.Id) ? [] : row.Kind switch
    {
        AttributeKind.YesNo => ["yes", "no"],
        AttributeKind.Choice or AttributeKind.Several when row.ListId is { } list && _model.Index.Lists.TryGetValue(list, out var found) =>
            found.Values.Where(v => _reasoner.At.Includes(v)).Select(v => v.Id),
        _ => [],
    };

    private static (CoveredKind, string, string)? KeyOf(Probe probe) => probe.Kind switch
    {
        ProbeKind.LineIn or ProbeKind.PlaceIn or ProbeKind.RuleApplies => (CoveredKind.There, probe.Row.Id, ""),
        ProbeKind.LineOut => (CoveredKind.NotThere, probe.Row.Id, ""),
        ProbeKind.GridRow => (CoveredKind.GridRow, probe.Row.Id, probe.Field),
        _ => null,
    };

    /// <summary>Counts what a case reaches.</summary>
    public void Add(CaseReach reach)
    {
        foreach (var key in Reaches(reach).ToHashSet())
            if (_reached.ContainsKey(key))
                _reached[key]++;
    }

    private IEnumerable<(CoveredKind, string, string)> Reaches(CaseReach reach)
    {
        foreach (var rule in reach.Rules)
            yield return (CoveredKind.Rule, rule, "");
        if (reach.Values is not { } values)
            yield break;
        foreach (var (path, value) in values)
            if (RowPath.MemberId(path) is { } member)
            {
                if (value.IsTrue)
                    yield return (CoveredKind.Value, RowPath.RowId(path), member);
            }
            else if (value.Kind is ValueKind.Choice or ValueKind.YesNo)
                yield return (CoveredKind.Value, RowPath.RowId(path), value.ToString());
        foreach (var question in _questions.Shown(values))
            if (KeyOf(_questions.ProbeAt(question)) is { } key)
                yield return key;
    }

    /// <summary>Everything that can be reached, in the order of the document.</summary>
    public IEnumerable<Covered> All => _reached.Select(r => new Covered(r.Key.Item1, r.Key.RowId, r.Key.Part, r.Value));

    /// <summary>
    /// Configurations that reach what no case reaches, one after the other; what cannot be reached at all, or was not found in its time, is passed over.
    /// </summary>
    public IEnumerable<ProposedCase> Proposals(CancellationToken cancel)
    {
        for (var i = 0; i < _questions.Count && !cancel.IsCancellationRequested; i++)
            if (KeyOf(_questions.ProbeAt(i)) is { } key && _reached[key] == 0 && _questions.AskProbe(i).Asked.Example is { } example)
                yield return Proposed(example, null, cancel);
        foreach (var (key, times) in _reached.ToList())
            if (key.Item1 == CoveredKind.Value && times == 0 && _reached[key] == 0
                && !cancel.IsCancellationRequested && With(key.RowId, key.Part) is { } with)
                yield return Proposed(with, null, cancel);
        for (var i = 0; i < _questions.Rules.Count && !cancel.IsCancellationRequested; i++)
            if (_reached[(CoveredKind.Rule, _questions.Rules[i][0].Row.Id, "")] == 0 && _questions.AskRule(i).Asked.Example is { } broken)
                yield return Proposed(broken, _questions.Rules[i][0].Row.Id, cancel);
    }

    private ProposedCase Proposed(ImmutableArray<Pick> picks, string? brokenRule, CancellationToken cancel)
    {
        var reached = brokenRule is not null ? [(CoveredKind.Rule, brokenRule, "")]
            : Reaches(new(picks.ToDictionary(p => p.Path, p => p.Value), [])).Distinct().ToList();
        var missing = reached.Where(k => _reached.TryGetValue(k, out var times) && times == 0).ToList();
        foreach (var key in missing)
            _reached[key]++;
        return new(Shortened(picks, brokenRule, cancel), [.. missing.Select(k => new Covered(k.Item1, k.Item2, k.Item3, 1))]);
    }

    /// <summary>
    /// Only the picks that make a difference: those that clash over the rule, or those that are not suggested anyway, where with these alone the same
    /// comes out.
    /// </summary>
    private ImmutableArray<Pick> Shortened(ImmutableArray<Pick> picks, string? brokenRule, CancellationToken cancel)
    {
        _asSuggested ??= _reasoner.Complete(_reasoner.Answer(new([]), cancel), cancel)?.ToDictionary(p => p.Path, p => p.Value) ?? [];
        ImmutableArray<Pick> few = brokenRule is null ? [.. picks.Where(p => !_asSuggested.TryGetValue(p.Path, out var value) || value != p.Value)]
            : _reasoner.Answer(new(picks), cancel).Clashes.FirstOrDefault(c => c.Causes.Any(x => x.RowId == brokenRule))?.Picks ?? picks;
        var answer = _reasoner.Answer(new(few), cancel);
        var isSame = brokenRule is not null
            ? answer.Valid == false && answer.Clashes.Any(c => c.Causes.Any(x => x.RowId == brokenRule))
            : answer is { Valid: true, Exact: true } && _reasoner.Complete(answer, cancel) is { } complete && complete.ToHashSet().SetEquals(picks);
        return isSame ? few : picks;
    }

    /// <summary>A complete configuration in which an attribute has a value, in any place where it stands.</summary>
    private ImmutableArray<Pick>? With(string rowId, string part)
    {
        var row = (AttributeRow)_model.Index.Rows[rowId];
        foreach (var path in _reasoner.AskedPaths.Where(p => RowPath.RowId(p) == rowId && (row.Kind != AttributeKind.Several || RowPath.MemberId(p) == part)))
        {
            var value = row.Kind switch { AttributeKind.YesNo => Value.Of(part == "yes"), AttributeKind.Several => Value.Of(true), _ => Value.Choice(part) };
            if (_questions.Having(path, value) is { } found)
                return found;
        }
        return null;
    }
}
