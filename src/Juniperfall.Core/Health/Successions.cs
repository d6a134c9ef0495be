using System.Collections.Immutable;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Health;

/// <summary>What is wrong between things that take turns.</summary>
public enum SuccessionKind
{
    /// <summary>There are days between them on which none holds.</summary>
    Gap,

    /// <summary>There are days on which both hold.</summary>
    Overlap,
}

/// <summary>Days of a gap or an overlap, both included.</summary>
/// <param name="Id">The line before; of values the list.</param>
/// <param name="NextId">The line after; of values, the same list.</param>
/// <param name="To">Null where it goes on.</param>
public sealed record Succession(SuccessionKind Kind, string Id, string NextId, DateOnly From, DateOnly? To);

/// <summary>
/// Lines that take turns over time, and the values of lists: days on which none of them holds, or two do. Lines take turns where they stand one behind
/// the other under the same condition, the one until a day and the other from a day.
/// </summary>
public static class Successions
{
    public static IEnumerable<Succession> Of(ModelDocument document) =>
        document.Assemblies.SelectMany(a => a.Topics).SelectMany(OfLines).Concat(document.Lists.SelectMany(OfValues));

    private static IEnumerable<Succession> OfLines(Topic topic)
    {
        for (var i = 0; i + 1 < topic.Rows.Length; i++)
        {
            var (one, next) = (topic.Rows[i], topic.Rows[i + 1]);
            if (one.To is not { } to || next.From is not { } from || one.GetType() != next.GetType() || one is not (PartLine or OperationLine)
                || one.AppliesWhen != next.AppliesWhen || !MeetSomewhere(one, next))
                continue;
            if (from <= to)
                yield return new(SuccessionKind.Overlap, one.Id, next.Id, from, next.To < to ? next.To : to);
            else if (from > to.AddDays(1))
                yield return new(SuccessionKind.Gap, one.Id, next.Id, to.AddDays(1), from.AddDays(-1));
        }
    }

    private static bool MeetSomewhere(Row one, Row other) => one.Sites.IsDefaultOrEmpty || other.Sites.IsDefaultOrEmpty
        || one.Sites.Intersect(other.Sites, StringComparer.OrdinalIgnoreCase).Any();

    /// <summary>Days on which no value of a list holds at any site.</summary>
    private static IEnumerable<Succession> OfValues(ValueList list)
    {
        if (list.Values.IsEmpty)
            yield break;
        // The first day after all that have held so far; null once one holds for good.
        DateOnly? free = DateOnly.MinValue;
        foreach (var value in list.Values.OrderBy(v => v.From ?? DateOnly.MinValue))
        {
            if (free is not { } day)
                yield break;
            var from = value.From ?? DateOnly.MinValue;
            if (from > day && day > DateOnly.MinValue)
                yield return new(SuccessionKind.Gap, list.Id, list.Id, day, from.AddDays(-1));
            var after = value.To is not { } to || to == DateOnly.MaxValue ? (DateOnly?)null : to.AddDays(1);
            free = after is null ? null : after > day ? after : day;
        }
        if (free is { } rest)
            yield return new(SuccessionKind.Gap, list.Id, list.Id, rest, null);
    }
}
