using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Core.Models.Editing;

/// <summary>
/// Applies edits to a document. Works on its JSON form, in which every thing with an id is addressed alike; reading the
/// result back as a document is what validates an edit. Expressions that were touched are bound to ids.
/// </summary>
public sealed class ModelEditor
{
    private sealed class Refused(EditRefusal refusal) : Exception
    {
        public EditRefusal Refusal { get; } = refusal;
    }

    /// <summary>The ids of instances hold within their subassembly only, so they are not among the document's.</summary>
    internal const string Instances = "instances";
    private const string Reused = "reused";

    private readonly EditedDocument _edited;
    private readonly JsonObject _root;
    private readonly Dictionary<string, JsonObject> _byId = [];

    private ModelEditor(ModelDocument document)
    {
        _edited = new(document);
        _root = _edited.Root;
        Register(_root);
    }

    public static EditResult Apply(ModelDocument document, ModelEdit edit, LibraryFacts facts)
    {
        if (edit.Steps.Length > Limits.MostSteps)
            return new(document, [], new(EditFault.Malformed, $"An edit has at most {Limits.MostSteps} steps; this one has {edit.Steps.Length}."));
        try
        {
            var editor = new ModelEditor(document);
            var inverse = new List<EditStep>();
            foreach (var step in edit.Steps)
                inverse.Add(editor.Apply(step));
            inverse.Reverse();
            var touched = edit.Steps.Select(s => s switch { SetField f => f.RowId, AddRow a => IdOf(a.Row), _ => null }).OfType<string>().ToHashSet();
            var (read, model) = editor.Read(facts, touched);
            return new(read, [.. inverse], null, model);
        }
        catch (Refused refused)
        {
            return new(document, [], refused.Refusal);
        }
        catch (JsonException e)
        {
            return new(document, [], new(EditFault.Malformed, $"This does not fit there{(string.IsNullOrEmpty(e.Path) ? "" : $" ({e.Path})")}."));
        }
    }

    /// <summary>Binds every expression of a document whose names are known: after an import from a file written by hand.</summary>
    /// <returns>The document, or why it cannot be taken as a whole: it is too large, or something has an id that something else has.</returns>
    public static (ModelDocument? Document, EditRefusal? Refusal) BindNames(ModelDocument document, LibraryFacts facts)
    {
        try
        {
            return (new ModelEditor(document).Read(facts, [document.Id]).Document, null);
        }
        catch (Refused refused)
        {
            return (null, refused.Refusal);
        }
    }

    private static string? TextOf(JsonNode? node) => node is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;

    private static string? IdOf(JsonNode? node) => node is JsonObject thing ? TextOf(thing["id"]) : null;

    private static bool IsAttribute(JsonNode thing) => TextOf(thing["kind"]) == "attribute";

    private void Register(JsonNode? node)
    {
        if (node is JsonObject thing)
        {
            if (IdOf(thing) is { } id && !_byId.TryAdd(id, thing))
                throw new Refused(new(EditFault.Malformed, "Something with this id is there already.", id));
            foreach (var (name, member) in thing)
                if (name != Instances)
                    Register(member);
        }
        else if (node is JsonArray array)
            foreach (var member in array)
                Register(member);
    }

    private JsonObject Find(string id) => _byId.TryGetValue(id, out var found) ? found
        : throw new Refused(new(EditFault.Gone, "This is no longer there; someone has deleted it.", id));

