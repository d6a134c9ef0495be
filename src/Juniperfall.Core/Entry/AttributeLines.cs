using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Entry;

/// <summary>Lines that ask something: choices, yes/no, numbers and texts; and computed attributes.</summary>
internal static class AttributeLines
{
    /// <summary>The id of the row; null where the line makes none.</summary>
    public static string? Read(EntryReader reader, EntryKind kind, LineText rest)
    {
        // What is computed may read “when” nowhere; a value of a choice may be called so.
        var ((body, appliesWhen), isChoice) = (reader.When(rest), kind.Word is "choice" or "several");
        return kind.Word switch
        {
            _ when isChoice => Choice(reader, kind, body, appliesWhen),
            "whole" => Whole(reader, kind, body, appliesWhen),
            "quantity" => Quantity(reader, kind, body, appliesWhen),
            "compute" => Computed(reader, kind, body, appliesWhen),
            _ => Plain(reader, kind, body, appliesWhen),
        };
    }

    private static string? Asked(EntryReader reader, string type, string? name, string appliesWhen, JsonObject more)
    {
        if (name is null)
            return null;
        (more["attributeKind"], more["name"], more["label"], more["appliesWhen"]) = (type, name, EntryReader.Label(name), appliesWhen);
        return reader.Row("attribute", more);
    }

    private static string? Plain(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        var isText = kind.Word == "text";
        var (of, suggestion) = (body, (string?)null);
        if (!isText && body.SplitAt("=") is var (before, _, after))
        {
            of = before;
            suggestion = after.Text.ToLowerInvariant();
            if (suggestion is not ("yes" or "no"))
                reader.Fault(after.IsEmpty ? new(after.Span.End, 0) : after.Span, "What is suggested is yes or no: yes/no window = yes",
                    reader.Instead(after.Span, "yes"), reader.Instead(after.Span, "no"));
        }
        return Asked(reader, isText ? "text" : "yesNo", reader.Name(of, kind.Example), appliesWhen,
            new() { ["required"] = !isText, ["suggestion"] = suggestion });
    }

    // ---- Choices --------------------------------------------------------------------------------------------------

    private static string? Choice(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        var (index, isChoice) = (reader.Place.Index, kind.Word == "choice");
        var type = isChoice ? "choice" : "several";
        if (body.SplitAt(":") is var (before, _, after))
        {
            var named = reader.Name(before, kind.Example);
            var values = Values(reader, after, kind);
            if (named is null || values.Count == 0)
                return null;
            var list = new JsonObject
            {
                ["name"] = FreeListName(index, named),
                ["label"] = EntryReader.Label(named),
                ["values"] = new JsonArray([.. values.Select(v => (JsonNode)new JsonObject
                    { ["id"] = reader.Place.NewId(), ["code"] = v, ["label"] = EntryReader.Label(v) })]),
            };
            return Asked(reader, type, named, appliesWhen, new() { ["listId"] = reader.Beside("lists", index.Document.Lists.LastOrDefault()?.Id, list) });
        }
        var (name, of) = body.SplitAt("of") is var (first, _, second) ? (first, second) : (body, default(LineText?));
        var wanted = of?.Text.Trim('\'') ?? name.Text.Trim('\'');
        if (of is { } list2)
            reader.Part(EntryPartKind.List, list2.Span);
        var known = index.Lists.Values.FirstOrDefault(l => Names.Fold(l.Name) == Names.Fold(wanted));
        var called = reader.Name(name, kind.Example);
        if (known is null && of is { } missing)
            reader.Fault(missing.IsEmpty ? new(missing.Span.End, 0) : missing.Span, $"There is no value list “{wanted}”.",
                [.. Nearest(wanted, index.Lists.Values.Select(l => l.Name)).Select(n => reader.Instead(missing.Span, Printer.Name(n)))]);
        else if (known is null && called is not null)
            reader.Missing(body, $"Which values? Behind the name a colon and the values: {kind.Example}",
                reader.Instead(new(body.Span.End, 0), ": ", "add “:”"));
        return known is null ? null : Asked(reader, type, called, appliesWhen, new() { ["listId"] = known.Id });
    }

