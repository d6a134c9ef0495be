using System.Net;
using System.Net.Http.Json;
using Juniperfall.Server.People;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Routing;
using Microsoft.Extensions.DependencyInjection;

namespace Juniperfall.Server.Tests;

/// <summary>Who may do what: every endpoint of the server, called by every role and by nobody.</summary>
public sealed class RolesOfEndpoints(Served served) : IClassFixture<Served>
{
    private const string Everyone = "engineer, approver, order desk, planner, administrator";

    /// <summary>The table of the whole interface. An endpoint that is not in it fails the test.</summary>
    private static readonly Dictionary<string, string> Allowed = new()
    {
        ["GET /api/session"] = Everyone,
        ["GET /api/solving"] = Everyone,
        ["DELETE /api/session"] = Everyone,
        ["GET /api/people"] = "administrator",
        ["POST /api/people"] = "administrator",
        ["PATCH /api/people/{name}"] = "administrator",
        ["POST /api/people/{name}/link"] = "administrator",
        ["GET /api/audit"] = "administrator",
        ["PUT /api/password"] = Everyone,
        ["GET /api/products"] = Everyone,
        ["POST /api/products"] = "engineer",
        ["POST /api/products/file"] = "engineer",
        ["GET /api/products/{productId}"] = Everyone,
        ["GET /api/products/{productId}/revisions"] = Everyone,
        ["GET /api/products/{productId}/reusers"] = Everyone,
        ["POST /api/products/{productId}/revisions"] = "engineer",
        ["GET /api/revisions/{id:long}"] = Everyone,
        ["GET /api/revisions/{id:long}/impact"] = Everyone,
        ["POST /api/revisions/{id:long}/impact/move"] = "engineer, order desk",
        ["GET /api/revisions/{id:long}/history"] = Everyone,
        ["GET /api/revisions/{id:long}/changes"] = Everyone,
        ["GET /api/revisions/{id:long}/file"] = "engineer, approver, planner, administrator",
        ["POST /api/revisions/{id:long}/edits"] = "engineer",
        ["POST /api/revisions/{id:long}/undo"] = "engineer",
        ["POST /api/revisions/{id:long}/redo"] = "engineer",
        ["GET /api/revisions/{id:long}/release"] = Everyone,
        ["POST /api/revisions/{id:long}/release"] = "approver",
        ["POST /api/revisions/{id:long}/answer"] = Everyone,
        ["POST /api/revisions/{id:long}/why"] = Everyone,
        ["POST /api/revisions/{id:long}/why-all"] = Everyone,
        ["POST /api/revisions/{id:long}/ways-out"] = Everyone,
        ["POST /api/revisions/{id:long}/bounds"] = Everyone,
        ["POST /api/revisions/{id:long}/expression"] = Everyone,
        ["POST /api/revisions/{id:long}/completion"] = Everyone,
        ["POST /api/revisions/{id:long}/entry"] = Everyone,
        ["GET /api/revisions/{id:long}/rows/{rowId}/uses"] = Everyone,
        ["GET /api/waiting"] = Everyone,
        ["POST /api/items/{number}/exchange/preview"] = "engineer",
        ["POST /api/items/{number}/exchange"] = "engineer",
        ["GET /api/revisions/{id:long}/measures"] = Everyone,
        ["GET /api/products/{productId}/pauses"] = Everyone,
        ["POST /api/products/{productId}/pauses"] = "engineer",
        ["POST /api/products/{productId}/pauses/{pauseId}/end"] = "engineer",
        ["GET /api/revisions/{id:long}/times"] = Everyone,
        ["GET /api/baselines"] = Everyone,
        ["POST /api/baselines"] = "engineer",
        ["GET /api/baselines/{id}"] = Everyone,
        ["GET /api/baselines/{id}/items/{number}"] = Everyone,
        ["GET /api/views"] = Everyone,
        ["PUT /api/views/{id}"] = Everyone,
        ["DELETE /api/views/{id}"] = Everyone,
        ["GET /api/concessions"] = Everyone,
        ["GET /api/concessions/rules"] = Everyone,
        ["GET /api/concessions/{id}"] = Everyone,
        ["POST /api/concessions/{id}/sign"] = "approver",
        ["POST /api/concessions/{id}/refuse"] = "approver",
        ["POST /api/concessions/{id}/take-back"] = "engineer, order desk",
        ["POST /api/concessions/{id}/withdraw"] = "approver",
        ["GET /api/configurations/{id}/concessions"] = Everyone,
        ["POST /api/configurations/{id}/concessions"] = "engineer, order desk",
        ["GET /api/revisions/{id:long}/remarks"] = Everyone,
        ["POST /api/revisions/{id:long}/remarks"] = "engineer, approver, planner",
        ["POST /api/revisions/{id:long}/remarks/{remarkId}/answers"] = "engineer, approver, planner",
        ["PUT /api/revisions/{id:long}/remarks/{remarkId}/closed"] = "engineer, approver, planner",
        ["POST /api/revisions/{id:long}/withdraw"] = "approver",
        ["POST /api/revisions/{id:long}/presence"] = Everyone,
        ["GET /api/revisions/{id:long}/review"] = Everyone,
        ["POST /api/revisions/{id:long}/review"] = "engineer",
        ["DELETE /api/revisions/{id:long}/review"] = "engineer",
        ["POST /api/revisions/{id:long}/review/return"] = "approver",
        ["POST /api/revisions/{id:long}/best"] = Everyone,
        ["POST /api/revisions/{id:long}/what-if"] = Everyone,
        ["PUT /api/products/{productId}/least-margin"] = "engineer",
        ["POST /api/revisions/{id:long}/totals"] = Everyone,
        ["GET /api/revisions/{id:long}/grids/{rowId}/drawn"] = Everyone,
        ["GET /api/revisions/{id:long}/cases"] = Everyone,
        ["GET /api/revisions/{id:long}/difference"] = Everyone,
        ["GET /api/revisions/{id:long}/difference/meaning"] = Everyone,
        ["POST /api/revisions/{id:long}/cases/facts"] = "engineer",
        ["GET /api/revisions/{id:long}/cases/coverage"] = "engineer, approver, planner",
        ["GET /api/revisions/{id:long}/health"] = Everyone,
        ["POST /api/revisions/{id:long}/health/accepted"] = "engineer",
        ["POST /api/revisions/{id:long}/count"] = Everyone,
        ["POST /api/revisions/{id:long}/rules/{rowId}/removed"] = Everyone,
        ["GET /api/configurations"] = Everyone,
        ["POST /api/configurations"] = "engineer, order desk",
        ["GET /api/configurations/{id}"] = Everyone,
        ["PUT /api/configurations/{id}"] = "engineer, order desk",
        ["GET /api/configurations/{id}/move"] = Everyone,
        ["POST /api/configurations/{id}/move"] = "engineer, order desk",
        ["POST /api/configurations/{id}/structures"] = "engineer, order desk, planner",
        ["GET /api/structures/{id}"] = Everyone,
        ["GET /api/structures/{id}/{table}.{format}"] = Everyone,
        ["GET /api/items"] = Everyone,
        ["GET /api/items/{number}"] = Everyone,
        ["GET /api/library"] = Everyone,
        ["GET /api/library/{table}"] = Everyone,
        ["POST /api/library/{table}/removed"] = "engineer, administrator",
        ["POST /api/library/{table}/rows"] = "engineer, administrator",
        ["POST /api/library/{table}/impact"] = "engineer, administrator",
        ["POST /api/library/{table}/load"] = "engineer, administrator",
        ["GET /api/library/{table}/file.{format}"] = Everyone,
        ["POST /api/revisions/{id:long}/full-structure"] = Everyone,
        ["POST /api/revisions/{id:long}/working"] = Everyone,
        ["POST /api/revisions/{id:long}/costs"] = Everyone,
        ["GET /api/revisions/{id:long}/buildable"] = Everyone,
        ["GET /api/compare"] = Everyone,
        ["GET /api/compare.xlsx"] = Everyone,
    };

