using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;

namespace Juniperfall.Formats;

/// <summary>A fault of a model file.</summary>
/// <param name="Id">Which fault it is: JF and a number, or JF000 where the file cannot be read as a model.</param>
/// <param name="Blocks">Whether it stands against release; otherwise it is worth a look.</param>
public sealed record FileFault(TextPlace Place, string Id, string Message, bool Blocks);

/// <summary>All faults of a model file with their places in it.</summary>
public static class FileFaults
{
    private const string NotRead = "JF000";

    public static (ModelPackage? Package, BoundModel? Model, IReadOnlyList<FileFault> Faults) Of(ReadOnlySpan<byte> json)
    {
        var read = ModelJson.Read(json);
        if (read.Package is not { } package)
            return (null, null, [new(new(read.Line ?? 1, read.Column ?? 1), NotRead, read.Error!, true)]);
        var model = new BoundModel(package.Model, package.Library);
        if (model.Findings.Count == 0)
            return (package, model, []);
        var places = new JsonPlaces(json);
        var words = new ModelWording(model);
        return (package, model, [.. model.Findings
            .Select(f => new FileFault(places.Of(f.RowId, f.Field), f.Diagnostic.Id, $"{NameOf(f)}: {f.Diagnostic.Message}", f.Blocks))
            .OrderBy(f => f.Place.Line).ThenBy(f => f.Place.Column)]);

        string NameOf(Finding finding)
        {
            var name = model.Index.Rows.GetValueOrDefault(finding.RowId) is { } row
                ? words.NameOf(row) : model.Index.Lists.GetValueOrDefault(finding.RowId)?.Name
                ?? (finding.RowId == package.Model.Id ? package.Model.Code : finding.RowId);
            var character = finding.Diagnostic.Span.Length > 0 ? $", character {finding.Diagnostic.Span.Start + 1}" : "";
            return $"{name}, {finding.Field}{character}";
        }
    }

    /// <summary>The faults as SARIF 2.1.0 (OASIS), which editors and pipelines show at their places.</summary>
    public static string Sarif(string file, IReadOnlyList<FileFault> faults, string version)
    {
        var sarif = new JsonObject
        {
            ["$schema"] = "https://json.schemastore.org/sarif-2.1.0.json",
            ["version"] = "2.1.0",
            ["runs"] = new JsonArray(new JsonObject
            {
                ["tool"] = new JsonObject
                {
                    ["driver"] = new JsonObject
                    {
                        ["name"] = "juniperfall",
                        ["version"] = version,
                        ["rules"] = new JsonArray([.. faults.Select(f => f.Id).Distinct().Order().Select(id => new JsonObject { ["id"] = id })]),
                    },
                },
                ["columnKind"] = "unicodeCodePoints",
                ["results"] = new JsonArray([.. faults.Select(f => new JsonObject
                {
                    ["ruleId"] = f.Id,
                    ["level"] = f.Blocks ? "error" : "warning",
                    ["message"] = new JsonObject { ["text"] = f.Message },
                    ["locations"] = new JsonArray(new JsonObject
                    {
                        ["physicalLocation"] = new JsonObject
                        {
                            ["artifactLocation"] = new JsonObject { ["uri"] = Uri.EscapeDataString(file).Replace("%2F", "/", StringComparison.Ordinal) },
                            ["region"] = new JsonObject { ["startLine"] = f.Place.Line, ["startColumn"] = f.Place.Column },
                        },
                    }),
                })]),
            }),
        };
        return sarif.ToJsonString(new JsonSerializerOptions { WriteIndented = true, Encoder = DocumentJson.Options.Encoder }) + "\n";
    }
}
