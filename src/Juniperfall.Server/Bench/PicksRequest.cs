using System.Collections.Immutable;
using Juniperfall.Core;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Reasoning;
using Juniperfall.Server.Answers;
using Juniperfall.Server.Revisions;
using Juniperfall.Server.Solving;
using Juniperfall.Storage;

namespace Juniperfall.Server.Bench;

/// <summary>A pick as people write it: a value's code, a number in the attribute's unit, yes, no, none, or a text.</summary>
/// <param name="FilledIn">Where nobody picked it but completion filled it in: for what, such as “lowest #cost”; “suggested” where it took what is suggested.
/// It stands as a suggestion then, and yields to every pick.</param>
public sealed record PickRequest(string Path, string Value, string? FilledIn = null);

/// <summary>What every question about a configuration is asked for.</summary>
/// <param name="Site">The code of a site; null for no site in particular.</param>
/// <param name="Date">The day; null for no day in particular.</param>
public record PicksRequest(IReadOnlyList<PickRequest> Picks, string? Site = null, DateOnly? Date = null)
{
    /// <summary>The code of the customer class that prices are for; null for list price.</summary>
    public string? CustomerClass { get; init; }

    /// <summary>The ids of rules that are set aside: as a concession does, or to try out what would be without them.</summary>
    public IReadOnlyList<string>? SetAside { get; init; }
}

/// <summary>Picks as the reasoning takes them, and those that it cannot take, each with the reason.</summary>
internal sealed record ReadPicks(Effectivity At, List<Pick> Picks, List<PickFault> Faults)
{
    /// <summary>What completion filled in, which nobody picked; what of it can no longer be had is left out.</summary>
    public List<(Pick Pick, string For)> FillIns { get; } = [];

    /// <summary>What completion filled in, as it is kept.</summary>
    public ImmutableArray<FilledIn> KeptFillIns => [.. FillIns.Select(f => new FilledIn(f.Pick, f.For))];

    /// <summary>What is asked of the reasoning.</summary>
    public Question Question => new([.. Picks]) { FillIns = [.. FillIns.Select(f => f.Pick)] };

    /// <summary>The revision that a request is about, and its picks; or what is wrong with it as a whole.</summary>
    public static async Task<(CompiledModel? Compiled, ReadPicks? Read, IResult? Problem)> Of(long revisionId, PicksRequest request, CompiledModels models,
        CancellationToken cancel)
    {
        if (await models.Get(revisionId, cancel) is not { } compiled)
            return (null, null, Problems.Gone("revision"));
        if (FaultOf(request.SetAside, compiled) is { } fault)
            return (null, null, fault);
        var asked = await models.For(compiled, request.SetAside ?? [], request.Date, cancel);
        var (read, problem) = Of(asked, request);
        return (asked, read, problem);
    }

    /// <summary>How many rules can be set aside at once: more of them are another product.</summary>
    public const int MostSetAside = 20;

    /// <summary>What is wrong with rules that are to be set aside.</summary>
    public static IResult? FaultOf(IReadOnlyList<string>? rules, CompiledModel compiled, string place = "/setAside")
    {
        if (rules is null || rules.Count == 0)
            return null;
        if (rules.Count > MostSetAside)
            return Problems.Wrong(place, $"At most {MostSetAside} rules can be set aside at once; these are {rules.Count}.");
        for (var i = 0; i < rules.Count; i++)
            if (compiled.Model.Index.Rows.GetValueOrDefault(rules[i] ?? "") is not IRule { Strength: RuleStrength.Must })
                return Problems.Wrong($"{place}/{i}", $"Revision {compiled.Revision.Number} has no such rule that must hold.");
        var all = compiled.Model.Index.Rows.Values.OfType<IRule>().Count(r => r.Strength == RuleStrength.Must);
        return all > 1 && rules.Distinct().Count() == all
            ? Problems.Wrong(place, "These are all the rules there are: nothing would be checked any more. Name those that stand in the way.") : null;
    }

    private const int LongestOrigin = 200;

    /// <summary>Reads a request; a site that is not there is a problem with the whole of it.</summary>
    /// <param name="place">Where in the request the picks stand.</param>
    public static (ReadPicks? Read, IResult? Problem) Of(CompiledModel compiled, PicksRequest request, string place = "/picks")
    {
        if (compiled.SiteOf(request.Site) is not { } site)
            return (null, Problems.Wrong("/site", $"There is no site “{request.Site}”."));
        if (request.Picks.Count > Limits.MostPicks)
            return (null, Problems.Wrong(place, $"There can be at most {Limits.MostPicks} picks; these are {request.Picks.Count}."));
        var read = new ReadPicks(new(site.Length == 0 ? null : site, request.Date), [], []);
        var seen = new HashSet<string>();
        foreach (var asked in request.Picks)
        {
            if (!seen.Add(asked.Path))
                return (null, Problems.Wrong($"{place}/{seen.Count}/path", $"“{compiled.LabelOf(asked.Path)}” is picked twice. Leave one of the two out."));
            var (pick, error) = compiled.Text.ReadAt(asked.Path, asked.Value);
            error ??= compiled.Text.Objection(pick!.Value, read.At);
            if (asked.FilledIn is { } origin)
            {
                if (error is null)
                    read.FillIns.Add((pick!.Value, origin.Length > LongestOrigin ? origin[..LongestOrigin] : origin));
            }
            else if (error is null)
                read.Picks.Add(pick!.Value);
            else
                read.Faults.Add(new(asked.Path, asked.Value, error));
        }
        return (read, null);
    }

    /// <summary>Reads what was stored: picks on what this revision does not ask rest.</summary>
    public static ReadPicks Of(CompiledModel compiled, StoredConfiguration stored)
    {
        var (read, at) = (new ReadPicks(stored.At, [], []), stored.At);
        foreach (var filled in stored.FillIns)
            if (compiled.Text.At(filled.Pick.Path) is not null && compiled.Text.Objection(filled.Pick, at) is null)
                read.FillIns.Add((filled.Pick, filled.For));
        foreach (var pick in stored.Picks.DistinctBy(p => p.Path))
            if (compiled.Text.At(pick.Path) is { } row)
                if (compiled.Text.Objection(pick, at) is { } objection)
                    read.Faults.Add(new(pick.Path, compiled.Text.Write(row, pick.Value), objection));
                else
                    read.Picks.Add(pick);
        return read;
    }
}