    private static List<string> Values(EntryReader reader, LineText text, EntryKind kind)
    {
        var (values, codes) = (new List<string>(), new HashSet<string>());
        if (text.IsEmpty)
            reader.Missing(text, $"Which values? {kind.Example}");
        else
            foreach (var part in text.ByCommas())
            {
                var value = part.Text is ['\'', .. var inner, '\''] ? inner.Replace("''", "'", StringComparison.Ordinal) : part.Text;
                if (part.Unclosed() is { } open)
                    reader.Fault(new(open, 1), "This quote or bracket is not closed.");
                else if (value.Length == 0)
                    reader.Fault(new(part.Span.Start, 0), "A value is missing between two commas.");
                else if (!codes.Add(Names.Fold(value)))
                    reader.Fault(part.Span, $"“{value}” is among the values already.");
                values.Add(value);
            }
        return values;
    }

    private static string FreeListName(ModelIndex index, string name)
    {
        var names = index.Lists.Values.Select(l => Names.Fold(l.Name)).ToHashSet();
        var free = name;
        for (var n = 2; names.Contains(Names.Fold(free)); n++)
            free = $"{name}_{n}";
        return free;
    }

    internal static IEnumerable<string> Nearest(string word, IEnumerable<string> candidates) => Spelling.Nearest(word, candidates) is { } near ? [near] : [];

    // ---- Numbers --------------------------------------------------------------------------------------------------

    /// <summary>Bounds, each with or without a unit. Units are short, so that no line takes long.</summary>
    private static readonly Regex Range = new(@"(-?\d{1,40}(?:[.,]\d{1,40})?)\s*([^\s\d.]\S{0,20}?)?\s*\.\."
        + @"\s*(-?\d{1,40}(?:[.,]\d{1,40})?)\s*(?!step\b)([^\s\d,=][^\s,=]{0,20})?",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant);

    private static readonly Regex StepSize = new(@"^,?\s*(?:in\s+)?steps?\s+(?:of\s+)?(\d{1,40}(?:[.,]\d{1,40})?)\s*([^\s\d=][^\s,=]{0,20})?",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant);

    /// <summary>The bounds in a line; a word behind them that is no unit is none of them.</summary>
    private static (Match Range, Span At)? BoundsOf(LineText body) => body.Find(Range) is not var (range, at) ? null
        : range.Groups[4].Length > 0 && Unit.TryParse(range.Groups[4].Value) is null
            && body.Until(body.Span.Start + range.Groups[4].Index).Find(Range) is { } without
            ? without : (range, at);

    private static string UnitOf(Match range) => range.Groups[4].Length > 0 ? range.Groups[4].Value : range.Groups[2].Value;

    private static string? Whole(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        if (BoundsOf(body) is not var (range, at))
            return NoBounds(reader, kind, body, " 1..12");
        var (before, unit) = (body.Until(at.Start), UnitOf(range));
        var name = reader.Name(before, kind.Example);
        // A name may end in any word, but one that ends in a unit was mostly meant to have it.
        if (unit.Length == 0 && before.Text.LastIndexOf(' ') is > 0 and var blank && Unit.Common.Contains(before.Text[(blank + 1)..]))
            (unit, before) = (before.Text[(blank + 1)..], before.Until(before.Span.Start + blank));
        if (unit.Length > 0)
            reader.Fault(at, "A whole number has no unit; with one it is a quantity.",
                new EntryFix("make it a quantity",
                    $"quantity {before.Text} {unit} {range.Groups[1].Value}..{range.Groups[3].Value} {body.From(at.End).Text}".TrimEnd()));
        var (low, high) = Bounds(reader, range, at);
        var (step, suggestion) = Rest(reader, body.From(at.End), "");
        return Asked(reader, "whole", name, appliesWhen, new() { ["min"] = low, ["max"] = high, ["step"] = step, ["suggestion"] = suggestion });
    }

