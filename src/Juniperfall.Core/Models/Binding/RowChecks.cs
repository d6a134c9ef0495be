using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Checks of rows and lists that need no expression: names, bounds, steps, lists, items, dates.</summary>
internal sealed class RowChecks
{
    private readonly ModelIndex _index;
    private readonly LibraryFacts _facts;
    private readonly Report _report;

    private RowChecks(ModelIndex index, LibraryFacts facts, List<Finding> findings)
    {
        (_index, _facts) = (index, facts);
        _report = (rowId, field, fault, message) => findings.Add(new(rowId, field, new(fault, default, message)));
    }

    public static void Run(ModelIndex index, LibraryFacts facts, List<Finding> findings)
    {
        IdChecks.Run(index.Document, findings);
        new RowChecks(index, facts, findings).Run();
    }

    private void Run()
    {
        if (_index.Root is null)
            _report(_index.Document.Id, "root", Fault.MissingRoot,
                _index.Document.Root.Length == 0
                ? "The model does not say which assembly is the product itself."
                : $"The model has no assembly “{_index.Document.Root}” that is the product itself.");
        var (fields, attributes) = (new FieldChecks(_facts, _report), new AttributeChecks(_index, _report));
        foreach (var assembly in _index.Document.AllAssemblies)
        {
            var lines = new LineChecks(assembly, _report);
            Duplicates(assembly.Rows.OfType<NamedRow>().Select(r => (r.Id, r.Name)), "name");
            foreach (var row in assembly.Rows)
            {
                Effect(row, row.Id, "");
                fields.Check(row);
                switch (row)
                {
                    case AttributeRow attribute: attributes.Check(attribute); break;
                    case CombinationGrid grid: Check(grid); break;
                    case Subassembly subassembly:
                        Check(subassembly, assembly);
                        lines.Check(subassembly);
                        break;
                    case PartLine part: lines.Check(part); break;
                    case OperationLine operation: lines.Check(operation); break;
                }
            }
        }
        Duplicates(_index.Document.Lists.Select(l => (l.Id, l.Name)), "name");
        foreach (var list in _index.Document.AllLists)
            Check(list);
    }

    private void Check(CombinationGrid grid)
    {
        Duplicates(grid.Columns.Select(c => (grid.Id, c.Name)), "columns");
        foreach (var (cells, r) in grid.Rows.Select((r, i) => (r.Cells, i)).Where(x => x.Cells.Length > grid.Columns.Length))
            _report(grid.Id, $"rows/{r}/cells/{grid.Columns.Length}", Fault.TooManyCells,
                $"Row {r + 1} has {cells.Length} cells, and there are {grid.Columns.Length} columns.");
        foreach (var column in grid.Columns.Where(c => Unit.TryParse(c.Unit) is null))
            _report(grid.Id, "columns", Fault.UnknownUnit, $"“{column.Unit}” is not a unit code.");
        foreach (var (column, i) in grid.Columns.Select((c, i) => (c, i))
            .Where(x => x.c.Reference.Length == 0 && x.c.ItemProperty.Length == 0 && grid.DrawnFrom.Length > 0 && grid.Rows.IsDefaultOrEmpty))
            _report(grid.Id, $"columns/{i}/itemProperty", Fault.UnknownProperty,
                $"Say which property of the items the figure “{column.Name}” is.");
        if (grid.DrawnFrom.Length > 0 && ItemFilter.Parse(grid.DrawnFrom).Fault is { } fault)
            _report(grid.Id, "drawnFrom", Fault.BadFilter, fault);
        else if (DrawnRows.Items(grid.DrawnFrom, _facts).Length > DrawnRows.Most)
            _report(grid.Id, "drawnFrom", Fault.BadFilter, $"More than {DrawnRows.Most} items are meant; a grid cannot have as many rows.");
        else if (DrawnRows.Of(grid, _facts).IsDefaultOrEmpty)
            _report(grid.Id, grid.DrawnFrom.Length > 0 ? "drawnFrom" : "rows", Fault.EmptyList,
                grid.DrawnFrom.Length > 0 ? "No active item of the register is meant, so nothing is allowed."
                : "A grid without rows allows nothing. Add the combinations that are allowed.");
    }

