using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Binds the columns and cells of combination grids.</summary>
internal sealed class GridBinder(BoundModel model)
{
    public void Bind(AssemblyDefinition assembly, CombinationGrid grid)
    {
        var keys = ImmutableArray.CreateBuilder<Bound>();
        var keyColumns = new List<(int Index, Bound Key, Unit Unit)>();
        var figures = ImmutableDictionary.CreateBuilder<string, ImmutableArray<Value>>();
        for (var i = 0; i < grid.Columns.Length; i++)
        {
            var column = grid.Columns[i];
            if (column.Reference.Length == 0)
                continue;
            if (model.BindField(assembly, grid, $"columns/{i}/reference", column.Reference, null) is not { } key)
                continue;
            if (key.Type.Kind == TypeKind.Text)
                model.Add(grid.Id, $"columns/{i}/reference", new(Fault.TextCannotBeReasoned, default, "A text cannot be a column of a grid."));
            keys.Add(key);
            keyColumns.Add((i, key, UnitOf(key, column)));
        }
        var rows = ImmutableArray.CreateBuilder<ImmutableArray<GridCell>>();
        var places = ImmutableArray.CreateBuilder<int>();
        var figureColumns = grid.Columns.Select((c, i) => (c, i)).Where(x => x.c.Reference.Length == 0).ToList();
        var figureValues = figureColumns.ToDictionary(x => x.c.Id, _ => ImmutableArray.CreateBuilder<Value>());
        var all = DrawnRows.Of(grid, model.Facts);
        // Large grids say the same over and over again.
        var known = new Dictionary<(int Column, bool IsDrawn, string Text), GridCell>();
        GridCell? Bound(int r, int column, ExpressionType type, Unit unit)
        {
            var text = column < all[r].Cells.Length ? all[r].Cells[column] : "";
            var key = (column, r >= grid.Rows.Length, text);
            if (!known.TryGetValue(key, out var cell) && (cell = BindCell(assembly, grid, r, column, text, type, unit)) is not null)
                known[key] = cell;
            return cell;
        }
        for (var r = 0; r < all.Length; r++)
        {
            string Cell(int i) => i < all[r].Cells.Length ? all[r].Cells[i] : "";
            var cells = keyColumns.Select(k => Bound(r, k.Index, k.Key.Type, k.Unit)).ToList();
            if (cells.Contains(null))
                continue;
            rows.Add([.. cells!]);
            places.Add(r);
            foreach (var (column, i) in figureColumns)
            {
                var cell = Cell(i).Length == 0 || Binder.FigureType(column) is not { } type ? Value.Nothing
                    : type.Kind == TypeKind.Text ? Value.OfText(DrawnRows.Unquoted(Cell(i)))
                    : Bound(r, i, type, Unit.TryParse(column.Unit) ?? Unit.One)?.Values.FirstOrDefault() ?? Value.Nothing;
                figureValues[column.Id].Add(cell);
            }
        }
        if (keys.Count == 0 && model.IsSound(grid))
            model.Add(grid.Id, "columns", new(Fault.MissingExpression, default, "A grid needs at least one column that names an attribute."));
        foreach (var (id, values) in figureValues)
            figures[id] = values.ToImmutable();
        model.Keep(grid, new(keys.ToImmutable(), rows.ToImmutable(), places.ToImmutable(), figures.ToImmutable()));
    }

    private Unit UnitOf(Bound key, GridColumn column)
    {
        var row = key is BoundAttribute a ? model.Index.Rows.GetValueOrDefault(RowPath.RowId(a.Path)) : null;
        var code = row switch { AttributeRow attribute => attribute.Unit, ComputedAttribute computed => computed.Unit, _ => column.Unit };
        return Unit.TryParse(code) is { } unit && unit.Dimension == key.Type.Dimension ? unit : Unit.ForDisplay(key.Type.Dimension);
    }

    /// <summary>The alternatives of a cell, which stand between strokes; one in quotes is part of a code.</summary>
    private static IEnumerable<string> Alternatives(string cell)
    {
        var (start, quoted) = (0, false);
        for (var i = 0; i < cell.Length; i++)
            if (cell[i] == '\'')
                quoted = !quoted;
            else if (cell[i] == '|' && !quoted)
            {
                yield return cell[start..i];
                start = i + 1;
            }
        yield return cell[start..];
    }

    private GridCell? BindCell(AssemblyDefinition assembly, CombinationGrid grid, int row, int column, string text, ExpressionType type, Unit unit)
    {
        if (text.Trim() is "" or "*")
            return GridCell.Wildcard;
        var values = ImmutableArray.CreateBuilder<Value>();
        var ranges = ImmutableArray.CreateBuilder<(Exact?, Exact?)>();
        foreach (var part in Alternatives(text))
        {
            var range = type.Kind == TypeKind.Number ? part.IndexOf("..", StringComparison.Ordinal) : -1;
            if (range >= 0)
            {
                var (low, high) = (Constant(part[..range]), Constant(part[(range + 2)..]));
                if (low is null || high is null)
                    return null;
                ranges.Add((low is { IsNothing: true } ? null : low.Value.Number, high is { IsNothing: true } ? null : high.Value.Number));
            }
            else if (string.IsNullOrWhiteSpace(part))
                return Faulty("A value is missing beside a stroke.", null);
            else if (Constant(part) is { } value)
                values.Add(value);
            else
                return null;
        }
        return new(false, values.ToImmutable(), ranges.ToImmutable());

        // Nothing for an empty end of a range, null for a fault.
        Value? Constant(string piece)
        {
            if (string.IsNullOrWhiteSpace(piece))
                return Value.Nothing;
            // A bare number stands in the column's unit; yes/no and codes as in expressions.
            if (type.Kind == TypeKind.Number && Exact.TryParse(piece, out var bare))
                return Value.Of(unit.ToBase(bare));
            // A cell of choices holds codes, so that one called “none” or “3” needs no quotes.
            if (type is { Kind: TypeKind.Choice, ListId: { } listId } && model.Index.Lists.TryGetValue(listId, out var list)
                && ModelIndex.ValueByCode(list, piece.Trim()) is { } called)
                return Value.Choice(called.Id);
            var parsed = Parser.Parse(piece.Trim());
            // What an item says is a code, however it is spelled.
            var expected = type.Kind == TypeKind.Choice && (parsed.Root is NumberSyntax || row >= grid.Rows.Length)
                ? Parser.Parse(Printer.Name(DrawnRows.Unquoted(piece))) : parsed;
            var result = Binder.Bind(expected, model.Index, assembly, model.TypeOf, type);
            if (result.Expression is BoundLiteral { Value: var value })
                return value;
            Faulty(result.Diagnostics.FirstOrDefault()?.Message ?? "A cell holds constants, not expressions.", result.Diagnostics.FirstOrDefault()?.Suggestion);
            return null;
        }

        GridCell? Faulty(string why, string? suggestion)
        {
            if (row < grid.Rows.Length)
                model.Add(grid.Id, $"rows/{row}/cells/{column}", new(Fault.BadCell, default, $"Row {row + 1}: {why}", suggestion));
            else
                model.Add(grid.Id, "drawnFrom", new(Fault.BadCell, default,
                    $"Item {DrawnRows.NameOf(grid, model.Facts, row)}, {grid.Columns[column].ItemProperty}: {why}"));
            return null;
        }
    }
}
