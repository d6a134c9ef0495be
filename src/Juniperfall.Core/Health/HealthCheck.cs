using System.Collections.Immutable;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Health;

/// <summary>
/// Analyses a model as a whole, as in automated analysis of feature models (Benavides, Segura and Ruiz-Cortés, “Automated analysis of feature
/// models 20 years later”, 2010): what can never be, what always is, what makes no difference. Each question is a search;
/// one configuration that was found answers all the questions that it can.
/// </summary>
public sealed class HealthCheck
{
    private readonly BoundModel _model;
    private readonly Reasoner _reasoner;
    private readonly ModelWording _words;
    private readonly CancellationToken _cancel;
    private readonly IProgress<HealthProgress>? _progress;
    private readonly List<HealthFinding> _findings = [];
    private readonly List<string> _unfinished = [];
    private int _done, _total;

    private HealthCheck(Reasoner reasoner, IProgress<HealthProgress>? progress, CancellationToken cancel)
    {
        (_model, _reasoner, _progress, _cancel) = (reasoner.Model, reasoner, progress, cancel);
        _words = new(_model);
    }

    /// <summary>Finds what there is to find for the site and day of a reasoner. Where it is cancelled, the report says what is missing.</summary>
    public static HealthReport Run(Reasoner reasoner, IProgress<HealthProgress>? progress, CancellationToken cancel)
    {
        var check = new HealthCheck(reasoner, progress, cancel);
        check.Run();
        return new([.. check._findings.OrderBy(f => f.Weight).ThenBy(f => check.PlaceOf(f.RowId)).ThenBy(f => f.Kind)], [.. check._unfinished.Distinct()]);
    }

    private int PlaceOf(string rowId)
    {
        var place = 0;
        foreach (var row in _model.Document.Assemblies.SelectMany(a => a.Rows))
            if (row.Id == rowId)
                break;
            else
                place++;
        return place;
    }

    private void Run()
    {
        _progress?.Report(new(0, _reasoner.AskedPaths.Count()));
        _findings.AddRange(WrittenModel.Findings(_model, _words));
        var answer = _reasoner.Answer(new([]), _cancel);
        if (!answer.Exact)
        {
            _unfinished.Add("Which values can be had was not found out in time.");
            return;
        }
        if (answer.Valid == false)
        {
            ImmutableArray<Cause> causes = answer.Clashes is [var clash, ..] ? clash.Causes : [];
            Add(HealthKind.NoConfiguration, HealthWeight.Error, causes.FirstOrDefault()?.RowId ?? _model.Document.Root, "",
                "No configuration is possible at all: these cannot hold together.", null, causes);
            return;
        }
        var outcomes = new Questions(_reasoner, NetworkExtras.Outcomes, _cancel);
        var errors = new Questions(_reasoner, NetworkExtras.Errors, _cancel);
        var totals = new Questions(_reasoner, NetworkExtras.Goals, _cancel);
        // What is reused was looked at where it comes from, and need not be used in full here.
        answer = answer with { Attributes = answer.Attributes.RemoveAll(a => !_model.Index.IsOwn(a.Row)) };
        _total = answer.Attributes.Length + outcomes.Count + outcomes.Rules.Count + errors.Count + totals.Count;
        Attributes(answer);
        List<(Questions Of, int Question, bool IsRule)> open = [.. AllOf(outcomes, false), .. AllOf(outcomes, true), .. AllOf(errors, false)];
        open.RemoveAll(q =>
        {
            Step();
            return Answered(q.Of, q.Question, q.IsRule, isLast: false);
        });
        // Over many sizes this takes minutes: it gets its first few seconds only.
        for (var i = 0; i < totals.Count; i++)
        {
            Step();
            Answered(totals, i, isRule: false, isLast: true);
        }
        // What is hard gets more time once everything else has had its own; where much is, it has had its time.
        outcomes.Each = errors.Each = open.Count == 0 || ForTheHard / open.Count < outcomes.Each ? TimeSpan.Zero : ForTheHard / open.Count;
        foreach (var (of, question, isRule) in open)
            Answered(of, question, isRule, isLast: true);
        AddCollected();
    }

    private static readonly TimeSpan ForTheHard = TimeSpan.FromSeconds(40);

    private static IEnumerable<(Questions Of, int Question, bool IsRule)> AllOf(Questions of, bool rules) =>
        Enumerable.Range(0, rules ? of.Rules.Count : of.Count).Select(i => (of, i, rules));

    /// <summary>Asks a question and notes what came of it; false where time ran out and it is to be asked again.</summary>
    private bool Answered(Questions of, int question, bool isRule, bool isLast)
    {
        if (!isRule)
        {
            var (probe, asked) = of.AskProbe(question);
            if (asked.IsPossible is null && !isLast)
                return false;
            Found(probe, asked);
            return true;
        }
        var (row, answer) = of.AskRule(question);
        if (answer.IsPossible is false)
            Add(HealthKind.RuleRedundant, HealthWeight.Note, row.Id, "",
                $"{_words.NameOf(row)} rules out nothing that the rest of the model does not rule out already.", null, answer.Causes);
        else if (answer.IsPossible is null && isLast)
            _unfinished.Add($"Whether {_words.NameOf(row)} makes a difference was not found out in time.");
        return answer.IsPossible is not null || isLast;
    }

