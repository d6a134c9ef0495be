using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;

namespace Juniperfall.Cli;

/// <summary>
/// Questions to the reasoning, for pipelines and for measuring: one (analyze), or one after the other (replay). docs/cli.md
/// describes what they take and write.
/// </summary>
public static class AnalyzeCommands
{
    private const int Valid = 0, Invalid = 1, WrongInput = 2, TimeLimit = 3;

    private sealed record Options
    {
        public List<(string Name, string Value)> Picks { get; } = [];
        public (string Name, string Value)? Why { get; set; }
        public bool WaysOut { get; set; }
        public (string Name, string Value)? Wanted { get; set; }
        public bool Complete { get; set; }
        public bool Count { get; set; }
        public bool Health { get; set; }
        public int Explore { get; set; }
        public bool Pairs { get; set; }
        public (bool Highest, string Name)? Goal { get; set; }
        public TimeSpan Limit { get; set; } = TimeSpan.FromSeconds(60);
        public bool AsText { get; set; }
    }

    /// <summary>A model file, or UVL by its ending; null where it is neither, which is said.</summary>
    private static BoundModel? Load(string file, TextWriter errors)
    {
        if (!file.EndsWith(".uvl", StringComparison.OrdinalIgnoreCase))
            return Commands.Load(file, errors) is { } model && IsSound(model, file, errors) ? model : null;
        if (Commands.ReadFile(file, errors) is not { } bytes)
            return null;
        if (bytes.Length > ModelJson.LargestFile)
        {
            errors.WriteLine($"{file}: The file is larger than {ModelJson.LargestFile / 1024 / 1024} MB.");
            return null;
        }
        var result = UvlReader.Read(Encoding.UTF8.GetString(bytes));
        foreach (var error in result.Errors.Take(50))
            errors.WriteLine($"{file}: Line {error.Line}: {error.Sentence}");
        if (result.Package is not { } package)
            return null;
        foreach (var note in result.Unread.Take(50))
            errors.WriteLine($"{file}: Line {note.Line}: {note.Sentence}");
        var read = new BoundModel(package.Model, package.Library);
        return IsSound(read, file, errors) ? read : null;
    }

    private static bool IsSound(BoundModel model, string file, TextWriter errors)
    {
        var faults = model.Findings.Where(f => f.Blocks).ToList();
        foreach (var fault in faults.Take(50))
            errors.WriteLine($"{file}: {fault.RowId}, {fault.Field}: {fault.Diagnostic.Message}");
        return faults.Count == 0;
    }

    private static Options? Read(string[] arguments, TextWriter errors)
    {
        var options = new Options();
        for (var i = 0; i < arguments.Length; i++)
        {
            string? next = i + 1 < arguments.Length && !arguments[i + 1].StartsWith("--", StringComparison.Ordinal) ? arguments[i + 1] : null;
            switch (arguments[i])
            {
                case "--pick" when Pair(next) is { } pick:
                    options.Picks.Add(pick);
                    i++;
                    break;
                case "--why" when Pair(next) is { } why:
                    options.Why = why;
                    i++;
                    break;
                case "--ways-out":
                    options.WaysOut = true;
                    if (Pair(next) is { } wanted)
                    {
                        options.Wanted = wanted;
                        i++;
                    }
                    break;
                case "--complete":
                    options.Complete = true;
                    if (next is not null && next.Split(':', 2) is [("lowest" or "highest") and var end, { Length: > 0 } name])
                    {
                        options.Goal = (end == "highest", name);
                        i++;
                    }
                    break;
                case "--count":
                    options.Count = true;
                    break;
                case "--explore" when int.TryParse(next, out var most) && most is > 0 and <= 100_000:
                    options.Explore = most;
                    i++;
                    break;
                case "--pairs":
                    options.Pairs = true;
                    break;
                case "--health":
                    options.Health = true;
                    break;
                case "--limit" when double.TryParse(next, NumberStyles.Float, CultureInfo.InvariantCulture, out var seconds) && seconds is >= 0 and <= 86_400:
                    options.Limit = TimeSpan.FromSeconds(seconds);
                    i++;
                    break;
                case "--format" when next is "json" or "text":
                    options.AsText = next == "text";
                    i++;
                    break;
                default:
                    errors.WriteLine($"“{arguments[i]}{(next is null ? "" : $" {next}")}” is not understood; docs/cli.md lists the options.");
                    return null;
            }
        }
        return options;
    }

