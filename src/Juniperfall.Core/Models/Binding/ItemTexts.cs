using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>The item numbers, or other texts of a library, that an expression can come to.</summary>
public static class ItemTexts
{
    /// <summary>All texts that an expression can come to, of those that are looked up.</summary>
    /// <param name="facts">The library as the expression reads it; null for that of the model.</param>
    public static IEnumerable<string> Of(ModelIndex index, Bound text, Func<IInEffect, bool>? holds = null, LibraryFacts? facts = null) => text switch
    {
        BoundLiteral { Value: { Kind: ValueKind.Text, Text: { } written } } => [written],
        BoundIf choice => Of(index, choice.Then, holds, facts).Concat(Of(index, choice.Else, holds, facts)),
        BoundProperty property => index.Lists[property.ListId].Values.Where(v => holds?.Invoke(v) ?? true)
            .Select(v => v.Properties.GetValueOrDefault(property.PropertyId, "")),
        BoundGridFigure figure when index.Rows.GetValueOrDefault(figure.GridId) is CombinationGrid grid
            && grid.Columns.ToList().FindIndex(c => c.Id == figure.ColumnId) is >= 0 and var at =>
            DrawnRows.Of(grid, index.Facts).Select(r => at < r.Cells.Length ? DrawnRows.Unquoted(r.Cells[at]) : ""),
        BoundItemProperty of => Of(index, of.Item, holds, facts)
            .Select(i => (facts ?? index.Facts).Items.GetValueOrDefault(i)?.PropertyOf(of.Property) ?? ""),
        _ => [],
    };
}
