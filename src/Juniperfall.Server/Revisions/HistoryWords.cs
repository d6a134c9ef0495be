using System.Text.Json.Nodes;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Revisions;

/// <summary>Entries of the history in the words of those who read it: “Panel core 80 mm, rate: 118 → 124”.</summary>
internal sealed class HistoryWords(CompiledModel compiled)
{
    // Edits of thousands of steps name rows of grids; only one that does needs the rows by id.
    private readonly Lazy<Dictionary<string, (CombinationGrid Grid, int At)>> _gridRows = new(() => ByRow(compiled));

    public HistoryView Of(StoredEdit edit) =>
        new(edit.Sequence, edit.Person, edit.MadeAt, edit.Kind, edit.Undoes, [.. edit.Steps.Select(s => Change(s, edit))]);

    private ChangeView Change(EditStep step, StoredEdit edit)
    {
        string Shown(JsonNode? node) => node switch
        {
            null => "nothing",
            JsonValue value when value.TryGetValue<string>(out var text) =>
                text.Length == 0 ? "nothing" : compiled.Model.Index.NameOf(text) ?? StoredText.Show(text, compiled.Model.Index),
            JsonValue value => value.ToJsonString() switch { "true" => "yes", "false" => "no", var other => other },
            JsonObject texts when texts.All(t => t.Value is JsonValue) =>
                string.Join(" / ", texts.Select(t => t.Value!.ToString())),
            JsonArray array => $"{array.Count} entries",
            _ => "something else",
        };

        string RowName(JsonObject row) =>
            Shown(row["name"] ?? row["code"] ?? row["number"] ?? row["item"] ?? row["label"] ?? row["kind"]);

        return step switch
        {
            // What a case expects can be a cost, which not everyone may see.
            SetField set when set.Field.Split('/')[0] == "expected" && compiled.Revision.Document.Cases.Any(c => c.Id == set.RowId) =>
                new(set.RowId, NameOf(set.RowId), set.Field.EndsWith("/because", StringComparison.Ordinal)
                    ? $"what came out is accepted: {Shown(set.Value)}" : "something else is expected"),
            SetField set => new(set.RowId, NameOf(set.RowId),
                $"{FieldName(set)}: {Shown(set.Before)} → {Shown(set.Value)}"),
            AddRow add => new((string?)add.Row["id"] ?? "", RowName(add.Row), "added"),
            RemoveRow remove => new(remove.RowId,
                edit.Inverse.OfType<AddRow>().FirstOrDefault(a => (string?)a.Row["id"] == remove.RowId) is { } removed
                ? RowName(removed.Row) : "a row", "deleted"),
            ReuseRevision reuse => new(reuse.EntryId,
                edit.Steps.Concat(edit.Inverse).OfType<ReuseRevision>().Select(r => r.Content?.Code).FirstOrDefault(c => c is not null) ?? "another product",
                reuse.Before is null ? $"revision {reuse.Revision} is reused" : reuse.Revision is null
                    ? $"revision {reuse.Before} is no longer reused" : $"revision {reuse.Before} → {reuse.Revision}"),
            MoveRow move => new(move.RowId, NameOf(move.RowId), "moved"),
            _ => new("", "", ""),
        };
    }

    /// <summary>What a row, a value or a row of a grid is called, with what it stands in.</summary>
    internal string NameOf(string id)
    {
        var index = compiled.Model.Index;
        return compiled.Revision.Document.Cases.FirstOrDefault(c => c.Id == id) is { } one ? $"Test case “{one.Name}”"
            : index.Values.TryGetValue(id, out var value) ? $"{value.List.Label.Or(value.List.Name)} {value.Value.Label.Or(value.Value.Code)}"
            : index.NameOf(id) is null && !index.Rows.ContainsKey(id) && _gridRows.Value.TryGetValue(id, out var row)
                ? $"{row.Grid.Label.Or(row.Grid.Name)}, row {row.At + 1}" : compiled.NameOf(id);
    }

    /// <summary>The grid that each row of one stands in, and its place there, counted from 0.</summary>
    private static Dictionary<string, (CombinationGrid Grid, int At)> ByRow(CompiledModel compiled)
    {
        var rows = new Dictionary<string, (CombinationGrid, int)>();
        foreach (var grid in compiled.Model.Index.Rows.Values.OfType<CombinationGrid>())
            for (var at = 0; at < grid.Rows.Length; at++)
                rows.TryAdd(grid.Rows[at].Id, (grid, at));
        return rows;
    }

    /// <summary>What a person calls a field: the column of a list or a grid, or its name as words: “appliesWhen” is “applies when”, “listId” is “list”.</summary>
    private string FieldName(SetField set) => FieldName(set.RowId, set.Field);

    internal string FieldName(string rowId, string field) => field.Split('/') switch
    {
        ["properties", var column, ..] => compiled.Model.Index.NameOf(column) ?? "a property",
        ["cells", var at, ..] => int.TryParse(at, out var i) && _gridRows.Value.TryGetValue(rowId, out var row) && i >= 0 && i < row.Grid.Columns.Length
            ? row.Grid.Columns[i].Name : "a cell",
        [var name, var language] when RowKinds.IsLocal(name) => $"{name} ({language})",
        [var name, ..] => string.Concat((name.EndsWith("Id", StringComparison.Ordinal) ? name[..^2] : name)
            .Select(c => char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{c}")),
        _ => field,
    };
}
