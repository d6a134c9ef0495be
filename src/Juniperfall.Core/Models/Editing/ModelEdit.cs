using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Editing;

/// <summary>
/// One entry of a model's history: steps that are applied together or not at all. The id is given by whoever made the
/// edit, so that one that arrives twice is known.
/// </summary>
public sealed record ModelEdit(string Id, ImmutableArray<EditStep> Steps);

// Nulls are written here: a step that is stored is read back by its constructor, which wants every member.
[JsonPolymorphic(TypeDiscriminatorPropertyName = "do")]
[JsonDerivedType(typeof(SetField), "set")]
[JsonDerivedType(typeof(AddRow), "add")]
[JsonDerivedType(typeof(RemoveRow), "remove")]
[JsonDerivedType(typeof(MoveRow), "move")]
[JsonDerivedType(typeof(ReuseRevision), "reuse")]
public abstract record EditStep;

/// <summary>Gives a field of a row a value; null takes it away.</summary>
/// <param name="RowId">Any thing with an id: a row, topic, assembly, list, value, column, or the model itself.</param>
/// <param name="Field">Its member, as in the file; deeper ones with slashes (<c>properties/p1</c>, <c>cells/0</c>).</param>
/// <param name="Before">What the editor saw there; the edit is refused if it has changed since.</param>
public sealed record SetField(string RowId, string Field, [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] JsonNode? Value,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] JsonNode? Before) : EditStep;

/// <summary>Adds a thing with an id to a collection of its parent, behind another member or in front.</summary>
public sealed record AddRow(string ParentId, string Collection, [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] string? AfterId,
    JsonObject Row) : EditStep;

public sealed record RemoveRow(string RowId) : EditStep;

public sealed record MoveRow(string RowId, string ParentId, string Collection,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] string? AfterId) : EditStep;

/// <summary>Takes a released revision of another product in, takes another revision of it instead, or lets it go.</summary>
/// <param name="EntryId">The id of the entry in the document.</param>
/// <param name="ProductId">The product.</param>
/// <param name="Revision">The number of the revision that is to be there; null for none.</param>
/// <param name="Before">The number of the revision that its author saw there; null for none.</param>
/// <param name="Content">The revision itself. Whoever asks leaves it out; it is put in before the step is applied.</param>
public sealed record ReuseRevision(string EntryId, string ProductId, [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] int? Revision,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] int? Before,
        [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] ReusedModel? Content = null) : EditStep;

/// <summary>Why an edit was not applied, and where.</summary>
/// <param name="Places">For what is in use: row and field of each use.</param>
/// <param name="Current">For a field that has changed since: what it holds now.</param>
public sealed record EditRefusal(EditFault Fault, string Message, string? RowId = null, string? Field = null, JsonNode? Current = null)
{
    public ImmutableArray<(string RowId, string Field)> Places { get; init; } = [];
}

[JsonConverter(typeof(NamedEnumConverter<EditFault>))]
public enum EditFault { Gone, Changed, InUse, Malformed }

/// <summary>The document after an edit with the steps that take it back; or the refusal, with the document as it was.</summary>
/// <param name="Model">The same with its expressions bound, where that had to be worked out already.</param>
public sealed record EditResult(ModelDocument Document, ImmutableArray<EditStep> Inverse, EditRefusal? Refusal, BoundModel? Model = null);
