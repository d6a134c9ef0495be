using System.Text.Json;
using Juniperfall.Cli;

namespace Juniperfall.Storage.Tests;

/// <summary>analyze and replay: the JSON that docs/cli.md promises, and its exit codes.</summary>
public sealed class AnalyzeOnFiles : IDisposable
{
    private static readonly string Room = CommandsOnTheDatabase.Demo();
    private readonly string _folder = Directory.CreateTempSubdirectory("juniperfall").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string File(string name, string text)
    {
        var path = Path.Combine(_folder, name);
        System.IO.File.WriteAllText(path, text);
        return path;
    }

    private string Uvl() => File("room.uvl", """
        features
            Room
                mandatory
                    Duty
                        alternative
                            Chill
                            Freezer {cost 900}
                optional
                    Ramp {cost 120}
                    Heater {cost 80}
        constraints
            Freezer => Heater
            sum(cost) <= 1000
        """);

    private static (int Code, JsonElement Answer, string Errors) Analyze(string file, params string[] options)
    {
        var (output, errors) = (new StringWriter(), new StringWriter());
        var code = CommandsOnFiles.RunInto(["analyze", file, .. options], output, errors);
        return (code, output.ToString() is { Length: > 0 } text ? JsonDocument.Parse(text).RootElement : default, errors.ToString());
    }

    [Fact]
    public void A_uvl_file_is_answered_with_states_values_reasons_and_ways_out()
    {
        var (code, answer, _) = Analyze(Uvl(), "--pick", "Freezer=true", "--why", "Ramp=true", "--ways-out", "Ramp=true", "--complete");
        Assert.Equal(0, code);
        var attributes = answer.GetProperty("attributes");
        Assert.Equal("""{"state":"follows","value":true,"available":[true]}""", attributes.GetProperty("Heater").GetRawText());
        Assert.Equal("""{"state":"picked","value":true,"available":[true],"alternatives":[false,true]}""", attributes.GetProperty("Freezer").GetRawText());
        Assert.Equal("""["Freezer=true"]""", answer.GetProperty("why").GetProperty("picks").GetRawText());
        // A freezer and a ramp cost too much together.
        Assert.Equal("""["L13"]""", answer.GetProperty("why").GetProperty("rules").GetRawText());
        Assert.Contains("cannot be had, because Freezer=true is picked", answer.GetProperty("why").GetProperty("text").GetString());
        Assert.Equal("""[[{"name":"Freezer","from":true,"to":false}]]""", answer.GetProperty("waysOut").GetRawText());
        Assert.True(answer.GetProperty("complete").GetProperty("values").GetProperty("Room").GetBoolean());
        Assert.True(answer.GetProperty("exact").GetBoolean());
        Assert.True(answer.GetProperty("ms").GetProperty("answer").GetDouble() > 0);
    }

    [Fact]
    public void Picks_that_clash_name_the_picks_and_the_rules_and_the_exit_code_says_so()
    {
        var (code, answer, _) = Analyze(Uvl(), "--pick", "Freezer=true", "--pick", "Heater=false", "--ways-out");
        Assert.Equal(1, code);
        Assert.False(answer.GetProperty("valid").GetBoolean());
        Assert.Equal("""{"picks":["Freezer=true","Heater=false"],"rules":["L12"]}""", answer.GetProperty("clash").GetRawText());
        Assert.Equal("clash", answer.GetProperty("attributes").GetProperty("Heater").GetProperty("state").GetString());
        Assert.Equal("Heater", answer.GetProperty("waysOut")[0][0].GetProperty("name").GetString());
    }

    [Fact]
    public void Wrong_input_is_told_and_a_time_limit_that_was_reached_is_no_answer()
    {
        Assert.Equal((2, true), Analyze(Uvl(), "--pick", "Heatr=true") is var (code, _, errors)
            ? (code, errors.Contains("Did you mean “heater”?", StringComparison.Ordinal)) : default);
        Assert.Equal(2, Analyze(Uvl(), "--frob").Code);
        Assert.Equal((2, true), Analyze(File("bad.uvl", "features\n    A\n    B\n")) is var (bad, _, told)
            ? (bad, told.Contains("Line 3: There is one root feature.", StringComparison.Ordinal)) : default);
        Assert.Equal(2, Analyze(Path.Combine(_folder, "none.uvl")).Code);
        var (late, answer, _) = Analyze(Room, "--limit", "0");
        Assert.Equal(3, late);
        Assert.False(answer.GetProperty("exact").GetBoolean());
    }

