using System.Diagnostics;
using Juniperfall.Core.Health;
using Juniperfall.Core.Reasoning;
using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>A time limit reaches into everything: what is not finished by then says so.</summary>
public class TimeLimits
{
    public static TheoryData<string> Hard =>
        ["round(min(w, v), 30 cm) > round(min(w, v), 30 cm)", "w * v > v * w + 0 m2", "w - v > w - v", "ceil(w, 7 cm) + v > v + ceil(w, 7 cm)"];

    [Theory]
    [MemberData(nameof(Hard))]
    public void What_cannot_be_told_in_time_ends_in_time(string rule)
    {
        var clock = Stopwatch.StartNew();
        var model = Sound(Assembly("room", Length("w", 0, 3000, 1), Length("v", 0, 3000, 1), Rule("r", rule)));
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(1));
        var reasoner = new Reasoner(model);
        var answer = reasoner.Answer(new([]), limit.Token);
        Assert.True(answer.Valid != true);
        if (answer.Valid == null)
            Assert.False(answer.Exact);
        using var again = new CancellationTokenSource(TimeSpan.FromSeconds(1));
        var report = HealthCheck.Run(reasoner, null, again.Token);
        Assert.True(report.IsFinished || report.Unfinished.Any());
        // Generous, since this is no measurement: without a limit these go on for hours.
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(30), $"it took {clock.Elapsed}");
    }
}
