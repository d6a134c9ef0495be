using System.Diagnostics.CodeAnalysis;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Models.Binding;

/// <summary>
/// The order in which values can be worked out, through computed attributes, conditions and inputs, across assemblies, and those that
/// depend on themselves. By depth-first search over the instantiated paths, with a stack of its own, however long the chains are.
/// </summary>
internal sealed class Circles
{
    private const int MostNamed = 8;

    private readonly BoundModel _model;
    private readonly Dictionary<string, Occurrence> _byPrefix;
    private readonly Dictionary<string, Finding> _found = [];
    private readonly List<string> _order = [];

    /// <exception cref="OperationCanceledException">Cancelled.</exception>
    public Circles(BoundModel model, CancellationToken cancel)
    {
        _model = model;
        var occurrences = Occurrence.All(model).ToList();
        _byPrefix = occurrences.ToDictionary(o => o.Prefix);
        var done = new HashSet<string>();
        foreach (var occurrence in occurrences)
            foreach (var row in occurrence.Assembly.Rows)
            {
                cancel.ThrowIfCancellationRequested();
                Search(occurrence.Prefix + row.Id, done);
            }
    }

    /// <summary>A finding for each row that depends on itself.</summary>
    public IReadOnlyCollection<Finding> Findings => _found.Values;

    /// <summary>The paths of all rows, each after those that it depends on; of what depends on itself, in any order.</summary>
    public IReadOnlyList<string> Order => _order;

    private void Search(string start, HashSet<string> done)
    {
        if (done.Contains(start))
            return;
        var stack = new List<(string Path, IEnumerator<string> Open)>();
        var places = new Dictionary<string, int>();
        Enter(start);
        while (stack.Count > 0)
        {
            var (path, open) = stack[^1];
            if (!open.MoveNext())
            {
                stack.RemoveAt(stack.Count - 1);
                places.Remove(path);
                done.Add(path);
                _order.Add(path);
            }
            else if (places.TryGetValue(open.Current, out var again))
                Report([.. stack[again..].Select(s => s.Path)]);
            else if (!done.Contains(open.Current))
                Enter(open.Current);
        }

        void Enter(string path)
        {
            places[path] = stack.Count;
            stack.Add((path, Dependencies(path).GetEnumerator()));
        }
    }

    private void Report(string[] circle)
    {
        var sentence = Sentence([.. circle.Take(MostNamed + 1).Select(NameOf)], circle.Length);
        foreach (var member in circle)
        {
            var rowId = RowPath.RowId(member);
            var row = _model.Index.Rows.GetValueOrDefault(rowId);
            var field = row is ComputedAttribute ? "expression" : row is not Subassembly place ? "appliesWhen" : place.InstanceCount.Length > 0
                ? "instanceCount" : "inputs";
            _found.TryAdd(rowId, new(rowId, field, new(Fault.Circular, default, sentence)));
        }
    }

    /// <summary>Says who depends on whom; of a long circle the first are named.</summary>
    /// <param name="names">The first of them at least, one more than are named.</param>
    /// <param name="count">How many there are.</param>
    public static string Sentence(IReadOnlyList<string> names, int count) =>
        $"This depends on itself: {string.Join(" → ", names.Take(MostNamed))}{(count > MostNamed ? $" → {count - MostNamed} more" : "")} → {names[0]}.";

    private string NameOf(string path) => _model.Index.NameOf(RowPath.RowId(path)) ?? path;

    private bool Find(string path, string prefix, [NotNullWhen(true)] out Occurrence? occurrence, [NotNullWhen(true)] out Row? row)
    {
        row = null;
        return _byPrefix.TryGetValue(prefix, out occurrence) && _model.Index.Rows.TryGetValue(RowPath.RowId(path), out row);
    }

    private IEnumerable<string> Dependencies(string path)
    {
        var prefix = RowPath.Prefix(path);
        if (!Find(path, prefix, out var occurrence, out var row))
            yield break;
        foreach (var reference in Of(row, "appliesWhen", prefix).Concat(row is Subassembly ? Of(row, "instanceCount", prefix) : []))
            yield return reference;
        if (occurrence.Place is { } place && occurrence.Parent is { } parent)
        {
            yield return parent.Prefix + place.Id;
            if (row is AttributeRow { Input: true })
                foreach (var reference in _model.GivenTo(place, row) is { } given ? Of(place, given.Field, parent.Prefix) : [])
                    yield return reference;
        }
        if (row is ComputedAttribute)
            foreach (var reference in Of(row, "expression", prefix))
                yield return reference;
    }

    private IEnumerable<string> Of(Row row, string field, string prefix)
    {
        foreach (var part in _model.Expression(row.Id, field)?.All() ?? [])
            switch (part)
            {
                case BoundAttribute a: yield return prefix + RowPath.OfRow(a.Path); break;
                case BoundIsNone n: yield return prefix + n.Path; break;
                case BoundApplies { OfSubassembly: true } s: yield return prefix + RowPath.SplitInstance(s.Path).Subassembly; break;
                case BoundApplies a: yield return prefix + a.Path; break;
                case BoundGridFigure figure:
                    foreach (var key in _model.Grid(figure.GridId)?.Keys ?? [])
                        foreach (var inner in key.All().OfType<BoundAttribute>())
                            yield return prefix + RowPath.OfRow(inner.Path);
                    break;
            }
    }
}
