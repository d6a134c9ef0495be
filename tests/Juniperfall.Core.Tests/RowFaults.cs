using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;
using static Juniperfall.Core.Tests.SmallModels;

namespace Juniperfall.Core.Tests;

/// <summary>Every fault of a row that needs no expression: found at its field, said in a sentence, keeping release away; the rest goes on.</summary>
public class RowFaults
{
    public static TheoryData<string, Row, string, Fault, string> Faulty => new()
    {
        { "bounds the wrong way round", Whole("a", 5, 2), "min", Fault.BoundsReversed, "The lowest value 5 is above the highest 2." },
        { "a step of zero", Length("a", 0, 100, 0), "step", Fault.StepNotPositive, "The step must be more than zero." },
        { "a negative step", Length("a", 0, 100, 10) with { Step = "-5" }, "step", Fault.StepNotPositive, "The step must be more than zero." },
        { "a broken step of a whole number", Whole("a", 0, 9) with { Step = "0.5" }, "step", Fault.StepNotPositive,
            "The step of a whole number is a whole number." },
        { "no step in between", Length("a", 110, 140, 100), "step", Fault.OffStep, "No multiple of the step 100 lies between 110 and 140." },
        { "a step that is too fine", Length("a", 0, 1000, 1) with { Step = "0.00000000001" }, "step", Fault.OffStep,
            "The step 0.00000000001 is too fine for numbers up to 1000: at most 1000000000000 steps can be counted." },
        { "no highest", Whole("a", 0, 9) with { Max = null }, "max", Fault.BadNumber, "A number is needed here." },
        { "a decimal comma", Length("a", 0, 9, 1) with { Max = "9,5" }, "max", Fault.BadNumber, "“9,5” is not a number; decimals are written with a point." },
        { "words for a number", Whole("a", 0, 9) with { Min = "few" }, "min", Fault.BadNumber, "“few” is not a number." },
        { "no unit", Length("a", 0, 9, 1) with { Unit = "" }, "unit", Fault.UnknownUnit, "A quantity needs a unit." },
        { "an unknown unit", Length("a", 0, 9, 1) with { Unit = "furlong" }, "unit", Fault.UnknownUnit, "“furlong” is not a unit code." },
        { "a suggestion off the step", Length("a", 0, 100, 50) with { Suggestion = "70" }, "suggestion", Fault.BadSuggestion,
            "Suggest a multiple of 50 from 0 to 100." },
        { "a suggestion that is no answer", YesNo("a") with { Suggestion = "perhaps" }, "suggestion", Fault.BadSuggestion, "Suggest yes or no." },
        { "a suggestion of another list", Choice("a") with { Suggestion = "gone" }, "suggestion", Fault.BadSuggestion,
            "The suggested value is not in the list." },
        { "more choices than there are values", Choice("a") with { Kind = AttributeKind.Several, Min = "4" }, "min", Fault.BoundsReversed,
            "At least 4 and at most 3 values cannot be met." },
        { "several choices from above", Choice("a") with { Kind = AttributeKind.Several, Input = true }, "input", Fault.TypeMismatch,
            "Several choices cannot be given from above; let the assembly above ask them, or give what follows from them as yes/no." },
        { "half a choice", Choice("a") with { Kind = AttributeKind.Several, Max = "1.5" }, "max", Fault.BadNumber, "“1.5” is not a whole number of values." },
        { "several suggestions, one of another list", Choice("a") with { Kind = AttributeKind.Several, Suggestion = "c80 gone" }, "suggestion",
            Fault.BadSuggestion, "The suggested value is not in the list." },
        { "no list", Choice("a") with { ListId = null }, "listId", Fault.MissingList, "Choose the value list." },
        { "a quote in a name", Whole("it's", 0, 1), "name", Fault.BadName, "A name needs at least one character and no quotes, brackets or line breaks." },
        { "a blank name", Whole(" ", 0, 1) with { Id = "blank" }, "name", Fault.BadName,
            "A name needs at least one character and no quotes, brackets or line breaks." },
        { "an unknown item", new PartLine { Id = "p", Item = "NONE", Quantity = "1" }, "item", Fault.UnknownItem, "There is no item “NONE” in the register." },
        { "an item that is no longer active", new PartLine { Id = "p", Item = "OLD", Quantity = "1" }, "item", Fault.UnknownItem,
            "The item “OLD” is no longer active." },
        { "no item at all", new PartLine { Id = "p", Quantity = "1" }, "item", Fault.UnknownItem, "Choose the item, or write where its number comes from." },
        { "scrap beyond all reason", new PartLine { Id = "p", Item = "BOLT", Quantity = "1", Scrap = "1000" }, "scrap", Fault.BadNumber,
            "Scrap is a percentage from 0 to below 1000." },
        { "a negative rounding step", new PartLine { Id = "p", Item = "BOLT", Quantity = "1", Step = "-1" }, "step", Fault.StepNotPositive,
            "The rounding step must be a number above zero, in the item's unit." },
        { "consumption at nothing", new PartLine { Id = "p", Item = "BOLT", Quantity = "1", OperationId = "gone" }, "operationId", Fault.UnknownOperation,
            "The operation that consumes it is not in this assembly." },
        { "a subassembly consumed at nothing", new Subassembly { Id = "s", Name = "s", AssemblyId = "leaf", Item = "DOOR", OperationId = "gone" }, "operationId",
            Fault.UnknownOperation, "The operation that consumes it is not in this assembly." },
        { "no work centre", new OperationLine { Id = "o", Name = "o", Sequence = 10 }, "workCentre", Fault.UnknownWorkCentre, "Choose the work centre." },
        { "an unknown work centre", new OperationLine { Id = "o", Name = "o", Sequence = 10, WorkCentre = "MOON" }, "workCentre", Fault.UnknownWorkCentre,
            "There is no work centre “MOON”." },
        { "dates the wrong way round", Whole("a", 0, 1) with { From = new(2027, 2, 1), To = new(2027, 1, 1) }, "from", Fault.DatesReversed,
            "The first day is after the last." },
        { "an unknown site", Whole("a", 0, 1) with { Sites = ["hal", "MOON"] }, "sites", Fault.UnknownSite, "There is no site “MOON”." },
        { "a place without an assembly", new Subassembly { Id = "s", Name = "s", AssemblyId = "gone" }, "assemblyId", Fault.MissingAssembly,
            "Choose the assembly that fills this place." },
        { "an assembly within itself", new Subassembly { Id = "s", Name = "s", AssemblyId = "room" }, "assemblyId", Fault.CircularAssembly,
            "“room” contains “room”, so it cannot be part of it." },
        { "an own item that is not there", new Subassembly { Id = "s", Name = "s", AssemblyId = "leaf", Make = SubassemblyKind.OwnItem, Item = "NONE" },
            "item", Fault.UnknownItem, "There is no item “NONE” in the register." },
        { "an empty grid", new CombinationGrid { Id = "g", Name = "g", Columns = [new() { Id = "c", Name = "c", Reference = "sound" }] }, "rows",
            Fault.EmptyList, "A grid without rows allows nothing. Add the combinations that are allowed." },
        { "an unknown unit of what is computed", Computed("c", "1") with { Unit = "stone" }, "unit", Fault.UnknownUnit, "“stone” is not a unit code." },
    };

