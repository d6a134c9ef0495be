using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;
using Juniperfall.Core.Models.Document;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Juniperfall.Server.Answers;

/// <summary>
/// What the description of the API says of the kinds of rows and their fields: <c>x-row-kinds</c> at its head, taken from the table that binding
/// and editing use. The forms and tables of the interface are built from it.
/// </summary>
internal static class RowFieldDescription
{
    private sealed record KindView(string Name, bool Numbered, bool Whole, IReadOnlyList<FieldView> Fields);

    private sealed record FieldView(string Name, [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] FieldForm Form, string Caption,
        Expectation? Expects, bool Required, bool Nullable, bool Wide, ImmutableArray<string>? Choices, ChoiceSource? From, OnlyView? Only);

    private sealed record OnlyView(string Field, ImmutableArray<string> Values);

    private static FieldView View(RowField field) => new(field.Name, field.Form, field.Caption, field.Form == FieldForm.Expression ? field.Expects : null,
        field.Required, field.Nullable, field.Wide, field.Choices.IsEmpty ? null : field.Choices, field.From,
        field.Only is { } only ? new(only.Field, only.Values) : null);

    public static Task Describe(OpenApiDocument document, OpenApiDocumentTransformerContext context, CancellationToken cancel)
    {
        var kinds = RowKinds.All.Select(k => new KindView(k.Name, k.IsNumbered, k.IsWhole, [.. k.Fields.Where(f => f.Form != FieldForm.Parts).Select(View)]));
        var all = new { Kinds = kinds, Common = RowKinds.Common.Select(View) };
        var options = new JsonSerializerOptions(Json.Options) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault };
        document.AddExtension("x-row-kinds", new JsonNodeExtension(JsonSerializer.SerializeToNode(all, options)!));
        return Task.CompletedTask;
    }
}
