using System.Collections.Concurrent;
using System.Diagnostics.Metrics;
using System.Net;
using System.Text;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Microsoft.AspNetCore.Hosting;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace Juniperfall.Server.Tests;

/// <summary>Logs, metrics and traces.</summary>
public sealed class WhatTheServerTells(Served served) : IClassFixture<Served>
{
    private sealed class Throws : IReleaseCheck
    {
        public Task<ReleaseObjections> Check(CompiledModel compiled, CancellationToken cancel) => throw new InvalidOperationException("secret details");
    }

    /// <summary>Keeps what is logged, each with the values of the scopes around it.</summary>
    private sealed class Log : ILoggerProvider, ISupportExternalScope
    {
        private IExternalScopeProvider? _scopes;
        public ConcurrentQueue<(LogLevel Level, string Text, Exception? Exception, Dictionary<string, object?> Scope)> Lines { get; } = new();
        public void SetScopeProvider(IExternalScopeProvider scopeProvider) => _scopes = scopeProvider;
        public ILogger CreateLogger(string categoryName) => new Logger(this);
        public void Dispose() { }

        private sealed class Logger(Log of) : ILogger
        {
            public IDisposable? BeginScope<TState>(TState state) where TState : notnull => of._scopes?.Push(state);
            public bool IsEnabled(LogLevel logLevel) => true;

            void ILogger.Log<TState>(LogLevel logLevel, EventId eventId, TState state, Exception? exception, Func<TState, Exception?, string> formatter)
            {
                var scope = new Dictionary<string, object?>();
                of._scopes?.ForEachScope((value, into) =>
                {
                    foreach (var (key, what) in value as IEnumerable<KeyValuePair<string, object?>> ?? [])
                        into[key] = what;
                }, scope);
                of.Lines.Enqueue((logLevel, formatter(state, exception), exception, scope));
            }
        }
    }

    private static async Task<HttpClient> Engineer(Microsoft.AspNetCore.Mvc.Testing.WebApplicationFactory<Program> server)
    {
        var client = server.CreateClient();
        client.DefaultRequestHeaders.Add(People.CrossSite.Header, "1");
        (await client.Post("/api/session", new { name = "ines", password = DemoData.Password })).EnsureSuccessStatusCode();
        return client;
    }

    private static async Task<long> Revision(HttpClient client) => (long)(await client.Get("/api/products?search=Cold room")).AsArray()[0]!["revisionId"]!;

    [Fact]
    public async Task What_nobody_foresaw_is_told_with_the_id_under_which_the_log_has_its_cause()
    {
        var log = new Log();
        await using var failing = served
            .WithWebHostBuilder(b => b.ConfigureServices(s => s.AddSingleton<IReleaseCheck, Throws>())
            .ConfigureLogging(l => l.SetMinimumLevel(LogLevel.Warning).AddFilter<Log>(null, LogLevel.Warning).AddProvider(log)));
        using var client = await Engineer(failing);
        var response = await client.GetAsync($"/api/revisions/{await Revision(client)}/release");
        var body = await response.Content.ReadAsStringAsync();
        Assert.Equal(HttpStatusCode.InternalServerError, response.StatusCode);
        Assert.DoesNotContain("secret details", body);
        var id = response.Headers.GetValues("X-Request-Id").Single();
        Assert.Contains(id, body);
        var line = Assert.Single(log.Lines, l => l.Exception is InvalidOperationException);
        Assert.Equal((id, "secret details"), (line.Scope["RequestId"], line.Exception!.Message));
        var told = Assert.Single(log.Lines, l => l.Text.Contains("answered 500", StringComparison.Ordinal));
        Assert.StartsWith("GET /api/revisions/{id:long}/release/ answered 500 in", told.Text);
    }

    [Fact]
    public async Task Metrics_tell_of_waiting_work_and_caches()
    {
        await using var own = served.WithWebHostBuilder(_ => { });
        var seen = new ConcurrentDictionary<string, double>();
        using var listener = new MeterListener();
        listener.InstrumentPublished = (instrument, to) =>
        {
            if (instrument.Meter.Name == "Juniperfall.Solving")
                to.EnableMeasurementEvents(instrument);
        };
        void Add(Instrument instrument, double value, ReadOnlySpan<KeyValuePair<string, object?>> tags)
        {
            var name = $"{instrument.Name} {string.Join(" ", tags.ToArray().Select(t => t.Value))}".Trim();
            seen.AddOrUpdate(name, value, (_, before) => Math.Max(before, value));
        }

        listener.SetMeasurementEventCallback<double>((instrument, value, tags, _) => Add(instrument, value, tags));
        listener.SetMeasurementEventCallback<long>((instrument, value, tags, _) => Add(instrument, value, tags));
        listener.SetMeasurementEventCallback<int>((instrument, value, tags, _) => Add(instrument, value, tags));
        listener.Start();
        using var client = await Engineer(own);
        (await client.Post($"/api/revisions/{await Revision(client)}/answer", new { picks = Array.Empty<object>() })).EnsureSuccessStatusCode();
        listener.RecordObservableInstruments();
        Assert.True(seen["juniperfall.solving.took Answer"] > 0);
        Assert.True(seen["juniperfall.solving.waited Answer"] >= 0);
        Assert.InRange(seen["juniperfall.cache.size answers"], 10_000, 10_000_000);
        Assert.True(seen["juniperfall.cache.entries models"] >= 1);
        Assert.True(seen["juniperfall.cache.limit"] >= CacheBudget.Least);
    }

    [Fact]
    public async Task Traces_and_metrics_go_where_the_standard_setting_says()
    {
        using var collector = new HttpListener();
        var port = Random.Shared.Next(20_000, 30_000);
        collector.Prefixes.Add($"http://127.0.0.1:{port}/");
        collector.Start();
        var received = new ConcurrentDictionary<string, string>();
        _ = Task.Run(async () =>
        {
            while (collector.IsListening)
            {
                var call = await collector.GetContextAsync();
                using var body = new MemoryStream();
                await call.Request.InputStream.CopyToAsync(body);
                received.AddOrUpdate(call.Request.Url!.AbsolutePath, _ => Encoding.Latin1.GetString(body.ToArray()), (_, before) =>
                    before + Encoding.Latin1.GetString(body.ToArray()));
                call.Response.Close();
            }
        });
        await using var own = served.WithWebHostBuilder(b =>
            b.UseSetting("OTEL_EXPORTER_OTLP_ENDPOINT", $"http://127.0.0.1:{port}").UseSetting("OTEL_EXPORTER_OTLP_PROTOCOL", "http/protobuf")
            .UseSetting("OTEL_METRIC_EXPORT_INTERVAL", "300").UseSetting("OTEL_BSP_SCHEDULE_DELAY", "300"));
        using var client = await Engineer(own);
        (await client.Post($"/api/revisions/{await Revision(client)}/answer", new { picks = Array.Empty<object>() })).EnsureSuccessStatusCode();
        for (var i = 0; i < 100 && !(received.TryGetValue("/v1/traces", out var traces) && traces.Contains("solve") && traces.Contains("{id:long}/answer")
            && received.TryGetValue("/v1/metrics", out var metrics) && metrics.Contains("juniperfall.cache.size")); i++)
            await Task.Delay(100);
        Assert.Contains("solve", received["/v1/traces"]);
        Assert.Contains("/api/revisions/{id:long}/answer", received["/v1/traces"]);
        Assert.Contains("juniperfall.cache.size", received["/v1/metrics"]);
        Assert.DoesNotContain(DemoData.Password, string.Concat(received.Values));
    }
}
