using System.Collections.Immutable;
using System.Text.Json;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Cli;

/// <summary>
/// Writes answers as JSON, as docs/cli.md describes. Numbers are texts in the attribute's unit, yes/no is true and false, a
/// choice is its code, none is null.
/// </summary>
internal sealed class AnswerJson(BoundModel model)
{
    private readonly PickText _text = new(model);
    private readonly ModelWording _words = new(model);
    private readonly Dictionary<string, string> _names = Occurrence.All(model).SelectMany(o => o.Assembly.Rows.OfType<NamedRow>()
        .Select(r => (Path: o.Prefix + r.Id, Name: o.DisplayPath(model.Index, r.Id)))).ToDictionary(x => x.Path, x => x.Name);

    public string NameOf(string path) => _names.GetValueOrDefault(RowPath.OfRow(path), path)
        + (RowPath.MemberId(path) is { } id && model.Index.Values.TryGetValue(id, out var member) ? $".{member.Value.Code}" : "");

    /// <summary>A rule by its number; one read from UVL by its line.</summary>
    public string NameOf(Cause cause)
    {
        if (cause.Kind != CauseKind.Rule || !model.Index.Rows.TryGetValue(cause.RowId, out var row))
            return _words.Clause(cause);
        return model.Document.Id == "uvl" || model.Index.MarkOf(row) is not { } mark ? row.Id : mark;
    }

    public void Value(Utf8JsonWriter json, AttributeRow row, Value value)
    {
        if (value.IsNothing)
            json.WriteNullValue();
        else if (value.Kind == ValueKind.YesNo)
            json.WriteBooleanValue(value.IsTrue);
        else
            json.WriteStringValue(value.Kind == ValueKind.Choice ? _text.Code(value) : _text.Write(row, value));
    }

    public string Text(Pick pick)
    {
        var row = _text.At(pick.Path)!;
        var value = pick.Value.Kind == ValueKind.YesNo ? pick.Value.IsTrue ? "true" : "false" : _text.Write(row, pick.Value);
        return $"{NameOf(pick.Path)}={value}";
    }

    public void Answer(Utf8JsonWriter json, Answer answer)
    {
        if (answer.Valid is { } valid)
            json.WriteBoolean("valid", valid);
        else
            json.WriteNull("valid");
        json.WriteStartObject("attributes");
        foreach (var attribute in answer.Attributes)
            Attribute(json, attribute);
        json.WriteEndObject();
        Texts(json, "missing", answer.Missing.Select(NameOf));
        if (answer.Clashes is [var clash, ..])
            Set(json, "clash", clash.Picks, clash.Causes, clash.Finished ? null : "Time ran out: the last of these does not go with the others.");
        else
            json.WriteNull("clash");
    }

    private void Attribute(Utf8JsonWriter json, AttributeAnswer attribute)
    {
        json.WriteStartObject(attribute.DisplayPath);
        json.WriteString("state", attribute.State.ToString().ToLowerInvariant());
        json.WritePropertyName("value");
        if (attribute.Value is { } value)
            Value(json, attribute.Row, value);
        else
            json.WriteNullValue();
        Available(json, "available", attribute.Row, attribute.Available, withEnds: true);
        if (attribute.Alternatives is { } alternatives)
            Available(json, "alternatives", attribute.Row, alternatives, withEnds: false);
        json.WriteEndObject();
    }

    private void Available(Utf8JsonWriter json, string member, AttributeRow row, Available available, bool withEnds)
    {
        if (row.Kind == AttributeKind.Text)
            return;
        if (withEnds && available is { Lowest: { } lowest, Highest: { } highest })
        {
            json.WritePropertyName("min");
            Value(json, row, Core.Quantities.Value.Of(lowest));
            json.WritePropertyName("max");
            Value(json, row, Core.Quantities.Value.Of(highest));
        }
        if (!available.Listed)
            return;
        json.WriteStartArray(member);
        foreach (var value in available.Values)
            Value(json, row, value);
        if (available.None)
            json.WriteNullValue();
        json.WriteEndArray();
    }

    public static void Texts(Utf8JsonWriter json, string member, IEnumerable<string> texts)
    {
        json.WriteStartArray(member);
        foreach (var text in texts)
            json.WriteStringValue(text);
        json.WriteEndArray();
    }

    /// <summary>A set of picks and rules, with its sentence where one is given.</summary>
    public void Set(Utf8JsonWriter json, string member, IEnumerable<Pick> picks, IEnumerable<Cause> causes, string? sentence)
    {
        json.WriteStartObject(member);
        Texts(json, "picks", picks.Select(Text));
        Texts(json, "rules", causes.Select(NameOf));
        if (sentence is not null)
            json.WriteString("text", sentence);
        json.WriteEndObject();
    }

