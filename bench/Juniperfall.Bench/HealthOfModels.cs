using System.Diagnostics;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Bench;

/// <summary>How long the analysis of generated models takes, from when on it tells of its progress, and what it does not finish.</summary>
internal static class HealthOfModels
{
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(120);

    private sealed class Progress(Stopwatch clock) : IProgress<HealthProgress>
    {
        public double? First { get; private set; }
        public HealthProgress? Last { get; private set; }

        public void Report(HealthProgress value) => (First, Last) = (First ?? clock.Elapsed.TotalMilliseconds, value);
    }

    /// <param name="only">Part of the names of the families to run; all where empty.</param>
    public static void Run(string only)
    {
        Console.WriteLine($"{"family",-36}{"seconds",9}{"first ms",10}{"questions",11}{"unfinished",12}{"findings",10}");
        foreach (var family in Generator.Families.Where(f => f.Name.Contains(only, StringComparison.OrdinalIgnoreCase)))
        {
            var reasoner = new Reasoner(new BoundModel(new Generator(family, 1).Next(), LibraryFacts.Empty));
            using var limit = new CancellationTokenSource(Limit);
            var clock = Stopwatch.StartNew();
            var progress = new Progress(clock);
            var report = HealthCheck.Run(reasoner, progress, limit.Token);
            Console.WriteLine($"{family.Name,-36}{clock.Elapsed.TotalSeconds,9:0.0}{progress.First,10:0}{progress.Last?.Total,11}{report.Unfinished.Length,12}{report.Findings.Length,10}");
        }
    }
}
