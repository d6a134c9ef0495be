using System.Threading.RateLimiting;
using Juniperfall.Server.Answers;
using Microsoft.AspNetCore.RateLimiting;

namespace Juniperfall.Server.People;

/// <summary>How many requests one person, or one address that is not signed in, can send: far more than a page sends, far less than would keep others
/// waiting.</summary>
public static class RateLimits
{
    public const int Burst = 600, PerSecondOfPerson = 60, PerSecondOfAddress = 30;

    public static void AddRateLimits(this IServiceCollection services) => services.AddRateLimiter(o =>
    {
        o.GlobalLimiter = PartitionedRateLimiter
            .Create<HttpContext, string>(context => !context.Request.Path.StartsWithSegments("/api") ? RateLimitPartition.GetNoLimiter("")
            : context.User.Identity?.Name is { } person ? Bucket($"person {person}", PerSecondOfPerson)
                : Bucket($"address {context.Connection.RemoteIpAddress}", PerSecondOfAddress));
        o.OnRejected = async (rejected, _) =>
        {
            rejected.HttpContext.Response.Headers.RetryAfter = "1";
            await Problems.Write(rejected.HttpContext, StatusCodes.Status429TooManyRequests, "Very many requests come from here. Wait a second.");
        };
    });

    private static RateLimitPartition<string> Bucket(string key, int perSecond) => RateLimitPartition.GetTokenBucketLimiter(key, _ => new()
    {
        TokenLimit = Burst,
        TokensPerPeriod = perSecond,
        ReplenishmentPeriod = TimeSpan.FromSeconds(1),
        QueueLimit = 0,
    });
}