    [Fact]
    public void The_lowest_number_is_proven_and_nothing_found_is_lower()
    {
        var (code, answer, _) = Analyze(Room.Replace("cold-room", "strip-curtain", StringComparison.Ordinal), "--complete", "lowest:strip_count");
        Assert.Equal(0, code);
        var complete = answer.GetProperty("complete");
        Assert.True(complete.GetProperty("proven").GetBoolean());
        // By hand: strips of 400 mm that overlap by a third stand every 266.7 mm; in a reveal of 1,200 mm there are (1,200 - 400) / 266.7 + 1 = 4 of them.
        // A narrower opening would take fewer, but the opening is given.
        Assert.Equal(("4", "1200", "s400", "reveal"),
            (complete.GetProperty("number").GetString(), complete.GetProperty("values").GetProperty("width").GetString(),
            complete.GetProperty("values").GetProperty("strip").GetString(), complete.GetProperty("values").GetProperty("mount").GetString()));
        Assert.Equal(2, Analyze(Room, "--complete", "lowest:nothing").Code);
    }

    [Fact]
    public void Configurations_are_counted_explored_and_sampled_and_the_model_is_examined()
    {
        var (code, answer, _) = Analyze(Uvl(), "--count", "--explore", "2", "--pairs", "--health");
        Assert.Equal(0, code);
        // Chill alone, with ramp, heater or both; freezer with its heater.
        Assert.Equal("""{"value":"5","exact":true}""", answer.GetProperty("count").GetRawText());
        Assert.Equal("""[{"Room":true,"Duty":true,"Chill":false,"Freezer":true,"Ramp":false,"Heater":true},{"Room":true,"Duty":true,"Chill":true,"Freezer":false,"Ramp":false,"Heater":false}]""", answer.GetProperty("explored").GetRawText());
        var pairs = answer.GetProperty("pairs").EnumerateArray()
            .Select(p => (Ramp: p.GetProperty("Ramp").GetBoolean(), Heater: p.GetProperty("Heater").GetBoolean())).ToHashSet();
        Assert.Equal(4, pairs.Count);
        var findings = answer.GetProperty("health").GetProperty("findings").EnumerateArray()
            .Select(f => $"{f.GetProperty("kind").GetString()} {f.GetProperty("row").GetString()}").ToList();
        Assert.Contains("valueAlways f0", findings);
        Assert.Equal("1", Analyze(Uvl(), "--count", "--pick", "Freezer=true").Answer.GetProperty("count").GetProperty("value").GetString());
    }

    [Fact]
    public void The_cheapest_structure_is_found_and_a_model_is_written_as_uvl()
    {
        var (code, answer, _) = Analyze(Room, "--pick", "duty=freezer", "--pick", "doors[1].kind=sliding", "--complete", "lowest:cost");
        Assert.Equal((0, true), (code, answer.GetProperty("complete").GetProperty("proven").GetBoolean()));
        var (output, errors) = (new StringWriter(), new StringWriter());
        Assert.Equal(0, CommandsOnFiles.RunInto(["uvl", Room], output, errors));
        Assert.StartsWith("features\n    CR\n", output.ToString());
        Assert.Contains("“length” is a quantity", errors.ToString());
        Assert.Equal(0, Analyze(File("written.uvl", output.ToString()), "--pick", "duty_freezer=true").Code);
    }

    [Fact]
    public void A_replay_answers_line_by_line_and_goes_on_after_a_bad_one()
    {
        var picks = File("picks.jsonl", """
            []
            [{"name": "Freezer", "value": true}]
            [{"name": "Freezer", "value": "perhaps"}]
            nonsense
            {"name": "Freezer"}
            [{"name": "Ramp", "value": true}]
            """);
        var (output, errors) = (new StringWriter(), new StringWriter());
        Assert.Equal(0, CommandsOnFiles.RunInto(["replay", Uvl(), picks], output, errors));
        var lines = output.ToString().Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonDocument.Parse(l).RootElement).ToList();
        Assert.Equal(6, lines.Count);
        Assert.Equal([false, false, true, true, true, false], lines.Select(l => l.TryGetProperty("error", out _)));
        Assert.Equal(JsonValueKind.Number, lines[1].GetProperty("ms").ValueKind);
        Assert.Equal("""{"state":"follows","value":false,"available":[false]}""", lines[5].GetProperty("attributes").GetProperty("Freezer").GetRawText());
        Assert.Equal(2, CommandsOnFiles.RunInto(["replay", Uvl(), Path.Combine(_folder, "none.jsonl")], output, errors));
    }
}
