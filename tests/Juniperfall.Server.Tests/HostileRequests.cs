using System.Diagnostics;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using Juniperfall.Core.Tests;

namespace Juniperfall.Server.Tests;

/// <summary>
/// Every endpoint of the API's description, asked with its example changed at random, as people of every role: an answer or a problem
/// with a sentence, never a fault of the server's own, never an empty error, and afterwards everything is still answered.
/// </summary>
public sealed class HostileRequests(Served served) : IClassFixture<Served>
{
    private static int Rounds => Environment.GetEnvironmentVariable("JUNIPERFALL_LONG") == "1" ? 50_000 : 800;

    private static readonly string[] Addresses =
        ["1", "2", "999999", "0", "-1", "99999999999999999999", "x", "%ff", "a%2fb", "%E2%80%AE", "cold-room", "items", "sites", "r.spans", "csv", "xlsx"];

    private sealed record Operation(string Method, string Path, JsonNode? Example, string ContentType, string[] Query);

    private async Task<List<Operation>> Operations()
    {
        using var client = served.Anonymous();
        var description = await client.Get("/api/openapi.json");
        return [.. from path in description["paths"]!.AsObject()
                   from operation in path.Value!.AsObject()
                   where operation.Key is "get" or "post" or "put" or "delete" or "patch"
                   // Those tell of changes for as long as one listens.
                   where !path.Key.EndsWith("/changes", StringComparison.Ordinal)
                   let body = operation.Value!["requestBody"]?["content"]?.AsObject().FirstOrDefault()
                   select new Operation(operation.Key, path.Key, body?.Value?["example"], body?.Key ?? "application/json",
                       [.. (operation.Value["parameters"]?.AsArray() ?? []).Where(p => (string)p!["in"]! == "query").Select(p => (string)p!["name"]!)])];
    }

    [Fact]
    public async Task A_request_of_any_content_gets_an_answer_or_a_problem()
    {
        var operations = await Operations();
        Assert.True(operations.Count > 40);
        HttpClient[] people = [await served.As("engineer"), await served.As("approver"), await served.As("order desk"), await served.As("planner"),
            await served.As("administrator"), served.Anonymous()];
        var failed = new List<string>();
        for (var seed = 0; seed < Rounds && failed.Count < 10; seed++)
        {
            var random = new Random(seed);
            var operation = operations[seed % operations.Count];
            // Signing out or in as someone else would end the round for the rest.
            if (operation.Path == "/api/session" && operation.Method != "post")
                continue;
            var client = people[random.Next(3) == 0 ? random.Next(people.Length) : 0];
            var path = string.Join('/', operation.Path.Split('/').Select(s => !s.Contains('{') ? s : random.Next(3) > 0 ? s switch
            {
                "{id}" => operation.Path.Contains("/revisions/") ? $"{random.Next(1, 4)}" : "3f1c2a9e-58d1-4f0e-9b59-5c1f0c7a1d11",
                "{productId}" => "cold-room",
                "{rowId}" => "r.spans",
                "{table}" => "items",
                "{number}" => "GSK-D",
                _ => Addresses[random.Next(Addresses.Length)],
            } : Addresses[random.Next(Addresses.Length)]));
            var query = string.Join('&', operation.Query.Where(_ => random.Next(2) == 0)
                .Select(q => $"{q}={(random.Next(2) == 0 ? (random.Next(8) == 0 ? "%00" : Addresses[random.Next(Addresses.Length)]) : Uri.EscapeDataString($"{(char)random.Next(1, 0xd000)}{random.Next()}"))}"));
            using var request = new HttpRequestMessage(new(operation.Method.ToUpperInvariant()), query.Length > 0 ? $"{path}?{query}" : path);
            if (operation.Method != "get")
            {
                request.Content = new ByteArrayContent(operation.Example is { } example
                    ? new Mutations(seed).Of(example) : new Mutations(seed).OfBytes(Encoding.UTF8.GetBytes("number;description\nGSK-D;Gasket\n")));
                if (random.Next(20) > 0)
                    request.Content.Headers.ContentType = new(operation.ContentType);
            }
            var said = $"seed {seed}: {operation.Method} {request.RequestUri}";
            var clock = Stopwatch.StartNew();
            try
            {
                using var response = await client.SendAsync(request);
                var body = await response.Content.ReadAsStringAsync();
                if ((int)response.StatusCode >= 500)
                    failed.Add($"{said}: {response.StatusCode} {body}");
                else if ((int)response.StatusCode >= 400
                    && (response.Content.Headers.ContentType?.MediaType != "application/problem+json"
                    || string.IsNullOrWhiteSpace((string?)JsonNode.Parse(body)?["detail"])))
                    failed.Add($"{said}: {response.StatusCode} says nothing: {body}");
            }
            catch (Exception e)
            {
                failed.Add($"{said}: {e.Message}");
            }
            // Generous, since this is no measurement; a limit that does not hold would be felt.
            if (clock.Elapsed > TimeSpan.FromSeconds(40))
                failed.Add($"{said}: took {clock.Elapsed}");
        }
        Assert.True(failed.Count == 0, string.Join("\n", failed));
        var answer = await people[2].Post("/api/revisions/1/answer", new { picks = Array.Empty<object>() }).Answer();
        Assert.True((bool)answer["valid"]!);
    }

    [Theory]
    [InlineData("/api/revisions/2/answer", 2)]
    [InlineData("/api/session", 1)]
    [InlineData("/api/revisions/2/edits", 16)]
    public async Task A_request_that_is_too_large_is_a_problem(string path, int megabytes)
    {
        using var client = await served.As("engineer");
        using var response = await client
            .PostAsync(path, new ByteArrayContent(new byte[(megabytes << 20) + 1]) { Headers = { ContentType = new("application/json") } });
        Assert.Contains(response.StatusCode, new[] { HttpStatusCode.RequestEntityTooLarge, HttpStatusCode.BadRequest });
        Assert.NotEmpty((string)JsonNode.Parse(await response.Content.ReadAsStringAsync())!["detail"]!);
    }

    [Theory]
    [InlineData("""{"id": "e1", "steps": [{"rowId": "r.width", "field": "note", "value": "x", "before": null}]}""")]
    [InlineData("""{"id": "e2", "steps": [null]}""")]
    [InlineData("""{"id": "e3", "steps": [{"do": "set", "rowId": "r.width", "field": "note", "value": "a\u0000b", "before": null}]}""")]
    [InlineData("""{"id": "e\u0000", "steps": [{"do": "set", "rowId": "r.width", "field": "note", "value": "b", "before": null}]}""")]
    [InlineData("""{"id": "e4", "steps": [{"do": "add", "parentId": "r", "collection": "topics", "afterId": null, "row": {"id": "t", "rows": [{"id": "x"}]}}]}""")]
    [InlineData("""{"id": "e5", "steps": [{"do": "add", "parentId": "r", "collection": "topics", "afterId": null, "row": {"id": "t", "id": "u"}}]}""")]
    [InlineData("""{"id": "e6", "steps": [{"do": "set", "rowId": "r.width", "field": "attributeKind", "value": 3, "before": "quantity"}]}""")]
    public async Task An_edit_that_makes_no_sense_is_refused_in_words(string edit)
    {
        using var client = await served.As("engineer");
        var problem = await client.PostAsync("/api/revisions/2/edits", new StringContent(edit, Encoding.UTF8, "application/json")).Json();
        Assert.InRange((int)problem["status"]!, 400, 422);
        Assert.NotEmpty((string)problem["detail"]!);
    }
}