    [Fact]
    public void Each_substitute_that_is_not_there_is_told_and_one_that_is_used_up_is_none_of_them()
    {
        var model = Of(Assembly("room", new PartLine { Id = "p", Item = "BOLT", Quantity = "1", Substitutes = "NONE, OLD, GONE, BOLT" }));
        Assert.Equal(["There is no item “NONE” in the register.", "There is no item “GONE” in the register.", "“BOLT” cannot stand in for itself."],
            model.Findings.Select(f => f.Diagnostic.Message));
    }

    [Theory]
    [MemberData(nameof(Faulty))]
    public void A_faulty_row_is_told_at_its_field_and_left_out(string what, Row row, string field, Fault fault, string sentence)
    {
        var model = Of(Assembly("room", Whole("sound", 1, 3), row), Assembly("leaf", Whole("width", 1, 2)));
        var finding = Assert.Single(model.Findings);
        Assert.Equal((row.Id, field, fault, sentence, true),
            (finding.RowId, finding.Field, finding.Diagnostic.Fault, finding.Diagnostic.Message, finding.Blocks));
        Assert.False(model.IsSound(row), what);
        // The sound rows are answered as if it were not there.
        Assert.Equal("1 2 3", Ask(model).Available(model, "sound"));
    }

    [Fact]
    public void Names_and_codes_that_are_there_twice_are_told_at_the_second_whatever_their_case()
    {
        var model = Of(Assembly("room", Whole("width", 0, 1), Whole("WIDTH", 0, 1) with { Id = "again" }));
        Assert.Equal([("again", "name", "“WIDTH” is there twice; case makes no difference.")],
            model.Findings.Select(f => (f.RowId, f.Field, f.Diagnostic.Message)));
        var list = Cores with { Values = [new() { Id = "1", Code = "grey" }, new() { Id = "2", Code = "Grey" }, new() { Id = "3", Code = " " }] };
        var lists = new BoundModel(new() { Id = "m", Code = "CR", Root = "room", Lists = [list], Assemblies = [Assembly("room")] }, Facts);
        Assert.Equal([("values/2/code", "“Grey” is there twice; case makes no difference."), ("values/3/code", "A value needs a code.")],
            lists.Findings.Select(f => (f.Field, f.Diagnostic.Message)));
    }

