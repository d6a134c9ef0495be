using Juniperfall.Core.Language;

namespace Juniperfall.Core.Models;

/// <summary>
/// Finds values that depend on themselves, through computed attributes, conditions and inputs, across assemblies.
/// Works on the instantiated paths, by depth-first search with the path in hand so that the circle can be named.
/// </summary>
internal static class Circles
{
    public static IEnumerable<Finding> Find(BoundModel model)
    {
        var occurrences = Occurrence.All(model).ToList();
        var byPrefix = occurrences.ToDictionary(o => o.Prefix);
        var done = new HashSet<string>();
        var stack = new List<string>();
        var found = new Dictionary<string, Finding>();
        foreach (var occurrence in occurrences)
            foreach (var row in occurrence.Assembly.Rows)
                Visit(occurrence.Prefix + row.Id);
        return found.Values;

        void Visit(string path)
        {
            if (done.Contains(path))
                return;
            var again = stack.IndexOf(path);
            if (again >= 0)
            {
                var circle = stack[again..].Append(path).Select(NameOf).ToList();
                foreach (var member in stack[again..])
                {
                    var rowId = RowPath.RowId(member);
                    var row = model.Index.Rows[rowId];
                    var field = row is ComputedAttribute ? "expression" : row is not Subassembly place ? "appliesWhen" : place.InstanceCount.Length > 0 ? "instanceCount" : "inputs";
                    found.TryAdd(rowId, new(rowId, field, new(Fault.Circular, default, $"This depends on itself: {string.Join(" → ", circle)}.")));
                }
                return;
            }
            stack.Add(path);
            foreach (var next in Dependencies(path))
                Visit(next);
            stack.RemoveAt(stack.Count - 1);
            done.Add(path);
        }

        string NameOf(string path) => model.Index.NameOf(RowPath.RowId(path)) ?? path;

        IEnumerable<string> Dependencies(string path)
        {
            var prefix = RowPath.Prefix(path);
            if (!byPrefix.TryGetValue(prefix, out var occurrence) || !model.Index.Rows.TryGetValue(RowPath.RowId(path), out var row))
                yield break;
            foreach (var reference in Of(row, "appliesWhen", prefix).Concat(row is Subassembly ? Of(row, "instanceCount", prefix) : []))
                yield return reference;
            if (occurrence.Place is { } place && occurrence.Parent is { } parent)
            {
                yield return parent.Prefix + place.Id;
                if (row is AttributeRow { Input: true })
                    foreach (var reference in model.GivenTo(place, row) is { } given ? Of(place, given.Field, parent.Prefix) : [])
                        yield return reference;
            }
            if (row is ComputedAttribute)
                foreach (var reference in Of(row, "expression", prefix))
                    yield return reference;
        }

        IEnumerable<string> Of(Row row, string field, string prefix)
        {
            foreach (var part in model.Expression(row.Id, field)?.All() ?? [])
                switch (part)
                {
                    case BoundAttribute a: yield return prefix + RowPath.OfRow(a.Path); break;
                    case BoundIsNone n: yield return prefix + n.Path; break;
                    case BoundApplies { OfSubassembly: true } s: yield return prefix + RowPath.SplitInstance(s.Path).Subassembly; break;
                    case BoundApplies a: yield return prefix + a.Path; break;
                    case BoundGridFigure figure:
                        foreach (var key in model.Grid(figure.GridId)?.Keys ?? [])
                            foreach (var inner in key.All().OfType<BoundAttribute>())
                                yield return prefix + RowPath.OfRow(inner.Path);
                        break;
                }
        }
    }
}
