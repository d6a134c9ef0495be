using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Juniperfall.Server.Answers;

/// <summary>How requests and answers are written as JSON, and described.</summary>
public static class Json
{
    /// <summary>The rooms of the model in the Core.</summary>
    private const string Models = "Juniperfall.Core.Models.";

    public static readonly JsonSerializerOptions Options = Configure(new(JsonSerializerDefaults.Web));

    public static JsonSerializerOptions Configure(JsonSerializerOptions options)
    {
        var document = DocumentJson.Options;
        options.AllowOutOfOrderMetadataProperties = document.AllowOutOfOrderMetadataProperties;
        options.UnmappedMemberHandling = document.UnmappedMemberHandling;
        options.NumberHandling = document.NumberHandling;
        options.Encoder = document.Encoder;
        options.MaxDepth = document.MaxDepth * 2;
        options.AllowDuplicateProperties = document.AllowDuplicateProperties;
        options.RespectNullableAnnotations = true;
        options.TypeInfoResolver = (options.TypeInfoResolver ?? new DefaultJsonTypeInfoResolver())
            .WithAddedModifier(RowKinds.WriteKinds).WithAddedModifier(NoNulls.Refuse);
        options.RespectRequiredConstructorParameters = true;
        options.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false));
        return options;
    }

    /// <summary>Texts in several languages are written by a converter of their own, which a description cannot look into.</summary>
    public static Task Describe(OpenApiSchema schema, OpenApiSchemaTransformerContext context, CancellationToken cancel)
    {
        if (context.JsonTypeInfo.Type == typeof(LocalText))
        {
            schema.Type = JsonSchemaType.Object;
            schema.AdditionalProperties = new OpenApiSchema { Type = JsonSchemaType.String };
        }
        // What is read only, so that earlier files and edits are still understood, is not described.
        foreach (var earlier in context.JsonTypeInfo.Properties.Where(p => p.Get is null))
            schema.Properties?.Remove(earlier.Name);
        // What a document always has is written always, whatever a file may leave out.
        if ((context.JsonTypeInfo.Type.Namespace?.StartsWith(Models, StringComparison.Ordinal) ?? false) && schema.Properties is { } properties)
            foreach (var property in context.JsonTypeInfo.Properties.Where(p => !p.IsGetNullable && properties.ContainsKey(p.Name)))
                (schema.Required ??= new HashSet<string>()).Add(property.Name);
        return Task.CompletedTask;
    }

    /// <summary>The member that tells the kinds of a row apart is always there.</summary>
    public static Task DescribeKinds(OpenApiDocument document, OpenApiDocumentTransformerContext context, CancellationToken cancel)
    {
        foreach (var schema in document.Components?.Schemas?.Values.OfType<OpenApiSchema>().Where(s => s.Discriminator is not null).ToList() ?? [])
            foreach (var kind in schema.Discriminator!.Mapping?.Values ?? [])
                if (kind.Reference.Id is { } id && document.Components!.Schemas![id] is OpenApiSchema of)
                    (of.Required ??= new HashSet<string>()).Add(schema.Discriminator.PropertyName!);
        return Task.CompletedTask;
    }
}
