using System.Text.Json.Nodes;
using Juniperfall.Server.People;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Juniperfall.Server.Answers;

/// <summary>What the description of the API says of all endpoints alike: how one signs in, the right each needs, its errors, its parameters, an
/// example.</summary>
public static class ApiDescription
{
    private const string Cookie = "cookie", CrossSiteHeader = "crossSite";

    /// <summary>Where a parameter of an address means the same everywhere.</summary>
    private static readonly Dictionary<string, (string Description, JsonNode Example)> Parameters = new()
    {
        ["id"] = ("The id of the revision, configuration or structure.", 12),
        ["productId"] = ("The id of the product.", "cold-room"),
        ["rowId"] = ("The id of a row of the model.", "r.spans"),
        ["search"] = ("Words to look for; without them all are meant.", "door"),
        ["product"] = ("The id of a product; without it all are meant.", "cold-room"),
        ["from"] = ("How many rows come before the page.", 200),
        ["sort"] = ("The column to sort by.", "cost"),
        ["descending"] = ("Whether what is largest comes first.", true),
        ["where"] = ("Filters of columns, each “column:filter”: a text within the cell, =text, <5, >=5.", "cost:>10"),
        ["before"] = ("The number of the entry before which to go on.", 240),
        ["name"] = ("A sign-in name, or the code of a product; without it all are meant.", "ines"),
        ["number"] = ("The number of an item.", "GSK-D"),
        ["table"] = ("Of the library: items, work-centres, sites, standard-operations or customer-classes. Of a structure: bom, routing, or structure for "
            + "all of it.", "items"),
        ["format"] = ("The ending of the file.", "xlsx"),
        ["mode"] = ("check only looks, all loads everything or nothing, good loads the sound rows.", "check"),
        ["sheet"] = ("The name of the sheet of a workbook.", "items"),
        ["separator"] = ("What stands between the cells of a text: comma, semicolon or tab.", "semicolon"),
        ["decimalComma"] = ("Whether the numbers of a text have a decimal comma.", true),
        ["site"] = ("The code of a site.", "HAL"),
        ["date"] = ("A day.", "2027-01-31"),
        ["left"] = ("The id of a configuration.", "3f1c2a9e-58d1-4f0e-9b59-5c1f0c7a1d11"),
        ["right"] = ("The id of another configuration.", "8a7de0b4-21c7-4f9d-8f57-0f3f2d4b6e22"),
        ["quantity"] = ("How many are ordered.", "5"),
        ["all"] = ("Whether what is the same stands there, too.", true),
        ["to"] = ("The id of the revision to move to.", 14),
        ["remarkId"] = ("The id of a remark.", "0b1f7e52-3c0e-4d0a-8a4e-5b7a3f0f8c01"),
        ["pauseId"] = ("The id of a pause.", "4a7d2c90-1b3e-4f58-9c6d-0e1f2a3b4c5d"),
        ["place"] = ("Which list or page.", "configurations"),
        ["rule"] = ("The id of a rule that is set aside.", "r.span"),
        ["counts"] = ("Whether only the counts are wanted, without the cases.", true),
    };

    /// <summary>Of configurations and structures; revisions have numbers.</summary>
    private const string AnId = "3f1c2a9e-58d1-4f0e-9b59-5c1f0c7a1d11";

    private const string Picks = """ "picks": [{"path": "r.duty", "value": "freezer"}, {"path": "r.length", "value": "3600"}], "site": "HAL", "date": "2027-01-31" """;

