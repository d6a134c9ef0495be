using Juniperfall.Core.Language;

namespace Juniperfall.Core.Tests;

/// <summary>What is offered at the bar, in the demo's cold room.</summary>
public class CompletionAtTheCursor
{
    private static CompletionResult At(string text)
    {
        var index = DemoModel.Room.Value.Model.Index;
        return Completion.At(text.Replace("|", ""), text.IndexOf('|'), index, index.Root!);
    }

    [Theory]
    [InlineData("duty = |", "freezer")]
    [InlineData("duty <> fr|", "freezer")]
    [InlineData("duty in (chill, |", "freezer")]
    [InlineData("duty not in (chill, fre|", "freezer")]
    [InlineData("core = |", "'80'")]
    [InlineData("length > 2 m and core.th|", "thickness")]
    [InlineData("doors.|", "clear_width")]
    [InlineData("doors[1].clear_w|", "clear_width")]
    [InlineData("doors[1].kind = sl|", "sliding")]
    [InlineData("accessories has bu|", "bumpers")]
    [InlineData("spans.|", "longest")]
    [InlineData("length + 50 |", "mm")]
    [InlineData("lengt|", "length")]
    [InlineData("2 * ce|", "ceil(")]
    [InlineData("duty = chill a|", "and")]
    [InlineData("if (|", "redundant")]
    public void The_first_words_offered_include_what_is_meant(string text, string expected) =>
        Assert.Contains(expected, At(text).Items.Take(12).Concat(text.EndsWith("(|", StringComparison.Ordinal) ? At(text).Items : []).Select(i => i.Text));

    [Fact]
    public void Only_what_can_stand_there_is_offered()
    {
        Assert.All(At("core.|").Items, i => Assert.Equal(CompletionKind.Property, i.Kind));
        Assert.All(At("length + 50 |").Items, i => Assert.Equal(CompletionKind.Unit, i.Kind));
        Assert.Empty(At("length.|").Items);
        Assert.Equal(new Span(7, 2), At("duty = fr|").Replaces);
        Assert.DoesNotContain(At("length > |").Items, i => i.Kind == CompletionKind.Value);
    }

    [Theory]
    [InlineData("'|")]
    [InlineData("length > (((|")]
    [InlineData("..|")]
    [InlineData("]|")]
    [InlineData("= |")]
    public void Unfinished_and_faulty_texts_do_no_harm(string text) => Assert.NotNull(At(text).Items.ToString());
}
