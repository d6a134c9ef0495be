using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Entry;

/// <summary>Lines that rule something out: statements, requires, excludes, limits and grids.</summary>
internal static class RuleLines
{
    /// <summary>The id of the row; null where the line makes none.</summary>
    public static string? Read(EntryReader reader, EntryKind kind, LineText rest)
    {
        var (body, appliesWhen) = reader.When(rest);
        var fields = kind.Word switch
        {
            "rule" => new JsonObject { ["expression"] = reader.Expression(body, $"A rule says something: {kind.Example}") },
            "requires" => Both(reader, kind, body, "then"),
            "excludes" => Both(reader, kind, body, "with"),
            "limit" => Limit(reader, kind, body),
            _ => Grid(reader, kind, body),
        };
        if (fields is null)
            return null;
        (fields["number"], fields["appliesWhen"]) = (reader.Place.NextNumber, appliesWhen);
        return reader.Row(kind.Word == "rule" ? "statement" : kind.Word, fields);
    }

    private static JsonObject? Both(EntryReader reader, EntryKind kind, LineText body, string between)
    {
        if (body.SplitAt(between) is var (when, _, then))
            return new()
            {
                ["when"] = reader.Expression(when, $"In front of “{between}” a condition is missing: {kind.Example}"),
                ["then"] = reader.Expression(then, $"Behind “{between}” a condition is missing: {kind.Example}"),
            };
        reader.Missing(body, $"Both sides are needed, with “{between}” between them: {kind.Example}",
            body.IsEmpty ? [] : [reader.Instead(new(body.Span.End, 0), $" {between} ", $"add “{between}”")]);
        return null;
    }

    private static JsonObject? Limit(EntryReader reader, EntryKind kind, LineText body)
    {
        var (of, lower, upper) = (body, "", "");
        if (body.SplitAt("between") is var (quantity, _, bounds))
        {
            if (bounds.SplitAt("and") is not var (low, _, high))
            {
                reader.Missing(bounds, $"A limit between two bounds has “and” between them: {kind.Example}");
                return null;
            }
            (of, lower, upper) = (quantity, reader.Expression(low, $"The lower bound is missing: {kind.Example}"),
                reader.Expression(high, $"The upper bound is missing: {kind.Example}"));
        }
        else if (body.SplitAt("<=", "at most") is var (most, _, upTo))
            (of, upper) = (most, reader.Expression(upTo, "The upper bound is missing: limit weight <= 60 kg"));
        else if (body.SplitAt(">=", "at least") is var (least, _, from))
            (of, lower) = (least, reader.Expression(from, "The lower bound is missing: limit weight >= 5 kg"));
        else
        {
            reader.Missing(body, $"A limit needs a quantity and a bound: {kind.Example}, or limit weight <= 60 kg");
            return null;
        }
        return new() { ["of"] = reader.Expression(of, $"Of what? {kind.Example}"), ["lower"] = lower, ["upper"] = upper };
    }

    private static JsonObject? Grid(EntryReader reader, EntryKind kind, LineText body)
    {
        if (body.SplitAt(":") is not var (before, _, after) || after.IsEmpty)
        {
            if (reader.Name(body.SplitAt(":") is var (named, _, _) ? named : body, kind.Example) is not null)
                reader.Missing(body, $"What do its columns compare? {kind.Example}");
            return null;
        }
        var name = reader.Name(before, kind.Example);
        var columns = new JsonArray();
        foreach (var column in after.ByCommas())
        {
            var reference = reader.Expression(column, "A column is missing between two commas.");
            columns.Add(new JsonObject { ["id"] = reader.Place.NewId(), ["name"] = reference.Trim('\''), ["reference"] = reference });
        }
        return name is null ? null : new() { ["name"] = name, ["label"] = EntryReader.Label(name), ["columns"] = columns, ["rows"] = new JsonArray() };
    }
}
