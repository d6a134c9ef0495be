using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;
using Juniperfall.Core.Structures.Formulas;

namespace Juniperfall.Core.Structures;

public enum Severity
{
    /// <summary>It is shown; what is generated can still be built.</summary>
    Warning,

    /// <summary>It stands against generating.</summary>
    Error,
}

/// <summary>Where something that is missing is mended.</summary>
public enum MendedIn { Model, Item, WorkCentre, Site }

/// <summary>Something that a structure needs and that is not there.</summary>
/// <param name="Code">The item, work centre or site that it is about; empty where the row alone is.</param>
/// <param name="RowId">The row that needs it.</param>
public sealed record BuildableFinding(Severity Severity, string RowId, string Prefix, MendedIn MendedIn, string Code, string Message);

/// <summary>
/// Whether everything that a structure needs is there at a site on a day: items active and kept there, with a store and a cost, in a
/// unit that the line can be turned into; work centres there; an operation for every part; a routing for every made item.
/// </summary>
/// <param name="at">The site and day; without a site, what hangs on one is not asked.</param>
public sealed class BuildableCheck(BoundModel model, Effectivity at)
{
    private readonly List<BuildableFinding> _findings = [];
    private LibraryFacts Facts => model.Facts;

    /// <summary>One structure as it was generated.</summary>
    public static IReadOnlyList<BuildableFinding> Of(BoundModel model, Structure structure, Effectivity at)
    {
        var check = new BuildableCheck(model, at);
        check.Structure(structure, model.Index.Root is { } root ? root.Id : "", "");
        return check.Distinct();
    }

    /// <summary>Every line that can appear in some configuration.</summary>
    /// <param name="canAppear">Whether a row can; those that cannot are left out.</param>
    public static IReadOnlyList<BuildableFinding> Of(BoundModel model, Effectivity at, Func<Occurrence, Row, bool> canAppear)
    {
        var check = new BuildableCheck(model, at);
        foreach (var occurrence in Occurrence.All(model))
        {
            check._site = check.SiteOf(occurrence);
            foreach (var row in occurrence.Assembly.Rows.Where(r => model.IsSound(r) && at.Includes(r) && canAppear(occurrence, r)))
                switch (row)
                {
                    case PartLine part:
                        check.Line(occurrence, part, canAppear);
                        break;
                    case OperationLine operation:
                        foreach (var code in check.Texts(operation.WorkCentre, operation.Id, "workCentreFrom"))
                            check.WorkCentre(code, row.Id, occurrence.Prefix);
                        break;
                    case Subassembly { Make: SubassemblyKind.OwnItem } place:
                        check.OwnItem(occurrence, place, canAppear);
                        break;
                }
        }
        if (model.Index.Root is { } product && !product.Rows.Any(r => r is OperationLine && model.IsSound(r))
            && !product.Rows.OfType<Subassembly>().Any(s => s.Make == SubassemblyKind.Phantom))
            check.Add(Severity.Error, "", "", MendedIn.Model, "", $"“{product.Label.Or(product.Name)}” is made, but has no operation.");
        foreach (var row in model.Document.AllAssemblies.SelectMany(a => a.Rows)
            .Where(r => r is PartLine or OperationLine && r.From is { } from && r.To is { } to && from > to))
            check.Add(Severity.Error, row.Id, "", MendedIn.Model, "", "Its first day is after its last.");
        check.Gaps();
        return check.Distinct();
    }

    private List<BuildableFinding> Distinct() => [.. _findings.DistinctBy(f => (f.RowId, f.Code, f.Message)).OrderByDescending(f => f.Severity)];

    private void Add(Severity severity, string rowId, string prefix, MendedIn mendedIn, string code, string message) =>
        _findings.Add(new(severity, rowId, prefix, mendedIn, code, message));

    /// <summary>Where the made item at work is made.</summary>
    private string? _site = at.Site;

    private string SiteName => Facts.SiteAt(_site)?.Label.Or(_site!) ?? _site ?? "";

    private string? SiteOf(Occurrence occurrence) => occurrence is { Parent: { } parent, Place: { } place } ? SiteOfPlace.Of(place, SiteOf(parent)) : at.Site;

