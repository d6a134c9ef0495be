using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Small drafts over HTTP, and edits of them.</summary>
internal static class Drafts
{
    public static object Add(string parent, string collection, object row) => new { @do = "add", parentId = parent, collection, afterId = (string?)null, row };

    public static object Set(string row, string field, object? value, object? before) => new { @do = "set", rowId = row, field, value, before };

    public static async Task<JsonNode> Edit(this HttpClient client, string path, params object[] steps) =>
        await client.Post($"{path}/edits", new { id = Guid.NewGuid().ToString(), steps }).Json();

    /// <summary>A draft of a whole number n, by default 2, that a rule keeps below 8, and of bolts, 4 for each.</summary>
    public static async Task<(string Path, string ModelId)> Draft(this HttpClient engineer)
    {
        var made = await engineer.Post("/api/products",
            new { id = Guid.NewGuid(), code = $"SR{Guid.NewGuid().ToString("N")[..6].ToUpperInvariant()}", label = "Shelf rack" }).Json();
        var path = $"/api/revisions/{(long)made["revisionId"]!}";
        var document = (await engineer.Get(path))["document"]!;
        var (model, topic) = ((string)document["id"]!, (string)document["assemblies"]![0]!["topics"]![0]!["id"]!);
        var edited = await Edit(engineer, path,
            Add(topic, "rows",
                new { kind = "attribute", id = "n", name = "n", attributeKind = "whole", min = "1", max = "9", required = true, suggestion = "2" }),
            Add(topic, "rows", new { kind = "statement", id = "few", number = 1, expression = "n < 8" }),
            Add(topic, "rows", new { kind = "part", id = "bolts", item = "SCRW-K", quantity = "n * 4" }),
            Add(topic, "rows",
                new { kind = "operation", id = "screw", name = "screw", sequence = 10, workCentre = "SAW", setup = "6 min", run = "n * 1 min" }));
        Assert.Empty(edited["findings"]!.AsArray());
        return (path, model);
    }

    /// <summary>The revision as someone else than its author releases it.</summary>
    public static async Task Released(this HttpClient approver, string path)
    {
        var head = (long)(await approver.Get(path))["head"]!;
        (await approver.Post($"{path}/release", new { head })).EnsureSuccessStatusCode();
    }

    /// <summary>What is asked in the background, once nothing is running any more.</summary>
    public static async Task<JsonNode> Finished(this HttpClient client, string path)
    {
        for (var i = 0; i < 800; i++)
        {
            var view = await client.Get(path);
            if (!(bool)view["running"]!)
                return view;
            await Task.Delay(50);
        }
        throw new TimeoutException($"{path} is still being asked.");
    }
}
