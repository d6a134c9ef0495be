using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Reasoning.Evaluation;
using Juniperfall.Core.Structures;
using Juniperfall.Core.Wording;
using Juniperfall.Formats.Structures;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Server.Structures;

namespace Juniperfall.Server.Bench;

/// <summary>A value of a choice, yes/no or optional attribute.</summary>
/// <param name="Can">Whether it can be had with the other picks; where not, there is a reason to ask for.</param>
/// <param name="IsUnknown">Whether that is not known yet.</param>
public sealed record ChoiceView(string Value, string Label, string? Color, bool Can, bool IsUnknown = false);

/// <summary>A question with its state and exactly what can be answered.</summary>
public sealed record AskedView
{
    public required string Path { get; init; }
    public required string RowId { get; init; }
    public required string Name { get; init; }
    public required string Label { get; init; }
    public required AttributeKind Kind { get; init; }
    public required AttributeState State { get; init; }
    public required Applicability Applies { get; init; }
    public required bool Required { get; init; }
    public required bool Missing { get; init; }
    public required string? Value { get; init; }
    public required string? ValueLabel { get; init; }

    /// <summary>The number shared by the members of a clash; zero where it is in none.</summary>
    public required int Clash { get; init; }
    public required string Unit { get; init; }

    /// <summary>The unit as people write it.</summary>
    public required string UnitLabel { get; init; }

    /// <summary>Outermost bounds and step of a number.</summary>
    public required string? Min { get; init; }
    public required string? Max { get; init; }
    public required string? Step { get; init; }

    /// <summary>Exact lowest and highest number that can be had with the other picks kept.</summary>
    public required string? Lowest { get; init; }
    public required string? Highest { get; init; }

    /// <summary>The numbers that can be had, where they do not simply go from lowest to highest in steps.</summary>
    public required IReadOnlyList<string>? Members { get; init; }
    public required IReadOnlyList<ChoiceView> Choices { get; init; }

    /// <summary>For several choices: each value, answered by yes or no at a path of its own.</summary>
    public IReadOnlyList<MemberView>? Several { get; init; }

    /// <summary>Whether something of it is not known yet: of a number, how far it goes.</summary>
    public bool IsUnknown { get; init; }
}

/// <summary>One value of several choices.</summary>
/// <param name="Chosen">Whether it is among what is chosen; null while that is open.</param>
/// <param name="Suggested">Whether the author suggests it; the others are suggested to be left out.</param>
/// <param name="CanBeIn">Whether it can be chosen with the other picks.</param>
/// <param name="CanBeOut">Whether it can be left out with the other picks.</param>
public sealed record MemberView(string Path, string Label, string? Color, AttributeState State, bool? Chosen, bool Suggested, bool CanBeIn, bool CanBeOut,
    bool Missing, int Clash, bool IsUnknown = false);

/// <summary>A stretch of the form: one topic at one place.</summary>
/// <param name="Place">The subassembly that it belongs to, where it is not the product itself.</param>
/// <param name="Prefix">The path of that place; empty for the product itself.</param>
public sealed record SectionView(string Id, string TopicId, string AssemblyId, string Title, string? Place, string Prefix, IReadOnlyList<AskedView> Asked);

/// <summary>A subassembly that can be there several times.</summary>
/// <param name="CountPath">The attribute that says how many there are, where one does.</param>
/// <param name="Count">How many there are, once that is known.</param>
/// <param name="CanAdd">Whether there can be one more with the other picks.</param>
/// <param name="CanRemove">Whether there can be one less.</param>
/// <param name="Prefixes">The paths of the instances, those that are there first.</param>
public sealed record PlaceView(string Path, string Name, string? CountPath, int? Count, bool CanAdd, bool CanRemove, IReadOnlyList<string> Prefixes);