    private void Structure(Structure structure, string rowId, string prefix)
    {
        var above = _site;
        _site = structure.Site;
        if (structure.Routing.IsEmpty)
            Add(Severity.Error, rowId, prefix, MendedIn.Model, "", $"{structure.Item} is made, but has no operation in this configuration.");
        foreach (var line in structure.Bom)
        {
            if (line.Below is { } below)
                Structure(below, line.RowId, line.Prefix);
            else
                Item(line.Item, line.RowId, line.Prefix, line.Store);
            if (line.Net.Sign < 0)
                Add(Severity.Error, line.RowId, line.Prefix, MendedIn.Model, "", $"The quantity of {line.Item} is negative.");
            if (line.Operation is { } consumer && structure.Routing.All(o => o.Sequence != consumer))
                Add(Severity.Error, line.RowId, line.Prefix, MendedIn.Model, "",
                    $"{line.Item} is consumed at operation {consumer}, which is not on the routing.");
        }
        foreach (var operation in structure.Routing)
            WorkCentre(operation.WorkCentre, operation.RowId, operation.Prefix);
        _site = above;
    }

    private void Line(Occurrence occurrence, PartLine part, Func<Occurrence, Row, bool> canAppear)
    {
        var dimension = model.Expression(part.Id, "quantity")?.Type.Dimension ?? Dimension.None;
        foreach (var number in Texts(part.Item, part.Id, "itemFrom"))
        {
            Item(number, part.Id, occurrence.Prefix, part.Store);
            if (Facts.Items.TryGetValue(number, out var item) && item.InOwnUnit(Exact.One, dimension) is null)
                Add(Severity.Error, part.Id, occurrence.Prefix, MendedIn.Item, number,
                    $"{number} is kept in {(item.Unit.Length == 0 ? "pieces" : item.Unit)} and has no conversion from {dimension.Describe()}.");
        }
        Consumer(occurrence, part, part.OperationId, canAppear);
        foreach (var substitute in part.SubstituteItems.Where(s => Facts.Items.GetValueOrDefault(s) is { Active: false }))
            Add(Severity.Warning, part.Id, occurrence.Prefix, MendedIn.Item, substitute, $"The substitute {substitute} is no longer active.");
    }

    private void Consumer(Occurrence occurrence, Row row, string? operationId, Func<Occurrence, Row, bool> canAppear)
    {
        if (operationId is { Length: > 0 } id
            && (model.Index.Rows.GetValueOrDefault(id) is not OperationLine consumer || !model.IsSound(consumer) || !at.Includes(consumer)
            || !canAppear(occurrence, consumer)))
            Add(Severity.Error, row.Id, occurrence.Prefix, MendedIn.Model, "", "The operation that consumes it can never be there.");
    }

    private void OwnItem(Occurrence occurrence, Subassembly place, Func<Occurrence, Row, bool> canAppear)
    {
        Consumer(occurrence, place, place.OperationId, canAppear);
        if (place.Item.Length == 0)
            Add(Severity.Warning, place.Id, occurrence.Prefix, MendedIn.Model, "", $"“{place.Label.Or(place.Name)}” is an item of its own without a number.");
        else
        {
            var above = _site;
            _site = SiteOfPlace.Of(place, _site);
            Item(place.Item, place.Id, occurrence.Prefix, "", isMadeHere: true);
            _site = above;
        }
        foreach (var below in Occurrence.All(model).Where(o => o.Place == place && o.Parent?.Prefix == occurrence.Prefix).Take(1))
            if (!below.Assembly.Rows.Any(r => r is OperationLine or Subassembly { Make: SubassemblyKind.Phantom } && canAppear(below, r)))
                Add(Severity.Error, place.Id, occurrence.Prefix, MendedIn.Model, "",
                    $"“{below.Assembly.Label.Or(below.Assembly.Name)}” is made, but has no operation.");
    }

