using System.Collections.Immutable;

namespace Juniperfall.Core.Reasoning.Symmetry;

/// <summary>Which instances are to be there or not, and which are to be alike, so that they share their attributes.</summary>
/// <param name="Same">The prefix of an instance, and that of an earlier one that it is alike to.</param>
internal sealed record Alike(ImmutableArray<(string Prefix, bool IsThere)> There, ImmutableArray<(string Prefix, string As)> Same)
{
    /// <summary>The path whose value another one has too; null where it has its own.</summary>
    public string? SameAs(string path)
    {
        foreach (var (prefix, other) in Same)
            if (path.StartsWith(prefix, StringComparison.Ordinal))
                return string.Concat(other, path.AsSpan(prefix.Length));
        return null;
    }

    public Alike And(Alike other) => new(There.AddRange(other.There), Same.AddRange(other.Same));
}
