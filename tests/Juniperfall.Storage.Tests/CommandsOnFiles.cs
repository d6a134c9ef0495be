using System.Text;
using Juniperfall.Cli;
using Juniperfall.Formats;

namespace Juniperfall.Storage.Tests;

/// <summary>The commands that need no database, on the demo file: what they write, and what they answer to wrong input.</summary>
public sealed class CommandsOnFiles
{
    private static readonly string Room = CommandsOnTheDatabase.Demo();

    internal static (int Code, string Output, string Errors) Run(params string[] arguments)
    {
        var (output, errors) = (new StringWriter(), new StringWriter());
        return (RunInto(arguments, output, errors), output.ToString(), errors.ToString());
    }

    internal static int RunInto(string[] arguments, TextWriter output, TextWriter errors) =>
        CommandLine.Run(arguments, output, errors).GetAwaiter().GetResult();

    private static (int Code, string Output, string Errors) Answer(params string[] options) => Run(["answer", Room, .. options]);

    [Fact]
    public void A_sound_file_is_told_to_be_sound_and_a_faulty_one_row_by_row()
    {
        Assert.Equal(0, Run("check", Room).Code);
        var package = ModelJson.Read(File.ReadAllBytes(Room)).Package!;
        var broken = Path.GetTempFileName();
        File.WriteAllText(broken, ModelJson.Write(package)
            .Replace("core.thickness >= duty.least_core", "core.thicknes >= duty.least_core", StringComparison.Ordinal));
        var (code, output, _) = Run("check", broken);
        Assert.Equal(2, code);
        Assert.Contains("error JF022: ", output);
        Assert.Contains("character 6", output);
        // The place is that of the expression in the file.
        var place = System.Text.RegularExpressions.Regex.Match(output, @":(\d+):(\d+): error JF022");
        Assert.StartsWith("\"core.thicknes >= duty",
            File.ReadAllLines(broken)[int.Parse(place.Groups[1].Value) - 1][(int.Parse(place.Groups[2].Value) - 1)..], StringComparison.Ordinal);
        var sarif = System.Text.Json.JsonDocument.Parse(Run("check", broken, "--format", "sarif").Output).RootElement.GetProperty("runs")[0]
            .GetProperty("results").EnumerateArray().ToList();
        Assert.Contains(sarif, r => r.GetProperty("ruleId").GetString() == "JF022"
            && r.GetProperty("locations")[0].GetProperty("physicalLocation").GetProperty("region").GetProperty("startLine").GetInt32() == int
            .Parse(place.Groups[1].Value));
        // Nothing is built of it, unless it is said to be a draft.
        var structure = Run("structure", broken, "--pick", "cooling.unit=C290-22");
        Assert.Equal((2, ""), (structure.Code, structure.Output));
        Assert.Contains("error JF022: ", structure.Errors);
        Assert.Contains("This is a draft: what is faulty is left out of it.", Run("structure", broken, "--pick", "cooling.unit=C290-22", "--draft").Errors);
        File.WriteAllText(broken, ModelJson.Write(package).Replace("core.thickness >= duty.least_core", "1 = 2", StringComparison.Ordinal));
        Assert.Equal((1, true), Run("check", broken) is var none
            ? (none.Code, none.Output.StartsWith("No configuration is possible. These cannot all hold:", StringComparison.Ordinal)) : default);
        File.WriteAllText(broken, "{\"model\": 1");
        Assert.Equal(2, Run("check", broken).Code);
        File.Delete(broken);
        Assert.Contains("cannot be read", Run("check", broken).Errors);
    }

