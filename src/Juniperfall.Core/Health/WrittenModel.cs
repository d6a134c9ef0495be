using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Reasoning.Networks;
using Juniperfall.Core.Wording;

namespace Juniperfall.Core.Health;

/// <summary>What can be told from how a model is written, without a search: what nothing uses, what was forgotten.</summary>
internal static class WrittenModel
{
    /// <summary>Grids with more combinations of their values than this are not looked through for gaps.</summary>
    private const int MostCombinations = 20_000;
    private const int ExamplesOfGaps = 3;

    public static IEnumerable<HealthFinding> Findings(BoundModel model, ModelWording words) =>
        [.. Unused(model, words), .. ValuesWithoutPart(model, words), .. ItemsMissing(model, words), .. Repeated(model), .. Gaps(model, words)];

    /// <summary>The ids of the rows that an expression reads.</summary>
    public static IEnumerable<string> RowsIn(Bound expression) => expression.All().SelectMany(part => part switch
    {
        BoundAttribute a => [RowPath.RowId(a.Path)],
        BoundIsNone n => [RowPath.RowId(n.Path)],
        BoundApplies { OfSubassembly: false } a => [RowPath.RowId(a.Path)],
        BoundGridFigure f => [f.GridId],
        _ => Array.Empty<string>(),
    });

    private static IEnumerable<HealthFinding> Unused(BoundModel model, ModelWording words)
    {
        var used = model.Expressions.SelectMany(RowsIn).ToHashSet();
        foreach (var row in model.Document.Assemblies.SelectMany(a => a.Rows).OfType<AttributeRow>()
            .Where(r => r.Kind != AttributeKind.Text && !used.Contains(r.Id) && model.IsSound(r)))
            yield return new(HealthKind.Unused, HealthWeight.Note, row.Id, [], $"{words.NameOf(row)} is asked, but nothing depends on it.", null, null);
        var lists = model.Document.Assemblies.SelectMany(a => a.Rows).OfType<AttributeRow>().Select(r => r.ListId).ToHashSet();
        foreach (var list in model.Document.Lists.Where(l => !lists.Contains(l.Id)))
            yield return new(HealthKind.Unused, HealthWeight.Note, list.Id, [], $"The value list “{list.Label.Or(list.Name)}” is used by no attribute.",
                null, null);
    }

    private static IEnumerable<(PartLine Line, Bound Expression)> PartExpressions(BoundModel model) =>
        from line in model.Document.Assemblies.SelectMany(a => a.Rows).OfType<PartLine>()
        from field in new[] { "appliesWhen", "quantity", "itemFrom" }
        where model.Expression(line.Id, field) is not null
        select (line, model.Expression(line.Id, field)!);

    /// <summary>Of a choice that part lines tell apart value by value: those values that none of them names.</summary>
    private static IEnumerable<HealthFinding> ValuesWithoutPart(BoundModel model, ModelWording words)
    {
        var named = new Dictionary<string, HashSet<string>>();
        var otherwise = new HashSet<string>();
        foreach (var (_, expression) in PartExpressions(model))
            Visit(expression);
        foreach (var (rowId, values) in named)
            if (!otherwise.Contains(rowId) && model.Index.Rows.GetValueOrDefault(rowId) is AttributeRow { ListId: { } listId } row
                && model.Index.Lists.TryGetValue(listId, out var list)
                && values.Count > 1 && values.Count * 2 >= list.Values.Length)
                foreach (var value in list.Values.Where(v => !values.Contains(v.Id)))
                    yield return new(HealthKind.ValueWithoutPart, HealthWeight.Note, row.Id, [value.Id],
                        $"No part line depends on {words.NameOf(row)}: {value.Label.Or(value.Code)}, though some do on its other values.", null, null);

        void Name(string path, string valueId)
        {
            var rowId = RowPath.RowId(path);
            if (!named.TryGetValue(rowId, out var values))
                named[rowId] = values = [];
            values.Add(valueId);
        }

        void Visit(Bound part)
        {
            switch (part)
            {
                case BoundBinary
                {
                    Operator: BinaryOperator.Equal, Left: BoundAttribute { Type.Kind: TypeKind.Choice } a,
                    Right: BoundLiteral { Value.Text: { } value }
                }:
                    Name(a.Path, value);
                    break;
                case BoundAttribute { Type.Kind: TypeKind.YesNo } member when RowPath.MemberId(member.Path) is { } value:
                    Name(member.Path, value);
                    break;
                case BoundAttribute other:
                    otherwise.Add(RowPath.RowId(other.Path));
                    break;
                default:
                    foreach (var child in part.Children)
                        Visit(child);
                    break;
            }
        }
    }