/// <summary>A rule, condition or bound that takes part in a reason.</summary>
/// <param name="Mark">§ and number of a rule; empty for conditions and bounds.</param>
public sealed record CauseView(CauseKind Kind, string RowId, string AssemblyId, string Mark, string Sentence);

/// <summary>A pick that takes part in a reason.</summary>
public sealed record PickView(string Path, string Label, string Value, string ValueLabel);

/// <summary>One smallest set of picks and rules that causes something.</summary>
public sealed record ReasonView(string Sentence, IReadOnlyList<PickView> Picks, IReadOnlyList<CauseView> Causes);

public sealed record ClashView(int Number, ReasonView Reason);

/// <summary>A computed attribute.</summary>
/// <param name="Text">Over all that can still be picked: a value, or bounds that are never too narrow.</param>
/// <param name="Suggested">As suggested now.</param>
/// <param name="Final">Whether it is determined by the picks alone.</param>
/// <param name="Because">The values in its formula, as suggested now.</param>
/// <param name="HasValue">Whether it can have a value at all beside the picks; otherwise it is not shown.</param>
public sealed record FigureView(string Path, string RowId, string AssemblyId, string Label, string? Place, string Text, string Suggested, bool IsNumber, bool IsGoal,
    string Unit, bool Final, string Formula, IReadOnlyList<BecauseView> Because, bool HasValue);

/// <summary>A part or operation line of the model that is not built yet.</summary>
/// <param name="Kind">part or operation.</param>
/// <param name="State">Over all that can still be picked.</param>
/// <param name="Quantity">Over all that can still be picked.</param>
/// <param name="Suggested">Whether it is in, out or open as suggested now.</param>
/// <param name="SuggestedQuantity">As suggested now.</param>
/// <param name="HangsOnAnswers">Whether its item is looked up by what is answered.</param>
public sealed record LineView(string Kind, string RowId, string AssemblyId, string Prefix, string Name, string Description, LineState State, string Quantity,
    LineState Suggested, string SuggestedQuantity, string Condition, bool HangsOnAnswers = false);

public sealed record FaultView(string RowId, string AssemblyId, string Sentence);

/// <summary>A pick that could not be read, with the sentence that says why.</summary>
public sealed record PickFault(string Path, string Value, string Sentence);

/// <summary>Everything the bench shows for a set of picks on one state of a revision.</summary>
public sealed record AnswerView
{
    public required long Head { get; init; }

    /// <summary>Whether the picks can stand together; null where time ran out before that was known.</summary>
    public required bool? Valid { get; init; }

    /// <summary>False where time ran out; then nothing here is passed off as exact.</summary>
    public required bool Exact { get; init; }
    public required IReadOnlyList<SectionView> Sections { get; init; }
    public required IReadOnlyList<PlaceView> Places { get; init; }
    public required IReadOnlyList<ClashView> Clashes { get; init; }
    public required IReadOnlyList<PickView> Missing { get; init; }
    public required IReadOnlyList<CauseView> Advice { get; init; }
    public required IReadOnlyList<FigureView> Figures { get; init; }
    public required IReadOnlyList<LineView> Lines { get; init; }
    public required IReadOnlyList<PickFault> Faults { get; init; }

    /// <summary>What is built, once nothing more is needed.</summary>
    public required StructureView? Structure { get; init; }
    public required IReadOnlyList<FaultView> StructureFaults { get; init; }

    /// <summary>How many answers stand as suggestions: what is built, and all that is called “suggested”, counts them, what can still be picked does
    /// not.</summary>
    public required int Suggestions { get; init; }

    /// <summary>How many faults the model has: of a draft that is tried out, what is faulty is left out.</summary>
    public required int LeftOut { get; init; }

    /// <summary>Whether the model has prices at all.</summary>
    public required bool Priced { get; init; }

    /// <summary>What one piece is sold for, once nothing more is needed; null where there is no price.</summary>
    public required PaidView? Price { get; init; }
}