    [Fact]
    public void Test_cases_are_run_reported_as_junit_and_recorded()
    {
        var curtain = Path.Combine(Path.GetDirectoryName(Room)!, "strip-curtain.json");
        var (changed, report) = (Path.GetTempFileName(), Path.GetTempFileName());
        var (code, output, _) = Run("test", curtain, "--coverage", "--junit", report);
        Assert.Equal((0, true), (code, output.EndsWith("19 of 19 cases passed.\n", StringComparison.Ordinal)));
        Assert.Contains("Rule: 4 of 4 reached", output);
        var suite = System.Xml.Linq.XDocument.Load(report).Root!.Element("testsuite")!;
        Assert.Equal(("19", "0"), (suite.Attribute("tests")!.Value, suite.Attribute("failures")!.Value));

        // A price that is raised: the case says what is expected and what came out, on the page of a build server, too.
        var written = File.ReadAllText(curtain);
        File.WriteAllText(changed, written.Replace("\"amount\": \"165 EUR\"", "\"amount\": \"1650 EUR\"", StringComparison.Ordinal));
        Assert.NotEqual(written, File.ReadAllText(changed));
        var failing = Run("test", changed, "--junit", report);
        Assert.Equal(1, failing.Code);
        Assert.Contains("failed   As suggested: List price: ", failing.Output);
        Assert.Contains("1650.00 EUR came out.", System.Xml.Linq.XDocument.Load(report).Descendants("failure").First().Attribute("message")!.Value);

        // What a case expects is recorded only where it expects nothing yet.
        var package = ModelJson.Read(File.ReadAllBytes(curtain)).Package!;
        var (first, second) = (package.Model.Cases[0], package.Model.Cases[1]);
        File.WriteAllText(changed, ModelJson.Write(package with { Model = package.Model with { Cases = [first with { Expected = [] }, second] } }));
        var recorded = ModelJson.Read(Encoding.UTF8.GetBytes(Run("test", changed, "--record").Output)).Package!.Model.Cases;
        Assert.Equal(second.Expected.AsEnumerable(), recorded[1].Expected);
        Assert.All(first.Expected.Where(e => e.Within is null), e => Assert.Contains(e, recorded[0].Expected));
        Assert.Equal(2, Run("test", changed + ".gone").Code);
        Assert.Equal(3, Run("test", Room, "--limit", "0").Code);
        File.Delete(changed);
        File.Delete(report);
    }

    [Fact]
    public void Picks_are_answered_with_what_is_left_and_what_follows()
    {
        var (code, output, _) = Answer("--pick", "duty=freezer");
        Assert.Equal(0, code);
        var core = Assert.Single(output.Split('\n'), l => l.StartsWith("core ", StringComparison.Ordinal));
        Assert.Contains("100 | 120 | 150", core);
        Assert.DoesNotContain("80 |", core);
        Assert.Contains("heat_load", output);
    }

    [Fact]
    public void Picks_that_cannot_stand_together_are_told_with_their_rules()
    {
        var (code, output, _) = Answer("--pick", "duty=deep_freezer", "--pick", "core=80");
        Assert.Equal(1, code);
        Assert.Contains("Clash: duty, core with §4", output);
    }

    [Fact]
    public void A_site_and_a_day_are_asked_for()
    {
        string Delivery(params string[] options) => Answer(options).Output.Split('\n').Single(l => l.StartsWith("delivery ", StringComparison.Ordinal));
        Assert.Contains("collected", Delivery("--site", "hal"));
        Assert.DoesNotContain("collected |", Delivery("--site", "TRN", "--date", "2027-03-01"));
        Assert.Contains("is to be had only until 2027-12-31", Answer("--date", "2028-01-01", "--pick", "outer_finish=galvanised").Errors);
    }

    [Theory]
    [InlineData("There is no site “MOON”; there are ELL, HAL, TRN.", "--site", "MOON")]
    [InlineData("“tomorrow” is not a day; days are written 2027-01-31.", "--date", "tomorrow")]
    [InlineData("'--pik'", "--pik", "a=b")]
    [InlineData("“duty” is not understood; it is written --pick NAME=VALUE.", "--pick", "duty")]
    [InlineData("juniperfall help answer says what there is.", "--pick")]
    [InlineData("“soon” is no time limit; it is a number of seconds up to 86400.", "--limit", "soon")]
    [InlineData("Pick 2 is of “duty”, which is picked already. Leave one of the two out.", "--pick", "duty=chill", "--pick", "DUTY=freezer")]
    [InlineData("Did you mean “length”?", "--pick", "lenght=3000")]
    [InlineData("Decimals are written with a point: 3000.5, not 3000,5.", "--pick", "length=3000,5")]
    public void Wrong_options_get_a_sentence_and_the_code_of_wrong_input(string sentence, params string[] options)
    {
        var (code, output, errors) = Answer(options);
        Assert.Equal((2, ""), (code, output));
        Assert.Contains(sentence, errors);
    }

