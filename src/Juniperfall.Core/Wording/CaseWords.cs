using Juniperfall.Core.Cases;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using Juniperfall.Core.Quantities;

namespace Juniperfall.Core.Wording;

/// <summary>What a test case expects, and what came out instead, as people read it.</summary>
public sealed class CaseWords(BoundModel model, PickText text, ModelWording words)
{
    /// <summary>What an expectation is about: “Quantity of Gasket, Door 1”.</summary>
    public string Subject(ExpectedOf of, string at) => of switch
    {
        ExpectedOf.Verdict => "The picks",
        ExpectedOf.Rule => $"Ruled out by {RowNamed(at)}",
        ExpectedOf.Value => words.LabelAt(at),
        ExpectedOf.Available => $"Values left of {words.LabelAt(at)}",
        ExpectedOf.Item => $"Item of {LineNamed(at)}",
        ExpectedOf.Quantity => $"Quantity of {LineNamed(at)}",
        ExpectedOf.Setup => $"Set-up of {LineNamed(at)}",
        ExpectedOf.Run => $"Run of {LineNamed(at)}",
        ExpectedOf.Price => "List price",
        ExpectedOf.Cost => "Cost of the order",
        ExpectedOf.Weight => "Weight of the order",
        ExpectedOf.Work => "Work on the order",
        ExpectedOf.LeadTime => "Lead time",
        _ => "Complete configurations",
    };

    /// <summary>What is expected, or came out, with labels in place of ids and with its unit.</summary>
    public string Shown(ExpectedOf of, string at, string written) => of switch
    {
        ExpectedOf.Verdict => written == CaseFacts.Valid ? "stand together" : written == CaseFacts.RuledOut ? "are ruled out" : written,
        _ when written.Length == 0 => of is ExpectedOf.Item or ExpectedOf.Quantity or ExpectedOf.Setup or ExpectedOf.Run ? "not there" : "nothing",
        ExpectedOf.Value => ValueShown(at, written),
        ExpectedOf.Available => string.Join(" | ", written.Split(" | ").Select(v => string.Join(" … ", v.Split(" .. ").Select(n => ValueShown(at, n))))),
        ExpectedOf.Quantity => ModelWording.WithUnit(Rounded(written), UnitOfLine(at)),
        ExpectedOf.Setup or ExpectedOf.Run or ExpectedOf.Work => $"{Rounded(written)} min",
        ExpectedOf.Price or ExpectedOf.Cost => $"{(Exact.TryParse(written, out var money) ? money.ToFixed(2) : written)} EUR",
        ExpectedOf.Weight => $"{Rounded(written)} kg",
        ExpectedOf.LeadTime => $"{Rounded(written)} days",
        _ => written,
    };

    /// <summary>What a case says of itself where it fails: “Quantity of Gasket: 5.2 m is expected, 5.4 m came out.”</summary>
    public string Sentence(TestCase one, CaseDifference difference)
    {
        var expected = one.Expected[difference.Expectation];
        var (wanted, came) = (Shown(expected.Of, expected.At, expected.Is), Shown(expected.Of, expected.At, difference.Actual));
        // Two numbers that read the same once they are rounded are told in full.
        if (wanted == came)
            (wanted, came) = (expected.Is, difference.Actual);
        return expected.Of switch
        {
            ExpectedOf.Verdict => $"The picks should {(expected.Is == CaseFacts.Valid ? "stand together" : "be ruled out")}, and {came}.",
            ExpectedOf.Rule => expected.Is == "yes" ? $"{RowNamed(expected.At)} should rule the picks out, and does not."
                : $"{RowNamed(expected.At)} should not rule the picks out, and does.",
            _ => $"{Subject(expected.Of, expected.At)}: {wanted} is expected, {came} came out.",
        };
    }

    /// <summary>What became of a case in one sentence; empty where it passed.</summary>
    public string First(TestCase one, CaseResult result) => result.State switch
    {
        CaseState.Faulty => result.Faults[0] is var fault && fault.Pick is { } pick ? $"Pick {pick + 1}: {fault.Sentence}"
            : fault.Expectation is { } expectation ? $"Expectation {expectation + 1}: {fault.Sentence}" : fault.Sentence,
        CaseState.Unknown => "Time ran out before it was known.",
        CaseState.Failed => Sentence(one, result.Differences[0]),
        _ => "",
    };

    private string ValueShown(string at, string written)
    {
        if (text.At(at) is { } row)
            return written == "none" ? "none" : row.Kind == AttributeKind.Choice && model.Index.Values.ContainsKey(written)
                ? words.ValueOf(row, Value.Choice(written)) : ModelWording.WithUnit(written, row.Kind == AttributeKind.Quantity ? row.Unit : "");
        return model.Index.Rows.GetValueOrDefault(RowPath.RowId(at)) is ComputedAttribute computed
            ? model.Index.Values.TryGetValue(written, out var value) ? words.LabelOf(value.Value) : ModelWording.WithUnit(Rounded(written), computed.Unit)
            : written;
    }

    private static string Rounded(string written) => Exact.TryParse(written, out var number) ? number.ToDisplay(3) : written;

    private string RowNamed(string rowId) => model.Index.Rows.TryGetValue(rowId, out var row) ? words.NameOf(row) : "a rule that is gone";

    private string LineNamed(string at)
    {
        if (!model.Index.Rows.TryGetValue(RowPath.RowId(at), out var row))
            return "a line that is gone";
        var place = words.Places.GetValueOrDefault(RowPath.Prefix(at));
        return place is { Parent: { } parent, Place: { } subassembly } ? $"{words.NameOf(row)}, {words.PlaceOf(parent, subassembly, place)}"
            : words.NameOf(row);
    }

    private string UnitOfLine(string at) => model.Index.Rows.GetValueOrDefault(RowPath.RowId(at)) is PartLine { Item: var item }
        && model.Facts.Items.TryGetValue(item, out var found) ? found.Unit : "";
}