    /// <summary>Why a value cannot be had, or follows, as one sentence.</summary>
    public string Sentence(string what, Reason reason)
    {
        var because = reason.Picks.Select(p => $"{Text(p)} is picked").Concat(reason.Causes.Select(c => $"{NameOf(c)}: {_words.Clause(c)}")).ToList();
        return because.Count == 0 ? $"{what}; nothing that was picked and no rule has to do with it." : $"{what}, because {string.Join("; and ", because)}.";
    }

    public void WaysOut(Utf8JsonWriter json, WaysOut ways)
    {
        json.WriteStartArray("waysOut");
        foreach (var way in ways.Found)
        {
            json.WriteStartArray();
            foreach (var change in way.Changes)
            {
                json.WriteStartObject();
                json.WriteString("name", NameOf(change.From.Path));
                var row = _text.At(change.From.Path)!;
                json.WritePropertyName("from");
                Value(json, row, change.From.Value);
                json.WritePropertyName("to");
                if (change.To is { } to)
                    Value(json, row, to);
                else
                    json.WriteNullValue();
                json.WriteEndObject();
            }
            json.WriteEndArray();
        }
        json.WriteEndArray();
        if (ways.More)
            json.WriteBoolean("moreWaysOut", true);
    }

    /// <summary>What was found in the model as a whole, each with its proof.</summary>
    public void Health(Utf8JsonWriter json, HealthReport report)
    {
        json.WriteStartObject("health");
        json.WriteStartArray("findings");
        foreach (var finding in report.Findings)
        {
            json.WriteStartObject();
            json.WriteString("kind", JsonNamingPolicy.CamelCase.ConvertName(finding.Kind.ToString()));
            json.WriteString("weight", finding.Weight.ToString().ToLowerInvariant());
            json.WriteString("row", model.Document.Id == "uvl" ? finding.RowId : model.Index.NameOf(finding.RowId) ?? finding.RowId);
            Texts(json, "fields", finding.Fields);
            json.WriteString("text", finding.Sentence);
            if (finding.Example is { } example)
                Values(json, "example", example);
            if (finding.Causes is { } causes)
                Texts(json, "rules", causes.Select(NameOf).Distinct());
            json.WriteEndObject();
        }
        json.WriteEndArray();
        Texts(json, "unfinished", report.Unfinished);
        json.WriteEndObject();
    }

    public void Configurations(Utf8JsonWriter json, string member, IEnumerable<ImmutableArray<Pick>> configurations)
    {
        json.WriteStartArray(member);
        foreach (var configuration in configurations)
        {
            json.WriteStartObject();
            foreach (var pick in configuration)
            {
                json.WritePropertyName(NameOf(pick.Path));
                Value(json, _text.At(pick.Path)!, pick.Value);
            }
            json.WriteEndObject();
        }
        json.WriteEndArray();
    }

    public void Values(Utf8JsonWriter json, string member, IEnumerable<Pick> picks)
    {
        json.WriteStartObject(member);
        foreach (var pick in picks)
        {
            json.WritePropertyName(NameOf(pick.Path));
            Value(json, _text.At(pick.Path)!, pick.Value);
        }
        json.WriteEndObject();
    }

    /// <summary>A number in the unit of the attribute, asked or computed, at a path.</summary>
    public string Number(string path, Exact number) => StructureGoals.All.Contains(path) ? number.ToString() : model.Index.Rows[RowPath.RowId(path)] switch
    {
        AttributeRow row => _text.Write(row, Core.Quantities.Value.Of(number)),
        ComputedAttribute row => _words.UnitOf(row).FromBase(number).ToString(),
        _ => number.ToString(),
    };

    public string? Repetition(IReadOnlyList<Pick> picks) => _text.Repetition(picks);

    public (Pick? Pick, string? Error) Read(string name, string value) => _text.Read(name, value);

    /// <summary>A pick from its JSON: null is the answer “none of them”, a text a bare code.</summary>
    public (Pick? Pick, string? Error) Read(string name, JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.Null => _text.ReadNone(name),
        JsonValueKind.String => _text.ReadCode(name, value.GetString()!),
        JsonValueKind.True => _text.Read(name, "true"),
        JsonValueKind.False => _text.Read(name, "false"),
        _ => _text.Read(name, value.GetRawText()),
    };
}
