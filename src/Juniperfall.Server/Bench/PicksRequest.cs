using Juniperfall.Core;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;

namespace Juniperfall.Server.Bench;

/// <summary>A pick as people write it: a value's code, a number in the attribute's unit, yes, no, none, or a text.</summary>
public sealed record PickRequest(string Path, string Value);

/// <summary>What every question about a configuration is asked for.</summary>
/// <param name="Site">The code of a site; null for no site in particular.</param>
/// <param name="Date">The day; null for no day in particular.</param>
public record PicksRequest(IReadOnlyList<PickRequest> Picks, string? Site = null, DateOnly? Date = null);

/// <summary>Picks as the reasoning takes them, and those that it cannot take, each with the reason.</summary>
internal sealed record ReadPicks(Effectivity At, List<Pick> Picks, List<PickFault> Faults)
{
    /// <summary>The revision that a request is about, and its picks; or what is wrong with it as a whole.</summary>
    public static async Task<(CompiledModel? Compiled, ReadPicks? Read, IResult? Problem)> Of(long revisionId, PicksRequest request, CompiledModels models,
        CancellationToken cancel)
    {
        if (await models.Get(revisionId, cancel) is not { } compiled)
            return (null, null, Problems.Gone("revision"));
        var (read, problem) = Of(compiled, request);
        return (compiled, read, problem);
    }

    /// <summary>Reads a request; a site that is not there is a problem with the whole of it.</summary>
    public static (ReadPicks? Read, IResult? Problem) Of(CompiledModel compiled, PicksRequest request)
    {
        if (compiled.SiteOf(request.Site) is not { } site)
            return (null, Problems.Wrong("/site", $"There is no site “{request.Site}”."));
        if (request.Picks.Count > Limits.MostPicks)
            return (null, Problems.Wrong("/picks", $"There can be at most {Limits.MostPicks} picks; these are {request.Picks.Count}."));
        var read = new ReadPicks(new(site.Length == 0 ? null : site, request.Date), [], []);
        var seen = new HashSet<string>();
        foreach (var asked in request.Picks)
        {
            if (!seen.Add(asked.Path))
                return (null, Problems.Wrong($"/picks/{seen.Count}/path", $"“{compiled.LabelOf(asked.Path)}” is picked twice. Leave one of the two out."));
            var (pick, error) = compiled.Text.ReadAt(asked.Path, asked.Value);
            error ??= compiled.Text.Objection(pick!.Value, read.At);
            if (error is null)
                read.Picks.Add(pick!.Value);
            else
                read.Faults.Add(new(asked.Path, asked.Value, error));
        }
        return (read, null);
    }

    /// <summary>Reads what was stored: picks on what this revision does not ask rest.</summary>
    public static ReadPicks Of(CompiledModel compiled, IEnumerable<Pick> stored, Effectivity at)
    {
        var read = new ReadPicks(at, [], []);
        foreach (var pick in stored.DistinctBy(p => p.Path))
            if (compiled.Text.At(pick.Path) is { } row)
                if (compiled.Text.Objection(pick, at) is { } objection)
                    read.Faults.Add(new(pick.Path, compiled.Text.Write(row, pick.Value), objection));
                else
                    read.Picks.Add(pick);
        return read;
    }
}