    [Fact]
    public void Cells_dates_and_sites_of_values_are_told_at_the_value()
    {
        var list = Cores with
        {
            Values = [new() { Id = "1", Code = "80", Properties = Cores.Values[0].Properties.SetItem("thick", "80 mm") },
                new() { Id = "2", Code = "100", From = new(2027, 2, 1), To = new(2027, 1, 1), Sites = ["MOON"] }],
        };
        var model = new BoundModel(new() { Id = "m", Code = "CR", Root = "room", Lists = [list], Assemblies = [Assembly("room")] }, Facts);
        Assert.Equal([("values/1/properties/thick", "“80 mm” in thickness of 80 is not a number."), ("values/2/from", "The first day is after the last."),
            ("values/2/sites", "There is no site “MOON”.")],
            model.Findings.Select(f => (f.Field, f.Diagnostic.Message)));
    }

    [Fact]
    public void An_empty_list_is_told_at_the_list_and_where_it_is_used()
    {
        var model = new BoundModel(new()
        {
            Id = "m",
            Code = "CR",
            Root = "room",
            Lists = [Cores with { Values = [] }],
            Assemblies = [Assembly("room", Choice("core"), Whole("sound", 1, 2))]
        }, Facts);
        Assert.Equal([("core", "listId"), ("cores", "values")], model.Findings.Select(f => (f.RowId, f.Field)).Order());
        Assert.Equal("1 2", Ask(model).Available(model, "sound"));
    }

    [Fact]
    public void What_depends_on_a_faulty_row_is_left_out_with_it_and_says_so()
    {
        var model = Of(Assembly("room", Whole("a", 5, 2), Computed("b", "a + 1"), Computed("c", "b * 2"), Rule("r", "c > 1"), Whole("d", 0, 1)));
        Assert.Equal(["a", "b", "c", "r"], model.Findings.Select(f => f.RowId).Distinct().Order());
        Assert.All(model.Findings.Where(f => f.RowId != "a"), f => Assert.Equal(Fault.DependsOnFaulty, f.Diagnostic.Fault));
        Assert.Equal("0 1", Ask(model).Available(model, "d"));
    }
}