/// <summary>Writes answers in the words of their model.</summary>
internal sealed class AnswerWords(CompiledModel compiled)
{
    private readonly BoundModel _model = compiled.Model;

    /// <param name="audience">Whom it is written for.</param>
    public AnswerView Of(Asked asked, IReadOnlyList<PickFault> faults, Audience audience)
    {
        var answer = asked.Answer;
        var ordered = asked.Result?.Structure is { } structure ? new RollUp(_model.Facts).Ordered(structure, Exact.One) : null;
        var byPath = answer.Attributes.ToDictionary(a => a.Path);
        var clashes = answer.Clashes.Select((c, i) =>
            new ClashView(i + 1, Reason(c.Picks, c.Causes) is var reason
            && c.Finished ? reason : reason with
            {
                Sentence =
            "The last of these does not go with the others; there was no time to find out with which of them, and why."
            })).ToList();
        var clashOf = answer.Clashes.SelectMany((c, i) => c.Picks.Select(p => (p.Path, Number: i + 1))).GroupBy(x => x.Path)
            .ToDictionary(g => g.Key, g => g.Min(x => x.Number));
        return new()
        {
            Head = compiled.Revision.Head,
            Valid = answer.Valid,
            Exact = answer.Exact,
            Sections = [.. Sections(compiled.Occurrences.FirstOrDefault(), byPath, [.. answer.Missing], clashOf)],
            Places = [.. Places(byPath)],
            Clashes = clashes,
            Missing = [.. answer.Missing.Select(p => new PickView(p, compiled.LabelOf(p), "", ""))],
            Advice = [.. answer.Advice.Select(Of)],
            Figures = Figures(answer),
            Lines = Lines(asked),
            Faults = faults,
            Structure = ordered is null ? null : StructureOf(asked, ordered, audience),
            Suggestions = answer.Attributes.Where(a => a.State == AttributeState.Suggested).Select(a => RowPath.OfRow(a.Path)).Distinct().Count(),
            LeftOut = _model.Findings.Count(f => f.Blocks),
            Priced = PriceFields.AreIn(_model.Document),
            Price = PriceOf(asked, ordered, audience),
            StructureFaults = [.. asked.Result?.Faults.Select(f => new FaultView(f.RowId, AssemblyOf(f.RowId), f.Message)) ?? []],
        };
    }

    /// <summary>The questions as far as they are known, by path, while the answer is worked out. Texts are left out.</summary>
    public IEnumerable<AskedView> Of(PartialAnswer part) =>
        Sections(compiled.Occurrences.FirstOrDefault(), part.Attributes.ToDictionary(a => a.Path), [], []).SelectMany(s => s.Asked);

    private StructureView StructureOf(Asked asked, OrderedStructure ordered, Audience audience) => StructureView.Of(audience.Shown(
        new StructureWriter(_model, compiled.Words, new(_model, compiled.Words, asked.Values!, asked.At, withSteps: false)).Of(ordered)));

    private PaidView? PriceOf(Asked asked, OrderedStructure? ordered, Audience audience)
    {
        if (asked.Price?.Sheet is not { } sheet)
            return null;
        var offer = Pricing.OfferFor(sheet.Price, audience.Customers, _model.Document.Code, Exact.One);
        var margin = ordered is null ? null : MarginView.Of(audience, offer.Each, ordered.All.Cost, compiled.LeastMargin);
        return new(offer.List.ToDisplay(2), offer.Each.ToDisplay(2), audience.Customers is { } customers ? customers.Label.Or(customers.Code) : null, margin,
            audience.Fault);
    }

    private string AssemblyOf(string rowId) => _model.Index.AssemblyOfRow.GetValueOrDefault(rowId)?.Id ?? "";

