using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.Json;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Editing;

/// <summary>Why a place that names an item is left as it is.</summary>
public enum LeftBecause
{
    /// <summary>The other item is kept in another unit, and no conversion of either leads there.</summary>
    NoConversion,

    /// <summary>An exchange from a day needs two rows, one up to it and one from it on; this has no days of its own.</summary>
    HasNoDays,

    /// <summary>It is what a place is made as, with a structure of its own below it.</summary>
    IsMadeHere,

    /// <summary>The line belongs to the other item's own structure: it would contain itself.</summary>
    WouldContainItself,
}

/// <summary>A place where an item is exchanged.</summary>
/// <param name="RowId">The row, list value or grid row.</param>
/// <param name="Field">Its member, as in an edit.</param>
/// <param name="From">The first day of the new row beside it; null where the place itself is changed.</param>
public sealed record ExchangedPlace(string RowId, string Field, string Before, string After, DateOnly? From = null);

/// <summary>A place that names the item and is left as it is.</summary>
public sealed record LeftPlace(string RowId, string Field, LeftBecause Because);

/// <summary>
/// An item replaced by another one wherever a model names it: on lines, as a substitute, in lists and grids, and in expressions; as steps of an edit.
/// Quantities are carried over by the conversions of the two items. What the model reuses of other products is exchanged in these.
/// </summary>
public sealed record ItemExchange(ImmutableArray<EditStep> Steps, ImmutableArray<ExchangedPlace> Places, ImmutableArray<LeftPlace> Left)
{
    /// <param name="from">The item that is to go.</param>
    /// <param name="to">The item that takes its place; both are in the register.</param>
    /// <param name="day">The first day on which the other one is used; null for always.</param>
    /// <param name="newId">Makes an id that nothing has.</param>
    public static ItemExchange Of(BoundModel model, string from, string to, DateOnly? day, Func<string> newId)
    {
        var work = new Work(model, model.Facts.Items[from], model.Facts.Items[to], day, newId);
        foreach (var assembly in model.Document.Assemblies)
            foreach (var topic in assembly.Topics)
                foreach (var row in topic.Rows)
                    work.Row(assembly, topic, row);
        foreach (var list in model.Document.Lists)
            foreach (var value in list.Values)
                foreach (var column in list.Properties.Where(p => p.Type == PropertyType.Text && value.Properties.GetValueOrDefault(p.Id) == from))
                    work.Set(value.Id, $"properties/{column.Id}", from, to);
        return new([.. work.Steps], [.. work.Places], [.. work.Left]);
    }

    private sealed class Work(BoundModel model, ItemFact from, ItemFact to, DateOnly? day, Func<string> newId)
    {
        private const string Substitutes = "substitutes", Quantities = "quantity";
        private readonly Dictionary<string, HashSet<string>> _madeUnder = [];

        public List<EditStep> Steps { get; } = [];
        public List<ExchangedPlace> Places { get; } = [];
        public List<LeftPlace> Left { get; } = [];

        /// <summary>Changes a place that has no days of its own.</summary>
        public void Set(string rowId, string field, string before, string after)
        {
            if (day is not null)
                Left.Add(new(rowId, field, LeftBecause.HasNoDays));
            else
                Change(rowId, field, before, after);
        }

        private void Change(string rowId, string field, string before, string after)
        {
            Steps.Add(new SetField(rowId, field, after, before));
            Places.Add(new(rowId, field, before, after));
        }

        public void Row(AssemblyDefinition assembly, Topic topic, Row row)
        {
            switch (row)
            {
                case PartLine part:
                    Line(assembly, topic, part);
                    break;
                case Subassembly place when place.Item == from.Number:
                    Left.Add(new(place.Id, "item", LeftBecause.IsMadeHere));
                    break;
                case CombinationGrid grid:
                    Grid(grid);
                    break;
            }
            foreach (var (_, path, text) in RowKinds.Of(row).ExpressionsOf(row))
                if (Renamed(text) is { } renamed && !Places.Exists(p => p.RowId == row.Id && p.Field == path))
                    Set(row.Id, path, text, renamed);
        }