    /// <summary>By endpoint, what a request may look like.</summary>
    private static readonly Dictionary<string, string> Requests = new()
    {
        ["signIn"] = """{"name": "ines", "password": "…"}""",
        ["makeProduct"] = """{"id": "6f8a2c1e-90b1-4a56-8a3e-1c7d5a0e9b33", "code": "SC2", "label": "Strip curtain, heated"}""",
        ["answer"] = $$"""{"form": "241", {{Picks}}}""",
        ["passwordLink"] = """{"token": "…"}""",
        ["choosePassword"] = """{"token": "…", "password": "…"}""",
        ["changePassword"] = """{"present": "…", "password": "…"}""",
        ["addPerson"] = """{"name": "ada", "display": "Ada Byrne", "role": "planner", "mail": "ada@juniperfall.example"}""",
        ["changePerson"] = """{"role": "order desk"}""",
        ["totals"] = $"{{{Picks}}}",
        ["count"] = $"{{{Picks}}}",
        ["fullStructure"] = $"{{{Picks}}}",
        ["why"] = $$"""{"path": "r.core", "value": "80", {{Picks}}}""",
        ["whatIf"] = $$"""{"then": [{"path": "r.core", "value": "120"}], "customerClass": "D", {{Picks}}}""",
        ["caseFacts"] = $$"""{"quantity": "5", {{Picks}}}""",
        ["setLeastMargin"] = """{"percent": "22.5"}""",
        ["whyAll"] = $$"""{"path": "r.core", {{Picks}}}""",
        ["waysOut"] = $$"""{"path": "r.core", "value": "80", {{Picks}}}""",
        ["tightBounds"] = $$"""{"path": "#price", {{Picks}}}""",
        ["best"] = $$"""{"goal": "#cost", "highest": false, {{Picks}}}""",
        ["checkExpression"] = $$"""{"assemblyId": "r", "rowId": "r.area", "field": "expression", "text": "length * width", {{Picks}}}""",
        ["readEntry"] = """{"assemblyId": "r", "topicId": "t", "afterId": null, "lines": ["choice finish: white, grey"]}""",
        ["completeExpression"] = """{"assemblyId": "r", "text": "core.", "position": 5}""",
        ["costs"] = $$"""{"quantity": "5", "customerClass": "D", {{Picks}}}""",
        ["working"] = $$"""{"rowId": "r.area", "prefix": "", "field": "expression", {{Picks}}}""",
        ["edit"] = """{"id": "b3b8e4d2-7b0f-4d55-9f0a-6f5f1c6c3a44", "steps": [{"do": "set", "rowId": "r.length", "field": "max", "value": "12000", "before": "11000"}]}""",
        ["bePresent"] = """{"page": "5b0c7f0e-2c8d-4a50-9a55-0b5e8d1f7c66", "rowId": "r.length"}""",
        ["undo"] = """{"id": "c4c9f5e3-8c1a-4e66-8a1b-7a6a2d7d4b55"}""",
        ["redo"] = """{"id": "d5dab6f4-9d2b-4f77-9b2c-8b7b3e8e5c66"}""",
        ["release"] = """{"head": 241, "note": "The freezer floor is insulated."}""",
        ["moveSaved"] = """{"ids": ["3f1c2a9e-58d1-4f0e-9b59-5c1f0c7a1d11"]}""",
        ["withdraw"] = """{"why": "The core of 80 mm is no longer bought."}""",
        ["remark"] = """{"id": "0b1f7e52-3c0e-4d0a-8a4e-5b7a3f0f8c01", "rowId": "r.area", "text": "Is this the inner area?"}""",
        ["answerRemark"] = """{"id": "1c2a8f63-4d1f-4e1b-9b5f-6c8b4a1a9d12", "text": "It is, by the drawing."}""",
        ["closeRemark"] = """{"close": true}""",
        ["askForRelease"] = """{"head": 241, "note": "New freezer floor; §12 and §13 are new."}""",
        ["sendBack"] = """{"note": "The floor of the deep freezer has no vapour barrier yet."}""",
        ["makeBaseline"] = """{"id": "7e5f0a3b-6c2d-4e1f-8a9b-3d4c5e6f7a8b", "name": "Spring catalogue", "note": "As printed."}""",
        ["keepView"] = """{"place": "configurations", "name": "Harbour", "state": "search=harbour", "forAll": false}""",
        ["pause"] = """{"id": "4a7d2c90-1b3e-4f58-9c6d-0e1f2a3b4c5d", "valueId": "cores-140", "from": "2027-02-01", "to": "2027-02-28", "reason": "The press is mended."}""",
        ["previewExchange"] = """{"with": "GSK-E", "from": "2027-03-01"}""",
        ["exchange"] = """{"id": "9c2e4b61-7d0f-4a35-8b1e-2f6a7c8d9e10", "with": "GSK-E", "revisions": [{"revisionId": 12, "head": 241}]}""",
        ["askForConcession"] = """{"id": "2d3b9a74-5e2a-4f2c-8c6a-7d9c5b2b0e23", "rules": ["r.span"], "reason": "The customer's own steelwork carries the ceiling.", "until": "2027-03-31", "quantity": 2, "version": 1}""",
        ["signConcession"] = """{"note": "By the statics of 12 January."}""",
        ["refuseConcession"] = """{"note": "The ceiling would sag."}""",
        ["withdrawConcession"] = """{"note": "The steelwork was not built."}""",
        ["removedByRule"] = $"{{{Picks}}}",
        ["acceptFinding"] = """{"key": "valueNever r.core", "reason": "Kept for spares."}""",
        ["editLibrary"] = """{"columns": ["number", "cost"], "rows": [["GSK-D", "4.10"]], "before": [["GSK-D", "3.60"]]}""",
        ["libraryImpact"] = """{"columns": ["number", "cost"], "rows": [["GSK-D", "4.10"]]}""",
        ["removeFromLibrary"] = """{"key": "GSK-OLD"}""",
        ["generate"] = """{"id": "e6ebc7a5-ae3c-4a88-ac3d-9c8c4f9f6d77", "quantity": "5"}""",
        ["saveConfiguration"] = $$"""{"id": "f7fcd8b6-bf4d-4b99-bd4e-ad9d5a0a7e88", "name": "Harbour kitchen", "revisionId": 12, "customerClass": "D", {{Picks}}}""",
        ["changeConfiguration"] = $$"""{"name": "Harbour kitchen", "version": 2, {{Picks}}}""",
        ["moveConfiguration"] = """{"revisionId": 14, "version": 2}""",
    };