    private static readonly string[] Open = ["POST /api/session", "POST /api/password", "POST /api/password/link", "GET /api/openapi.json", "GET /health"];

    private List<(string Method, string Route)> Endpoints() => [.. served.Services.GetRequiredService<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>()
        .Where(e => !e.RoutePattern.RawText!.Contains("{*", StringComparison.Ordinal))
        .SelectMany(e => (e.Metadata.GetMetadata<HttpMethodMetadata>()?.HttpMethods ?? ["GET"]).Select(m => (m, e.RoutePattern.RawText!.TrimEnd('/'))))];

    [Fact]
    public void Every_endpoint_is_in_the_table_and_every_line_of_the_table_is_an_endpoint() =>
        Assert.Equal(Allowed.Keys.Concat(Open).Order(), Endpoints().Select(e => $"{e.Method} {e.Route}").Order());

    [Theory]
    [InlineData("engineer"), InlineData("approver"), InlineData("order desk"), InlineData("planner"), InlineData("administrator")]
    public async Task A_role_may_do_what_the_table_says_and_nothing_else(string role)
    {
        using var client = await served.As(role);
        foreach (var (method, route) in Endpoints().Where(e => !Open.Contains($"{e.Method} {e.Route}") && e is not ("DELETE", "/api/session")))
        {
            var status = await Call(client, method, route);
            var allowed = Allowed[$"{method} {route}"].Split(", ").Contains(role);
            Assert.True(allowed == (status != HttpStatusCode.Forbidden), $"{role}: {method} {route} answered {status}");
            Assert.NotEqual(HttpStatusCode.Unauthorized, status);
        }
    }

    [Fact]
    public async Task Nobody_may_do_anything_but_sign_in()
    {
        using var client = served.Anonymous();
        foreach (var (method, route) in Endpoints().Where(e => !Open.Contains($"{e.Method} {e.Route}")))
            Assert.Equal((route, HttpStatusCode.Unauthorized), (route, await Call(client, method, route)));
    }

    [Fact]
    public void An_endpoint_that_names_no_right_is_closed() =>
        Assert.NotNull(served.Services.GetRequiredService<Microsoft.Extensions.Options.IOptions<AuthorizationOptions>>().Value.FallbackPolicy);

    /// <summary>Calls with ids that lead nowhere: what matters is who is let through.</summary>
    private static async Task<HttpStatusCode> Call(HttpClient client, string method, string route)
    {
        var path = route.Replace("{id:long}", "999999", StringComparison.Ordinal).Replace("{productId}", "none", StringComparison.Ordinal)
            .Replace("{id}", "none", StringComparison.Ordinal)
            .Replace("{table}", "bom", StringComparison.Ordinal).Replace("{format}", "csv", StringComparison.Ordinal);
        using var request = new HttpRequestMessage(new(method), path);
        if (method is "POST" or "PUT" or "PATCH")
            request.Content = JsonContent.Create(new { });
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(30));
        using var response = await client.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, limit.Token);
        return response.StatusCode;
    }
}
