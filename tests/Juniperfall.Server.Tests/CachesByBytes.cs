using Juniperfall.Server.Solving;
using Microsoft.Extensions.DependencyInjection;

namespace Juniperfall.Server.Tests;

/// <summary>What is kept to save work stays within one budget, and goes when nobody uses it.</summary>
public sealed class CachesByBytes(Served served) : IClassFixture<Served>
{
    private const long Megabyte = 1024 * 1024;

    private sealed class Clock : TimeProvider
    {
        public TimeSpan Now { get; set; }
        public override long TimestampFrequency => TimeSpan.TicksPerSecond;
        public override long GetTimestamp() => Now.Ticks;
        public override ITimer CreateTimer(TimerCallback callback, object? state, TimeSpan dueTime, TimeSpan period) =>
            System.CreateTimer(callback, state, Timeout.InfiniteTimeSpan, Timeout.InfiniteTimeSpan);
    }

    [Fact]
    public void What_is_old_and_cheap_goes_first_and_what_is_dear_stays_as_long_as_it_is_worth_it()
    {
        using var budget = new CacheBudget(CacheBudget.Least, TimeSpan.FromMinutes(1), new Clock());
        var gone = new List<string>();
        CacheBudget.Entry Keep(string name, long megabytes, double milliseconds) =>
            budget.Keep("tests", megabytes * Megabyte, TimeSpan.FromMilliseconds(milliseconds), () => gone.Add(name));
        Keep("cheap", 6, 10);
        Keep("dear", 6, 1_000);
        var used = Keep("used", 4, 10);
        Keep("next", 6, 10);
        Assert.Equal(["cheap"], gone);
        budget.Use(used);
        Keep("after", 6, 10);
        // What was used since stays before what came after it and cost the same.
        Assert.Equal(["cheap", "next"], gone);
        for (var i = 0; i < 200; i++)
            Keep($"flood {i}", 6, 10);
        // Nothing is worth being kept forever without any use.
        Assert.Contains("dear", gone);
        Assert.Equal(gone.Count, gone.Distinct().Count());
        Keep("larger than all", 50, 10);
        Assert.Equal("larger than all", gone[^1]);
        Assert.InRange(budget.Held, 0, budget.Limit);
    }

    [Fact]
    public void The_sum_is_right_whatever_comes_and_goes()
    {
        var random = new Random(11);
        var clock = new Clock();
        using var budget = new CacheBudget(CacheBudget.Least, TimeSpan.FromSeconds(50), clock);
        var kept = new Dictionary<CacheBudget.Entry, long>();
        for (var i = 0; i < 20_000; i++)
        {
            clock.Now += TimeSpan.FromMilliseconds(20);
            var some = kept.Count > 0 ? kept.Keys.ElementAt(random.Next(kept.Count)) : null;
            switch (random.Next(some is null ? 1 : 8))
            {
                case 0 or 1 or 2 or 3:
                    var bytes = random.NextInt64(1, 3 * Megabyte);
                    CacheBudget.Entry? made = null;
                    var isGone = false;
                    made = budget.Keep(bytes % 2 == 0 ? "even" : "odd", bytes, TimeSpan.FromMilliseconds(random.Next(500)), () =>
                    {
                        isGone = true;
                        if (made is not null)
                            Assert.True(kept.Remove(made));
                    });
                    if (!isGone)
                        kept[made] = bytes;
                    break;
                case 4 or 5:
                    budget.Use(some!);
                    break;
                case 6:
                    budget.Forget(some!);
                    budget.Forget(some!);
                    kept.Remove(some!);
                    break;
                default:
                    var now = random.NextInt64(1, 4 * Megabyte);
                    kept[some!] = now;
                    budget.Resize(some!, now);
                    break;
            }
            if (i % 1000 == 0)
                budget.DropIdle();
            Assert.Equal(kept.Values.Sum(), budget.Held);
            Assert.InRange(budget.Held, 0, budget.Limit);
        }
        Assert.Equal(kept.Count, budget.State().Sum(s => s.Entries));
        Assert.Equal(budget.Held, budget.State().Sum(s => s.Bytes));
        clock.Now += TimeSpan.FromSeconds(51);
        budget.DropIdle();
        Assert.Equal((0L, 0), (budget.Held, kept.Count));
    }