    private void Step() => _progress?.Report(new(++_done, _total));

    private void Add(HealthKind kind, HealthWeight weight, string rowId, string field, string sentence, ImmutableArray<Pick>? example,
        ImmutableArray<Cause>? causes) =>
        _findings.Add(new(kind, weight, rowId, field.Length == 0 ? [] : [field], sentence, example, causes));

    // Values of one attribute, or rows of one grid, that the same causes rule out are one finding.
    private readonly Dictionary<(HealthKind, string RowId, string Causes), (List<string> Fields, List<string> Names, ImmutableArray<Cause>? Causes)> _alike =
        [];

    private void Collect(HealthKind kind, string rowId, string field, string name, ImmutableArray<Cause>? causes)
    {
        var key = (kind, rowId, string.Join(";", causes ?? []));
        if (!_alike.TryGetValue(key, out var found))
            _alike[key] = found = ([], [], causes);
        found.Fields.Add(field);
        found.Names.Add(name);
    }

    private const int MostNamed = 5;

    private void AddCollected()
    {
        foreach (var ((kind, rowId, _), (fields, names, causes)) in _alike)
        {
            var row = (NamedRow)_model.Index.Rows[rowId];
            var label = row.Label.Or(row.Name);
            var list = names.Count <= MostNamed ? string.Join("; ", names) : $"{string.Join("; ", names.Take(MostNamed))} and {names.Count - MostNamed} more";
            var sentence = kind == HealthKind.GridRowNever
                ? names.Count == 1 ? $"Row {list} of “{label}” can never match." : $"{names.Count} rows of “{label}” can never match: {list}."
                : names.Count == 1 ? $"{label}: {list} can never be had." : $"{label}: {names.Count} values can never be had: {list}.";
            _findings.Add(new(kind, HealthWeight.Warning, rowId, [.. fields], sentence, null, causes));
        }
        _alike.Clear();
    }

    // ---- Values -------------------------------------------------------------------------------------------------

    /// <summary>Of each attribute, over all the places where it stands: what can never be had, and what always is.</summary>
    private void Attributes(Answer answer)
    {
        foreach (var places in answer.Attributes.Where(a => a.Row.Kind != AttributeKind.Text).GroupBy(a => RowPath.RowId(a.Path) + RowPath.MemberId(a.Path)))
        {
            var all = places.ToList();
            var (row, member) = (all[0].Row, all[0].Member);
            var label = _words.NameOf(row) + (member is null ? "" : $": {member.Label.Or(member.Code)}");
            foreach (var _ in all)
                Step();
            if (all.TrueForAll(a => a.Available.Count == 0))
            {
                if (member is null || all[0].Path == answer.Attributes.First(a => a.Row == row).Path)
                    Add(HealthKind.NeverApplies, HealthWeight.Warning, row.Id, "", $"{_words.NameOf(row)} never applies.", null,
                        Causes(() => _reasoner.WhyNot(new([]), all[0].Path, null, _cancel)));
                continue;
            }
            // The places where it can come to apply decide.
            all = all.FindAll(a => a.Available.Count > 0);
            if (all.TrueForAll(a => a.Available is { Count: 1, Listed: true })
                && all.Select(a => a.Available.None ? Value.Nothing : a.Available.Values[0]).Distinct().ToList() is [var only])
            {
                var text = only.IsNothing ? "none" : _words.ValueOf(row, only);
                if (member is not null && !only.IsTrue)
                    Collect(HealthKind.ValueNever, row.Id, member.Id, member.Label.Or(member.Code),
                        Causes(() => _reasoner.WhyFollows(new([]), all[0].Path, only, _cancel)));
                else
                    Add(HealthKind.ValueAlways, HealthWeight.Note, row.Id, member?.Id ?? "", $"{label} is always {text}.", null,
                        Causes(() => _reasoner.WhyFollows(new([]), all[0].Path, only, _cancel)));
                continue;
            }
            if (row.Kind == AttributeKind.Choice)
                foreach (var value in _model.Index.Lists[row.ListId!].Values
                    .Where(v => _reasoner.At.Includes(v) && !all.Exists(a => a.Available.Has(Value.Choice(v.Id)))))
                    Collect(HealthKind.ValueNever, row.Id, value.Id, value.Label.Or(value.Code),
                        Causes(() => _reasoner.WhyNot(new([]), all[0].Path, Value.Choice(value.Id), _cancel)));
            else if (row.Kind == AttributeKind.YesNo && member is null)
            {
                foreach (var value in new[] { true, false }.Where(v => !all.Exists(a => a.Available.Has(Value.Of(v)))))
                    Never(row, value ? "yes" : "no", $"{label} can never be {(value ? "yes" : "no")}.", all[0].Path, Value.Of(value));
            }
            else if (row.Kind is AttributeKind.Whole or AttributeKind.Quantity)
                Bounds(row, label, all);
        }
    }

