using System.Diagnostics;
using Juniperfall.Bench;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Library;
using SideBySide;

if (args is ["shared", var folder, .. var rest])
    return SharedModels.Run(folder, rest is [var only, ..] ? only : "", TimeSpan.FromSeconds(rest is [_, var seconds] ? double.Parse(seconds) : 40));

// The same question to each: exactly the values that can be had beside some picks. Answers are compared as well as times.
var limit = TimeSpan.FromSeconds(args.Length > 1 ? double.Parse(args[1]) : 20);
Console.WriteLine($"{"family",-42}{"solver",-13}{"build ms",9}{"median",10}{"p95",10}{"longest",10}{"unfinished",11}{"ours is faster",15}{"never slower",13}");
foreach (var family in Generator.Compared.Where(f => args.Length == 0 || f.Name.Contains(args[0], StringComparison.OrdinalIgnoreCase)))
{
    var generator = new Generator(family, 1);
    var document = generator.Next();
    var model = new BoundModel(document, LibraryFacts.Empty);
    // Sessions along the planted solution: picks that stand together, as at the order desk.
    var random = new Random(7);
    var questions = new List<(int, int)[]>();
    for (var session = 0; session < 3; session++)
    {
        var picked = new List<(int, int)>();
        foreach (var attribute in Enumerable.Range(0, generator.Planted.Length).OrderBy(_ => random.Next()).Take(5))
        {
            picked.Add((attribute, generator.Planted[attribute]));
            questions.Add([.. picked]);
        }
    }
    // Another model first, until the runtime has compiled for good what is used (it does so in steps), as in a server that is up;
    // the others are compiled already.
    var before = new Generator(family, 2);
    var warm = new Ours(before, new BoundModel(before.Next(), LibraryFacts.Empty), limit);
    for (var (clock, asked) = (Stopwatch.StartNew(), 0); clock.Elapsed < TimeSpan.FromSeconds(4); asked++)
        warm.Ask([.. Enumerable.Range(0, 1 + asked % 5).Select(i => (asked * 7 + i * 13) % before.Planted.Length).Distinct()
            .Select(a => (a, before.Planted[a]))]);
    var times = new Dictionary<string, List<double>>();
    var answers = new Dictionary<string, List<Available?>>();
    foreach (var make in new Func<IPeer>[] { () => new Ours(generator, model, limit), () => new CpSat(generator, limit), () =>
        new Clasp(generator, limit, Consequences.Brave), () => new Clasp(generator, limit, Consequences.BraveAndCautious) }.Take(family.Numbers > 0
        ? 2 : family.YesNo > 0 ? 4 : 3))
    {
        var clock = Stopwatch.StartNew();
        var solver = make();
        var build = clock.Elapsed.TotalMilliseconds;
        solver.Ask([]);
        var results = questions.Select(q => solver.Ask(q)).ToList();
        times[solver.Name] = [.. results.Select(r => r.Ms)];
        answers[solver.Name] = [.. results.Select(r => r.Available)];
        var sorted = times[solver.Name].Order().ToList();
        var ours = times["ours"];
        Console.WriteLine($"{(solver.Name == "ours" ? family.Name : ""),-42}{solver.Name,-13}{build,9:0}{sorted[sorted.Count / 2],10:0.0}{sorted[(int)(0.95 * (sorted.Count - 1))],10:0.0}{sorted[^1],10:0.0}{results.Count(r => r.Available is null),11}"
            + (solver.Name == "ours" ? "" : $"{times[solver.Name].Zip(ours, (t, o) => t / o).Order().ElementAt(questions.Count / 2),14:0.0}×{(times[solver.Name].Zip(ours).All(p => p.First >= p.Second) ? "yes" : "no"),13}"));
        for (var q = 0; q < questions.Count; q++)
            if (answers[solver.Name][q] is { } theirs && answers["ours"][q] is { } own && !own.Same(theirs))
            {
                Console.WriteLine($"DIFFERENT ANSWERS to question {q} from ours and {solver.Name}.");
                return 1;
            }
    }
}
return 0;
