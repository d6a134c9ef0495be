using System.Globalization;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Entry;

/// <summary>Lines of what is built: subassemblies, parts, operations; and of what it costs a customer.</summary>
internal static class StructureLines
{
    private const int MostInstances = 50;

    /// <summary>The id of the row; null where the line makes none.</summary>
    public static string? Read(EntryReader reader, EntryKind kind, LineText rest)
    {
        var (body, appliesWhen) = reader.When(rest);
        return kind.Word switch
        {
            "part" => Part(reader, kind, body, appliesWhen),
            "operation" => Operation(reader, kind, body, appliesWhen),
            "price" => Price(reader, kind, body, appliesWhen),
            _ => Subassembly(reader, kind, body, appliesWhen),
        };
    }

    // ---- Subassemblies --------------------------------------------------------------------------------------------

    private static readonly Regex HowMany = new(@"(\d{1,9})\s*\.\.\s*(\d{1,9})\s*$", RegexOptions.CultureInvariant);

    private static string? Subassembly(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        var (range, at) = body.Find(HowMany) is var (match, span) ? (match, span) : (null, new Span(body.Span.End, 0));
        if (reader.Name(body.Until(at.Start), kind.Example) is not { } name)
            return null;
        var (least, most) = (range is null ? 1 : Number(range.Groups[1].Value), range is null ? 1 : Number(range.Groups[2].Value));
        if (range is not null && (most < 1 || most > MostInstances || least > most))
        {
            reader.Fault(at, $"How many there can be is written as low..high, at most {MostInstances}: {kind.Word} {name} 1..4");
            return null;
        }
        var (index, assembly) = (reader.Place.Index, reader.Place.Assembly);
        var known = index.Document.Assemblies.FirstOrDefault(a => Names.Fold(a.Name) == Names.Fold(name) && a.Id != assembly.Id)?.Id;
        var below = known ?? reader.Beside("assemblies", index.Document.Assemblies.LastOrDefault()?.Id, new()
        {
            ["name"] = name,
            ["label"] = EntryReader.Label(name),
            ["topics"] = new JsonArray(new JsonObject
            {
                ["id"] = reader.Place.NewId(),
                ["label"] = new JsonObject { ["en"] = "General" },
                ["rows"] = new JsonArray(),
            }),
        });
        var fields = new JsonObject
        {
            ["name"] = name,
            ["label"] = EntryReader.Label(name),
            ["make"] = kind.Word == "phantom" ? "phantom" : "ownItem",
            ["assemblyId"] = below,
            ["instances"] = new JsonArray([.. Enumerable.Range(1, most).Select(i => (JsonNode)new JsonObject { ["id"] = $"{i}" })]),
            ["appliesWhen"] = appliesWhen,
        };
        if (range is null)
            return reader.Row("subassembly", fields);
        // How many there are is asked by an attribute of its own, in front.
        reader.NamesHere.Add(Names.Fold(name));
        var count = reader.FreeName($"number_of_{name.Replace(' ', '_')}");
        var asked = reader.Row("attribute", new()
        {
            ["attributeKind"] = "whole",
            ["name"] = count,
            ["label"] = new JsonObject { ["en"] = $"Number of {name.Replace('_', ' ')}" },
            ["min"] = $"{least}",
            ["max"] = $"{most}",
            ["step"] = "1",
            ["suggestion"] = $"{least}",
            ["appliesWhen"] = appliesWhen,
        });
        fields["instanceCount"] = count;
        return reader.Row("subassembly", fields, asked);
    }

    private static int Number(string digits) => int.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : int.MaxValue;

    // ---- Parts and operations -------------------------------------------------------------------------------------

    private static string? Part(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        var (item, quantity) = body.SplitAt("×", "x", "*") is var (before, _, after)
            ? (before, reader.Expression(after, $"How many? {kind.Example}")) : (body, "1");
        reader.Part(EntryPartKind.Item, item.Span);
        if (item.IsEmpty)
        {
            reader.Missing(item, $"A part line needs an item: {kind.Example}");
            return null;
        }
        var facts = reader.Place.Index.Facts;
        var isKnown = facts.Items.ContainsKey(item.Text);
        if (!isKnown && item.Text.Contains(' ', StringComparison.Ordinal))
            reader.Fault(item.Span, "An item number has no blanks. How many stand behind “×”, and a condition behind “when”: " + kind.Example);
        return reader.Row("part", new() { ["item"] = item.Text, ["quantity"] = quantity, ["appliesWhen"] = appliesWhen });
    }

    private static readonly Regex Sequence = new(@"^\d+(?=\s|$)", RegexOptions.CultureInvariant);