    /// <summary>Topics in the author's order; those of a subassembly follow the topic that it stands in.</summary>
    private IEnumerable<SectionView> Sections(Occurrence? occurrence, Dictionary<string, AttributeAnswer> answers, HashSet<string> missing,
        Dictionary<string, int> clashOf)
    {
        foreach (var topic in occurrence?.Assembly.Topics ?? [])
        {
            var asked = topic.Rows.OfType<AttributeRow>().Select(r => r.Kind == AttributeKind.Several ? Several(occurrence!, r, answers, missing, clashOf)
                : answers.TryGetValue(occurrence!.Prefix + r.Id, out var found) ? Of(found, missing, clashOf) : null).OfType<AskedView>().ToList();
            if (asked.Count > 0)
                yield return new(occurrence!.Prefix + topic.Id, topic.Id, occurrence.Assembly.Id,
                    topic.Label.Or(occurrence.Assembly.Label.Or(occurrence.Assembly.Name)), PlaceOf(occurrence), occurrence.Prefix, asked);
            foreach (var below in compiled.Occurrences.Where(o => o.Parent == occurrence && o.Place is { } place && topic.Rows.Contains(place)))
                foreach (var section in Sections(below, answers, missing, clashOf))
                    yield return section;
        }
    }

    private string? PlaceOf(Occurrence occurrence) => occurrence is { Parent: { } parent, Place: { } place }
        ? compiled.Words.PlaceOf(parent, place, occurrence) : null;

    /// <summary>The subassemblies that can be there several times, with what says how often.</summary>
    private IEnumerable<PlaceView> Places(Dictionary<string, AttributeAnswer> answers)
    {
        foreach (var instances in compiled.Occurrences.Where(o => o.Place is not null && ModelIndex.InstancesOf(o.Place).Length > 1)
            .GroupBy(o => (o.Parent, o.Place)))
        {
            var (parent, place) = (instances.Key.Parent!, instances.Key.Place!);
            var countPath = _model.Expression(place.Id, "instanceCount") is BoundAttribute attribute
                && answers.ContainsKey(parent.Prefix + attribute.Path) ? parent.Prefix + attribute.Path : null;
            var asked = countPath is null ? null : answers[countPath];
            int? count = asked?.Value is { Kind: ValueKind.Number, Number: { IsWhole: true } number } ? (int)number.Numerator : null;
            bool Can(int n) => (asked!.Alternatives ?? asked.Available) is var available
                && (available.Listed ? available.Has(Value.Of((Exact)n)) : available.Lowest <= (Exact)n && (Exact)n <= available.Highest);
            yield return new(parent.Prefix + place.Id, compiled.Words.NameOf(place), countPath, count,
                count is { } more && Can(more + 1), count is { } less && less > 0
                    && Can(less - 1), [.. instances.OrderBy(o => o.Number).Select(o => o.Prefix)]);
        }
    }

    private AskedView? Several(Occurrence occurrence, AttributeRow row, Dictionary<string, AttributeAnswer> answers, HashSet<string> missing,
        Dictionary<string, int> clashOf)
    {
        if (row.ListId is null || !_model.Index.Lists.TryGetValue(row.ListId, out var list))
            return null;
        var members = list.Values.Select(v => answers.GetValueOrDefault(RowPath.OfMember(occurrence.Prefix + row.Id, v.Id))).OfType<AttributeAnswer>().ToList();
        if (members.Count == 0)
            return null;
        AttributeState[] order = [AttributeState.Clash, AttributeState.Picked, AttributeState.Resting, AttributeState.Open, AttributeState.Suggested,
            AttributeState.Follows, AttributeState.Absent];
        var state = order.First(s => members.Any(m => m.State == s));
        return new()
        {
            Path = occurrence.Prefix + row.Id,
            RowId = row.Id,
            Name = row.Name,
            Label = compiled.Words.NameOf(row),
            Kind = row.Kind,
            State = state,
            Applies = members[0].Applies,
            Required = true,
            Missing = members.Exists(m => missing.Contains(m.Path)),
            Value = null,
            ValueLabel = members.Where(m => m.Value is { IsNothing: false, IsTrue: true }).Select(m => compiled.Words.LabelOf(m.Member!))
                .ToList() is { Count: > 0 } chosen ? string.Join(", ", chosen)
                : members.TrueForAll(m => m.Value is not null) ? "none" : "",
            Clash = members.Select(m => clashOf.GetValueOrDefault(m.Path)).FirstOrDefault(c => c > 0),
            Unit = "",
            UnitLabel = "",
            Min = row.Min,
            Max = row.Max,
            Step = null,
            Lowest = null,
            Highest = null,
            Members = null,
            Choices = [],
            Several = [.. members.Select(m =>
                new MemberView(m.Path, m.Member!.Label.Or(m.Member.Code), m.Member.Color, m.State,
                m.Value is { IsNothing: false } value ? value.IsTrue : null, row.SuggestedMembers.Contains(m.Member.Id),
                (m.Alternatives ?? m.Available).Has(Value.Of(true)), (m.Alternatives ?? m.Available).Has(Value.Of(false)), missing.Contains(m.Path),
                    clashOf.GetValueOrDefault(m.Path), m.Undecided is not null))],
        };
    }