    [Fact]
    public void A_structure_is_written_with_its_levels_or_says_what_it_lacks()
    {
        var (code, output, _) = Run("structure", Room, "--pick", "cooling.unit=C290-22", "--site", "HAL");
        Assert.Equal(0, code);
        Assert.Contains("PW-80", output);
        Assert.Matches(@"(?m)^    DS ", output);
        Assert.Matches(@"(?m)^  op +\d+", output);
        var open = Run("structure", Room, "--pick", "duty=freezer", "--pick", "cooling.refrigerant=R449A");
        Assert.Equal(1, open.Code);
        Assert.StartsWith("Still needed: ", open.Errors);
        Assert.Contains("cooling.unit", open.Errors);
    }

    [Fact]
    public void The_schema_is_the_published_one() =>
        Assert.Equal(File.ReadAllText(Path.Combine(Path.GetDirectoryName(Room)!, "..", "docs", "schema", "model.schema.json")), Run("schema").Output);

    [Fact]
    public void Reuse_takes_a_model_into_another_one_or_a_later_revision_in_its_place()
    {
        var cooling = Room.Replace("cold-room", "cooling-set", StringComparison.Ordinal);
        var again = Run("reuse", Room, cooling);
        Assert.Equal(0, again.Code);
        var reused = ModelJson.Read(Encoding.UTF8.GetBytes(again.Output)).Package!.Model.Reused.Single();
        Assert.Equal(("cs", "CS", 1), (reused.Id, reused.Code, reused.Revision));
        var later = Run("reuse", Room, cooling, "--entry", "cs", "--revision", "4");
        Assert.Equal(4, ModelJson.Read(Encoding.UTF8.GetBytes(later.Output)).Package!.Model.Reused.Single().Revision);
        Assert.Equal((2, "CR is this product, so it cannot be part of it."), Run("reuse", Room, Room) is var self ? (self.Code, self.Errors.Trim()) : default);
        Assert.Equal(2, Run("reuse", Room, cooling, "--revision", "0").Code);
        Assert.Equal(2, Run("reuse", Room, "nothing.json").Code);
    }

    [Fact]
    public void Every_command_explains_itself_and_exit_codes_are_those_of_the_documents()
    {
        var (code, all, _) = Run("--help");
        Assert.Equal(0, code);
        foreach (var command in new[] { "check", "answer", "analyze", "replay", "uvl", "reuse", "structure", "export", "import", "schema", "help",
            "completion" })
        {
            Assert.Matches($@"(?m)^\s+{command}\b", all);
            var help = Run("help", command);
            Assert.Equal((0, help.Output), Run(command, "--help") is var again ? (again.Code, again.Output) : default);
            Assert.Matches($@"(?m)^  \S+ {command}\b", help.Output);
        }
        Assert.Matches(@"^\d+\.\d+", Run("--version").Output);
        Assert.Equal((2, ""), Run() is var none ? (none.Code, none.Output) : default);
        Assert.Equal(2, Run("chekc", Room).Code);
        Assert.Contains("check", Run("[suggest:15]", "juniperfall che").Output);
        Assert.Contains("complete -o default", Run("completion", "bash").Output);
    }

    [Fact]
    public void A_model_can_come_from_standard_input()
    {
        Commands.StandardInput = () => new MemoryStream(File.ReadAllBytes(Room));
        try
        {
            Assert.Equal((0, true), Run("check", "-") is var sound ? (sound.Code, sound.Output.StartsWith("Sound: ", StringComparison.Ordinal)) : default);
            Assert.Equal(0, Run("answer", "-", "--pick", "duty=freezer").Code);
        }
        finally
        {
            Commands.StandardInput = Console.OpenStandardInput;
        }
    }

