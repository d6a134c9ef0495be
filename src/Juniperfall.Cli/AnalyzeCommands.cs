using System.Collections.Immutable;
using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using System.Text;
using Juniperfall.Core.Health;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats.Uvl;
using Juniperfall.Formats;

namespace Juniperfall.Cli;

/// <summary>
/// Questions to the reasoning, for pipelines and for measuring: one (analyze), or one after the other (replay). docs/cli.md
/// describes what they take and write.
/// </summary>
public static class AnalyzeCommands
{
    private const int Valid = 0, Invalid = 1, WrongInput = 2, TimeLimit = 3;

    /// <summary>What is asked beside the answer.</summary>
    /// <param name="Why">NAME=VALUE.</param>
    /// <param name="WaysOut">Null: not asked; empty: out of the clash; otherwise towards NAME=VALUE.</param>
    /// <param name="Complete">Null: not asked; empty: by suggestions; otherwise lowest:NAME or highest:NAME.</param>
    public sealed record Questions(string? Why, string? WaysOut, string? Complete, bool Count, int Explore, bool Pairs, bool Health);

    /// <summary>A model file, or UVL by its ending; null where it is neither, which is said.</summary>
    internal static BoundModel? Load(string file, TextWriter errors)
    {
        if (!file.EndsWith(".uvl", StringComparison.OrdinalIgnoreCase))
            return Commands.Load(file, errors) is { } model && IsSound(model, file, errors) ? model : null;
        if (Commands.ReadFile(file, errors) is not { } bytes)
            return null;
        if (bytes.Length > Core.Limits.LargestFile)
        {
            errors.WriteLine($"{file}: {ModelJson.FileTooLarge}");
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

    public static int Analyze(string file, AskedFor asks, Questions options, bool asText, TextWriter output, TextWriter errors)
    {
        var clock = Stopwatch.StartNew();
        using var limit = new CancellationTokenSource(asks.Limit);
        (bool Highest, string Name)? end = options.Complete?.Split(':', 2) is [("lowest" or "highest") and var which, { Length: > 0 } number]
            ? (which == "highest", number) : null;
        if (options.Complete is { Length: > 0 } && end is null)
        {
            errors.WriteLine($"“{options.Complete}” is not understood; it is written --complete lowest:NAME or highest:NAME.");
            return WrongInput;
        }
        if (Load(file, errors) is not { } model)
            return WrongInput;
        var read = clock.Elapsed.TotalMilliseconds;
        clock.Restart();
        if (Commands.Read(model, asks, errors) is not { } of)
            return WrongInput;
        var reasoner = new Reasoner(model, of.At);
        var compile = clock.Elapsed.TotalMilliseconds;
        var json = new AnswerJson(model);
        Pick? why = null, wanted = null;
        if ((options.Why is { } w && (why = Picked(json, w, "--why", errors)) is null)
            || (options.WaysOut is { Length: > 0 } t && (wanted = Picked(json, t, "--ways-out", errors)) is null))
            return WrongInput;
        string? goal = null;
        if (end is { } g && (goal = reasoner.Goals
            .FirstOrDefault(path => Names.Fold(json.NameOf(path)).TrimStart(RowPath.Member) == Names.Fold(g.Name))) is null)
        {
            errors.WriteLine($"There is no number “{g.Name}” to bring to its {(g.Highest ? "highest" : "lowest")}.");
            return WrongInput;
        }
        clock.Restart();
        var question = new Question(of.Picks);
        var answer = reasoner.Answer(question, limit.Token);
        var ms = clock.Elapsed.TotalMilliseconds;
        var exact = answer.Exact;
        var stream = new MemoryStream();
        using (var writer = new Utf8JsonWriter(stream,
            new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping, Indented = asText }))
        {
            writer.WriteStartObject();
            json.Answer(writer, answer);
            if (options.WaysOut is not null)
            {
                var ways = reasoner.WaysOut(question, wanted, limit.Token);
                exact &= ways.Finished;
                json.WaysOut(writer, ways);
            }
            if (why is { } asked)
                exact &= Why(writer, json, reasoner, question, answer, asked, limit.Token);
            if (options.Complete is not null)
                exact &= Complete(writer, json, reasoner, answer, goal, end?.Highest ?? false, limit.Token);
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
        if (asText)
            Text(JsonDocument.Parse(stream.ToArray()).RootElement, output);
        else
            output.WriteLine(Encoding.UTF8.GetString(stream.ToArray()));
        return !exact ? TimeLimit : answer.Valid == true ? Valid : Invalid;
    }

    private static Pick? Picked(AnswerJson json, string written, string option, TextWriter errors)
    {
        if (Commands.Pairs([written], option, errors) is not [var (name, value)])
            return null;
        var (pick, error) = json.Read(name, value);
        if (error is not null)
            errors.WriteLine(error);
        return pick;
    }

    private static bool Why(Utf8JsonWriter writer, AnswerJson json, Reasoner reasoner, Question question, Answer answer, Pick asked, CancellationToken cancel)
    {
        var follows = answer.Attributes.FirstOrDefault(a => a.Path == asked.Path) is { State: AttributeState.Follows, Value: { } value }
            && value.Equals(asked.Value);
        var (reason, finished) = follows
            ? reasoner.WhyFollows(question, asked.Path, asked.Value, cancel) : reasoner.WhyNot(question, asked.Path, asked.Value, cancel);
        if (reason is null)
            writer.WriteNull("why");
        else
            json.Set(writer, "why", reason.Picks, reason.Causes,
                json.Sentence(follows ? $"{json.Text(asked)} is all that is left" : $"{json.Text(asked)} cannot be had", reason));
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
    /// <param name="limit">For each line.</param>
    public static int Replay(string file, string picksFile, TimeSpan limit, TextWriter output, TextWriter errors)
    {
        if (Load(file, errors) is not { } model)
            return WrongInput;
        StreamReader lines;
        try
        {
            lines = new StreamReader(picksFile == "-" ? Commands.StandardInput() : File.OpenRead(picksFile));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            errors.WriteLine($"{picksFile} cannot be read: {e.Message}");
            return WrongInput;
        }
        using var open = lines;
        var reasoner = new Reasoner(model);
        MakeDiagrams(reasoner, limit);
        var json = new AnswerJson(model);
        while (open.ReadLine() is { } line)
        {
            if (string.IsNullOrWhiteSpace(line))
                continue;
            var stream = new MemoryStream();
            using (var writer = new Utf8JsonWriter(stream,
                new JsonWriterOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping }))
            {
                writer.WriteStartObject();
                var (picks, error) = PicksOf(json, line);
                if (error is not null)
                    writer.WriteString("error", error);
                else
                {
                    var clock = Stopwatch.StartNew();
                    using var time = new CancellationTokenSource(limit);
                    var answer = reasoner.Answer(new(picks), time.Token);
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

    /// <summary>As a server does it in the background, before the first of many questions.</summary>
    private static void MakeDiagrams(Reasoner reasoner, TimeSpan limit)
    {
        using var time = new CancellationTokenSource(limit);
        try
        {
            reasoner.MakeDiagrams(time.Token);
        }
        catch (OperationCanceledException)
        {
            // Answers are the same without them.
        }
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
                if (item.ValueKind != JsonValueKind.Object || !item.TryGetProperty("name", out var name) || name.ValueKind != JsonValueKind.String
                    || !item.TryGetProperty("value", out var value))
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
        output.WriteLine(answer.GetProperty("valid").ValueKind switch
        {
            JsonValueKind.True => "valid",
            JsonValueKind.False => "not valid",
            _ =>
            "not known whether valid"
        });
        foreach (var attribute in answer.GetProperty("attributes").EnumerateObject())
        {
            var at = attribute.Value;
            var state = at.GetProperty("state").GetString();
            if (state == "absent")
                continue;
            var can = at.TryGetProperty("alternatives", out var list)
                || (at.TryGetProperty("available", out list)) ? string.Join(" | ", list.EnumerateArray().Select(Plain))
                : at.TryGetProperty("min", out var min) ? $"{Plain(min)} … {Plain(at.GetProperty("max"))}" : "";
            output.WriteLine($"{attribute.Name,-34} {state,-10} {Plain(at.GetProperty("value")),-14} {can}");
        }
        foreach (var member in answer.EnumerateObject().Where(m => m.Name is not ("valid" or "attributes") && m.Value.ValueKind != JsonValueKind.Null))
            output.WriteLine($"{member.Name}: "
                + $"{(member.Value.ValueKind == JsonValueKind.Array ? string.Join("; ", member.Value.EnumerateArray().Select(Plain)) : Plain(member.Value))}");
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