    private sealed class Node
    {
        public Node? Next;
        public object? Other;
        public (string? Name, int[] Numbers) Pair;
    }

    [Fact]
    public void Sizes_count_each_object_once_through_circles_structs_and_arrays()
    {
        var shared = new string('x', 1_000);
        var first = new Node { Pair = (shared, new int[500]) };
        first.Next = new() { Next = first, Other = shared, Pair = (null, first.Pair.Numbers) };
        // Two objects with four fields of eight bytes, 2,000 bytes of text and of numbers, and what each object carries along.
        Assert.InRange(RetainedSize.Of(first, _ => false), 4_096, 4_250);
        Assert.InRange(RetainedSize.Of(first, o => o is int[]), 2_080, 2_200);
        Assert.InRange(RetainedSize.Of(new (string, long)[] { (shared, 1), (shared, 2) }, _ => false), 2_050, 2_150);
        Assert.InRange(RetainedSize.Of(new object?[10, 10], _ => false), 800, 900);
        var byText = Enumerable.Range(0, 1_000).ToDictionary(i => i.ToString("d6", System.Globalization.CultureInfo.InvariantCulture), i => (long)i);
        // Per entry: the slot of 32 bytes with its bucket, and a text of six letters; the table is larger than it has to be.
        Assert.InRange(RetainedSize.Of(byText, _ => false), 1_000 * 64, 1_000 * 100);
    }

    [Fact]
    public async Task A_small_budget_is_kept_to_and_changes_no_answer()
    {
        await using var small = served.WithWebHostBuilder(b => b.UseSetting("CacheMegabytes", "16"));
        using var client = small.CreateClient();
        client.DefaultRequestHeaders.Add(People.CrossSite.Header, "1");
        await client.Post("/api/session", new { name = "ines", password = DemoData.Password });
        using var other = await served.As("engineer");
        var revision = (long)(await client.Get("/api/products?search=Cold room")).AsArray()[0]!["revisionId"]!;
        var form = await client.Post($"/api/revisions/{revision}/answer", new { picks = Array.Empty<object>() }).Answer();
        var length = form["sections"]!.AsArray().SelectMany(s => s!["asked"]!.AsArray()).First(a => a!["lowest"] is not null)!;
        var budget = small.Services.GetRequiredService<CacheBudget>();
        var kept = 0;
        for (var i = 0; i < 40; i++)
        {
            var picks = new[] { new { path = (string)length["path"]!,
                value = (double.Parse((string)length["lowest"]!, System.Globalization.CultureInfo.InvariantCulture) + i)
                .ToString(System.Globalization.CultureInfo.InvariantCulture) } };
            var answer = await client.Post($"/api/revisions/{revision}/answer", new { picks }).Answer();
            if (i % 10 == 0)
                Assert.Equal((await other.Post($"/api/revisions/{revision}/answer", new { picks }).Answer()).ToJsonString(), answer.ToJsonString());
            // Where the model itself has to go, all that was kept with it goes, too.
            Assert.InRange(budget.Held, 0, budget.Limit);
            kept += budget.Held > 0 ? 1 : 0;
        }
        Assert.InRange(kept, 1, 40);
        Assert.Contains(served.Services.GetRequiredService<CacheBudget>().State(), s => s is { Kind: "answers", Bytes: > 10_000 });
        Assert.Contains(served.Services.GetRequiredService<CacheBudget>().State(), s => s is { Kind: "models", Bytes: > 500_000 and < 20_000_000 });
    }
}
