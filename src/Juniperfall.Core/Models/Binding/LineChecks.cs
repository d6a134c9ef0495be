using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Texts;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Checks of the part and operation lines of one assembly, which look at each other.</summary>
internal sealed class LineChecks
{
    private readonly Report _report;
    private readonly HashSet<string> _operations = [];

    /// <summary>The first line at each position.</summary>
    private readonly Dictionary<int, PartLine> _atPosition = [];

    /// <summary>How many lines answer each question.</summary>
    private readonly Dictionary<string, int> _partsByQuestion = [], _operationsByQuestion = [];

    public LineChecks(AssemblyDefinition assembly, Report report)
    {
        _report = report;
        foreach (var row in assembly.Rows)
            if (row is OperationLine operation)
            {
                _operations.Add(operation.Id);
                Count(_operationsByQuestion, operation.OneOf);
            }
            else if (row is PartLine part)
            {
                _atPosition.TryAdd(part.Position, part);
                Count(_partsByQuestion, part.OneOf);
            }
    }

    private static string Key(string question) => Names.Fold(question.Trim());

    private static void Count(Dictionary<string, int> lines, string question) => lines[Key(question)] = lines.GetValueOrDefault(Key(question)) + 1;

    public void Check(PartLine part)
    {
        if (part.Item.Length == 0 && part.ItemFrom.Length == 0)
            _report(part.Id, "item", Fault.UnknownItem, "Choose the item, or write where its number comes from.");
        Consumer(part, part.OperationId);
        if (part.Step.Length > 0 && (!Exact.TryParse(part.Step, out var step) || step.Sign <= 0))
            _report(part.Id, "step", Fault.StepNotPositive, "The rounding step must be a number above zero, in the item's unit.");
        if (part.Scrap.Length > 0 && (!Exact.TryParse(part.Scrap, out var scrap) || scrap.Sign < 0 || scrap >= 1000))
            _report(part.Id, "scrap", Fault.BadNumber, "Scrap is a percentage from 0 to below 1000.");
        if (part.Position > 0 && !ReferenceEquals(_atPosition[part.Position], part))
            _report(part.Id, "position", Fault.DuplicateName, $"Position {part.Position} is there twice.");
        foreach (var substitute in part.SubstituteItems)
            if (substitute.Equals(part.Item, StringComparison.OrdinalIgnoreCase))
                _report(part.Id, "substitutes", Fault.UnknownItem, $"“{substitute}” cannot stand in for itself.");
        foreach (var (figure, i) in part.Figures.Select((f, i) => (f, i)))
        {
            if (figure.Name.Trim().Length == 0)
                _report(part.Id, $"figures/{i}/name", Fault.BadName, "A figure needs a name.");
            else if (part.Figures.Take(i).Any(f => Names.Fold(f.Name) == Names.Fold(figure.Name)))
                _report(part.Id, $"figures/{i}/name", Fault.DuplicateName, $"“{figure.Name}” is there twice; case makes no difference.");
            if (figure.Unit.Length > 0 && Unit.TryParse(figure.Unit) is null)
                _report(part.Id, $"figures/{i}/unit", Fault.UnknownUnit, $"“{figure.Unit}” is not a unit code.");
            if (figure.Decimals is < 0 or > 9)
                _report(part.Id, $"figures/{i}/decimals", Fault.BadNumber, "From 0 to 9 decimals can be shown.");
        }
        OneOf(part, part.OneOf, _partsByQuestion);
    }

    public void Check(Subassembly place)
    {
        if (place.Make == SubassemblyKind.OwnItem)
            Consumer(place, place.OperationId);
    }

    private void Consumer(Row row, string? operationId)
    {
        if (operationId is { Length: > 0 } id && !_operations.Contains(id))
            _report(row.Id, "operationId", Fault.UnknownOperation, "The operation that consumes it is not in this assembly.");
    }

    private void OneOf(Row row, string question, Dictionary<string, int> lines)
    {
        if (Key(question) is { Length: > 0 } key && lines[key] == 1)
            _report(row.Id, "oneOf", Fault.NothingToAsk, $"No other line answers “{question.Trim()}”, so this one alone would always have to stand.");
    }

    public void Check(OperationLine operation)
    {
        OneOf(operation, operation.OneOf, _operationsByQuestion);
        if (operation.WorkCentre.Length == 0 && operation.WorkCentreFrom.Length == 0)
            _report(operation.Id, "workCentre", Fault.UnknownWorkCentre, "Choose the work centre.");
    }
}
