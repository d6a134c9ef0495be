using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Text.Json;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;

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
            var read = Read(folder, name);
            Warm(read, sessions, limit);
            var clock = Stopwatch.StartNew();
            var model = new BoundModel(read.Model, read.Library);
            var reasoner = new Reasoner(model);
            var build = clock.Elapsed.TotalMilliseconds;
            var text = new PickText(model);
            var questions = File.ReadLines(sessions).Where(l => l.Length > 0).Select(l => PicksOf(l, text)).ToList();
            var ours = questions.Select(q => Ask(reasoner, q, limit)).ToList();
            Print(name, "ours", build, ours.Select(o => o.Answer.Exact ? o.Ms : (double?)null).ToList(), null);
            var again = questions.Select(q => Ask(reasoner, q, limit)).ToList();
            Print("", "ours, again", 0, again.Select(o => o.Answer.Exact ? o.Ms : (double?)null).ToList(), null);
            var numbered = Numbered(model, text);
            var program = Path.Combine(folder, $"{name}.aspif");
            if (!File.Exists(program))
                continue;
            var theirs = new List<double?>();
            for (var q = 0; q < questions.Count; q++)
            {
                var (values, ms) = Clasp.AskFile(program, questions[q].Select(p => numbered.IndexOf((p.Path, p.Value)) + 1), limit);
                theirs.Add(values is null ? null : ms);
                if (values is null || !ours[q].Answer.Exact || ours[q].Answer.Valid == false)
                    continue;
                var own = ours[q].Answer.Attributes.SelectMany(a => a.Available.Values.Select(v => numbered.IndexOf((a.Path, v)) + 1)).Concat([]).ToHashSet();
                own.IntersectWith(Enumerable.Range(1, numbered.Count));
                // Of a picked attribute we tell what it could change to, clasp what it has.
                foreach (var pick in questions[q])
                    own.RemoveWhere(x => numbered[x - 1].Path == pick.Path && !Equals(numbered[x - 1].Value, pick.Value));
                if (!own.SetEquals(values))
                {
                    Console.WriteLine($"DIFFERENT ANSWERS to question {q} of {name}: {string.Join(" ", own.Except(values).Take(5).Select(x => "+" + numbered[x - 1]))} {string.Join(" ", values.Except(own).Take(5).Select(x => "-" + numbered[x - 1]))}");
                    return 1;
                }
            }
            Print("", "clasp, brave", 0, theirs, ours.Select(o => o.Ms).ToList());
        }
        return 0;
    }

    private static ModelPackage Read(string folder, string name)
    {
        if (File.Exists(Path.Combine(folder, $"{name}.uvl")))
            return UvlReader.Read(File.ReadAllText(Path.Combine(folder, $"{name}.uvl"))).Package!;
        using var file = File.Exists(Path.Combine(folder, $"{name}.model.json")) ? File.OpenRead(Path.Combine(folder, $"{name}.model.json"))
            : (Stream)new GZipStream(File.OpenRead(Path.Combine(folder, $"{name}.model.json.gz")), CompressionMode.Decompress);
        using var bytes = new MemoryStream();
        file.CopyTo(bytes);
        var package = ModelJson.Read(bytes.ToArray()).Package!;
        return package with { Model = ModelEditor.BindNames(package.Model, package.Library).Document! };
    }

    /// <summary>Until the runtime has compiled for good what is used, as in a server that is up; with a reasoner of its own, which nothing is kept of.</summary>
    private static void Warm(ModelPackage read, string sessions, TimeSpan limit)
    {
        var model = new BoundModel(read.Model, read.Library);
        var (text, reasoner) = (new PickText(model), new Reasoner(model));
        var lines = File.ReadLines(sessions).Where(l => l.Length > 0).ToList();
        for (var (clock, i) = (Stopwatch.StartNew(), 0); clock.Elapsed < TimeSpan.FromSeconds(4) && i < lines.Count; i++)
            Ask(reasoner, PicksOf(lines[i], text), limit);
    }

    private static (Answer Answer, double Ms) Ask(Reasoner reasoner, IReadOnlyList<Pick> picks, TimeSpan limit)
    {
        using var stop = new CancellationTokenSource(limit);
        var clock = Stopwatch.StartNew();
        var answer = reasoner.Answer(new([.. picks]), stop.Token);
        return (answer, clock.Elapsed.TotalMilliseconds);
    }

    private static List<Pick> PicksOf(string line, PickText text)
    {
        using var json = JsonDocument.Parse(line);
        return [.. json.RootElement.EnumerateArray().Select(p => text.Read(p.GetProperty("name").GetString()!, p.GetProperty("value") is var value && value.ValueKind == JsonValueKind.String ? value.GetString()! : value.ToString().ToLowerInvariant()
            is var word && word == "true" ? "yes" : word == "false" ? "no" : word).Pick!.Value)];
    }

    /// <summary>The values in document order, no before yes, as clasp's input numbers them.</summary>
    private static List<(string Path, Value Value)> Numbered(BoundModel model, PickText text) => [.. model.Document.AllAssemblies.SelectMany(a => a.Rows).OfType<AttributeRow>().SelectMany(row => (row.Type switch
    {
        AttributeType.YesNo => [Value.Of(false), Value.Of(true)],
        AttributeType.Choice => model.Index.Lists[row.ListId!].Values.Select(v => Value.Choice(v.Id)),
        _ => Enumerable.Range(int.Parse(row.Min!, CultureInfo.InvariantCulture), int.Parse(row.Max!, CultureInfo.InvariantCulture) - int.Parse(row.Min!, CultureInfo.InvariantCulture) + 1).Select(n => Value.Of(n)),
    }).Select(v => (row.Id, v)))];

    private static void Print(string name, string solver, double build, List<double?> times, List<double>? ours)
    {
        var sorted = times.Select(t => t ?? double.PositiveInfinity).Order().ToList();
        Console.WriteLine($"{name,-16}{solver,-15}{build,9:0}{sorted[sorted.Count / 2],10:0.0}{sorted[(int)(0.95 * (sorted.Count - 1))],10:0.0}{sorted[^1],10:0.0}{times.Count(t => t is null),11}"
            + (ours is null ? "" : $"{times.Zip(ours, (t, o) => (t ?? double.PositiveInfinity) / o).Order().ElementAt(times.Count / 2),14:0.0}×"));
    }
}
