using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Checks of rows and lists that need no expression: names, bounds, steps, lists, items, dates.</summary>
internal static class RowChecks
{
    public static void Run(ModelIndex index, LibraryFacts facts, List<Finding> findings)
    {
        void Report(string rowId, string field, Fault fault, string message, bool blocks = true) =>
            findings.Add(new(rowId, field, new(fault, default, message), blocks));

        IdChecks.Run(index.Document, findings);
        if (index.Root is null)
            Report(index.Document.Id, "root", Fault.MissingRoot,
                index.Document.Root.Length == 0
                ? "The model does not say which assembly is the product itself."
                : $"The model has no assembly “{index.Document.Root}” that is the product itself.");
        foreach (var assembly in index.Document.AllAssemblies)
        {
            var lines = new Lines(assembly);
            Duplicates(assembly.Rows.OfType<NamedRow>().Select(r => (r.Id, r.Name)), "name");
            foreach (var row in assembly.Rows)
            {
                Effect(row, row.Id, "");
                if (row is NamedRow named && !IsUsableName(named.Name))
                    Report(row.Id, "name", Fault.BadName, "A name needs at least one character and no quotes, brackets or line breaks.");
                switch (row)
                {
                    case AttributeRow attribute: Attribute(attribute); break;
                    case ComputedAttribute { Unit: { Length: > 0 } code } when Unit.TryParse(code) is null:
                        Report(row.Id, "unit", Fault.UnknownUnit, $"“{code}” is not a unit code.");
                        break;
                    case CombinationGrid grid:
                        Duplicates(grid.Columns.Select(c => (grid.Id, c.Name)), "columns");
                        foreach (var (cells, r) in grid.Rows.Select((r, i) => (r.Cells, i)).Where(x => x.Cells.Length > grid.Columns.Length))
                            Report(row.Id, $"rows/{r}/cells/{grid.Columns.Length}", Fault.TooManyCells,
                                $"Row {r + 1} has {cells.Length} cells, and there are {grid.Columns.Length} columns.");
                        foreach (var column in grid.Columns.Where(c => Unit.TryParse(c.Unit) is null))
                            Report(row.Id, "columns", Fault.UnknownUnit, $"“{column.Unit}” is not a unit code.");
                        foreach (var (column, i) in grid.Columns.Select((c, i) => (c, i))
                            .Where(x => x.c.Reference.Length == 0 && x.c.ItemProperty.Length == 0 && grid.DrawnFrom.Length > 0 && grid.Rows.IsDefaultOrEmpty))
                            Report(row.Id, $"columns/{i}/itemProperty", Fault.UnknownProperty,
                                $"Say which property of the items the figure “{column.Name}” is.");
                        if (grid.DrawnFrom.Length > 0 && ItemFilter.Parse(grid.DrawnFrom).Fault is { } fault)
                            Report(row.Id, "drawnFrom", Fault.BadFilter, fault);
                        else if (DrawnRows.Items(grid.DrawnFrom, facts).Length > DrawnRows.Most)
                            Report(row.Id, "drawnFrom", Fault.BadFilter, $"More than {DrawnRows.Most} items are meant; a grid cannot have as many rows.");
                        else if (DrawnRows.Of(grid, facts).IsDefaultOrEmpty)
                            Report(row.Id, grid.DrawnFrom.Length > 0 ? "drawnFrom" : "rows", Fault.EmptyList,
                                grid.DrawnFrom.Length > 0 ? "No active item of the register is meant, so nothing is allowed."
                                : "A grid without rows allows nothing. Add the combinations that are allowed.");
                        break;
                    case Subassembly subassembly when !index.Assemblies.ContainsKey(subassembly.AssemblyId):
                        Report(row.Id, "assemblyId", Fault.MissingAssembly, "Choose the assembly that fills this place.");
                        break;
                    case Subassembly subassembly when Contains(subassembly.AssemblyId, assembly.Id):
                        Report(row.Id, "assemblyId", Fault.CircularAssembly,
                            $"“{index.Assemblies[subassembly.AssemblyId].Name}” contains “{assembly.Name}”, so it cannot be part of it.");
                        break;
                    case Subassembly { Make: SubassemblyKind.OwnItem, Item.Length: > 0 } own when !facts.Items.ContainsKey(own.Item):
                        Report(row.Id, "item", Fault.UnknownItem, $"There is no item “{own.Item}” in the register.");
                        break;
                    case Subassembly { MadeAt.Length: > 0 } elsewhere when facts.Sites.Count > 0 && facts.SiteAt(elsewhere.MadeAt) is null:
                        Report(row.Id, "madeAt", Fault.UnknownSite, $"There is no site “{elsewhere.MadeAt}”.");
                        break;
                    case Subassembly subassembly: Inputs(subassembly); break;
                    case PartLine part: Part(part, lines); break;
                    case OperationLine operation: Operation(operation, lines); break;
                }
            }
        }
        Duplicates(index.Document.Lists.Select(l => (l.Id, l.Name)), "name");
        foreach (var list in index.Document.AllLists)
        {
            foreach (var again in list.Values.Where(v => v.Code.Length > 0).GroupBy(v => Names.Fold(v.Code)).SelectMany(g => g.Skip(1)))
                Report(list.Id, $"values/{again.Id}/code", Fault.DuplicateName, $"“{again.Code}” is there twice; case makes no difference.");
            Duplicates(list.Properties.Select(p => (list.Id, p.Name)), "properties");
            if (list.Values.IsDefaultOrEmpty)
                Report(list.Id, "values", Fault.EmptyList, $"The list “{list.Label.Or(list.Name)}” has no values yet.");
            foreach (var value in list.Values)
            {
                if (value.Code.Trim().Length == 0)
                    Report(list.Id, $"values/{value.Id}/code", Fault.BadName, "A value needs a code.");
                Effect(value, list.Id, $"values/{value.Id}/");
                foreach (var property in list.Properties)
                    if (value.Properties.TryGetValue(property.Id, out var text) && text.Length > 0 && !IsOfType(text, property.Type))
                        Report(list.Id, $"values/{value.Id}/properties/{property.Id}", Fault.BadCell,
                            $"“{text}” in {property.Name} of {value.Code} is not {(property.Type == PropertyType.Number ? "a number" : "yes or no")}.");
            }
        }

        void Effect(IInEffect thing, string rowId, string fieldPrefix)
        {
            if (thing.From is { } from && thing.To is { } to && from > to)
                Report(rowId, fieldPrefix + "from", Fault.DatesReversed, "The first day is after the last.");
            foreach (var site in thing.Sites.Where(s => facts.Sites.Count > 0 && !facts.Sites.Keys.Contains(s, StringComparer.OrdinalIgnoreCase)))
                Report(rowId, fieldPrefix + "sites", Fault.UnknownSite, $"There is no site “{site}”.");
        }

        void Duplicates(IEnumerable<(string Id, string Name)> named, string field)
        {
            foreach (var group in named.Where(n => n.Name.Length > 0).GroupBy(n => Names.Fold(n.Name)).Where(g => g.Count() > 1))
                foreach (var (id, name) in group.Skip(1))
                    Report(id, field, Fault.DuplicateName, $"“{name}” is there twice; case makes no difference.");
        }

        bool Contains(string assemblyId, string wanted)
        {
            var visited = new HashSet<string>();
            var open = new Stack<string>([assemblyId]);
            while (open.TryPop(out var next))
                if (next == wanted)
                    return true;
                else if (visited.Add(next) && index.Assemblies.TryGetValue(next, out var below))
                    foreach (var place in below.Rows.OfType<Subassembly>())
                        open.Push(place.AssemblyId);
            return false;
        }

        void Inputs(Subassembly place)
        {
            var below = index.Assemblies[place.AssemblyId];
            foreach (var (given, i) in place.Inputs.Select((x, i) => (x, i)))
                if (below.Rows.FirstOrDefault(r => r.Id == given.AttributeId) is not AttributeRow { Input: true })
                    Report(place.Id, RowPath.FieldOfInput(i), Fault.InputGone,
                        $"“{index.NameOf(given.AttributeId) ?? "What this was given to"}” is no input of “{below.Label.Or(below.Name)}”; take it out.");
        }

        void Attribute(AttributeRow a)
        {
            if (a.Kind is AttributeKind.Choice or AttributeKind.Several)
            {
                if (a.ListId is null || !index.Lists.TryGetValue(a.ListId, out var list))
                    Report(a.Id, "listId", Fault.MissingList, "Choose the value list.");
                else if (list.Values.IsDefaultOrEmpty)
                    Report(a.Id, "listId", Fault.EmptyList, $"The list “{list.Label.Or(list.Name)}” has no values yet.");
                else if ((a.Kind == AttributeKind.Several ? a.SuggestedMembers : a.Suggestion is { Length: > 0 } id ? [id] : [])
                    .Any(s => list.Values.All(v => v.Id != s)))
                    Report(a.Id, "suggestion", Fault.BadSuggestion, "The suggested value is not in the list.");
                else if (a is { Kind: AttributeKind.Several, Input: true })
                    Report(a.Id, "input", Fault.TypeMismatch,
                        "Several choices cannot be given from above; let the assembly above ask them, or give what follows from them as yes/no.");
                else if (a.Kind == AttributeKind.Several)
                    HowMany(a, list);
                if (a.SurchargeColumn.Length > 0 && a.ListId is { } of && index.Lists.TryGetValue(of, out var priced))
                    Surcharge(a, priced);
                return;
            }
            if (a.Kind == AttributeKind.YesNo && a.Suggestion is { Length: > 0 } answer && answer is not ("yes" or "no"))
                Report(a.Id, "suggestion", Fault.BadSuggestion, "Suggest yes or no.");
            if (a.Kind is not (AttributeKind.Whole or AttributeKind.Quantity))
                return;
            if (a.Kind == AttributeKind.Quantity && (a.Unit.Length == 0 || Unit.TryParse(a.Unit) is null))
                Report(a.Id, "unit", Fault.UnknownUnit, a.Unit.Length == 0 ? "A quantity needs a unit." : $"“{a.Unit}” is not a unit code.");
            var sound = Number("min", a.Min, out var min) & Number("max", a.Max, out var max) & Number("step",
                a.Kind == AttributeKind.Whole ? a.Step ?? "1" : a.Step, out var step);
            if (!sound)
                return;
            if (step.Sign <= 0)
                Report(a.Id, "step", Fault.StepNotPositive, "The step must be more than zero.");
            else if (a.Kind == AttributeKind.Whole && !step.IsWhole)
                Report(a.Id, "step", Fault.StepNotPositive, "The step of a whole number is a whole number.");
            else if (min > max)
                Report(a.Id, "min", Fault.BoundsReversed, $"The lowest value {min} is above the highest {max}.");
            else if ((max / step).Floor() < (min / step).Ceiling())
                Report(a.Id, "step", Fault.OffStep, $"No multiple of the step {step} lies between {min} and {max}.");
            else if (Exact.Max(min.Abs(), max.Abs()) / step > MostSteps)
                Report(a.Id, "step", Fault.OffStep,
                    $"The step {step} is too fine for numbers up to {Exact.Max(min.Abs(), max.Abs())}: at most {MostSteps} steps can be counted.");
            else if (a.Suggestion is { Length: > 0 } suggestion
                && (!Exact.TryParse(suggestion, out var s) || s < min || s > max || !(s / step).IsWhole))
                Report(a.Id, "suggestion", Fault.BadSuggestion, $"Suggest a multiple of {step} from {min} to {max}.");

            bool Number(string field, string? text, out Exact number)
            {
                if (Exact.TryParse(text, out number))
                    return true;
                Report(a.Id, field, Fault.BadNumber, string.IsNullOrEmpty(text) ? "A number is needed here." : text.Contains(',')
                    ? $"“{text}” is not a number; decimals are written with a point." : $"“{text}” is not a number.");
                return false;
            }
        }

        void Surcharge(AttributeRow a, ValueList list)
        {
            if (list.Properties.FirstOrDefault(p => p.Id == a.SurchargeColumn) is not { } column)
                Report(a.Id, "surchargeColumn", Fault.UnknownProperty, $"The list “{list.Label.Or(list.Name)}” has no such column.");
            else if (column.Type != PropertyType.Number || Unit.TryParse(column.Unit)?.Dimension != Dimension.OfMoney)
                Report(a.Id, "surchargeColumn", Fault.UnitMismatch, $"The column “{column.Name}” holds no money; give it the unit {Unit.Euro.Code}.");
        }

        void HowMany(AttributeRow a, ValueList list)
        {
            bool Whole(string field, string? text, int otherwise, out Exact number)
            {
                number = otherwise;
                if (string.IsNullOrEmpty(text) || (Exact.TryParse(text, out number) && number.IsWhole && number.Sign >= 0))
                    return true;
                Report(a.Id, field, Fault.BadNumber, $"“{text}” is not a whole number of values.");
                return false;
            }

            if (!(Whole("min", a.Min, 0, out var least) & Whole("max", a.Max, list.Values.Length, out var most)))
                return;
            if (least > most)
                Report(a.Id, "min", Fault.BoundsReversed, $"At least {least} and at most {most} values cannot be met.");
            else if (least > list.Values.Length)
                Report(a.Id, "min", Fault.BoundsReversed,
                    $"At least {least} are wanted; the list “{list.Label.Or(list.Name)}” has {list.Values.Length} values.");
        }

        void Part(PartLine part, Lines lines)
        {
            if (part.Item.Length == 0 && part.ItemFrom.Length == 0)
                Report(part.Id, "item", Fault.UnknownItem, "Choose the item, or write where its number comes from.");
            else if (part.Item.Length > 0 && !facts.Items.ContainsKey(part.Item))
                Report(part.Id, "item", Fault.UnknownItem, $"There is no item “{part.Item}” in the register.");
            else if (part.Item.Length > 0 && !facts.Items[part.Item].Active)
                Report(part.Id, "item", Fault.UnknownItem, $"The item “{part.Item}” is no longer active.");
            if (part.OperationId is { Length: > 0 } id && !lines.Operations.Contains(id))
                Report(part.Id, "operationId", Fault.UnknownOperation, "The operation that consumes it is not in this assembly.");
            if (part.Step.Length > 0 && (!Exact.TryParse(part.Step, out var step) || step.Sign <= 0))
                Report(part.Id, "step", Fault.StepNotPositive, "The rounding step must be a number above zero, in the item's unit.");
            if (part.Scrap.Length > 0 && (!Exact.TryParse(part.Scrap, out var scrap) || scrap.Sign < 0 || scrap >= 1000))
                Report(part.Id, "scrap", Fault.BadNumber, "Scrap is a percentage from 0 to below 1000.");
            if (part.Position < 0)
                Report(part.Id, "position", Fault.BadNumber, "A position is a whole number above zero; 0 takes the next free one.");
            else if (part.Position > 0 && !ReferenceEquals(lines.AtPosition[part.Position], part))
                Report(part.Id, "position", Fault.DuplicateName, $"Position {part.Position} is there twice.");
            foreach (var substitute in part.SubstituteItems)
                if (!facts.Items.ContainsKey(substitute))
                    Report(part.Id, "substitutes", Fault.UnknownItem, $"There is no item “{substitute}” in the register.");
                else if (substitute.Equals(part.Item, StringComparison.OrdinalIgnoreCase))
                    Report(part.Id, "substitutes", Fault.UnknownItem, $"“{substitute}” cannot stand in for itself.");
            foreach (var (figure, i) in part.Figures.Select((f, i) => (f, i)))
            {
                if (figure.Name.Trim().Length == 0)
                    Report(part.Id, $"figures/{i}/name", Fault.BadName, "A figure needs a name.");
                else if (part.Figures.Take(i).Any(f => Names.Fold(f.Name) == Names.Fold(figure.Name)))
                    Report(part.Id, $"figures/{i}/name", Fault.DuplicateName, $"“{figure.Name}” is there twice; case makes no difference.");
                if (figure.Unit.Length > 0 && Unit.TryParse(figure.Unit) is null)
                    Report(part.Id, $"figures/{i}/unit", Fault.UnknownUnit, $"“{figure.Unit}” is not a unit code.");
                if (figure.Decimals is < 0 or > 9)
                    Report(part.Id, $"figures/{i}/decimals", Fault.BadNumber, "From 0 to 9 decimals can be shown.");
            }
            OneOf(part, part.OneOf, lines.PartsByQuestion);
        }

        void OneOf(Row row, string question, Dictionary<string, int> lines)
        {
            if (Lines.Key(question) is { Length: > 0 } key && lines[key] == 1)
                Report(row.Id, "oneOf", Fault.NothingToAsk, $"No other line answers “{question.Trim()}”, so this one alone would always have to stand.");
        }

        void Operation(OperationLine operation, Lines lines)
        {
            OneOf(operation, operation.OneOf, lines.OperationsByQuestion);
            if (operation.Crew < 0)
                Report(operation.Id, "crew", Fault.BadNumber, "A crew is a whole number of people; 0 takes that of the work centre.");
            if (operation.WorkCentre.Length == 0 && operation.WorkCentreFrom.Length > 0)
                return;
            if (operation.WorkCentre.Length == 0)
                Report(operation.Id, "workCentre", Fault.UnknownWorkCentre, "Choose the work centre.");
            else if (!facts.WorkCentres.ContainsKey(operation.WorkCentre))
                Report(operation.Id, "workCentre", Fault.UnknownWorkCentre, $"There is no work centre “{operation.WorkCentre}”.");
        }
    }