        private void Line(AssemblyDefinition assembly, Topic topic, PartLine part)
        {
            if (part.SubstituteItems.Contains(from.Number))
                Set(part.Id, Substitutes, part.Substitutes, string.Join(", ", part.SubstituteItems.Select(s => s == from.Number ? to.Number : s)
                    .Where(s => s != (part.Item == from.Number ? to.Number : part.Item)).Distinct()));
            if (part.Item != from.Number || (day is not null && part.To < day))
                return;
            if (MadeUnder(assembly).Contains(to.Number))
            {
                Left.Add(new(part.Id, "item", LeftBecause.WouldContainItself));
                return;
            }
            if (Quantity(assembly, part) is not { } quantity)
            {
                Left.Add(new(part.Id, "item", LeftBecause.NoConversion));
                return;
            }
            var isOfAnotherUnit = OwnUnit(from) != OwnUnit(to);
            var after = part with
            {
                Item = to.Number,
                Quantity = quantity,
                // What is rounded up to is said in the unit of the item.
                Step = isOfAnotherUnit ? "" : part.Step,
            };
            if (day is { } first && (part.From is null || part.From < first))
            {
                Steps.Add(new SetField(part.Id, "to", Day(first.AddDays(-1)), part.To is { } last ? Day(last) : null));
                Steps.Add(new AddRow(topic.Id, "rows", part.Id, JsonSerializer.SerializeToNode<Row>(after with
                {
                    Id = newId(),
                    From = first,
                    Figures = [.. part.Figures.Select(f => f with { Id = newId() })],
                }, DocumentJson.Options)!.AsObject()));
                Places.Add(new(part.Id, "item", from.Number, to.Number, first));
                if (quantity != part.Quantity)
                    Places.Add(new(part.Id, Quantities, part.Quantity, quantity, first));
                return;
            }
            Change(part.Id, "item", from.Number, to.Number);
            if (quantity != part.Quantity)
                Change(part.Id, Quantities, part.Quantity, quantity);
            if (after.Step != part.Step)
                Change(part.Id, "step", part.Step, "");
        }

        private static JsonNode Day(DateOnly day) => JsonSerializer.SerializeToNode(day, DocumentJson.Options)!;

        private static Unit OwnUnit(ItemFact item) => Unit.TryParse(item.Unit) ?? Unit.One;

        /// <summary>The quantity of a line as the other item takes it; null where no conversion leads there.</summary>
        private string? Quantity(AssemblyDefinition assembly, PartLine part)
        {
            // What is faulty already says so by itself.
            if (model.Expression(part.Id, Quantities) is not { } bound || to.InOwnUnit(Exact.One, bound.Type.Dimension) is not null)
                return part.Quantity;
            return Factors(bound.Type.Dimension).Select(factor => $"({part.Quantity}) {factor}")
                .FirstOrDefault(text => model.Check(assembly, text, null).Expression is { } taken && to.InOwnUnit(Exact.One, taken.Type.Dimension) is not null);
        }

        /// <summary>What a quantity of one dimension is multiplied by to be one of the old item's unit, then of a unit that the new one is told in.</summary>
        private IEnumerable<string> Factors(Dimension dimension)
        {
            var own = OwnUnit(from).Dimension;
            var toOwn = own == dimension ? own == Dimension.None ? "" : $"/ (1 {from.Unit})"
                : from.Conversions.Where(c => Unit.TryParse(c.Key)?.Dimension == dimension).Select(c => $"/ ({c.Value} {c.Key})").FirstOrDefault();
            if (toOwn is null)
                yield break;
            yield return toOwn;
            foreach (var (unit, each) in from.Conversions)
                yield return $"{toOwn} * {each} {unit}".TrimStart();
        }

        private void Grid(CombinationGrid grid)
        {
            for (var i = 0; i < grid.Columns.Length; i++)
                if (grid.Columns[i] is { Reference.Length: 0, Type: PropertyType.Text })
                    foreach (var row in grid.Rows.Where(r => i < r.Cells.Length && DrawnRows.Unquoted(r.Cells[i]) == from.Number))
                        Set(row.Id, $"cells/{i}", row.Cells[i], row.Cells[i].Replace(from.Number, to.Number, StringComparison.Ordinal));
        }

        /// <summary>An expression with the one item written for the other; null where it does not name it.</summary>
        private string? Renamed(string text)
        {
            if (!text.Contains(from.Number, StringComparison.Ordinal))
                return null;
            var places = Lexer.Read(text, []).Where(t => t.Kind == TokenKind.Text && t.Text == from.Number).Select(t => t.Span).ToList();
            if (places.Count == 0)
                return null;
            foreach (var place in places.OrderByDescending(p => p.Start))
                text = string.Concat(text.AsSpan(0, place.Start), $"\"{to.Number.Replace("\"", "\"\"", StringComparison.Ordinal)}\"", text.AsSpan(place.End));
            return text;
        }

        /// <summary>The items in whose structures the lines of an assembly stand.</summary>
        private HashSet<string> MadeUnder(AssemblyDefinition assembly)
        {
            if (_madeUnder.TryGetValue(assembly.Id, out var known))
                return known;
            var made = _madeUnder[assembly.Id] = [];
            if (assembly.Id == model.Document.Root)
                made.Add(model.Document.Code);
            foreach (var above in model.Document.AllAssemblies)
                foreach (var place in above.Rows.OfType<Subassembly>().Where(s => s.AssemblyId == assembly.Id))
                {
                    if (place.Make == SubassemblyKind.OwnItem && place.Item.Length > 0)
                        made.Add(place.Item);
                    made.UnionWith(MadeUnder(above));
                }
            return made;
        }
    }
}
