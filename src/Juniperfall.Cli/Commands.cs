using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning;
using Juniperfall.Core.Wording;
using Juniperfall.Formats;
using Juniperfall.Formats.Uvl;

namespace Juniperfall.Cli;

/// <summary>What is asked of a model beside the file.</summary>
/// <param name="Picks">NAME=VALUE, in the order made.</param>
public sealed record AskedFor(IReadOnlyList<string> Picks, string? Site, string? Date, TimeSpan Limit);

/// <summary>The commands. Exit code 0: valid; 1: no complete configuration with these picks; 2: wrong input; 3: the time limit was reached.</summary>
public static class Commands
{
    internal const int Valid = 0, Invalid = 1, WrongInput = 2, TimeLimit = 3;

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

    /// <summary>Every fault of a file at its place, as lines or as SARIF; where there is none, whether any configuration is possible.</summary>
    public static int Check(string file, bool asSarif, TimeSpan limit, TextWriter output, TextWriter errors)
    {
        if (ReadFile(file, errors) is not { } bytes)
            return WrongInput;
        var (_, model, faults) = FileFaults.Of(bytes);
        if (asSarif)
            output.Write(FileFaults.Sarif(file, faults, CommandLine.Version));
        else
            foreach (var fault in faults)
                output.WriteLine($"{file}:{fault.Place.Line}:{fault.Place.Column}: {(fault.Blocks ? "error" : "warning")} {fault.Id}: {fault.Message}");
        if (model is null || faults.Any(f => f.Blocks))
            return WrongInput;
        using var time = new CancellationTokenSource(limit);
        var answer = new Reasoner(model).Answer(new([]), time.Token);
        var said = asSarif ? errors : output;
        switch (answer.Valid)
        {
            case null:
                said.WriteLine("Whether any configuration is possible was not found out in time.");
                return TimeLimit;
            case false:
                said.WriteLine("No configuration is possible. These cannot all hold:");
                foreach (var cause in answer.Clashes.SelectMany(c => c.Causes))
                    said.WriteLine("  " + Describe(model, cause));
                return Invalid;
            default:
                said.WriteLine($"Sound: {model.Document.Assemblies.Sum(a => a.Rows.Count())} rows in {model.Document.Assemblies.Length} assemblies.");
                return Valid;
        }
    }

    public static int Answer(string file, AskedFor options, TextWriter output, TextWriter errors)
    {
        if (Load(file, errors) is not { } model || Read(model, options, errors) is not { } asked)
            return WrongInput;
        var text = new PickText(model);
        using var limit = new CancellationTokenSource(options.Limit);
        var answer = new Reasoner(model, asked.At).Answer(new(asked.Picks), limit.Token);
        foreach (var attribute in answer.Attributes.Where(a => a.State != AttributeState.Absent))
        {
            var value = attribute.Value is { } v ? text.Write(attribute.Row, v) : "–";
            output.WriteLine($"{attribute.DisplayPath,-34} {attribute.State,-10} {value,-16} {Range(text, attribute)}");
        }
        foreach (var computed in answer.AsSuggested.Computed.Where(c => c.Number is not null))
            output.WriteLine($"{computed.DisplayPath,-34} computed   {Number(model, computed)}");
        foreach (var clash in answer.Clashes)
            output.WriteLine($"Clash: {string.Join(", ", clash.Picks.Select(p => Name(answer, p.Path)))} with "
                + $"{string.Join("; ", clash.Causes.Select(c => Describe(model, c)))}");
        foreach (var cause in answer.Advice)
            output.WriteLine("Advice: " + Describe(model, cause));
        if (answer.Missing.Length > 0)
            output.WriteLine("Still needed: " + string.Join(", ", answer.Missing.Select(p => Name(answer, p))));
        if (!answer.Exact)
            output.WriteLine("Time ran out: nothing here is final.");
        return !answer.Exact ? TimeLimit : answer.Valid == true ? Valid : Invalid;
    }

    /// <summary>What “-” is read from.</summary>
    public static Func<Stream> StandardInput { get; set; } = Console.OpenStandardInput;

    internal static byte[]? ReadFile(string file, TextWriter errors)
    {
        try
        {
            if (file != "-")
                return File.ReadAllBytes(file);
            using var input = new MemoryStream();
            using var from = StandardInput();
            from.CopyTo(input);
            return input.ToArray();
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
    internal static (ImmutableArray<Pick> Picks, Effectivity At)? Read(BoundModel model, AskedFor options, TextWriter errors)
    {
        var text = new PickText(model);
        var at = Effectivity.Any;
        if (options.Site is { } code)
        {
            if (model.Facts.Sites.Keys.FirstOrDefault(k => k.Equals(code, StringComparison.OrdinalIgnoreCase)) is not { } site)
            {
                errors.WriteLine($"There is no site “{code}”; there are {string.Join(", ", model.Facts.Sites.Keys)}.");
                return null;
            }
            at = at with { Site = site };
        }
        if (options.Date is { } day)
        {
            if (!DateOnly.TryParseExact(day, "yyyy-MM-dd", out var date))
            {
                errors.WriteLine($"“{day}” is not a day; days are written 2027-01-31.");
                return null;
            }
            at = at with { Date = date };
        }
        if (Pairs(options.Picks, "--pick", errors) is not { } written)
            return null;
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

    /// <summary>Names and values around the first equals sign; null where one has none, which is said.</summary>
    internal static List<(string Name, string Value)>? Pairs(IEnumerable<string> written, string option, TextWriter errors)
    {
        var pairs = new List<(string, string)>();
        foreach (var text in written)
            if (text.IndexOf('=') is > 0 and var equals)
                pairs.Add((text[..equals], text[(equals + 1)..]));
            else
            {
                errors.WriteLine($"“{text}” is not understood; it is written {option} NAME=VALUE.");
                return null;
            }
        return pairs;
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
        var unit = new ModelWording(model).UnitOf(computed.Row);
        string Write(Exact? number) => number is { } n ? unit.FromBase(n).ToDisplay(computed.Row.Decimals) : "…";
        var (low, high) = (computed.Number!.Low, computed.Number.High);
        return $"{(low == high ? Write(low) : $"{Write(low)} … {Write(high)}")} {unit.Code}{(computed.Number.MayHaveNoValue ? " or nothing" : "")}";
    }

    internal static string Name(Answer answer, string path) => answer.Attributes.FirstOrDefault(a => a.Path == path)?.DisplayPath ?? path;

    internal static string Describe(BoundModel model, Cause cause) =>
        $"{(cause.Kind == CauseKind.Rule && model.Index.MarkOf(model.Index.Rows[cause.RowId]) is { } mark ? $"{mark} " : "")}{new ModelWording(model).Clause(cause)}";
}
