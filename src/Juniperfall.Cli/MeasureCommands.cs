using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Juniperfall.Core.Impact;
using Juniperfall.Core.Measures;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;

namespace Juniperfall.Cli;

/// <summary>What the literature measures of models, steps between configurations, and what an edit means: docs/analysis.md says which is which.</summary>
public static class MeasureCommands
{
    private const int Done = 0, None = 1, WrongInput = 2, TimeLimit = 3;

    private static int Write(TextWriter output, Action<Utf8JsonWriter> write)
    {
        var stream = new MemoryStream();
        using (var json = new Utf8JsonWriter(stream, new JsonWriterOptions { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping, Indented = true }))
        {
            json.WriteStartObject();
            write(json);
            json.WriteEndObject();
        }
        output.WriteLine(Encoding.UTF8.GetString(stream.ToArray()));
        return Done;
    }

    /// <param name="above">Two names, of which the place that holds both is told; empty where none is asked for.</param>
    public static int Measure(string file, AskedFor asks, IReadOnlyList<string> above, TextWriter output, TextWriter errors)
    {
        using var limit = new CancellationTokenSource(asks.Limit);
        if (AnalyzeCommands.Load(file, errors) is not { } model || Commands.Read(model, asks, errors) is not { } of)
            return WrongInput;
        var json = new AnswerJson(model);
        string? place = null;
        if (above.Count > 0 && (place = Above(model, json, above, errors)) is null)
            return WrongInput;
        var measures = ModelMeasures.Of(new Reasoner(model, of.At), new(of.Picks), limit.Token);
        var isExact = measures.Configurations is not null && measures.Features.All(f => f.Configurations is not null) && measures.IsFinished;
        Write(output, writer =>
        {
            Of(writer, json, measures);
            AnswerJson.Texts(writer, "roots", [model.Document.Code]);
            if (place is not null)
                writer.WriteString("above", place);
            writer.WriteBoolean("exact", isExact);
        });
        return isExact ? measures.Configurations is { IsZero: true } ? None : Done : TimeLimit;
    }

    private static void Of(Utf8JsonWriter writer, AnswerJson json, ModelMeasures measures)
    {
        Number(writer, "configurations", measures.Configurations);
        writer.WriteString("unconstrained", measures.Unconstrained.ToString(CultureInfo.InvariantCulture));
        Share(writer, "variabilityFactor", measures.VariabilityFactor);
        Share(writer, "homogeneity", measures.Homogeneity);
        Share(writer, "ruleRepresentativeness", measures.RuleRepresentativeness);
        writer.WriteStartArray("features");
        foreach (var feature in measures.Features)
        {
            writer.WriteStartObject();
            writer.WriteString("feature", Text(json, feature.Feature));
            writer.WriteString("presence", feature.Presence.ToString().ToLowerInvariant());
            Number(writer, "configurations", feature.Configurations);
            Share(writer, "commonality", measures.Commonality(feature));
            AnswerJson.Texts(writer, "implies", feature.Implies.Select(f => Text(json, f)));
            AnswerJson.Texts(writer, "excludes", feature.Excludes.Select(f => Text(json, f)));
            writer.WriteEndObject();
        }
        writer.WriteEndArray();
        writer.WriteStartArray("atomicSets");
        foreach (var set in measures.AtomicSets)
        {
            writer.WriteStartArray();
            foreach (var feature in set)
                writer.WriteStringValue(Text(json, feature));
            writer.WriteEndArray();
        }
        writer.WriteEndArray();
        writer.WriteStartArray("subtrees");
        foreach (var subtree in measures.Subtrees)
        {
            writer.WriteStartObject();
            writer.WriteString("place", subtree.Name);
            Number(writer, "configurations", subtree.Configurations);
            Share(writer, "orthogonality", measures.Orthogonality(subtree));
            writer.WriteEndObject();
        }
        writer.WriteEndArray();
    }

    private static string Text(AnswerJson json, Feature feature) => json.Text(new(feature.Path, feature.Value));

    private static void Number(Utf8JsonWriter writer, string name, System.Numerics.BigInteger? number) =>
        writer.WriteString(name, number?.ToString(CultureInfo.InvariantCulture));

    private static void Share(Utf8JsonWriter writer, string name, Exact? share) => writer.WriteString(name, share?.ToString());