    private void Check(Subassembly place, AssemblyDefinition assembly)
    {
        if (!_index.Assemblies.ContainsKey(place.AssemblyId))
            _report(place.Id, "assemblyId", Fault.MissingAssembly, "Choose the assembly that fills this place.");
        else if (Contains(place.AssemblyId, assembly.Id))
            _report(place.Id, "assemblyId", Fault.CircularAssembly,
                $"“{_index.Assemblies[place.AssemblyId].Name}” contains “{assembly.Name}”, so it cannot be part of it.");
        else
            Inputs(place);
    }

    private void Effect(IInEffect thing, string rowId, string fieldPrefix)
    {
        if (thing.From is { } from && thing.To is { } to && from > to)
            _report(rowId, fieldPrefix + "from", Fault.DatesReversed, "The first day is after the last.");
        foreach (var site in thing.Sites.Where(s => _facts.Sites.Count > 0 && !_facts.Sites.Keys.Contains(s, StringComparer.OrdinalIgnoreCase)))
            _report(rowId, fieldPrefix + "sites", Fault.UnknownSite, $"There is no site “{site}”.");
    }

    private void Duplicates(IEnumerable<(string Id, string Name)> named, string field)
    {
        foreach (var group in named.Where(n => n.Name.Length > 0).GroupBy(n => Names.Fold(n.Name)).Where(g => g.Count() > 1))
            foreach (var (id, name) in group.Skip(1))
                _report(id, field, Fault.DuplicateName, $"“{name}” is there twice; case makes no difference.");
    }

    private bool Contains(string assemblyId, string wanted)
    {
        var visited = new HashSet<string>();
        var open = new Stack<string>([assemblyId]);
        while (open.TryPop(out var next))
            if (next == wanted)
                return true;
            else if (visited.Add(next) && _index.Assemblies.TryGetValue(next, out var below))
                foreach (var place in below.Rows.OfType<Subassembly>())
                    open.Push(place.AssemblyId);
        return false;
    }

    private void Inputs(Subassembly place)
    {
        var below = _index.Assemblies[place.AssemblyId];
        foreach (var (given, i) in place.Inputs.Select((x, i) => (x, i)))
            if (below.Rows.FirstOrDefault(r => r.Id == given.AttributeId) is not AttributeRow { Input: true })
                _report(place.Id, RowPath.FieldOfInput(i), Fault.InputGone,
                    $"“{_index.NameOf(given.AttributeId) ?? "What this was given to"}” is no input of “{below.Label.Or(below.Name)}”; take it out.");
    }

    private static bool IsOfType(string text, PropertyType type) => type switch
    {
        PropertyType.Number => Exact.TryParse(text, out _),
        PropertyType.YesNo => text is "yes" or "no",
        _ => true,
    };

    private void Check(ValueList list)
    {
        foreach (var again in list.Values.Where(v => v.Code.Length > 0).GroupBy(v => Names.Fold(v.Code)).SelectMany(g => g.Skip(1)))
            _report(list.Id, $"values/{again.Id}/code", Fault.DuplicateName, $"“{again.Code}” is there twice; case makes no difference.");
        Duplicates(list.Properties.Select(p => (list.Id, p.Name)), "properties");
        if (list.Values.IsDefaultOrEmpty)
            _report(list.Id, "values", Fault.EmptyList, $"The list “{list.Label.Or(list.Name)}” has no values yet.");
        foreach (var value in list.Values)
        {
            if (value.Code.Trim().Length == 0)
                _report(list.Id, $"values/{value.Id}/code", Fault.BadName, "A value needs a code.");
            Effect(value, list.Id, $"values/{value.Id}/");
            foreach (var property in list.Properties)
                if (value.Properties.TryGetValue(property.Id, out var text) && text.Length > 0 && !IsOfType(text, property.Type))
                    _report(list.Id, $"values/{value.Id}/properties/{property.Id}", Fault.BadCell,
                        $"“{text}” in {property.Name} of {value.Code} is not {(property.Type == PropertyType.Number ? "a number" : "yes or no")}.");
        }
    }
}