    private static IEnumerable<HealthFinding> ItemsMissing(BoundModel model, ModelWording words)
    {
        foreach (var line in model.Document.Assemblies.SelectMany(a => a.Rows).OfType<PartLine>())
            if (model.Expression(line.Id, "itemFrom") is BoundProperty { Choice: BoundAttribute choice } property)
                foreach (var value in model.Index.Lists[property.ListId].Values)
                {
                    var number = value.Properties.GetValueOrDefault(property.PropertyId, "");
                    if (model.Facts.Items.TryGetValue(number, out var fact) && fact.Active)
                        continue;
                    yield return new(HealthKind.ItemMissing, HealthWeight.Warning, line.Id, [value.Id], number.Length == 0
                        ? $"For {value.Label.Or(value.Code)} no item is given in {words.NameOf(line)}."
                        : $"For {value.Label.Or(value.Code)} the item “{number}” of {words.NameOf(line)} is "
                            + $"{(fact is null ? "not in the register" : "no longer active")}.", null, null);
                }
    }

    private const int MostNamed = 5;

    /// <summary>Rows whose cells are those of an earlier row: where the grid gives figures, only the first one's count.</summary>
    private static IEnumerable<HealthFinding> Repeated(BoundModel model)
    {
        foreach (var row in model.Document.Assemblies.SelectMany(a => a.Rows).OfType<CombinationGrid>())
        {
            if (model.Grid(row.Id) is not { } grid)
                continue;
            var first = new Dictionary<string, int>();
            var repeated = new List<(int Row, int Of)>();
            for (var r = 0; r < grid.Rows.Length; r++)
            {
                var key = string.Join('\n', grid.Rows[r]
                    .Select(c => c.Any ? "*" : string
                    .Join('|', c.Values.Select(v => v.ToString()).Concat(c.Ranges.Select(x => $"{x.Low}..{x.High}")).Order())));
                if (!first.TryAdd(key, r))
                    repeated.Add((grid.Places[r], grid.Places[first[key]]));
            }
            if (repeated.Count > 0)
            {
                var named = repeated.Take(MostNamed).Select(x => $"{DrawnRows.NameOf(row, model.Facts, x.Row)} as {DrawnRows.NameOf(row, model.Facts, x.Of)}");
                var (subject, more) = (repeated.Count == 1 ? "A row" : $"{repeated.Count} rows",
                    repeated.Count > MostNamed ? $" and {repeated.Count - MostNamed} more" : "");
                yield return new(HealthKind.GridRowRepeated, HealthWeight.Warning, row.Id, [.. repeated.Select(x => $"rows/{x.Row}")],
                    $"{subject} of “{row.Label.Or(row.Name)}” {(repeated.Count == 1 ? "says" : "say")} the same as an earlier one: "
                        + $"{string.Join("; ", named)}{more}.",
                    null, null);
            }
        }
    }

    private static IEnumerable<HealthFinding> Gaps(BoundModel model, ModelWording words)
    {
        foreach (var row in model.Document.Assemblies.SelectMany(a => a.Rows).OfType<CombinationGrid>())
        {
            if (model.Grid(row.Id) is not { } grid || grid.Keys.IsEmpty)
                continue;
            var columns = grid.Keys.Select(k => k.Type.Kind switch
            {
                TypeKind.YesNo => [Value.Of(false), Value.Of(true)],
                TypeKind.Choice => model.Index.Lists[k.Type.ListId!].Values.Select(v => Value.Choice(v.Id)).ToArray(),
                _ => [],
            }).ToList();
            if (columns.Exists(c => c.Length == 0) || columns.Aggregate(1L, (product, c) => Math.Min(product * c.Length, long.MaxValue / 1000)) is var all
                && all > MostCombinations || all * grid.Rows.Length > 20_000_000)
                continue;
            var gaps = new List<Value[]>();
            var combination = new Value[columns.Count];
            Fill(0);
            if (gaps.Count == 0 || gaps.Count * 2 > all)
                continue;
            string Text(Value[] gap) => string
                .Join(", ", gap.Select(v => v.Kind == ValueKind.YesNo ? v.IsTrue
                ? "yes" : "no" : model.Index.Values[v.Text!].Value.Label.Or(model.Index.Values[v.Text!].Value.Code)));
            yield return new(HealthKind.GridGap, HealthWeight.Note, row.Id, ["rows"],
                $"{gaps.Count} of {all} combinations have no row in “{row.Label.Or(row.Name)}”, such as "
                    + $"{string.Join("; ", gaps.Take(ExamplesOfGaps).Select(Text))}.", null, null);

            void Fill(int column)
            {
                if (column == combination.Length)
                {
                    if (!grid.Rows.Any(r => r.Zip(combination).All(x => x.First.Matches(x.Second))))
                        gaps.Add([.. combination]);
                    return;
                }
                foreach (var value in columns[column])
                {
                    combination[column] = value;
                    Fill(column + 1);
                }
            }
        }
    }
}
