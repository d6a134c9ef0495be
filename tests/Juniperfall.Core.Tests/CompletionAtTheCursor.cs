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

    /// <summary>Within a text stand the numbers of items and the codes of work centres, by number or by what they are called.</summary>
    [Theory]
    [InlineData("\"gsk|", "\"GSK-D\"", 0, 4)]
    [InlineData("if redundant then \"door gas|\" else \"\"", "\"GSK-D\"", 18, 10)]
    [InlineData("\"door bench|", "\"DOOR\"", 0, 11)]
    public void A_text_is_completed_from_the_register(string text, string expected, int start, int length)
    {
        var result = At(text);
        Assert.Contains(expected, result.Items.Select(i => i.Text));
        Assert.All(result.Items, i => Assert.True(i.Kind is CompletionKind.Item or CompletionKind.WorkCentre));
        Assert.Equal(new Span(start, length), result.Replaces);
        // Behind a text that is closed stands what can follow it.
        Assert.DoesNotContain(At("\"GSK-D\"|").Items, i => i.Kind == CompletionKind.Item);
        Assert.InRange(At("\"|").Items.Length, 30, 60);
    }

    [Theory]
    [InlineData("'|")]
    [InlineData("length > (((|")]
    [InlineData("..|")]
    [InlineData("]|")]
    [InlineData("= |")]
    public void Unfinished_and_faulty_texts_do_no_harm(string text) => Assert.NotNull(At(text).Items.ToString());
}
