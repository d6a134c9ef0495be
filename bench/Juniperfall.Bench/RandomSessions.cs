using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Editing;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

namespace Juniperfall.Bench;

/// <summary>
/// Sessions at the order desk on the demo's room: at each step some attribute that applies is given some value that can still be had. Told for
/// the first sessions of a reasoner and for those that come after others, and in a process that is warm and in one that has just begun.
/// </summary>
internal static class RandomSessions
{
    private const int Steps = 20;

    public static void Run(int sessions)
    {
        var package = ModelJson.Read(File.ReadAllBytes("demo/cold-room.json")).Package!;
        var model = new BoundModel(ModelEditor.BindNames(package.Model, package.Library).Document!, package.Library);
        Console.WriteLine($"{"",-34}{"questions",10}{"median ms",11}{"p95",9}{"longest",9}{"unfinished",12}");
        var clock = Stopwatch.StartNew();
        var fresh = new Reasoner(model);
        fresh.Answer(new([]), default);
        Console.WriteLine($"{"open, first in the process",-34}{1,10}{clock.Elapsed.TotalMilliseconds,11:0.0}");
        var doors = new PickText(model).Read("door_count", "4").Pick!.Value;
        clock.Restart();
        fresh.Answer(new([doors]), default);
        Console.WriteLine($"{"four doors, first pick",-34}{1,10}{clock.Elapsed.TotalMilliseconds,11:0.0}");
        Print("first sessions, fresh process", Ask(fresh, sessions / 4, 1));
        Print("after these", Ask(fresh, sessions, 2));
        Measured("another reasoner", new(model), doors, sessions, 3);
        // What a server does at a release: a few values are tried, and what was found is kept.
        var before = new Reasoner(model);
        Ask(before, 2, 9);
        var state = WarmStateFile.Read(WarmStateFile.Write(before.ToWarmState(default)!))!;
        clock.Restart();
        var warm = new Reasoner(model, warm: state);
        Console.WriteLine($"{"taking over a warm state",-34}{state.Configurations.Length,10}{clock.Elapsed.TotalMilliseconds,11:0.0}{(warm.IsWarm ? "" : "  not taken over")}");
        Measured("warm state", warm, doors, sessions, 3);
    }

    private static void Measured(string what, Reasoner reasoner, Pick doors, int sessions, int seed)
    {
        var clock = Stopwatch.StartNew();
        reasoner.Answer(new([]), default);
        Console.WriteLine($"{$"open, {what}",-34}{1,10}{clock.Elapsed.TotalMilliseconds,11:0.0}");
        clock.Restart();
        reasoner.Answer(new([doors]), default);
        Console.WriteLine($"{$"four doors, {what}",-34}{1,10}{clock.Elapsed.TotalMilliseconds,11:0.0}");
        Print($"first sessions, {what}", Ask(reasoner, sessions / 4, seed));
        Print("after these", Ask(reasoner, sessions, seed + 1));
    }

    private static List<(double Ms, bool Exact)> Ask(Reasoner reasoner, int sessions, int seed)
    {
        var random = new Random(seed);
        var times = new List<(double, bool)>();
        for (var session = 0; session < sessions; session++)
        {
            var picks = new List<Pick>();
            var answer = reasoner.Answer(new([]), default);
            for (var step = 0; step < Steps; step++)
            {
                var open = answer.Attributes.Where(a => a.Available.Values.Length > 1 && picks.TrueForAll(p => p.Path != a.Path)).ToList();
                if (open.Count == 0)
                    break;
                var attribute = open[random.Next(open.Count)];
                picks.Add(new(attribute.Path, attribute.Available.Values[random.Next(attribute.Available.Values.Length)]));
                using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(20));
                var clock = Stopwatch.StartNew();
                answer = reasoner.Answer(new([.. picks]), stop.Token);
                times.Add((clock.Elapsed.TotalMilliseconds, answer.Exact));
                if (answer.Valid != true)
                    throw new InvalidOperationException("A value that can be had cannot stand.");
            }
        }
        return times;
    }

    private static void Print(string what, List<(double Ms, bool Exact)> times)
    {
        var sorted = times.Select(t => t.Ms).Order().ToList();
        Console.WriteLine($"{what,-34}{sorted.Count,10}{sorted[sorted.Count / 2],11:0.0}{sorted[(int)(0.95 * (sorted.Count - 1))],9:0.0}{sorted[^1],9:0.0}{times.Count(t => !t.Exact),12}");
    }
}
