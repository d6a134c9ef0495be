using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;

namespace Juniperfall.Formats;

/// <summary>The JSON Schemas of the files, taken from the types that are read and written, so that the two cannot disagree.</summary>
public static class ModelSchema
{
    public static string Write() => Write(typeof(ModelPackage), $"Juniperfall model, {ModelDocument.CurrentFormat}");

    /// <summary>The schema of a generated structure.</summary>
    public static string WriteStructure() => Write(typeof(Structures.StructureFile), $"Juniperfall structure, {Structures.StructureFile.CurrentFormat}");

    private static string Write(Type type, string title)
    {
        var schema = DocumentJson.Options.GetJsonSchemaAsNode(type, new JsonSchemaExporterOptions
        {
            TreatNullObliviousAsNonNullable = true,
            TransformSchemaNode = (context, node) => context.TypeInfo.Type == typeof(LocalText)
                ? new JsonObject
                {
                    ["type"] = "object",
                    ["description"] = "Language code to text.",
                    ["additionalProperties"] = new JsonObject { ["type"] = "string" }
                }
                : WithoutNulls(WithoutEarlierNames(context, node)),
        }).AsObject();
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", title);
        return schema.ToJsonString(new JsonSerializerOptions { WriteIndented = true, Encoder = DocumentJson.Options.Encoder }) + "\n";
    }

    /// <summary>What is only read, as earlier files have it, is not written.</summary>
    private static JsonNode WithoutEarlierNames(JsonSchemaExporterContext context, JsonNode node)
    {
        foreach (var earlier in context.TypeInfo.Properties.Where(p => p.Get is null))
            (node["properties"] as JsonObject)?.Remove(earlier.Name);
        return node;
    }

    /// <summary>What can be null is left out where it is, so that it is not required.</summary>
    private static JsonNode WithoutNulls(JsonNode node)
    {
        if (node is JsonObject of && of["required"] is JsonArray required && of["properties"] is JsonObject properties)
        {
            foreach (var name in required.Select(r => (string)r!).Where(n => properties[n]?["type"] is JsonArray types && types.Any(t => (string?)t == "null"))
                .ToList())
                required.Remove(required.First(r => (string)r! == name));
            if (required.Count == 0)
                of.Remove("required");
        }
        return node;
    }
}