    private static string? Operation(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        var place = reader.Place;
        var used = place.Assembly.Rows.OfType<OperationLine>().Select(o => o.Sequence).DefaultIfEmpty(0).Max();
        var (rest, sequence) = body.Find(Sequence) is var (match, span) ? (body.From(span.End), Number(match.Value)) : (body, used + 10);
        if (sequence is 0 or int.MaxValue)
            reader.Fault(new(body.Span.Start, body.Span.Length - rest.Span.Length), "The number says in which order operations follow, from 1 upwards.");
        if (rest.SplitAt("at") is not var (what, _, where))
        {
            reader.Part(EntryPartKind.Operation, rest.Span);
            if (place.Index.Facts.StandardOperations.Values.FirstOrDefault(o => Names.Fold(o.Code) == Names.Fold(rest.Text)) is { } known)
                return reader.Row("operation", new()
                {
                    ["name"] = known.Code.ToLowerInvariant(),
                    ["label"] = new JsonObject { ["en"] = known.Label.Or(known.Code) },
                    ["sequence"] = sequence,
                    ["workCentre"] = known.WorkCentre,
                    ["setup"] = known.Setup,
                    ["run"] = known.Run,
                    ["instructions"] = known.Instructions.In() is { Length: > 0 } text ? new JsonObject { ["en"] = text } : [],
                    ["appliesWhen"] = appliesWhen,
                });
            return reader.Name(rest, kind.Example, isNew: false) is { } alone ? Made(reader, alone, sequence, "", "", "", appliesWhen) : null;
        }
        var name = reader.Name(what, kind.Example, isNew: false);
        var blank = where.Text.IndexOf(' ');
        var (centre, times) = blank < 0 ? (where, where.From(where.Span.End)) : (where.Until(where.Span.Start + blank), where.From(where.Span.Start + blank));
        reader.Part(EntryPartKind.WorkCentre, centre.Span);
        if (centre.IsEmpty)
            reader.Missing(where, $"At which work centre? {kind.Example}");
        var (setup, run) = times.SplitAt("+") is var (first, _, second)
            ? (reader.Expression(first, $"In front of “+” stands the set-up time: {kind.Example}"),
                reader.Expression(second, $"Behind “+” stands the run time: {kind.Example}"))
            : ("", times.IsEmpty ? "" : reader.Expression(times, ""));
        return name is null ? null : Made(reader, name, sequence, centre.Text, setup, run, appliesWhen);
    }

    private static string Made(EntryReader reader, string name, int sequence, string centre, string setup, string run, string appliesWhen) =>
        reader.Row("operation", new()
        {
            ["name"] = name,
            ["label"] = EntryReader.Label(name),
            ["sequence"] = sequence,
            ["workCentre"] = centre,
            ["setup"] = setup,
            ["run"] = run,
            ["appliesWhen"] = appliesWhen,
        });

    // ---- Prices ---------------------------------------------------------------------------------------------------

    private static readonly Regex Rounded = new(@"^round(?:ed)?\s+(?:(up|down)\s+)?(?:to\s+)?", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant);
    private static readonly Regex AtLeast = new(@"^at\s+least\s+", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant);

    private static string? Price(EntryReader reader, EntryKind kind, LineText body, string appliesWhen)
    {
        string? Line(string effect, LineText amount, LineText? label = null, string rounding = "nearest") => reader.Row("price", new()
        {
            ["effect"] = effect,
            ["amount"] = reader.Expression(amount, $"How much? {kind.Example}"),
            ["rounding"] = rounding,
            ["label"] = label is { IsEmpty: false } named ? EntryReader.Label(named.Text.Trim('\'')) : [],
            ["appliesWhen"] = appliesWhen,
        });
        if (body.IsEmpty)
        {
            reader.Missing(body, "A price line says what it does: price base = 240 EUR, price × 1.08 when express, price at least 95 EUR, "
                + "price round up to 5 EUR");
            return null;
        }
        if (body.Find(Rounded) is var (round, to))
            return Line("rounds", body.From(to.End), null, round.Groups[1].Length > 0 ? round.Groups[1].Value.ToLowerInvariant() : "nearest");
        if (body.Find(AtLeast) is var (_, least))
            return Line("atLeast", body.From(least.End));
        if (body.SplitAt("=") is var (label, _, amount))
            return IsShare(reader, body, label, amount) ? null : Line("adds", amount, label);
        if (body.SplitAt("×", "times") is var (by, _, factor))
            return Line("times", factor, by);
        return IsShare(reader, body, null, body) ? null : Line("adds", body);
    }

    private static readonly Regex Share = new(@"^([+-]?)\s*(\d{1,4}(?:\.\d{1,6})?)\s*%$", RegexOptions.CultureInvariant);

    /// <summary>“8 %” is no amount: it is a factor of what the price comes to so far, which is offered.</summary>
    private static bool IsShare(EntryReader reader, LineText body, LineText? label, LineText amount)
    {
        if (Share.Match(amount.Text) is not { Success: true } match)
            return false;
        var share = decimal.Parse(match.Groups[2].Value, CultureInfo.InvariantCulture) / 100;
        var factor = $"× {(match.Groups[1].Value == "-" ? 1 - share : 1 + share).ToString("0.########", CultureInfo.InvariantCulture)}";
        reader.Fault(amount.Span, $"A share of the price is written as a factor: price {factor}",
            reader.Instead(body.Span, label is { IsEmpty: false } named ? $"{named.Text} {factor}" : factor, factor));
        return true;
    }
}
