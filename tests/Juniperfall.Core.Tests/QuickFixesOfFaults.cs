using System.Collections.Immutable;
using Juniperfall.Core.Language;
using Juniperfall.Core.Models.Binding;
using Juniperfall.Core.Models.Document;

namespace Juniperfall.Core.Tests;

/// <summary>Faults with an obvious mending are mended by one click, and nothing is offered that leaves the text as faulty.</summary>
public class QuickFixesOfFaults
{
    private static readonly BoundModel Model = new(new()
    {
        Id = "m",
        Code = "CR",
        Root = "room",
        Lists =
        [
            new() { Id = "colours", Name = "colours", Values = [Of("blue"), Of("light grey"), Of("white")] },
            new() { Id = "extras", Name = "extras", Values = [Of("basket"), Of("lamp")] },
        ],
        Assemblies =
        [
            SmallModels.Assembly("room", SmallModels.Length("width", 600, 1200, 50), SmallModels.Length("clear height", 600, 1200, 50),
                SmallModels.YesNo("window"), SmallModels.Choice("core"),
                new AttributeRow { Id = "colour", Name = "colour", Kind = AttributeKind.Choice, ListId = "colours", Required = false },
                new AttributeRow { Id = "extra", Name = "extras", Kind = AttributeKind.Several, ListId = "extras" },
                SmallModels.Computed("door_area", "width * width")),
        ],
    }, SmallModels.Facts);

    private static ListValue Of(string code) => new() { Id = "v " + code, Code = code };

    private static AssemblyDefinition Room => Model.Index.Assemblies[Model.Document.Root];

    private static IEnumerable<TextFix> FixesOf(string text, ImmutableArray<Diagnostic> faults) => QuickFixes
        .For(text, faults, Model.Index, Room, t => Model.Check(Room, t, ExpressionType.YesNo).Diagnostics.Length).SelectMany(f => f);

    private static List<string> Fixes(string text)
    {
        var faults = Model.Check(Room, text, ExpressionType.YesNo).Diagnostics;
        Assert.NotEmpty(faults);
        return [.. FixesOf(text, faults).Select(f => f.Text)];
    }

    [Theory]
    [InlineData("width <= 900", "width <= 900 mm")]
    [InlineData("width + 50 <= 900 mm", "width + 50 mm <= 900 mm")]
    [InlineData("blue", "colour = blue")]
    [InlineData("window and 'light grey'", "window and colour = 'light grey'")]
    [InlineData("colour = light grey", "colour = 'light grey'")]
    [InlineData("clear height > 900 mm", "'clear height' > 900 mm")]
    [InlineData("door area > 1 m2", "door_area > 1 m2")]
    [InlineData("colour = not none", "colour <> none")]
    [InlineData("colour not none", "colour <> none")]
    [InlineData("extras = basket", "extras has basket")]
    [InlineData("extras <> basket", "not (extras has basket)")]
    [InlineData("colour has blue", "colour = blue")]
    [InlineData("basket", "extras has basket")]
    [InlineData("widht > 900 mm", "width > 900 mm")]
    [InlineData("(window or (colour = blue)", "(window or (colour = blue))")]
    [InlineData("colour == blue", "colour = blue")]
    [InlineData("window && colour = blue", "window  and  colour = blue")]
    [InlineData("width =< 900 mm", "width <= 900 mm")]
    [InlineData("colour = 'blue", "colour = 'blue'")]
    public void What_was_meant_is_offered(string text, string meant) => Assert.Contains(meant, Fixes(text));

    [Fact]
    public void What_is_offered_leaves_fewer_faults_whatever_is_written()
    {
        string[] pieces = ["width", "clear", "height", "window", "colour", "extras", "blue", "light", "grey", "basket", "core",
            "=", "<>", "<=", "has", "not", "none", "and", "or", "(", ")", "900", "50 mm", "'", "==", "≤", "widht", "+", "*", "if", "then", ",", "80"];
        var random = new Random(5);
        var offered = 0;
        for (var round = 0; round < 3_000; round++)
        {
            var text = string.Join(' ', Enumerable.Range(0, random.Next(1, 9)).Select(_ => pieces[random.Next(pieces.Length)]));
            var faults = Model.Check(Room, text, ExpressionType.YesNo).Diagnostics;
            foreach (var fix in FixesOf(text, faults))
            {
                Assert.True(Model.Check(Room, fix.Text, ExpressionType.YesNo).Diagnostics.Length < faults.Length, $"{text} → {fix.Text}");
                offered++;
            }
        }
        Assert.True(offered > 500, $"{offered} offered");
    }
}
