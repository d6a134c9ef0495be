using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Models.Library;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Models.Binding;

/// <summary>Takes a fault of a field of a row.</summary>
internal delegate void Report(string rowId, string field, Fault fault, string message);

/// <summary>Checks that the form of a field alone decides, of every kind of row alike.</summary>
internal sealed class FieldChecks(LibraryFacts facts, Report report)
{
    public void Check(Row row)
    {
        foreach (var field in RowKinds.Of(row).FieldsOf(row).Where(IsDecidedByForm))
            foreach (var (path, text) in field.Texts(row).Where(t => t.Text.Length > 0))
                foreach (var (fault, message) in FaultsOf(field, text))
                    report(row.Id, path, fault, message);
        if (row is NamedRow named && !IsUsableName(named.Name))
            report(row.Id, "name", Fault.BadName, "A name needs at least one character and no quotes, brackets or line breaks.");
    }

    private static bool IsDecidedByForm(RowField field) => field.From == ChoiceSource.WorkCentres
        || field.Form is FieldForm.Item or FieldForm.Items or FieldForm.Unit or FieldForm.Site or FieldForm.Whole;

    private IEnumerable<(Fault Fault, string Message)> FaultsOf(RowField field, string text) => field.Form switch
    {
        // A substitute that is no longer active is used up like any other.
        FieldForm.Items => text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).Select(Unknown).OfType<(Fault, string)>(),
        _ => FaultOf(field, text) is { } fault ? [fault] : [],
    };

    private (Fault Fault, string Message)? FaultOf(RowField field, string text) => field switch
    {
        { Form: FieldForm.Item } => Item(text),
        { Form: FieldForm.Unit } => Unit.TryParse(text) is null ? (Fault.UnknownUnit, $"“{text}” is not a unit code.") : null,
        { Form: FieldForm.Site } => facts.Sites.Count > 0 && facts.SiteAt(text) is null ? (Fault.UnknownSite, $"There is no site “{text}”.") : null,
        { Form: FieldForm.Whole } => text.StartsWith('-') ? (Fault.BadNumber, "A whole number from 0 up is needed here.") : null,
        _ => facts.WorkCentres.ContainsKey(text) ? null : (Fault.UnknownWorkCentre, $"There is no work centre “{text}”."),
    };

    private (Fault, string)? Item(string number) => Unknown(number)
        ?? (facts.Items[number].Active ? null : (Fault.UnknownItem, $"The item “{number}” is no longer active."));

    private (Fault, string)? Unknown(string number) =>
        facts.Items.ContainsKey(number) ? null : (Fault.UnknownItem, $"There is no item “{number}” in the register.");

    private static bool IsUsableName(string name) =>
        name.Trim().Length > 0 && name.Length <= 100
            && !name.Any(c => char.IsControl(c) || c is '\'' or '"' or '[' or ']' or Lexer.ReferenceOpen or Lexer.ReferenceClose);
}