    private AskedView Of(AttributeAnswer a, HashSet<string> missing, Dictionary<string, int> clashOf)
    {
        var available = a.Alternatives ?? a.Available;
        // How far a number goes is told once it is known.
        var number = a.Row.Kind is AttributeKind.Whole or AttributeKind.Quantity;
        var isRange = number && a.Undecided is null;
        string Write(Value value) => compiled.Text.Write(a.Row, value);
        var lowest = isRange ? available.Lowest ?? (available.Values.Length > 0 ? available.Values[0].Number : null) : null;
        var highest = isRange ? available.Highest ?? (available.Values.Length > 0 ? available.Values[^1].Number : null) : null;
        return new()
        {
            Path = a.Path,
            RowId = a.Row.Id,
            Name = a.Row.Name,
            Label = compiled.Words.NameOf(a.Row),
            Kind = a.Row.Kind,
            State = a.State,
            Applies = a.Applies,
            Required = a.Row.Required,
            Missing = missing.Contains(a.Path),
            Value = a.Value is { } value ? Write(value) : null,
            ValueLabel = a.Value is { } v ? compiled.Words.ValueOf(a.Row, v) : null,
            Clash = clashOf.GetValueOrDefault(a.Path),
            Unit = a.Row.Kind == AttributeKind.Quantity ? a.Row.Unit : "",
            UnitLabel = a.Row.Kind == AttributeKind.Quantity ? Unit.Readable(a.Row.Unit) : "",
            Min = number ? a.Row.Min : null,
            Max = number ? a.Row.Max : null,
            Step = number ? a.Row.Step ?? "1" : null,
            Lowest = lowest is { } low ? Write(Value.Of(low)) : null,
            Highest = highest is { } high ? Write(Value.Of(high)) : null,
            Members = isRange && available.Listed && HasGaps(a.Row, available) ? [.. available.Values.Select(Write)] : null,
            Choices = Choices(a.Row, available, a.Undecided),
            IsUnknown = a.Undecided is not null,
        };
    }

    private static bool HasGaps(AttributeRow row, Available available)
    {
        if (available.Values.Length < 2)
            return false;
        var unit = row.Kind == AttributeKind.Quantity ? Unit.Parse(row.Unit) : Unit.One;
        var step = unit.Factor * Exact.Parse(row.Step ?? "1");
        return available.Values[0].Number + step * (available.Values.Length - 1) != available.Values[^1].Number;
    }

