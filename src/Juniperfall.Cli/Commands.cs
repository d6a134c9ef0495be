using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;

namespace Juniperfall.Cli;

/// <summary>The commands. Exit code 0: valid; 1: no complete configuration with these picks; 2: wrong input.</summary>
public static class Commands
{
    internal const int Valid = 0, Invalid = 1, WrongInput = 2;

    public static int Usage(TextWriter errors)
    {
        errors.WriteLine("""
            juniperfall check FILE                            every fault of a model file, each with its place
            juniperfall answer FILE [OPTIONS]                 what can still be chosen, what follows, what is computed
            juniperfall analyze FILE [OPTIONS]                the same and more as JSON, of a model file or UVL: docs/cli.md
            juniperfall replay FILE PICKS.jsonl               one answer for each line of picks, as JSON lines
            juniperfall uvl FILE                              a model file as UVL, as far as UVL goes; the rest is listed
            juniperfall reuse FILE OTHER [OPTIONS]            FILE with the model of OTHER taken in, to fill subassemblies: docs/cli.md
            juniperfall structure FILE [OPTIONS]              the bill of materials and the routings: docs/cli.md
            juniperfall export PRODUCT [REVISION]             a revision as a model file, from the database (the latest without a number)
            juniperfall import FILE --as PERSON               a model file (or UVL) into the database, as a new product or the next draft
            juniperfall schema [structure]                    the JSON Schema of the model file, or of a structure

            OPTIONS  --pick NAME=VALUE (repeatable), --site CODE, --date YYYY-MM-DD
            export and import find the database in JUNIPERFALL_DATABASE (a connection string), or ask the ./start that is running.
            """);
        return WrongInput;
    }

    public static int Schema(bool ofStructure, TextWriter output)
    {
        output.Write(ofStructure ? ModelSchema.WriteStructure() : ModelSchema.Write());
        return Valid;
    }

    public static int WriteUvl(string file, TextWriter output, TextWriter errors)
    {
        if (Load(file, errors) is not { } model)
            return WrongInput;
        var (text, omitted) = UvlWriter.Write(model);
        foreach (var omission in omitted)
            errors.WriteLine($"{file}: {omission.Sentence}");
        output.Write(text);
        return Valid;
    }

    public static int Check(string file, TextWriter output, TextWriter errors)
    {
        if (Load(file, errors) is not { } model)
            return WrongInput;
        foreach (var finding in model.Findings)
        {
            var name = model.Index.Rows.GetValueOrDefault(finding.RowId) is { } row ? new Wording(model).NameOf(row) : model.Index.Lists.GetValueOrDefault(finding.RowId)?.Name ?? finding.RowId;
            output.WriteLine($"{finding.Diagnostic.Id} {name}, {finding.Field}, character {finding.Diagnostic.Span.Start + 1}: {finding.Diagnostic.Message}");
        }
        if (model.Findings.Any(f => f.Blocks))
            return WrongInput;
        var answer = new Reasoner(model).Answer(new([]), CancellationToken.None);
        if (answer.Valid == false)
        {
            output.WriteLine("No configuration is possible. These cannot all hold:");
            foreach (var cause in answer.Clashes.SelectMany(c => c.Causes))
                output.WriteLine("  " + Describe(model, cause));
            return Invalid;
        }
        output.WriteLine($"Sound: {model.Document.Assemblies.Sum(a => a.Rows.Count())} rows in {model.Document.Assemblies.Length} assemblies.");
        return Valid;
    }

    public static int Answer(string file, string[] options, TextWriter output, TextWriter errors)
    {
        if (Load(file, errors) is not { } model || Read(model, options, errors) is not { } asked)
            return WrongInput;
        var text = new PickText(model);
        var answer = new Reasoner(model, asked.At).Answer(new(asked.Picks), CancellationToken.None);
        foreach (var attribute in answer.Attributes.Where(a => a.State != AttributeState.Absent))
        {
            var value = attribute.Value is { } v ? text.Write(attribute.Row, v) : "–";
            output.WriteLine($"{attribute.DisplayPath,-34} {attribute.State,-10} {value,-16} {Range(text, attribute)}");
        }
        foreach (var computed in answer.AsSuggested.Computed.Where(c => c.Number is not null))
            output.WriteLine($"{computed.DisplayPath,-34} computed   {Number(model, computed)}");
        foreach (var clash in answer.Clashes)
            output.WriteLine($"Clash: {string.Join(", ", clash.Picks.Select(p => Name(answer, p.Path)))} with {string.Join("; ", clash.Causes.Select(c => Describe(model, c)))}");
        foreach (var cause in answer.Advice)
            output.WriteLine("Advice: " + Describe(model, cause));
        if (answer.Missing.Length > 0)
            output.WriteLine("Still needed: " + string.Join(", ", answer.Missing.Select(p => Name(answer, p))));
        return answer.Valid == true ? Valid : Invalid;
    }