    private static string? Quantity(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        if (BoundsOf(body) is not var (range, at))
            return NoBounds(reader, kind, body, " 600..1200");
        var (before, unit) = (body.Until(at.Start), UnitOf(range));
        var unitAt = new Span(body.Span.Start + (range.Groups[4].Length > 0 ? range.Groups[4] : range.Groups[2]).Index, unit.Length);
        if (range.Groups[2].Length > 0 && range.Groups[4].Length > 0 && range.Groups[2].Value != range.Groups[4].Value)
            reader.Fault(at, "Both bounds are in the same unit.");
        if (unit.Length == 0 && before.Text.LastIndexOf(' ') is > 0 and var blank)
        {
            unitAt = new(before.Span.Start + blank + 1, before.Span.Length - blank - 1);
            (unit, before) = (before.Text[(blank + 1)..], before.Until(before.Span.Start + blank));
        }
        var name = reader.Name(before, kind.Example);
        reader.Part(EntryPartKind.Unit, unitAt);
        if (unit.Length == 0)
            reader.Fault(new(at.Start, 0), $"A quantity has a unit in front of its bounds: {kind.Example}",
                [.. new[] { "mm", "kg", "kW" }.Select(u => reader.Instead(new(at.Start, 0), u + " "))]);
        else if (Unit.TryParse(unit) is null)
            reader.Fault(unitAt, $"“{unit}” is no unit.", [.. Nearest(unit, Unit.Common).Select(u => reader.Instead(unitAt, u))]);
        var (low, high) = Bounds(reader, range, at);
        var (step, suggestion) = Rest(reader, body.From(at.End), unit);
        return Asked(reader, "quantity", name, appliesWhen,
            new() { ["unit"] = unit, ["min"] = low, ["max"] = high, ["step"] = step, ["suggestion"] = suggestion });
    }

    private static string? NoBounds(EntryReader reader, EntryKind kind, LineText body, string example)
    {
        if (body.IsEmpty)
            reader.Name(body, kind.Example);
        else
            reader.Missing(body, $"It needs its bounds, low..high: {kind.Example}", reader.Instead(new(body.Span.End, 0), example));
        return null;
    }

    private static string Plainly(string number) => number.Replace(',', '.');

    private static (string Low, string High) Bounds(EntryReader reader, Match range, Span at)
    {
        var (low, high) = (Plainly(range.Groups[1].Value), Plainly(range.Groups[3].Value));
        if (Exact.Parse(low) > Exact.Parse(high))
            reader.Fault(at, "The lower bound stands first.", reader.Instead(at, $"{high}..{low}", $"{high}..{low}"));
        return (low, high);
    }

    /// <summary>The step and what is suggested, behind the bounds of a number.</summary>
    private static (string Step, string? Suggestion) Rest(EntryReader reader, LineText rest, string unit)
    {
        var step = "1";
        if (rest.Find(StepSize) is var (match, at))
        {
            step = Plainly(match.Groups[1].Value);
            if (match.Groups[2].Length > 0 && match.Groups[2].Value != unit)
                reader.Fault(at, $"The step is in the unit of the bounds{(unit.Length > 0 ? $", {unit}" : "")}.");
            rest = rest.From(at.End);
        }
        if (rest.SplitAt("=") is var (before, _, after))
        {
            reader.Nothing(before, "Behind the bounds stand a step and what is suggested: step 50 = 900");
            var number = unit.Length > 0 && after.Text.EndsWith(unit, StringComparison.Ordinal) ? after.Text[..^unit.Length].Trim() : after.Text;
            if (!Exact.TryParse(Plainly(number), out _))
                reader.Fault(after.IsEmpty ? new(after.Span.End, 0) : after.Span, "What is suggested is a number: = 900");
            return (step, Plainly(number));
        }
        reader.Nothing(rest, "This is not understood. Behind the bounds can stand a step, what is suggested, and a condition: step 50 = 900 when window");
        return (step, null);
    }

    private static string? Computed(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        if (body.SplitAt("=") is not var (before, _, after))
        {
            if (reader.Name(body, kind.Example) is not null)
                reader.Missing(body, $"Computed from what? Behind the name “=” and an expression: {kind.Example}",
                    reader.Instead(new(body.Span.End, 0), " = ", "add “=”"));
            return null;
        }
        var name = reader.Name(before, kind.Example);
        var expression = reader.Expression(after, $"Computed from what? {kind.Example}");
        return name is null ? null : reader.Row("computed",
            new() { ["name"] = name, ["label"] = EntryReader.Label(name), ["expression"] = expression, ["appliesWhen"] = appliesWhen });
    }
}