    private List<ChoiceView> Choices(AttributeRow row, Available available, ImmutableArray<Value>? undecided)
    {
        bool IsUnknown(Value value) => undecided?.Contains(value) == true;
        IEnumerable<ChoiceView> choices = row.Kind switch
        {
            AttributeKind.YesNo => [.. new[] { true, false }.Select(v => Value.Of(v) is var value
                ? new ChoiceView(v ? "yes" : "no", v ? "yes" : "no", null, available.Has(value), IsUnknown(value)) : null!)],
            AttributeKind.Choice => _model.Index.Lists[row.ListId!].Values
                .Select(v => Value.Choice(v.Id) is var value
                ? new ChoiceView(compiled.Text.Write(row, value), compiled.Words.LabelOf(v), v.Color, available.Has(value), IsUnknown(value)) : null!),
            _ => [],
        };
        return [.. row.Required || row.Kind == AttributeKind.Text ? choices : choices.Append(new("none", "none", null, available.None, IsUnknown(Value.Nothing)))];
    }

    public CauseView Of(Cause cause) => new(cause.Kind, cause.RowId, AssemblyOf(cause.RowId),
        cause.Kind == CauseKind.Rule && _model.Index.Rows.TryGetValue(cause.RowId, out var row)
            ? _model.Index.MarkOf(row) ?? "" : "", compiled.Words.Clause(cause));

    public PickView Of(Pick pick) =>
        new(pick.Path, compiled.LabelOf(pick.Path), compiled.At(pick.Path)?.Row is AttributeRow row ? compiled.Text.Write(row, pick.Value) : "",
        compiled.ValueAt(pick.Path, pick.Value));

    /// <summary>A reason as one sentence: the picks that cause it, then what they run against.</summary>
    public ReasonView Reason(IReadOnlyList<Pick> picks, IReadOnlyList<Cause> causes)
    {
        var picked = picks.Select(Of).ToList();
        var because = causes.Select(Of).ToList();
        var who = string.Join(" and ", picked.Select(p => $"{p.Label} = {p.ValueLabel}"));
        var what = string.Join("; ", because.Select(c => $"{(c.Mark.Length > 0 ? c.Mark + " " : "")}{c.Sentence}"));
        var sentence = (who.Length, what.Length) switch
        {
            (0, 0) => "It lies outside what the model asks for.",
            (0, _) => $"{what}.",
            (_, 0) => $"You picked {who}.",
            _ => $"You picked {who}, and {what}.",
        };
        return new(sentence, picked, because);
    }

    private List<FigureView> Figures(Answer answer)
    {
        var known = answer.AsSuggested.Computed.ToDictionary(c => c.Path);
        var standing = answer.Standing.GroupBy(p => p.Path).ToDictionary(g => g.Key, g => g.Last().Value);
        string ValueOf(string path) => known.TryGetValue(path, out var computed) ? TextOf(computed)
            : standing.TryGetValue(path, out var value) ? compiled.ValueAt(path, value) : "open";
        return [.. answer.Open.Computed.Select(c =>
        {
            var at = compiled.At(c.Path)!.Value;
            var unit = compiled.Words.UnitOf(c.Row);
            var because = _model.Expression(c.Row.Id, "expression") is { } expression
                ? expression.All().OfType<BoundAttribute>().Select(a => at.Occurrence.Prefix + a.Path).Distinct()
                    .Select(p => new BecauseView(p, compiled.LabelOf(p), ValueOf(p))).ToList() : [];
            return new FigureView(c.Path, c.Row.Id, AssemblyOf(c.Row.Id), compiled.Words.NameOf(c.Row), PlaceOf(at.Occurrence), TextOf(c),
                TextOf(known[c.Path]), _model.TypeOf(c.Row) is { Kind: TypeKind.Number }, c.Row.Goal, unit.Code,
                c.Number?.IsFinal ?? c.Value is not null, StoredText.Show(c.Row.Expression, _model.Index), because, c.Number is not null
                    || c.Value is not null);
        })];
    }

    private string TextOf(ComputedAnswer computed)
    {
        if (computed.Value is { } value)
            return compiled.Words.ValueOf(computed.Row, value);
        if (computed.Number is not { } number)
            return "open";
        if (number.IsFinal)
            return compiled.Words.ValueOf(computed.Row, Value.Of(number.Low!.Value));
        return Range(computed.Row, number.Low, number.High);
    }

