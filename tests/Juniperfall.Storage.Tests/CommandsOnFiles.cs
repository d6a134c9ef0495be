using System.Text;
using Juniperfall.Cli;
using Juniperfall.Formats;

namespace Juniperfall.Storage.Tests;

/// <summary>The commands that need no database, on the demo file: what they write, and what they answer to wrong input.</summary>
public sealed class CommandsOnFiles
{
    private static readonly string Room = CommandsOnTheDatabase.Demo();

    private static (int Code, string Output, string Errors) Run(Func<TextWriter, TextWriter, int> command)
    {
        var (output, errors) = (new StringWriter(), new StringWriter());
        return (command(output, errors), output.ToString(), errors.ToString());
    }

    private static (int Code, string Output, string Errors) Answer(params string[] options) => Run((o, e) => Commands.Answer(Room, options, o, e));

    [Fact]
    public void A_sound_file_is_told_to_be_sound_and_a_faulty_one_row_by_row()
    {
        Assert.Equal(0, Run((o, e) => Commands.Check(Room, o, e)).Code);
        var package = ModelJson.Read(File.ReadAllBytes(Room)).Package!;
        var broken = Path.GetTempFileName();
        File.WriteAllText(broken, ModelJson.Write(package).Replace("core.thickness >= duty.least_core", "core.thicknes >= duty.least_core", StringComparison.Ordinal));
        var (code, output, _) = Run((o, e) => Commands.Check(broken, o, e));
        Assert.Equal(2, code);
        Assert.Contains("JF022 ", output);
        Assert.Contains("character 6", output);
        File.WriteAllText(broken, ModelJson.Write(package).Replace("core.thickness >= duty.least_core", "1 = 2", StringComparison.Ordinal));
        Assert.Equal((1, true), Run((o, e) => Commands.Check(broken, o, e)) is var none ? (none.Code, none.Output.StartsWith("No configuration is possible. These cannot all hold:", StringComparison.Ordinal)) : default);
        File.WriteAllText(broken, "{\"model\": 1");
        Assert.Equal(2, Run((o, e) => Commands.Check(broken, o, e)).Code);
        File.Delete(broken);
        Assert.Contains("cannot be read", Run((o, e) => Commands.Check(broken, o, e)).Errors);
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
    [InlineData("“--pik” is not understood; picks are written --pick NAME=VALUE.", "--pik", "a=b")]
    [InlineData("“--pick” is not understood; picks are written --pick NAME=VALUE.", "--pick")]
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
        var (code, output, _) = Run((o, e) => StructureCommand.Structure(Room, ["--pick", "cooling.unit=C290-22", "--site", "HAL"], o, e));
        Assert.Equal(0, code);
        Assert.Contains("PW-80", output);
        Assert.Matches(@"(?m)^    DS ", output);
        Assert.Matches(@"(?m)^  op +\d+", output);
        var open = Run((o, e) => StructureCommand.Structure(Room, ["--pick", "duty=freezer", "--pick", "cooling.refrigerant=R449A"], o, e));
        Assert.Equal(1, open.Code);
        Assert.StartsWith("Still needed: ", open.Errors);
        Assert.Contains("cooling.unit", open.Errors);
    }

    [Fact]
    public void The_schema_is_the_published_one() =>
        Assert.Equal(File.ReadAllText(Path.Combine(Path.GetDirectoryName(Room)!, "..", "docs", "schema", "model.schema.json")), Run((o, _) => Commands.Schema(false, o)).Output);

    [Fact]
    public void Reuse_takes_a_model_into_another_one_or_a_later_revision_in_its_place()
    {
        var cooling = Room.Replace("cold-room", "cooling-set", StringComparison.Ordinal);
        var again = Run((o, e) => ReuseCommand.Run(Room, cooling, [], o, e));
        Assert.Equal(0, again.Code);
        var reused = ModelJson.Read(Encoding.UTF8.GetBytes(again.Output)).Package!.Model.Reused.Single();
        Assert.Equal(("cs", "CS", 1), (reused.Id, reused.Code, reused.Revision));
        var later = Run((o, e) => ReuseCommand.Run(Room, cooling, ["--entry", "cs", "--revision", "4"], o, e));
        Assert.Equal(4, ModelJson.Read(Encoding.UTF8.GetBytes(later.Output)).Package!.Model.Reused.Single().Revision);
        Assert.Equal((2, "CR is this product, so it cannot be part of it."), Run((o, e) => ReuseCommand.Run(Room, Room, [], o, e)) is var self ? (self.Code, self.Errors.Trim()) : default);
        Assert.Equal(2, Run((o, e) => ReuseCommand.Run(Room, cooling, ["--revision", "0"], o, e)).Code);
        Assert.Equal(2, Run((o, e) => ReuseCommand.Run(Room, "nothing.json", [], o, e)).Code);
    }
}