    /// <summary>Steps are counted in numbers that a double holds exactly.</summary>
    private static readonly Exact MostSteps = Exact.Parse("1000000000000");

    private static bool IsUsableName(string name) =>
        name.Trim().Length > 0 && name.Length <= 100
            && !name.Any(c => char.IsControl(c) || c is '\'' or '"' or '[' or ']' or Lexer.ReferenceOpen or Lexer.ReferenceClose);

    private static bool IsOfType(string text, PropertyType type) => type switch
    {
        PropertyType.Number => Exact.TryParse(text, out _),
        PropertyType.YesNo => text is "yes" or "no",
        _ => true,
    };

    /// <summary>The part and operation lines of one assembly, as the checks of a line ask for the others.</summary>
    private sealed class Lines
    {
        public Lines(AssemblyDefinition assembly)
        {
            foreach (var row in assembly.Rows)
                if (row is OperationLine operation)
                {
                    Operations.Add(operation.Id);
                    Count(OperationsByQuestion, operation.OneOf);
                }
                else if (row is PartLine part)
                {
                    AtPosition.TryAdd(part.Position, part);
                    Count(PartsByQuestion, part.OneOf);
                }
        }

        public HashSet<string> Operations { get; } = [];

        /// <summary>The first line at each position.</summary>
        public Dictionary<int, PartLine> AtPosition { get; } = [];

        /// <summary>How many lines answer each question.</summary>
        public Dictionary<string, int> PartsByQuestion { get; } = [];
        public Dictionary<string, int> OperationsByQuestion { get; } = [];

        public static string Key(string question) => Names.Fold(question.Trim());

        private static void Count(Dictionary<string, int> lines, string question) => lines[Key(question)] = lines.GetValueOrDefault(Key(question)) + 1;
    }
}
