using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using Juniperfall.Core.Models;

namespace Juniperfall.Formats;

/// <summary>The JSON Schema of the model file, taken from the types that read it, so that the two cannot disagree.</summary>
public static class ModelSchema
{
    public static string Write()
    {
        var schema = DocumentJson.Options.GetJsonSchemaAsNode(typeof(ModelPackage), new JsonSchemaExporterOptions
        {
            TreatNullObliviousAsNonNullable = true,
            TransformSchemaNode = (context, node) => context.TypeInfo.Type == typeof(LocalText)
                ? new JsonObject { ["type"] = "object", ["description"] = "Language code to text.", ["additionalProperties"] = new JsonObject { ["type"] = "string" } }
                : node,
        }).AsObject();
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "title", $"Juniperfall model, {ModelDocument.CurrentFormat}");
        return schema.ToJsonString(new JsonSerializerOptions { WriteIndented = true, Encoder = DocumentJson.Options.Encoder }) + "\n";
    }
}
