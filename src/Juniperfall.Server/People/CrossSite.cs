using Juniperfall.Server.Answers;

namespace Juniperfall.Server.People;

/// <summary>
/// Keeps other sites from acting in a signed-in person's name: what changes something must carry a header that a page of
/// another origin cannot send without asking first, and must not come from one. The cookie is strict about sites as well.
/// </summary>
public static class CrossSite
{
    public const string Header = "X-Juniperfall";

    public static void UseCrossSiteProtection(this IApplicationBuilder app) => app.Use(async (context, next) =>
    {
        var request = context.Request;
        var safe = HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method);
        if (!safe && (!request.Headers.ContainsKey(Header) || IsForeign(request)))
            await Problems.Write(context, StatusCodes.Status403Forbidden,
                $"A request that changes something carries the header {Header} and comes from this site.");
        else
            await next();
    });

    private static bool IsForeign(HttpRequest request) =>
        request.Headers["Sec-Fetch-Site"].ToString() is "cross-site" or "same-site"
        || (request.Headers.Origin.ToString() is { Length: > 0 } origin && !origin.EndsWith($"//{request.Host}", StringComparison.OrdinalIgnoreCase));
}
