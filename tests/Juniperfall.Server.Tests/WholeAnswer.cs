using System.Text.Json.Nodes;

namespace Juniperfall.Server.Tests;

/// <summary>Puts the form and what an answer says of it together, as a page does, so that a test finds each thing in its place.</summary>
internal static class WholeAnswer
{
    public static async Task<JsonNode> Answer(this Task<HttpResponseMessage> sent)
    {
        var state = await sent.Json();
        return state["form"] is JsonObject form ? Of(form, state) : state;
    }

    /// <summary>An answer, asked for again where a busy machine left no time to find everything out: what is known by then is kept.</summary>
    public static async Task<JsonNode> Exactly(this HttpClient client, string path, object asked)
    {
        for (var tries = 1; ; tries++)
            if (await client.Post($"{path}/answer", asked).Answer() is var answer && (answer["exact"] is not { } exact || (bool)exact || tries == 4))
                return answer;
    }

    public static JsonNode Of(JsonNode form, JsonNode state)
    {
        var answer = state.DeepClone().AsObject();
        answer.Remove("form");
        answer.Remove("asked");
        var (asked, at) = (state["asked"]!.AsArray(), 0);
        answer["sections"] = new JsonArray([.. form["sections"]!.AsArray().Select(section =>
        {
            var whole = section!.DeepClone();
            whole["asked"] = new JsonArray([.. section["asked"]!.AsArray().Select(a => (JsonNode)Asked(a!, asked[at++]!))]);
            return whole;
        })]);
        Assert.Equal(asked.Count, at);
        answer["figures"] = new JsonArray(
            [.. Pairs(form, state, "figures").Where(p => p.Second is not null).Select(p => (JsonNode)Figure(p.First, p.Second!))]);
        answer["lines"] = new JsonArray([.. Pairs(form, state, "lines").Select(p => (JsonNode)Line(p.First, p.Second!, state["items"]!))]);
        answer["places"] = new JsonArray([.. Pairs(form, state, "places").Select(p => (JsonNode)Both(p.First, p.Second!))]);
        (answer["leftOut"], answer["priced"]) = (form["leftOut"]!.DeepClone(), form["priced"]!.DeepClone());
        if (answer["structure"] is JsonObject structure)
            FillIn(structure, form, state["items"]!);
        return answer;
    }

    /// <summary>What lines of a structure leave out.</summary>
    private static void FillIn(JsonObject structure, JsonNode form, JsonNode items)
    {
        foreach (var line in structure["bom"]!.AsArray())
        {
            foreach (var name in new[] { "unit", "store", "condition", "prefix" })
                line![name] ??= "";
            line!["description"] ??= items[(string)line["item"]!]!.DeepClone();
            line["gross"] ??= line["net"]!.DeepClone();
            line["quantity"] = form["rows"]![(string)line["rowId"]!]!["quantity"]!.DeepClone();
            if (line["below"] is JsonObject below)
                FillIn(below, form, items);
        }
    }

    private static IEnumerable<(JsonNode First, JsonNode? Second)> Pairs(JsonNode form, JsonNode state, string member)
    {
        var (first, second) = (form[member]!.AsArray(), state[member]!.AsArray());
        Assert.Equal(first.Count, second.Count);
        return first.Select((f, i) => (f!, second[i]));
    }

    private static JsonObject Both(JsonNode form, JsonNode state)
    {
        var both = form.DeepClone().AsObject();
        foreach (var (name, value) in state.AsObject())
            both[name] = value?.DeepClone();
        return both;
    }

    private static JsonObject Asked(JsonNode form, JsonNode state)
    {
        var asked = Both(form, state);
        var cannot = state["cannot"]?.AsArray().Select(c => (int)c!).ToHashSet() ?? [];
        asked["choices"] = new JsonArray([.. form["choices"]!.AsArray().Select((c, i) => Both(c!, new JsonObject { ["can"] = !cannot.Contains(i) }))]);
        foreach (var name in new[] { "value", "lowest", "highest", "members" })
            asked.TryAdd(name, null);
        asked["valueLabel"] ??= form["choices"]!.AsArray().FirstOrDefault(c => (string)c!["value"]! == (string?)state["value"])?["label"]!.DeepClone();
        asked["missing"] ??= false;
        asked["clash"] ??= 0;
        asked["applies"] ??= "always";
        asked["several"] = form["several"] is not JsonArray members ? null
            : new JsonArray([.. members.Select((m, i) => state["several"]![i]! is var s
                ? Both(m!, new JsonObject { ["state"] = s["state"]!.DeepClone(), ["chosen"] = s["chosen"]?.DeepClone(), ["canBeIn"] = s["cannotBeIn"] is null,
                ["canBeOut"] = s["cannotBeOut"] is null }) : null)]);
        return asked;
    }

    private static JsonObject Figure(JsonNode form, JsonNode state)
    {
        var figure = Both(form, state);
        figure["text"] ??= state["suggested"]!.DeepClone();
        figure["final"] = state["open"] is null;
        return figure;
    }

    private static JsonObject Line(JsonNode form, JsonNode state, JsonNode items)
    {
        var line = Both(form, state);
        if (state["name"] is { } name && state["description"] is null)
            line["description"] = items[(string)name!]!.DeepClone();
        line["quantity"] = state["quantity"]?[0]!.DeepClone() ?? "";
        line["suggested"] ??= state["state"]!.DeepClone();
        line["suggestedQuantity"] = state["quantity"]?.AsArray().Last()!.DeepClone() ?? "";
        return line;
    }
}