    internal static byte[]? ReadFile(string file, TextWriter errors)
    {
        try
        {
            return File.ReadAllBytes(file);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            errors.WriteLine($"{file} cannot be read: {e.Message}");
            return null;
        }
    }

    internal static BoundModel? Load(string file, TextWriter errors) => LoadPackage(file, errors) is { } package ? new(package.Model, package.Library) : null;

    internal static ModelPackage? LoadPackage(string file, TextWriter errors)
    {
        if (ReadFile(file, errors) is not { } bytes)
            return null;
        var result = ModelJson.Read(bytes);
        if (result.Package is null)
            errors.WriteLine($"{file}: {result.Error}");
        return result.Package;
    }

    /// <summary>Picks, site and day from the options of a command; null where one is wrong, which is said.</summary>
    internal static (ImmutableArray<Pick> Picks, Effectivity At)? Read(BoundModel model, string[] options, TextWriter errors)
    {
        var text = new PickText(model);
        var written = new List<(string Name, string Value)>();
        var at = Effectivity.Any;
        for (var i = 0; i < options.Length; i += 2)
        {
            var value = i + 1 < options.Length ? options[i + 1] : "";
            switch (options[i])
            {
                case "--pick" when value.IndexOf('=') is > 0 and var equals:
                    written.Add((value[..equals], value[(equals + 1)..]));
                    break;
                case "--site" when model.Facts.Sites.Keys.FirstOrDefault(k => k.Equals(value, StringComparison.OrdinalIgnoreCase)) is { } site:
                    at = at with { Site = site };
                    break;
                case "--site":
                    errors.WriteLine($"There is no site “{value}”; there are {string.Join(", ", model.Facts.Sites.Keys)}.");
                    return null;
                case "--date" when DateOnly.TryParseExact(value, "yyyy-MM-dd", out var date):
                    at = at with { Date = date };
                    break;
                case "--date":
                    errors.WriteLine($"“{value}” is not a day; days are written 2027-01-31.");
                    return null;
                default:
                    errors.WriteLine($"“{options[i]}” is not understood; picks are written --pick NAME=VALUE.");
                    return null;
            }
        }
        var picks = ImmutableArray.CreateBuilder<Pick>();
        foreach (var (name, value) in written)
        {
            var (pick, error) = text.Read(name, value);
            error ??= text.Objection(pick!.Value, at);
            if (error is not null)
            {
                errors.WriteLine(error);
                return null;
            }
            picks.Add(pick!.Value);
        }
        if (text.Repetition(picks) is not { } repetition)
            return (picks.ToImmutable(), at);
        errors.WriteLine(repetition);
        return null;
    }

    private static string Range(PickText text, AttributeAnswer attribute)
    {
        var available = attribute.Alternatives ?? attribute.Available;
        string Write(Value value) => text.Write(attribute.Row, value);
        return available.Lowest is { } low ? $"{Write(Value.Of(low))} … {Write(Value.Of(available.Highest!.Value))}"
            : available.Values.Length > 12 ? $"{available.Values.Length} values from {Write(available.Values[0])} to {Write(available.Values[^1])}"
            : string.Join(" | ", available.Values.Select(Write).Concat(available.None ? ["none"] : Array.Empty<string>()));
    }

    private static string Number(BoundModel model, ComputedAnswer computed)
    {
        var unit = new Wording(model).UnitOf(computed.Row);
        string Write(Exact? number) => number is { } n ? unit.FromBase(n).ToDisplay(computed.Row.Decimals) : "…";
        var (low, high) = (computed.Number!.Low, computed.Number.High);
        return $"{(low == high ? Write(low) : $"{Write(low)} … {Write(high)}")} {unit.Code}{(computed.Number.MayHaveNoValue ? " or nothing" : "")}";
    }

    internal static string Name(Answer answer, string path) => answer.Attributes.FirstOrDefault(a => a.Path == path)?.DisplayPath ?? path;

    internal static string Describe(BoundModel model, Cause cause) =>
        $"{(cause.Kind == CauseKind.Rule && model.Index.MarkOf(model.Index.Rows[cause.RowId]) is { } mark ? $"{mark} " : "")}{new Wording(model).Clause(cause)}";
}