    private EditStep Apply(EditStep step)
    {
        switch (step)
        {
            case ReuseRevision reuse:
                return Reuse(reuse);
            case SetField set:
                RefuseIfReused(set.RowId);
                return Set(set);
            case AddRow add:
                RefuseIfReused(add.ParentId);
                if (add.Collection == Reused)
                    throw new Refused(new(EditFault.Malformed, "A model that is reused is taken in by its revision.", add.ParentId, add.Collection));
                RefuseIfBad(add.Row, add.ParentId, add.Collection);
                var row = add.Row.DeepClone().AsObject();
                if (IsAttribute(row) && row.Remove(AttributeRow.EarlierName, out var kind))
                    row[AttributeRow.KindName] = kind;
                if (IdOf(row) is not { Length: > 0 and <= 100 } id || id.AsSpan().ContainsAny("/:# ⟦⟧"))
                    throw new Refused(new(EditFault.Malformed, "A new row needs an id without slashes, colons, blanks, number signs and brackets."));
                Register(row);
                Insert(add.ParentId, add.Collection, add.AfterId, row);
                return new RemoveRow(id);
            case RemoveRow remove:
                RefuseIfReused(remove.RowId);
                var (parentId, collection, afterId) = PlaceOf(remove.RowId);
                var removed = Find(remove.RowId);
                RefuseIfUsed(removed);
                _edited.Touch(removed);
                removed.Parent!.AsArray().Remove(removed);
                Forget(removed);
                return new AddRow(parentId, collection, afterId, removed);
            case MoveRow move:
                RefuseIfReused(move.RowId);
                RefuseIfReused(move.ParentId);
                if (Around(move.ParentId).Contains(move.RowId))
                    throw new Refused(new(EditFault.Malformed, "Nothing can be moved into itself.", move.RowId));
                var was = PlaceOf(move.RowId);
                var moved = Find(move.RowId);
                _edited.Touch(moved.Parent);
                moved.Parent!.AsArray().Remove(moved);
                Insert(move.ParentId, move.Collection, move.AfterId, moved);
                return new MoveRow(move.RowId, was.ParentId, was.Collection, was.AfterId);
            default:
                throw new InvalidOperationException(step.GetType().Name);
        }
    }

    /// <summary>What stands in a reused model is edited where it comes from.</summary>
    private void RefuseIfReused(string id)
    {
        for (JsonNode? node = _byId.GetValueOrDefault(id); node?.Parent is { } parent; node = parent)
            if (parent is JsonArray array && array.Parent == _root && array.GetPropertyName() == Reused)
                throw new Refused(new(EditFault.Malformed,
                    $"This belongs to revision {node["revision"]} of {node["code"]}; it is edited there, and then the new revision is taken here.", id));
    }

    private ReuseRevision Reuse(ReuseRevision step)
    {
        _edited.Touch(_root);
        var entries = (_root[Reused] ??= new JsonArray()).AsArray();
        var there = entries.FirstOrDefault(e => IdOf(e) == step.EntryId)?.AsObject();
        var now = there?.Deserialize<ReusedModel>(DocumentJson.Options);
        if (now?.Revision != step.Before || (now is not null && now.ProductId != step.ProductId))
            throw new Refused(new(EditFault.Changed,
                now is null ? "This is no longer there; someone has taken it out." : $"Someone has taken revision {now.Revision} since you saw it.",
                step.EntryId));
        if (step.Revision is not null
            && (step.Content is not { } given || given.Id != step.EntryId || given.ProductId != step.ProductId || given.Revision != step.Revision))
            throw new Refused(new(EditFault.Gone, $"There is no released revision {step.Revision} of that product.", step.EntryId));
        var own = _root["id"]!.GetValue<string>();
        if (step.Content is { } content && (content.ProductId == own || content.Contains.Contains(own)))
            throw new Refused(new(EditFault.Malformed,
                $"{content.Code} {(content.ProductId == own ? "is this product" : "contains this product")}, so it cannot be part of it.", step.EntryId));
        if (there is not null)
        {
            if (step.Content is null)
                RefuseIfUsed(there);
            entries.Remove(there);
            Forget(there);
        }
        if (step.Content is not null)
        {
            var entry = JsonSerializer.SerializeToNode(step.Content, DocumentJson.Options)!.AsObject();
            Register(entry);
            entries.Add(entry);
        }
        return new(step.EntryId, step.ProductId, now?.Revision, step.Revision, now);
    }

    /// <summary>How deep a field can lie below its row.</summary>
    private const int MostMembers = 12;

    private static void RefuseIfBad(JsonNode? value, string rowId, string field)
    {
        if (TextChecks.FaultIn(value) is { } fault)
            throw new Refused(new(EditFault.Malformed, fault, rowId, field));
    }