    /// <summary>The deepest place that holds two attributes: the lowest common ancestor; empty for the product itself.</summary>
    private static string? Above(BoundModel model, AnswerJson json, IReadOnlyList<string> names, TextWriter errors)
    {
        var places = Occurrence.All(model).SelectMany(o => o.Assembly.Rows.OfType<AttributeRow>().Select(r => (Name: o.DisplayPath(model.Index, r.Id), At: o)))
            .ToLookup(x => x.Name, x => x.At);
        foreach (var name in names)
            if (!places.Contains(name))
            {
                errors.WriteLine($"There is no attribute “{name}”.");
                return null;
            }
        static List<Occurrence> Up(Occurrence? at)
        {
            var up = new List<Occurrence>();
            for (; at is not null; at = at.Parent)
                up.Add(at);
            return up;
        }
        var other = Up(places[names[1]].First()).Select(o => o.Prefix).ToHashSet();
        var common = Up(places[names[0]].First()).First(o => other.Contains(o.Prefix));
        return common.Parent is null ? model.Document.Code : common.DisplayPath(model.Index, "").TrimEnd('.');
    }

    /// <param name="to">What the last configuration has.</param>
    public static int Steps(string file, AskedFor start, IReadOnlyList<string> to, int changes, int steps, TextWriter output, TextWriter errors)
    {
        using var limit = new CancellationTokenSource(start.Limit);
        if (AnalyzeCommands.Load(file, errors) is not { } model || Commands.Read(model, start, errors) is not { } of
            || Commands.Read(model, start with { Picks = to }, errors) is not { } wanted)
            return WrongInput;
        var (json, reasoner) = (new AnswerJson(model), new Reasoner(model, of.At));
        var answer = reasoner.Answer(new(of.Picks), limit.Token);
        if (reasoner.Complete(answer, limit.Token) is not { } first)
        {
            errors.WriteLine(answer.Valid == false ? "There is no complete configuration with these picks to start from."
                : "Time ran out before a configuration to start from was found.");
            return answer.Valid == false ? None : TimeLimit;
        }
        var found = ConfigurationSteps.Between(reasoner, first, wanted.Picks, changes, steps, limit.Token);
        Write(output, writer =>
        {
            if (found.Configurations is { } way)
            {
                json.Configurations(writer, "steps", way);
                writer.WriteStartArray("changes");
                foreach (var (before, after) in way.Zip(way.Skip(1)))
                {
                    writer.WriteStartArray();
                    foreach (var text in Changed(json, before, after))
                        writer.WriteStringValue(text);
                    writer.WriteEndArray();
                }
                writer.WriteEndArray();
            }
            else
                writer.WriteNull("steps");
            writer.WriteBoolean("exact", found.IsFinished);
        });
        return !found.IsFinished ? TimeLimit : found.Configurations is null ? None : Done;
    }

    private static IEnumerable<string> Changed(AnswerJson json, ImmutableArray<Pick> before, ImmutableArray<Pick> after)
    {
        var then = before.ToDictionary(p => p.Path, p => p.Value);
        foreach (var pick in after)
            if (!then.Remove(pick.Path, out var was) || was != pick.Value)
                yield return json.Text(pick);
        foreach (var path in then.Keys)
            yield return $"{json.NameOf(path)} is not asked any more";
    }

    /// <summary>What the literature calls a refactoring, a generalization, a specialization, or an arbitrary edit.</summary>
    public static int Difference(string before, string after, TimeSpan time, TextWriter output, TextWriter errors)
    {
        using var limit = new CancellationTokenSource(time);
        if (AnalyzeCommands.Load(before, errors) is not { } old || AnalyzeCommands.Load(after, errors) is not { } fresh)
            return WrongInput;
        var (one, other) = (new Reasoner(old), new Reasoner(fresh));
        var (lost, gained) = (EditMeaning.OnlyIn(one, other, limit.Token), EditMeaning.OnlyIn(other, one, limit.Token));
        var isExact = lost.IsProven && gained.IsProven;
        Write(output, writer =>
        {
            writer.WriteString("relation", (lost.Example, gained.Example) switch
            {
                ({ }, { }) => "arbitrary edit",
                (null, { }) when lost.IsProven => "generalization",
                ({ }, null) when gained.IsProven => "specialization",
                (null, null) when isExact => "refactoring",
                _ => null,
            });
            Example(writer, "allowedBeforeOnly", new(old), lost);
            Example(writer, "allowedAfterOnly", new(fresh), gained);
            writer.WriteBoolean("exact", isExact || (lost.Example is not null && gained.Example is not null));
        });
        return isExact || (lost.Example is not null && gained.Example is not null) ? Done : TimeLimit;
    }

    private static void Example(Utf8JsonWriter writer, string name, AnswerJson json, AllowedByOne one)
    {
        if (one.Example is { } example)
        {
            writer.WriteStartObject(name);
            json.Values(writer, "values", example);
            writer.WriteString("rule", one.BecauseOf);
            writer.WriteEndObject();
        }
        else
            writer.WriteNull(name);
    }
}
