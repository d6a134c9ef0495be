using System.Diagnostics;
using System.Diagnostics.Metrics;

namespace Juniperfall.Server.Solving;

/// <summary>What the process tells of its reasoning: how long pieces wait and take, what is in the queue, what the caches hold.</summary>
internal sealed class SolvingMetrics : IDisposable
{
    /// <summary>The name under which meters and spans are told.</summary>
    public const string Name = "Juniperfall.Solving";

    private static readonly ActivitySource Spans = new(Name);

    private readonly Meter _meter;

    public SolvingMetrics(IMeterFactory meters, Scheduler scheduler, CacheBudget budget)
    {
        _meter = meters.Create(Name);
        var waited = _meter.CreateHistogram<double>("juniperfall.solving.waited", "s", "How long a piece of reasoning waited for its turn.");
        var took = _meter.CreateHistogram<double>("juniperfall.solving.took", "s", "How long a piece of reasoning was worked on.");
        scheduler.Done = (urgency, before, during) =>
        {
            var kind = new KeyValuePair<string, object?>("urgency", urgency.ToString());
            waited.Record(before.TotalSeconds, kind);
            took.Record(during.TotalSeconds, kind);
        };
        _meter.CreateObservableGauge("juniperfall.solving.running", () => scheduler.StateFor("").Running, "{piece}", "Pieces of reasoning that are worked on.");
        _meter.CreateObservableGauge("juniperfall.solving.waiting", () => scheduler.StateFor("").Waiting, "{piece}", "Pieces of reasoning that wait.");
        _meter.CreateObservableGauge("juniperfall.cache.size", () =>
            budget.State().Select(s => new Measurement<long>(s.Bytes, new KeyValuePair<string, object?>("kind", s.Kind))), "By", "What the caches hold.");
        _meter.CreateObservableGauge("juniperfall.cache.entries", () =>
            budget.State().Select(s => new Measurement<long>(s.Entries, new KeyValuePair<string, object?>("kind", s.Kind))), "{entry}",
            "How many entries the caches hold.");
        _meter.CreateObservableGauge("juniperfall.cache.limit", () => budget.Limit, "By", "What the caches may hold.");
    }

    /// <summary>A span for a piece that is worked on, below the request that it was asked for by.</summary>
    public static Activity? Span(Urgency urgency, ActivityContext of, TimeSpan waited) =>
        Spans.StartActivity("solve", ActivityKind.Internal, of, [new("urgency", urgency.ToString()), new("waited", waited.TotalSeconds)]);

    public void Dispose() => _meter.Dispose();
}
