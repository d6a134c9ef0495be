using Juniperfall.Server.Solving;
using Microsoft.AspNetCore.Diagnostics;
using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;
using OpenTelemetry.Trace;

namespace Juniperfall.Server;

/// <summary>
/// Traces and metrics by OpenTelemetry, sent by its protocol to where the standard setting OTEL_EXPORTER_OTLP_ENDPOINT says; without it
/// nothing is collected or sent. Logs are lines of JSON, each with the id of its request.
/// </summary>
internal static class Telemetry
{
    private const string Endpoint = "OTEL_EXPORTER_OTLP_ENDPOINT";

    public static void AddTelemetry(this WebApplicationBuilder builder)
    {
        if (builder.Environment.IsProduction())
            builder.Logging.AddJsonConsole(o =>
            {
                o.IncludeScopes = true;
                o.UseUtcTimestamp = true;
                o.TimestampFormat = "yyyy-MM-ddTHH:mm:ss.fffZ";
            });
        builder.Services.AddSingleton<SolvingMetrics>();
        if (builder.Configuration[Endpoint] is not { Length: > 0 })
            return;
        builder.Services.AddOpenTelemetry()
            .ConfigureResource(r => r.AddService("juniperfall", serviceVersion: typeof(Telemetry).Assembly.GetName().Version?.ToString(3)))
            .WithTracing(t => t.AddSource(SolvingMetrics.Name).AddSource("Npgsql").AddAspNetCoreInstrumentation().AddOtlpExporter())
            .WithMetrics(m => m.AddMeter(SolvingMetrics.Name, "Npgsql", "System.Runtime", "Microsoft.AspNetCore.Hosting",
                "Microsoft.AspNetCore.Server.Kestrel", "Microsoft.AspNetCore.RateLimiting").AddOtlpExporter());
    }

    /// <summary>What failed, and what took long, by the address that the server knows it under: no names or values of anyone stand in it.</summary>
    public static void UseRequestLog(this IApplicationBuilder app)
    {
        var log = app.ApplicationServices.GetRequiredService<ILoggerFactory>().CreateLogger("Juniperfall.Requests");
        app.Use(async (context, next) =>
        {
            var began = System.Diagnostics.Stopwatch.GetTimestamp();
            await next();
            var (took, status) = (System.Diagnostics.Stopwatch.GetElapsedTime(began), context.Response.StatusCode);
            var level = status >= StatusCodes.Status500InternalServerError ? LogLevel.Warning : LogLevel.Information;
            // Where an exception was met, the endpoint is no longer at its usual place.
            var endpoint = (context.Features.Get<IExceptionHandlerFeature>()?.Endpoint ?? context.GetEndpoint()) as RouteEndpoint;
            if (log.IsEnabled(level))
                log.Log(level, "{Method} {Route} answered {Status} in {Milliseconds} ms", context.Request.Method, endpoint?.RoutePattern.RawText ?? "",
                    status, (long)took.TotalMilliseconds);
        });
    }
}