    public static void Describe(OpenApiOptions options) => options.AddOperationTransformer(Operation).AddDocumentTransformer(Document);

    private static Task Document(OpenApiDocument document, OpenApiDocumentTransformerContext context, CancellationToken cancel)
    {
        document.Info = new()
        {
            Title = "Juniperfall",
            Version = "1",
            Description = $"Configuration models: edited, asked, built. Sign in with POST /api/session, keep the cookie, and send the header "
                + $"{CrossSite.Header} with whatever changes something. Errors have one form (RFC 9457)."
        };
        document.Components ??= new();
        document.Components.SecuritySchemes = new Dictionary<string, IOpenApiSecurityScheme>
        {
            [Cookie] = new OpenApiSecurityScheme
            {
                Type = SecuritySchemeType.ApiKey,
                In = ParameterLocation.Cookie,
                Name = SignIn.CookieName,
                Description = "Is set by signing in."
            },
            [CrossSiteHeader] = new OpenApiSecurityScheme
            {
                Type = SecuritySchemeType.ApiKey,
                In = ParameterLocation.Header,
                Name = CrossSite.Header,
                Description = "Any value: that the header is there says that no other site has sent the request."
            },
        };
        foreach (var (method, operation) in document.Paths.Values.SelectMany(p => p.Operations ?? []))
        {
            var requirement = new OpenApiSecurityRequirement();
            if (operation.Responses?.ContainsKey("401") == true && operation.OperationId != "signIn")
                requirement[new OpenApiSecuritySchemeReference(Cookie, document)] = [];
            if (method != HttpMethod.Get)
                requirement[new OpenApiSecuritySchemeReference(CrossSiteHeader, document)] = [];
            operation.Security = requirement.Count > 0 ? [requirement] : [];
        }
        return Task.CompletedTask;
    }

    private static async Task Operation(OpenApiOperation operation, OpenApiOperationTransformerContext context, CancellationToken cancel)
    {
        var metadata = context.Description.ActionDescriptor.EndpointMetadata;
        operation.Responses ??= [];
        if (metadata.OfType<IAllowAnonymous>().Any())
            operation.Description = "For everyone.";
        else if (metadata.OfType<IAuthorizeData>().Select(a => a.Policy).FirstOrDefault(p => p is not null) is { } policy
            && Enum.TryParse<Right>(policy, out var right))
        {
            operation.Description = $"Needs the right “{policy}”, which these roles have: "
                + $"{string.Join(", ", Rights.OfRole.Where(r => r.Value.Contains(right)).Select(r => r.Key))}.";
            await Problem("401", "Nobody is signed in.");
            await Problem("403", "The role does not include this, or the request may come from another site.");
        }
        foreach (var parameter in (operation.Parameters ?? []).OfType<OpenApiParameter>())
            if (parameter.Name is { } name && Parameters.TryGetValue(name, out var known))
                (parameter.Description, parameter.Example) =
                    (known.Description, name == "id" && parameter.Schema?.Type == JsonSchemaType.String ? AnId : known.Example.DeepClone());
        foreach (var (status, response) in operation.Responses)
            if (response is OpenApiResponse { Description: null or "" } or OpenApiResponse { Description: "OK" } && status.StartsWith('2'))
                ((OpenApiResponse)response).Description = operation.Summary ?? "Done";
        if (metadata.OfType<EventsOf>().FirstOrDefault() is { } events && operation.Responses["200"] is OpenApiResponse { Content: { } told })
        {
            context.Document!.AddComponent(events.Type.Name, await context.GetOrCreateSchemaAsync(events.Type, null, cancel));
            told["text/event-stream"] = new() { Schema = new OpenApiSchemaReference(events.Type.Name, context.Document) };
        }
        // Whatever type a client gives it, the body is the file.
        if (operation.OperationId is "importProduct" or "loadLibrary")
            operation.RequestBody = new OpenApiRequestBody
            {
                Required = true,
                Description = "The file as it is.",
                Content = new Dictionary<string, OpenApiMediaType>
                {
                    ["application/octet-stream"] =
                new() { Schema = new OpenApiSchema { Type = JsonSchemaType.String, Format = "binary" } }
                }
            };
        if (operation.RequestBody is OpenApiRequestBody { Content: { } content } && operation.OperationId is { } id
            && Requests.TryGetValue(id, out var example))
            foreach (var media in content.Values.OfType<OpenApiMediaType>())
                media.Example = JsonNode.Parse(example);

        async Task Problem(string status, string description)
        {
            if (operation.Responses.ContainsKey(status))
                return;
            var schema = await context.GetOrCreateSchemaAsync(typeof(Microsoft.AspNetCore.Mvc.ProblemDetails), null, cancel);
            operation.Responses[status] =
                new OpenApiResponse
                {
                    Description = description,
                    Content = new Dictionary<string, OpenApiMediaType> { ["application/problem+json"] = new() { Schema = schema } }
                };
        }
    }
}

/// <summary>Says of an endpoint that it may also tell events one after the other, and of what type.</summary>
internal sealed record EventsOf(Type Type);
