using System.Collections.Immutable;

namespace Juniperfall.Core.Models.Document;

/// <summary>What holds only between two dates (both included) and at some sites; all sites where none is named.</summary>
public interface IInEffect
{
    DateOnly? From { get; }
    DateOnly? To { get; }
    ImmutableArray<string> Sites { get; }

    /// <summary>Why it is not to be had on the days that are asked for, though it holds then; null where it is.</summary>
    string? PausedBecause => null;
}

/// <summary>Where and when a question is asked for.</summary>
/// <param name="Site">The code of a site; null where everything holds that holds at any site.</param>
/// <param name="Date">The day; null where everything holds that holds on any day.</param>
public readonly record struct Effectivity(string? Site, DateOnly? Date)
{
    /// <summary>No site and no day in particular.</summary>
    public static readonly Effectivity Any;

    /// <summary>Whether a row or value is in effect here. Case does not matter in site codes.</summary>
    public bool Includes(IInEffect row) => IncludesSite(row) && IncludesDate(row);

    /// <summary>Whether it is in effect as far as the site goes.</summary>
    public bool IncludesSite(IInEffect row) => Site is null || row.Sites.IsDefaultOrEmpty || row.Sites.Contains(Site, StringComparer.OrdinalIgnoreCase);

    /// <summary>Whether it is in effect as far as the day goes.</summary>
    public bool IncludesDate(IInEffect row) =>
        row.PausedBecause is null && (Date is null || ((row.From is null || row.From <= Date) && (row.To is null || Date <= row.To)));
}

/// <summary>The sites and periods that make a difference to a model: what is worked out for one day holds for its whole period.</summary>
public sealed class Effectivities
{
    private readonly DateOnly[] _firstDays;
    private readonly bool _sitesMatter;

    /// <param name="document">The model.</param>
    /// <param name="costsDependOnSite">Whether the library around it knows other costs at other sites.</param>
    public Effectivities(ModelDocument document, bool costsDependOnSite)
    {
        List<IInEffect> all = [.. document.AllAssemblies.SelectMany(a => a.Rows), .. document.AllLists.SelectMany(l => l.Values)];
        _firstDays = [.. all.SelectMany(FirstDays).Distinct().Order()];
        _sitesMatter = costsDependOnSite || all.Exists(r => !r.Sites.IsDefaultOrEmpty);
    }

    private static IEnumerable<DateOnly> FirstDays(IInEffect row)
    {
        if (row.From is { } from)
            yield return from;
        if (row.To is { } to && to < DateOnly.MaxValue)
            yield return to.AddDays(1);
    }

    /// <summary>The one among all that hold alike which stands for them: no site or day where it makes no difference, otherwise the first day of the
    /// period.</summary>
    public Effectivity Representative(Effectivity at) =>
        new(_sitesMatter ? at.Site?.ToUpperInvariant() : null, at.Date is { } day && _firstDays.Length > 0 ? FirstDayOf(day) : null);

    private DateOnly FirstDayOf(DateOnly day) => Array.BinarySearch(_firstDays, day) is var i
        && i >= 0 ? day : ~i == 0 ? DateOnly.MinValue : _firstDays[~i - 1];
}