    private void Bounds(AttributeRow row, string label, List<AttributeAnswer> all)
    {
        var unit = row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        var step = Exact.Parse(row.Step ?? "1");
        var (first, last) = ((Exact.Parse(row.Min!) / step).Ceiling() * step, (Exact.Parse(row.Max!) / step).Floor() * step);
        var (lowest, highest) = (all.Where(a => a.Available.Lowest is not null).Min(a => a.Available.Lowest!.Value),
            all.Where(a => a.Available.Highest is not null).Max(a => a.Available.Highest!.Value));
        if (lowest > unit.ToBase(first))
            Never(row, "min", $"{label} can never be below {_words.ValueOf(row, Value.Of(lowest))}, though it may be from "
                + $"{_words.ValueOf(row, Value.Of(unit.ToBase(first)))}.", all[0].Path, Value.Of(unit.ToBase(first)));
        if (highest < unit.ToBase(last))
            Never(row, "max", $"{label} can never be above {_words.ValueOf(row, Value.Of(highest))}, though it may be up to "
                + $"{_words.ValueOf(row, Value.Of(unit.ToBase(last)))}.", all[0].Path, Value.Of(unit.ToBase(last)));
    }

    private void Never(AttributeRow row, string field, string sentence, string path, Value value) =>
        Add(HealthKind.ValueNever, row.Kind is AttributeKind.Whole or AttributeKind.Quantity ? HealthWeight.Note : HealthWeight.Warning, row.Id, field,
            sentence, null, Causes(() => _reasoner.WhyNot(new([]), path, value, _cancel)));

    private ImmutableArray<Cause>? Causes(Func<Explanation> why)
    {
        var explanation = why();
        if (!explanation.Finished)
            _unfinished.Add("Not every cause was found in time.");
        return explanation.Reason?.Causes;
    }

    // ---- Lines, conditions and grid rows ------------------------------------------------------------------------

    private void Found(Probe probe, Asked asked)
    {
        if (asked.IsPossible is not { } possible)
        {
            var question = probe.Kind switch
            {
                ProbeKind.GridRow => $"{_words.NameOf(probe.Row)} has rows that never match",
                ProbeKind.Error => $"{_words.NameOf(probe.Row)} can be computed in all cases",
                ProbeKind.PriceUnderCost => "one piece can be listed for less than it costs",
                _ => $"{_words.NameOf(probe.Row)} can come out wrong",
            };
            _unfinished.Add($"Whether {question} was not found out in time.");
            return;
        }
        var (row, name) = (probe.Row, _words.NameOf(probe.Row));
        switch (probe.Kind)
        {
            case ProbeKind.LineIn or ProbeKind.PlaceIn or ProbeKind.RuleApplies when !possible:
                Add(HealthKind.NeverApplies, HealthWeight.Warning, row.Id, "appliesWhen",
                    row is IRule ? $"{name} never holds: its condition is never true." : $"{name} never appears: its condition is never true.", null,
                    asked.Causes);
                break;
            case ProbeKind.LineOut when !possible:
                Add(HealthKind.AlwaysThere, HealthWeight.Note, row.Id, "appliesWhen", $"{name} is always there; its condition makes no difference.", null,
                    asked.Causes);
                break;
            case ProbeKind.GridRow when !possible:
                Collect(HealthKind.GridRowNever, row.Id, probe.Field,
                    DrawnRows.NameOf((CombinationGrid)row, _model.Facts,
                    int.Parse(probe.Field.AsSpan("rows/".Length), System.Globalization.CultureInfo.InvariantCulture)), asked.Causes);
                break;
            case ProbeKind.NumberNegative when possible:
                Add(HealthKind.NumberNegative, HealthWeight.Warning, row.Id, probe.Field, $"{What(probe)} of {name} can be below zero.", asked.Example, null);
                break;
            case ProbeKind.NumberZero when possible:
                Add(HealthKind.NumberZero, HealthWeight.Note, row.Id, probe.Field,
                    $"{What(probe)} of {name} can be zero{(row is PartLine ? "; then the line is left out" : "")}.", asked.Example, null);
                break;
            case ProbeKind.NumberMissing when possible:
                Add(HealthKind.NumberMissing, HealthWeight.Warning, row.Id, probe.Field,
                    $"{What(probe)} of {name} can have no value while the line is there.", asked.Example, null);
                break;
            case ProbeKind.PriceUnderCost when possible:
                Add(HealthKind.PriceUnderCost, HealthWeight.Warning, row.Id, "", "One piece can be listed for less than it costs.", asked.Example, null);
                break;
            case ProbeKind.Error when possible:
                Add(HealthKind.CannotBeComputed, HealthWeight.Warning, row.Id, probe.Field,
                    $"{(row is ComputedAttribute ? name : $"{What(probe)} of {name}")} cannot be computed for some values, such as a division by zero; "
                        + $"they are ruled out for that alone.", asked.Example, null);
                break;
        }
    }

    private static string What(Probe probe) =>
        probe.Field switch
        {
            "quantity" => "The quantity",
            "run" => "The run time",
            "setup" => "The set-up time",
            "queue" => "The queue time",
            "amount" =>
        "The amount",
            "surcharge" => "The surcharge",
            _ => "The value"
        };
}
