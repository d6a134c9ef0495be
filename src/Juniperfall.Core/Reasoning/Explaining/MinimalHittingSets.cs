namespace Juniperfall.Core.Reasoning.Explaining;

/// <summary>
/// Hitting sets of conflicts, smallest first: the candidates for what to give up (Reiter, “A theory of diagnosis from first
/// principles”, 1987), found by branch and bound.
/// </summary>
internal static class MinimalHittingSets
{
    /// <summary>
    /// The next set of a size that hits every conflict and contains none of those found before; of several the one with the latest
    /// members. Null where there is none.
    /// </summary>
    public static HashSet<int>? Next(IReadOnlyList<HashSet<int>> conflicts, IReadOnlyList<HashSet<int>> found, int size)
    {
        int[] members = [.. conflicts.SelectMany(c => c).Distinct().OrderDescending()];
        var chosen = new List<int>();
        return Extend(0);

        HashSet<int>? Extend(int from)
        {
            if (found.Any(f => f.IsSubsetOf(chosen)))
                return null;
            if (chosen.Count == size)
                return conflicts.All(c => c.Overlaps(chosen)) ? [.. chosen] : null;
            if (!CanStillHit(from))
                return null;
            for (var i = from; i < members.Length; i++)
            {
                chosen.Add(members[i]);
                if (Extend(i + 1) is { } hit)
                    return hit;
                chosen.RemoveAt(chosen.Count - 1);
            }
            return null;
        }

        // Conflicts without a member in common need one each; those whose members were all passed over cannot be hit any more.
        bool CanStillHit(int from)
        {
            var (left, used) = (size - chosen.Count, new HashSet<int>());
            foreach (var conflict in conflicts.Where(c => !c.Overlaps(chosen)).OrderBy(c => c.Count))
            {
                if (from >= members.Length || !conflict.Any(m => m <= members[from]))
                    return false;
                if (used.Overlaps(conflict))
                    continue;
                if (left-- == 0)
                    return false;
                used.UnionWith(conflict);
            }
            return true;
        }
    }
}
