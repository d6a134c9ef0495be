using System.Diagnostics;
using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;

namespace Juniperfall.Cli;

/// <summary>Runs the test cases that stand in a model file.</summary>
public static class TestCommand
{
    /// <param name="junit">Where a report is written; null for none.</param>
    /// <param name="coverage">Whether what no case reaches is listed.</param>
    public static int Test(string file, string? junit, bool coverage, TimeSpan limit, TextWriter output, TextWriter errors)
    {
        if (Commands.Load(file, errors) is not { } model)
            return Commands.WrongInput;
        var (text, words) = (new PickText(model), new ModelWording(model));
        var (said, reported, states) = (new CaseWords(model, text, words), new List<ReportedCase>(), new List<CaseState>());
        using var time = new CancellationTokenSource(limit);
        var reasoners = new Dictionary<Effectivity, Reasoner>();
        Reasoner At(Effectivity at) => reasoners.TryGetValue(at, out var known) ? known : reasoners[at] = new(model, at);
        var reached = coverage ? new CaseCoverage(At(Effectivity.Any), time.Token) : null;
        foreach (var one in model.Document.Cases)
        {
            var clock = Stopwatch.StartNew();
            var question = CaseQuestion.Of(one, model, text);
            var outcome = CaseOutcome.Of(model, At(question.At), question, time.Token);
            var facts = new CaseFacts(model, text).Of(question, outcome);
            var isKnown = outcome.Answer.Exact;
            if (one.Expected.Any(e => e.Of == ExpectedOf.Count))
            {
                var count = At(question.At).Count(new(question.Picks), time.Token);
                (facts, isKnown) = (facts.Append(new(ExpectedOf.Count, "", count.Number.ToString(System.Globalization.CultureInfo.InvariantCulture))),
                    isKnown && count.Exact);
            }
            var result = CaseResult.Of(one, question, facts, isKnown);
            reached?.Add(outcome.Reach);
            states.Add(result.State);
            var name = one.Name.Length > 0 ? one.Name : one.Id;
            var first = said.First(one, result);
            output.WriteLine(first.Length == 0 ? $"passed   {name}" : $"{result.State.ToString().ToLowerInvariant(),-8} {name}: {first}");
            reported.Add(new(name, clock.Elapsed.TotalSeconds, first.Length == 0 ? null : first, result.State is CaseState.Faulty or CaseState.Unknown,
                [.. result.Differences.Select(d => said.Sentence(one, d))]));
        }
        foreach (var (a, b, of, at) in CaseResult.Contradictions(model.Document.Cases))
            errors.WriteLine($"{file}: “{model.Document.Cases[a].Name}” and “{model.Document.Cases[b].Name}” ask the same and expect different things: "
                + $"{said.Subject(of, at)}.");
        if (reached is not null)
            Tell(reached, model, words, output);
        output.WriteLine($"{states.Count(s => s == CaseState.Passed)} of {states.Count} cases passed.");
        if (junit is not null)
            try
            {
                File.WriteAllText(junit, CaseReport.Write(model.Document.Code, reported));
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                errors.WriteLine($"{junit}: {e.Message}");
                return Commands.WrongInput;
            }
        return states.Contains(CaseState.Failed) || states.Contains(CaseState.Faulty) ? Commands.Invalid
            : states.Contains(CaseState.Unknown) ? Commands.TimeLimit : Commands.Valid;
    }

    /// <summary>Writes the file with what comes out expected in all cases that expect nothing yet.</summary>
    public static int Record(string file, TimeSpan limit, TextWriter output, TextWriter errors)
    {
        if (Commands.LoadPackage(file, errors) is not { } package)
            return Commands.WrongInput;
        var model = new BoundModel(package.Model, package.Library);
        var text = new PickText(model);
        using var time = new CancellationTokenSource(limit);
        var reasoners = new Dictionary<Effectivity, Reasoner>();
        TestCase Recorded(TestCase one)
        {
            var question = CaseQuestion.Of(one, model, text);
            var reasoner = reasoners.TryGetValue(question.At, out var known) ? known : reasoners[question.At] = new(model, question.At);
            var facts = new CaseFacts(model, text).Of(question, CaseOutcome.Of(model, reasoner, question, time.Token));
            return one with { Expected = [.. facts.Where(f => CaseResult.IsUsuallyExpected(f.Of)).Select(f => new CaseExpectation(f.Of, f.At, f.Is))] };
        }
        var cases = package.Model.Cases.Select(c => c.Expected.IsEmpty ? Recorded(c) : c).ToList();
        if (time.IsCancellationRequested)
        {
            errors.WriteLine($"{file}: Time ran out; nothing was recorded.");
            return Commands.TimeLimit;
        }
        output.Write(ModelJson.Write(package with { Model = package.Model with { Cases = [.. cases] } }));
        return Commands.Valid;
    }

    private static void Tell(CaseCoverage reached, BoundModel model, ModelWording words, TextWriter output)
    {
        var all = reached.All.ToList();
        foreach (var kind in all.GroupBy(c => c.Kind))
            output.WriteLine($"{kind.Key}: {kind.Count(c => c.Cases > 0)} of {kind.Count()} reached");
        foreach (var missed in all.Where(c => c.Cases == 0))
            output.WriteLine($"  not reached: {missed.Kind} {words.NameOf(model.Index.Rows[missed.RowId])} {PartOf(missed, model)}".TrimEnd());
    }

    private static string PartOf(Covered covered, BoundModel model) =>
        model.Index.Values.TryGetValue(covered.Part, out var value) ? value.Value.Code : covered.Part;
}
