using System.Diagnostics;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Bench;

/// <summary>Answers on generated models: time to bind and compile, and after each pick of some sessions.</summary>
internal static class Generated
{
    private const int Sessions = 4, Picks = 5;
    private static readonly TimeSpan Limit = TimeSpan.FromSeconds(3), WarmingUp = TimeSpan.FromSeconds(5);

    /// <param name="only">Part of the names of the families to run; all where empty.</param>
    public static void Run(string only)
    {
        Console.WriteLine($"{"family",-36}{"bind ms",9}{"compile",9}{"first",9}{"median",9}{"p95",9}{"longest",9}{"why",9}{"way out",9}{"unfinished",11}{"MB",6}");
        foreach (var family in Generator.Families.Where(f => f.Name.Contains(only, StringComparison.OrdinalIgnoreCase)))
            Run(family);
    }

    private static void Run(Family family)
    {
        // Another model of the family first, so that the code is compiled, as it is in a server that is up.
        WarmUp(new Generator(family, 2));
        var generator = new Generator(family, 1);
        var document = generator.Next();
        var clock = Stopwatch.StartNew();
        var model = new BoundModel(document, LibraryFacts.Empty);
        var bind = clock.Elapsed.TotalMilliseconds;
        if (model.Findings.Count > 0)
            throw new InvalidOperationException(model.Findings[0].Diagnostic.Message);
        clock.Restart();
        var reasoner = new Reasoner(model);
        var compile = clock.Elapsed.TotalMilliseconds;
        clock.Restart();
        using (var opening = new CancellationTokenSource(Limit))
            reasoner.Answer(new([]), opening.Token);
        var first = clock.Elapsed.TotalMilliseconds;
        var (times, whys, ways, unfinished) = (new List<double>(), new List<double>(), new List<double>(), 0);
        foreach (var picks in generator.Sessions(Sessions, Picks))
        {
            var question = QuestionOf(picks);
            using var limit = new CancellationTokenSource(Limit);
            using var whyLimit = new CancellationTokenSource(2 * Limit);
            using var wayLimit = new CancellationTokenSource(3 * Limit);
            clock.Restart();
            var answer = reasoner.Answer(question, limit.Token);
            times.Add(clock.Elapsed.TotalMilliseconds);
            unfinished += answer.Exact ? 0 : 1;
            if (RuledOut(model, answer) is not { } ruledOut)
                continue;
            clock.Restart();
            unfinished += reasoner.WhyNot(question, ruledOut.Path, ruledOut.Value, whyLimit.Token).Finished ? 0 : 1;
            whys.Add(clock.Elapsed.TotalMilliseconds);
            clock.Restart();
            unfinished += reasoner.WaysOut(question, ruledOut, wayLimit.Token).Finished ? 0 : 1;
            ways.Add(clock.Elapsed.TotalMilliseconds);
        }
        var memory = GC.GetTotalMemory(true) / 1_000_000;
        Console.WriteLine($"{family.Name,-36}{bind,9:0}{compile,9:0}{first,9:0.0}{At(times, 0.5),9:0.0}{At(times, 0.95),9:0.0}{times.Max(),9:0.0}{At(whys, 0.95),9:0.0}{At(ways, 0.95),9:0.0}{unfinished,11}{memory,6}");
    }

    /// <summary>A value that the picks rule out and that could be had without them: of what follows, before what is only narrower.</summary>
    private static Pick? RuledOut(BoundModel model, Answer answer)
    {
        foreach (var attribute in answer.Attributes.Where(a => a.State is AttributeState.Follows)
            .Concat(answer.Attributes.Where(a => a.State is not (AttributeState.Picked or AttributeState.Clash or AttributeState.Follows))))
            foreach (var value in attribute.Row.Kind == AttributeKind.YesNo ? [Value.Of(true), Value.Of(false)]
                : attribute.Row.Kind == AttributeKind.Whole ? Enumerable.Range(0, int.Parse(attribute.Row.Max!) + 1).Select(n => Value.Of((Exact)n))
                    : model.Index.Lists[attribute.Row.ListId!].Values.Select(v => Value.Choice(v.Id)))
                if (!attribute.Available.Has(value))
                    return new(attribute.Path, value);
        return null;
    }

    private static Question QuestionOf((string Path, int Value)[] picks) =>
        new([.. picks.Select(p => new Pick(p.Path,
            p.Path[0] switch { 'c' => Value.Choice($"v{p.Value}"), 'f' => Value.Of(p.Value == 1), _ => Value.Of((Exact)p.Value) }))]);

    /// <summary>Until the runtime has compiled for good what is used, which it does in steps.</summary>
    public static void WarmUp(Generator generator)
    {
        var reasoner = new Reasoner(new BoundModel(generator.Next(), LibraryFacts.Empty));
        var clock = Stopwatch.StartNew();
        while (clock.Elapsed < WarmingUp)
            foreach (var picks in generator.Sessions(Sessions, Picks))
            {
                using var limit = new CancellationTokenSource(Limit);
                var answer = reasoner.Answer(QuestionOf(picks), limit.Token);
                if (RuledOut(reasoner.Model, answer) is not { } ruledOut)
                    continue;
                reasoner.WhyNot(QuestionOf(picks), ruledOut.Path, ruledOut.Value, limit.Token);
                reasoner.WaysOut(QuestionOf(picks), ruledOut, limit.Token);
            }
    }

    private static double At(List<double> times, double share) => times.Count == 0 ? 0 : times.Order().ElementAt((int)(share * (times.Count - 1)));
}