    private static (string, string)? Pair(string? text) => text?.IndexOf('=') is > 0 and var equals ? (text[..equals], text[(equals + 1)..]) : null;

    public static int Analyze(string file, string[] arguments, TextWriter output, TextWriter errors)
    {
        var clock = Stopwatch.StartNew();
        if (Read(arguments, errors) is not { } options || Load(file, errors) is not { } model)
            return WrongInput;
        var read = clock.Elapsed.TotalMilliseconds;
        clock.Restart();
        var reasoner = new Reasoner(model);
        var compile = clock.Elapsed.TotalMilliseconds;
        var json = new AnswerJson(model);
        if (Picks(json, options.Picks, errors) is not { } picks)
            return WrongInput;
        Pick? why = null, wanted = null;
        if ((options.Why is { } w && (why = Picks(json, [w], errors)?[0]) is null) || (options.Wanted is { } t && (wanted = Picks(json, [t], errors)?[0]) is null))
            return WrongInput;
        string? goal = null;
        if (options.Goal is { } g && (goal = reasoner.Goals.FirstOrDefault(path => ModelIndex.Fold(json.NameOf(path)).TrimStart(RowPath.Member) == ModelIndex.Fold(g.Name))) is null)
        {
            errors.WriteLine($"There is no number “{g.Name}” to bring to its {(g.Highest ? "highest" : "lowest")}.");
            return WrongInput;
        }
        using var limit = new CancellationTokenSource(options.Limit);
        clock.Restart();
        var question = new Question(picks);
        var answer = reasoner.Answer(question, limit.Token);
        var ms = clock.Elapsed.TotalMilliseconds;
        var exact = answer.Exact;
        var stream = new MemoryStream();
        using (var writer = new Utf8JsonWriter(stream, new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping, Indented = options.AsText }))
        {
            writer.WriteStartObject();
            json.Answer(writer, answer);
            if (options.WaysOut)
            {
                var ways = reasoner.WaysOut(question, wanted, limit.Token);
                exact &= ways.Finished;
                json.WaysOut(writer, ways);
            }
            if (why is { } asked)
                exact &= Why(writer, json, reasoner, question, answer, asked, limit.Token);
            if (options.Complete)
                exact &= Complete(writer, json, reasoner, answer, goal, options.Goal?.Highest ?? false, limit.Token);
            if (options.Count)
            {
                var count = reasoner.Count(question, limit.Token);
                exact &= count.Exact;
                writer.WriteStartObject("count");
                writer.WriteString("value", count.Number.ToString(CultureInfo.InvariantCulture));
                writer.WriteBoolean("exact", count.Exact);
                writer.WriteEndObject();
            }
            if (options.Explore > 0)
                exact &= Explore(writer, json, reasoner, question, options.Explore, limit.Token);
            if (options.Pairs)
            {
                var sample = reasoner.CoverPairs(question, limit.Token);
                exact &= sample.Finished;
                json.Configurations(writer, "pairs", sample.Configurations);
            }
            if (options.Health)
            {
                var report = HealthCheck.Run(reasoner, null, limit.Token);
                exact &= report.IsFinished;
                json.Health(writer, report);
            }
            writer.WriteBoolean("exact", exact);
            writer.WriteStartObject("ms");
            writer.WriteNumber("read", Math.Round(read, 3));
            writer.WriteNumber("compile", Math.Round(compile, 3));
            writer.WriteNumber("answer", Math.Round(ms, 3));
            writer.WriteEndObject();
            writer.WriteEndObject();
        }
        if (options.AsText)
            Text(JsonDocument.Parse(stream.ToArray()).RootElement, output);
        else
            output.WriteLine(Encoding.UTF8.GetString(stream.ToArray()));
        return !exact ? TimeLimit : answer.Valid == true ? Valid : Invalid;
    }

    private static ImmutableArray<Pick>? Picks(AnswerJson json, IEnumerable<(string Name, string Value)> written, TextWriter errors)
    {
        var picks = ImmutableArray.CreateBuilder<Pick>();
        foreach (var (name, value) in written)
        {
            var (pick, error) = json.Read(name, value);
            if (pick is null)
            {
                errors.WriteLine(error);
                return null;
            }
            picks.Add(pick.Value);
        }
        if (json.Repetition(picks) is not { } repetition)
            return picks.ToImmutable();
        errors.WriteLine(repetition);
        return null;
    }

    private static bool Why(Utf8JsonWriter writer, AnswerJson json, Reasoner reasoner, Question question, Answer answer, Pick asked, CancellationToken cancel)
    {
        var follows = answer.Attributes.FirstOrDefault(a => a.Path == asked.Path) is { State: AttributeState.Follows, Value: { } value } && value.Equals(asked.Value);
        var (reason, finished) = follows ? reasoner.WhyFollows(question, asked.Path, asked.Value, cancel) : reasoner.WhyNot(question, asked.Path, asked.Value, cancel);
        if (reason is null)
            writer.WriteNull("why");
        else
            json.Set(writer, "why", reason.Picks, reason.Causes, json.Sentence(follows ? $"{json.Text(asked)} is all that is left" : $"{json.Text(asked)} cannot be had", reason));
        return finished;
    }

    private static bool Complete(Utf8JsonWriter writer, AnswerJson json, Reasoner reasoner, Answer answer, string? goal, bool highest, CancellationToken cancel)
    {
        if (goal is null)
        {
            var values = reasoner.Complete(answer, cancel);
            if (values is { } found)
            {
                writer.WriteStartObject("complete");
                json.Values(writer, "values", found);
                writer.WriteEndObject();
            }
            else
                writer.WriteNull("complete");
            return values is not null || answer.Valid != true || !cancel.IsCancellationRequested;
        }
        var best = reasoner.Best(answer, goal, highest, cancel);
        if (best.Values is not { } picks)
        {
            writer.WriteNull("complete");
            return best.Proven;
        }
        writer.WriteStartObject("complete");
        json.Values(writer, "values", picks);
        writer.WriteString("number", json.Number(goal, best.Number!.Value));
        writer.WriteString("bound", best.Bound is { } bound ? json.Number(goal, bound) : null);
        writer.WriteBoolean("proven", best.Proven);
        writer.WriteEndObject();
        return best.Proven;
    }

    private static bool Explore(Utf8JsonWriter writer, AnswerJson json, Reasoner reasoner, Question question, int most, CancellationToken cancel)
    {
        var found = reasoner.Explore(question, cancel).Take(most).ToList();
        json.Configurations(writer, "explored", found);
        return found.Count == most || !cancel.IsCancellationRequested;
    }

    /// <summary>Answers each line of picks with one line; a bad line with an error of its own.</summary>
    public static int Replay(string file, string picksFile, TextWriter output, TextWriter errors)
    {
        if (Load(file, errors) is not { } model)
            return WrongInput;
        StreamReader lines;
        try
        {
            lines = new StreamReader(picksFile);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            errors.WriteLine($"{picksFile} cannot be read: {e.Message}");
            return WrongInput;
        }
        using var open = lines;
        var reasoner = new Reasoner(model);
        var json = new AnswerJson(model);
        while (open.ReadLine() is { } line)
        {
            if (string.IsNullOrWhiteSpace(line))
                continue;
            var stream = new MemoryStream();
            using (var writer = new Utf8JsonWriter(stream, new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
            {
                writer.WriteStartObject();
                var (picks, error) = PicksOf(json, line);
                if (error is not null)
                    writer.WriteString("error", error);
                else
                {
                    var clock = Stopwatch.StartNew();
                    var answer = reasoner.Answer(new(picks), CancellationToken.None);
                    var ms = clock.Elapsed.TotalMilliseconds;
                    json.Answer(writer, answer);
                    writer.WriteBoolean("exact", answer.Exact);
                    writer.WriteNumber("ms", Math.Round(ms, 3));
                }
                writer.WriteEndObject();
            }
            output.WriteLine(Encoding.UTF8.GetString(stream.ToArray()));
        }
        output.Flush();
        return Valid;
    }

    private static (ImmutableArray<Pick> Picks, string? Error) PicksOf(AnswerJson json, string line)
    {
        try
        {
            using var document = JsonDocument.Parse(line);
            if (document.RootElement.ValueKind != JsonValueKind.Array)
                return ([], "A line is a list of picks, each with a name and a value.");
            var picks = ImmutableArray.CreateBuilder<Pick>();
            foreach (var item in document.RootElement.EnumerateArray())
            {
                if (item.ValueKind != JsonValueKind.Object || !item.TryGetProperty("name", out var name) || name.ValueKind != JsonValueKind.String || !item.TryGetProperty("value", out var value))
                    return ([], "Each pick has a name and a value.");
                var (pick, error) = json.Read(name.GetString()!, value);
                if (pick is null)
                    return ([], error);
                picks.Add(pick.Value);
            }
            return json.Repetition(picks) is { } repetition ? ([], repetition) : (picks.ToImmutable(), null);
        }
        catch (JsonException e)
        {
            return ([], $"This is no JSON: character {e.BytePositionInLine + 1}.");
        }
    }

    // ---- The same as text ---------------------------------------------------------------------------------------

    private static void Text(JsonElement answer, TextWriter output)
    {
        output.WriteLine(answer.GetProperty("valid").ValueKind switch { JsonValueKind.True => "valid", JsonValueKind.False => "not valid", _ => "not known whether valid" });
        foreach (var attribute in answer.GetProperty("attributes").EnumerateObject())
        {
            var at = attribute.Value;
            var state = at.GetProperty("state").GetString();
            if (state == "absent")
                continue;
            var can = at.TryGetProperty("alternatives", out var list) || (at.TryGetProperty("available", out list)) ? string.Join(" | ", list.EnumerateArray().Select(Plain))
                : at.TryGetProperty("min", out var min) ? $"{Plain(min)} … {Plain(at.GetProperty("max"))}" : "";
            output.WriteLine($"{attribute.Name,-34} {state,-10} {Plain(at.GetProperty("value")),-14} {can}");
        }
        foreach (var member in answer.EnumerateObject().Where(m => m.Name is not ("valid" or "attributes") && m.Value.ValueKind != JsonValueKind.Null))
            output.WriteLine($"{member.Name}: {(member.Value.ValueKind == JsonValueKind.Array ? string.Join("; ", member.Value.EnumerateArray().Select(Plain)) : Plain(member.Value))}");
    }

    private static string Plain(JsonElement element) => element.ValueKind switch
    {
        JsonValueKind.Null => "none",
        JsonValueKind.True => "yes",
        JsonValueKind.False => "no",
        JsonValueKind.String => element.GetString()!,
        JsonValueKind.Array => string.Join(", ", element.EnumerateArray().Select(Plain)),
        JsonValueKind.Object => string.Join(", ", element.EnumerateObject().Select(m => $"{m.Name} {Plain(m.Value)}")),
        _ => element.GetRawText(),
    };
}
