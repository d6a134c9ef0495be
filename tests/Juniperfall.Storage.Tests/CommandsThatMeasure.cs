using System.Text.Json;
using Juniperfall.Formats;
using static Juniperfall.Storage.Tests.CommandsOnFiles;

namespace Juniperfall.Storage.Tests;

/// <summary>The commands for what the literature measures, on the door of the demo.</summary>
public sealed class CommandsThatMeasure
{
    private static readonly string Door = Path.Combine(Path.GetDirectoryName(CommandsOnTheDatabase.Demo())!, "door-set.json");

    private static JsonElement Asked(int code, params string[] arguments)
    {
        var (actual, output, errors) = Run(arguments);
        Assert.True(actual == code, $"{actual} {errors}");
        return JsonDocument.Parse(output).RootElement;
    }

    [Fact]
    public void A_model_is_measured_beside_picks()
    {
        var door = Asked(0, "measure", Door, "--pick", "kind=sliding", "--above", "kind", "clear_width");
        Assert.True(door.GetProperty("exact").GetBoolean());
        Assert.Equal("DS", door.GetProperty("above").GetString());
        Assert.Equal("DS", Assert.Single(door.GetProperty("roots").EnumerateArray()).GetString());
        var features = door.GetProperty("features").EnumerateArray().ToDictionary(f => f.GetProperty("feature").GetString()!);
        string? Of(string feature, string member) => features[feature].GetProperty(member).GetString();
        Assert.Equal(("core", "1"), (Of("kind=sliding", "presence"), Of("kind=sliding", "commonality")));
        Assert.Equal(("dead", "0"), (Of("kind=hinged", "presence"), Of("kind=hinged", "configurations")));
        // Below zero the frame is heated.
        Assert.Contains("heated=true", features["below_zero=true"].GetProperty("implies").EnumerateArray().Select(f => f.GetString()));
        Assert.Contains("heated=false", features["below_zero=true"].GetProperty("excludes").EnumerateArray().Select(f => f.GetString()));
        // What one count says the other does.
        var counted = Asked(0, "analyze", Door, "--pick", "kind=sliding", "--count").GetProperty("count").GetProperty("value").GetString();
        Assert.Equal(counted, door.GetProperty("configurations").GetString());
        Assert.Contains("There is no attribute “nothing”", Run("measure", Door, "--above", "kind", "nothing").Errors);
    }

    [Fact]
    public void Steps_lead_from_one_configuration_to_another()
    {
        string[] start = ["--pick", "below_zero=no", "--pick", "heated=no", "--pick", "kind=hinged", "--pick", "window=no"];
        var way = Asked(0, ["steps", Door, .. start, "--to", "below_zero=yes", "--changes", "1"]);
        // The frame has to be heated before it can stand below zero.
        var changes = way.GetProperty("changes").EnumerateArray().Select(c => Assert.Single(c.EnumerateArray()).GetString()).ToList();
        Assert.True(changes.IndexOf("heated=true") < changes.IndexOf("below_zero=true") && changes.Count >= 2, string.Join(", ", changes));
        Assert.Equal(changes.Count + 1, way.GetProperty("steps").GetArrayLength());
        var none = Asked(1, ["steps", Door, .. start, "--to", "below_zero=yes", "--changes", "1", "--steps", "1"]);
        Assert.Equal(JsonValueKind.Null, none.GetProperty("steps").ValueKind);
        Assert.Equal(2, Run("steps", Door, "--to", "below_zero=maybe").Code);
        Assert.Equal(2, Run("steps", Door).Code);
    }

    [Fact]
    public void An_edit_is_called_by_what_it_does_to_the_configurations()
    {
        var text = ModelJson.Write(ModelJson.Read(File.ReadAllBytes(Door)).Package!);
        string Edited(Func<string, string> edit)
        {
            var file = Path.GetTempFileName();
            File.WriteAllText(file, edit(text));
            Assert.NotEqual(text, File.ReadAllText(file));
            return file;
        }
        var tighter = Edited(t => t.Replace("clear_width >= 900 mm", "clear_width >= 1000 mm", StringComparison.Ordinal));
        var both = Edited(t => t.Replace("clear_width >= 900 mm", "clear_width >= 1000 mm", StringComparison.Ordinal)
            .Replace("clear_width <= 800 mm", "clear_width <= 700 mm", StringComparison.Ordinal));
        try
        {
            string? Relation(string before, string after) => Asked(0, "difference", before, after).GetProperty("relation").GetString();
            var same = Edited(t => t.Replace("clear_width >= 900 mm", "not (clear_width < 900 mm)", StringComparison.Ordinal));
            Assert.Equal("refactoring", Relation(Door, same));
            Assert.Equal("specialization", Relation(Door, tighter));
            Assert.Equal("generalization", Relation(tighter, Door));
            Assert.NotNull(Relation(Door, both));
            var lost = Asked(0, "difference", Door, tighter).GetProperty("allowedBeforeOnly").GetProperty("values");
            Assert.Equal("sliding", lost.GetProperty("kind").GetString());
        }
        finally
        {
            File.Delete(tighter);
            File.Delete(both);
        }
    }
}
