using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Reasoning;

namespace SideBySide;

/// <summary>
/// Rule bases that our own generator did not make, with sessions of picks: each line is asked once of a reasoner that knows what the lines
/// before it told, and, where its input is there, of clasp. Answers are compared value by value.
/// </summary>
internal static class SharedModels
{
    public static int Run(string folder, string only, TimeSpan limit)
    {
        Console.WriteLine($"{"rule base",-16}{"solver",-15}{"build ms",9}{"median",10}{"p95",10}{"longest",10}{"unfinished",11}{"ours is faster",15}");
        foreach (var sessions in Directory.GetFiles(folder, "*.sessions.jsonl").Order(StringComparer.Ordinal))
        {
            var name = Path.GetFileName(sessions).Split('.')[0];
            if (!name.Contains(only, StringComparison.OrdinalIgnoreCase))
                continue;
            Warm(new(folder, name), limit);
            var rules = new SharedRuleBase(folder, name);
            var clock = Stopwatch.StartNew();
            var reasoner = new Reasoner(new BoundModel(rules.Package.Model, rules.Package.Library));
            var build = clock.Elapsed.TotalMilliseconds;
            MakeDiagrams(reasoner, limit);
            var diagrams = clock.Elapsed.TotalMilliseconds - build;
            var ours = rules.Questions.Select(q => Ask(reasoner, q, limit)).ToList();
            Print(name, "ours", build, ours.Select(o => o.Answer.Exact ? o.Ms : (double?)null).ToList(), null);
            var again = rules.Questions.Select(q => Ask(reasoner, q, limit)).ToList();
            Console.WriteLine($"{"",-16}diagrams of parts that stay small took {diagrams:0} ms, as a server makes them in the background");
            var watched = new Reasoner(new BoundModel(rules.Package.Model, rules.Package.Library));
            var first = rules.Questions.Select(q => FirstPart(watched, q, limit)).ToList();
            Print("", "its first part", 0, first.Select(f => (double?)f.Ms).ToList(), null);
            Console.WriteLine($"{"",-16}at 16 ms {100 * first.Average(f => f.KnownInAFrame),0:0} % of the attributes are known at the mean, "
                + $"{100 * first.Min(f => f.KnownInAFrame),0:0} % at the least");
            Print("", "ours, again", 0, again.Select(o => o.Answer.Exact ? o.Ms : (double?)null).ToList(), null);
            if (!rules.HasProgram)
                continue;
            var theirs = new List<double?>();
            for (var q = 0; q < rules.Questions.Count; q++)
            {
                var (values, ms) = rules.AskClasp(rules.Questions[q], limit);
                theirs.Add(values is null ? null : ms);
                if (values is null || !ours[q].Answer.Exact || ours[q].Answer.Valid == false)
                    continue;
                var own = SharedRuleBase.ValuesOf(ours[q].Answer, rules.Questions[q]);
                if (own.SetEquals(values))
                    continue;
                Console.WriteLine($"DIFFERENT ANSWERS to question {q} of {name}: {string.Join(" ", own.Except(values).Take(5).Select(x => "+" + x))} "
                    + $"{string.Join(" ", values.Except(own).Take(5).Select(x => "-" + x))}");
                return 1;
            }
            Print("", "clasp, brave", 0, theirs, ours.Select(o => o.Ms).ToList());
        }
        return 0;
    }

    /// <summary>
    /// Until the runtime has compiled for good what is used, as in a server that is up; with a reasoner of its own, which nothing is kept of.
    /// </summary>
    private static void Warm(SharedRuleBase rules, TimeSpan limit)
    {
        var reasoner = new Reasoner(rules.Model);
        MakeDiagrams(reasoner, limit);
        for (var (clock, i) = (Stopwatch.StartNew(), 0); clock.Elapsed < TimeSpan.FromSeconds(4) && i < rules.Questions.Count; i++)
            Ask(reasoner, rules.Questions[i], limit);
    }

    private static (Answer Answer, double Ms) Ask(Reasoner reasoner, IReadOnlyList<Pick> picks, TimeSpan limit)
    {
        using var stop = new CancellationTokenSource(limit);
        var clock = Stopwatch.StartNew();
        var answer = reasoner.Answer(new([.. picks]), stop.Token);
        return (answer, clock.Elapsed.TotalMilliseconds);
    }

    private static void MakeDiagrams(Reasoner reasoner, TimeSpan limit)
    {
        using var stop = new CancellationTokenSource(limit);
        try
        {
            reasoner.MakeDiagrams(stop.Token);
        }
        catch (OperationCanceledException)
        {
            Console.WriteLine("diagrams were given up for want of time");
        }
    }

    /// <summary>When something is told, and which share of the attributes is known after a frame.</summary>
    private static (double Ms, double KnownInAFrame) FirstPart(Reasoner reasoner, IReadOnlyList<Pick> picks, TimeSpan limit)
    {
        using var stop = new CancellationTokenSource(limit);
        var clock = Stopwatch.StartNew();
        var (first, known) = (double.NaN, 0.0);
        reasoner.Answer(new([.. picks]), stop.Token, part =>
        {
            if (clock.Elapsed.TotalMilliseconds > 16 && !double.IsNaN(first))
                return;
            var told = part().Attributes;
            known = told.Average(a => a.Undecided is null ? 1.0 : 0);
            if (double.IsNaN(first))
                first = clock.Elapsed.TotalMilliseconds;
        });
        var whole = clock.Elapsed.TotalMilliseconds;
        return (double.IsNaN(first) ? whole : Math.Min(first, whole), whole <= 16 ? 1 : known);
    }

    private static void Print(string name, string solver, double build, List<double?> times, List<double>? ours)
    {
        var sorted = times.Select(t => t ?? double.PositiveInfinity).Order().ToList();
        Console.WriteLine($"{name,-16}{solver,-15}{build,9:0}{sorted[sorted.Count / 2],10:0.0}{sorted[(int)(0.95 * (sorted.Count - 1))],10:0.0}{sorted[^1],10:0.0}{times.Count(t => t is null),11}"
            + (ours is null ? "" : $"{times.Zip(ours, (t, o) => (t ?? double.PositiveInfinity) / o).Order().ElementAt(times.Count / 2),14:0.0}×"));
    }
}