    private SetField Set(SetField set)
    {
        RefuseIfBad(set.Value, set.RowId, set.Field);
        JsonNode holder = Find(set.RowId);
        if (set.Field == AttributeRow.EarlierName && IsAttribute(holder))
            set = set with { Field = AttributeRow.KindName };
        var members = set.Field.Split('/');
        if (members.Length > MostMembers || TextChecks.FaultOf(set.Field) is not null)
            throw new Refused(new(EditFault.Malformed, "There is no such field.", set.RowId, set.Field));
        if (holder == _root && members[0] == Reused)
            throw new Refused(new(EditFault.Malformed, "A model that is reused is taken in by its revision.", set.RowId, set.Field));
        if (members[^1] is "id" or "kind")
            throw new Refused(new(EditFault.Malformed, "An id and a kind stay as they are.", set.RowId, set.Field));
        foreach (var member in members[..^1])
            holder = holder switch
            {
                JsonObject o => o[member] ??= new JsonObject(),
                JsonArray a when int.TryParse(member, out var at) && at >= 0 && at < a.Count && a[at] is { } inner => inner,
                _ => throw new Refused(new(EditFault.Malformed, "There is no such field.", set.RowId, set.Field)),
            };
        var last = members[^1];
        var current = holder switch
        {
            JsonObject o => o[last],
            JsonArray a when int.TryParse(last, out var at) && at >= 0 && at < a.Count => a[at],
            _ => throw new Refused(new(EditFault.Malformed, "There is no such field.", set.RowId, set.Field)),
        };
        if (!Same(current, set.Before))
            throw new Refused(new(EditFault.Changed, "Someone has changed this since you saw it.", set.RowId, set.Field, Shown(current)));
        var inverse = new SetField(set.RowId, set.Field, current?.DeepClone(), set.Value?.DeepClone());
        _edited.Touch(holder);
        if (holder is JsonArray array)
            array[int.Parse(last, System.Globalization.CultureInfo.InvariantCulture)] = set.Value?.DeepClone() ?? "";
        else if (set.Value is null)
            holder.AsObject().Remove(last);
        else
            holder[last] = set.Value.DeepClone();
        return inverse;
    }

    /// <summary>A member that is left out and an empty text are the same to an editor, and texts compare as people see them.</summary>
    private bool Same(JsonNode? current, JsonNode? seen)
    {
        static bool IsEmpty(JsonNode? node) => node is null || (node is JsonValue v && v.TryGetValue<string>(out var text) && text.Length == 0);
        if ((IsEmpty(current) && IsEmpty(seen)) || JsonNode.DeepEquals(current, seen))
            return true;
        return current is JsonValue c && seen is JsonValue s && c.TryGetValue<string>(out var now) && s.TryGetValue<string>(out var then)
            // A name may be typed in any case; it is shown in its own.
            && string.Equals(Shown(now), Shown(then), StoredText.References(now).Any() ? StringComparison.OrdinalIgnoreCase : StringComparison.Ordinal);
    }

    /// <summary>What stands there as people see it: names in place of ids.</summary>
    private JsonNode? Shown(JsonNode? stored) => stored switch
    {
        JsonValue value when value.TryGetValue<string>(out var text) => Shown(text),
        JsonArray array => new JsonArray([.. array.Select(Shown)]),
        _ => stored?.DeepClone(),
    };

    private string Shown(string stored)
    {
        foreach (var id in StoredText.References(stored).Distinct().ToList())
            if (_byId.TryGetValue(id, out var thing) && TextOf(thing["name"] ?? thing["code"]) is { } name)
                stored = stored.Replace($"{Lexer.ReferenceOpen}{id}{Lexer.ReferenceClose}", Printer.Name(name), StringComparison.Ordinal);
        return stored;
    }

    private void Insert(string parentId, string collection, string? afterId, JsonObject row)
    {
        var parent = Find(parentId);
        _edited.Touch(parent);
        var array = (parent[collection] ??= new JsonArray()) as JsonArray
            ?? throw new Refused(new(EditFault.Malformed, "There is no such collection.", parentId, collection));
        var at = 0;
        if (afterId is not null)
        {
            // The neighbour may have gone since; the end of its collection is then the nearest place. Instances are known to their row only.
            var neighbour = collection == Instances ? array.FirstOrDefault(member => IdOf(member) == afterId) : _byId.GetValueOrDefault(afterId);
            at = neighbour?.Parent == array ? array.IndexOf(neighbour) + 1 : array.Count;
        }
        array.Insert(at, row);
    }