    private void Item(string number, string rowId, string prefix, string store, bool isMadeHere = false)
    {
        if (!Facts.Items.TryGetValue(number, out var item))
        {
            Add(Severity.Error, rowId, prefix, MendedIn.Model, "",
                number.Length == 0 ? "A value that can be picked has no item number for this line." : $"There is no item “{number}” in the register.");
            return;
        }
        if (!item.Active)
            Add(Severity.Error, rowId, prefix, MendedIn.Item, number, $"{number} is no longer active.");
        if (_site is { } site)
        {
            var kept = item.Stores.Where(s => s.Key.Equals(site, StringComparison.OrdinalIgnoreCase)).Select(s => s.Value).FirstOrDefault();
            if (kept is null && item.Kind != "service")
                Add(isMadeHere ? Severity.Warning : Severity.Error, rowId, prefix, MendedIn.Item, number, $"{number} is not kept at {SiteName}.");
            var from = store.Length > 0 ? store : kept;
            if (kept is { Length: 0 } && store.Length == 0)
                Add(Severity.Error, rowId, prefix, MendedIn.Item, number, $"{number} has no default store at {SiteName}.");
            else if (from is { Length: > 0 } && Facts.SiteAt(site) is { Stores.IsDefaultOrEmpty: false } there
                && !there.Stores.Contains(from, StringComparer.OrdinalIgnoreCase))
                Add(Severity.Error, rowId, prefix, store.Length > 0 ? MendedIn.Model : MendedIn.Item, number, $"There is no store “{from}” at {SiteName}.");
        }
        if (!isMadeHere && item.CostAt(_site).Sign <= 0)
            Add(Severity.Warning, rowId, prefix, MendedIn.Item, number, $"{number} has no cost{(_site is null ? "" : $" at {SiteName}")}.");
    }

    private void WorkCentre(string code, string rowId, string prefix)
    {
        if (!Facts.WorkCentres.TryGetValue(code, out var centre))
            Add(Severity.Error, rowId, prefix, MendedIn.Model, "",
                code.Length == 0 ? "A value that can be picked has no work centre for this operation." : $"There is no work centre “{code}”.");
        else if (_site is { } site && centre.Site.Length > 0 && !centre.Site.Equals(site, StringComparison.OrdinalIgnoreCase))
            Add(Severity.Warning, rowId, prefix, MendedIn.WorkCentre, code,
                $"{centre.Label.Or(code)} stands at {Facts.SiteAt(centre.Site)?.Label.Or(centre.Site) ?? centre.Site}, not at {SiteName}.");
    }

    /// <summary>Lines that answer the same question and hold at different times: days on which none of them does.</summary>
    private void Gaps()
    {
        foreach (var assembly in model.Document.AllAssemblies)
            foreach (var (question, rows) in ExclusiveGroups.Of(assembly, model.IsSound))
            {
                // Only where the days alone tell them apart.
                if (rows.Any(r => r.AppliesWhen.Length > 0) || rows.All(r => r.From is null && r.To is null))
                    continue;
                var inOrder = rows.OrderBy(r => r.From ?? DateOnly.MinValue).ToList();
                for (var (i, until) = (0, inOrder[0].To); i + 1 < inOrder.Count; i++)
                {
                    var next = inOrder[i + 1].From ?? DateOnly.MinValue;
                    if (until is { } last && last < DateOnly.MaxValue && last.AddDays(1) < next)
                        Add(Severity.Error, inOrder[i + 1].Id, "", MendedIn.Model, "",
                            $"From {last.AddDays(1):yyyy-MM-dd} to {next.AddDays(-1):yyyy-MM-dd} no line answers “{question}”.");
                    until = until is null || inOrder[i + 1].To is null ? null : inOrder[i + 1].To > until ? inOrder[i + 1].To : until;
                }
            }
    }

    /// <summary>The texts that a field can come to: the fixed one, or all that its expression can give.</summary>
    private IEnumerable<string> Texts(string fixedText, string rowId, string field) =>
        model.Expression(rowId, field) is { } from
            ? ItemTexts.Of(model.Index, from, at.Includes, model.Index.FactsOf(model.Index.AssemblyOfRow[rowId])).Distinct() : [fixedText];
}