    /// <summary>From the lowest to the highest, in the unit of a computed attribute; one number where they are the same.</summary>
    public string Range(ComputedAttribute row, Exact? low, Exact? high)
    {
        var unit = compiled.Words.UnitOf(row);
        string Write(Exact? end) => end is { } n ? unit.FromBase(n).ToDisplay(row.Decimals) : "…";
        return low is null && high is null ? "no value" : ModelWording.WithUnit(low == high ? Write(low) : $"{Write(low)} – {Write(high)}", unit.Code);
    }

    private List<LineView> Lines(Asked asked)
    {
        var standing = asked.Answer.Standing.Select(p => p.Path).ToHashSet();
        var evaluator = asked.Values is { } values ? new Evaluator(_model, values, asked.At) : null;
        return [.. asked.Answer.Open.Lines.Zip(asked.Answer.AsSuggested.Lines, (open, suggested) => Of(open, suggested, ItemOf(open, standing, evaluator)))];
    }

    /// <summary>The item of a line: its number once what it hangs on stands, otherwise what it hangs on.</summary>
    private (string Name, string Description) ItemOf(LineAnswer line, HashSet<string> standing, Evaluator? evaluator)
    {
        if (line.Row is not PartLine part)
            return (compiled.Words.NameOf(line.Row), "");
        var number = part.Item;
        if (number.Length == 0 && _model.Expression(part.Id, "itemFrom") is { } from)
        {
            var hangsOn = from.All().OfType<BoundAttribute>().Select(a => line.Prefix + a.Path).Distinct().ToList();
            number = evaluator is not null && hangsOn.TrueForAll(standing.Contains)
                && evaluator.Evaluate(from, line.Prefix) is { IsNothing: false, Text: { } text } ? text
                : $"{WhatIsLookedUp(from)} by {string.Join(", ", hangsOn.Select(compiled.LabelOf))}";
        }
        return (number, _model.Facts.Items.TryGetValue(number, out var fact) ? fact.Description.In() : "");
    }

    /// <summary>The property that gives an item, in words, so that open lines can be told apart.</summary>
    private string WhatIsLookedUp(Bound from) =>
        (from switch
        {
            BoundProperty property => _model.Index.NameOf(property.PropertyId),
            BoundGridFigure figure =>
            _model.Index.NameOf(figure.ColumnId),
            _ => null
        })?.Replace('_', ' ') ?? "item";

    private LineView Of(LineAnswer line, LineAnswer suggested, (string Name, string Description) item)
    {
        var unit = line.Row is PartLine && _model.Facts.Items.TryGetValue(item.Name, out var fact) ? Unit.TryParse(fact.Unit) ?? Unit.One
            : line.Row is OperationLine ? Unit.Parse("min") : _model.Expression(line.Row.Id, "quantity") is { } expression
                ? Unit.ForDisplay(expression.Type.Dimension) : Unit.One;
        string Write(Exact? end) => end is { } n ? unit.FromBase(n).ToDisplay(2) : "…";
        string Quantity(LineAnswer of) => of.Numbers.GetValueOrDefault(line.Row is PartLine ? "quantity" : "run") is not { } quantity ? ""
            : ModelWording.WithUnit(quantity.Low == quantity.High
                && quantity.Low is not null ? Write(quantity.Low) : $"{Write(quantity.Low)} – {Write(quantity.High)}", unit.Code);
        return new(line.Row is OperationLine ? "operation" : "part", line.Row.Id, AssemblyOf(line.Row.Id), line.Prefix, item.Name, item.Description,
            line.State, Quantity(line), suggested.State, Quantity(suggested), StoredText.Show(line.Row.AppliesWhen, _model.Index),
                line.Row is PartLine { Item.Length: 0 });
    }
}