    private (string ParentId, string Collection, string? AfterId) PlaceOf(string id)
    {
        var row = Find(id);
        if (row.Parent is not JsonArray array || array.Parent is not JsonObject parent)
            throw new Refused(new(EditFault.Malformed, "The model itself cannot be moved or deleted.", id));
        var at = array.IndexOf(row);
        return (IdOf(parent) ?? "", array.GetPropertyName(), at == 0 ? null : IdOf(array[at - 1]));
    }

    private void Forget(JsonNode? node)
    {
        if (node is JsonObject thing)
        {
            if (IdOf(thing) is { } id)
                _byId.Remove(id);
            foreach (var (name, member) in thing)
                if (name != Instances)
                    Forget(member);
        }
        else if (node is JsonArray array)
            foreach (var member in array)
                Forget(member);
    }

    private void RefuseIfUsed(JsonObject removed)
    {
        if (Uses.Of(_root, removed) is { IsEmpty: false } places)
            throw new Refused(new(EditFault.InUse, $"This is in use in {places.Length} place{(places.Length == 1 ? "" : "s")}.", IdOf(removed))
            {
                Places = places,
            });
    }

    // ---- Binding names to ids -----------------------------------------------------------------------------------

    private (ModelDocument Document, BoundModel? Model) Read(LibraryFacts facts, HashSet<string> touched)
    {
        var document = _edited.Read();
        var within = touched.SelectMany(Around).ToHashSet();
        var rows = (from a in document.Assemblies
                    from t in a.Topics
                    from r in t.Rows
                    where within.Contains(r.Id) || touched.Contains(document.Id)
            || touched.Contains(a.Id) || touched.Contains(t.Id)
                    select (Assembly: a, Row: r)).ToList();
        var model = rows.Count > 0 ? new BoundModel(document, facts) : null;
        if ((model?.Findings ?? SizeChecks.Run(new(document, facts))).FirstOrDefault(f => f.Diagnostic.Fault == Fault.TooLarge) is { } tooLarge)
            throw new Refused(new(EditFault.Malformed, tooLarge.Diagnostic.Message, tooLarge.RowId, tooLarge.Field));
        var changed = false;
        foreach (var (assembly, row) in rows)
            foreach (var (field, path, _) in RowKinds.Of(row).ExpressionsOf(row))
                changed |= BindField(model!, assembly, row, field, path);
        return changed ? (_edited.Read(), null) : (document, model);
    }

    /// <summary>The id and those of everything that it stands in.</summary>
    private IEnumerable<string> Around(string id)
    {
        for (JsonNode? node = _byId.GetValueOrDefault(id); node is not null; node = node.Parent)
            if (IdOf(node) is { } around)
                yield return around;
    }

    private bool BindField(BoundModel model, AssemblyDefinition assembly, Row row, RowField field, string path)
    {
        JsonNode holder = _byId[row.Id];
        var members = path.Split('/');
        foreach (var member in members[..^1])
            holder = holder is JsonArray a ? a[int.Parse(member, System.Globalization.CultureInfo.InvariantCulture)]! : holder[member]!;
        if (TextOf(holder[members[^1]]) is not { Length: > 0 } text)
            return false;
        if (field.Form == FieldForm.Template)
        {
            var filled = Template.Bind(text, inner => model.Check(assembly, inner, null).References);
            if (filled == text)
                return false;
            _edited.Touch(holder);
            holder[members[^1]] = filled;
            return true;
        }
        // A faulty text stays exactly as it was typed.
        if (model.Expression(row.Id, path) is null)
            return false;
        var type = model.Expression(row.Id, path) is BoundRecoded recoded ? recoded.Choice.Type : model.Expression(row.Id, path)!.Type;
        var bound = StoredText.Bind(text, model.Check(assembly, text, type).References);
        if (bound == text)
            return false;
        _edited.Touch(holder);
        holder[members[^1]] = bound;
        return true;
    }
}