    [Theory]
    [InlineData("answer", "--limit", "0")]
    [InlineData("check", "--limit", "0")]
    [InlineData("structure", "--limit", "0", "--pick", "cooling.unit=C290-22")]
    [InlineData("analyze", "--limit", "0")]
    public void A_time_limit_holds_for_every_command_and_what_it_leaves_open_is_never_called_invalid(string command, params string[] options)
    {
        var (code, output, errors) = Run([command, Room, .. options]);
        Assert.Equal(3, code);
        Assert.DoesNotContain("No configuration is possible", output + errors);
        Assert.DoesNotContain("\"valid\":false", output);
    }

    [Theory]
    [InlineData("\"root\": \"r\"", "\"root\": \"x\"", "JF100", "The model has no assembly “x” that is the product itself.")]
    [InlineData("\"id\": \"w\"", "\"id\": \"\"", "JF102", "has no id")]
    [InlineData("\"name\": \"w\"", "\"name\": \"\"", "JF089", "A name needs at least one character")]
    [InlineData("[\"1\", \"2\"]", "[\"1\", \"2\", \"3\"]", "JF101", "Row 1 has 3 cells, and there are 2 columns.")]
    [InlineData("\"item\": \"X\"", "\"item\": \"GONE\"", "JF085", "There is no item “GONE”")]
    [InlineData("\"position\": 20", "\"position\": 10", "JF080", "Position 10 is there twice.")]
    [InlineData("\"amount\": \"5 EUR\"", "\"amount\": \"5 mm\"", "JF", "a length")]
    [InlineData("\"unit\": \"mm\"", "\"unit\": \"furlong\"", "JF026", "furlong")]
    [InlineData("w <= 900 mm", "w <= 900 kg", "JF041", "compared")]
    public void What_makes_a_model_unsound_is_a_fault_at_its_place_and_nothing_is_built_of_it(string sound, string faulty, string id, string sentence)
    {
        const string model = """
            {"model": {"format": "juniperfall-model/1", "id": "m", "code": "CR", "root": "r", "assemblies":
            [{"id": "r", "name": "room", "topics": [{"id": "t", "rows": [
            {"kind": "attribute", "id": "w", "name": "w", "attributeKind": "quantity", "unit": "mm", "min": "600", "max": "1200",
             "step": "50", "required": true},
            {"kind": "attribute", "id": "n", "name": "n", "attributeKind": "whole", "min": "1", "max": "3", "required": true},
            {"kind": "statement", "id": "s", "expression": "w <= 900 mm"},
            {"kind": "grid", "id": "g", "name": "g", "columns": [{"id": "c1", "name": "n", "reference": "n"}, {"id": "c2", "name": "f"}],
             "rows": [{"id": "g1", "cells": ["1", "2"]}, {"id": "g2", "cells": ["2 | 3"]}]},
            {"kind": "part", "id": "p", "item": "X", "position": 10},
            {"kind": "part", "id": "q", "item": "Y", "position": 20}, {"kind": "price", "id": "e", "amount": "5 EUR"}
            ]}]}]}, "library": {"items": {"X": {"number": "X"}, "Y": {"number": "Y"}}}}
            """;
        var path = Path.GetTempFileName();
        try
        {
            File.WriteAllText(path, model);
            Assert.Equal((0, true), Run("check", path) is var fine ? (fine.Code, fine.Output.StartsWith("Sound", StringComparison.Ordinal)) : default);
            Assert.Contains(sound, model, StringComparison.Ordinal);
            File.WriteAllText(path, model.Replace(sound, faulty, StringComparison.Ordinal));
            var (code, output, _) = Run("check", path);
            Assert.Equal(2, code);
            Assert.Contains(output.Split('\n'), l =>
                l.Contains(sentence, StringComparison.Ordinal) && l.Contains(id, StringComparison.Ordinal)
                && l.StartsWith(path + ":", StringComparison.Ordinal));
            var built = Run("structure", path, "--pick", "w=600", "--pick", "n=1");
            Assert.Equal((2, ""), (built.Code, built.Output));
        }
        finally
        {
            File.Delete(path);
        }
    }
}
